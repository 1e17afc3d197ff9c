import { useState } from 'react';
import { useFocus } from '../lib/address';
import { api, type RuleQuery, take } from '../lib/api';
import { useAsk } from '../lib/desk';
import { count, many } from '../lib/format';
import { Evidence } from './Writing';

/** Answers that lack just one part of the rule, by what they lack. */
export function Misses({ query, take: put }: { query: RuleQuery; take: (rule: string) => void }) {
  const { focusText, setPick } = useFocus();
  const [chosen, setChosen] = useState('');
  const misses = useAsk(['misses', query.rule, query.category, query.was, chosen, focusText], (question) =>
    take(
      api.POST('/api/v1/questions/{question}/rule/misses', {
        params: { path: { question }, query: { focus: focusText, way: chosen } },
        body: { ...query, limit: 15 },
      }),
    ),
  );
  const m = misses.data;
  if (misses.error) return <p className="bad">{misses.error.message}</p>;
  if (!m) return <p className="soft">Looking for answers that lack just one part…</p>;
  if (!m.ways.length)
    return <p className="empty">No answer lacks just one part of it. A rule of one part has no near misses.</p>;
  const open = m.ways.find((w) => w.rule === chosen) ?? m.ways[0]!;
  return (
    <div aria-busy={misses.isPlaceholderData}>
      <p className="soft small">
        {many(m.total, 'answer')} in the focus that this category does not have and that lack just one part.
      </p>
      <ul className="plainlist ways">
        {m.ways.map((w) => (
          <li key={w.rule}>
            <button type="button" className="plain" aria-pressed={w === open} onClick={() => setChosen(w.rule)}>
              {w.lacks}
            </button>
            <span className="num">{count(w.answers)}</span>
            <span className="soft small">{count(w.uncoded)} uncoded</span>
          </li>
        ))}
      </ul>
      {m.examples.answers.map((a) => (
        <Evidence key={a.number} answer={a} />
      ))}
      {m.examples.total > m.examples.answers.length && (
        <p className="soft">
          and {count(m.examples.total - m.examples.answers.length)} more:{' '}
          <button
            type="button"
            className="plain"
            onClick={() =>
              setPick([
                { kind: 'words', text: open.rule },
                { kind: 'words', text: query.rule, not: true },
                ...(query.category ? [{ kind: 'category', id: query.category, not: true } as const] : []),
              ])
            }
          >
            read them all
          </button>
        </p>
      )}
      <p>
        <button type="button" className="plain" onClick={() => put(open.rule)}>
          write the rule so that these match: <code>{open.rule}</code>
        </button>
      </p>
    </div>
  );
}
