import { Tabs as Radix } from 'radix-ui';
import type { ReactNode } from 'react';

type Props<V extends string> = {
  label: string;
  value: V;
  change: (v: V) => void;
  tabs: readonly { value: V; words: ReactNode }[];
  /** Stands beside the tabs. */
  beside?: ReactNode;
  className?: string;
  /** How the panel is laid out. */
  panel?: string;
  children: ReactNode;
};

/** Ways to look at the same thing: arrows go from one to the next, the panel follows. */
export function Tabs<V extends string>({
  label,
  value,
  change,
  tabs,
  beside,
  className = '',
  panel = '',
  children,
}: Props<V>) {
  return (
    <Radix.Root value={value} onValueChange={(v) => change(v as V)} className={className}>
      <div className="flex flex-wrap items-baseline justify-between gap-x-4 gap-y-1 pb-2">
        <Radix.List aria-label={label} className="flex flex-wrap gap-x-4 gap-y-1">
          {tabs.map((t) => (
            <Radix.Trigger
              key={t.value}
              value={t.value}
              className="min-h-6 cursor-pointer border-b-2 border-transparent whitespace-nowrap text-soft
                hover:text-ink data-[state=active]:border-moss data-[state=active]:font-semibold
                data-[state=active]:text-ink"
            >
              {t.words}
            </Radix.Trigger>
          ))}
        </Radix.List>
        {beside}
      </div>
      <Radix.Content value={value} className={`outline-offset-2 ${panel}`} tabIndex={-1}>
        {children}
      </Radix.Content>
    </Radix.Root>
  );
}
