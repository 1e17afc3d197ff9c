import { categories, labelOf } from '../drawing/picture';
import { rowsOf } from '../drawing/plan';
import { columnName } from '../drawing/says';
import type { Style } from '../drawing/style';
import { itemAt } from '../lib/required';
import type { Made } from './figures';

/** What a program draws by itself. */
export type Own = NonNullable<Made['own']>;

/** Bars of one picture that can still be told apart. */
const mostBars = 64;
const mostSeries = 8;

/** Its columns stand along the axis: a line for each category. */
export const turned = ({ as }: Pick<Own, 'as'>) => as === 'lines' || as === 'multiples';

/** The figures of a picture as series, for programs that draw their own, and what of them is left out, in a sentence. */
export function seriesOf({ chart: c, as }: Own, style: Style) {
  const label = labelOf(style);
  const given = c.columns.flatMap((_, i) => (itemAt(c.bases, i).answers >= c.tiny ? [i] : []));
  const parts = given.filter((i) => itemAt(c.columns, i).nest === 0);
  const columns = (parts.length ? parts : given).slice(0, mostSeries);
  const share = (row: number, column: number) => itemAt(itemAt(c.cells, row), column).share;
  const all = categories(rowsOf(c));
  const most = turned({ as }) ? mostSeries : Math.max(5, Math.floor(mostBars / columns.length));
  const often = new Set([...all].sort((a, b) => share(b.i, 0) - share(a.i, 0)).slice(0, most));
  const rows = all.filter((r) => often.has(r));
  const left: string[] = [];
  if (rows.length < all.length) left.push(`The ${rows.length} most frequent of ${all.length} categories are drawn.`);
  if (columns.length < given.length - 1) left.push(`${columns.length} of ${given.length - 1} columns are drawn.`);
  const series = turned({ as })
    ? rows.map((r) => ({
        name: label(r),
        labels: columns.map((i) => columnName(c, i)),
        values: columns.map((i) => share(r.i, i)),
      }))
    : columns.map((i) => ({
        name: columnName(c, i),
        labels: rows.map(label),
        values: rows.map((r) => share(r.i, i)),
      }));
  return { series, left: left.join(' ') };
}

/** How many values a picture has, one under the other. */
export function valuesOf(own: Own, style: Style) {
  const { series } = seriesOf(own, style);
  return turned(own) ? 12 : (series[0]?.values.length ?? 0) * (0.6 + 0.4 * series.length);
}
