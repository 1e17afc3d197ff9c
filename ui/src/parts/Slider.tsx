import { Slider as Radix } from 'radix-ui';
import { required } from '../lib/required';

type Props = { label: string; value: number; least: number; most: number; step?: number; change: (n: number) => void };

/** A number within bounds, set by hand or with the arrows. */
export function Slider({ label, value, least, most, step = 1, change }: Props) {
  return (
    <Radix.Root
      value={[value]}
      min={least}
      max={most}
      step={step}
      onValueChange={([n]) => change(required(n))}
      className="relative inline-flex h-6 w-36 touch-none items-center align-middle select-none"
    >
      <Radix.Track className="relative h-1 grow rounded-full bg-edge">
        <Radix.Range className="absolute h-full rounded-full bg-moss" />
      </Radix.Track>
      <Radix.Thumb aria-label={label} className="block size-4 cursor-grab rounded-full border-2 border-moss bg-sheet" />
    </Radix.Root>
  );
}
