import type {
  CustomSeriesRenderItem,
  CustomSeriesRenderItemAPI,
  CustomSeriesRenderItemParams,
} from 'echarts/types/dist/shared';
import type { Chart } from '../lib/api';
import { count } from '../lib/format';
import { itemAt } from '../lib/required';
import {
  categories,
  colour,
  endOf,
  ink,
  labelOf,
  line,
  longest,
  type Mark,
  mostSeries,
  type Plan,
  type Press,
  type Shown,
  shape,
  valueAxis,
} from './picture';
import { columnName, sayCell } from './says';
import { faceOf, type Style, textOf } from './style';

/** The columns that are drawn: those of the first nest, or the total; of many, the first. */
function columnsOf(c: Chart) {
  const all = c.columns.flatMap((k, i) => (k.nest === 0 && itemAt(c.bases, i).answers >= c.tiny ? [i] : []));
  const drawn = (all.length ? all : [0]).slice(0, mostSeries);
  const out = c.columns.length - 1 - drawn.length;
  return {
    drawn,
    left: all.length && out > 0 ? `${out} of ${c.columns.length - 1} columns are not drawn; the table has all.` : '',
  };
}

/** The names of series above a picture, each with its shape: from left to right, on as many lines as it takes. */
function legend(c: Chart, columns: number[], style: Style, width = 560) {
  const text = textOf(style);
  const children: object[] = [];
  let x = 6;
  let y = 9;
  columns.forEach((column, i) => {
    const words = `${columnName(c, column)} (${count(itemAt(c.bases, column).answers)})`;
    const room = 30 + 0.52 * style.size * words.length;
    if (x + room > width && x > 6) {
      x = 6;
      y += style.size + 7;
    }
    children.push(shape(i, x, y, 5, { fill: colour(i) }));
    children.push({ type: 'text', x: x + 11, y, style: { ...text, verticalAlign: 'middle', text: words } });
    x += room;
  });
  return { children, height: y + 18 };
}

/** A line of its own above the grid that holds what is no mark: the legend. */
const above = (children: object[]) => ({
  type: 'custom',
  silent: true,
  coordinateSystem: 'none',
  clip: false,
  data: [0],
  renderItem: () => ({ type: 'group', children }),
});

/** Dots with their 95 % intervals: a line for each category, a shape for each column. */
export function dots(c: Chart, rows: Shown[], press: Press, style: Style): Plan {
  const label = labelOf(style);

  const { drawn, left } = columnsOf(c);
  const shown = categories(rows);
  const interval = c.query.base !== 'mentions';
  const marks: Mark[] = [];
  const band = 12 + 9 * drawn.length;
  const series = drawn.map((column, k) => {
    const render = (p: CustomSeriesRenderItemParams, api: CustomSeriesRenderItemAPI) => {
      const [, y] = api.coord([0, api.value(1)]) as [number, number];
      const at = y + (k - (drawn.length - 1) / 2) * 9;
      const x = (share: number) => (api.coord([share, 0]) as [number, number])[0];
      const cell = itemAt(itemAt(c.cells, itemAt(shown, p.dataIndex).i), column);
      const faint = itemAt(c.bases, column).answers < c.small ? 0.5 : 1;
      const whisker = {
        type: 'line',
        shape: { x1: x(cell.low), x2: x(cell.high), y1: at, y2: at },
        style: { stroke: colour(k), lineWidth: 1.5, opacity: 0.75 * faint },
      };
      return {
        type: 'group',
        children: [
          ...(interval ? [whisker] : []),
          shape(k, x(cell.share), at, 4.2, { fill: colour(k), opacity: faint }),
        ],
      };
    };
    for (const [data, { i }] of shown.entries())
      marks.push({
        series: k,
        data,
        says: sayCell(c, i, column),
        press: () => press(i, column),
        cell: { row: i, column },
      });
    return {
      type: 'custom',
      renderItem: render as unknown as CustomSeriesRenderItem,
      data: shown.map(({ i }, row) => [itemAt(itemAt(c.cells, i), column).share, row]),
    };
  });
  const top = legend(c, drawn, style);
  // From row to row, and in a row from column to column: as one reads.
  marks.sort((a, b) => a.data - b.data || a.series - b.series);
  const most = Math.max(
    0.01,
    ...shown.flatMap(({ i }) => drawn.map((k) => itemAt(itemAt(c.cells, i), k)[interval ? 'high' : 'share'])),
  );
  return {
    left,
    marks,
    height: top.height + 34 + band * shown.length,
    width: 420,
    option: {
      grid: { left: longest(style, shown.map(label)), right: 24, top: top.height, bottom: 30 },
      xAxis: valueAxis(style, endOf(most)),
      yAxis: {
        type: 'category',
        inverse: true,
        data: shown.map(label),
        axisLabel: { color: ink, fontSize: style.size, fontFamily: faceOf(style), width: 220, overflow: 'truncate' },
        axisLine: { lineStyle: { color: line } },
        axisTick: { show: false },
        splitLine: { show: true, lineStyle: { color: line, opacity: 0.6 } },
      },
      series: [...series, above(top.children)],
    },
  };
}
