// @vitest-environment jsdom
import { fireEvent, render, screen } from '@testing-library/react';
import { useRef } from 'react';
import { expect, test, vi } from 'vitest';
import { allCommands, awaitTyping, keyName, useCommands, useKeys, useLetters } from './keys';

const hit = vi.fn();

function Page() {
  const list = useRef<HTMLDivElement>(null);
  useKeys({ h: () => hit('h'), ' ': () => hit('space'), 'Ctrl+k': () => hit('ctrl k'), '[': () => hit('[') });
  useKeys({ ArrowDown: () => hit('down') }, { list });
  return (
    <>
      <div ref={list} data-list="" data-testid="list" />
      <div data-list="" data-testid="other" />
      <input aria-label="text" />
      <input type="checkbox" aria-label="tick" />
      <button type="button">press</button>
      <button type="button" role="tab">
        tab
      </button>
      <div role="dialog">
        <button type="button">inside</button>
      </div>
    </>
  );
}

// Time goes on between two keys: they are not typed in one go.
const press = (on: Element, key: string, more: object = {}) => {
  hit.mockClear();
  fireEvent.pointerDown(document.body);
  fireEvent.keyDown(on, { key, ...more });
  return hit.mock.calls.map(([k]) => k).join();
};

test('only text fields take letters; nothing else swallows a key', () => {
  render(<Page />);
  expect(press(screen.getByLabelText('text'), 'h')).toBe('');
  expect(press(screen.getByLabelText('tick'), 'h')).toBe('h');
  expect(press(screen.getByText('press'), 'h')).toBe('h');
  expect(press(screen.getByText('tab'), 'h')).toBe('h');
  expect(press(document.body, 'h')).toBe('h');
  expect(press(screen.getByText('inside'), 'h')).toBe('');
});

test('a button keeps its own space, a held key goes from everywhere, AltGr makes signs', () => {
  render(<Page />);
  expect(press(screen.getByText('press'), ' ')).toBe('');
  expect(press(document.body, ' ')).toBe('space');
  expect(press(screen.getByLabelText('text'), 'k', { ctrlKey: true })).toBe('ctrl k');
  expect(press(document.body, 'h', { ctrlKey: true })).toBe('');
  expect(press(document.body, '[', { ctrlKey: true, altKey: true, modifierAltGraph: true })).toBe('[');
});

test('arrows belong to the list that has the focus', () => {
  render(<Page />);
  expect(press(screen.getByTestId('list'), 'ArrowDown')).toBe('down');
  expect(press(document.body, 'ArrowDown')).toBe('down');
  expect(press(screen.getByText('tab'), 'ArrowDown')).toBe('down');
  expect(press(screen.getByTestId('other'), 'ArrowDown')).toBe('');
});

test('letters that are typed in one go with a text field are no commands', () => {
  render(<Page />);
  hit.mockClear();
  fireEvent.keyDown(screen.getByLabelText('text'), { key: 'q' });
  fireEvent.keyDown(document.body, { key: 'h' }); // the field is gone: Enter kept what was in it
  expect(hit).not.toHaveBeenCalled();
  fireEvent.pointerDown(document.body);
  awaitTyping();
  fireEvent.keyDown(document.body, { key: 'h' }); // the field is not there yet
  expect(hit).not.toHaveBeenCalled();
  fireEvent.keyDown(screen.getByLabelText('text'), { key: 'Escape' });
  fireEvent.keyDown(document.body, { key: 'h' });
  expect(hit).toHaveBeenCalledWith('h');
});

test('single letters can be switched off, and stay so', () => {
  function Letters() {
    const [on, set] = useLetters();
    return (
      <button type="button" onClick={() => set(!on)}>
        {on ? 'on' : 'off'}
      </button>
    );
  }
  render(
    <>
      <Page />
      <Letters />
    </>,
  );
  fireEvent.click(screen.getByText('on'));
  expect(press(document.body, 'h')).toBe('');
  expect(press(document.body, 'k', { ctrlKey: true })).toBe('ctrl k');
  expect(localStorage.getItem('letters')).toBe('off');
  fireEvent.click(screen.getByText('off'));
  expect(press(document.body, 'h')).toBe('h');
});

test('what can be done is known by its words, for as long as it is offered', () => {
  function Offers({ off }: { off: boolean }) {
    useCommands('Terms', [{ key: 'm', words: 'Merge', act: () => hit('m'), off }]);
    return null;
  }
  const { rerender, unmount } = render(<Offers off={false} />);
  expect(allCommands().get('Terms')?.[0]?.words).toBe('Merge');
  expect(press(document.body, 'm')).toBe('m');
  rerender(<Offers off />);
  expect(press(document.body, 'm')).toBe('');
  unmount();
  expect(allCommands().get('Terms')).toBeUndefined();
  expect(['Ctrl+k', 'Alt+ArrowUp', ' ', 'Escape', '?'].map(keyName)).toEqual(['Ctrl K', 'Alt ↑', 'space', 'Esc', '?']);
});
