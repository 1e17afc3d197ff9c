import { Checkbox as RadixCheckbox, Switch as RadixSwitch } from 'radix-ui';

type Props = {
  checked: boolean;
  change: (on: boolean) => void;
  /** Its name, where no label stands around it. */
  label?: string;
  id?: string;
  disabled?: boolean;
  /** It is no Tab stop of its own: the list that it stands in has a key for it. */
  stop?: boolean;
  'data-stop'?: string;
};

/** Ticks something. */
export function Checkbox({ checked, change, label, stop = true, ...more }: Props) {
  return (
    <RadixCheckbox.Root
      checked={checked}
      onCheckedChange={(on) => change(on === true)}
      aria-label={label}
      tabIndex={stop ? undefined : -1}
      className="relative inline-flex size-4 flex-none cursor-pointer items-center justify-center self-center
        rounded-sm border border-edge bg-sheet align-[-0.15em] after:absolute after:-inset-1 disabled:opacity-55
        data-[state=checked]:border-moss data-[state=checked]:bg-moss data-[state=checked]:text-onmoss"
      {...more}
    >
      <RadixCheckbox.Indicator className="text-xs leading-none font-bold">✓</RadixCheckbox.Indicator>
    </RadixCheckbox.Root>
  );
}

/** Turns something on or off, at once. */
export function Switch({ checked, change, label, stop = true, ...more }: Props) {
  return (
    <RadixSwitch.Root
      checked={checked}
      onCheckedChange={change}
      aria-label={label}
      tabIndex={stop ? undefined : -1}
      className="relative inline-flex h-4 w-7 flex-none cursor-pointer items-center self-center rounded-full border
        border-edge bg-sheet px-0.5 align-[-0.15em] after:absolute after:-inset-1 disabled:opacity-55
        data-[state=checked]:border-moss data-[state=checked]:bg-moss"
      {...more}
    >
      <RadixSwitch.Thumb
        className="block size-2.5 rounded-full bg-edge data-[state=checked]:translate-x-3
        data-[state=checked]:bg-onmoss motion-safe:transition-transform forced-colors:bg-[CanvasText]"
      />
    </RadixSwitch.Root>
  );
}
