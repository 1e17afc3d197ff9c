import { expect, test } from 'vitest';
import type { WrittenRule } from '../lib/api';
import { joined, mended, runeAt, unit } from '../lib/text';
import { RuleReader, stretches } from './written';

const written = (source: string, more: Partial<WrittenRule> = {}): WrittenRule => ({
  spans: [],
  rule: source,
  note: '',
  alternative: source,
  name: source,
  terms: [],
  ...more,
});

test('rules are asked for together and once, and each gets its own answer', async () => {
  const asked: string[][] = [];
  const reader = new RuleReader(
    async (rules) => {
      asked.push(rules);
      return rules.map((r) => written(r));
    },
    3,
    2,
  );
  let told = 0;
  reader.listen(() => told++);
  const all = await Promise.all(['a', 'b', 'a', 'c'].map((s) => reader.read(s)));
  expect(all.map((w) => w.rule)).toEqual(['a', 'b', 'a', 'c']);
  expect(asked).toEqual([['a', 'b'], ['c']]);
  expect(told).toBe(2);
  await reader.read('b');
  expect(asked.length).toBe(2);
  await reader.read('d'); // the oldest is forgotten
  expect([reader.at('a'), reader.at('d')?.rule]).toEqual([undefined, 'd']);
});

test('what could not be asked is asked for again', async () => {
  let away = true;
  const reader = new RuleReader(async (rules) => {
    if (away) throw new Error('away');
    return rules.map((r) => written(r));
  });
  await expect(reader.read('a')).rejects.toThrow('away');
  away = false;
  expect((await reader.read('a')).rule).toBe('a');
});

test('a rule is cut into stretches by runes, and nothing of it is lost', () => {
  const source = '😀 wifi / "a b"';
  expect(stretches(source, undefined)).toEqual([{ text: source }]);
  const w = written(source, {
    spans: [
      { start: 7, end: 8, kind: 'joint' },
      { start: 9, end: 14, kind: 'quote' },
    ],
  });
  expect(stretches(source, w)).toEqual([
    { text: '😀 wifi ' },
    { text: '/', kind: 'joint' },
    { text: ' ' },
    { text: '"a b"', kind: 'quote' },
  ]);
});

test('words are joined to a rule, and a mend goes where the server counts', () => {
  expect(joined(['car', 'line', 'a/b'], 'sentence')).toBe('car +1s line +1s "a/b"');
  expect(mended('😀 frendly', { start: 2, end: 9, with: 'friendly' })).toBe('😀 friendly');
  expect(unit('😀 x', 2)).toBe(3);
  expect(runeAt('😀 x', 3)).toBe(2);
});
