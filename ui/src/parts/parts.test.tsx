// @vitest-environment jsdom
import { render, screen, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { useState } from 'react';
import { MemoryRouter } from 'react-router';
import { expect, test, vi } from 'vitest';
import { required } from '../lib/required';
import { Boundary } from './Boundary';
import { Button, Link } from './Button';
import { Checkbox, Switch } from './Checkbox';
import { Collapsible } from './Collapsible';
import { Combobox } from './Combobox';
import { Confirm, Dialog } from './Dialog';
import { ContextMenu, Menu } from './Menu';
import { NumberField } from './NumberField';
import { Popover } from './Popover';
import { Progress } from './Progress';
import { Radios } from './Radios';
import { useRoving } from './roving';
import { ScrollArea } from './ScrollArea';
import { optionsOf, Select } from './Select';
import { Slider } from './Slider';
import { Table } from './Table';
import { Tabs } from './Tabs';
import { Labelled, TextField } from './Text';
import { Toast, ToastPlace, ToastProvider } from './Toast';
import { ToggleGroup } from './ToggleGroup';
import { Heading, TooltipProvider } from './Tooltip';

const key = (keys: string) => userEvent.keyboard(keys);

test('a button sends no form unless it says so, and a link leads on', async () => {
  const sent = vi.fn((e: { preventDefault: () => void }) => e.preventDefault());
  render(
    <MemoryRouter>
      <form onSubmit={sent}>
        <Button>Look</Button>
        <Button type="submit" look="go">
          Keep
        </Button>
      </form>
      <Link to="/there">There</Link>
    </MemoryRouter>,
  );
  await userEvent.click(screen.getByText('Look'));
  expect(sent).not.toHaveBeenCalled();
  await userEvent.click(screen.getByText('Keep'));
  expect(sent).toHaveBeenCalledOnce();
  expect(screen.getByText('There')).toHaveProperty('href', expect.stringContaining('/there'));
});

test('a select is chosen from by keyboard, the empty value too', async () => {
  const change = vi.fn();
  render(
    <Select label="order" value="b" options={optionsOf({ '': 'none', a: 'by name', b: 'by count' })} change={change} />,
  );
  const trigger = screen.getByRole('combobox', { name: 'order' });
  expect(trigger.textContent).toContain('by count');
  trigger.focus();
  await key('{Enter}');
  await key('{Home}{Enter}');
  expect(change).toHaveBeenCalledWith('');
  expect(document.activeElement).toBe(trigger);
});

test('a combobox finds by any of the words, says when nothing is found, and takes with Enter', async () => {
  const change = vi.fn();
  const options = Array.from({ length: 300 }, (_, i) => ({ value: `c${i}`, words: `Net ${i % 7} / Category ${i}` }));
  render(<Combobox label="category" value="c3" options={options} change={change} />);
  const trigger = screen.getByRole('combobox', { name: /^category: Net 3 \/ Category 3/ });
  await userEvent.click(trigger);
  expect(screen.getByText(/100 more/)).toBeTruthy();
  await key('299 net');
  expect(screen.getAllByRole('option')).toHaveLength(1);
  await key('xyz');
  expect(screen.getByText('Nothing of that name.')).toBeTruthy();
  await key('{Backspace}{Backspace}{Backspace}{Enter}');
  expect(change).toHaveBeenCalledWith('c299');
});

function Opened({ typed }: { typed?: boolean }) {
  const [open, setOpen] = useState(false);
  return (
    <>
      <Button onClick={() => setOpen(true)}>Open</Button>
      {open && (
        <Dialog title="Rename" close={() => setOpen(false)}>
          {typed !== false && <TextField aria-label="Name" />}
          <Button onClick={() => setOpen(false)}>Cancel</Button>
        </Dialog>
      )}
    </>
  );
}

test('a dialog closes by Esc and gives the focus back', async () => {
  render(<Opened />);
  await userEvent.click(screen.getByText('Open'));
  expect(screen.getByRole('dialog', { name: 'Rename' })).toBeTruthy();
  await key('{Escape}');
  expect(screen.queryByRole('dialog')).toBeNull();
  await vi.waitFor(() => expect(document.activeElement).toBe(screen.getByText('Open')));
});

test('text that was typed into a dialog is asked after before it is lost', async () => {
  render(<Opened />);
  await userEvent.click(screen.getByText('Open'));
  await userEvent.type(screen.getByLabelText('Name'), 'queues');
  await key('{Escape}');
  expect(screen.getByRole('alertdialog').textContent).toContain('Close without keeping');
  await userEvent.click(screen.getByText('Go on typing'));
  expect(screen.getByLabelText('Name')).toHaveProperty('value', 'queues');
  await key('{Escape}');
  await userEvent.click(screen.getByText('Discard it'));
  expect(screen.queryByRole('dialog')).toBeNull();
});

test('a dialog is closed by a press beside it that began there, not by one that began inside', async () => {
  render(<Opened typed={false} />);
  await userEvent.click(screen.getByText('Open'));
  const beside = required(document.querySelector<HTMLElement>('.bg-\\[\\#23261f55\\]'));
  await userEvent.pointer([
    { keys: '[MouseLeft>]', target: screen.getByText('Rename') },
    { keys: '[/MouseLeft]', target: beside },
  ]);
  expect(screen.getByRole('dialog')).toBeTruthy();
  await userEvent.pointer({ keys: '[MouseLeft]', target: beside });
  expect(screen.queryByRole('dialog')).toBeNull();
});

test('a question has the focus on its safe answer', async () => {
  const act = vi.fn();
  const close = vi.fn();
  render(
    <Confirm title="Delete it?" go="Delete" act={act} close={close}>
      All of it.
    </Confirm>,
  );
  expect(document.activeElement?.textContent).toBe('Cancel');
  await key('{Enter}');
  expect(close).toHaveBeenCalled();
  expect(act).not.toHaveBeenCalled();
});

test('a popover comes up and goes by Esc', async () => {
  render(
    <Popover words="filter" label="Filters">
      {(close) => <Button onClick={close}>Done</Button>}
    </Popover>,
  );
  await userEvent.click(screen.getByText('filter'));
  expect(screen.getByRole('dialog', { name: 'Filters' })).toBeTruthy();
  await userEvent.click(screen.getByText('Done'));
  expect(screen.queryByRole('dialog')).toBeNull();
});

test('a heading tells its definition on focus', async () => {
  render(
    <TooltipProvider>
      <Heading text="Of the answers in focus">share</Heading>
    </TooltipProvider>,
  );
  await userEvent.tab();
  expect((await screen.findByRole('tooltip')).textContent).toBe('Of the answers in focus');
});

test('tabs are gone through by arrows, and the panel follows', async () => {
  function Two() {
    const [at, setAt] = useState<'one' | 'two'>('one');
    return (
      <Tabs
        label="Ways"
        value={at}
        change={setAt}
        tabs={[
          { value: 'one', words: 'One' },
          { value: 'two', words: 'Two' },
        ]}
      >
        this is {at}
      </Tabs>
    );
  }
  render(<Two />);
  screen.getByRole('tab', { name: 'One' }).focus();
  await key('{ArrowRight}');
  expect(screen.getByRole('tab', { name: 'Two' }).getAttribute('aria-selected')).toBe('true');
  expect(screen.getByRole('tabpanel').textContent).toBe('this is two');
});

test('one of a toggle group is always chosen', async () => {
  const change = vi.fn();
  render(<ToggleGroup label="As" value="bars" options={optionsOf({ bars: 'Bars', table: 'Table' })} change={change} />);
  await userEvent.click(screen.getByText('Bars'));
  expect(change).not.toHaveBeenCalled();
  await userEvent.click(screen.getByText('Table'));
  expect(change).toHaveBeenCalledWith('table');
});

test('radios are chosen by arrows and by their words, and are one Tab stop', async () => {
  const change = vi.fn();
  render(
    <Radios label="Where" value="after" options={optionsOf({ whole: 'All of it', after: 'After' })} change={change} />,
  );
  await userEvent.click(screen.getByText('All of it'));
  expect(change).toHaveBeenLastCalledWith('whole');
  screen.getByRole('radio', { name: 'After' }).focus();
  await key('{ArrowUp}');
  expect(document.activeElement).toBe(screen.getByRole('radio', { name: 'All of it' }));
  await key('{Tab}');
  expect(document.activeElement).toBe(document.body);
});

test('a checkbox and a switch are turned by space and by their label', async () => {
  const tick = vi.fn();
  const turn = vi.fn();
  render(
    <>
      <label>
        <Checkbox checked={false} change={tick} /> weighted
      </label>
      <Switch label="step" checked change={turn} />
    </>,
  );
  await userEvent.click(screen.getByText('weighted'));
  expect(tick).toHaveBeenCalledWith(true);
  screen.getByRole('switch', { name: 'step' }).focus();
  await key(' ');
  expect(turn).toHaveBeenCalledWith(false);
});

test('a number stays within its bounds; what is no number is put back', async () => {
  const change = vi.fn();
  render(<NumberField label="under" value={5} least={1} most={20} change={change} />);
  const field = screen.getByLabelText('under');
  await userEvent.clear(field);
  await userEvent.tab();
  expect(field).toHaveProperty('value', '5');
  expect(change).not.toHaveBeenCalled();
  await userEvent.clear(field);
  await userEvent.type(field, '400');
  await userEvent.tab();
  expect(change).toHaveBeenLastCalledWith(20);
});

test('a slider is moved by arrows, by its step', async () => {
  const change = vi.fn();
  render(<Slider label="terms" value={60} least={30} most={250} step={10} change={change} />);
  screen.getByRole('slider', { name: 'terms' }).focus();
  await key('{ArrowRight}');
  expect(change).toHaveBeenCalledWith(70);
});

test('progress says how far it is, and that it has begun', () => {
  const { rerender } = render(<Progress label="Loading" share={0.25} />);
  expect(screen.getByRole('progressbar', { name: 'Loading' }).getAttribute('aria-valuenow')).toBe('25');
  rerender(<Progress label="Loading" />);
  expect(screen.getByRole('progressbar').getAttribute('aria-valuenow')).toBeNull();
});

test('a region that scrolls can have the focus and has a name', () => {
  render(<ScrollArea label="Rules">long</ScrollArea>);
  expect(screen.getByRole('region', { name: 'Rules' }).tabIndex).toBe(0);
});

test('what is folded away is not there until it is opened', async () => {
  render(<Collapsible words="which">these</Collapsible>);
  expect(screen.queryByText('these')).toBeNull();
  await userEvent.click(screen.getByRole('button', { name: /which/ }));
  expect(screen.getByText('these')).toBeTruthy();
});

test('a menu is gone through by arrows; what can’t be done is passed over', async () => {
  const merge = vi.fn();
  render(
    <Menu
      words="More"
      actions={[
        { words: 'Split', act: () => {}, disabled: true },
        { words: 'Merge', key: 'm', act: merge },
      ]}
    />,
  );
  screen.getByText('More').focus();
  await key('{Enter}{Enter}');
  expect(merge).toHaveBeenCalledOnce();
});

test('a context menu offers the same with the right button', async () => {
  const fold = vi.fn();
  render(
    <ContextMenu actions={[{ words: 'Fold the net', act: fold }]}>
      <Button>Boarding</Button>
    </ContextMenu>,
  );
  await userEvent.pointer({ keys: '[MouseRight]', target: screen.getByText('Boarding') });
  await userEvent.click(await screen.findByText('Fold the net'));
  expect(fold).toHaveBeenCalledOnce();
});

test('a notice is read out, offers what can be done, and can be closed', async () => {
  const undo = vi.fn();
  const close = vi.fn();
  render(
    <ToastProvider>
      <ToastPlace />
      <Toast action={{ words: 'Undo', act: undo }} close={close}>
        Hid queue
      </Toast>
    </ToastProvider>,
  );
  expect((await screen.findAllByText(/Hid queue/)).length).toBeGreaterThan(0);
  await userEvent.click(screen.getByRole('button', { name: 'Undo' }));
  expect(undo).toHaveBeenCalledOnce();
});

test('a table names its rows and columns, and explains its figures', async () => {
  render(
    <TooltipProvider>
      <Table
        label="Coverage"
        rows={[{ name: 'North', n: 12 }]}
        id={(r) => r.name}
        columns={[
          { key: 'name', name: 'route', head: true, cell: (r) => r.name },
          { key: 'n', name: 'answers', told: 'The base', figure: true, cell: (r) => r.n },
        ]}
      />
    </TooltipProvider>,
  );
  const table = screen.getByRole('table', { name: 'Coverage' });
  expect(within(table).getByRole('rowheader').textContent).toBe('North');
  expect(
    within(table)
      .getAllByRole('columnheader')
      .map((h) => h.textContent),
  ).toEqual(['route', 'answers']);
});

function Grid() {
  const stops = useRoving<HTMLDivElement>({ across: true, columns: 3 });
  return (
    <>
      <div {...stops}>
        {Array.from({ length: 9 }, (_, i) => (
          <button key={i} type="button" data-stop="">
            {i}
          </button>
        ))}
      </div>
      <button type="button">after</button>
    </>
  );
}

test('a list is one Tab stop, with arrows inside, and Tab comes back to where one was', async () => {
  render(<Grid />);
  await userEvent.tab();
  const at = () => document.activeElement?.textContent;
  expect(at()).toBe('0');
  await key('{ArrowDown}{ArrowRight}');
  expect(at()).toBe('4');
  await key('{ArrowUp}{ArrowUp}'); // there is nothing above the first row
  expect(at()).toBe('1');
  await key('{End}');
  expect(at()).toBe('8');
  await userEvent.tab();
  expect(at()).toBe('after');
  await userEvent.tab({ shift: true });
  expect(at()).toBe('8');
});

test('a control has the name that stands above it', () => {
  render(
    <Labelled name="Called">
      <TextField />
    </Labelled>,
  );
  expect(screen.getByLabelText('Called')).toBeTruthy();
});

test('a fault stays inside, says what was kept, and can be tried again', async () => {
  const quiet = vi.spyOn(console, 'error').mockImplementation(() => {});
  let broken = true;
  const Part = () => {
    if (broken) throw new Error('a fault');
    return <p>all is well</p>;
  };
  render(
    <>
      <p>around it</p>
      <Boundary what="The view">
        <Part />
      </Boundary>
    </>,
  );
  expect(screen.getByRole('alert').textContent).toContain('Everything you kept is safe');
  expect(screen.getByText('around it')).toBeTruthy();
  broken = false;
  await userEvent.click(screen.getByText('Try again'));
  expect(screen.getByText('all is well')).toBeTruthy();
  quiet.mockRestore();
});

test('a part of the program that can’t be fetched offers to load the page again, once the server answers', async () => {
  const quiet = vi.spyOn(console, 'error').mockImplementation(() => {});
  const fetched = vi.fn().mockRejectedValue(new TypeError('failed'));
  vi.stubGlobal('fetch', fetched);
  const Part = () => {
    throw new TypeError('Failed to fetch dynamically imported module: /assets/Chart.js');
  };
  render(
    <Boundary what="The view Chart">
      <Part />
    </Boundary>,
  );
  expect(screen.getByRole('alert').textContent).toContain('could not be loaded');
  expect(screen.queryByText('Try again')).toBeNull();
  await userEvent.click(screen.getByText('Load the page again'));
  expect(screen.getByRole('alert').textContent).toContain('does not answer yet');
  quiet.mockRestore();
  vi.unstubAllGlobals();
});
