// @vitest-environment jsdom
import { act, render, screen } from '@testing-library/react';
import { beforeEach, expect, test } from 'vitest';
import type { Answer } from '../lib/api';
import { useReading } from '../lib/reading';
import { required } from '../lib/required';
import { Who, Words } from './Words';

const parts: Answer['parts'] = [
  { text: '<p>', read: '\n' },
  { text: 'The ' },
  { text: 'queue', hit: true },
  { text: ' ' },
  { text: '&amp;', read: '&' },
  { text: ' boat' },
  { text: '</p>', read: '\n' },
];

let turn: (to: 'written' | 'read') => void;
function Shown() {
  const [, set] = useReading();
  turn = set;
  return (
    <p data-testid="said">
      <Words answer={{ parts }} />
    </p>
  );
}

beforeEach(() => localStorage.clear());

test('an answer is shown to the letter, or as people read it; what decided is marked in both', () => {
  render(<Shown />);
  act(() => turn('written'));
  const said = screen.getByTestId('said');
  expect(said.textContent).toBe('<p>The queue &amp; boat</p>');
  expect(required(said.querySelector('mark')).textContent).toBe('queue');
  act(() => turn('read'));
  expect(said.textContent.trim()).toBe('The queue & boat');
  expect(required(said.querySelector('mark')).textContent).toBe('queue');
  expect(localStorage.getItem('answers are shown')).toBe('read');
});

test('what is known of a respondent stands by its label, or by itself where the value says it', () => {
  const answer = {
    number: 1,
    parts: [],
    codes: [],
    status: 'answered',
    who: [{ value: 'North' }, { label: 'recommend', value: '7' }, { value: '2026-03-14' }],
  } as unknown as Answer;
  render(<Who answer={answer} />);
  expect(screen.getByText('North · recommend 7 · 14 Mar 2026')).toBeTruthy();
});
