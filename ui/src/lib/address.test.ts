import { expect, test } from 'vitest';
import { say } from './address';
import { dated, many, percent } from './format';

test('a condition reads as a piece of a sentence', () => {
  expect(say({ kind: 'variable', name: 'route', op: '=', values: ['Northern', 'Sound'] })).toBe(
    'route is Northern or Sound',
  );
  expect(say({ kind: 'variable', name: 'recommend', op: '<=', values: ['6'] })).toBe('recommend up to 6');
  expect(say({ kind: 'coded', not: true })).toBe('not coded');
  expect(say({ kind: 'category', id: 'gone' })).toBe('a category');
});

test('figures and dates as people write them', () => {
  expect(percent(0.1386)).toBe('13.9 %');
  expect(many(1, 'answer')).toBe('one answer');
  expect(many(1204, 'answer')).toBe('1,204 answers');
  expect(dated('2026-03-14')).toBe('14 Mar 2026');
  expect(dated('Northern')).toBe('Northern');
});
