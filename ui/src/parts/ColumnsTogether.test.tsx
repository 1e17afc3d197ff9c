// @vitest-environment jsdom
import { render, screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { expect, test, vi } from 'vitest';
import { itemAt } from '../lib/required';
import { ColumnsTogether } from './ColumnsTogether';

const columns = [
  { name: 'id', role: 'identifier' as const },
  ...Array.from({ length: 120 }, (_, i) => ({
    name: `agree ${i}`,
    role: 'number' as const,
    missing: i === 0 ? ['-1'] : undefined,
    battery: 1,
  })),
];

const paste = async (field: string, text: string) => {
  await userEvent.click(screen.getByLabelText(field));
  await userEvent.paste(text);
};

test('the items of a battery are ticked at once, and set together; codes are added to those there are', async () => {
  const set = vi.fn();
  render(<ColumnsTogether columns={columns} set={set} />);
  expect(screen.getByText('Set them')).toHaveProperty('disabled', true);
  await userEvent.click(screen.getByText(/Tick 120 columns with the same values/));
  await paste('what counts as missing in the ticked columns', '99, refused');
  await userEvent.click(screen.getByText('Set them'));
  const to = itemAt(set.mock.calls, 0)[0];
  expect(to).toHaveLength(120);
  expect(to[0]).toMatchObject({ name: 'agree 0', role: 'number', missing: ['-1', '99', 'refused'] });
  expect(to[1]).toMatchObject({ name: 'agree 1', missing: ['99', 'refused'] });
  expect(screen.getByText('0 columns ticked')).toBeTruthy();
});

test('values are put in order, and names shortened by what they have in common', async () => {
  const set = vi.fn();
  const few = ['Rating: food', 'Rating: crew'].map((name) => ({ name, role: 'segment' as const }));
  render(<ColumnsTogether columns={few} set={set} />);
  await userEvent.click(screen.getByLabelText('all 2'));
  await paste('order of the values of the ticked columns', 'bad, good');
  await userEvent.click(screen.getByLabelText(/short labels without “Rating:”/));
  await userEvent.click(screen.getByText('Set them'));
  expect(itemAt(set.mock.calls, 0)[0]).toMatchObject([
    { name: 'Rating: food', label: 'food', order: ['bad', 'good'] },
    { name: 'Rating: crew', label: 'crew', order: ['bad', 'good'] },
  ]);
});

test('only so many columns are drawn; the others are found by name, and all that are found are ticked', async () => {
  const set = vi.fn();
  render(<ColumnsTogether columns={columns} set={set} />);
  expect(screen.getAllByRole('checkbox')).toHaveLength(81);
  expect(screen.getByText('and 41 more: find them')).toBeTruthy();
  await paste('Find columns', 'agree 11');
  expect(screen.getAllByRole('checkbox')).toHaveLength(12); // 11, 110 to 119, and all of them
  await userEvent.click(screen.getByLabelText(/all 11 that were found/));
  expect(screen.getByText('11 columns ticked')).toBeTruthy();
});
