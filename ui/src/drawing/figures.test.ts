import { expect, test } from 'vitest';
import type { Chart } from '../lib/api';
import { itemAt } from '../lib/required';
import { behindAll, between } from './figures';

const is = (name: string, value: string) => ({ kind: 'variable' as const, name, op: '=', values: [value] });
const column = (group: number, ...values: string[]) => ({
  values,
  group,
  conditions: group < 0 ? undefined : [is('route', itemAt(values, 0)), ...(values[1] ? [is('wave', values[1])] : [])],
});
const row = (kind: string, id: string) => ({ kind, id, conditions: id ? [{ kind: 'category', id }] : [] });
const chart = {
  conditions: [{ kind: 'coded' }],
  columns: [
    column(-1),
    column(0, 'N', 'first'),
    column(0, 'N', 'second'),
    column(1, 'S', 'first'),
    column(1, 'S', 'second'),
  ],
  rows: [row('category', 'a'), row('category', 'b'), row('category', 'c'), row('any', '')],
} as unknown as Chart;

test('several cells are categories of rows as they stand, in columns of one group', () => {
  const shown = [2, 0, 1, 3]; // in another order
  const at = (r: number, k: number) => ({ row: r, column: k });
  expect(between(chart, shown, at(0, 2), at(2, 1))).toEqual({ rows: [2, 0], columns: [1, 2] });
  expect(between(chart, shown, at(0, 2), at(3, 4))).toEqual({ rows: [0, 1], columns: [2] });
  expect(between(chart, shown, at(1, 0), at(2, 0))).toEqual({ rows: [2, 0, 1], columns: [0] });
  expect(between(chart, shown, at(1, 1), at(1, 1))).toBeUndefined();
  expect(behindAll(chart, { rows: [2, 0], columns: [3, 4] })).toEqual([
    { kind: 'coded' },
    { kind: 'category', values: ['c', 'a'] },
    is('route', 'S'),
    { kind: 'variable', name: 'wave', op: '=', values: ['first', 'second'] },
  ]);
  expect(behindAll(chart, { rows: [1], columns: [1, 2] })[1]).toEqual({ kind: 'category', id: 'b' });
  expect(behindAll(chart, { rows: [0, 1], columns: [0] })).toEqual([
    { kind: 'coded' },
    { kind: 'category', values: ['a', 'b'] },
  ]);
});
