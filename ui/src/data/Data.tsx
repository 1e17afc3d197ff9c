import { useState } from 'react';
import { useLocation, useNavigate } from 'react-router';
import { useAddress } from '../lib/address';
import type { Column, Made, Notes } from '../lib/api';
import { useDesk } from '../lib/edits';
import { count, dated, many, percent } from '../lib/format';
import { useSheet } from '../lib/queries';
import { itemAt, required } from '../lib/required';
import { held } from '../lib/upload';
import { Failed } from '../parts/Asked';
import { Button, Kbd } from '../parts/Button';
import { bare } from '../parts/ColumnSettings';
import { ColumnsTogether } from '../parts/ColumnsTogether';
import { Dialog } from '../parts/Dialog';
import { FileLink } from '../parts/FileLink';
import { Odd } from '../parts/Notes';
import { useRoving } from '../parts/roving';
import { optionsOf, Select } from '../parts/Select';
import { Tabs } from '../parts/Tabs';
import { Empty, Skeleton, TextField } from '../parts/Text';
import { ColumnBody, MadeBody } from './Column';

const sorts = {
  file: 'the file',
  name: 'their names',
  role: 'what they are',
  filled: 'how full they are',
  distinct: 'different values',
  points: 'what to look at',
} as const;

function sorted(columns: Column[], by: keyof typeof sorts) {
  const out = [...columns];
  const rank: Record<keyof typeof sorts, (a: Column, b: Column) => number> = {
    file: () => 0,
    name: (a, b) => a.name.localeCompare(b.name),
    role: (a, b) => a.role.localeCompare(b.role),
    filled: (a, b) => a.filled - b.filled,
    distinct: (a, b) => b.distinct - a.distinct,
    points: (a, b) => b.points.length - a.points.length,
  };
  return out.sort(rank[by]);
}

/** The file as it came: a strip per column, what can be made of them, and the rows below. */
export default function Data() {
  const { question } = useDesk();
  const { get, one, number, set } = useAddress();
  const offset = number('from', 0);
  const open = get('open');
  const sort = one('sort', Object.keys(sorts) as (keyof typeof sorts)[]);
  const search = get('find');
  const see = one('see', ['columns', 'rows']);
  const [several, setSeveral] = useState(false);
  const arrived = useLocation().state as { notes?: Notes; done?: string } | null;
  const study = question.study.id;
  const limit = 25;
  const sheet = useSheet(study, { offset, limit });
  const strips = useRoving<HTMLUListElement>();
  if (sheet.error && !sheet.data) return <Failed error={sheet.error} again={() => sheet.refetch()} />;
  if (!sheet.data) return <Skeleton lines={6} />;
  const { columns, derived, rows, total } = sheet.data;
  const looked = search.trim().toLowerCase();
  const matches = (c: Column) =>
    !looked ||
    [c.name, c.role, ...c.samples, ...c.top.map((v) => v.value)].some((t) => t.toLowerCase().includes(looked));
  const shown = sorted(columns.filter(matches), sort);
  const shownMade = derived.filter((d) => !looked || d.name.toLowerCase().includes(looked));
  const toLookAt = columns.filter((c) => c.points.length).length;
  const toggle = (name: string) => set({ open: open === name ? '' : name }, true);
  return (
    <div className="grid grid-cols-1 gap-2.5">
      <div className="flex items-baseline gap-2.5 justify-between flex-wrap">
        <h1>{question.study.name}</h1>
        <Further />
      </div>
      {arrived?.done && question.undo?.summary === arrived.done && (
        <p role="status">
          {arrived.done}. <Kbd>z</Kbd> takes it back.
        </p>
      )}
      {arrived?.notes && <Odd notes={arrived.notes} />}
      <Tabs
        label="What is shown of the data"
        value={see}
        change={(v) => set({ see: v === 'columns' ? '' : v }, true)}
        tabs={[
          { value: 'columns', words: 'Columns' },
          { value: 'rows', words: 'Rows as they came' },
        ]}
      >
        {see === 'rows' ? (
          <Rows columns={columns} rows={rows} offset={offset} limit={limit} total={total} />
        ) : (
          <>
            <div className="flex flex-wrap items-baseline gap-2.5">
              <span className="text-soft">
                {many(total, 'respondent')}, {many(columns.length, 'column')}
                {toLookAt > 0 && `, ${toLookAt} with something to look at`}
              </span>
              <span className="ml-auto flex flex-wrap items-baseline gap-2.5">
                {columns.length > 2 && (
                  <Button look="plain" onClick={() => setSeveral(true)}>
                    Set several at once…
                  </Button>
                )}
                <label className="text-soft">
                  in order of{' '}
                  <Select
                    label="in order of"
                    value={sort}
                    change={(v) => set({ sort: v === 'file' ? '' : v }, true)}
                    options={optionsOf(sorts)}
                  />
                </label>
                <TextField
                  type="search"
                  placeholder="find a column or value…"
                  aria-label="Find a column or value"
                  value={search}
                  onChange={(e) => set({ find: e.target.value }, true)}
                />
              </span>
            </div>
            {shown.length + shownMade.length === 0 && <Empty>No column has “{search}” in it.</Empty>}
            <ul {...strips} aria-label="Columns" className="border-b">
              {shown.map((c) => (
                <Strip
                  key={c.name}
                  column={c}
                  total={total}
                  open={open === c.name}
                  toggle={() => toggle(c.name)}
                  made={derived}
                />
              ))}
              {shownMade.map((d) => (
                <li data-part="strip" data-made="" className="border-t" key={d.name}>
                  <Button
                    look="bare"
                    data-part="striphead"
                    data-stop=""
                    className="grid w-full grid-cols-[minmax(7rem,10rem)_6rem_5.25rem_5.25rem_minmax(0,1fr)] items-baseline
                gap-3 py-1.25 max-sm:grid-cols-2"
                    aria-expanded={open === d.name}
                    onClick={() => toggle(d.name)}
                  >
                    <b className="min-w-0 font-semibold break-words italic">{d.name}</b>
                    <span className="text-soft">made</span>
                    <span className="text-sm text-soft">
                      {d.missing ? `${percent(1 - d.missing / total)} filled` : 'full'}
                    </span>
                    <Spark counts={d.values.map((v) => v.count)} />
                    <span className="truncate font-serif text-soft max-w-115">
                      {d.problem ? (
                        <span className="text-clay">{d.problem}</span>
                      ) : (
                        d.values.map((v) => v.value).join('  ·  ')
                      )}
                    </span>
                  </Button>
                  {open === d.name && <MadeBody made={d} />}
                </li>
              ))}
            </ul>
          </>
        )}
      </Tabs>
      {several && <Several columns={columns} close={() => setSeveral(false)} />}
    </div>
  );
}

type RowsProps = { columns: Column[]; rows: string[][]; offset: number; limit: number; total: number };

/** The rows as they came, one line each; who they are of stays in sight. */
function Rows({ columns, rows, offset, limit, total }: RowsProps) {
  const { set } = useAddress();
  const id = columns.findIndex((c) => c.role === 'identifier');
  // The identifier stands first, and stays while the others are scrolled.
  const order = columns.map((_, i) => i).sort((a, b) => Number(b === id) - Number(a === id));
  const frozen = (i: number) => (i === id ? 'sticky left-0 z-10 bg-paper' : '');
  return (
    <>
      <div className="flex items-baseline gap-2.5 justify-between">
        <span className="text-soft">One line a row; a cell is cut where it is long.</span>
        <span className="flex items-baseline gap-2.5">
          <Button disabled={offset === 0} onClick={() => set({ from: String(Math.max(0, offset - limit)) }, true)}>
            Before
          </Button>
          <span className="text-soft">
            {count(offset + 1)} to {count(Math.min(offset + limit, total))} of {count(total)}
          </span>
          <Button disabled={offset + limit >= total} onClick={() => set({ from: String(offset + limit) }, true)}>
            After
          </Button>
        </span>
      </div>
      {/* biome-ignore lint/a11y/noNoninteractiveTabindex: a scrolling region must be reachable by keyboard */}
      <section className="overflow-x-auto" aria-label="Rows" tabIndex={0}>
        <table
          className="border-collapse text-sm [&_:is(th,td)]:border-b [&_:is(th,td)]:border-hair
          [&_:is(th,td)]:py-1 [&_:is(th,td)]:pr-3.5 [&_:is(th,td)]:text-left [&_:is(th,td)]:align-top
          [&_th]:font-medium [&_th]:whitespace-nowrap [&_th]:text-soft"
        >
          <thead>
            <tr>
              {order.map((i) => (
                <th
                  key={itemAt(columns, i).name}
                  className={`max-w-60 truncate ${frozen(i)}`}
                  title={itemAt(columns, i).name}
                >
                  {itemAt(columns, i).label ?? itemAt(columns, i).name}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {rows.map((row, r) => (
              <tr key={offset + r}>
                {order.map((i) => (
                  <td
                    key={itemAt(columns, i).name}
                    title={row[i]}
                    className={`truncate ${itemAt(columns, i).role === 'open-ended' ? 'max-w-120 font-serif text-lg' : 'max-w-60'}
                      ${frozen(i)}`}
                  >
                    {row[i] || <span className="text-soft">–</span>}
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      </section>
    </>
  );
}

/** Items of a battery: columns whose values are the same few. */
function withBatteries(columns: Column[]) {
  const key = (c: Column) =>
    c.distinct >= 3 && c.distinct <= 12 && c.top.length === c.distinct
      ? `${c.role} ${JSON.stringify(c.top.map((v) => v.value).sort())}`
      : '';
  const counts = new Map<string, number>();
  for (const c of columns) counts.set(key(c), (counts.get(key(c)) ?? 0) + 1);
  const batteries = [...counts.keys()].filter((k) => k && required(counts.get(k)) >= 3);
  return columns.map((c) => ({ ...c, battery: batteries.indexOf(key(c)) + 1 }));
}

/** Sets what several columns are, in one edit. */
function Several({ columns, close }: { columns: Column[]; close: () => void }) {
  const { editStudy } = useDesk();
  return (
    <Dialog title="Set several columns at once" wide close={close}>
      <ColumnsTogether
        columns={withBatteries(columns)}
        set={async (to) => {
          if (await editStudy({ kind: 'columns', columns: to.map(bare) })) close();
        }}
      />
      <p className="pt-3">
        <Button onClick={close}>Cancel</Button>
      </p>
    </Dialog>
  );
}

/** The ways to bring further files to the study. */
function Further() {
  const { question } = useDesk();
  const navigate = useNavigate();
  const choose = (kind: 'rows' | 'columns', file: File) => {
    held.file = file;
    held.link = undefined;
    navigate(`/add/${question.id}/${kind}`);
  };
  const ways = [
    ['rows', 'Add a wave…', 'a further file of respondents'],
    ['columns', 'Add columns by key…', 'what a second file knows of these respondents'],
  ] as const;
  return (
    <span className="flex items-baseline gap-2.5">
      {ways.map(([kind, words, title]) => (
        <FileLink key={kind} words={words} title={title} choose={(file) => choose(kind, file)} />
      ))}
    </span>
  );
}

function Spark({ counts }: { counts: number[] }) {
  const most = Math.max(1, ...counts);
  return (
    <span className="flex h-4 items-end gap-px [&_i]:w-1.5 [&_i]:bg-moss [&_i]:opacity-60" aria-hidden="true">
      {counts.slice(0, 20).map((n, i) => (
        <i key={i} style={{ height: `${n ? 2 + (14 * n) / most : 0}px` }} />
      ))}
    </span>
  );
}

type StripProps = { column: Column; total: number; open: boolean; toggle: () => void; made: Made[] };

function Strip({ column: c, total, open, toggle, made }: StripProps) {
  const figure = c.words
    ? `${c.words.shortest} to ${count(c.words.longest)} words, ${c.words.mean.toFixed(1)} on average`
    : '';
  return (
    <li data-part="strip" className="border-t">
      <Button
        look="bare"
        data-part="striphead"
        data-stop=""
        className="grid w-full grid-cols-[minmax(7rem,10rem)_6rem_5.25rem_5.25rem_minmax(0,1fr)] items-baseline gap-3
          py-1.25 max-sm:grid-cols-2"
        aria-expanded={open}
        onClick={toggle}
      >
        <b className="min-w-0 font-semibold break-words">{c.name}</b>
        <span className="text-soft">{c.role}</span>
        <span className="text-sm text-soft">{c.filled === total ? 'full' : `${percent(c.filled / total)} filled`}</span>
        <Spark counts={c.bins.length ? c.bins.map((b) => b.count) : c.top.map((v) => v.count)} />
        <span className="truncate font-serif text-soft max-w-115">
          {c.points.length > 0 && <em className="mr-2.5 not-italic text-clay">{itemAt(c.points, 0).text}</em>}
          {figure || c.samples.map(dated).join('  ·  ')}
        </span>
      </Button>
      {open && <ColumnBody column={c} total={total} made={made} />}
    </li>
  );
}
