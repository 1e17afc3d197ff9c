import type { Chart } from '../lib/api';
import { count } from '../lib/format';
import { itemAt } from '../lib/required';
import { Button } from '../parts/Button';
import { Heading } from '../parts/Tooltip';
import type { Design } from './design';

type Span = { name: string; from: number; span: number; down: number; column?: number };

/** The heads of the columns by level: the nests where there are several, then their values, those nested in another below it. */
export function levelsOf(c: Chart): Span[][] {
  const depth = Math.max(1, ...c.nests.map((n) => n.variables.length));
  const levels: Span[][] = Array.from({ length: depth }, () => []);
  for (let i = 0; i < c.columns.length; i++) {
    const column = itemAt(c.columns, i);
    const values = i === 0 ? ['All'] : column.values;
    values.forEach((name, level) => {
      const inner = level === values.length - 1;
      const last = itemAt(levels, level).at(-1);
      const before = c.columns[i - 1];
      const same =
        !inner &&
        last &&
        before?.nest === column.nest &&
        JSON.stringify(before.values.slice(0, level + 1)) === JSON.stringify(values.slice(0, level + 1));
      if (same) last.span++;
      // One that is less deep than others reaches down to the letters.
      else
        itemAt(levels, level).push({
          name,
          from: i,
          span: 1,
          down: inner ? depth - level : 1,
          column: inner ? i : undefined,
        });
    });
  }
  return levels;
}

/** The places of columns after which the tests of the row in their group stand. */
export function groupEnds(c: Chart): Map<number, number> {
  const ends = new Map<number, number>();
  c.columns.forEach((k, i) => {
    if (k.group >= 0 && c.columns[i + 1]?.group !== k.group) ends.set(i, k.group);
  });
  return ends;
}

/** Where a nest begins, so that a rule parts it from the one before. */
export const begins = (c: Chart, i: number) => i > 0 && itemAt(c.columns, i).nest !== itemAt(c.columns, i - 1).nest;

/** The heads of a table: values, letters and bases. A head is pressed to put the rows in order of its column. */
export function Head({ c, table, design }: { c: Chart; table: boolean; design: Design }) {
  const levels = levelsOf(c);
  const tests = table && design.shown.includes('tests');
  const ends = groupEnds(c);
  const side = table ? 'text-right' : 'text-left';
  const sort = design.query.sort;
  const sorted = (i: number) => sort === (itemAt(c.columns, i).key || 'size');
  const severalNests = c.nests.length > 1 || c.nests.some((n) => n.variables.length > 1);
  const edge = (i: number) => (begins(c, i) ? 'border-l border-line pl-2' : '');
  /** How many cells of the table some columns take, with the tests among them. */
  const wide = (from: number, span: number) =>
    span + (tests ? [...ends.keys()].filter((e) => e >= from && e < from + span).length : 0);
  const nestSpans = c.nests.map((n, at) => {
    const all = c.columns.flatMap((k, i) => (k.nest === at ? [i] : []));
    return { label: n.label, from: all[0] ?? 0, span: all.length };
  });
  return (
    <thead className="sticky top-0 z-10 bg-paper">
      {severalNests && (
        <tr>
          <td className="sticky left-0 w-46 bg-paper" />
          <td />
          {nestSpans.map(
            (n) =>
              n.span > 0 && (
                <th
                  key={`${n.from} ${n.label}`}
                  scope="colgroup"
                  colSpan={wide(n.from, n.span)}
                  className="border-l border-line pb-0.5 pl-2 text-left text-sm font-normal text-soft"
                >
                  {n.label}
                </th>
              ),
          )}
        </tr>
      )}
      {levels.map((level, k) => (
        <tr key={k}>
          {k === 0 && <td rowSpan={levels.length} className="sticky left-0 w-46 bg-paper" />}
          {level.map((s) => [
            <th
              key={s.from}
              scope={s.column === undefined ? 'colgroup' : 'col'}
              colSpan={s.column === undefined ? wide(s.from, s.span) : 1}
              rowSpan={s.down}
              aria-sort={s.column !== undefined && sorted(s.column) ? 'descending' : undefined}
              className={`pr-2 pb-1 align-bottom text-sm ${table ? '' : '[overflow-wrap:anywhere]'} ${edge(s.from)}
                ${s.column === undefined ? 'text-left font-normal' : `font-semibold ${side}`}`}
            >
              {s.column === undefined ? s.name : <ByColumn c={c} i={s.column} side={side} design={design} />}
            </th>,
            s.column !== undefined && tests && ends.has(s.column) && <td key={`tests ${s.from}`} rowSpan={s.down} />,
          ])}
        </tr>
      ))}
      <tr className="text-sm text-soft">
        <th scope="row" className="sticky left-0 border-b bg-paper pb-1 text-left font-normal">
          <Heading text="What a share is a share of, counted without weights. Under a weight, the effective base stands beside it: as many answers of equal weight would be as exact.">
            base
          </Heading>
        </th>
        {c.bases.map((b, i) => (
          <Base key={itemAt(c.columns, i).key} c={c} i={i} side={side} edge={edge(i)} tests={tests && ends.has(i)}>
            {count(b.answers)}
            {b.answers < c.small ? ' small' : ''}
            {c.weighted && <span> eff. {count(Math.round(b.effective))}</span>}
          </Base>
        ))}
      </tr>
    </thead>
  );
}

/** The head of a column: its name and letter; pressing it puts the rows in its order. */
function ByColumn({ c, i, side, design }: { c: Chart; i: number; side: string; design: Design }) {
  const column = itemAt(c.columns, i);
  const key = column.key || 'size';
  const sorted = design.query.sort === key;
  return (
    <Button
      look="bare"
      data-stop=""
      title={sorted ? 'Back to the order of the frame' : `Rows in order of the share in ${column.name}`}
      className={`hover:underline ${side}`}
      onClick={() => design.set({ sort: sorted ? '' : key }, true)}
    >
      {column.name}
      {column.letter && <small className="pl-1 text-xs font-bold text-clay">{column.letter}</small>}
      {sorted && <span aria-hidden> ↓</span>}
    </Button>
  );
}

type BaseProps = { c: Chart; i: number; side: string; edge: string; tests: boolean; children: React.ReactNode };

function Base({ c, i, side, edge, tests, children }: BaseProps) {
  const b = itemAt(c.bases, i);
  return (
    <>
      <td
        className={`border-b pr-2 pb-1 ${side} ${edge} ${b.answers < c.small ? 'italic' : ''}`}
        title={c.weighted ? `weighted ${b.weighted.toFixed(1)}, effective base ${b.effective.toFixed(0)}` : undefined}
      >
        {children}
      </td>
      {tests && (
        <td className="border-b pr-2 pb-1 pl-1">
          <Heading text="Whether the share is the same in all columns of the group: Pearson’s chi-square, or Fisher’s exact test for two columns with small expected counts; Cramér’s V; and, over columns in an order, the trend (Cochran-Armitage).">
            tests
          </Heading>
        </td>
      )}
    </>
  );
}
