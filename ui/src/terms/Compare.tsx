import { useAddress } from '../lib/address';
import type { Comparison, Condition, TermApart } from '../lib/api';
import { count, many, percent } from '../lib/format';
import { useKept } from '../lib/kept';
import { useAsk } from '../lib/queries';
import { itemAt } from '../lib/required';
import { Button } from '../parts/Button';
import { Checkbox } from '../parts/Checkbox';
import { Combobox } from '../parts/Combobox';
import { Files } from '../parts/Files';
import { Picture } from '../parts/Picture';
import { press } from '../parts/press';
import { optionsOf, Select } from '../parts/Select';
import { Empty, Skeleton } from '../parts/Text';
import { ToggleGroup } from '../parts/ToggleGroup';
import { ClassFilter, useWordClass } from './ClassFilter';
import { CloudPair } from './Cloud';

/** The terms that tell two groups apart: as mirrored bars, or as clouds side by side. */
export default function Compare() {
  const { focusText, get, set, setPick, pickText } = useAddress();
  const [most, setMost] = useKept('terms compared', 18);
  const [upright, setUpright] = useKept('upright words', false);
  const [by, a, b] = (['seg', 'a', 'b'] as const).map((k) => get(k) || undefined);
  const clouds = get('as') === 'clouds';
  const all = get('words') === 'all';
  const wordClass = useWordClass();
  const row = Number(get('row') || 1);
  const weighted = get('weighted') === 'yes';
  const query = { focus: focusText, by, a, b, limit: 500, row, class: wordClass, weighted };
  const compared = useAsk('compare', query);
  if (compared.error)
    return (
      <p className="text-clay">
        {compared.error.message}{' '}
        <Button look="plain" onClick={() => set({ seg: '', a: '', b: '' })}>
          Choose again
        </Button>
      </p>
    );
  const c = compared.data;
  if (!c) return <Skeleton lines={6} />;
  if (!c.segment)
    return <Empty>No column of this study parts the respondents. Say in Data which one is a segment.</Empty>;
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
  const behind = (side: number, term: string): Condition[] => [
    { kind: row > 1 ? 'row' : 'term', text: term },
    ...only(side),
  ];
  const pressed = (side: number, term: string) => pickText === JSON.stringify(behind(side, term));
  const open = (side: number, term: string) => setPick(behind(side, term));
  const empty = [c.a, c.b].find((g) => g.answers === 0);
  const tiny = [c.a, c.b].find((g) => g.answers > 0 && g.answers < c.tiny);
  const ofA = c.terms.filter((t) => t.aShare >= t.bShare && t.a > 0).slice(0, most);
  const ofB = c.terms.filter((t) => t.aShare < t.bShare && t.b > 0).slice(0, most);
  const words = (side: number) => {
    const list = all
      ? [...c.terms].sort((x, y) => (side ? y.b - x.b : y.a - x.a)).filter((t) => (side ? t.b : t.a) > 0)
      : c.terms.filter((t) => (side ? t.aShare < t.bShare && t.b > 0 : t.aShare >= t.bShare && t.a > 0));
    return list
      .slice(0, most * 3)
      .map((t) => ({ text: t.label, share: side ? t.bShare : t.aShare, answers: side ? t.b : t.a }));
  };
  const names = [c.a.name, c.b.name];
  const out = <Files of="compare" query={query} />;
  return (
    <div className="min-h-0 flex-1 overflow-auto pt-0.5 pr-2" aria-busy={compared.isPlaceholderData}>
      <div className="flex flex-wrap items-baseline gap-2.5 pb-2">
        <label>
          by{' '}
          <Combobox
            label="by"
            value={c.segment}
            change={(v) => set({ seg: v, a: '', b: '', pick: '' })}
            options={c.segments.map((s) => ({ value: s.name, words: s.name }))}
          />
        </label>
        <label>
          <span className="sr-only">first group</span>
          <Combobox
            label="first group"
            value={c.a.value}
            change={(v) => set({ a: v, b: v === b ? '' : (b ?? ''), pick: '' })}
            options={c.values.map((v) => ({ value: v, words: v }))}
          />
        </label>
        <label>
          against{' '}
          <Combobox
            label="against"
            value={c.b.value}
            change={(v) => set({ b: v, pick: '' })}
            options={[
              { value: '', words: 'the rest' },
              ...c.values.filter((v) => v !== c.a.value).map((v) => ({ value: v, words: v })),
            ]}
          />
        </label>
        <label>
          <Select
            label="words in a row"
            value={String(row)}
            change={(v) => set({ row: v === '1' ? '' : v, pick: '' })}
            options={[
              { value: '1', words: 'single terms' },
              { value: '2', words: 'two in a row' },
              { value: '3', words: 'three in a row' },
            ]}
          />
        </label>
        <ClassFilter />
        {c.weight && (
          <label>
            <Checkbox checked={weighted} change={(on) => set({ weighted: on ? 'yes' : '' })} /> weighted shares
          </label>
        )}
        <ToggleGroup
          label="drawn as"
          value={clouds ? 'clouds' : 'bars'}
          options={optionsOf({ bars: 'Bars', clouds: 'Clouds' })}
          change={(v) => set({ as: v === 'bars' ? '' : v })}
        />
        <label>
          {clouds ? 'words each' : 'terms each'}{' '}
          <Select
            label={clouds ? 'words each' : 'terms each'}
            value={String(most)}
            change={(v) => setMost(Number(v))}
            options={[8, 12, 18, 30, 50].map((n) => ({ value: String(n), words: String(clouds ? n * 3 : n) }))}
          />
        </label>
        {clouds && (
          <>
            <label>
              <Checkbox checked={all} change={(on) => set({ words: on ? 'all' : '' })} /> what both say too
            </label>
            <label>
              <Checkbox checked={upright} change={(on) => setUpright(on)} /> some upright
            </label>
          </>
        )}
      </div>
      {empty ? (
        <Empty>There is nothing to compare: no answer of the focus is in {empty.name}.</Empty>
      ) : tiny ? (
        <Empty>
          {many(tiny.answers, 'answer')} of the focus in {tiny.name}: under {c.tiny}, shares say nothing. Choose a
          larger group, or widen the focus.
        </Empty>
      ) : clouds ? (
        <Picture name={`${c.a.name} and ${c.b.name}`} more={out}>
          <CloudPair
            sets={[0, 1].map((i) => ({ name: itemAt(names, i), words: words(i) }))}
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
      <p className="text-sm text-soft">
        {c.a.name}: {many(c.a.answers, 'answer')}, {count(c.a.words)} words. {c.b.name}: {many(c.b.answers, 'answer')},{' '}
        {count(c.b.words)} words.
        {[c.a, c.b].some((g) => g.answers < c.small) &&
          ` A base under ${c.small} is small: differences there are mostly chance.`}{' '}
        {count(c.tested)} terms in five answers or more, those that differ most surely first: G² of the two by two table
        of answers, p adjusted for {count(c.tested)} tests (Benjamini-Hochberg); those over 0.05 are faint.
        {c.weighted && ` Shares are weighted by ${c.weight}; counts and tests are not.`}
        {c.both > 0 &&
          ` ${many(c.both, 'answer')} ${c.both === 1 ? 'is' : 'are'} on both sides, of respondents with both values; the test takes them for different ones.`}
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
      data-drawing="mirror"
      className="h-auto w-full max-w-260"
      viewBox={`0 0 ${wide} ${y(terms.length) + 10}`}
      role="group"
      aria-label="Terms that tell them apart"
    >
      <text className="font-semibold" fontSize={15} x={center - middle / 2 - 6} y={14} textAnchor="end">
        {c.a.name}
      </text>
      <text className="font-semibold" fontSize={15} x={center + middle / 2 + 6} y={14}>
        {c.b.name}
      </text>
      <text className="fill-soft" x={wide} y={14} textAnchor="end" fontSize={12}>
        p
      </text>
      {ofB.length > 0 && ofA.length > 0 && (
        <line className="stroke-line" x1={0} x2={wide} y1={y(ofA.length) - 12} y2={y(ofA.length) - 12} />
      )}
      {terms.map((t, i) => (
        <g key={t.label} opacity={t.adjusted > 0.05 ? 0.55 : 1}>
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
                data-part="half"
                className="aria-pressed:[&_[data-bar]]:stroke-ink aria-pressed:[&_[data-bar]]:stroke-2"
              >
                <rect
                  x={side ? edge : edge - room - figure}
                  y={y(i) - 3}
                  width={room + figure}
                  height={line}
                  fill="transparent"
                />
                <rect
                  data-bar=""
                  className={side ? 'fill-clay/72' : 'fill-moss/72'}
                  x={side ? edge : edge - w}
                  y={y(i)}
                  width={w}
                  height={line - 8}
                />
                <text
                  className="fill-soft"
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
          <text className="fill-soft" x={wide} y={y(i) + 12} textAnchor="end" fontSize={12}>
            {t.adjusted < 0.001 ? '< 0.001' : t.adjusted.toFixed(3)}
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
