import { useAddress } from '../lib/address';
import type { Condition } from '../lib/api';
import { count, percent } from '../lib/format';
import { useAsk } from '../lib/queries';
import { Failed } from '../parts/Asked';
import { Button } from '../parts/Button';
import { Files } from '../parts/Files';
import { Table } from '../parts/Table';
import { Empty, Skeleton } from '../parts/Text';
import { conditionOf, type Subject } from './subject';

/** What a term is said with, and by whom more or less often. */
export default function Company({ subject }: { subject: Subject }) {
  const { focusText, setPick, pickText } = useAddress();
  const query = { focus: focusText, of: subject.of, text: subject.text };
  const company = useAsk('company', query);
  if (company.error && !company.data) return <Failed error={company.error} again={() => company.refetch()} />;
  const c = company.data;
  if (!c) return <Skeleton lines={6} />;
  const own = conditionOf(subject);
  const pressed = (more: Condition) => pickText === JSON.stringify([own, more]);
  const open = (more: Condition) => ({
    'aria-pressed': pressed(more),
    onClick: () => setPick(pressed(more) ? [own] : [own, more]),
  });
  return (
    <div className="grid min-h-0 flex-1 grid-cols-2 gap-6.5 max-md:grid-cols-1 max-md:overflow-y-auto">
      <section className="min-h-0 overflow-y-auto" aria-label="Terms said with it">
        <Table
          label="Terms said with it"
          rows={c.terms}
          id={(t) => t.label}
          columns={[
            {
              key: 'term',
              name: 'said with it',
              head: true,
              cell: (t) => (
                <Button look="plain" data-stop="" {...open({ kind: 'term', text: t.label })}>
                  {t.label}
                </Button>
              ),
            },
            { key: 'both', name: 'both', told: 'Answers with both', figure: true, cell: (t) => count(t.both) },
            { key: 'of', name: 'of', told: 'Answers with that term', figure: true, cell: (t) => count(t.answers) },
            {
              key: 'lift',
              name: 'lift',
              told: 'Answers with both, against those to be expected by chance',
              figure: true,
              cell: (t) => t.lift.toFixed(1),
            },
            {
              key: 'g2',
              name: 'G²',
              told: 'Log-likelihood ratio on answers; over 10.83 is rarer than 1 in 1,000 by chance',
              figure: true,
              cell: (t) => t.g2.toFixed(1),
            },
          ]}
        />
        {!c.terms.length && <Empty>No term stands beside it in three answers or more.</Empty>}
      </section>
      <section className="min-h-0 overflow-y-auto" aria-label="Where it stands out">
        <Table
          label="Where it stands out"
          rows={c.segments}
          id={(s) => `${s.variable} ${s.value}`}
          columns={[
            {
              key: 'value',
              name: 'where it stands out',
              head: true,
              cell: (s) => (
                <>
                  <Button
                    look="plain"
                    data-stop=""
                    {...open({ kind: 'variable', name: s.variable, op: '=', values: [s.value] })}
                  >
                    {s.value}
                  </Button>{' '}
                  <span className="text-soft">{s.variable}</span>
                </>
              ),
            },
            {
              key: 'share',
              name: 'share there',
              told: 'Of the answers there that say something',
              figure: true,
              cell: (s) => (
                <span className={s.z > 0 ? 'text-moss' : 'text-clay'}>
                  {s.z > 0 ? '▲' : '▽'} {percent(s.share)}
                </span>
              ),
            },
            {
              key: 'rest',
              name: 'elsewhere',
              told: 'Of all other answers in the focus',
              figure: true,
              cell: (s) => percent(s.rest),
            },
            {
              key: 'p',
              name: 'p',
              told: 'Two-sided, pooled z; adjusted for the number of tests (Benjamini-Hochberg)',
              figure: true,
              cell: (s) => (s.p < 0.001 ? '< 0.001' : s.p.toFixed(3)),
            },
          ]}
        />
        <p className="pt-1 text-sm text-soft">
          {c.segments.length ? '' : 'Its share differs nowhere by more than chance. '}
          {count(c.tested)} values tested against all others (pooled z, two-sided; Benjamini-Hochberg); those under 0.05
          are listed. Download the terms: <Files of="company" query={{ ...query, limit: 500 }} />
        </p>
      </section>
    </div>
  );
}
