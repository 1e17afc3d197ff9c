import { beforeEach, expect, test, vi } from 'vitest';
import { forget, keepWriting, keptWriting, lastVisit } from './kept';

/** A browser's storage, as far as it is used. */
function storage() {
  const kept = new Map<string, string>();
  return {
    getItem: (k: string) => kept.get(k) ?? null,
    setItem: (k: string, v: string) => kept.set(k, v),
    removeItem: (k: string) => kept.delete(k),
  };
}

beforeEach(() => {
  vi.stubGlobal('localStorage', storage());
  vi.stubGlobal('sessionStorage', storage());
});

test('changes are counted since the last visit, which ends after half an hour without looking', () => {
  const minute = 60_000;
  expect(lastVisit(1, 5, 0)).toBe(5); // the first visit has nothing before it
  expect(lastVisit(1, 7, 10 * minute)).toBe(5);
  expect(lastVisit(1, 9, 35 * minute)).toBe(5); // still the same: it was looked at in between
  expect(lastVisit(1, 12, 90 * minute)).toBe(9);
  expect(lastVisit(1, 13, 91 * minute)).toBe(9);
  expect(lastVisit(2, 3, 91 * minute)).toBe(3); // another question
});

test('what is being written is kept per category until it is let go', () => {
  const writ = { was: 'queue', unless: false, text: 'queue / wai' };
  keepWriting(1, 'c2', writ);
  expect(keptWriting(1, 'c2')).toEqual(writ);
  expect(keptWriting(1, 'c3')).toBeUndefined();
  forget(1, 'c2');
  expect(keptWriting(1, 'c2')).toBeUndefined();
});
