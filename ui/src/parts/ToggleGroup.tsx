import { ToggleGroup as Radix } from 'radix-ui';
import type { Option } from './Select';

type Props<V extends string> = {
  label: string;
  value: V;
  options: readonly Option<V>[];
  change: (v: V) => void;
};

/** One of a few, all in sight. */
export function ToggleGroup<V extends string>({ label, value, options, change }: Props<V>) {
  return (
    <Radix.Root
      type="single"
      orientation="horizontal"
      aria-label={label}
      value={value}
      onValueChange={(v) => v && change(v as V)}
      className="inline-flex"
    >
      {options.map((o) => (
        <Radix.Item
          key={o.value}
          value={o.value}
          className="-ml-px cursor-pointer border border-moss px-2.5 py-0.75 whitespace-nowrap text-moss first:ml-0
            first:rounded-l-(--radius) last:rounded-r-(--radius) data-[state=on]:bg-moss data-[state=on]:text-onmoss
            forced-colors:data-[state=on]:underline"
        >
          {o.words}
        </Radix.Item>
      ))}
    </Radix.Root>
  );
}
