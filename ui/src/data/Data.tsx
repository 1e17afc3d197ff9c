import { useLocation, useNavigate } from 'react-router';
import { useAddress } from '../lib/address';
import type { Column, Made, Notes } from '../lib/api';
import { useDesk } from '../lib/edits';
import { count, dated, many, percent } from '../lib/format';
import { useSheet } from '../lib/queries';
import { held } from '../lib/upload';
import { Failed } from '../parts/Asked';
import { Button, Kbd } from '../parts/Button';
import { FileLink } from '../parts/FileLink';
import { Odd } from '../parts/Notes';
import { useRoving } from '../parts/roving';
import { optionsOf, Select } from '../parts/Select';
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
      <div className="flex flex-wrap items-baseline gap-2.5">
        <span className="text-soft">
          {many(total, 'respondent')}, {many(columns.length, 'column')}
          {toLookAt > 0 && `, ${toLookAt} with something to look at`}
        </span>
        <span className="ml-auto flex flex-wrap items-baseline gap-2.5">
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
              className="grid w-full grid-cols-[minmax(7rem,10rem)_6rem_5.25rem_5.25rem_minmax(0,1fr)] items-baseline gap-3 py-1.25 max-sm:grid-cols-2"
              aria-expanded={open === d.name}
              onClick={() => toggle(d.name)}
            >
              <b className="font-semibold italic">{d.name}</b>
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
      <div className="flex items-baseline gap-2.5 justify-between">
        <h2>Rows as they came</h2>
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
        <table className="border-collapse text-sm [&_:is(th,td)]:border-b [&_:is(th,td)]:border-hair [&_:is(th,td)]:py-1 [&_:is(th,td)]:pr-3.5 [&_:is(th,td)]:text-left [&_:is(th,td)]:align-top [&_th]:font-medium [&_th]:whitespace-nowrap [&_th]:text-soft">
          <thead>
            <tr>
              {columns.map((c) => (
                <th key={c.name} className={c.role === 'open-ended' ? 'w-full min-w-80' : ''}>
                  {c.name}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {rows.map((row, r) => (
              <tr key={offset + r}>
                {row.map((cell, i) => (
                  <td key={columns[i]!.name} className={columns[i]!.role === 'open-ended' ? 'font-serif text-lg' : ''}>
                    {cell || <span className="text-soft">–</span>}
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      </section>
    </div>
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
        className="grid w-full grid-cols-[minmax(7rem,10rem)_6rem_5.25rem_5.25rem_minmax(0,1fr)] items-baseline gap-3 py-1.25 max-sm:grid-cols-2"
        aria-expanded={open}
        onClick={toggle}
      >
        <b className="font-semibold">{c.name}</b>
        <span className="text-soft">{c.role}</span>
        <span className="text-sm text-soft">{c.filled === total ? 'full' : `${percent(c.filled / total)} filled`}</span>
        <Spark counts={c.bins.length ? c.bins.map((b) => b.count) : c.top.map((v) => v.count)} />
        <span className="truncate font-serif text-soft max-w-115">
          {c.points.length > 0 && <em className="mr-2.5 not-italic text-clay">{c.points[0]!.text}</em>}
          {figure || c.samples.map(dated).join('  ·  ')}
        </span>
      </Button>
      {open && <ColumnBody column={c} total={total} made={made} />}
    </li>
  );
}
