import type {
  CustomSeriesRenderItem,
  CustomSeriesRenderItemAPI,
  CustomSeriesRenderItemParams,
} from 'echarts/types/dist/shared';
import type { Chart } from '../lib/api';
import { count } from '../lib/format';
import { itemAt, required } from '../lib/required';
import { categories, ink, labelOf, longest, type Mark, type Plan, type Press, type Shown } from './picture';
import { columnName, markOf, sayCell } from './says';
import { faceOf, figureOf, type Style, textOf } from './style';

/** A column of shades that is narrower can't be read: the picture is scrolled. */
const narrowest = 76;

/** Shares as shades: all columns, each cell with its figure and mark. */
export function heat(c: Chart, rows: Shown[], press: Press, style: Style): Plan {
  const text = textOf(style);
  const label = labelOf(style);

  const shown = categories(rows);
  const columns = c.columns.map((_, i) => i);
  const marks: Mark[] = [];
  const given = (k: number) => itemAt(c.bases, k).answers >= c.tiny;
  const most = Math.max(
    0.01,
    ...shown.flatMap(({ i }) => columns.map((k) => (given(k) ? itemAt(itemAt(c.cells, i), k).share : 0))),
  );
  const data = shown.flatMap(({ i }, y) =>
    columns.map((k, x) => {
      marks.push({
        series: 0,
        data: marks.length,
        says: sayCell(c, i, k),
        press: () => press(i, k),
        cell: { row: i, column: k },
      });
      return [x, y];
    }),
  );
  const render = (p: CustomSeriesRenderItemParams, api: CustomSeriesRenderItemAPI) => {
    const column = itemAt(columns, p.dataIndex % columns.length);
    const row = itemAt(shown, Math.floor(p.dataIndex / columns.length)).i;
    const [x, y] = api.coord([api.value(0), api.value(1)]) as [number, number];
    const [w, h] = required(api.size)([1, 1]) as [number, number];
    const cell = itemAt(itemAt(c.cells, row), column);
    const depth = given(column) ? cell.share / most : 0;
    return {
      type: 'group',
      children: [
        {
          type: 'rect',
          shape: { x: x - w / 2 + 1, y: y - h / 2 + 1, width: w - 2, height: h - 2 },
          style: { fill: 'var(--color-moss)', opacity: 0.07 + 0.48 * depth },
          emphasis: { style: { stroke: ink, lineWidth: 2 } },
        },
        {
          type: 'text',
          x,
          y,
          silent: true,
          style: {
            ...text,
            align: 'center',
            verticalAlign: 'middle',
            text: given(column)
              ? `${figureOf(style, cell.share)}${column > 0 ? ` ${markOf(c, row, column)}` : ''}`.trim()
              : '–',
            fontStyle: itemAt(c.bases, column).answers < c.small ? 'italic' : 'normal',
          },
        },
      ],
    };
  };
  const names = columns.map((k) => `${columnName(c, k).replaceAll(', ', '\n')}\n${count(itemAt(c.bases, k).answers)}`);
  const lines = Math.max(...names.map((n) => n.split('\n').length));
  const top = 8 + 17 * (lines + (columns.length > 7 ? 1 : 0));
  return {
    left: '',
    marks,
    height: top + 12 + 26 * shown.length,
    width: longest(style, shown.map(label)) + narrowest * columns.length,
    option: {
      grid: { left: longest(style, shown.map(label)), right: 8, top, bottom: 6 },
      xAxis: {
        type: 'category',
        position: 'top',
        data: names,
        axisLabel: {
          color: ink,
          fontSize: style.size - 1,
          fontFamily: faceOf(style),
          lineHeight: 16,
          interval: 0,
          width: Math.max(narrowest - 4, 560 / columns.length),
          overflow: 'break',
        },
        axisLine: { show: false },
        axisTick: { show: false },
      },
      yAxis: {
        type: 'category',
        inverse: true,
        data: shown.map(label),
        axisLabel: { color: ink, fontSize: style.size, fontFamily: faceOf(style), width: 220, overflow: 'truncate' },
        axisLine: { show: false },
        axisTick: { show: false },
      },
      series: [{ type: 'custom', renderItem: render as unknown as CustomSeriesRenderItem, data }],
    },
  };
}
