// @vitest-environment jsdom
import { act, render, renderHook, screen } from '@testing-library/react';
import type { ReactNode } from 'react';
import { MemoryRouter, Route, Routes } from 'react-router';
import { expect, test } from 'vitest';
import { useFocusKept } from './focus';
import { useKept } from './kept';

const of =
  (question: number) =>
  ({ children }: { children: ReactNode }) => (
    <MemoryRouter initialEntries={[`/q/${question}/terms`]}>
      <Routes>
        <Route path="/q/:question/:view" element={children} />
      </Routes>
    </MemoryRouter>
  );

test('state is kept for its question, and never reaches another', () => {
  const first = renderHook(() => useKept('ticked', [] as string[]), { wrapper: of(1) });
  act(() => first.result.current[1](['queue']));
  expect(first.result.current[0]).toEqual(['queue']);
  first.unmount();
  expect(renderHook(() => useKept('ticked', [] as string[]), { wrapper: of(1) }).result.current[0]).toEqual(['queue']);
  expect(renderHook(() => useKept('ticked', [] as string[]), { wrapper: of(2) }).result.current[0]).toEqual([]);
  expect(renderHook(() => useKept('other', 3), { wrapper: of(1) }).result.current[0]).toBe(3);
});

test('what was kept and can’t be read counts as nothing', () => {
  sessionStorage.setItem('kept 1 broken', '{');
  expect(renderHook(() => useKept('broken', 7), { wrapper: of(1) }).result.current[0]).toBe(7);
});

function List({ items }: { items: string[] }) {
  useFocusKept();
  return (
    <section>
      {items.map((i) => (
        <button key={i} type="button">
          {i}
        </button>
      ))}
    </section>
  );
}

test('where what has the focus goes away, the focus goes to the nearest thing that is there', async () => {
  const { rerender } = render(<List items={['a', 'b']} />);
  screen.getByText('b').focus();
  rerender(<List items={['a']} />);
  await act(() => new Promise((r) => setTimeout(r, 120)));
  expect(document.activeElement?.textContent).toBe('a');
});
