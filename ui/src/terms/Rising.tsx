import { useFocus } from '../lib/address';
import { api, take } from '../lib/api';
import { useAsk } from '../lib/desk';
import { count, many, percent } from '../lib/format';
import { Files } from '../parts/Files';
import { Beneath } from './Beneath';
import { Spread } from './Line';
import { TimeSettings, useTime } from './Timeline';

/** Terms that are said more in one period than in all before it. */
export default function Rising() {
  const { focusText, params, set, setPick, pick } = useFocus();
  const time = useTime();
  const now = params.get('now') || undefined;
  const query = { focus: focusText, ...time, now };
  const rising = useAsk(['rising', query], (question) =>
    take(api.GET('/api/v1/questions/{question}/rising', { params: { path: { question }, query } })),
  );
  if (rising.error) return <p className="bad">{rising.error.message}</p>;
  const r = rising.data;
  if (!r) return <p className="ghost">&nbsp;</p>;
  if (!r.by) return <p className="empty">This study has neither a date nor a wave. Say in Data which column is one.</p>;
  const strip = { by: r.by, buckets: r.periods.map((p) => p.name), bases: r.periods.map((p) => p.base) };
  return (
    <>
      <div className="row wrap tools">
        <TimeSettings axis={r} />
        <label>
          what rose in{' '}
          <select value={r.now} onChange={(e) => set({ now: e.target.value })}>
            {r.periods.slice(1).map((p) => (
              <option key={p.name}>{p.name}</option>
            ))}
          </select>
        </label>
        <span className="soft">
          {many(r.base, 'answer')} in it, {count(r.before)} before
        </span>
      </div>
      {r.terms.length === 0 ? (
        <p className="empty">
          {r.before === 0
            ? 'Nothing lies before this period, so nothing can have risen.'
            : `None of ${count(r.tested)} terms is said more than before by more than chance. Choose any term in the ledger to see it over time.`}
        </p>
      ) : (
        <div className="scroll risingv">
          <table className="figures">
            <thead>
              <tr>
                <th scope="col">term</th>
                <th scope="col">{r.now}</th>
                <th scope="col">before</th>
                <th scope="col">p</th>
                <th scope="col">share by {r.dated ? r.unit : r.by}</th>
              </tr>
            </thead>
            <tbody>
              {r.terms.map((t) => {
                const own = { kind: 'term' as const, text: t.label };
                return (
                  <tr key={t.label} className={pick.some((c) => c.kind === 'term' && c.text === t.label) ? 'on' : ''}>
                    <th scope="row">
                      <button type="button" className="plain" onClick={() => setPick([own])}>
                        {t.label}
                      </button>
                    </th>
                    <td>
                      <button
                        type="button"
                        className="plain"
                        onClick={() => setPick([own, ...(r.periods.find((p) => p.name === r.now)?.only ?? [])])}
                      >
                        {percent(t.share)} <small>({count(t.now)})</small>
                      </button>
                    </td>
                    <td>
                      {percent(t.past)} <small className="soft">({count(t.before)})</small>
                    </td>
                    <td>{t.p < 0.001 ? '< 0.001' : t.p.toFixed(3)}</td>
                    <td>
                      <Spread counts={t.strip} strip={strip} />
                    </td>
                  </tr>
                );
              })}
            </tbody>
          </table>
        </div>
      )}
      {r.now && (
        <p className="soft small">
          Each of {count(r.tested)} terms with five answers or more in {r.now} is tested against its own share in all
          periods before it (Fisher’s exact test, one-sided; Benjamini-Hochberg for that many tests); those under 0.05
          are listed.
          {r.missing > 0 && ` ${count(r.missing)} answers without a date are left out.`} Out:{' '}
          <Files of="rising" query={query} />
        </p>
      )}
      <Beneath />
    </>
  );
}
