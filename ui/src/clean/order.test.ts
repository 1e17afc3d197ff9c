import { expect, test } from 'vitest';
import { itemAt } from '../lib/required';
import { moved, withStep } from './order';

const ids = (steps: { step: string }[]) => steps.map((s) => s.step).join(' ');

test('a step that is switched on goes to its usual place', () => {
  expect(ids(withStep([{ step: 'markup' }, { step: 'accents' }], 'contractions'))).toBe('markup contractions accents');
  expect(itemAt(withStep([], 'emoji'), 0)).toEqual({ step: 'emoji', mode: 'drop' });
});

test('a step moves one place and no further than the ends', () => {
  const steps = [{ step: 'markup' as const }, { step: 'links' as const }, { step: 'glued' as const }];
  expect(ids(moved(steps, 0, 1))).toBe('links markup glued');
  expect(ids(moved(steps, 2, 0))).toBe('glued markup links');
  expect(moved(steps, 0, -1)).toBe(steps);
});
