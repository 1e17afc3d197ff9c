import type { Chart } from '../lib/api';
import { count, many, percent } from '../lib/format';
import { itemAt } from '../lib/required';
import { chance, points } from './figures';

const sure = 0.05;

/** The name of a column, with the values that it stands in. */
export const columnName = (c: Chart, i: number) => (i === 0 ? 'All' : itemAt(c.columns, i).values.join(', '));

/** Letters of the columns that a cell is surely over, small ones at 90 %. */
export const lettersOf = (c: Chart, row: number, column: number) =>
  (itemAt(itemAt(c.cells, row), column).over ?? [])
    .map((o) => {
      const letter = itemAt(c.columns, o.column).letter;
      return o.adjusted < sure ? letter : letter.toLowerCase();
    })
    .sort()
    .join(' ');

type Cell = NonNullable<NonNullable<Chart['cells']>[number]>[number];

/** ▲ or ▼ where a cell is surely above or below the rest of its group. */
export const markOfCell = ({ rest }: Pick<Cell, 'rest'>) =>
  rest.tested && rest.adjusted < sure ? (rest.z > 0 ? '▲' : '▼') : '';

export const markOf = (c: Chart, row: number, column: number) => markOfCell(itemAt(itemAt(c.cells, row), column));

/** What the tests of a row in a group came to, in a few words each. */
export function testsOf(c: Chart, row: number, group: number) {
  const t = itemAt(itemAt(c.tests, row), group);
  const parts: string[] = [];
  if (t.kind === 'chi-square')
    parts.push(`chi-square ${t.chiSquare.toFixed(1)}, df ${t.df}`, `${chance(t.p)}, Cramér’s V ${t.v.toFixed(2)}`);
  if (t.kind === 'fisher') parts.push(`Fisher’s exact ${chance(t.p)}`);
  if (t.weak) parts.push('small expected counts: read with care');
  if (t.trended) parts.push(`trend ${t.trend.z > 0 ? 'up' : 'down'}, ${chance(t.trend.p)}`);
  return parts;
}

/** All that a cell says, as sentences: its figures, what it is surely over, and what could not be tested. */
export function sayCell(c: Chart, row: number, column: number): string {
  const r = itemAt(c.rows, row);
  const x = itemAt(itemAt(c.cells, row), column);
  const base = itemAt(c.bases, column);
  const k = itemAt(c.columns, column);
  const mentions = c.query.base === 'mentions';
  const unit = mentions ? 'mention' : 'answer';
  const out: string[] = [];
  const head = `${r.path}, ${columnName(c, column)}: `;
  if (base.answers < c.tiny) return `${head}${many(x.answers, unit)} of ${count(base.answers)}: too few for a share.`;
  out.push(`${head}${percent(x.share)} (${count(x.answers)} of ${count(base.answers)} ${unit}s`);
  if (c.weighted) out[0] += `, weighted ${x.weighted.toFixed(1)} of ${base.weighted.toFixed(1)}`;
  out[0] += ').';
  if (!mentions) out.push(`95 % interval ${(100 * x.low).toFixed(1)} to ${(100 * x.high).toFixed(1)} %.`);
  if (column === 0) return out.join(' ');
  if (x.index > 0) out.push(`Index ${x.index.toFixed(0)}.`);
  if (mentions) return out.join(' ');
  if (x.rest.tested) {
    const how = x.rest.adjusted < sure ? `surely ${x.rest.z > 0 ? 'above' : 'below'}` : 'not surely other than';
    out.push(`It is ${how} the rest: ${points(x.rest.difference)} points, ${chance(x.rest.adjusted)}.`);
  } else out.push('Not tested against the rest: a base under 30, or an expected count under 5.');
  if (x.over?.length)
    out.push(
      `Surely over ${x.over
        .map((o) => {
          const other = itemAt(c.columns, o.column);
          const letter = o.adjusted < sure ? other.letter : other.letter.toLowerCase();
          const how = `${chance(o.adjusted)}${o.adjusted < sure ? '' : ', at 90 %'}${o.paired ? `, by ${many(o.paired, 'person', 'persons')} in both` : ''}`;
          return `${letter} ${other.name} ${percent(itemAt(itemAt(c.cells, row), o.column).share)} (${how})`;
        })
        .join(', ')}.`,
    );
  if (x.untested) out.push(`Not tested against ${many(x.untested, 'column')}: small bases or expected counts.`);
  const tests = testsOf(c, row, k.group);
  if (tests.length) out.push(`The row: ${tests.join(', ')}.`);
  return out.join(' ');
}
