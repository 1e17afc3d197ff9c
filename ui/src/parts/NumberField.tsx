import { useEffect, useState } from 'react';
import { field } from './Text';

type Props = {
  label: string;
  value: number;
  least?: number;
  most?: number;
  step?: number;
  change: (n: number) => void;
  /** Its name is told, but not seen. */
  quiet?: boolean;
};

/** A field for a number within bounds, with its name before it; what is no number is put back on leaving. */
export function NumberField({ label, value, least = 0, most, step = 1, change, quiet }: Props) {
  const [typed, setTyped] = useState(String(value));
  useEffect(() => setTyped(String(value)), [value]);
  const within = (n: number) => Math.min(most ?? Number.MAX_SAFE_INTEGER, Math.max(least, n));
  return (
    <label>
      <span className={quiet ? 'sr-only' : ''}>{label} </span>
      <input
        className={field({ className: 'w-[4.8em]' })}
        type="number"
        min={least}
        max={most}
        step={step}
        value={typed}
        onChange={(e) => {
          setTyped(e.target.value);
          const n = e.target.valueAsNumber;
          if (Number.isFinite(n) && n === within(n)) change(n);
        }}
        onBlur={() => {
          const n = Number(typed);
          const put = typed.trim() && Number.isFinite(n) ? within(n) : value;
          setTyped(String(put));
          if (put !== value) change(put);
        }}
      />
    </label>
  );
}
