import { useEffect, useState } from 'react';
import type { Field } from '../lib/api';
import { choicesOf } from '../lib/fields';
import { Select } from '../parts/Select';
import { TextField } from '../parts/Text';

type Props = {
  field: Field;
  value: string;
  change: (v: string) => void;
  /** It is part of a form: each letter counts, and Enter is the form's. */
  inForm?: boolean;
};

/** A value of a field. What is typed is taken by Enter, or when one goes on; Escape brings back what was there. */
export function FieldValue({ field, value, change, inForm }: Props) {
  const [typed, setTyped] = useState(value);
  useEffect(() => setTyped(value), [value]);
  const choices = choicesOf(field);
  if (choices)
    return (
      <Select
        label={field.name}
        value={value}
        change={change}
        options={[{ value: '', words: '–' }, ...choices.map((c) => ({ value: c, words: c }))]}
      />
    );
  const take = () => typed.trim() !== value && change(typed.trim());
  return (
    <TextField
      aria-label={field.name}
      className={field.kind === 'number' ? 'w-[5em]' : 'w-[10em]'}
      inputMode={field.kind === 'number' ? 'decimal' : undefined}
      value={typed}
      placeholder="–"
      onChange={(e) => {
        setTyped(e.target.value);
        if (inForm) change(e.target.value);
      }}
      onBlur={inForm ? undefined : take}
      onKeyDown={(e) => {
        if (inForm) return;
        if (e.key === 'Enter') {
          e.preventDefault();
          take();
        } else if (e.key === 'Escape' && typed !== value) {
          e.stopPropagation();
          setTyped(value);
        }
      }}
    />
  );
}
