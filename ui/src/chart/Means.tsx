import { useEffect, useMemo, useState } from 'react';
import { bareChance, chance, netScore, signed } from '../drawing/figures';
import { oftenAgainstMean } from '../drawing/often';
import { Planned } from '../drawing/Planned';
import { useStyle } from '../drawing/useStyle';
import { useAddress } from '../lib/address';
import type { MeanRow, Means as MeansData } from '../lib/api';
import { count, percent, tint } from '../lib/format';
import { useAsk } from '../lib/queries';
import { itemAt } from '../lib/required';
import { Failed } from '../parts/Asked';
import { Button } from '../parts/Button';
import { Checkbox } from '../parts/Checkbox';
import { Combobox } from '../parts/Combobox';
import { Choice, optionsOf } from '../parts/Select';
import { type Column, Table } from '../parts/Table';
import { Empty, Labelled, Skeleton, TextField } from '../parts/Text';
import { ToggleGroup } from '../parts/ToggleGroup';
import { answerBase, answerBases, useDesign } from './design';
import { Titled } from './Titled';

const orders = {
  frame: 'the frame',
  apart: 'difference, lowest first',
  mean: 'mean, lowest first',
  size: 'answers',
  name: 'name',
};

/** A number among those with and without each category. */
export default function Means() {
  const { focus, get, one } = useAddress();
  const as = one('as', ['table', 'often'] as const);
  const { query: asTable, set } = useDesign();
  // Rows by fields are set at the table, and nothing here would show or end it.
  const query = { ...asTable, where: undefined, group: undefined };
  const { focus: _, by: __, ...of } = query;
  const base = answerBase(query.base);
  const sort = query.sort in orders ? (query.sort as keyof typeof orders) : 'frame';
  const means = useAsk('means', {
    ...query,
    base,
    sort,
    of: get('of') || undefined,
    bands: get('bands') || undefined,
  });
  if (means.error && !means.data) return <Failed error={means.error} again={() => means.refetch()} />;
  const m = means.data;
  if (!m) return <Skeleton lines={8} />;
  if (!m.of)
    return (
      <Empty>
        No column of this study is a number. In Data, a column such as “likelihood to recommend” is made one.
      </Empty>
    );
  return (
    <div className="grid max-w-400 gap-3 pr-2 pb-4" aria-busy={means.isPlaceholderData}>
      <div className="flex flex-wrap items-end gap-x-4 gap-y-2 border-b pb-3">
        <Labelled name="mean of">
          <Combobox
            label="mean of"
            value={m.of}
            change={(v) => set({ of: v, bands: '' })}
            options={m.numbers.map((n) => ({ value: n.name, words: n.name }))}
          />
        </Labelled>
        <Choice
          label="among"
          value={base}
          change={(v) => set({ base: v === 'answered' ? '' : v })}
          options={optionsOf(answerBases)}
        />
        <Choice
          label="in order of"
          value={sort}
          change={(v) => set({ sort: v === 'frame' ? '' : v })}
          options={optionsOf(orders)}
        />
        <Bands edges={m.edges} change={(edges) => set({ bands: JSON.stringify(edges) })} />
        {m.weight && (
          <label className="flex items-center gap-1.5 pb-1">
            <Checkbox checked={query.weighted} change={(on) => set({ weighted: on ? '1' : '' })} /> weighted by{' '}
            {m.weight}
          </label>
        )}
        <ToggleGroup
          label="drawn as"
          value={as}
          options={optionsOf({ table: 'Table', often: 'How often against mean' })}
          change={(v) => set({ as: v === 'table' ? '' : v })}
        />
      </div>
      {means.error && <Failed error={means.error} again={() => means.refetch()} />}
      <Titled
        drawn={{
          kind: 'means',
          focus,
          ...of,
          base,
          sort,
          of: m.of,
          bands: m.edges.length ? JSON.stringify(m.edges) : undefined,
          as,
        }}
        usual={`${m.label}, with and without each category`}
        under={
          <>
            Among all: mean {m.all.mean.toFixed(2)} ({m.all.low.toFixed(2)} to {m.all.high.toFixed(2)}, base{' '}
            {count(m.all.answers)})
            {m.scale && `, net score ${netScore(m.all.net.score)} (± ${(196 * m.all.net.error).toFixed(1)})`}
          </>
        }
        ready={!!means.now}
        notes={m.notes}
      >
        {(title) =>
          as === 'table' ? (
            <div className="overflow-x-auto pt-2">
              <Figures m={m} />
            </div>
          ) : (
            <Often m={m} title={title} />
          )
        }
      </Titled>
    </div>
  );
}

/** How often each category is said, against the mean of those who say it. */
function Often({ m, title }: { m: MeansData; title: string }) {
  const { setPick } = useAddress();
  const { style } = useStyle();
  const drawn = useMemo(
    () => oftenAgainstMean(m, (r) => setPick([...m.conditions, ...r.conditions]), style),
    [m, setPick, style],
  );
  return (
    <div className="pt-2">
      <Planned name={title} plan={drawn} style={style} />
      {drawn.left && <p className="text-sm text-clay">{drawn.left}</p>}
    </div>
  );
}

/** Where bands begin, as numbers with commas between them. */
function Bands({ edges, change }: { edges: number[]; change: (edges: number[]) => void }) {
  const now = edges.join(', ');
  const [typed, setTyped] = useState(now);
  useEffect(() => setTyped(now), [now]);
  const read = typed
    .split(/[,;\s]+/)
    .filter(Boolean)
    .map(Number);
  const wrong = read.some((n) => !Number.isFinite(n)) || read.some((n, i) => i > 0 && n <= itemAt(read, i - 1));
  return (
    <form
      onSubmit={(e) => {
        e.preventDefault();
        if (!wrong) change(read);
      }}
    >
      <Labelled name="bands begin at">
        <TextField
          value={typed}
          className="w-28"
          placeholder="none"
          aria-invalid={wrong}
          title="Numbers, each greater than the one before, such as 7, 9"
          onChange={(e) => setTyped(e.target.value)}
          onBlur={() => !wrong && typed !== now && change(read)}
        />
      </Labelled>
    </form>
  );
}

function Figures({ m }: { m: MeansData }) {
  const { setPick, pickText } = useAddress();
  const behind = (r: MeanRow) => [...m.conditions, ...r.conditions];
  const given = (n: number) => n >= 10;
  const columns: Column<MeanRow>[] = [
    {
      key: 'name',
      name: '',
      head: true,
      className: 'min-w-40',
      cell: (r) => (
        <span className={`${r.top >= 0 ? tint(r.top) : ''} block`} style={{ paddingLeft: 12 * r.depth }}>
          {r.short && <b className="inline-block min-w-5.5 text-xs font-bold text-(--c)">{r.short}</b>}
          <span className={r.depth === 0 && r.id ? 'font-semibold' : r.id ? '' : 'text-soft'}>{r.name}</span>
        </span>
      ),
    },
    {
      key: 'with',
      name: 'with',
      told: 'Mean among the answers with the category; pressing it shows them',
      figure: true,
      cell: (r) => (
        <Button
          look="bare"
          data-stop=""
          aria-pressed={pickText === JSON.stringify(behind(r))}
          className="rounded-sm px-1 hover:bg-hair aria-pressed:bg-straw forced-colors:aria-pressed:outline"
          onClick={() => setPick(behind(r))}
        >
          <span className="sr-only">{r.path}: </span>
          {given(r.with.answers) ? r.with.mean.toFixed(2) : '–'}
          <small className="pl-1.5 text-xs text-soft">{count(r.with.answers)}</small>
        </Button>
      ),
    },
    {
      key: 'without',
      name: 'without',
      told: 'Mean among the others of the base',
      figure: true,
      cell: (r) => (
        <>
          {given(r.without.answers) ? r.without.mean.toFixed(2) : '–'}
          <small className="pl-1.5 text-xs text-soft">{count(r.without.answers)}</small>
        </>
      ),
    },
    {
      key: 'apart',
      name: 'difference',
      told: 'With less without, with its 95 % interval; ▲ or ▼ where it is sure (Welch’s test, corrected)',
      figure: true,
      cell: (r) =>
        r.tested ? (
          <span title={`t ${r.apart.t.toFixed(2)}, df ${r.apart.df.toFixed(1)}, ${chance(r.adjusted)} (corrected)`}>
            <small className="pr-1 text-xs font-semibold text-clay">
              {r.adjusted < 0.05 ? (r.apart.difference > 0 ? '▲' : '▼') : ''}
            </small>
            {signed(r.apart.difference)}
            <small className="pl-1.5 text-xs text-soft">
              {signed(r.apart.low)} to {signed(r.apart.high)}
            </small>
          </span>
        ) : (
          <small className="text-xs text-soft">not tested</small>
        ),
    },
    {
      key: 'p',
      name: 'p',
      told: 'Two-sided, corrected among the rows',
      figure: true,
      cell: (r) => (r.tested ? bareChance(r.adjusted) : ''),
    },
    {
      key: 'd',
      name: 'd',
      told: 'Cohen’s d: the difference in pooled standard deviations',
      figure: true,
      cell: (r) => (r.tested ? signed(r.apart.d) : ''),
    },
    {
      key: 'r',
      name: 'r',
      told: 'Pearson’s correlation of having the category with the number, not weighted; on hover with its interval, and Spearman’s',
      figure: true,
      cell: (r) =>
        r.correlated ? (
          <span
            title={`95 % interval ${signed(r.correlation.low)} to ${signed(r.correlation.high)}; Spearman ${signed(r.correlation.spearman)}`}
          >
            {signed(r.correlation.pearson)}
          </span>
        ) : (
          ''
        ),
    },
    ...m.bands.map(
      (band, i): Column<MeanRow> => ({
        key: `band ${i}`,
        name: band,
        told: `Share of ${band} among the answers with the category, and among the others`,
        figure: true,
        cell: (r) => (
          <>
            {given(r.with.answers) ? percent(itemAt(r.with.bands, i)) : '–'}
            <small className="pl-1.5 text-xs text-soft">
              {given(r.without.answers) ? (100 * itemAt(r.without.bands, i)).toFixed(1) : '–'}
            </small>
          </>
        ),
      }),
    ),
    ...(m.scale
      ? [
          {
            key: 'net',
            name: 'net score',
            told: 'The share of 9 and 10 less the share of 0 to 6, in points, among the answers with the category and among the others',
            figure: true,
            cell: (r: MeanRow) => (
              <>
                {given(r.with.answers) ? netScore(r.with.net.score) : '–'}
                <small className="pl-1.5 text-xs text-soft">
                  {given(r.without.answers) ? netScore(r.without.net.score) : '–'}
                </small>
              </>
            ),
          },
        ]
      : []),
  ];
  return (
    <Table
      label="Means"
      columns={columns}
      rows={m.rows}
      id={(r) => r.id || r.kind}
      dim={(r) => r.with.answers < 30 || r.without.answers < 30}
    />
  );
}
