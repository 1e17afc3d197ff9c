import type { ReactNode } from 'react';
import type { Item } from './items';
import type { Run } from './markdown';
import type { Cell, Table } from './table';

/** Text with its looks. */
export const Runs = ({ runs }: { runs: Run[] }) => runs.map((r, i) => <One key={i} run={r} />);

function One({ run: r }: { run: Run }) {
  let words: ReactNode = r.text;
  if (r.code) words = <code className="rounded-sm bg-hair px-0.75 font-mono text-[0.9em]">{words}</code>;
  if (r.bold) words = <b>{words}</b>;
  if (r.italic) words = <i>{words}</i>;
  if (!r.link) return <span className="whitespace-pre-line">{words}</span>;
  return (
    <a href={r.link} target="_blank" rel="noreferrer">
      {words}
    </a>
  );
}

const headings = {
  1: 'pt-6 pb-1 font-serif text-2xl font-semibold break-after-avoid',
  2: 'pt-4 pb-0.5 font-serif text-xl font-semibold break-after-avoid',
  3: 'pt-2.5 pb-0.5 text-lg font-semibold break-after-avoid',
} as const;

/** What a report is made of, as it is read: on the screen and in files alike. A heading is a level further in than it is written,
 * under the name of the report. */
export function Sheet({ items, figure }: { items: Item[]; figure: (item: Item & { kind: 'figure' }) => ReactNode }) {
  return items.map((item, i) => {
    switch (item.kind) {
      case 'heading': {
        const Level = ({ 1: 'h2', 2: 'h3', 3: 'h4' } as const)[item.level];
        return (
          <Level key={i} className={`${headings[item.level]} [overflow-wrap:anywhere]`}>
            {item.text}
          </Level>
        );
      }
      case 'text':
        return (
          <p
            key={i}
            className={`pb-2 [overflow-wrap:anywhere] ${item.small ? 'max-w-[96ch] text-sm text-soft' : 'max-w-[75ch] font-serif text-lg'} ${item.warning ? 'text-clay' : ''}`}
          >
            <Runs runs={item.runs} />
          </p>
        );
      case 'list': {
        const List = item.ordered ? 'ol' : 'ul';
        return (
          <List
            key={i}
            className={`max-w-[75ch] pb-2 pl-6 font-serif text-lg ${item.ordered ? 'list-decimal' : 'list-disc'}`}
          >
            {item.items.map((runs, j) => (
              <li key={j} className="pb-0.5">
                <Runs runs={runs} />
              </li>
            ))}
          </List>
        );
      }
      case 'code':
        return (
          <pre key={i} className="mb-2 max-w-[75ch] overflow-x-auto rounded-sm bg-hair p-2 font-mono text-sm">
            {item.text}
          </pre>
        );
      case 'rule':
        return <hr key={i} className="my-3 border-t border-line" />;
      case 'quote':
        return (
          <figure key={i} className="break-inside-avoid pb-3 pl-4">
            <blockquote className="max-w-[70ch] border-l-2 border-moss pl-3 font-serif text-lg whitespace-pre-line [overflow-wrap:anywhere]">
              {item.text}
            </blockquote>
            {item.who && <figcaption className="pt-0.5 pl-3.5 text-sm text-soft">{item.who}</figcaption>}
          </figure>
        );
      case 'finding':
        return (
          <p key={i} className="max-w-[75ch] break-inside-avoid pt-1 pb-1 font-serif text-lg">
            <b>{item.head}</b> {item.text}
          </p>
        );
      case 'figure':
        return (
          <div key={i} className="break-inside-avoid py-1">
            {figure(item)}
          </div>
        );
      case 'table':
        return <Grid key={i} name={item.name} table={item.table} />;
    }
    return null;
  });
}

const Said = ({ cell, figures }: { cell: Cell; figures: boolean }) => (
  <>
    {cell.text}
    {cell.small.map((words) => (
      <small key={words} className={`block text-xs text-soft ${figures ? 'whitespace-nowrap' : ''}`}>
        {words}
      </small>
    ))}
  </>
);

/** A table. One whose cells are words stands to the left. */
function Grid({ name, table }: { name: string; table: Table }) {
  const figures = table.rows.some((r) => r.cells.slice(1).some((c) => /^[–\d]/.test(c.text)));
  const side = (column: number, text = '') =>
    column === 0 || !figures || (text !== '' && !/^[–\d]/.test(text)) ? 'text-left' : 'text-right';
  return (
    // biome-ignore lint/a11y/noNoninteractiveTabindex: a scrolling region must be reachable by keyboard
    <div className="overflow-x-auto pb-2" role="region" aria-label={name || 'Table'} tabIndex={0}>
      <table className="border-collapse text-sm">
        <thead>
          {table.head.map((line, i) => (
            <tr key={i}>
              {line.map((h, j) => (
                <th
                  key={j}
                  scope={h.span > 1 ? 'colgroup' : 'col'}
                  colSpan={h.span}
                  className={`border-b border-line px-1.5 py-0.5 align-bottom font-semibold ${h.span > 1 ? 'text-left' : side(j)}`}
                >
                  {h.words[0]}
                  {h.words.slice(1).map((w) => (
                    <small key={w} className="block text-xs font-normal whitespace-nowrap text-soft">
                      {w}
                    </small>
                  ))}
                </th>
              ))}
            </tr>
          ))}
        </thead>
        <tbody>
          {table.rows.map((r, i) => (
            <tr key={i} className={r.sum ? 'text-soft' : ''}>
              {r.cells.map((c, j) =>
                j === 0 ? (
                  <th
                    key={j}
                    scope="row"
                    className="border-b border-hair py-0.5 pr-3 text-left align-baseline font-normal"
                    style={{ paddingLeft: 14 * r.depth }}
                  >
                    <Said cell={c} figures={figures} />
                  </th>
                ) : (
                  <td key={j} className={`border-b border-hair px-1.5 py-0.5 align-baseline ${side(j, c.text)}`}>
                    <Said cell={c} figures={figures} />
                  </td>
                ),
              )}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
