import { useState } from 'react';
import { api, type Column, take } from '../api/client';
import { useFocus } from '../focus';
import { count, dated, many, percent } from '../format';
import { useAsk, useDesk } from '../question';

/** The file as it came: a strip per column, and the rows below. */
export default function Data() {
  const { question } = useDesk();
  const [offset, setOffset] = useState(0);
  const [open, setOpen] = useState<string>();
  const study = question.study.id;
  const limit = 25;
  const sheet = useAsk(['sheet', study, offset], () =>
    take(api.GET('/api/v1/studies/{study}/sheet', { params: { path: { study }, query: { offset, limit } } })),
  );
  if (sheet.error) return <p className="bad">{sheet.error.message}</p>;
  if (!sheet.data) return <p className="ghost">&nbsp;</p>;
  const { columns, rows, total } = sheet.data;
  return (
    <div className="datav">
      <h1>{question.study.name}</h1>
      <p className="soft">
        {many(total, 'respondent')}, {many(columns.length, 'column')}. Open a column to see its values; press one to
        narrow the focus to it.
      </p>
      <ul className="plainlist strips">
        {columns.map((c) => (
          <Strip
            key={c.name}
            column={c}
            total={total}
            open={open === c.name}
            toggle={() => setOpen(open === c.name ? undefined : c.name)}
          />
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

function Strip({
  column: c,
  total,
  open,
  toggle,
}: {
  column: Column;
  total: number;
  open: boolean;
  toggle: () => void;
}) {
  const { narrow } = useFocus();
  const most = Math.max(1, ...c.top.map((v) => v.count));
  const usable = ['segment', 'several answers', 'wave', 'number', 'date'].includes(c.role);
  return (
    <li className="strip">
      <button type="button" className="striphead" aria-expanded={open} onClick={toggle}>
        <b>{c.name}</b>
        <span className="soft">{c.role}</span>
        <span className="fig">{c.filled === total ? 'full' : `${percent(c.filled / total)} filled`}</span>
        <span className="spark" aria-hidden="true">
          {c.top.map((v) => (
            <i key={v.value} style={{ height: `${2 + (14 * v.count) / most}px` }} />
          ))}
        </span>
        <span className="samples">{c.samples.map(dated).join('  ·  ')}</span>
      </button>
      {open && (
        <div className="stripbody">
          <p className="soft">
            {many(c.filled, 'cell')} filled, {count(total - c.filled)} blank, {many(c.distinct, 'different value')}.
          </p>
          {c.top.length > 0 && (
            <table className="values">
              <tbody>
                {c.top.map((v) => (
                  <tr key={v.value}>
                    <td>
                      {usable ? (
                        <button
                          type="button"
                          className="plain"
                          onClick={() => narrow({ kind: 'variable', name: c.name, op: '=', values: [v.value] })}
                        >
                          {v.value}
                        </button>
                      ) : (
                        v.value
                      )}
                    </td>
                    <td className="num">{count(v.count)}</td>
                    <td className="barcell" aria-hidden="true">
                      <i style={{ width: `${(100 * v.count) / most}%` }} />
                    </td>
                  </tr>
                ))}
              </tbody>
            </table>
          )}
          {c.distinct > c.top.length && c.top.length > 0 && (
            <p className="soft">and {count(c.distinct - c.top.length)} values more</p>
          )}
        </div>
      )}
    </li>
  );
}
