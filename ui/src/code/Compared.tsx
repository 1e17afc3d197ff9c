import { useFocus } from '../lib/address';
import { api, type Between, type Condition, take } from '../lib/api';
import { useAsk } from '../lib/desk';
import { count, many, tint } from '../lib/format';

/** What lies between two states. */
export function Compared({ from, to, label }: { from: string; to: string; label: (s: string) => string }) {
  const { focusText, set, pick, setPick } = useFocus();
  const between = useAsk(['between', from, to, focusText], (q) =>
    take(
      api.GET('/api/v1/questions/{question}/between', {
        params: { path: { question: q }, query: { focus: focusText, from, to } },
      }),
    ),
  );
  if (between.error)
    return (
      <p className="bad">
        {between.error.message}{' '}
        <button type="button" className="plain" onClick={() => set({ from: '', to: '' })}>
          begin again
        </button>
      </p>
    );
  const b = between.data;
  if (!b) return <p className="soft">Coding the answers by both states…</p>;
  const figure = (c: Between['categories'][number], lost: boolean) => {
    const n = lost ? c.lost : c.gained;
    if (!n) return null;
    const of: Condition[] = [{ kind: 'changed', id: c.id, text: lost ? 'lost' : 'gained', values: [from, to] }];
    return (
      <button
        type="button"
        className="plain num"
        aria-pressed={JSON.stringify(pick) === JSON.stringify(of)}
        aria-label={`${lost ? '−' : '+'}${count(n)}: show what ${c.name} ${lost ? 'lost' : 'gained'}`}
        onClick={() => setPick(of)}
      >
        {lost ? '−' : '+'}
        {count(n)}
      </button>
    );
  };
  const change = b.coded - b.codedBefore;
  const moved = b.categories.filter((c) => c.gained || c.lost).length;
  return (
    <section aria-label="What lies between" aria-busy={between.isPlaceholderData}>
      <p className="effect" role="status">
        From {label(from)} to {label(to)}: {count(b.codedBefore)} of {many(b.base, 'answer')} were coded,{' '}
        {count(b.coded)} are{change ? ` (${change > 0 ? '+' : '−'}${count(Math.abs(change))})` : ''}.{' '}
        {moved
          ? `${many(moved, 'category', 'categories')} gained or lost answers.`
          : 'No category gained or lost an answer.'}
        {b.parts.length > 0 && ` Also changed: ${b.parts.join(', ')}.`}
      </p>
      {b.categories.length > 0 && (
        <table className="plainfigures betweens">
          <thead>
            <tr>
              <th scope="col">category</th>
              <th scope="col" className="num">
                had
              </th>
              <th scope="col" className="num">
                has
              </th>
              <th scope="col" className="num">
                gained
              </th>
              <th scope="col" className="num">
                lost
              </th>
              <th scope="col">rules</th>
            </tr>
          </thead>
          <tbody>
            {b.categories.map((c) => (
              <tr key={c.id}>
                <th scope="row" className={tint(c.top)}>
                  <b className="short">{c.short}</b>
                  {c.name}
                  {c.fresh && <em className="soft"> new</em>}
                  {c.gone && <em className="soft"> gone</em>}
                </th>
                <td className="num soft">{count(c.before)}</td>
                <td className="num soft">{count(c.after)}</td>
                <td className="num">{figure(c, false)}</td>
                <td className="num">{figure(c, true)}</td>
                <td className="changes">
                  {c.removed.slice(0, 4).map((r) => (
                    <del key={r}>{r}</del>
                  ))}
                  {c.added.slice(0, 4).map((r) => (
                    <ins key={r}>{r}</ins>
                  ))}
                  {c.added.length > 4 || c.removed.length > 4 ? (
                    <span className="soft">
                      {' '}
                      {count(c.added.length)} came, {count(c.removed.length)} went in all
                    </span>
                  ) : null}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      <p className="soft small">
        Both states are applied to the answers and columns that are here now. The figures are of the focus.
      </p>
    </section>
  );
}
