import { useState } from 'react';
import { useFocus } from '../lib/address';
import { api, type Comparison, type Condition, type TermApart, take } from '../lib/api';
import { useAsk } from '../lib/desk';
import { count, many, percent } from '../lib/format';
import { Files } from '../parts/Files';
import { Picture } from '../parts/Picture';
import { press } from '../parts/press';
import { CloudPair } from './Cloud';

/** The terms that tell two groups apart: as mirrored bars, or as clouds side by side. */
export default function Compare() {
  const { focusText, params, set, setPick, pick } = useFocus();
  const [most, setMost] = useState(18);
  const [upright, setUpright] = useState(false);
  const [by, a, b] = ['seg', 'a', 'b'].map((k) => params.get(k) || undefined);
  const clouds = params.get('as') === 'clouds';
  const all = params.get('words') === 'all';
  const query = { focus: focusText, by, a, b, limit: 500 };
  const compared = useAsk(['compare', query], (q) =>
    take(api.GET('/api/v1/questions/{question}/compare', { params: { path: { question: q }, query } })),
  );
  if (compared.error)
    return (
      <p className="bad">
        {compared.error.message}{' '}
        <button type="button" className="plain" onClick={() => set({ seg: '', a: '', b: '' })}>
          begin again
        </button>
      </p>
    );
  const c = compared.data;
  if (!c) return <p className="ghost">&nbsp;</p>;
  if (!c.segment)
    return <p className="empty">No column of this study parts the respondents. Say in Data which one is a segment.</p>;
  const only = (side: number): Condition[] => {
    const is = (value: string, not?: boolean): Condition => ({
      kind: 'variable',
      name: c.segment,
      op: '=',
      values: [value],
      ...(not ? { not } : {}),
    });
    if (side === 0) return [is(c.a.value)];
    return c.b.value ? [is(c.b.value)] : [is(c.a.value, true), ...(c.missing ? [is('missing', true)] : [])];
  };
  const behind = (side: number, term: string): Condition[] => [{ kind: 'term', text: term }, ...only(side)];
  const pressed = (side: number, term: string) => JSON.stringify(pick) === JSON.stringify(behind(side, term));
  const open = (side: number, term: string) => setPick(behind(side, term));
  const ofA = c.terms.filter((t) => t.ratio >= 0 && t.a > 0).slice(0, most);
  const ofB = c.terms.filter((t) => t.ratio < 0 && t.b > 0).slice(0, most);
  const words = (side: number) => {
    const list = all
      ? [...c.terms].sort((x, y) => (side ? y.b - x.b : y.a - x.a)).filter((t) => (side ? t.b : t.a) > 0)
      : c.terms.filter((t) => (side ? t.ratio < 0 && t.b > 0 : t.ratio >= 0 && t.a > 0));
    return list
      .slice(0, most * 3)
      .map((t) => ({ text: t.label, share: side ? t.bShare : t.aShare, answers: side ? t.b : t.a }));
  };
  const names = [c.a.name, c.b.name];
  const out = <Files of="compare" query={query} />;
  return (
    <div className="comparev" aria-busy={compared.isPlaceholderData}>
      <div className="row wrap tools">
        <label>
          by{' '}
          <select value={c.segment} onChange={(e) => set({ seg: e.target.value, a: '', b: '', pick: '' })}>
            {c.segments.map((s) => (
              <option key={s.name}>{s.name}</option>
            ))}
          </select>
        </label>
        <label>
          <span className="sr">first group</span>
          <select
            value={c.a.value}
            onChange={(e) => set({ a: e.target.value, b: e.target.value === b ? '' : (b ?? ''), pick: '' })}
          >
            {c.values.map((v) => (
              <option key={v}>{v}</option>
            ))}
          </select>
        </label>
        <label>
          against{' '}
          <select value={c.b.value} onChange={(e) => set({ b: e.target.value, pick: '' })}>
            <option value="">the rest</option>
            {c.values
              .filter((v) => v !== c.a.value)
              .map((v) => (
                <option key={v}>{v}</option>
              ))}
          </select>
        </label>
        <span className="choice" role="group" aria-label="drawn as">
          <button type="button" aria-pressed={!clouds} onClick={() => set({ as: '' })}>
            Bars
          </button>
          <button type="button" aria-pressed={clouds} onClick={() => set({ as: 'clouds' })}>
            Clouds
          </button>
        </span>
        <label>
          {clouds ? 'words each' : 'terms each'}{' '}
          <select value={most} onChange={(e) => setMost(Number(e.target.value))}>
            {[8, 12, 18, 30, 50].map((n) => (
              <option key={n} value={n}>
                {clouds ? n * 3 : n}
              </option>
            ))}
          </select>
        </label>
        {clouds && (
          <>
            <label>
              <input type="checkbox" checked={all} onChange={(e) => set({ words: e.target.checked ? 'all' : '' })} />{' '}
              what both say too
            </label>
            <label>
              <input type="checkbox" checked={upright} onChange={(e) => setUpright(e.target.checked)} /> some upright
            </label>
          </>
        )}
      </div>
      {clouds ? (
        <Picture name={`${c.a.name} and ${c.b.name}`} more={out}>
          <CloudPair
            sets={[0, 1].map((i) => ({ name: names[i]!, words: words(i) }))}
            width={330}
            height={400}
            upright={upright}
            pressed={pressed}
            open={open}
          />
        </Picture>
      ) : (
        <Picture name={`${c.a.name} against ${c.b.name}`} more={out}>
          <Mirror c={c} ofA={ofA} ofB={ofB} pressed={pressed} open={open} />
        </Picture>
      )}
      <p className="soft small">
        {c.a.name}: {many(c.a.answers, 'answer')}, {count(c.a.words)} words. {c.b.name}: {many(c.b.answers, 'answer')},{' '}
        {count(c.b.words)} words. Terms in five answers or more, in the order of keyness (G² of the log-likelihood
        ratio, on words; over 10.83 is rarer than 1 in 1,000 by chance).
        {c.missing > 0 &&
          ` ${count(c.missing)} answers${focusText ? ' of the focus' : ''} have no value in ${c.segment} and are on neither side.`}
      </p>
    </div>
  );
}

type MirrorProps = {
  c: Comparison;
  ofA: TermApart[];
  ofB: TermApart[];
  pressed: (side: number, term: string) => boolean;
  open: (side: number, term: string) => void;
};

const wide = 680;
const line = 23;
const middle = 150; // the room of the words
const figure = 62; // and of the figures beside the bars

/** Bars to both sides of the words: the shares of the two groups. */
function Mirror({ c, ofA, ofB, pressed, open }: MirrorProps) {
  const terms = [...ofA, ...ofB];
  const most = Math.max(0.001, ...terms.flatMap((t) => [t.aShare, t.bShare]));
  const room = (wide - middle - 60) / 2 - figure;
  const center = (wide - 60) / 2;
  const y = (i: number) => 30 + i * line + (i >= ofA.length ? 26 : 0);
  return (
    <svg
      className="drawing mirror"
      viewBox={`0 0 ${wide} ${y(terms.length) + 10}`}
      role="group"
      aria-label="Terms that tell them apart"
    >
      <text className="side" x={center - middle / 2 - 6} y={14} textAnchor="end">
        {c.a.name}
      </text>
      <text className="side" x={center + middle / 2 + 6} y={14}>
        {c.b.name}
      </text>
      <text className="axis" x={wide} y={14} textAnchor="end" fontSize={12}>
        G²
      </text>
      {ofB.length > 0 && ofA.length > 0 && (
        <line className="ground" x1={0} x2={wide} y1={y(ofA.length) - 12} y2={y(ofA.length) - 12} />
      )}
      {terms.map((t, i) => (
        <g key={t.label}>
          <text x={center} y={y(i) + 12} textAnchor="middle" fontSize={14}>
            {t.label}
          </text>
          {[0, 1].map((side) => {
            const share = side ? t.bShare : t.aShare;
            const answers = side ? t.b : t.a;
            const w = (room * share) / most;
            const edge = center + (side ? 1 : -1) * (middle / 2 + 6);
            return (
              <g
                key={side}
                {...press(
                  () => open(side, t.label),
                  `${t.label}, ${side ? c.b.name : c.a.name}: ${percent(share)}, ${many(answers, 'answer')}; show them`,
                  pressed(side, t.label),
                )}
                className={`half side-${side}`}
              >
                <rect
                  x={side ? edge : edge - room - figure}
                  y={y(i) - 3}
                  width={room + figure}
                  height={line}
                  fill="transparent"
                />
                <rect className="barmark" x={side ? edge : edge - w} y={y(i)} width={w} height={line - 8} />
                <text
                  className="axis"
                  fontSize={12}
                  x={side ? edge + w + 5 : edge - w - 5}
                  y={y(i) + 12}
                  textAnchor={side ? 'start' : 'end'}
                >
                  {(100 * share).toFixed(1)} ({count(answers)})
                </text>
              </g>
            );
          })}
          <text className="axis" x={wide} y={y(i) + 12} textAnchor="end" fontSize={12}>
            {t.g2.toFixed(1)}
          </text>
        </g>
      ))}
      {!terms.length && (
        <text x={center} y={40} textAnchor="middle">
          No term is in five answers or more here.
        </text>
      )}
    </svg>
  );
}
