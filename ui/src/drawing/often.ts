import type {
  CustomSeriesRenderItem,
  CustomSeriesRenderItemAPI,
  CustomSeriesRenderItemParams,
} from 'echarts/types/dist/shared';
import type { MeanRow, Means } from '../lib/api';
import { count, percent } from '../lib/format';
import { itemAt } from '../lib/required';
import { chance } from './figures';
import type { Mark } from './picture';
import { beside, colour, endOf, line, type Plan, shape, soft, valueAxis } from './picture';
import { type Style, textOf } from './style';

/** What a category says of a number, as a sentence. */
export const sayMean = (m: Means, r: MeanRow) =>
  `${r.path}: ${percent(r.with.weighted / m.all.weighted)} of the base (${count(r.with.answers)} answers); mean ${m.label} ${r.with.mean.toFixed(2)}, 95 % interval ${r.with.low.toFixed(2)} to ${r.with.high.toFixed(2)}, against ${r.without.mean.toFixed(2)} without it. ` +
  (r.tested
    ? `The difference is ${r.adjusted < 0.05 ? 'sure' : 'not sure'} (${chance(r.adjusted)}).`
    : 'The difference is not tested: a base under 30.');

/** How often each category is said against the mean of those who say it: what is often said and goes with a low mean stands at the
 * right below. */
export function oftenAgainstMean(m: Means, press: (r: MeanRow) => void, style: Style): Plan {
  const text = textOf(style);
  const shown = m.rows.filter((r) => r.id && r.with.answers >= 10);
  const few = m.rows.filter((r) => r.id).length - shown.length;
  const place = (r: MeanRow) => r.with.weighted / m.all.weighted;
  const marks = shown.map((r, data): Mark => ({ series: 0, data, says: sayMean(m, r), press: () => press(r) }));
  const low = Math.min(m.all.mean, ...shown.map((r) => r.with.low));
  const high = Math.max(m.all.mean, ...shown.map((r) => r.with.high));
  const pad = (high - low || 1) * 0.06;
  const most = endOf(Math.max(0.01, ...shown.map(place)));
  const dot = (p: CustomSeriesRenderItemParams, api: CustomSeriesRenderItemAPI) => {
    const r = itemAt(shown, p.dataIndex);
    const [x, y] = api.coord([place(r), r.with.mean]) as [number, number];
    const end = (v: number) => (api.coord([place(r), v]) as [number, number])[1];
    return {
      type: 'group',
      children: [
        {
          type: 'line',
          shape: { x1: x, x2: x, y1: end(r.with.low), y2: end(r.with.high) },
          style: { stroke: colour(r.top), lineWidth: 1.2, opacity: 0.4 },
        },
        { ...shape(0, x, y, 4.5, { fill: colour(r.top), opacity: r.with.answers < 30 ? 0.5 : 1 }) },
      ],
    };
  };
  const named = (_: CustomSeriesRenderItemParams, api: CustomSeriesRenderItemAPI) => {
    const words = shown.map((r) => (r.short ? [`${r.short}  ${r.name}`, r.short] : [r.name]));
    const points = shown.map((r) => api.coord([place(r), r.with.mean]) as [number, number]);
    const [left, all] = api.coord([0, m.all.mean]) as [number, number];
    const [right] = api.coord([most, m.all.mean]) as [number, number];
    const at = beside(
      points,
      words.map((w) => w.map((one): [number, number] => [6.8 * one.length, 15])),
      left,
      right,
    );
    return {
      type: 'group',
      children: [
        {
          type: 'line',
          shape: { x1: left, x2: right, y1: all, y2: all },
          style: { stroke: soft, lineDash: [5, 4], lineWidth: 1 },
        },
        {
          type: 'text',
          x: right,
          y: all - 9,
          style: {
            ...text,
            fill: soft,
            fontSize: 12,
            align: 'right',
            verticalAlign: 'middle',
            text: `all: ${m.all.mean.toFixed(2)}`,
          },
        },
        ...words.map((w, i) => ({
          type: 'text',
          x: itemAt(at, i).x,
          y: itemAt(at, i).y,
          style: { ...text, text: itemAt(w, itemAt(at, i).which) },
        })),
      ],
    };
  };
  return {
    marks,
    left: few ? `${few} categories with under 10 answers are not drawn.` : '',
    height: 460,
    width: 480,
    option: {
      grid: { left: 56, right: 20, top: 26, bottom: 46 },
      xAxis: {
        ...valueAxis(style, most),
        name: 'share of the base',
        nameLocation: 'middle',
        nameGap: 30,
        nameTextStyle: { color: soft, fontSize: 12 },
      },
      yAxis: {
        type: 'value',
        axisLine: { show: false },
        axisTick: { show: false },
        min: low - pad,
        max: high + pad,
        name: `mean ${m.label}`,
        nameTextStyle: { color: soft, fontSize: 12, align: 'left' },
        axisLabel: {
          color: soft,
          fontSize: 12,
          showMinLabel: false,
          showMaxLabel: false,
          formatter: (x: number) => x.toFixed(1),
        },
        splitLine: { lineStyle: { color: line } },
      },
      series: [
        {
          type: 'custom',
          renderItem: dot as unknown as CustomSeriesRenderItem,
          data: shown.map((r) => [place(r), r.with.mean]),
        },
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
