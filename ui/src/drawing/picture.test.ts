import { expect, test } from 'vitest';
import { itemAt } from '../lib/required';
import { rolling } from './lines';
import { apart, beside, endOf } from './picture';

test('labels keep their distance and stay near their places', () => {
  expect(apart([100, 50, 10], 17)).toEqual([100, 50, 10]);
  expect(apart([50, 50], 10)).toEqual([45, 55]);
  let seed = 7;
  const random = () => {
    seed = (seed * 1103515245 + 12345) % 2 ** 31;
    return seed / 2 ** 31;
  };
  for (let round = 0; round < 200; round++) {
    const places = Array.from({ length: 1 + Math.floor(random() * 9) }, () => random() * 200);
    const put = apart(places, 17);
    const order = places.map((_, i) => i).sort((a, b) => itemAt(places, a) - itemAt(places, b));
    for (let k = 1; k < order.length; k++)
      expect(itemAt(put, itemAt(order, k)) - itemAt(put, itemAt(order, k - 1))).toBeGreaterThanOrEqual(17 - 1e-6);
    const mean = (list: number[]) => list.reduce((a, b) => a + b, 0) / list.length;
    expect(mean(put)).toBeCloseTo(mean(places), 6);
  }
});

test('a rolling mean is of all the answers around', () => {
  expect(rolling([0.1, 0.4, 0.1], [100, 200, 100], 1)).toEqual([0.1, 0.4, 0.1]);
  const three = rolling([0.1, 0.4, 0.1], [100, 200, 100], 3);
  expect(three[0]).toBeCloseTo(90 / 300, 9);
  expect(three[1]).toBeCloseTo(100 / 400, 9);
  expect(rolling([0, 0], [0, 0], 3)).toEqual([0, 0]);
});

test('an axis ends at a round share at or above the greatest', () => {
  for (const share of [0.011, 0.08, 0.081, 0.2, 0.29, 0.5, 0.77, 0.99, 1]) {
    expect(endOf(share)).toBeGreaterThanOrEqual(share - 1e-9);
    expect(endOf(share)).toBeLessThanOrEqual(1);
  }
  expect(endOf(0.27)).toBeCloseTo(0.3, 9);
});

test('a label beside a point lies on no other, and is short where there is no room', () => {
  const points: [number, number][] = [
    [50, 50],
    [58, 50],
    [50, 60],
    [300, 300],
  ];
  const at = beside(
    points,
    points.map(() => [
      [70, 15],
      [14, 15],
    ]),
  );
  expect([itemAt(at, 3).x, itemAt(at, 3).y, itemAt(at, 3).which]).toEqual([308, 292.5, 0]);
  for (let a = 0; a < at.length; a++)
    for (let b = a + 1; b < at.length; b++)
      expect(
        itemAt(at, a).x + itemAt(at, a).w <= itemAt(at, b).x ||
          itemAt(at, b).x + itemAt(at, b).w <= itemAt(at, a).x ||
          itemAt(at, a).y + itemAt(at, a).h <= itemAt(at, b).y ||
          itemAt(at, b).y + itemAt(at, b).h <= itemAt(at, a).y,
      ).toBe(true);
  const crowd = beside(
    Array.from({ length: 9 }, (): [number, number] => [50, 50]),
    Array.from({ length: 9 }, () => [
      [400, 15],
      [14, 15],
    ]),
  );
  expect(crowd.some((b) => b.which === 1)).toBe(true);
});
