import type { EChartsCoreOption } from 'echarts/core';
import type { ChartRow } from '../lib/api';
import { itemAt, required } from '../lib/required';
import { faceOf, type Style } from './style';

/** Something in a drawing that stands for answers. */
export type Mark = {
  series: number;
  data: number;
  /** What it says, in sentences. */
  says: string;
  /** Shows its answers. */
  press: () => void;
  /** The cell of a table that it is. */
  cell?: { row: number; column: number };
};

/** A row that is shown, and its place in the chart. */
export type Shown = { r: ChartRow; i: number };

export type Press = (row: number, column: number) => void;

/** What lies between two marks, and what that is, in a sentence; with `show`, its answers are shown too. */
export type Brush = (from: Mark, to: Mark, show: boolean) => { has: (m: Mark) => boolean; says: string } | undefined;

/** A drawing that is not drawn yet, and what it leaves out, in a sentence. */
export type Plan = { option: EChartsCoreOption; marks: Mark[]; height: number; width: number; left: string };

/** Columns or rows of a picture whose marks are told apart by colour and shape. */
export const mostSeries = 8;
export const colour = (i: number) => `var(--color-c${i % 8})`;
export const ink = 'var(--color-ink)';
export const soft = 'var(--color-soft)';
export const line = 'var(--color-line)';

/** Rows that a picture draws: the categories that the table shows. */
export const categories = (rows: Shown[]) => rows.filter(({ r }) => r.id);
/** The name of a row, after its short code where the style has them. */
export const labelOf =
  (style: Style) =>
  ({ r }: Shown) =>
    `${r.short && style.codes ? `${r.short}  ` : ''}${r.name}`;
/** Room for the longest of some words. */
export const longest = (style: Style, words: string[]) =>
  Math.min(260, 20 + 0.51 * style.size * Math.max(0, ...words.map((w) => w.length)));

/** One of eight shapes around a point, so that colour is never the only sign. */
export function shape(i: number, x: number, y: number, r: number, style: object) {
  const points: Record<number, [number, number][]> = {
    1: [
      [-r, -r],
      [r, -r],
      [r, r],
      [-r, r],
    ],
    2: [
      [0, -r * 1.25],
      [r * 1.2, r],
      [-r * 1.2, r],
    ],
    3: [
      [0, -r * 1.35],
      [r * 1.35, 0],
      [0, r * 1.35],
      [-r * 1.35, 0],
    ],
    4: [
      [0, r * 1.25],
      [r * 1.2, -r],
      [-r * 1.2, -r],
    ],
    5: [
      [-r * 1.3, -r * 0.5],
      [r * 1.3, -r * 0.5],
      [r * 1.3, r * 0.5],
      [-r * 1.3, r * 0.5],
    ],
    6: [
      [-r * 0.5, -r * 1.3],
      [r * 0.5, -r * 1.3],
      [r * 0.5, r * 1.3],
      [-r * 0.5, r * 1.3],
    ],
  };
  const corners = points[i % 8];
  const emphasis = { style: { stroke: ink, lineWidth: 2 } };
  if (corners) return { type: 'polygon', shape: { points: corners.map(([a, b]) => [x + a, y + b]) }, style, emphasis };
  return { type: 'circle', shape: { cx: x, cy: y, r }, style, emphasis };
}

export const valueAxis = (style: Style, max: number) => ({
  type: 'value',
  min: 0,
  max,
  axisLabel: {
    color: soft,
    fontSize: style.size - 1,
    fontFamily: faceOf(style),
    formatter: (x: number) => `${Math.round(100 * x)} %`,
  },
  splitLine: { lineStyle: { color: line } },
  axisLine: { show: false },
  axisTick: { show: false },
});

/** A round number at or above a share, for the end of an axis. */
export function endOf(share: number) {
  const step = share > 0.5 ? 0.2 : share > 0.2 ? 0.1 : share > 0.08 ? 0.05 : 0.02;
  return Math.min(1, Math.ceil(share / step - 1e-9) * step);
}

/** Places as near to the given ones as they can be while each keeps its distance from the next; in the order given. */
export function apart(places: number[], gap: number): number[] {
  const order = places.map((_, i) => i).sort((a, b) => itemAt(places, a) - itemAt(places, b));
  // Runs of labels that touch stand around their common middle.
  const runs: { members: number[]; middle: number }[] = [];
  for (const i of order) {
    runs.push({ members: [i], middle: itemAt(places, i) });
    for (;;) {
      const last = required(runs.at(-1));
      const before = runs.at(-2);
      const room = before && (gap * (before.members.length + last.members.length)) / 2;
      if (!before || last.middle - before.middle >= required(room) - 1e-9) break;
      const members = [...before.members, ...last.members];
      runs.splice(-2, 2, { members, middle: members.reduce((sum, m) => sum + itemAt(places, m), 0) / members.length });
    }
  }
  const out = [...places];
  for (const { members, middle } of runs)
    members.forEach((m, k) => {
      out[m] = middle + (k - (members.length - 1) / 2) * gap;
    });
  return out;
}

/**
 * Boxes beside points, that lie on no other and on no point where there is room: each point gives boxes to choose from, of which
 * the first that has room is taken, else the last. `which` is the place of the one taken. No box should reach over `from` at the
 * left and `to` at the right.
 */
export function beside(points: [number, number][], sizes: [number, number][][], from = -1e9, to = 1e9) {
  const reach = 8;
  type Box = { x: number; y: number; w: number; h: number };
  const taken: Box[] = points.map(([x, y]) => ({ x: x - 4, y: y - 4, w: 8, h: 8 }));
  const overlap = (a: Box, b: Box) =>
    Math.max(0, Math.min(a.x + a.w, b.x + b.w) - Math.max(a.x, b.x)) *
    Math.max(0, Math.min(a.y + a.h, b.y + b.h) - Math.max(a.y, b.y));
  const out = (box: Box) => box.h * (Math.max(0, from - box.x) + Math.max(0, box.x + box.w - to));
  const cost = (box: Box) => taken.reduce((sum, t) => sum + overlap(box, t), 100 * out(box));
  return points.map(([x, y], i) => {
    const near = 0.7 * reach;
    const boxes = itemAt(sizes, i).flatMap(([w, h], which) =>
      [
        [x + reach, y - h / 2],
        [x - reach - w, y - h / 2],
        [x - w / 2, y - reach - h],
        [x - w / 2, y + reach],
        [x + near, y - near - h],
        [x + near, y + near],
        [x - near - w, y - near - h],
        [x - near - w, y + near],
      ].map(([left, top]) => ({ x: required(left), y: required(top), w, h, which })),
    );
    const last = boxes.filter((b) => b.which === itemAt(sizes, i).length - 1);
    const best = boxes.find((b) => cost(b) === 0) ?? last.reduce((a, b) => (cost(b) < cost(a) ? b : a));
    taken.push(best);
    return best;
  });
}
