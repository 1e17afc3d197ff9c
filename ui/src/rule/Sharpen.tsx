import { useAddress } from '../lib/address';
import type { Proposal, RuleQuery } from '../lib/api';
import { count, many } from '../lib/format';
import { useTry } from '../lib/queries';
import { Failed } from '../parts/Asked';
import { Button } from '../parts/Button';
import type { TakeFor } from './takes';

/** What might be made of the rule, each with its effect; pressing one writes it. */
export function Sharpen({ query, takeFor }: { query: RuleQuery; takeFor: TakeFor }) {
  const { focusText } = useAddress();
  const found = useTry('rule/sharpen', query, { query: { focus: focusText } });
  const s = found.data;
  if (found.error && !found.data) return <Failed error={found.error} again={() => found.refetch()} />;
  if (!s) return <p className="text-soft">Looking through what stands around its words…</p>;
  const put = takeFor(s.of.rule);
  const list = (title: string, none: string, proposals: Proposal[], effect: (p: Proposal) => string, sign: string) => (
    <section>
      <h2 className="text-sm">{title}</h2>
      {proposals.length === 0 && <p className="text-sm text-soft">{none}</p>}
      <ul
        data-part="ways"
        className="[&_li]:grid [&_li]:grid-cols-[minmax(0,max-content)_3.2rem_minmax(6rem,1fr)] [&_li]:items-baseline
          [&_li]:gap-2.5 [&_li]:border-t [&_li]:border-hair [&_li]:py-0.75"
      >
        {proposals.map((p) => (
          <li key={p.rule}>
            <Button look="plain" title={p.rule} onClick={() => put(p.rule)}>
              {p.for === 'negated' ? 'not right after a negator' : p.for ? `${p.for} / ${p.term}` : `${sign} ${p.term}`}
            </Button>
            <span className="text-soft text-sm w-full">{effect(p)}</span>
          </li>
        ))}
      </ul>
    </section>
  );
  return (
    <div
      aria-busy={found.isPlaceholderData}
      className="grid grid-cols-[repeat(auto-fit,minmax(14.5rem,1fr))] gap-x-6.5 gap-y-2.5"
    >
      {list(
        'Mean the same',
        'No term here means the same by the table of words.',
        s.meant,
        (p) => `${many(p.gained, 'answer')} more, ${count(p.uncoded)} of them uncoded`,
        '/',
      )}
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
        (p) =>
          s.wrong
            ? `drops ${count(p.wrong)} of ${count(s.wrong)} wrong ones, and ${count(p.lost - p.wrong)} others`
            : `drops ${count(p.lost)} of ${count(s.matches)}`,
        '−',
      )}
    </div>
  );
}
