import { useAddress } from '../lib/address';
import type { Between, Condition } from '../lib/api';
import { count, many, tint } from '../lib/format';
import { useAsk } from '../lib/queries';
import { Button } from '../parts/Button';
import { Sentence, Short } from '../parts/Text';

/** What lies between two states. */
export function Compared({ from, to, label }: { from: string; to: string; label: (s: string) => string }) {
  const { focusText, set, pick, setPick } = useAddress();
  const between = useAsk('between', { focus: focusText, from, to });
  if (between.error)
    return (
      <p className="text-clay">
        {between.error.message}{' '}
        <Button look="plain" onClick={() => set({ from: '', to: '' })}>
          begin again
        </Button>
      </p>
    );
  const b = between.data;
  if (!b) return <p className="text-soft">Coding the answers by both states…</p>;
  const figure = (c: Between['categories'][number], lost: boolean) => {
    const n = lost ? c.lost : c.gained;
    if (!n) return null;
    const of: Condition[] = [{ kind: 'changed', id: c.id, text: lost ? 'lost' : 'gained', values: [from, to] }];
    return (
      <Button
        look="plain"
        className="text-right"
        aria-pressed={JSON.stringify(pick) === JSON.stringify(of)}
        aria-label={`${lost ? '−' : '+'}${count(n)}: show what ${c.name} ${lost ? 'lost' : 'gained'}`}
        onClick={() => setPick(of)}
      >
        {lost ? '−' : '+'}
        {count(n)}
      </Button>
    );
  };
  const change = b.coded - b.codedBefore;
  const moved = b.categories.filter((c) => c.gained || c.lost).length;
  return (
    <section aria-label="What lies between" aria-busy={between.isPlaceholderData}>
      <Sentence role="status">
        From {label(from)} to {label(to)}: {count(b.codedBefore)} of {many(b.base, 'answer')} were coded,{' '}
        {count(b.coded)} are{change ? ` (${change > 0 ? '+' : '−'}${count(Math.abs(change))})` : ''}.{' '}
        {moved
          ? `${many(moved, 'category', 'categories')} gained or lost answers.`
          : 'No category gained or lost an answer.'}
        {b.parts.length > 0 && ` Also changed: ${b.parts.join(', ')}.`}
      </Sentence>
      {b.categories.length > 0 && (
        <table
          data-part="plainfigures"
          className="border-collapse [&_:is(th,td)]:border-t [&_:is(th,td)]:border-hair [&_:is(th,td)]:py-0.75 [&_:is(th,td)]:pr-4.5 [&_:is(th,td)]:align-baseline [&_th]:font-normal [&_th:not(.text-right)]:text-left [&_thead_:is(th,td)]:border-0 [&_thead_:is(th,td)]:text-sm [&_thead_:is(th,td)]:text-soft"
        >
          <thead>
            <tr>
              <th scope="col">category</th>
              <th scope="col" className="text-right">
                had
              </th>
              <th scope="col" className="text-right">
                has
              </th>
              <th scope="col" className="text-right">
                gained
              </th>
              <th scope="col" className="text-right">
                lost
              </th>
              <th scope="col">rules</th>
            </tr>
          </thead>
          <tbody>
            {b.categories.map((c) => (
              <tr key={c.id}>
                <th scope="row" className={tint(c.top)}>
                  <Short>{c.short}</Short>
                  {c.name}
                  {c.fresh && <em className="text-soft"> new</em>}
                  {c.gone && <em className="text-soft"> gone</em>}
                </th>
                <td className="text-right text-soft">{count(c.before)}</td>
                <td className="text-right text-soft">{count(c.after)}</td>
                <td className="text-right">{figure(c, false)}</td>
                <td className="text-right">{figure(c, true)}</td>
                <td
                  data-part="changes"
                  className="[&_:is(ins,del)]:block [&_ins]:text-moss [&_ins]:no-underline [&_ins]:before:content-['+_'] [&_del]:text-clay font-mono text-sm"
                >
                  {c.removed.slice(0, 4).map((r) => (
                    <del key={r}>{r}</del>
                  ))}
                  {c.added.slice(0, 4).map((r) => (
                    <ins key={r}>{r}</ins>
                  ))}
                  {c.added.length > 4 || c.removed.length > 4 ? (
                    <span className="text-soft">
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
      <p className="text-sm text-soft">
        Both states are applied to the answers and columns that are here now. The figures are of the focus.
      </p>
    </section>
  );
}
