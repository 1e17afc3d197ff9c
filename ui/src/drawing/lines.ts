import type {
  CustomSeriesRenderItem,
  CustomSeriesRenderItemAPI,
  CustomSeriesRenderItemParams,
} from 'echarts/types/dist/shared';
import type { Chart } from '../lib/api';
import { count } from '../lib/format';
import { itemAt } from '../lib/required';
import {
  apart,
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
import { faceOf, figureOf, type Style, textOf } from './style';

/** The mean of what stands around each place, weighted by the bases: over so many places, an odd number. */
export function rolling(shares: number[], bases: number[], over: number) {
  const reach = (over - 1) / 2;
  return shares.map((_, i) => {
    let sum = 0;
    let of = 0;
    for (let j = Math.max(0, i - reach); j <= Math.min(shares.length - 1, i + reach); j++) {
      sum += itemAt(shares, j) * itemAt(bases, j);
      of += itemAt(bases, j);
    }
    return of ? sum / of : 0;
  });
}

/**
 * Lines over the columns of the first nest, one for each category of those that are named most often: two columns make a slope.
 * With a rolling mean, dots are the shares themselves.
 */
export function lines(c: Chart, rows: Shown[], press: Press, style: Style, over: number): Plan {
  const text = textOf(style);
  const label = labelOf(style);

  const columns = c.columns.flatMap((k, i) => (k.nest === 0 && itemAt(c.bases, i).answers >= c.tiny ? [i] : []));
  const all = categories(rows);
  const shown = [...all]
    .sort((a, b) => itemAt(itemAt(c.cells, b.i), 0).share - itemAt(itemAt(c.cells, a.i), 0).share)
    .slice(0, mostSeries);
  const marks: Mark[] = [];
  const series = shown.flatMap(({ i }, k) => {
    const shares = columns.map((column) => itemAt(itemAt(c.cells, i), column).share);
    const drawn =
      over > 1
        ? rolling(
            shares,
            columns.map((column) => itemAt(c.bases, column).weighted),
            over,
          )
        : shares;
    const render = (p: CustomSeriesRenderItemParams, api: CustomSeriesRenderItemAPI) => {
      const cell = itemAt(itemAt(c.cells, i), itemAt(columns, p.dataIndex));
      const place = (share: number) => api.coord([p.dataIndex, share]) as [number, number];
      const [x, y] = place(cell.share);
      return {
        type: 'group',
        children: [
          {
            type: 'line',
            shape: { x1: x, x2: x, y1: place(cell.low)[1], y2: place(cell.high)[1] },
            style: { stroke: colour(k), lineWidth: 1.2, opacity: 0.45 },
          },
          shape(k, x, y, 4, { fill: colour(k) }),
        ],
      };
    };
    for (const [data, column] of columns.entries())
      marks.push({
        series: 2 * k + 1,
        data,
        says: sayCell(c, i, column),
        press: () => press(i, column),
        cell: { row: i, column },
      });
    return [
      {
        type: 'line',
        silent: true,
        symbol: 'none',
        data: drawn,
        lineStyle: { color: colour(k), width: 2 },
      },
      {
        type: 'custom',
        renderItem: render as unknown as CustomSeriesRenderItem,
        data: shares.map((share, x) => [x, share]),
      },
    ];
  });
  const most = Math.max(0.01, ...shown.flatMap(({ i }) => columns.map((k) => itemAt(itemAt(c.cells, i), k).high)));
  const named = (_: CustomSeriesRenderItemParams, api: CustomSeriesRenderItemAPI) => {
    const at = (place: number, words: (s: Shown, share: number) => string, side: 'left' | 'right') => {
      const shares = shown.map(({ i }) => itemAt(itemAt(c.cells, i), itemAt(columns, place)).share);
      const points = shares.map((share) => api.coord([place, share]) as [number, number]);
      const ys = apart(
        points.map(([, y]) => y),
        17,
      );
      return points.map(([x], k) => ({
        type: 'text',
        x: side === 'right' ? x + 11 : x - 11,
        y: ys[k],
        style: {
          ...text,
          align: side === 'right' ? 'left' : 'right',
          verticalAlign: 'middle',
          text: words(itemAt(shown, k), itemAt(shares, k)),
        },
      }));
    };
    const children = at(columns.length - 1, (row, share) => `${label(row)}  ${figureOf(style, share)} %`, 'right');
    if (columns.length === 2) children.push(...at(0, (_row, share) => `${figureOf(style, share)} %`, 'left'));
    return { type: 'group', children };
  };
  return {
    left:
      all.length > shown.length
        ? `${all.length - shown.length} of ${all.length} categories are not drawn: those with fewer answers. Choose rows to see others.`
        : '',
    marks,
    height: 420,
    width: 480,
    option: {
      grid: {
        left: 44,
        right: longest(
          style,
          shown.map((s) => `${label(s)} 00.0 %`),
        ),
        top: 14,
        bottom: 44,
      },
      xAxis: {
        type: 'category',
        boundaryGap: columns.length < 3,
        data: columns.map((k) => `${columnName(c, k)}\n${count(itemAt(c.bases, k).answers)}`),
        axisLabel: {
          color: ink,
          fontSize: style.size - 1,
          fontFamily: faceOf(style),
          lineHeight: 16,
          hideOverlap: true,
        },
        axisLine: { lineStyle: { color: line } },
        axisTick: { show: false },
      },
      yAxis: valueAxis(style, endOf(most)),
      series: [
        ...series,
        {
          type: 'custom',
          silent: true,
          clip: false,
          renderItem: named as unknown as CustomSeriesRenderItem,
          data: [[0, 0]],
        },
      ],
    },
  };
}
