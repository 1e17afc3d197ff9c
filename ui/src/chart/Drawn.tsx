import { useMemo } from 'react';
import { behind, behindAll, between, sayRange } from '../drawing/figures';
import { Planned } from '../drawing/Planned';
import type { Brush, Mark, Shown } from '../drawing/picture';
import { type Drawn as Form, planOf } from '../drawing/plan';
import { useStyle } from '../drawing/useStyle';
import { useAddress } from '../lib/address';
import type { Chart } from '../lib/api';
import { numbers, Select } from '../parts/Select';
import { Empty } from '../parts/Text';

/** A table as a picture. */
export function Drawn({ c, rows, as, title }: { c: Chart; rows: Shown[]; as: Exclude<Form, 'bars'>; title: string }) {
  const { setPick, get, set } = useAddress();
  const over = as === 'lines' ? ([3, 5, 7].find((n) => String(n) === get('over')) ?? 1) : 1;
  const { style } = useStyle();
  const drawn = useMemo(() => {
    const press = (row: number, column: number) => setPick(behind(c, row, column));
    return planOf(c, rows, as, press, style, over);
  }, [c, rows, as, over, setPick, style]);
  const brush: Brush = (from, to, show) => {
    if (!from.cell || !to.cell) return undefined;
    const range = between(
      c,
      rows.map(({ i }) => i),
      from.cell,
      to.cell,
    );
    if (!range) return undefined;
    if (show) setPick(behindAll(c, range));
    const has = ({ cell }: Mark) => !!cell && range.rows.includes(cell.row) && range.columns.includes(cell.column);
    return { has, says: sayRange(c, range) };
  };
  if ((as === 'lines' || as === 'multiples') && !c.nests?.[0]?.ordered)
    return (
      <Empty>
        Lines go along columns that stand in an order of their own: a wave, periods of a date, bands, or numbers. Choose
        such a segment first; in Data, the values of others can be put in an order.
      </Empty>
    );
  if (!drawn.marks.length) return drawn.left ? <Empty>{drawn.left}</Empty> : null;
  return (
    <div className="mt-2">
      {as === 'lines' && (c.columns?.length ?? 0) > 5 && (
        <p className="pb-1 text-sm">
          lines are the mean over{' '}
          <Select
            label="rolling mean over"
            value={String(over)}
            change={(v) => set({ over: v === '1' ? '' : v })}
            options={numbers([1, 3, 5, 7])}
          />{' '}
          columns
        </p>
      )}
      <Planned name={title} plan={drawn} style={style} brush={brush} />
      {drawn.left && <p className="text-sm text-clay">{drawn.left}</p>}
    </div>
  );
}
