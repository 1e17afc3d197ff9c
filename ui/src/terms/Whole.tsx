import { hierarchy, treemap } from 'd3-hierarchy';
import { useMemo, useState } from 'react';
import { useFocus } from '../lib/address';
import { api, type Corpus, type Term, take } from '../lib/api';
import { useAsk, useDesk } from '../lib/desk';
import { count, many, percent } from '../lib/format';
import { Files } from '../parts/Files';
import { NumberField } from '../parts/NumberField';
import { Picture } from '../parts/Picture';
import { press } from '../parts/press';
import { CloudPair } from './Cloud';

const ways = {
  treemap: 'Treemap',
  cloud: 'Cloud',
  coverage: 'Coverage',
  figures: 'Figures',
  files: 'For statistics',
} as const;
type Way = keyof typeof ways;

/** The text as a whole: its most frequent terms in one picture, how much they cover, and its figures by segment. */
export default function Whole() {
  const { focusText, params, set, setPick, pick } = useFocus();
  const way: Way = (params.get('see') as Way) in ways ? (params.get('see') as Way) : 'treemap';
  const by = params.get('seg') || undefined;
  const [most, setMost] = useState(60);
  const terms = useAsk(['terms', 'whole', focusText, most], (question) =>
    take(
      api.GET('/api/v1/questions/{question}/terms', {
        params: { path: { question }, query: { focus: focusText, limit: most } },
      }),
    ),
  );
  const corpus = useAsk(['corpus', focusText, by], (question) =>
    take(
      api.GET('/api/v1/questions/{question}/corpus', {
        params: { path: { question }, query: { focus: focusText, by } },
      }),
    ),
  );
  const error = terms.error ?? corpus.error;
  if (error) return <p className="bad">{error.message}</p>;
  const pressed = (label: string) => pick.some((c) => c.kind === 'term' && c.text === label);
  const open = (label: string) => setPick([{ kind: 'term', text: label }]);
  const pictured = way === 'treemap' || way === 'cloud';
  return (
    <div className="wholev">
      <div className="row wrap tools">
        <span className="choice" role="group" aria-label="seen as">
          {(Object.keys(ways) as Way[]).map((w) => (
            <button
              key={w}
              type="button"
              aria-pressed={w === way}
              onClick={() => set({ see: w === 'treemap' ? '' : w })}
            >
              {ways[w]}
            </button>
          ))}
        </span>
        {pictured && (
          <label>
            terms{' '}
            <select value={most} onChange={(e) => setMost(Number(e.target.value))}>
              {[30, 60, 100, 150, 250].map((n) => (
                <option key={n}>{n}</option>
              ))}
            </select>
          </label>
        )}
      </div>
      {pictured && !terms.data && <p className="ghost">&nbsp;</p>}
      {way === 'treemap' && terms.data && (
        <Picture name="Treemap of terms" more={<Files of="terms" query={{ focus: focusText }} />}>
          <Treemap terms={terms.data.terms} pressed={pressed} open={open} />
          <p className="soft small">
            The {count(terms.data.terms.length)} most frequent of {many(terms.data.total, 'term')}; area goes with the
            number of answers, the bar at the foot of each shows how many of them are not coded.
          </p>
        </Picture>
      )}
      {way === 'cloud' && terms.data && (
        <Picture name="Cloud of terms" more={<Files of="terms" query={{ focus: focusText }} />}>
          <CloudPair
            sets={[
              {
                name: 'all',
                words: terms.data.terms.map((t) => ({ text: t.label, share: t.share, answers: t.answers })),
              },
            ]}
            width={680}
            height={460}
            upright={false}
            pressed={(_, w) => pressed(w)}
            open={(_, w) => open(w)}
          />
        </Picture>
      )}
      {(way === 'coverage' || way === 'figures') && !corpus.data && <p className="ghost">&nbsp;</p>}
      {way === 'coverage' && corpus.data && (
        <Picture name="Coverage of the text">
          <Coverage c={corpus.data} open={open} />
        </Picture>
      )}
      {way === 'figures' && corpus.data && <Figures c={corpus.data} choose={(s) => set({ seg: s })} />}
      {way === 'files' && <Matrix />}
    </div>
  );
}

const wide = 680;
const tall = 480;

type TreemapProps = { terms: Term[]; pressed: (l: string) => boolean; open: (l: string) => void };

function Treemap({ terms, pressed, open }: TreemapProps) {
  const leaves = useMemo(() => {
    const root = hierarchy<{ term?: Term; children?: { term: Term }[] }>({
      children: terms.map((term) => ({ term })),
    }).sum((d) => d.term?.answers ?? 0);
    return treemap<{ term?: Term }>().size([wide, tall]).paddingInner(2).round(true)(root).leaves();
  }, [terms]);
  return (
    <svg className="drawing treemap" viewBox={`0 0 ${wide} ${tall}`} role="group" aria-label="Treemap of terms">
      {leaves.map((l) => {
        const t = l.data.term!;
        const w = l.x1 - l.x0;
        const h = l.y1 - l.y0;
        const size = Math.max(9, Math.min(22, h / 2.4, (w - 9) / (t.label.length * 0.54)));
        // A label that would be cut is left to the tooltip; its tile is still there, and says it to a screen reader.
        const fits = t.label.length * size * 0.52 < w - 5 && h > size + 4;
        return (
          <g
            key={t.label}
            {...press(() => open(t.label), `${t.label} ${many(t.answers, 'answer')}; show them`, pressed(t.label))}
            className="tile"
          >
            <rect x={l.x0} y={l.y0} width={w} height={h} />
            <rect
              className="uncodedbar"
              x={l.x0}
              y={l.y1 - 3}
              width={(w * t.uncoded) / Math.max(t.answers, 1)}
              height={3}
            />
            {fits && (
              <text x={l.x0 + 4} y={l.y0 + size + 1} fontSize={size}>
                {t.label}
              </text>
            )}{' '}
            {fits && h > size + 20 && w > 34 && (
              <text className="axis" x={l.x0 + 4} y={l.y0 + size + 15} fontSize={11.5}>
                {count(t.answers)}
              </text>
            )}
            <title>{`${t.label}: ${count(t.answers)} answers, ${percent(t.answers ? t.uncoded / t.answers : 0)} of them not coded`}</title>
          </g>
        );
      })}
    </svg>
  );
}

function Coverage({ c, open }: { c: Corpus; open: (label: string) => void }) {
  const { focusText } = useFocus();
  const height = 300;
  const left = 44;
  const most = Math.max(2, c.terms);
  const x = (n: number) => left + ((wide - left - 10) * Math.log(n)) / Math.log(most);
  const y = (s: number) => 10 + (1 - s) * (height - 20);
  const path = (points: Corpus['coverage']) =>
    points.map((p, i) => `${i ? 'L' : 'M'}${x(p.terms)},${y(p.share)}`).join('');
  const ticks = [1, 10, 100, 1000, 10_000, 100_000, 1_000_000].filter((n) => n <= most);
  return (
    <>
      <svg
        className="drawing coverage"
        viewBox={`0 0 ${wide} ${height + 34}`}
        role="group"
        aria-label="How much of the text the first terms cover"
      >
        {[0, 0.25, 0.5, 0.75, 1].map((s) => (
          <g key={s}>
            <line className="rule" x1={left} x2={wide - 10} y1={y(s)} y2={y(s)} />
            <text className="axis" x={left - 6} y={y(s) + 4} textAnchor="end" fontSize={12}>
              {100 * s} %
            </text>
          </g>
        ))}
        {ticks.map((n) => (
          <text key={n} className="axis" x={x(n)} y={height + 10} textAnchor="middle" fontSize={12}>
            {count(n)}
          </text>
        ))}
        <text className="axis" x={wide - 10} y={height + 28} textAnchor="end" fontSize={12}>
          most frequent terms (log scale)
        </text>
        <path className="all" d={path(c.coverage)} />
        <path className="telling" d={path(c.telling)} />
        {c.telling.map((p) => (
          <circle
            key={p.terms}
            {...press(
              () => open(p.label),
              `the first ${count(p.terms)} terms, down to ${p.label}, are ${percent(p.share)} of all words`,
            )}
            cx={x(p.terms)}
            cy={y(p.share)}
            r={3.5}
          >
            <title>{`the first ${count(p.terms)} terms, down to ${p.label}, are ${percent(p.share)} of all words`}</title>
          </circle>
        ))}
        {c.coverage.length > 3 && (
          <text x={x(c.coverage.at(-1)!.terms) - 8} y={y(c.coverage.at(-1)!.share) + 18} textAnchor="end" fontSize={13}>
            all words
          </text>
        )}
        {c.telling.length > 3 && (
          <text x={x(c.telling.at(-1)!.terms) - 8} y={y(c.telling.at(-1)!.share) - 12} textAnchor="end" fontSize={13}>
            hidden ones aside
          </text>
        )}
      </svg>
      <p className="soft small">
        {c.half > 0 &&
          `The ${count(c.half)} most frequent terms make up half of all words${focusText ? ' of the focus' : ''}. `}
        {count(c.terms)} different terms {focusText ? 'in the focus' : 'in all'}.
      </p>
    </>
  );
}

function Figures({ c, choose }: { c: Corpus; choose: (segment: string) => void }) {
  const { focusText, setPick } = useFocus();
  return (
    <>
      {c.segments.length > 0 && (
        <p>
          <label>
            by{' '}
            <select value={c.segment} onChange={(e) => choose(e.target.value)}>
              {c.segments.map((s) => (
                <option key={s.name}>{s.name}</option>
              ))}
            </select>
          </label>
        </p>
      )}
      <table className="figures corpus">
        <thead>
          <tr>
            <td />
            <th scope="col">answers</th>
            <th scope="col">words</th>
            <th scope="col">different words</th>
            <th scope="col">richness</th>
            <th scope="col">words per answer</th>
            <th scope="col">median</th>
          </tr>
        </thead>
        <tbody>
          {c.figures.map((f, i) => (
            <tr key={f.name}>
              <th scope="row">
                {i === 0 ? (
                  f.name
                ) : (
                  <button
                    type="button"
                    className="plain"
                    onClick={() => setPick([{ kind: 'variable', name: c.segment, op: '=', values: [f.name] }])}
                  >
                    {f.name}
                  </button>
                )}
              </th>
              <td>{count(f.answers)}</td>
              <td>{count(f.words)}</td>
              <td>{count(f.distinct)}</td>
              <td>{f.richness ? f.richness.toFixed(0) : '–'}</td>
              <td>{f.mean.toFixed(1)}</td>
              <td>{f.median}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <p className="soft small">
        Richness: how many different words are to be expected among {count(c.sample)} words drawn from the text, so that
        long and short texts can be compared; none is given under {count(c.sample)} words. Out:{' '}
        <Files of="corpus" query={{ focus: focusText, by: c.segment }} />
      </p>
    </>
  );
}

/** The answers by terms as a file for a statistics program. */
function Matrix() {
  const { question } = useDesk();
  const { focusText } = useFocus();
  const [values, setValues] = useState('counts');
  const [least, setLeast] = useState(5);
  const [terms, setTerms] = useState(1000);
  const link = (format: string) =>
    `/api/v1/questions/${question.id}/matrix/${format}?${new URLSearchParams({
      ...(focusText ? { focus: focusText } : {}),
      values,
      least: String(least),
      terms: String(terms),
    })}`;
  return (
    <section className="filesv" aria-label="For statistics programs">
      <h2>Answers by terms</h2>
      <p>
        A row for each of the {count(question.focus)} answers in focus, a column for each term that is not hidden; what
        a cell holds is chosen here.
      </p>
      <p className="row wrap">
        <label>
          cells are{' '}
          <select value={values} onChange={(e) => setValues(e.target.value)}>
            <option value="counts">occurrences</option>
            <option value="binary">0 or 1</option>
            <option value="share">shares of the answer’s words</option>
            <option value="tfidf">weighted tf-idf, rows of length 1</option>
          </select>
        </label>
        <NumberField
          label="terms in at least so many answers"
          value={least}
          least={1}
          change={(n) => setLeast(Math.floor(n))}
        />
        <NumberField label="at most so many terms" value={terms} least={1} change={(n) => setTerms(Math.floor(n))} />
      </p>
      <ul>
        <li>
          <a href={link('csv')} download>
            Table, CSV
          </a>{' '}
          <span className="soft">with the respondent in the first column</span>
        </li>
        <li>
          <a href={link('zip')} download>
            Matrix Market, ZIP
          </a>{' '}
          <span className="soft">
            matrix.mtx holds what is not 0; rows.csv and columns.csv say which respondents and terms
          </span>
        </li>
      </ul>
    </section>
  );
}
