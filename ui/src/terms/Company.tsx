import { useFocus } from '../lib/address';
import { api, type Condition, take } from '../lib/api';
import { useAsk } from '../lib/desk';
import { count, percent } from '../lib/format';
import { Files } from '../parts/Files';
import { conditionOf, type Subject } from './subject';

/** What a term is said with, and by whom more or less often. */
export default function Company({ subject }: { subject: Subject }) {
  const { focusText, setPick, pick } = useFocus();
  const query = { focus: focusText, of: subject.of, text: subject.text };
  const company = useAsk(['company', query], (question) =>
    take(api.GET('/api/v1/questions/{question}/company', { params: { path: { question }, query } })),
  );
  if (company.error) return <p className="bad">{company.error.message}</p>;
  const c = company.data;
  if (!c) return <p className="ghost">&nbsp;</p>;
  const own = conditionOf(subject);
  const pressed = (more: Condition) => JSON.stringify(pick) === JSON.stringify([own, more]);
  const open = (more: Condition) => ({
    'aria-pressed': pressed(more),
    onClick: () => setPick(pressed(more) ? [own] : [own, more]),
  });
  return (
    <div className="companyv">
      <section className="scroll" aria-label="Terms said with it">
        <table className="figures small">
          <thead>
            <tr>
              <th scope="col">said with it</th>
              <th scope="col">both</th>
              <th scope="col">of</th>
              <th scope="col" title="answers with both, against those to be expected by chance">
                lift
              </th>
              <th scope="col" title="log-likelihood ratio; over 10.83 is rarer than 1 in 1,000 by chance">
                G²
              </th>
            </tr>
          </thead>
          <tbody>
            {c.terms.map((t) => (
              <tr key={t.label}>
                <th scope="row">
                  <button type="button" className="plain" {...open({ kind: 'term', text: t.label })}>
                    {t.label}
                  </button>
                </th>
                <td>{count(t.both)}</td>
                <td>{count(t.answers)}</td>
                <td>{t.lift.toFixed(1)}</td>
                <td>{t.g2.toFixed(1)}</td>
              </tr>
            ))}
          </tbody>
        </table>
        {!c.terms.length && <p className="empty">No term stands beside it in three answers or more.</p>}
      </section>
      <section className="scroll" aria-label="Where it stands out">
        <table className="figures small">
          <thead>
            <tr>
              <th scope="col">where it stands out</th>
              <th scope="col">share there</th>
              <th scope="col">elsewhere</th>
              <th scope="col">p</th>
            </tr>
          </thead>
          <tbody>
            {c.segments.map((s) => (
              <tr key={`${s.variable} ${s.value}`}>
                <th scope="row">
                  <button
                    type="button"
                    className="plain"
                    {...open({ kind: 'variable', name: s.variable, op: '=', values: [s.value] })}
                  >
                    {s.value}
                  </button>{' '}
                  <span className="soft">{s.variable}</span>
                </th>
                <td className={s.z > 0 ? 'more' : 'less'}>
                  {s.z > 0 ? '▲' : '▽'} {percent(s.share)}
                </td>
                <td>{percent(s.rest)}</td>
                <td>{s.p < 0.001 ? '< 0.001' : s.p.toFixed(3)}</td>
              </tr>
            ))}
          </tbody>
        </table>
        <p className="soft small">
          {c.segments.length ? '' : 'Its share differs nowhere by more than chance. '}
          {count(c.tested)} values tested against all others (pooled z, two-sided; Benjamini-Hochberg); those under 0.05
          are listed. The terms, out: <Files of="company" query={{ ...query, limit: 500 }} />
        </p>
      </section>
    </div>
  );
}
