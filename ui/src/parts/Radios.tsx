import { RadioGroup as Radix } from 'radix-ui';
import { useId } from 'react';
import type { Option } from './Select';

type Props<V extends string> = {
  label: string;
  value: V;
  options: readonly Option<V>[];
  change: (v: V) => void;
};

/** One of a few that need a line each to be said. */
export function Radios<V extends string>({ label, value, options, change }: Props<V>) {
  const id = useId();
  return (
    <Radix.Root value={value} onValueChange={(v) => change(v as V)} aria-label={label} className="grid gap-1 py-1.5">
      {options.map((o) => (
        <label key={o.value} htmlFor={id + o.value} className="flex items-baseline gap-2">
          <Radix.Item
            id={id + o.value}
            value={o.value}
            className="relative inline-flex size-4 flex-none cursor-pointer items-center justify-center self-center
              rounded-full border border-edge bg-sheet after:absolute after:-inset-1 data-[state=checked]:border-moss"
          >
            <Radix.Indicator className="block size-2 rounded-full bg-moss forced-colors:bg-[CanvasText]" />
          </Radix.Item>
          {o.words}
        </label>
      ))}
    </Radix.Root>
  );
}
