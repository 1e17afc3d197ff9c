import type { Chart, Condition } from '../lib/api';

/** The conditions behind a cell: pressing it shows the very answers that it counts. */
export const behind = (c: Chart, row: number, column: number): Condition[] => [
  ...(c.conditions ?? []),
  ...(c.rows?.[row]?.conditions ?? []),
  ...(c.columns?.[column]?.conditions ?? []),
];

/** A p value, as it is said. */
export const chance = (p: number) => (p < 0.001 ? 'p < 0.001' : `p = ${p.toFixed(3)}`);
export const points = (d: number) => `${d < 0 ? '−' : '+'}${Math.abs(100 * d).toFixed(1)}`;
