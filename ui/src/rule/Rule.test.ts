import { expect, test } from 'vitest';
import { joined, mended, runeAt, unit } from '../lib/text';
import { alternatives, nameOf, stretches } from './Rule';

test('a rule is coloured by its parts, and nothing of it is lost', () => {
  expect(stretches('queue / wait - train')).toEqual([
    ['queue ', ''],
    ['/', 'r-joint'],
    [' wait ', ''],
    ['-', 'r-joint'],
    [' train', ''],
  ]);
  expect(stretches('@crew +6w kind -<3w @negators')).toEqual([
    ['@crew', 'r-list'],
    [' ', ''],
    ['+6w', 'r-joint'],
    [' kind ', ''],
    ['-<3w', 'r-joint'],
    [' ', ''],
    ['@negators', 'r-list'],
  ]);
  expect(stretches('check-in')).toEqual([['check-in', '']]);
  for (const rule of ['"long queue', '{People / Crew} + re"\\d+"', '(a', '2 of (x / y)', '“late”–'])
    expect(
      stretches(rule)
        .map(([text]) => text)
        .join(''),
    ).toBe(rule);
});

test('words are joined to a rule, and a mend goes where the server counts', () => {
  expect(joined(['car', 'line', 'a/b'], 'sentence')).toBe('car +1s line +1s "a/b"');
  expect(mended('😀 frendly', { start: 2, end: 9, with: 'friendly' })).toBe('😀 friendly');
  expect(unit('😀 x', 2)).toBe(3);
  expect(runeAt('😀 x', 3)).toBe(2);
});

test('a rule becomes an alternative of another without changing what either finds', () => {
  expect(alternatives('queue', 'wait')).toBe('queue / wait');
  expect(alternatives('queue / line', 'slow +1s boat')).toBe('queue / line / (slow +1s boat)');
  expect(alternatives('late - train', '"no bus"')).toBe('(late - train) / "no bus"');
  expect(alternatives('check-in', 'gate')).toBe('check-in / gate');
});

test('a rule gives its category a first name', () => {
  expect(nameOf('queue / wait')).toBe('Queue wait');
  expect(nameOf('slow +1s boat')).toBe('Slow boat');
  expect(nameOf('2 of (seats / sockets)')).toBe('Seats sockets');
  expect(nameOf('"no staff about"')).toBe('No staff about');
});
