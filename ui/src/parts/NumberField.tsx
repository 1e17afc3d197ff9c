type Props = { label: string; value: number; least?: number; step?: number; change: (n: number) => void };

/** A field for a number that is at least something; what is no number counts as that. */
export const NumberField = ({ label, value, least = 0, step = 1, change }: Props) => (
  <label>
    {label}{' '}
    <input
      className="tiny"
      type="number"
      min={least}
      step={step}
      value={value || (least ? least : '')}
      onChange={(e) => change(Math.max(least, Number(e.target.value) || 0))}
    />
  </label>
);
