import { useFocus } from '../lib/address';
import { api, type Proposal, type RuleQuery, take } from '../lib/api';
import { useAsk } from '../lib/desk';
import { count, many } from '../lib/format';

/** What might be made of the rule, each with its effect; pressing one writes it. */
export function Sharpen({ query, take: put }: { query: RuleQuery; take: (rule: string) => void }) {
  const { focusText } = useFocus();
  const found = useAsk(['sharpen', query.rule, query.category, focusText], (question) =>
    take(
      api.POST('/api/v1/questions/{question}/rule/sharpen', {
        params: { path: { question }, query: { focus: focusText } },
        body: query,
      }),
    ),
  );
  const s = found.data;
  if (found.error) return <p className="bad">{found.error.message}</p>;
  if (!s) return <p className="soft">Looking through what stands around its words…</p>;
  const list = (title: string, none: string, proposals: Proposal[], effect: (p: Proposal) => string, sign: string) => (
    <section>
      <h2 className="small">{title}</h2>
      {proposals.length === 0 && <p className="soft small">{none}</p>}
      <ul className="plainlist ways">
        {proposals.map((p) => (
          <li key={p.rule}>
            <button type="button" className="plain" title={p.rule} onClick={() => put(p.rule)}>
              {p.for ? `${p.for} / ${p.term}` : `${sign} ${p.term}`}
            </button>
            <span className="soft small wide">{effect(p)}</span>
          </li>
        ))}
      </ul>
    </section>
  );
  return (
    <div aria-busy={found.isPlaceholderData} className="sharpen">
      {list(
        'Used alike',
        'Nothing stands in the same surroundings.',
        s.alternatives,
        (p) => `${many(p.gained, 'answer')} more, ${count(p.uncoded)} of them uncoded`,
        '/',
      )}
      {list(
        'In place of the part that near misses lack',
        'No term stands out in the near misses.',
        s.missed,
        (p) => `${many(p.gained, 'answer')} more, ${count(p.uncoded)} of them uncoded`,
        '/',
      )}
      {list(
        'Partners that sharpen it',
        'Nothing comes with it more often than by chance.',
        s.partners,
        (p) => `keeps ${count(s.matches - p.lost)} of ${count(s.matches)}`,
        '+',
      )}
      {list(
        'Exclusions that drop what is wrong',
        s.wrong
          ? 'No term stands in the wrong ones more often than in the rest.'
          : 'Press “wrong here” at answers in All or New: what they have in common is proposed here.',
        s.exclusions,
        (p) => `drops ${count(p.wrong)} of ${count(s.wrong)} wrong ones, and ${count(p.lost - p.wrong)} others`,
        '−',
      )}
    </div>
  );
}
