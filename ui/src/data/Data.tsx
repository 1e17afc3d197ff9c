import { useState } from 'react';
import { useLocation, useNavigate } from 'react-router';
import { api, type Column, type Made, type Notes, take } from '../lib/api';
import { useAsk, useDesk } from '../lib/desk';
import { count, dated, many, percent } from '../lib/format';
import { held } from '../lib/upload';
import { Odd } from '../load/Reading';
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
  const [offset, setOffset] = useState(0);
  const [open, setOpen] = useState<string>();
  const [sort, setSort] = useState<keyof typeof sorts>('file');
  const [search, setSearch] = useState('');
  const arrived = useLocation().state as { notes?: Notes; done?: string } | null;
  const study = question.study.id;
  const limit = 25;
  const sheet = useAsk(['sheet', study, offset], () =>
    take(api.GET('/api/v1/studies/{study}/sheet', { params: { path: { study }, query: { offset, limit } } })),
  );
  if (sheet.error) return <p className="bad">{sheet.error.message}</p>;
  if (!sheet.data) return <p className="ghost">&nbsp;</p>;
  const { columns, derived, rows, total } = sheet.data;
  const looked = search.trim().toLowerCase();
  const matches = (c: Column) =>
    !looked ||
    [c.name, c.role, ...c.samples, ...c.top.map((v) => v.value)].some((t) => t.toLowerCase().includes(looked));
  const shown = sorted(columns.filter(matches), sort);
  const shownMade = derived.filter((d) => !looked || d.name.toLowerCase().includes(looked));
  const toLookAt = columns.filter((c) => c.points.length).length;
  const toggle = (name: string) => setOpen(open === name ? undefined : name);
  return (
    <div className="datav">
      <div className="row between wrap">
        <h1>{question.study.name}</h1>
        <Further />
      </div>
      {arrived?.done && question.undo?.summary === arrived.done && (
        <p role="status">
          {arrived.done}. <kbd>z</kbd> takes it back.
        </p>
      )}
      {arrived?.notes && <Odd notes={arrived.notes} />}
      <div className="row wrap">
        <span className="soft">
          {many(total, 'respondent')}, {many(columns.length, 'column')}
          {toLookAt > 0 && `, ${toLookAt} with something to look at`}
        </span>
        <span className="right row wrap">
          <label className="soft">
            in order of{' '}
            <select value={sort} onChange={(e) => setSort(e.target.value as typeof sort)}>
              {Object.entries(sorts).map(([k, words]) => (
                <option key={k} value={k}>
                  {words}
                </option>
              ))}
            </select>
          </label>
          <input
            className="search"
            type="search"
            placeholder="find a column or value…"
            aria-label="Find a column or value"
            value={search}
            onChange={(e) => setSearch(e.target.value)}
          />
        </span>
      </div>
      {shown.length + shownMade.length === 0 && <p className="empty">No column has “{search}” in it.</p>}
      <ul className="plainlist strips">
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
          <li className="strip made" key={d.name}>
            <button type="button" className="striphead" aria-expanded={open === d.name} onClick={() => toggle(d.name)}>
              <b>{d.name}</b>
              <span className="soft">made</span>
              <span className="fig">{d.missing ? `${percent(1 - d.missing / total)} filled` : 'full'}</span>
              <Spark counts={d.values.map((v) => v.count)} />
              <span className="samples">
                {d.problem ? <span className="bad">{d.problem}</span> : d.values.map((v) => v.value).join('  ·  ')}
              </span>
            </button>
            {open === d.name && <MadeBody made={d} />}
          </li>
        ))}
      </ul>
      <div className="row between">
        <h2>Rows as they came</h2>
        <span className="row">
          <button type="button" disabled={offset === 0} onClick={() => setOffset(Math.max(0, offset - limit))}>
            Before
          </button>
          <span className="soft">
            {count(offset + 1)} to {count(Math.min(offset + limit, total))} of {count(total)}
          </span>
          <button type="button" disabled={offset + limit >= total} onClick={() => setOffset(offset + limit)}>
            After
          </button>
        </span>
      </div>
      {/* biome-ignore lint/a11y/noNoninteractiveTabindex: a scrolling region must be reachable by keyboard */}
      <section className="scroll-x" aria-label="Rows" tabIndex={0}>
        <table className="cells">
          <thead>
            <tr>
              {columns.map((c) => (
                <th key={c.name} className={c.role === 'open-ended' ? 'wide' : ''}>
                  {c.name}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {rows.map((row, r) => (
              <tr key={offset + r}>
                {row.map((cell, i) => (
                  <td key={columns[i]!.name} className={columns[i]!.role === 'open-ended' ? 'verbatim' : ''}>
                    {cell || <span className="soft">–</span>}
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
  const choose = (kind: 'rows' | 'columns', file: File | undefined) => {
    if (!file) return;
    held.file = file;
    held.link = undefined;
    navigate(`/add/${question.id}/${kind}`);
  };
  const ways = [
    ['rows', 'Add a wave…', 'a further file of respondents'],
    ['columns', 'Add columns by key…', 'what a second file knows of these respondents'],
  ] as const;
  return (
    <span className="row">
      {ways.map(([kind, words, title]) => (
        <label className="plain filelink" key={kind} title={title}>
          {words}
          <input
            className="sr"
            type="file"
            aria-label={`${words} ${title}`}
            onChange={(e) => choose(kind, e.target.files?.[0])}
          />
        </label>
      ))}
    </span>
  );
}

function Spark({ counts }: { counts: number[] }) {
  const most = Math.max(1, ...counts);
  return (
    <span className="spark" aria-hidden="true">
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
    <li className="strip">
      <button type="button" className="striphead" aria-expanded={open} onClick={toggle}>
        <b>{c.name}</b>
        <span className="soft">{c.role}</span>
        <span className="fig">{c.filled === total ? 'full' : `${percent(c.filled / total)} filled`}</span>
        <Spark counts={c.bins.length ? c.bins.map((b) => b.count) : c.top.map((v) => v.count)} />
        <span className="samples">
          {c.points.length > 0 && <em className="look">{c.points[0]!.text}</em>}
          {figure || c.samples.map(dated).join('  ·  ')}
        </span>
      </button>
      {open && <ColumnBody column={c} total={total} made={made} />}
    </li>
  );
}
