import {
  forceCollide,
  forceLink,
  forceManyBody,
  forceSimulation,
  forceX,
  forceY,
  type SimulationNodeDatum,
} from 'd3-force';
import type { CustomSeriesRenderItem, CustomSeriesRenderItemParams } from 'echarts/types/dist/shared';
import type { Together } from '../lib/api';
import { count, many } from '../lib/format';
import { itemAt, required } from '../lib/required';
import { chance } from './figures';
import { colour, ink, longest, type Mark, type Plan, soft } from './picture';
import { type Style, textOf } from './style';

export const measures = { lift: 'lift', both: 'answers with both', jaccard: 'Jaccard', g2: 'G²' } as const;
export type Measure = keyof typeof measures;

type Node = NonNullable<Together['nodes']>[number];
type Pair = NonNullable<Together['pairs']>[number];
type Press = (...nodes: number[]) => void;

const nameOf = (n: Node, style: Style) => `${n.short && style.codes ? `${n.short}  ` : ''}${n.name}`;

/** A pair, by each measure. */
export const written: Record<Measure, (p: Pair) => string> = {
  lift: (p) => p.lift.toFixed(1),
  both: (p) => count(p.both),
  jaccard: (p) => p.jaccard.toFixed(2),
  g2: (p) => p.g2.toFixed(0),
};

/** How strong a pair is by each measure. */
export const sizeOf: Record<Measure, (p: Pair) => number> = {
  lift: (p) => p.lift,
  both: (p) => p.both,
  jaccard: (p) => p.jaccard,
  g2: (p) => p.g2,
};

/** All that a pair says, in sentences. */
export function sayPair(t: Together, p: Pair) {
  const [a, b] = [itemAt(t.nodes, p.a), itemAt(t.nodes, p.b)];
  const sure = p.sure
    ? p.lift > 1
      ? 'surely more often than by chance'
      : 'surely less often than by chance'
    : 'not surely other than by chance';
  return (
    `${a.path} and ${b.path}: ${many(p.both, 'answer')} with both (of ${count(a.answers)} and ${count(b.answers)}); ` +
    `lift ${p.lift.toFixed(2)}, Jaccard ${p.jaccard.toFixed(3)}, G² ${p.g2.toFixed(1)}, ${chance(p.p)}. They meet ${sure}.`
  );
}

/** How far a pair is from chance, −1 to 1: the depth of its shade. Three times as often, or a third, is the deepest. */
const depth = (p: Pair) =>
  p.both === 0 && p.lift === 0 ? -1 : Math.max(-1, Math.min(1, Math.log(Math.max(p.lift, 1e-9)) / Math.log(3)));

const still = { type: 'custom', silent: true, coordinateSystem: 'none', data: [0] };

/** A table of shades: moss where a pair meets more often than by chance, clay where less; bold where that is sure. */
export function matrix(t: Together, measure: Measure, press: Press, style: Style): Plan {
  const text = textOf(style);
  const nodes = t.nodes;
  const values = nodes.some((n) => n.kind === 'value');
  const places = nodes.map((_, i) => i);
  const lines = places.filter((i) => itemAt(nodes, i).kind === 'category');
  const columns = values ? places.filter((i) => itemAt(nodes, i).kind === 'value') : lines;
  const gutter = longest(
    style,
    lines.map((i) => nameOf(itemAt(nodes, i), style)),
  );
  const cell = values ? 76 : 38;
  const band = style.size + 13;
  // Among one another, columns are told by their short code where all have one, else by their place.
  const coded = columns.every((i) => itemAt(nodes, i).short);
  const head = (i: number) =>
    values ? itemAt(nodes, i).name : coded ? itemAt(nodes, i).short : String(columns.indexOf(i) + 1);
  const headed = (i: number) =>
    `${values || coded ? '' : `${columns.indexOf(i) + 1}  `}${nameOf(itemAt(nodes, i), { ...style, codes: style.codes || coded })}`;
  const top = values ? 2 * style.size + 14 : style.size + 12;
  const at = new Map(t.pairs.map((p) => [`${p.a} ${p.b}`, p]));
  const cells = lines.flatMap((a, y) =>
    columns.flatMap((b, x) => {
      const pair = at.get(`${a} ${b}`) ?? at.get(`${b} ${a}`);
      return pair ? [{ pair, x, y, a, b }] : [];
    }),
  );
  const marks = cells.map(
    ({ pair, a, b }, data): Mark => ({ series: 1, data, says: sayPair(t, pair), press: () => press(a, b) }),
  );
  const render = (p: CustomSeriesRenderItemParams) => {
    const { pair, x, y } = itemAt(cells, p.dataIndex);
    const d = depth(pair);
    const box = { x: gutter + x * cell + 1, y: top + y * band + 1, width: cell - 2, height: band - 2 };
    return {
      type: 'group',
      children: [
        {
          type: 'rect',
          shape: box,
          style: { fill: d < 0 ? 'var(--color-clay)' : 'var(--color-moss)', opacity: 0.05 + 0.45 * Math.abs(d) },
          emphasis: { style: { stroke: ink, lineWidth: 2 } },
        },
        {
          type: 'text',
          silent: true,
          x: box.x + box.width / 2,
          y: box.y + box.height / 2,
          style: {
            ...text,
            fontSize: style.size - 1,
            fontWeight: pair.sure ? 700 : 400,
            align: 'center',
            verticalAlign: 'middle',
            text: written[measure](pair),
          },
        },
      ],
    };
  };
  const names = () => ({
    type: 'group',
    children: [
      ...lines.map((i, y) => ({
        type: 'text',
        x: 2,
        y: top + (y + 0.5) * band,
        style: { ...text, verticalAlign: 'middle', width: gutter - 8, overflow: 'truncate', text: headed(i) },
      })),
      ...columns.flatMap((i, x) => {
        const middle = {
          x: gutter + (x + 0.5) * cell,
          style: { ...text, align: 'center', width: cell - 4, overflow: 'truncate' },
        };
        return [
          { type: 'text', ...middle, y: 2, style: { ...middle.style, text: head(i) } },
          ...(values
            ? [
                {
                  type: 'text',
                  ...middle,
                  y: style.size + 6,
                  style: {
                    ...middle.style,
                    fontSize: style.size - 2,
                    fill: soft,
                    text: count(itemAt(nodes, i).answers),
                  },
                },
              ]
            : []),
        ];
      }),
    ],
  });
  return {
    marks,
    left: marks.length ? '' : 'There are no two categories to hold against each other.',
    height: top + band * lines.length + 8,
    width: gutter + cell * columns.length + 8,
    option: {
      series: [
        { ...still, renderItem: names as unknown as CustomSeriesRenderItem },
        {
          type: 'custom',
          coordinateSystem: 'none',
          renderItem: render as unknown as CustomSeriesRenderItem,
          data: cells.map(({ pair }) => pair.both),
        },
      ],
    },
  };
}

type Placed = SimulationNodeDatum & { i: number; r: number; words: string };

const wide = 640;
const tall = 460;
/** Links that a picture can hold. */
const mostLinks = 80;

/** Those that surely meet more often than by chance, as a network: what meets often stands near. */
export function network(t: Together, measure: Measure, press: Press, style: Style): Plan {
  const text = textOf(style);
  const size = sizeOf[measure];
  const all = t.pairs.filter((p) => p.sure && p.lift > 1).sort((a, b) => size(b) - size(a));
  const links = all.slice(0, mostLinks);
  const linked = [...new Set(links.flatMap((p) => [p.a, p.b]))].sort((a, b) => a - b);
  const most = Math.max(1, ...linked.map((i) => itemAt(t.nodes, i).answers));
  const nodes: Placed[] = linked.map((i) => ({
    i,
    r: 4 + 14 * Math.sqrt(itemAt(t.nodes, i).answers / most),
    words: nameOf(itemAt(t.nodes, i), style),
  }));
  const place = new Map(nodes.map((n) => [n.i, n]));
  const strongest = Math.max(1e-9, ...links.map(size));
  // Where nothing is drawn by lot, the same data gives the same drawing.
  forceSimulation(nodes)
    .force(
      'link',
      forceLink<Placed, { source: Placed; target: Placed }>(
        links.map((p) => ({ source: required(place.get(p.a)), target: required(place.get(p.b)) })),
      )
        .distance(90)
        .strength(0.3),
    )
    .force('charge', forceManyBody().strength(-220).distanceMax(320))
    .force(
      'room',
      forceCollide<Placed>((d) => Math.max(d.r + 12, d.words.length * 3.2)),
    )
    .force('x', forceX(wide / 2).strength(0.06))
    .force('y', forceY(tall / 2).strength(0.09))
    .stop()
    .tick(320);
  for (const d of nodes) {
    const half = d.words.length * 3.4;
    d.x = Math.min(wide - half, Math.max(half, required(d.x)));
    d.y = Math.min(tall - 24, Math.max(24, required(d.y)));
  }
  const marks: Mark[] = [
    ...nodes.map(
      (n, data): Mark => ({
        series: 1,
        data,
        says: `${itemAt(t.nodes, n.i).path}: ${many(itemAt(t.nodes, n.i).answers, 'answer')}. ${many(links.filter((p) => p.a === n.i || p.b === n.i).length, 'link')}.`,
        press: () => press(n.i),
      }),
    ),
    ...links.map((p, data): Mark => ({ series: 0, data, says: sayPair(t, p), press: () => press(p.a, p.b) })),
  ];
  const link = (p: CustomSeriesRenderItemParams) => {
    const pair = itemAt(links, p.dataIndex);
    const [a, b] = [required(place.get(pair.a)), required(place.get(pair.b))];
    return {
      type: 'line',
      shape: { x1: a.x, y1: a.y, x2: b.x, y2: b.y },
      style: { stroke: soft, lineWidth: 1 + 5 * Math.sqrt(size(pair) / strongest), opacity: 0.45 },
      emphasis: { style: { stroke: ink, opacity: 1 } },
    };
  };
  const dot = (p: CustomSeriesRenderItemParams) => {
    const n = itemAt(nodes, p.dataIndex);
    const of = itemAt(t.nodes, n.i);
    const shape =
      of.kind === 'value'
        ? { type: 'rect', shape: { x: required(n.x) - n.r, y: required(n.y) - n.r, width: 2 * n.r, height: 2 * n.r } }
        : { type: 'circle', shape: { cx: n.x, cy: n.y, r: n.r } };
    return {
      type: 'group',
      children: [
        {
          ...shape,
          style: { fill: of.top < 0 ? 'var(--color-straw)' : colour(of.top) },
          emphasis: { style: { stroke: ink, lineWidth: 2 } },
        },
        {
          type: 'text',
          silent: true,
          x: n.x,
          y: required(n.y) + n.r + 3,
          style: { ...text, align: 'center', text: n.words },
        },
      ],
    };
  };
  return {
    marks: links.length ? marks : [],
    left: links.length
      ? all.length > links.length
        ? `${all.length - links.length} weaker links are not drawn.`
        : ''
      : 'No two meet surely more often than by chance here.',
    height: tall + 20,
    width: wide,
    option: {
      series: [
        {
          type: 'custom',
          coordinateSystem: 'none',
          renderItem: link as unknown as CustomSeriesRenderItem,
          data: links.map((p) => p.both),
        },
        {
          type: 'custom',
          coordinateSystem: 'none',
          z: 3,
          renderItem: dot as unknown as CustomSeriesRenderItem,
          data: nodes.map((n) => itemAt(t.nodes, n.i).answers),
        },
      ],
    },
  };
}
