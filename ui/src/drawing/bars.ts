import type { CustomSeriesRenderItem, CustomSeriesRenderItemParams } from 'echarts/types/dist/shared';
import type { Chart } from '../lib/api';
import { count } from '../lib/format';
import {
  categories,
  colour,
  ink,
  label,
  line,
  type Mark,
  type Plan,
  type Press,
  type Shown,
  soft,
  text,
} from './picture';
import { columnName, markOf, sayCell } from './says';

/** Columns that stand side by side in a picture of bars. */
const mostPanels = 8;
const band = 24;

/** The drawn columns: those that have a base to give shares of; of many, the first. */
function panelsOf(c: Chart) {
  const all = c.columns!.flatMap((_, i) => (c.bases![i]!.answers >= c.tiny ? [i] : []));
  const panels = all.slice(0, mostPanels);
  const out = c.columns!.length - panels.length;
  return {
    panels,
    left: out > 0 ? `${out} of ${c.columns!.length} columns are not drawn; the table has all.` : '',
  };
}

/** Bars from one line: a panel for each column, a line for each category, the figure and ▲ ▼ beside each bar. */
export function bars(c: Chart, rows: Shown[], press: Press): Plan {
  const { panels, left } = panelsOf(c);
  const shown = categories(rows);
  const step = 12;
  const gutter = Math.min(240, 16 + Math.max(0, ...shown.map((s) => step * s.r.depth + 6.2 * label(s).length)));
  const top = 40;
  const most = Math.max(0.01, ...shown.flatMap(({ i }) => panels.map((k) => c.cells![i]![k]!.share)));
  const panel = (width: number, k: number) => {
    const room = (width - gutter) / Math.max(1, panels.length);
    return { x: gutter + k * room, room, bar: Math.max(8, room - 48) };
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
          y: 21,
          style: { ...fits, fontSize: 12, fill: soft, text: `base ${count(c.bases![column]!.answers)}` },
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
      const { r, i } = shown[p.dataIndex]!;
      const cell = c.cells![i]![column]!;
      const { x, bar } = panel(wide(api), k);
      const y = top + p.dataIndex * band;
      const width = Math.max(1, (bar * cell.share) / most);
      const faint = c.bases![column]!.answers < c.small ? 0.45 : 0.9;
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
            style: { ...figure, text: (100 * cell.share).toFixed(1) },
          },
          ...(mark
            ? [
                {
                  type: 'text',
                  x: x + width + 33,
                  y: y + band / 2,
                  style: { ...figure, fontSize: 10, fill: soft, text: mark },
                },
              ]
            : []),
        ],
      };
    };
    for (const [data, { i }] of shown.entries())
      marks.push({ series: k + 2, data, says: sayCell(c, i, column), press: () => press(i, column) });
    return {
      type: 'custom',
      coordinateSystem: 'none',
      renderItem: bar as unknown as CustomSeriesRenderItem,
      data: shown.map(({ i }) => c.cells![i]![column]!.share),
    };
  });
  marks.sort((a, b) => a.data - b.data || a.series - b.series);
  const still = { type: 'custom', silent: true, coordinateSystem: 'none', data: [0] };
  return {
    left,
    marks,
    height: top + band * shown.length + 8,
    width: gutter + 78 * panels.length,
    option: {
      series: [
        { ...still, renderItem: head as unknown as CustomSeriesRenderItem },
        { ...still, renderItem: names as unknown as CustomSeriesRenderItem },
        ...series,
      ],
    },
  };
}
