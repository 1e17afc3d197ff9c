import { expect, test } from 'vitest';
import { stretches } from './RuleLine';

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
