import { useAddress } from '../lib/address';
import type { Between, Condition } from '../lib/api';
import { count, many, tint } from '../lib/format';
import { useAsk } from '../lib/queries';
import { Button } from '../parts/Button';
import { Table } from '../parts/Table';
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
          Compare other states
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
        data-stop=""
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
        <Table
          label="Categories of both states"
          rows={b.categories}
          id={(c) => c.id}
          columns={[
            {
              key: 'category',
              name: 'category',
              head: true,
              cell: (c) => (
                <span className={tint(c.top)}>
                  <Short>{c.short}</Short>
                  {c.name}
                  {c.fresh && <span className="text-soft"> new</span>}
                  {c.gone && <span className="text-soft"> gone</span>}
                </span>
              ),
            },
            {
              key: 'had',
              name: 'had',
              told: 'Answers of the focus that had it in the first state',
              figure: true,
              cell: (c) => <span className="text-soft">{count(c.before)}</span>,
            },
            {
              key: 'has',
              name: 'has',
              told: 'Answers of the focus that have it in the second',
              figure: true,
              cell: (c) => <span className="text-soft">{count(c.after)}</span>,
            },
            {
              key: 'gained',
              name: 'gained',
              told: 'Those that have it in the second state only',
              figure: true,
              cell: (c) => figure(c, false),
            },
            {
              key: 'lost',
              name: 'lost',
              told: 'Those that have it in the first state only',
              figure: true,
              cell: (c) => figure(c, true),
            },
            { key: 'rules', name: 'rules', cell: (c) => <Rules c={c} /> },
          ]}
        />
      )}
      <p className="text-sm text-soft">
        Both states are applied to the answers and columns that are here now. The figures are of the focus.
      </p>
    </section>
  );
}

/** Rules that came and went, as far as there is room. */
function Rules({ c }: { c: Between['categories'][number] }) {
  return (
    <div data-part="changes" className="font-mono text-sm">
      {c.removed.slice(0, 4).map((r) => (
        <del key={r} className="block text-clay">
          {r}
        </del>
      ))}
      {c.added.slice(0, 4).map((r) => (
        <ins key={r} className="block text-moss no-underline">
          + {r}
        </ins>
      ))}
      {(c.added.length > 4 || c.removed.length > 4) && (
        <span className="font-sans text-soft">
          {count(c.added.length)} came, {count(c.removed.length)} went in all
        </span>
      )}
    </div>
  );
}
