import { expect, test } from 'vitest';
import { without } from './hidden';

const page = (total: number, hidden: number, ...labels: string[]) => ({
  total,
  hidden,
  terms: labels.map((label) => ({ label })),
});

test('what stood behind hidden terms moves up, over the ends of pages', () => {
  expect(without([page(7, 2, 'a', 'b', 'c'), page(7, 2, 'd', 'e', 'f')], 3, new Set(['b', 'e']))).toEqual([
    page(5, 4, 'a', 'c', 'd'),
    page(5, 4, 'f'),
  ]);
});

test('nothing moves where not all of the terms are at hand', () => {
  expect(without([page(7, 2, 'a', 'b', 'c')], 3, new Set(['b', 'g']))).toBeUndefined();
  expect(without([], 3, new Set(['b']))).toBeUndefined();
});
