import { useVirtualizer } from '@tanstack/react-virtual';
import { type KeyboardEvent, type MouseEvent, type SyntheticEvent, useEffect, useMemo, useRef, useState } from 'react';
import { behind, behindAll, between, type Range, sayRange } from '../drawing/figures';
import type { Shown } from '../drawing/picture';
import { sayCell } from '../drawing/says';
import { useAddress } from '../lib/address';
import type { Chart } from '../lib/api';
import { itemAt, required } from '../lib/required';
import { useRoving } from '../parts/roving';
import { Caption } from '../parts/Text';
import type { Design } from './design';
import { Head } from './Head';
import { Line, Means } from './Line';

/** From so many rows on, only those in sight are drawn. */
const many = 80;

const none: number[] = [];
type At = { row: number; column: number };

type Props = {
  c: Chart;
  rows: Shown[];
  design: Design;
  opened: boolean;
  open: (opened: boolean) => void;
};

/** Rows by columns as bars or figures; every cell opens the answers behind it, and says all that there is to know of it below. */
export function Grid({ c, rows, design, opened, open }: Props) {
  const { one, pickText, setPick } = useAddress();
  const table = one('as', ['bars', 'table'] as const) === 'table';
  const columns = c.columns.length;
  const stops = useRoving<HTMLTableElement>({ across: true, columns });
  const scroller = useRef<HTMLDivElement>(null);
  const tell = useRef<(text: string) => void>(() => {});
  const given = (i: number) => itemAt(c.bases, i).answers >= c.tiny;
  const most = useMemo(
    () =>
      Math.max(
        0.01,
        ...c.rows.flatMap((r, i) =>
          r.kind === 'category' || r.kind === 'value'
            ? itemAt(c.cells, i).map((x, k) => (itemAt(c.bases, k).answers >= c.tiny ? x.share : 0))
            : [],
        ),
      ),
    [c],
  );
  // Which cell is the one that the answers pane shows.
  const pressed = useMemo(() => {
    if (!pickText) return undefined;
    for (const row of c.rows.keys())
      for (let column = 0; column < columns; column++)
        if (pickText === JSON.stringify(behind(c, row, column))) return { row, columns: [column] };
    return undefined;
  }, [c, pickText, columns]);
  // Several cells are chosen together: by drawing from one bar to another, or with Shift from the one that was pressed.
  const [chosen, setChosen] = useState<{ of: Chart; range: Range; pick: string }>();
  const several = chosen?.of === c && chosen.pick === pickText ? chosen.range : undefined;
  // Where that begins: in this chart, since places in another are other cells.
  const held = useRef<{ of: Chart; at: At }>(undefined);
  const last = useRef<{ of: Chart; at: At }>(undefined);
  const choose = (from: At, to: At) => {
    const range = between(
      c,
      rows.map(({ i }) => i),
      from,
      to,
    );
    if (!range) return setPick(behind(c, to.row, to.column));
    const pick = behindAll(c, range);
    setPick(pick);
    setChosen({ of: c, range, pick: JSON.stringify(pick) });
    tell.current(sayRange(c, range));
  };
  const press = (at: At, shift: boolean) => {
    if (shift && last.current?.of === c) return choose(last.current.at, at);
    last.current = { of: c, at };
    setPick(behind(c, at.row, at.column));
  };
  const height = table ? 44 : 26; // about: rows are measured as they are drawn
  const list = useVirtualizer({
    count: rows.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => height,
    overscan: 12,
    enabled: rows.length > many,
    getItemKey: (i) => itemAt(rows, i).r.id || itemAt(rows, i).r.kind,
  });
  const window = rows.length > many ? list.getVirtualItems() : undefined;
  const drawn = window ? window.map((v) => itemAt(rows, v.index)) : rows;
  const before = window?.[0]?.start ?? 0;
  const after = window ? list.getTotalSize() - (window.at(-1)?.end ?? 0) : 0;
  const cellOf = (e: SyntheticEvent) => {
    const cell = (e.target as HTMLElement).closest<HTMLElement>('[data-cell]');
    if (!cell) return undefined;
    const [row, column] = required(cell.dataset.cell).split(' ').map(Number) as [number, number];
    return c.rows[row] && c.columns[column] ? { row, column } : undefined;
  };
  const point = (e: SyntheticEvent) => {
    const at = cellOf(e);
    if (at) tell.current(sayCell(c, at.row, at.column));
  };
  return (
    <>
      <div ref={scroller} className={`mt-2 overflow-auto ${window ? 'max-h-[76vh]' : ''}`}>
        <table
          {...stops}
          data-part={table ? 'figures' : 'bars'}
          aria-label={table ? 'Table' : 'Bars'}
          onMouseOver={point}
          onFocus={(e) => {
            stops.onFocus(e);
            point(e);
          }}
          onClick={(e) => {
            const at = cellOf(e);
            if (at) press(at, e.shiftKey);
          }}
          onKeyDown={(e: KeyboardEvent) => {
            stops.onKeyDown(e);
            const at = e.key === 'Enter' && e.shiftKey ? cellOf(e) : undefined;
            if (!at) return;
            e.preventDefault();
            press(at, true);
          }}
          // In a table, drawing with the mouse selects its text.
          onMouseDown={(e: MouseEvent) => {
            const at = table || e.shiftKey ? undefined : cellOf(e);
            held.current = at && { of: c, at };
          }}
          onMouseUp={(e) => {
            const from = held.current?.of === c ? held.current.at : undefined;
            held.current = undefined;
            const to = cellOf(e);
            if (from && to && (from.row !== to.row || from.column !== to.column)) choose(from, to);
          }}
          // Columns of one width: bars in them are compared.
          className={`w-full border-separate border-spacing-0 ${table ? '' : 'table-fixed select-none'}`}
          style={table ? undefined : { minWidth: `${11 + 5.4 * columns}rem` }}
        >
          <Head c={c} table={table} design={design} />
          <tbody>
            {before > 0 && <tr aria-hidden style={{ height: before }} />}
            {drawn.map(({ r, i }) => (
              <Line
                key={r.id || r.kind}
                c={c}
                row={i}
                table={table}
                shown={design.shown}
                most={most}
                pressed={several?.rows.includes(i) ? several.columns : pressed?.row === i ? pressed.columns : none}
                opened={opened}
                open={open}
              />
            ))}
            {after > 0 && <tr aria-hidden style={{ height: after }} />}
            <Means c={c} table={table} given={given} tests={design.shown.includes('tests')} />
          </tbody>
        </table>
      </div>
      <Says c={c} tell={tell} />
    </>
  );
}

/** What the cell that one points at or stands on says, in sentences. It stays in sight and keeps its
 * room, so that nothing moves. */
function Says({ c, tell }: { c: Chart; tell: { current: (text: string) => void } }) {
  const [said, setSaid] = useState<{ of: Chart; text: string }>();
  useEffect(() => {
    tell.current = (text) => setSaid({ of: c, text });
  }, [c, tell]);
  return (
    <div
      className="sticky bottom-0 z-10 h-17 overflow-y-auto border-t border-hair bg-paper pt-1"
      data-part="says"
      role="status"
    >
      <Caption>
        {said?.of === c
          ? said.text
          : 'Point at a cell, or go to it with Tab and the arrows: what it says stands here. Shift chooses all from the cell that was pressed to another.'}
      </Caption>
    </div>
  );
}
