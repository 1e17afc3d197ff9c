import type { ReactNode } from 'react';
import type { Edit, Effect } from '../lib/api';
import { count, many } from '../lib/format';
import { useTry } from '../lib/queries';
import { Failed } from '../parts/Asked';
import { Table } from '../parts/Table';
import { Sentence } from '../parts/Text';

/** Previews an edit while it is being put together. */
export function useEffectOf(change: Edit | undefined, ready: boolean) {
  return useTry('edits/try', change as Edit, { enabled: ready && !!change });
}

/** What becomes of the base: the answers that say something. */
export const baseInWords = (e: Effect) =>
  e.answered === e.answeredBefore
    ? ''
    : `${many(Math.abs(e.answered - e.answeredBefore), 'answer')} ${e.answered > e.answeredBefore ? 'more' : 'fewer'} would say something: the base goes from ${count(e.answeredBefore)} to ${count(e.answered)}.`;

/** What an edit would change, in words; the edit itself is not made. */
export function EffectOf({ change, children }: { change?: Edit; children?: (e: Effect) => ReactNode }) {
  const preview = useEffectOf(change, !!change);
  const e = change && !preview.isPlaceholderData ? preview.data : undefined;
  if (!change) return null;
  if (preview.error && !preview.data) return <Failed error={preview.error} again={() => preview.refetch()} />;
  if (!e) return <Sentence>Working out what it would change…</Sentence>;
  const coded = e.coded - e.codedBefore;
  return (
    <>
      <Sentence role="status">
        {baseInWords(e)}{' '}
        {coded === 0
          ? 'As many answers are coded as before. '
          : coded > 0
            ? `${many(coded, 'answer')} more would be coded. `
            : `${many(-coded, 'answer')} would have no category any more. `}
        {e.categories.length === 0
          ? 'No category gains or loses an answer. '
          : `${many(e.categories.length, 'category', 'categories')} would gain or lose answers. `.replace(/^o/, 'O')}
        {children?.(e)}
      </Sentence>
      {e.categories.length > 0 && (
        <Table
          label="What categories gain and lose"
          rows={e.categories.slice(0, 12)}
          id={(c) => c.id}
          columns={[
            { key: 'category', name: 'category', head: true, cell: (c) => c.name },
            {
              key: 'gains',
              name: 'gains',
              told: 'Answers of the question that would have it, and do not now',
              figure: true,
              cell: (c) => (c.gained ? `+${count(c.gained)}` : ''),
            },
            {
              key: 'loses',
              name: 'loses',
              told: 'Answers of the question that have it, and would not',
              figure: true,
              cell: (c) => (c.lost ? `−${count(c.lost)}` : ''),
            },
          ]}
        />
      )}
      {e.categories.length > 12 && <p className="text-soft">and {count(e.categories.length - 12)} more</p>}
      <MisfitList misfits={e.misfits} />
    </>
  );
}

/** Rules that name what is not there. */
function MisfitList({ misfits }: { misfits: Effect['misfits'] }) {
  if (!misfits.length) return null;
  return (
    <>
      <p className="text-clay">
        {many(misfits.length, 'rule')} would not fit and catch nothing until they are fixed or until what they name is
        there:
      </p>
      <ul data-part="misfits" className="max-h-[30vh] overflow-auto">
        {misfits.slice(0, 30).map((m) => (
          <li key={m.category + m.rule}>
            <b>{m.category}</b> <code>{m.rule}</code> {m.message}
          </li>
        ))}
      </ul>
      {misfits.length > 30 && <p className="text-soft">and {count(misfits.length - 30)} more</p>}
    </>
  );
}
