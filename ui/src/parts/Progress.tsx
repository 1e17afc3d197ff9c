import { Progress as Radix } from 'radix-ui';

/** How far something is, from 0 to 1; without a share it has begun. */
export function Progress({ label, share }: { label: string; share?: number }) {
  const part = Math.min(1, Math.max(0, share ?? 0.02));
  return (
    <Radix.Root
      value={share === undefined ? null : Math.round(100 * part)}
      aria-label={label}
      className="h-1.75 overflow-hidden rounded-full bg-line forced-colors:border"
    >
      <Radix.Indicator
        className="h-full bg-moss motion-safe:transition-[width] motion-safe:duration-200 forced-colors:bg-[Highlight]"
        style={{ width: `${100 * part}%` }}
      />
    </Radix.Root>
  );
}
