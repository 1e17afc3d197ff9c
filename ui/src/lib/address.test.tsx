// @vitest-environment jsdom
import { act, renderHook } from '@testing-library/react';
import type { ReactNode } from 'react';
import { BrowserRouter } from 'react-router';
import { beforeEach, expect, test } from 'vitest';
import { readConditions, useAddress, writeConditions } from './address';
import { say } from './conditions';

const wrapper = ({ children }: { children: ReactNode }) => <BrowserRouter>{children}</BrowserRouter>;
const at = (address: string) => {
  window.history.replaceState(null, '', address);
  return renderHook(() => useAddress(), { wrapper }).result;
};

beforeEach(() => window.history.replaceState(null, '', '/'));

test('conditions come back as they were written; what is none is passed over', () => {
  const list = [
    { kind: 'variable', name: 'route', op: '=', values: ['North'] },
    { kind: 'coded', not: true },
  ] as const;
  expect(readConditions(writeConditions(list as never))).toEqual(list);
  for (const nonsense of ['', '{', '{}', 'null', '7', '[1]', '[{"kind":"magic"}]', '[{"kind":"words","text":7}]'])
    expect(readConditions(nonsense)).toEqual([]);
  expect(readConditions('[{"kind":"magic"},{"kind":"coded"}]')).toEqual([{ kind: 'coded' }]);
});

test('conditions of the address that can’t be read are counted', () => {
  const unread = (focus: string) => at(`/q/1/terms?focus=${encodeURIComponent(focus)}`).current.unread;
  expect(unread('')).toBe(0);
  expect(unread('[{"kind":"coded"}]')).toBe(0);
  expect(
    unread('[{"kind":"coded","nott":true},{"kind":"coded"},{"kind":"variable","name":"route","value":["x"]}]'),
  ).toBe(2);
  for (const nonsense of ['{', '{}', '7']) expect(unread(nonsense)).toBe(1);
});

test('the pick stands within the focus, once', () => {
  const a = at(
    `/q/1/terms?focus=${encodeURIComponent('[{"kind":"coded"}]')}&pick=${encodeURIComponent('[{"kind":"coded"},{"kind":"words","text":"tea"}]')}`,
  );
  expect(JSON.parse(a.current.shown)).toEqual([{ kind: 'coded' }, { kind: 'words', text: 'tea' }]);
  act(() => a.current.setFocus([]));
  expect(a.current.focusText).toBe('');
  expect(a.current.pick).toEqual([]);
});

test('what was written into the address by hand counts only where it means something', () => {
  const a = at('/q/1/terms?sort=nonsense&row=2&least=-4&links=abc&both=');
  expect(a.current.one('sort', ['answers', 'times'])).toBe('answers');
  expect(a.current.one('row', ['1', '2', '3'])).toBe('2');
  expect(a.current.number('least', 5, 0)).toBe(0);
  expect(a.current.number('links', 80)).toBe(80);
  expect(a.current.number('both', 5)).toBe(5);
});

test('a view that was left does not bring itself back', () => {
  const a = at('/q/1/terms');
  const late = a.current.set;
  act(() => window.history.pushState(null, '', '/q/1/chart'));
  act(() => late({ row: '2' }));
  expect(window.location.pathname + window.location.search).toBe('/q/1/chart');
});

test('a condition is said in words', () => {
  expect(say({ kind: 'variable', name: 'route', op: '=', values: ['North', 'South'], not: true })).toBe(
    'route is not North or South',
  );
  expect(say({ kind: 'short', n: 3 })).toBe('under 3 words');
  expect(say({ kind: 'category', id: 'c9' })).toBe('a category');
});
