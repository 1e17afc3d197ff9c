import { hierarchy, treemap } from 'd3-hierarchy';
import { useMemo } from 'react';
import { useAddress } from '../lib/address';
import type { Corpus, Term } from '../lib/api';
import { useDesk } from '../lib/edits';
import { count, many, percent } from '../lib/format';
import { useKept } from '../lib/kept';
import { useAsk } from '../lib/queries';
import { required } from '../lib/required';
import { Button } from '../parts/Button';
import { Combobox } from '../parts/Combobox';
import { Files } from '../parts/Files';
import { NumberField } from '../parts/NumberField';
import { Picture } from '../parts/Picture';
import { press } from '../parts/press';
import { optionsOf, Select } from '../parts/Select';
import { Slider } from '../parts/Slider';
import { Table } from '../parts/Table';
import { Empty, Skeleton } from '../parts/Text';
import { ToggleGroup } from '../parts/ToggleGroup';
import { ClassFilter, useWordClass } from './ClassFilter';
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
  const { focusText, one, get, set, setPick, pick } = useAddress();
  const way = one('see', Object.keys(ways) as Way[]);
  const by = get('seg') || undefined;
  const [most, setMost] = useKept('terms drawn', 60);
  const wordClass = useWordClass();
  const listed = { focus: focusText, class: wordClass };
  const terms = useAsk('terms', { ...listed, limit: most });
  const corpus = useAsk('corpus', { focus: focusText, by });
  const error = terms.error ?? corpus.error;
  if (error) return <p className="text-clay">{error.message}</p>;
  const pressed = (label: string) => pick.some((c) => c.kind === 'term' && c.text === label);
  const open = (label: string) => setPick([{ kind: 'term', text: label }]);
  const pictured = way === 'treemap' || way === 'cloud';
  return (
    <div className="min-h-0 flex-1 overflow-auto pt-0.5 pr-2">
      <div className="flex flex-wrap items-baseline gap-2.5 pb-2">
        <ToggleGroup
          label="seen as"
          value={way}
          options={optionsOf(ways)}
          change={(w) => set({ see: w === 'treemap' ? '' : w })}
        />
        {pictured && (
          <label>
            terms <Slider label="terms" value={most} least={30} most={250} step={10} change={setMost} /> {most}
          </label>
        )}
        {pictured && <ClassFilter />}
      </div>
      {pictured && !terms.data && <Skeleton lines={6} />}
      {way === 'treemap' && terms.data && (
        <Picture name="Treemap of terms" more={<Files of="terms" query={listed} />}>
          <Treemap terms={terms.data.terms} pressed={pressed} open={open} />
          <p className="text-sm text-soft">
            The {count(terms.data.terms.length)} most frequent of {many(terms.data.total, 'term')}; area goes with the
            number of answers, the bar at the foot of each shows how many of them are not coded.
          </p>
        </Picture>
      )}
      {way === 'cloud' && terms.data && (
        <Picture name="Cloud of terms" more={<Files of="terms" query={listed} />}>
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
      {(way === 'coverage' || way === 'figures') && !corpus.data && <Skeleton lines={6} />}
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
    if (!terms.length) return []; // the root alone would be a leaf

    const root = hierarchy<{ term?: Term; children?: { term: Term }[] }>({
      children: terms.map((term) => ({ term })),
    }).sum((d) => d.term?.answers ?? 0);
    return treemap<{ term?: Term }>().size([wide, tall]).paddingInner(2).round(true)(root).leaves();
  }, [terms]);
  if (!leaves.length) return <Empty>No term is left to draw.</Empty>;
  return (
    <svg
      data-drawing="treemap"
      className="h-auto w-full max-w-260"
      viewBox={`0 0 ${wide} ${tall}`}
      role="group"
      aria-label="Treemap of terms"
    >
      {leaves.map((l) => {
        const t = required(l.data.term);
        const w = l.x1 - l.x0;
        const h = l.y1 - l.y0;
        const size = Math.max(9, Math.min(22, h / 2.4, (w - 9) / (t.label.length * 0.54)));
        // A label that would be cut is left to the tooltip; its tile is still there, and says it to a screen reader.
        const fits = t.label.length * size * 0.52 < w - 5 && h > size + 4;
        return (
          <g
            key={t.label}
            {...press(() => open(t.label), `${t.label} ${many(t.answers, 'answer')}; show them`, pressed(t.label))}
            data-part="tile"
            className="[&_rect:first-of-type]:fill-mosspale hover:[&_rect:first-of-type]:fill-straw
              aria-pressed:[&_rect:first-of-type]:fill-straw"
          >
            <rect x={l.x0} y={l.y0} width={w} height={h} />
            <rect
              className="fill-clay"
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
              <text className="fill-soft" x={l.x0 + 4} y={l.y0 + size + 15} fontSize={11.5}>
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
  const { focusText } = useAddress();
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
        data-part="coverage"
        data-drawing="coverage"
        className="h-auto w-full max-w-260"
        viewBox={`0 0 ${wide} ${height + 34}`}
        role="group"
        aria-label="How much of the text the first terms cover"
      >
        {[0, 0.25, 0.5, 0.75, 1].map((s) => (
          <g key={s}>
            <line className="stroke-hair" x1={left} x2={wide - 10} y1={y(s)} y2={y(s)} />
            <text className="fill-soft" x={left - 6} y={y(s) + 4} textAnchor="end" fontSize={12}>
              {100 * s} %
            </text>
          </g>
        ))}
        {ticks.map((n) => (
          <text key={n} className="fill-soft" x={x(n)} y={height + 10} textAnchor="middle" fontSize={12}>
            {count(n)}
          </text>
        ))}
        <text className="fill-soft" x={wide - 10} y={height + 28} textAnchor="end" fontSize={12}>
          most frequent terms (log scale)
        </text>
        <path className="fill-none stroke-soft stroke-[1.5] [stroke-dasharray:4_3]" d={path(c.coverage)} />
        <path className="fill-none stroke-moss stroke-2" d={path(c.telling)} />
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
          <text
            x={x(required(c.coverage.at(-1)).terms) - 8}
            y={y(required(c.coverage.at(-1)).share) + 18}
            textAnchor="end"
            fontSize={13}
          >
            all words
          </text>
        )}
        {c.telling.length > 3 && (
          <text
            x={x(required(c.telling.at(-1)).terms) - 8}
            y={y(required(c.telling.at(-1)).share) - 12}
            textAnchor="end"
            fontSize={13}
          >
            hidden ones aside
          </text>
        )}
      </svg>
      <p className="text-sm text-soft">
        {c.half > 0 &&
          `The ${count(c.half)} most frequent terms make up half of all words${focusText ? ' of the focus' : ''}. `}
        {count(c.terms)} different terms {focusText ? 'in the focus' : 'in all'}.
      </p>
    </>
  );
}

type Told = Corpus['figures'][number];

const figure = (name: string, told: string, cell: (f: Told) => string) => ({
  key: name,
  name,
  told,
  figure: true,
  cell,
});

function Figures({ c, choose }: { c: Corpus; choose: (segment: string) => void }) {
  const { focusText, setPick } = useAddress();
  return (
    <>
      {c.segments.length > 0 && (
        <p>
          <label>
            by{' '}
            <Combobox
              label="by"
              value={c.segment}
              change={(v) => choose(v)}
              options={c.segments.map((s) => ({ value: s.name, words: s.name }))}
            />
          </label>
        </p>
      )}
      <Table
        label="The text by its segments"
        rows={c.figures}
        id={(f) => f.name}
        columns={[
          {
            key: 'name',
            name: c.segment,
            head: true,
            cell: (f) =>
              f === c.figures[0] ? (
                f.name
              ) : (
                <Button
                  look="plain"
                  data-stop=""
                  onClick={() => setPick([{ kind: 'variable', name: c.segment, op: '=', values: [f.name] }])}
                >
                  {f.name}
                </Button>
              ),
          },
          figure('answers', 'Answers of the focus that say something', (f) => count(f.answers)),
          figure('words', 'All words said', (f) => count(f.words)),
          figure('different words', 'Each counted once, as the lexicon joins them', (f) => count(f.distinct)),
          figure(
            'richness',
            `Different words to be expected among ${count(c.sample)} words drawn from the text`,
            (f) => (f.richness ? f.richness.toFixed(0) : '–'),
          ),
          figure('words per answer', 'Mean over the answers', (f) => f.mean.toFixed(1)),
          figure('median', 'Words of the answer in the middle', (f) => String(f.median)),
        ]}
      />
      <p className="text-sm text-soft">
        Richness: how many different words are to be expected among {count(c.sample)} words drawn from the text, so that
        long and short texts can be compared; none is given under {count(c.sample)} words. Download:{' '}
        <Files of="corpus" query={{ focus: focusText, by: c.segment }} />
      </p>
    </>
  );
}

/** The answers by terms as a file for a statistics program. */
function Matrix() {
  const { question } = useDesk();
  const { focusText } = useAddress();
  const [values, setValues] = useKept('matrix cells', 'counts');
  const [least, setLeast] = useKept('matrix least', 5);
  const [terms, setTerms] = useKept('matrix terms', 1000);
  const link = (format: string) =>
    `/api/v1/questions/${question.id}/matrix/file?${new URLSearchParams({
      format,
      ...(focusText ? { focus: focusText } : {}),
      values,
      least: String(least),
      terms: String(terms),
    })}`;
  return (
    <section data-part="filesv" className="grid gap-3" aria-label="For statistics programs">
      <h2>Answers by terms</h2>
      <p>
        A row for each of the {count(question.focus)} answers in focus, a column for each term that is not hidden; what
        a cell holds is chosen here.
      </p>
      <p className="flex flex-wrap items-baseline gap-2.5">
        <label>
          cells are{' '}
          <Select
            label="cells are"
            value={values}
            change={(v) => setValues(v)}
            options={[
              { value: 'counts', words: 'occurrences' },
              { value: 'binary', words: '0 or 1' },
              { value: 'share', words: 'shares of the answer’s words' },
              { value: 'tfidf', words: 'weighted tf-idf, rows of length 1' },
            ]}
          />
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
          <span className="text-soft">with the respondent in the first column</span>
        </li>
        <li>
          <a href={link('zip')} download>
            Matrix Market, ZIP
          </a>{' '}
          <span className="text-soft">
            matrix.mtx holds what is not 0; rows.csv and columns.csv say which respondents and terms
          </span>
        </li>
      </ul>
    </section>
  );
}
