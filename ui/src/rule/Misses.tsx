import { useState } from 'react';
import { useAddress } from '../lib/address';
import type { RuleQuery } from '../lib/api';
import { count, many } from '../lib/format';
import { useTry } from '../lib/queries';
import { itemAt } from '../lib/required';
import { Failed } from '../parts/Asked';
import { Button } from '../parts/Button';
import { Empty } from '../parts/Text';
import { EvidenceList } from './Evidence';
import type { TakeFor } from './takes';

/** Answers that lack just one part of the rule, by what they lack. */
export function Misses({ query, takeFor }: { query: RuleQuery; takeFor: TakeFor }) {
  const { focusText, setPick } = useAddress();
  const [chosen, setChosen] = useState('');
  const misses = useTry('rule/misses', { ...query, limit: 15 }, { query: { focus: focusText, way: chosen } });
  const m = misses.data;
  if (misses.error && !misses.data) return <Failed error={misses.error} again={() => misses.refetch()} />;
  if (!m) return <p className="text-soft">Looking for answers that lack just one part…</p>;
  if (!m.ways.length) return <Empty>No answer lacks just one part of it. A rule of one part has no near misses.</Empty>;
  const put = takeFor(m.of.rule);
  const open = m.ways.find((w) => w.rule === chosen) ?? itemAt(m.ways, 0);
  return (
    <div aria-busy={misses.isPlaceholderData}>
      <p className="text-sm text-soft">
        {many(m.total, 'answer')} in the focus that this category does not have and that lack just one part.
      </p>
      <ul
        data-part="ways"
        className="[&_li]:grid [&_li]:grid-cols-[minmax(0,max-content)_3.2rem_minmax(6rem,1fr)] [&_li]:items-baseline
          [&_li]:gap-2.5 [&_li]:border-t [&_li]:border-hair [&_li]:py-0.75"
      >
        {m.ways.map((w) => (
          <li key={w.rule}>
            <Button look="plain" aria-pressed={w === open} onClick={() => setChosen(w.rule)}>
              {w.lacks}
            </Button>
            <span className="text-right">{count(w.answers)}</span>
            <span className="text-sm text-soft">{count(w.uncoded)} uncoded</span>
          </li>
        ))}
      </ul>
      <EvidenceList answers={m.examples.answers} />
      {m.examples.total > m.examples.answers.length && (
        <p className="text-soft">
          and {count(m.examples.total - m.examples.answers.length)} more:{' '}
          <Button
            look="plain"
            onClick={() =>
              setPick([
                { kind: 'words', text: open.rule },
                { kind: 'words', text: query.rule, not: true },
                ...(query.category ? [{ kind: 'category', id: query.category, not: true } as const] : []),
              ])
            }
          >
            read them all
          </Button>
        </p>
      )}
      <p>
        <Button look="plain" onClick={() => put(open.rule)}>
          write the rule so that these match: <code>{open.rule}</code>
        </Button>
      </p>
    </div>
  );
}
