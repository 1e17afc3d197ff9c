import type { ReactNode } from 'react';
import { api, type Edit, type Effect, take } from '../lib/api';
import { useAsk } from '../lib/desk';
import { count, many } from '../lib/format';

/** Previews an edit while it is being put together. */
export function useEffectOf(change: Edit | undefined, ready: boolean) {
  return useAsk(
    ['preview', JSON.stringify(change)],
    (question) =>
      take(api.POST('/api/v1/questions/{question}/preview', { params: { path: { question } }, body: change! })),
    ready,
  );
}

/** What an edit would change, in words; the edit itself is not made. */
export function EffectOf({ change, children }: { change?: Edit; children?: (e: Effect) => ReactNode }) {
  const preview = useEffectOf(change, !!change);
  const e = change && !preview.isPlaceholderData ? preview.data : undefined;
  if (!change) return null;
  if (preview.error) return <p className="bad">{preview.error.message}</p>;
  if (!e) return <p className="effect">Working out what it would change…</p>;
  const coded = e.coded - e.codedBefore;
  return (
    <>
      <p className="effect" role="status">
        {coded === 0
          ? 'As many answers are coded as before. '
          : coded > 0
            ? `${many(coded, 'answer')} more would be coded. `
            : `${many(-coded, 'answer')} would have no category any more. `}
        {e.categories.length === 0
          ? 'No category gains or loses an answer. '
          : `${many(e.categories.length, 'category', 'categories')} would gain or lose answers. `}
        {children?.(e)}
      </p>
      {e.categories.length > 0 && (
        <table className="plainfigures">
          <thead>
            <tr>
              <th scope="col">category</th>
              <th scope="col" className="num">
                gains
              </th>
              <th scope="col" className="num">
                loses
              </th>
            </tr>
          </thead>
          <tbody>
            {e.categories.slice(0, 12).map((c) => (
              <tr key={c.id}>
                <th scope="row">{c.name}</th>
                <td className="num">{c.gained ? `+${count(c.gained)}` : ''}</td>
                <td className="num">{c.lost ? `−${count(c.lost)}` : ''}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {e.categories.length > 12 && <p className="soft">and {count(e.categories.length - 12)} more</p>}
      <MisfitList misfits={e.misfits} />
    </>
  );
}

/** Rules that name what is not there. */
export function MisfitList({ misfits }: { misfits: Effect['misfits'] }) {
  if (!misfits.length) return null;
  return (
    <>
      <p className="bad">
        {many(misfits.length, 'rule')} would not fit and catch nothing until mended or until what they name is there:
      </p>
      <ul className="plainlist misfits">
        {misfits.slice(0, 30).map((m) => (
          <li key={m.category + m.rule}>
            <b>{m.category}</b> <code>{m.rule}</code> {m.message}
          </li>
        ))}
      </ul>
      {misfits.length > 30 && <p className="soft">and {count(misfits.length - 30)} more</p>}
    </>
  );
}
