import { useAddress } from '../lib/address';
import type { Field, FrameLine } from '../lib/api';
import { valuesOf } from '../lib/fields';
import { many } from '../lib/format';
import { required } from '../lib/required';
import { Button } from '../parts/Button';
import { Select } from '../parts/Select';

/** Which categories the frame shows by their fields, and in whose order. */
export type ByField = {
  /** The field that orders them; none for the order of the frame. */
  order?: Field;
  /** The value that they have: empty for those that have none. */
  having?: { field: Field; value: string };
};

/** What the address says of fields; what it names and is not there counts as not said. */
export function useByField(fields: Field[]): ByField {
  const { get } = useAddress();
  const find = (name: string) => fields.find((f) => f.name === name);
  const having = fields.flatMap((field) => valuesIn(field, get('having')).map((value) => ({ field, value })))[0];
  return { order: find(get('order')), having };
}

const wordsOf = (f: Field, value: string) => `${f.name}: ${value || 'none'}`;

/** A value of a field as a word of the address, and back. */
const wordOf = (f: Field, value: string) => JSON.stringify([f.name, value]);
function valuesIn(f: Field, word: string): string[] {
  try {
    const [name, value] = JSON.parse(word) as unknown[];
    return name === f.name && typeof value === 'string' ? [value] : [];
  } catch {
    return [];
  }
}

/** The categories that have the value, in the order of the field. */
export function arranged(lines: FrameLine[], { order, having }: ByField) {
  const shown = having ? lines.filter((l) => (l.fields?.[having.field.name] ?? '') === having.value) : lines;
  return order
    ? valuesOf(order, shown).flatMap((v) => shown.filter((l) => (l.fields?.[order.name] ?? '') === v))
    : shown;
}

type Props = { fields: Field[]; lines: FrameLine[]; by: ByField; found: number };

/** Chooses the field that orders the frame, and the value that its categories have. */
export function ByFieldChoice({ fields, lines, by, found }: Props) {
  const { set } = useAddress();
  const having = by.having && wordOf(by.having.field, by.having.value);
  const values = fields.flatMap((f) =>
    valuesOf(f, lines)
      .slice(0, 40)
      .map((v) => ({ value: wordOf(f, v), words: wordsOf(f, v) })),
  );
  const options =
    values.some((o) => o.value === having) || !having
      ? values
      : [{ value: having, words: wordsOf(required(by.having).field, required(by.having).value) }, ...values];
  return (
    <>
      <div className="flex flex-wrap items-baseline gap-x-2.5 gap-y-1 pb-1.5 text-sm">
        <Select
          label="which categories"
          value={having ?? ''}
          change={(v) => set({ having: v }, true)}
          options={[{ value: '', words: 'all categories' }, ...options]}
        />
        <Select
          label="in order of"
          value={by.order?.name ?? ''}
          change={(v) => set({ order: v }, true)}
          options={[
            { value: '', words: 'in the frame’s order' },
            ...fields.map((f) => ({ value: f.name, words: `by ${f.name}` })),
          ]}
        />
      </div>
      {by.having && (
        <p className="pb-1 text-sm text-soft" role="status">
          {many(found, 'category', 'categories')} of {lines.length}.{' '}
          <Button look="plain" onClick={() => set({ having: '' }, true)}>
            Show all
          </Button>
        </p>
      )}
    </>
  );
}
