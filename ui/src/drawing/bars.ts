import type { CustomSeriesRenderItem, CustomSeriesRenderItemParams } from 'echarts/types/dist/shared';
import type { Chart } from '../lib/api';
import { count } from '../lib/format';
import { itemAt } from '../lib/required';
import { categories, colour, ink, labelOf, line, type Mark, type Plan, type Press, type Shown, soft } from './picture';
import { columnName, markOf, sayCell } from './says';
import { figureOf, type Style, textOf } from './style';

/** Columns that stand side by side in a picture of bars. */
const mostPanels = 8;

/** The drawn columns: those that have a base to give shares of; of many, the first. */
function panelsOf(c: Chart) {
  const all = c.columns.flatMap((_, i) => (itemAt(c.bases, i).answers >= c.tiny ? [i] : []));
  const panels = all.slice(0, mostPanels);
  const out = c.columns.length - panels.length;
  return {
    panels,
    left: out > 0 ? `${out} of ${c.columns.length} columns are not drawn; the table has all.` : '',
  };
}

/** Bars from one line: a panel for each column, a line for each category, the figure and ▲ ▼ beside each bar. */
export function bars(c: Chart, rows: Shown[], press: Press, style: Style): Plan {
  const text = textOf(style);
  const label = labelOf(style);
  const { panels, left } = panelsOf(c);
  const shown = categories(rows);
  const band = style.size + 11;
  const step = 12;
  const gutter = Math.min(
    240,
    16 + Math.max(0, ...shown.map((s) => step * s.r.depth + 0.48 * style.size * label(s).length)),
  );
  const top = 2 * style.size + 14;
  const most = Math.max(0.01, ...shown.flatMap(({ i }) => panels.map((k) => itemAt(itemAt(c.cells, i), k).share)));
  const panel = (width: number, k: number) => {
    const room = (width - gutter) / Math.max(1, panels.length);
    return { x: gutter + k * room, room, bar: Math.max(8, room - 3.7 * style.size) };
  };
  const wide = (api: { getWidth: () => number }) => api.getWidth() - 4;
  const head = (_: CustomSeriesRenderItemParams, api: { getWidth: () => number }) => ({
    type: 'group',
    children: panels.flatMap((column, k) => {
      const { x, room } = panel(wide(api), k);
      const fits = { ...text, width: room - 10, overflow: 'truncate' };
      return [
        { type: 'text', x, y: 4, style: { ...fits, fontWeight: 600, text: columnName(c, column) } },
        {
          type: 'text',
          x,
          y: style.size + 8,
          style: {
            ...fits,
            fontSize: style.size - 1,
            fill: soft,
            text: `base ${count(itemAt(c.bases, column).answers)}`,
          },
        },
        {
          type: 'line',
          shape: { x1: x - 0.5, x2: x - 0.5, y1: top, y2: top + band * shown.length },
          style: { stroke: line, lineWidth: 1 },
        },
      ];
    }),
  });
  const names = () => ({
    type: 'group',
    children: shown.map((s, row) => ({
      type: 'text',
      x: 2 + step * s.r.depth,
      y: top + (row + 0.5) * band,
      style: {
        ...text,
        verticalAlign: 'middle',
        width: gutter - 8 - step * s.r.depth,
        overflow: 'truncate',
        text: label(s),
      },
    })),
  });
  const marks: Mark[] = [];
  const series = panels.map((column, k) => {
    const bar = (p: CustomSeriesRenderItemParams, api: { getWidth: () => number }) => {
      const { r, i } = itemAt(shown, p.dataIndex);
      const cell = itemAt(itemAt(c.cells, i), column);
      const { x, bar } = panel(wide(api), k);
      const y = top + p.dataIndex * band;
      const width = Math.max(1, (bar * cell.share) / most);
      const faint = itemAt(c.bases, column).answers < c.small ? 0.45 : 0.9;
      const mark = markOf(c, i, column);
      const figure = { ...text, verticalAlign: 'middle' };
      return {
        type: 'group',
        children: [
          {
            type: 'rect',
            shape: { x, y: y + 5, width, height: band - 10 },
            style: { fill: colour(r.top), opacity: faint },
            emphasis: { style: { stroke: ink, lineWidth: 2 } },
          },
          {
            type: 'text',
            x: x + width + 5,
            y: y + band / 2,
            style: { ...figure, text: figureOf(style, cell.share) },
          },
          ...(mark
            ? [
                {
                  type: 'text',
                  x: x + width + 5 + (style.figures ? style.size * (1.6 + 0.5 * style.decimals) : 0),
                  y: y + band / 2,
                  style: { ...figure, fontSize: 10, fill: soft, text: mark },
                },
              ]
            : []),
        ],
      };
    };
    for (const [data, { i }] of shown.entries())
      marks.push({
        series: k + 2,
        data,
        says: sayCell(c, i, column),
        press: () => press(i, column),
        cell: { row: i, column },
      });
    return {
      type: 'custom',
      coordinateSystem: 'none',
      renderItem: bar as unknown as CustomSeriesRenderItem,
      data: shown.map(({ i }) => itemAt(itemAt(c.cells, i), column).share),
    };
  });
  marks.sort((a, b) => a.data - b.data || a.series - b.series);
  const still = { type: 'custom', silent: true, coordinateSystem: 'none', data: [0] };
  return {
    left,
    marks,
    height: top + band * shown.length + 8,
    width: gutter + 6 * style.size * panels.length,
    option: {
      series: [
        { ...still, renderItem: head as unknown as CustomSeriesRenderItem },
        { ...still, renderItem: names as unknown as CustomSeriesRenderItem },
        ...series,
      ],
    },
  };
}
