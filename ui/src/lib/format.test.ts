import { expect, test } from 'vitest';
import { count, dated, many, percent, shareIn, tint } from './format';

test('figures and dates as people write them', () => {
  expect(count(1234567)).toBe('1,234,567');
  expect(percent(0.1386)).toBe('13.9 %');
  expect(many(1, 'answer')).toBe('one answer');
  expect(many(1204, 'answer')).toBe('1,204 answers');
  expect(many(2, 'category', 'categories')).toBe('2 categories');
  expect(dated('2026-03-14')).toBe('14 Mar 2026');
  expect(dated('Northern')).toBe('Northern');
});

test('too small a base has no share, and every top category a colour', () => {
  expect(shareIn(9, 0.5)).toBe('few');
  expect(shareIn(10, 0.5)).toBe('50.0 %');
  expect(tint(9)).toBe(tint(1));
});
