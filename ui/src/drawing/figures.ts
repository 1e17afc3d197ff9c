import type { Chart, Condition } from '../lib/api';
import { itemAt, required } from '../lib/required';

/** The conditions behind a cell: pressing it shows the very answers that it counts. */
export const behind = (c: Chart, row: number, column: number): Condition[] => [
  ...(c.conditions ?? []),
  ...(c.rows?.[row]?.conditions ?? []),
  ...(c.columns?.[column]?.conditions ?? []),
];

/** Some cells of a table: all of some rows in some columns. */
export type Range = { rows: number[]; columns: number[] };
type At = { row: number; column: number };

/**
 * What lies between two cells, the two included: categories, of rows in the order in which they stand, in columns of one group.
 * Nothing where that is no more than one cell.
 */
export function between(c: Chart, shown: number[], from: At, to: At): Range | undefined {
  const ends = [shown.indexOf(from.row), shown.indexOf(to.row)].sort((a, b) => a - b) as [number, number];
  if (ends[0] < 0) return undefined;
  const rows = shown.slice(ends[0], ends[1] + 1).filter((i) => itemAt(c.rows, i).kind === 'category');
  const [first, last] = [from.column, to.column].sort((a, b) => a - b) as [number, number];
  const { group } = itemAt(c.columns, from.column);
  const columns = c.columns.flatMap((k, i) => (i >= first && i <= last && k.group === group ? [i] : []));
  return rows.length && rows.length * columns.length > 1 ? { rows, columns } : undefined;
}

/** The conditions behind some cells: the answers that any of them counts. */
export function behindAll(c: Chart, { rows, columns }: Range): Condition[] {
  const [row] = rows.map((i) => itemAt(c.rows, i));
  const [column] = columns.map((i) => itemAt(c.columns, i));
  const inner = required(column).conditions?.at(-1);
  return [
    ...(c.conditions ?? []),
    ...(rows.length > 1
      ? [{ kind: 'category' as const, values: rows.map((i) => itemAt(c.rows, i).id) }]
      : required(row).conditions),
    ...(columns.length > 1 && inner?.kind === 'variable'
      ? [
          ...required(column).conditions.slice(0, -1),
          { ...inner, values: columns.map((i) => required(itemAt(c.columns, i).values.at(-1))) },
        ]
      : (required(column).conditions ?? [])),
  ];
}

/** What some cells are, in a sentence. */
export const sayRange = (c: Chart, { rows, columns }: Range) =>
  `${rows.length > 1 ? `${rows.length} categories` : itemAt(c.rows, itemAt(rows, 0)).path} in ${columns.length > 1 ? `${columns.length} columns` : columns[0] ? itemAt(c.columns, columns[0]).values.join(', ') : 'all'}: answers with any of them.`;

/** A p value, as it is said. */
export const chance = (p: number) => (p < 0.001 ? 'p < 0.001' : `p = ${p.toFixed(3)}`);
/** The same in a column of p values. */
export const bareChance = (p: number) => chance(p).replace(/^p (= )?/, '');
/** A difference of numbers, with its sign. */
export const signed = (x: number) => `${x < 0 ? '−' : '+'}${Math.abs(x).toFixed(2)}`;
/** A net score, from -1 to 1, in points. */
export const netScore = (s: number) => `${s < 0 ? '−' : '+'}${Math.abs(100 * s).toFixed(0)}`;
export const points = (d: number) => `${d < 0 ? '−' : '+'}${Math.abs(100 * d).toFixed(1)}`;
