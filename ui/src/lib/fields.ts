import type { Field } from './api';

/** The values that a field offers; none where it holds any text or number. */
export const choicesOf = (f: Field) =>
  f.kind === 'list' ? f.choices : f.kind === 'yes or no' ? ['yes', 'no'] : undefined;

/** The values of a field that categories have, in its order, with none last. */
export function valuesOf(field: Field, of: { fields?: Record<string, string> }[]) {
  const there = new Set(of.map((l) => l.fields?.[field.name] ?? ''));
  const choices = choicesOf(field);
  const values = [...there].filter(Boolean);
  if (choices) values.sort((a, b) => choices.indexOf(a) - choices.indexOf(b));
  else if (field.kind === 'number') values.sort((a, b) => Number(a) - Number(b));
  else values.sort((a, b) => a.localeCompare(b));
  return there.has('') ? [...values, ''] : values;
}
