import type { CustomSeriesRenderItem, CustomSeriesRenderItemParams } from 'echarts/types/dist/shared';
import type { Flow } from '../lib/api';
import { count, many } from '../lib/format';
import { itemAt } from '../lib/required';
import { chance } from './figures';
import { colour, ink, longest, type Mark, type Plan, soft } from './picture';
import { type Style, textOf } from './style';

type Node = NonNullable<Flow['nodes']>[number];
type Link = NonNullable<Flow['links']>[number];

/** Bands that one picture holds. */
const mostLinks = 240;

const people = (n: number) => many(n, 'person', 'people');

export const sayNode = (f: Flow, n: Node) =>
  `${n.name}: ${people(n.before)} in ${f.from}, ${people(n.after)} in ${f.to}; ${count(n.both)} at both times, ${count(n.before - n.both)} only before, ${count(n.after - n.both)} only after. ` +
  (n.tested
    ? `The change is ${n.p < 0.05 ? 'sure' : 'not sure'} (${chance(n.p)}).`
    : 'The change is not tested: too few people changed.');

const sayLink = (f: Flow, l: Link) =>
  `${people(l.persons)} with ${itemAt(f.nodes, l.from).name} in ${f.from} and ${itemAt(f.nodes, l.to).name} in ${f.to}.`;

/** What people said at one time at the left, at another at the right; a band between two is as wide as there are people in it. */
export function flow(
  f: Flow,
  press: { node: (i: number, first: boolean) => void; link: (l: Link) => void },
  style: Style,
): Plan {
  const text = textOf(style);
  const nodes = f.nodes;
  const words = nodes.map((n) => `${n.short && style.codes ? `${n.short}  ` : ''}${n.name}`);
  const gutter = longest(
    style,
    words.map((w) => `${w} 0,000`),
  );
  const gap = style.size + 6;
  const links = [...f.links].sort((a, b) => b.persons - a.persons).slice(0, mostLinks);
  links.sort((a, b) => a.from - b.from || a.to - b.to);
  const out = f.links.length - links.length;
  // A link is in two columns of which each adds up to more than the people: the longer one fills the height.
  const sums = [0, 1].map((side) =>
    nodes.map((_, i) => links.reduce((s, l) => s + ((side ? l.to : l.from) === i ? l.persons : 0), 0)),
  );
  const most = Math.max(1, ...sums.map((s) => s.reduce((a, b) => a + b, 0)));
  const scale = 360 / most;
  const top = style.size + 16;
  const starts = sums.map((side) => {
    let y = top;
    return side.map((n) => {
      const at = y;
      y += n * scale + gap;
      return at;
    });
  });
  const ends = starts.map((s, k) => (s.at(-1) ?? top) + (itemAt(sums, k).at(-1) ?? 0) * scale);
  const height = Math.max(...ends) + gap;
  const used = [nodes.map(() => 0), nodes.map(() => 0)];
  const bands = links.map((l) => {
    const y = [0, 1].map((side) => {
      const i = side ? l.to : l.from;
      const at = itemAt(itemAt(starts, side), i) + itemAt(itemAt(used, side), i);
      itemAt(used, side)[i] = itemAt(itemAt(used, side), i) + l.persons * scale;
      return at;
    });
    return { l, y, h: l.persons * scale };
  });
  const fill = (n: Node) => (n.top < 0 ? soft : colour(n.top));
  const band = (p: CustomSeriesRenderItemParams, api: { getWidth: () => number }) => {
    const { l, y, h } = itemAt(bands, p.dataIndex);
    const [x1, x2] = [gutter + 12, api.getWidth() - gutter - 12] as const;
    const middle = (x1 + x2) / 2;
    const [a, b] = y as [number, number];
    return {
      type: 'path',
      shape: {
        pathData: `M${x1},${a}C${middle},${a} ${middle},${b} ${x2},${b}L${x2},${b + h}C${middle},${b + h} ${middle},${a + h} ${x1},${a + h}Z`,
      },
      style: { fill: fill(itemAt(nodes, l.from)), opacity: l.from === l.to ? 0.45 : 0.22 },
      emphasis: { style: { opacity: 0.75 } },
    };
  };
  const bars = nodes.flatMap((_, i) => [0, 1].map((side) => ({ i, side })));
  const bar = (p: CustomSeriesRenderItemParams, api: { getWidth: () => number }) => {
    const { i, side } = itemAt(bars, p.dataIndex);
    const n = itemAt(nodes, i);
    const y = itemAt(itemAt(starts, side), i);
    const h = Math.max(1, itemAt(itemAt(sums, side), i) * scale);
    const x = side ? api.getWidth() - gutter - 10 : gutter;
    return {
      type: 'group',
      children: [
        {
          type: 'rect',
          shape: { x, y, width: 10, height: h },
          style: { fill: fill(n) },
          emphasis: { style: { stroke: ink, lineWidth: 2 } },
        },
        {
          type: 'text',
          x: side ? x + 16 : x - 6,
          y: y + h / 2,
          style: {
            ...text,
            align: side ? 'left' : 'right',
            verticalAlign: 'middle',
            text: `${words[i]}  ${count(side ? n.after : n.before)}`,
          },
        },
      ],
    };
  };
  const heads = (_: CustomSeriesRenderItemParams, api: { getWidth: () => number }) => ({
    type: 'group',
    children: [
      { type: 'text', x: gutter + 10, y: 2, style: { ...text, fontWeight: 600, align: 'right', text: f.from } },
      { type: 'text', x: api.getWidth() - gutter - 10, y: 2, style: { ...text, fontWeight: 600, text: f.to } },
    ],
  });
  const marks: Mark[] = [
    ...bars.map(
      ({ i, side }, data): Mark => ({
        series: 2,
        data,
        says: sayNode(f, itemAt(nodes, i)),
        press: () => press.node(i, !side),
      }),
    ),
    ...links.map((l, data): Mark => ({ series: 1, data, says: sayLink(f, l), press: () => press.link(l) })),
  ];
  const own = { type: 'custom', coordinateSystem: 'none' };
  return {
    marks: f.persons ? marks : [],
    left: f.persons
      ? out > 0
        ? `${count(out)} thinner bands are not drawn; the table has all categories.`
        : ''
      : 'Nobody in this focus answered at both times.',
    height,
    width: 2 * gutter + 220,
    option: {
      series: [
        { ...own, silent: true, data: [0], renderItem: heads as unknown as CustomSeriesRenderItem },
        { ...own, data: links.map((l) => l.persons), renderItem: band as unknown as CustomSeriesRenderItem },
        {
          ...own,
          z: 3,
          data: bars.map(({ i, side }) => itemAt(itemAt(sums, side), i)),
          renderItem: bar as unknown as CustomSeriesRenderItem,
        },
      ],
    },
  };
}
