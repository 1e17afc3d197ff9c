import { useId, useState } from 'react';
import type { Role, Spec } from '../lib/api';
import { count, many } from '../lib/format';
import { itemAt } from '../lib/required';
import { Button } from './Button';
import { Checkbox } from './Checkbox';
import { roles } from './ColumnSettings';
import { Select } from './Select';
import { TextField } from './Text';

type Item = Spec & { battery?: number };

type Props = {
  columns: Item[];
  /** Sets the chosen columns; each is given as it is to be. */
  set: (columns: Item[]) => void;
};

/** The parts of a list that is written with commas. */
const listed = (text: string) =>
  text
    .split(',')
    .map((m) => m.trim())
    .filter(Boolean);

/** What names begin with alike, up to a sign that ends a word; nothing if a name would be left empty. */
function sharedStart(names: string[]) {
  if (names.length < 2) return '';
  let end = 0;
  while (names.every((n) => n[end] !== undefined && n[end] === itemAt(names, 0)[end])) end++;
  const start = /^.*[\s:/_.-]/.exec(itemAt(names, 0).slice(0, end))?.[0] ?? '';
  return names.every((n) => n.length > start.length) ? start : '';
}

/** How many columns are listed: the others are found by their names. */
const most = 80;

/** Sets what several columns are at once: found by name, or all items of a battery. */
export function ColumnsTogether({ columns, set }: Props) {
  const id = useId();
  const [ticked, setTicked] = useState<ReadonlySet<string>>(new Set());
  const [search, setSearch] = useState('');
  const [role, setRole] = useState<Role | ''>('');
  const [missing, setMissing] = useState('');
  const [order, setOrder] = useState('');
  const [labels, setLabels] = useState(false);
  const looked = search.trim().toLowerCase();
  const found = columns.filter((c) => !looked || c.name.toLowerCase().includes(looked) || c.role === looked);
  const chosen = columns.filter((c) => ticked.has(c.name));
  const tick = (names: string[], on: boolean) => {
    const next = new Set(ticked);
    for (const n of names) on ? next.add(n) : next.delete(n);
    setTicked(next);
  };
  const all = found.length > 0 && found.every((c) => ticked.has(c.name));
  const batteries = [...new Set(columns.map((c) => c.battery ?? 0))].filter(Boolean);
  const codes = listed(missing);
  const inOrder = listed(order);
  const shared = sharedStart(chosen.map((c) => c.name));
  const apply = () => {
    set(
      chosen.map((c) => ({
        ...c,
        role: role || c.role,
        missing: codes.length ? [...new Set([...(c.missing ?? []), ...codes])] : c.missing,
        order: inOrder.length ? inOrder : c.order,
        label: labels && shared ? c.name.slice(shared.length) : c.label,
      })),
    );
    setTicked(new Set());
    setLabels(false);
  };
  return (
    <div className="grid gap-2">
      <div className="flex flex-wrap items-baseline gap-2.5">
        <TextField
          type="search"
          placeholder="find columns…"
          aria-label="Find columns"
          value={search}
          onChange={(e) => setSearch(e.target.value)}
        />
        {batteries.map((b) => {
          const items = columns.filter((c) => c.battery === b).map((c) => c.name);
          return (
            <Button key={b} look="plain" onClick={() => tick(items, true)}>
              Tick {many(items.length, 'column')} with the same values: {items[0]} …
            </Button>
          );
        })}
      </div>
      <ul
        aria-label="Columns to set"
        className="max-h-56 columns-2 gap-6 overflow-y-auto border-y border-hair py-1 max-sm:columns-1"
      >
        <li className="pb-0.5">
          <label htmlFor={`${id}all`} className="flex items-baseline gap-1.5 font-semibold">
            <Checkbox
              id={`${id}all`}
              checked={all}
              change={(on) =>
                tick(
                  found.map((c) => c.name),
                  on,
                )
              }
            />
            all {count(found.length)} {looked ? 'that were found' : ''}
          </label>
        </li>
        {found.slice(0, most).map((c) => (
          <li key={c.name}>
            <label htmlFor={id + c.name} className="flex items-baseline gap-1.5">
              <Checkbox id={id + c.name} checked={ticked.has(c.name)} change={(on) => tick([c.name], on)} />
              <span className="min-w-0 truncate" title={c.name}>
                {c.name} <span className="text-sm text-soft">{c.role}</span>
              </span>
            </label>
          </li>
        ))}
        {found.length > most && <li className="text-soft">and {count(found.length - most)} more: find them</li>}
      </ul>
      <div className="flex flex-wrap items-baseline gap-2.5">
        <b className="font-semibold">{many(chosen.length, 'column')} ticked</b>
        <label>
          used as{' '}
          <Select
            label="role of the ticked columns"
            value={role}
            change={setRole}
            options={[{ value: '' as const, words: 'as each is' }, ...roles.map(([r]) => ({ value: r, words: r }))]}
          />
        </label>
        <label>
          missing if{' '}
          <TextField
            className="w-[9em]"
            aria-label="what counts as missing in the ticked columns"
            placeholder="99, refused"
            value={missing}
            onChange={(e) => setMissing(e.target.value)}
          />
        </label>
        <label>
          values in the order{' '}
          <TextField
            className="w-[12em]"
            aria-label="order of the values of the ticked columns"
            placeholder="never, at times, always"
            value={order}
            onChange={(e) => setOrder(e.target.value)}
          />
        </label>
        {shared && (
          <label>
            <Checkbox checked={labels} change={setLabels} /> short labels without “{shared.trim()}”
          </label>
        )}
        <Button
          look="go"
          disabled={!chosen.length || !(role || codes.length || inOrder.length || (labels && shared))}
          onClick={apply}
        >
          Set them
        </Button>
      </div>
    </div>
  );
}
