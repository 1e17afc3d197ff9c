/** A bar of a share from 0 to 1, with a line where all stands. */
export const Bar = ({ share, all }: { share: number; all?: number }) => (
  <div className="relative w-40 min-w-22" aria-hidden>
    <div className="h-2.25 bg-moss/60 forced-color-adjust-none" style={{ width: `${100 * share}%` }} />
    {all !== undefined && (
      <div
        className="absolute -top-0.75 h-3.75 w-[1.5px] bg-clay forced-color-adjust-none"
        style={{ left: `${100 * all}%` }}
      />
    )}
  </div>
);
