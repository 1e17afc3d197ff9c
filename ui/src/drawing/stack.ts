import type { CustomSeriesRenderItem, CustomSeriesRenderItemParams } from 'echarts/types/dist/shared';
import type { Chart } from '../lib/api';
import { count, percent } from '../lib/format';
import { itemAt } from '../lib/required';
import {
  categories,
  colour,
  ink,
  labelOf,
  longest,
  type Mark,
  mostSeries,
  type Plan,
  type Press,
  type Shown,
  soft,
} from './picture';
import { columnName, sayCell } from './says';
import { figureOf, type Style, textOf } from './style';

const band = 34;

/** Each column as a whole, cut into its categories: right only where nothing is counted in two of them. Of many, those that are named most often
 * stand by themselves; the others stand together, and so does what has none of them. */
export function stack(c: Chart, rows: Shown[], press: Press, style: Style): Plan {
  if (!c.parts)
    return {
      left: 'These rows overlap: an answer may be in several of them, so they can’t be stacked to 100 %. Take mentions as the base and one level of rows, or code each answer into one category only.',
      marks: [],
      height: 0,
      width: 0,
      option: {},
    };
  const text = textOf(style);
  const label = labelOf(style);
  const all = categories(rows);
  const share = (row: number, column: number) => itemAt(itemAt(c.cells, row), column).share;
  const often = new Set([...all].sort((a, b) => share(b.i, 0) - share(a.i, 0)).slice(0, mostSeries));
  const shown = all.filter((r) => often.has(r));
  const others = all.length - shown.length;
  const columns = c.columns.flatMap((_, i) => (itemAt(c.bases, i).answers >= c.tiny ? [i] : []));
  const gutter = longest(
    style,
    columns.map((k) => columnName(c, k)),
  );
  const rest = (column: number) => Math.max(0, 1 - shown.reduce((sum, o) => sum + share(o.i, column), 0));
  const some = columns.some((k) => rest(k) > 1e-9);
  // Nets keep the colours of the frame; categories of one net would all have the same.
  const apart = new Set(shown.map(({ r }) => r.top % 8)).size === shown.length;
  const fillOf = (k: number) => colour(apart ? itemAt(shown, k).r.top : k);
  const legend: object[] = [];
  let x = gutter;
  let y = 9;
  const entries = [
    ...shown.map((s, i) => [label(s), fillOf(i)] as const),
    ...(some
      ? [[others ? (c.query.base === 'mentions' ? 'others' : 'others and none') : 'none', 'var(--color-line)'] as const]
      : []),
  ];
  for (const [words, fill] of entries) {
    const room = 26 + 0.52 * style.size * words.length;
    if (x + room > 640 && x > gutter) {
      x = gutter;
      y += style.size + 7;
    }
    legend.push({ type: 'rect', shape: { x, y: y - 5, width: 10, height: 10 }, style: { fill } });
    legend.push({ type: 'text', x: x + 15, y, style: { ...text, verticalAlign: 'middle', text: words } });
    x += room;
  }
  const top = y + 20;
  const marks: Mark[] = [];
  const series = shown.map((s, k) => {
    const render = (p: CustomSeriesRenderItemParams, api: { getWidth: () => number }) => {
      const column = itemAt(columns, p.dataIndex);
      const whole = api.getWidth() - gutter - 12;
      const before = shown.slice(0, k).reduce((sum, o) => sum + share(o.i, column), 0);
      const width = whole * share(s.i, column);
      const at = { x: gutter + whole * before, y: top + p.dataIndex * band };
      const code = s.r.short && style.codes ? s.r.short : '';
      const words = [code, style.figures ? figureOf(style, share(s.i, column)) : ''].filter(Boolean).join(' ');
      return {
        type: 'group',
        children: [
          {
            type: 'rect',
            shape: { ...at, width: Math.max(0.5, width - 1), height: band - 10 },
            style: { fill: fillOf(k), opacity: itemAt(c.bases, column).answers < c.small ? 0.5 : 1 },
            emphasis: { style: { stroke: ink, lineWidth: 2 } },
          },
          ...(width > 0.6 * style.size * words.length
            ? [
                {
                  type: 'text',
                  silent: true,
                  x: at.x + width / 2,
                  y: at.y + (band - 10) / 2,
                  style: {
                    ...text,
                    fill: 'var(--color-sheet)',
                    fontSize: style.size - 1,
                    align: 'center',
                    verticalAlign: 'middle',
                    text: words,
                  },
                },
              ]
            : []),
        ],
      };
    };
    for (const [data, column] of columns.entries())
      marks.push({
        series: k + 1,
        data,
        says: sayCell(c, s.i, column),
        press: () => press(s.i, column),
        cell: { row: s.i, column },
      });
    return {
      type: 'custom',
      coordinateSystem: 'none',
      renderItem: render as unknown as CustomSeriesRenderItem,
      data: columns.map((column) => share(s.i, column)),
    };
  });
  marks.sort((a, b) => a.data - b.data || a.series - b.series);
  const names = (_: CustomSeriesRenderItemParams, api: { getWidth: () => number }) => {
    const whole = api.getWidth() - gutter - 12;
    return {
      type: 'group',
      children: [
        ...legend,
        ...columns.flatMap((column, i) => {
          const at = top + i * band;
          return [
            {
              type: 'text',
              x: 2,
              y: at + 1,
              style: { ...text, width: gutter - 8, overflow: 'truncate', text: columnName(c, column) },
            },
            {
              type: 'text',
              x: 2,
              y: at + style.size + 3,
              style: { ...text, fontSize: style.size - 2, fill: soft, text: count(itemAt(c.bases, column).answers) },
            },
            {
              type: 'rect',
              shape: { x: gutter + whole * (1 - rest(column)), y: at, width: whole * rest(column), height: band - 10 },
              style: { fill: 'var(--color-line)', opacity: 0.7 },
            },
          ];
        }),
      ],
    };
  };
  const still = {
    type: 'custom',
    silent: true,
    coordinateSystem: 'none',
    data: [0],
    renderItem: names as unknown as CustomSeriesRenderItem,
  };
  return {
    left: others
      ? `${others} of ${all.length} categories are not drawn by themselves: they stand at the right end, with what has none of them (${percent(rest(0))} of all).`
      : '',
    marks,
    height: top + band * columns.length,
    width: gutter + 300,
    option: { series: [still, ...series] },
  };
}
