// @vitest-environment jsdom
import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { act, renderHook } from '@testing-library/react';
import { createElement, type ReactNode } from 'react';
import { beforeEach, expect, test, vi } from 'vitest';
import { asOwn, useLiveEvents, useLost } from './live';
import { keys, mayChange } from './queries';
import { required } from './required';

/** A stream of events as far as it is used. */
class Stream {
  static all: Stream[] = [];
  onopen?: () => void;
  onerror?: () => void;
  onmessage?: (m: { data: string }) => void;
  constructor() {
    Stream.all.push(this);
  }
  close() {}
}

const client = new QueryClient();
const asked = vi.spyOn(client, 'invalidateQueries');
const tell = (e: object) => act(() => required(required(Stream.all.at(-1)).onmessage)({ data: JSON.stringify(e) }));
const questions = () =>
  asked.mock.calls.filter(([f]) => f?.queryKey?.[0] === 'question').map(([f]) => f?.queryKey?.[1]);

beforeEach(() => {
  vi.stubGlobal('EventSource', Stream);
  Stream.all = [];
  const wrapper = ({ children }: { children: ReactNode }) => createElement(QueryClientProvider, { client }, children);
  renderHook(() => useLiveEvents(), { wrapper });
  asked.mockClear();
});

test('an edit of another window asks for everything of its question', () => {
  tell({ kind: 'edit', question: 3, revision: 7 });
  expect(questions()).toEqual([3]);
});

test('an edit of one question asks anew for what others tell of it', () => {
  const ask = (id: number, name: string) => client.setQueryData(keys.asked(id, name, {}), name);
  ask(4, 'questions');
  ask(4, 'chart');
  const stale = (id: number, name: string) => client.getQueryState(keys.asked(id, name, {}))?.isInvalidated;
  tell({ kind: 'edit', question: 3, revision: 7 });
  expect([stale(4, 'questions'), stale(4, 'chart')]).toEqual([true, false]);
});

test('an edit of this window is known when it comes back, before its answer or after', async () => {
  let done = (_: { revision: number }) => {};
  const edit = asOwn(client, { question: 3 }, () => new Promise<{ revision: number }>((r) => (done = r)));
  tell({ kind: 'edit', question: 3, revision: 8 });
  done({ revision: 8 });
  await edit;
  expect(questions()).toEqual([]);
  await asOwn(client, { question: 3 }, async () => ({ revision: 9 }));
  tell({ kind: 'edit', question: 3, revision: 9 });
  expect(questions()).toEqual([]);
  // The same revision told again is somebody else's doing: a state was named.
  tell({ kind: 'edit', question: 3, revision: 9 });
  expect(questions()).toEqual([3]);
});

test('an undo that takes an edit of the study back is known by the revision of the study', async () => {
  await asOwn(client, { question: 3, study: 1 }, async () => ({ revision: 20, studyRevision: 6 }));
  tell({ kind: 'studies', study: 1, revision: 6 });
  expect(questions()).toEqual([]);
  tell({ kind: 'studies', study: 1, revision: 7 });
  expect(questions()).toEqual([undefined]);
});

test('what another window does while an edit is on its way is not lost', async () => {
  let done = (_: { revision: number }) => {};
  const edit = asOwn(client, { question: 3 }, () => new Promise<{ revision: number }>((r) => (done = r)));
  tell({ kind: 'edit', question: 3, revision: 11 });
  tell({ kind: 'edit', question: 4, revision: 2 });
  expect(questions()).toEqual([4]);
  done({ revision: 10 });
  await edit;
  expect(questions()).toEqual([4, 3]);
});

test('a refused edit leaves nothing to be ignored', async () => {
  await asOwn(client, { question: 5 }, () => Promise.reject(new Error('no'))).catch(() => {});
  tell({ kind: 'edit', question: 5, revision: 1 });
  expect(questions()).toEqual([5]);
});

test('a change of a study asks for all questions, unless it is our own', async () => {
  await asOwn(client, { study: 1 }, async () => ({ revision: 4 }));
  tell({ kind: 'studies', study: 1, revision: 4 });
  expect(questions()).toEqual([]);
  tell({ kind: 'studies', study: 1, revision: 5 });
  expect(questions()).toEqual([undefined]);
});

test('after the server was away everything is asked for again, once', () => {
  vi.useFakeTimers();
  const { result } = renderHook(() => useLost());
  act(() => required(required(Stream.all.at(-1)).onerror)());
  expect(result.current).toBeInstanceOf(Date);
  act(() => vi.advanceTimersByTime(2000));
  act(() => required(required(Stream.all.at(-1)).onopen)());
  expect(result.current).toBeUndefined();
  expect(questions()).toEqual([undefined]);
  vi.useRealTimers();
});

test('an edit asks for nothing whose answer it can’t have changed', () => {
  const asks = (kind: Parameters<typeof mayChange>[0], name: string, focus = '') => mayChange(kind, name, { focus });
  expect(asks('rule', 'frame')).toBe(true);
  expect(asks('rule', 'terms')).toBe(true); // their uncoded share
  expect(asks('rule', 'context')).toBe(false);
  expect(asks('rule', 'context', '[{"kind":"coded"}]')).toBe(true); // the focus asks for coding
  expect(asks('hide', 'lexicon')).toBe(true);
  expect(asks('hide', 'cleaning')).toBe(false);
  expect(asks('hide', 'answers')).toBe(false); // stop words shape lists, never rules
  expect(asks('merge', 'answers')).toBe(true);
  expect(asks('rule', 'states')).toBe(false);
  expect(asks('decide', 'state')).toBe(true);
  expect(asks('cleaning', 'context')).toBe(true);
  expect(asks(undefined, 'context')).toBe(true);
  expect(keys.asked(1, 'terms', { focus: 'a' })).not.toEqual(keys.asked(1, 'terms', { focus: 'b' }));
});
