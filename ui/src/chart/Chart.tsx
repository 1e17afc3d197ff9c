import type { ReactNode } from 'react';
import { useAddress } from '../lib/address';
import type { Chart as ChartData, Condition } from '../lib/api';
import { useDesk } from '../lib/edits';
import { count, many, percent, tint } from '../lib/format';
import { useKept } from '../lib/kept';
import { useAsk } from '../lib/queries';
import type { Reading } from '../lib/reading';
import { Failed } from '../parts/Asked';
import { Button } from '../parts/Button';
import { Checkbox } from '../parts/Checkbox';
import { Combobox } from '../parts/Combobox';
import { useRoving } from '../parts/roving';
import { optionsOf, Select } from '../parts/Select';
import { Empty, Labelled, Skeleton } from '../parts/Text';
import { ToggleGroup } from '../parts/ToggleGroup';
import { Heading } from '../parts/Tooltip';

const bases = { answered: 'the answered', respondents: 'all respondents', coded: 'the coded' } as const;
type Base = keyof typeof bases;
const levels = { all: 'nets and categories', nets: 'top level only', categories: 'categories only' } as const;
const orders = { frame: 'the frame', share: 'share in all' } as const;

/** Categories by a segment: a figure as it will stand in the report, and what makes it up in the margin. */
export default function Chart() {
  const { question } = useDesk();
  const { focusText, get, one, set } = useAddress();
  const by = get('by');
  const base = one<Base>('base', ['answered', 'respondents', 'coded']);
  const weighted = get('weighted') === '1';
  const as = one('as', ['bars', 'table']);
  const sort = one<keyof typeof orders>('sort', ['frame', 'share']);
  const level = one<keyof typeof levels>('rows', ['all', 'nets', 'categories']);
  const query = { focus: focusText, by: by || undefined, base, weighted };
  const chart = useAsk('chart', query);
  const [hand, setHand] = useKept('chart by hand', true);
  const [show, setShow] = useKept<Reading>('answers in files', 'written');
  if (chart.error)
    return (
      <>
        <Failed error={chart.error} again={() => chart.refetch()} />
        {by && (
          <p>
            It was asked for by “{by}”.{' '}
            <Button look="plain" onClick={() => set({ by: '', pick: '' })}>
              Chart by another column
            </Button>
          </p>
        )}
      </>
    );
  const c = chart.data;
  if (!c) return <Skeleton lines={8} />;
  const rows = c.rows
    .map((r, i) => ({ ...r, cells: c.cells[i]! }))
    .filter((r) => level === 'all' || !r.id || (level === 'nets' ? r.depth === 0 : !r.net));
  if (sort === 'share') rows.sort((a, b) => Number(!a.id) - Number(!b.id) || b.cells[0]!.share - a.cells[0]!.share);
  const link = (path: string, more: Record<string, string>) =>
    `/api/v1/questions/${question.id}/${path}?${new URLSearchParams(more)}`;
  // A column goes by its short label, where it has one.
  const shortName = (name: string) => question.study.columns.find((s) => s.name === name)?.label ?? name;
  const tableLink = link('table.csv', {
    ...(focusText ? { focus: focusText } : {}),
    by: c.segment,
    base,
    weighted: String(weighted),
  });
  return (
    <div className="grid max-w-400 gap-3.5" aria-busy={chart.isPlaceholderData}>
      <section className="flex flex-wrap items-end gap-x-4 gap-y-2 border-b pb-3" aria-label="What makes it up">
        <Labelled name="by">
          <Combobox
            label="by"
            value={c.segment}
            change={(v) => set({ by: v, pick: '' })}
            options={c.segments.map((s) => ({ value: s.name, words: `${shortName(s.name)} (${s.values})` }))}
          />
        </Labelled>
        <Labelled name="as a share of">
          <Select
            label="as a share of"
            value={base}
            change={(v) => set({ base: v === 'answered' ? '' : v })}
            options={optionsOf(bases)}
          />
        </Labelled>
        <Labelled name="rows">
          <Select
            label="rows"
            value={level}
            change={(v) => set({ rows: v === 'all' ? '' : v })}
            options={optionsOf(levels)}
          />
        </Labelled>
        <Labelled name="in order of">
          <Select
            label="in order of"
            value={sort}
            change={(v) => set({ sort: v === 'frame' ? '' : v })}
            options={optionsOf(orders)}
          />
        </Labelled>
        {c.weight && (
          <label className="flex items-center gap-1.5 pb-1">
            <Checkbox checked={weighted} change={(on) => set({ weighted: on ? '1' : '' })} /> weighted by {c.weight}
          </label>
        )}
        <ToggleGroup
          label="drawn as"
          value={as}
          options={optionsOf({ bars: 'Bars', table: 'Table' })}
          change={(v) => set({ as: v === 'bars' ? '' : v })}
        />
      </section>
      <figure className="min-w-0">
        <h1 className="font-serif text-2xl font-semibold [overflow-wrap:anywhere]">
          What was said{c.segment ? `, by ${shortName(c.segment)}` : ''}
        </h1>
        <p className="text-soft">{question.name}</p>
        {c.segments.length === 0 && (
          <Empty>No column of this study is a segment. The figure shows the total only.</Empty>
        )}
        <Grid c={c} rows={rows} table={as === 'table'} />
        <figcaption className="border-t pt-2.5 text-sm text-soft">
          Share of {bases[base]}
          {c.weighted ? `, weighted by ${c.weight}` : ', unweighted'}; answers may be in several categories, so shares
          add up to more than 100 %.
          {c.several && ' Respondents may be in several columns.'}
          {c.suggested > 0 &&
            ` ${many(c.suggested, 'answer')} of the base ${c.suggested === 1 ? 'has' : 'have'} categories that were put on since they are likely, and that nobody has read.`}
          {c.missing > 0 && ` ${count(c.missing)} answers have no value in ${shortName(c.segment)} and are left out.`} A
          base under {c.small} is marked; under {c.tiny} no share is given. The table has 95 % intervals (Wilson
          {c.weighted ? ', on the effective base' : ''}).
        </figcaption>
      </figure>
      <section className="grid gap-1 text-sm" aria-label="Download">
        <span className="text-soft">Download:</span>
        <ul className="flex flex-wrap items-baseline gap-2.5">
          <li>
            <a className="underline" href={tableLink} download>
              this table, CSV
            </a>
          </li>
          <li>
            <a className="underline" href={link('coded.csv', { shape: 'wide', hand: String(hand), show })} download>
              coded data, a column per category
            </a>
          </li>
          <li>
            <a className="underline" href={link('coded.csv', { shape: 'long', hand: String(hand), show })} download>
              coded data, a row per category
            </a>
          </li>
        </ul>
        <label>
          <Checkbox checked={hand} change={setHand} /> with the decisions by hand ({count(question.byHand)})
        </label>
        <label>
          <Checkbox checked={show === 'read'} change={(on) => setShow(on ? 'read' : 'written')} /> answers as people
          read them, without tags (else as written)
        </label>
      </section>
    </div>
  );
}

type Row = ChartData['rows'][number] & { cells: ChartData['cells'][number] };

/** The conditions behind a cell: pressing it shows the very answers it counts. */
function useCell(c: ChartData) {
  const { setPick, pickText } = useAddress();
  const behind = (r: Row, column: number): Condition[] => {
    const out: Condition[] = [r.id ? { kind: 'category', id: r.id } : { kind: 'coded', not: true }];
    if (column > 0) out.push({ kind: 'variable', name: c.segment, op: '=', values: [c.columns[column]!] });
    else if (c.missing > 0) out.push({ kind: 'variable', name: c.segment, op: '=', values: ['missing'], not: true });
    if (c.base === 'respondents') out.push({ kind: 'status', text: 'any' });
    return out;
  };
  return {
    show: (r: Row, column: number) => setPick(behind(r, column)),
    shown: (r: Row, column: number) => pickText === JSON.stringify(behind(r, column)),
  };
}

/** Rows by columns; every cell opens the answers behind it. */
function Grid({ c, rows, table }: { c: ChartData; rows: Row[]; table: boolean }) {
  const cell = useCell(c);
  const stops = useRoving<HTMLTableElement>({ across: true, columns: c.columns.length });
  const given = (i: number) => c.bases[i]!.answers >= c.tiny;
  const most = Math.max(0.01, ...rows.flatMap((r) => r.cells.map((x, i) => (given(i) ? x.share : 0))));
  return (
    <div className="overflow-x-auto">
      <table
        {...stops}
        data-part={table ? 'figures' : 'bars'}
        aria-label={table ? 'Table' : 'Bars'}
        // Columns of one width: bars in them are compared.
        className={`mt-3 w-full border-collapse ${table ? '' : 'table-fixed'}`}
        style={table ? undefined : { minWidth: `${11.5 + 5 * c.columns.length}rem` }}
      >
        <Head c={c} right={table} />
        <tbody>
          {rows.map((r) => (
            <tr key={r.id || 'none'} className={r.id ? tint(r.top) : '[--c:var(--color-soft)]'}>
              <th
                scope="row"
                className={`py-0.5 pr-3 text-left ${table ? 'whitespace-nowrap' : '[overflow-wrap:anywhere]'}
                  ${r.depth === 0 ? 'border-t border-hair font-semibold' : 'font-normal'}`}
                style={{ paddingLeft: 12 * r.depth }}
              >
                {r.short && <b className="inline-block min-w-5.5 text-xs font-bold text-(--c)">{r.short}</b>}
                {r.name}
              </th>
              {r.cells.map((_, i) => {
                const thin = c.bases[i]!.answers < c.small;
                return (
                  <td
                    key={c.columns[i]}
                    className={`pr-2 ${r.depth === 0 ? 'border-t border-hair' : ''} ${thin ? 'text-soft italic' : ''}`}
                  >
                    <Cell
                      c={c}
                      r={r}
                      column={i}
                      most={most}
                      table={table}
                      pressed={cell.shown(r, i)}
                      press={() => cell.show(r, i)}
                    />
                  </td>
                );
              })}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

type CellProps = {
  c: ChartData;
  r: Row;
  column: number;
  /** The greatest share of all, which a full bar stands for. */
  most: number;
  table: boolean;
  pressed: boolean;
  press: () => void;
};

function Cell({ c, r, column, most, table, pressed, press }: CellProps) {
  const x = r.cells[column]!;
  const base = c.bases[column]!.answers;
  const given = base >= c.tiny;
  const button = (inside: ReactNode, className: string) => (
    <Button
      look="bare"
      data-stop=""
      data-part={table ? 'cell' : 'bar'}
      aria-pressed={pressed}
      aria-label={
        table
          ? undefined
          : `${r.name}, ${c.columns[column]}: ${given ? percent(x.share) : 'no share'}, ${count(x.answers)} answers; show them`
      }
      onClick={press}
      className={`relative w-full rounded-sm hover:bg-hair aria-pressed:bg-straw forced-colors:aria-pressed:outline ${className}`}
    >
      {inside}
    </Button>
  );
  if (!table)
    return button(
      given ? (
        <>
          <span
            className="h-3 min-w-px flex-none bg-(--c) opacity-85 forced-color-adjust-none"
            style={{ width: `calc((100% - 2.1rem) * ${x.share / most})`, opacity: base < c.small ? 0.45 : undefined }}
          />
          <span className="text-sm">{(100 * x.share).toFixed(1)}</span>
        </>
      ) : (
        <span className="text-soft">–</span>
      ),
      'flex h-6 min-w-15.5 items-center gap-1.25',
    );
  return button(
    <>
      <span className="sr-only">
        {r.name}, {c.columns[column]}:
      </span>
      <b className="font-medium">{given ? percent(x.share) : '–'}</b>
      <small className={`text-xs whitespace-nowrap ${pressed ? 'text-ink' : 'text-soft'}`}>
        {count(x.answers)}
        {given && ` · ${(100 * x.low).toFixed(0)}–${(100 * x.high).toFixed(0)} %`}
        {given && column > 0 && x.index > 0 && ` · index ${x.index.toFixed(0)}`}
      </small>
    </>,
    'grid px-1 py-0.5 text-right',
  );
}

function Head({ c, right }: { c: ChartData; right: boolean }) {
  const side = right ? 'text-right' : 'text-left';
  return (
    <thead>
      <tr>
        <td className="w-46" />
        {c.columns.map((name) => (
          <th
            key={name}
            scope="col"
            className={`pr-1.5 pb-1 align-bottom text-sm font-semibold [overflow-wrap:anywhere] ${side}`}
          >
            {name}
          </th>
        ))}
      </tr>
      <tr className="text-sm text-soft">
        <th scope="row" className="border-b pb-1.25 text-left font-normal">
          <Heading text="Answers that a share is a share of, counted without weights. Under a weight, the effective base stands beside it: as many unweighted answers would be as exact.">
            base
          </Heading>
        </th>
        {c.bases.map((b, i) => (
          <td
            key={c.columns[i]}
            className={`border-b pr-2 pb-1.25 ${side} ${b.answers < c.small ? 'italic' : ''}`}
            title={
              c.weighted ? `weighted ${b.weighted.toFixed(1)}, effective base ${b.effective.toFixed(0)}` : undefined
            }
          >
            {count(b.answers)}
            {b.answers < c.small ? ' small' : ''}
            {c.weighted && <span> eff. {count(Math.round(b.effective))}</span>}
          </td>
        ))}
      </tr>
    </thead>
  );
}
