import { Select as Radix } from 'radix-ui';
import { nonce } from '../lib/nonce';
import { Labelled } from './Text';

export type Option<V extends string> = { value: V; words: string; disabled?: boolean };

type Props<V extends string> = {
  /** What is chosen, in words. */
  label: string;
  value: V;
  options: readonly Option<V>[];
  change: (v: V) => void;
  disabled?: boolean;
  className?: string;
};

// Radix keeps the empty value for "nothing chosen".
const inside = (v: string) => `=${v}`;

/** One of a few; for many, use Combobox. */
export function Select<V extends string>({ label, value, options, change, disabled, className = '' }: Props<V>) {
  return (
    <Radix.Root value={inside(value)} onValueChange={(v) => change(v.slice(1) as V)} disabled={disabled}>
      <Radix.Trigger
        aria-label={label}
        data-value={value}
        className={`inline-flex max-w-full min-w-0 cursor-pointer items-baseline justify-between gap-1.5 rounded-sm
          border border-edge bg-sheet px-1.75 py-0.75 text-left text-ink disabled:opacity-55 ${className}`}
      >
        <span className="truncate">
          <Radix.Value />
        </span>
        <Radix.Icon className="text-xs text-soft">▾</Radix.Icon>
      </Radix.Trigger>
      <Radix.Portal>
        <Radix.Content
          position="popper"
          sideOffset={3}
          className="z-40 max-h-(--radix-select-content-available-height) max-w-[90vw]
            min-w-(--radix-select-trigger-width) overflow-hidden rounded-sm border border-edge bg-sheet shadow-over"
        >
          <Radix.Viewport nonce={nonce} className="py-1">
            {options.map((o) => (
              <Radix.Item
                key={o.value}
                value={inside(o.value)}
                disabled={o.disabled}
                className="cursor-pointer px-3 py-1 outline-none data-disabled:cursor-default data-disabled:opacity-55
                  data-highlighted:bg-mosspale data-[state=checked]:font-semibold
                  forced-colors:data-highlighted:outline"
              >
                <Radix.ItemText>{o.words}</Radix.ItemText>
              </Radix.Item>
            ))}
          </Radix.Viewport>
        </Radix.Content>
      </Radix.Portal>
    </Radix.Root>
  );
}

/** The same below its name. */
export const Choice = <V extends string>(props: Props<V>) => (
  <Labelled name={props.label}>
    <Select {...props} />
  </Labelled>
);

/** Numbers to choose from. */
export const numbers = (all: readonly number[]): Option<string>[] =>
  all.map((n) => ({ value: String(n), words: String(n) }));

/** Options from a list of words by value. */
export const optionsOf = <V extends string>(words: Record<V, string>): Option<V>[] =>
  (Object.entries(words) as [V, string][]).map(([value, w]) => ({ value, words: w }));
