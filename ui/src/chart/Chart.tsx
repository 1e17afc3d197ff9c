import { type ReactNode, useState } from 'react';
import { useFocus } from '../lib/address';
import { api, type Chart as ChartData, type Condition, take } from '../lib/api';
import { useAsk, useDesk } from '../lib/desk';
import { count, percent, tint } from '../lib/format';

const bases = { answered: 'the answered', respondents: 'all respondents', coded: 'the coded' } as const;

/** Categories by a segment: a figure as it will stand in the report, and what makes it up in the margin. */
export default function Chart() {
  const { question } = useDesk();
  const { focusText, params, set } = useFocus();
  const by = params.get('by') ?? '';
  const base = (params.get('base') ?? 'answered') as keyof typeof bases;
  const weighted = params.get('weighted') === '1';
  const table = params.get('as') === 'table';
  const [sort, setSort] = useState<'frame' | 'share'>('frame');
  const [level, setLevel] = useState<'all' | 'nets' | 'categories'>('all');
  const query = { focus: focusText, by: by || undefined, base, weighted };
  const chart = useAsk(['chart', query], (q) =>
    take(api.GET('/api/v1/questions/{question}/chart', { params: { path: { question: q }, query } })),
  );
  const [hand, setHand] = useState(true);
  if (chart.error) return <p className="bad">{chart.error.message}</p>;
  const c = chart.data;
  if (!c) return <p className="ghost">&nbsp;</p>;
  const rows = c.rows
    .map((r, i) => ({ ...r, cells: c.cells[i]! }))
    .filter((r) => level === 'all' || !r.id || (level === 'nets' ? r.depth === 0 : !r.net));
  if (sort === 'share') rows.sort((a, b) => Number(!a.id) - Number(!b.id) || b.cells[0]!.share - a.cells[0]!.share);
  const link = (path: string, more: Record<string, string>) =>
    `/api/v1/questions/${question.id}/${path}?${new URLSearchParams(more)}`;
  const tableLink = link('table.csv', {
    ...(focusText ? { focus: focusText } : {}),
    by: c.segment,
    base,
    weighted: String(weighted),
  });
  return (
    <div className="chartv" aria-busy={chart.isPlaceholderData}>
      <section className="margin" aria-label="What makes it up">
        <label className="stack">
          by
          <select value={c.segment} onChange={(e) => set({ by: e.target.value, pick: '' })}>
            {c.segments.map((s) => (
              <option key={s.name} value={s.name}>
                {s.name} ({s.values})
              </option>
            ))}
          </select>
        </label>
        <label className="stack">
          as a share of
          <select value={base} onChange={(e) => set({ base: e.target.value })}>
            {Object.entries(bases).map(([k, v]) => (
              <option key={k} value={k}>
                {v}
              </option>
            ))}
          </select>
        </label>
        <label className="stack">
          rows
          <select value={level} onChange={(e) => setLevel(e.target.value as typeof level)}>
            <option value="all">nets and categories</option>
            <option value="nets">top level only</option>
            <option value="categories">categories only</option>
          </select>
        </label>
        <label className="stack">
          in order of
          <select value={sort} onChange={(e) => setSort(e.target.value as typeof sort)}>
            <option value="frame">the frame</option>
            <option value="share">share in all</option>
          </select>
        </label>
        {c.weight && (
          <label>
            <input
              type="checkbox"
              checked={weighted}
              onChange={(e) => set({ weighted: e.target.checked ? '1' : '' })}
            />{' '}
            weighted by {c.weight}
          </label>
        )}
        <div className="choice" role="group" aria-label="drawn as">
          <button type="button" aria-pressed={!table} onClick={() => set({ as: '' })}>
            Bars
          </button>
          <button type="button" aria-pressed={table} onClick={() => set({ as: 'table' })}>
            Table
          </button>
        </div>
      </section>
      <figure>
        <h1>What was said{c.segment ? `, by ${c.segment}` : ''}</h1>
        <p className="soft">{question.name}</p>
        {c.segments.length === 0 && (
          <p className="empty">No column of this study is a segment. The figure shows the total only.</p>
        )}
        {table ? <Figures c={c} rows={rows} /> : <Bars c={c} rows={rows} />}
        <figcaption>
          Share of {bases[base]}
          {c.weighted ? `, weighted by ${c.weight}` : ', unweighted'}; answers may be in several categories, so shares
          add up to more than 100 %.
          {c.several && ' Respondents may be in several columns.'}
          {c.missing > 0 && ` ${count(c.missing)} answers have no value in ${c.segment} and are left out.`} A base under{' '}
          {c.small} is marked; under {c.tiny} no share is given. The table has 95 % intervals (Wilson
          {c.weighted ? ', on the effective base' : ''}).
        </figcaption>
      </figure>
      <section className="out" aria-label="Out to a file">
        <span className="soft">Out to a file:</span>
        <ul className="plainlist row wrap">
          <li>
            <a href={tableLink} download>
              this table, CSV
            </a>
          </li>
          <li>
            <a href={link('coded.csv', { shape: 'wide', hand: String(hand) })} download>
              coded data, a column per category
            </a>
          </li>
          <li>
            <a href={link('coded.csv', { shape: 'long', hand: String(hand) })} download>
              coded data, a row per category
            </a>
          </li>
        </ul>
        <label>
          <input type="checkbox" checked={hand} onChange={(e) => setHand(e.target.checked)} /> with the decisions by
          hand ({count(question.byHand)})
        </label>
      </section>
    </div>
  );
}

type Row = ChartData['rows'][number] & { cells: ChartData['cells'][number] };

/** The conditions behind a cell: pressing it shows the very answers it counts. */
function useCell(c: ChartData) {
  const { setPick, params } = useFocus();
  const now = params.get('pick') ?? '';
  const behind = (r: Row, column: number): Condition[] => {
    const out: Condition[] = [r.id ? { kind: 'category', id: r.id } : { kind: 'coded', not: true }];
    if (column > 0) out.push({ kind: 'variable', name: c.segment, op: '=', values: [c.columns[column]!] });
    else if (c.missing > 0) out.push({ kind: 'variable', name: c.segment, op: '=', values: ['missing'], not: true });
    if (c.base === 'respondents') out.push({ kind: 'status', text: 'any' });
    return out;
  };
  return {
    show: (r: Row, column: number) => setPick(behind(r, column)),
    shown: (r: Row, column: number) => now === JSON.stringify(behind(r, column)),
  };
}

type Draw = (r: Row, column: number, press: { 'aria-pressed': boolean; onClick: () => void }) => ReactNode;

/** Rows by columns; every cell opens the answers behind it. */
function Grid({ c, rows, kind, draw }: { c: ChartData; rows: Row[]; kind: 'bars' | 'figures'; draw: Draw }) {
  const cell = useCell(c);
  return (
    <section
      className="scroll-x"
      aria-label={kind === 'bars' ? 'Bars' : 'Table'} // biome-ignore lint/a11y/noNoninteractiveTabindex: a scrolling region must be reachable by keyboard
      tabIndex={0}
    >
      <table className={kind}>
        <Head c={c} />
        <tbody>
          {rows.map((r) => (
            <tr key={r.id || 'none'} className={`${r.id ? tint(r.top) : 'none'}${r.depth === 0 ? ' top' : ''}`}>
              <Name r={r} />
              {r.cells.map((_, i) => (
                <td key={c.columns[i]} className={c.bases[i]!.answers < c.small ? 'thin' : ''}>
                  {draw(r, i, { 'aria-pressed': cell.shown(r, i), onClick: () => cell.show(r, i) })}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}

function Bars({ c, rows }: { c: ChartData; rows: Row[] }) {
  const given = (i: number) => c.bases[i]!.answers >= c.tiny;
  const most = Math.max(0.01, ...rows.flatMap((r) => r.cells.map((x, i) => (given(i) ? x.share : 0))));
  return (
    <Grid
      c={c}
      rows={rows}
      kind="bars"
      draw={(r, i, press) => {
        const x = r.cells[i]!;
        if (!given(i)) return <span className="soft">–</span>;
        return (
          <button
            type="button"
            className="bar"
            aria-label={`${r.name}, ${c.columns[i]}: ${percent(x.share)}, ${x.answers} answers; show them`}
            {...press}
          >
            <i style={{ width: `calc((100% - 34px) * ${x.share / most})` }} />
            <span>{(100 * x.share).toFixed(1)}</span>
          </button>
        );
      }}
    />
  );
}

function Figures({ c, rows }: { c: ChartData; rows: Row[] }) {
  return (
    <Grid
      c={c}
      rows={rows}
      kind="figures"
      draw={(r, i, press) => {
        const x = r.cells[i]!;
        const given = c.bases[i]!.answers >= c.tiny;
        return (
          <button type="button" className="cell" title={`show the ${x.answers} answers`} {...press}>
            <b>{given ? percent(x.share) : '–'}</b>
            <small>
              {count(x.answers)}
              {given && ` · ${(100 * x.low).toFixed(0)}–${(100 * x.high).toFixed(0)} %`}
              {given && i > 0 && x.index > 0 && ` · index ${x.index.toFixed(0)}`}
            </small>
          </button>
        );
      }}
    />
  );
}

function Head({ c }: { c: ChartData }) {
  return (
    <thead>
      <tr>
        <td />
        {c.columns.map((name) => (
          <th key={name} scope="col">
            {name}
          </th>
        ))}
      </tr>
      <tr className="baseline">
        <th scope="row">base</th>
        {c.bases.map((b, i) => (
          <td
            key={c.columns[i]}
            className={b.answers < c.small ? 'thin' : ''}
            title={
              c.weighted ? `weighted ${b.weighted.toFixed(1)}, effective base ${b.effective.toFixed(0)}` : undefined
            }
          >
            {count(b.answers)}
            {b.answers < c.small ? ' small' : ''}
            {c.weighted && <em> eff. {count(Math.round(b.effective))}</em>}
          </td>
        ))}
      </tr>
    </thead>
  );
}

function Name({ r }: { r: Row }) {
  return (
    <th scope="row" style={{ paddingLeft: 12 * r.depth }}>
      {r.short && <b className="key">{r.short}</b>}
      {r.name}
    </th>
  );
}
