import { useVirtualizer } from '@tanstack/react-virtual';
import { type SyntheticEvent, useEffect, useMemo, useRef, useState } from 'react';
import { behind } from '../drawing/figures';
import type { Shown } from '../drawing/picture';
import { sayCell } from '../drawing/says';
import { useAddress } from '../lib/address';
import type { Chart } from '../lib/api';
import { useRoving } from '../parts/roving';
import { Caption } from '../parts/Text';
import type { Design } from './design';
import { Head } from './Head';
import { Line, Means } from './Line';

/** From so many rows on, only those in sight are drawn. */
const many = 80;

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
  const columns = c.columns!.length;
  const stops = useRoving<HTMLTableElement>({ across: true, columns });
  const scroller = useRef<HTMLDivElement>(null);
  const tell = useRef<(text: string) => void>(() => {});
  const given = (i: number) => c.bases![i]!.answers >= c.tiny;
  const most = useMemo(
    () =>
      Math.max(
        0.01,
        ...c.rows!.flatMap((r, i) =>
          r.kind === 'category' ? c.cells![i]!.map((x, k) => (c.bases![k]!.answers >= c.tiny ? x.share : 0)) : [],
        ),
      ),
    [c],
  );
  // Which cell is the one that the answers pane shows.
  const pressed = useMemo(() => {
    if (!pickText) return undefined;
    for (const row of c.rows!.keys())
      for (let column = 0; column < columns; column++)
        if (pickText === JSON.stringify(behind(c, row, column))) return { row, column };
    return undefined;
  }, [c, pickText, columns]);
  const height = table ? 44 : 26; // about: rows are measured as they are drawn
  const list = useVirtualizer({
    count: rows.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => height,
    overscan: 12,
    enabled: rows.length > many,
    getItemKey: (i) => rows[i]!.r.id || rows[i]!.r.kind,
  });
  const window = rows.length > many ? list.getVirtualItems() : undefined;
  const drawn = window ? window.map((v) => rows[v.index]!) : rows;
  const before = window?.[0]?.start ?? 0;
  const after = window ? list.getTotalSize() - (window.at(-1)?.end ?? 0) : 0;
  const cellOf = (e: SyntheticEvent) => {
    const cell = (e.target as HTMLElement).closest<HTMLElement>('[data-cell]');
    if (!cell) return undefined;
    const [row, column] = cell.dataset.cell!.split(' ').map(Number) as [number, number];
    return c.rows![row] && c.columns![column] ? { row, column } : undefined;
  };
  const point = (e: SyntheticEvent) => {
    const at = cellOf(e);
    if (at) tell.current(sayCell(c, at.row, at.column));
  };
  return (
    <>
      <div ref={scroller} className={`mt-2 overflow-auto ${window ? 'max-h-[76vh]' : ''}`}>
        {/* biome-ignore lint/a11y/useKeyWithClickEvents: what is pressed are buttons inside */}
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
            if (at) setPick(behind(c, at.row, at.column));
          }}
          // Columns of one width: bars in them are compared.
          className={`w-full border-separate border-spacing-0 ${table ? '' : 'table-fixed'}`}
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
                pressed={pressed?.row === i ? pressed.column : -1}
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
        {said?.of === c ? said.text : 'Point at a cell, or go to it with Tab and the arrows: what it says stands here.'}
      </Caption>
    </div>
  );
}
