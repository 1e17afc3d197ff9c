import type { CustomSeriesRenderItem, CustomSeriesRenderItemParams } from 'echarts/types/dist/shared';
import type { Chart } from '../lib/api';
import { itemAt, required } from '../lib/required';
import {
  categories,
  colour,
  endOf,
  labelOf,
  line,
  type Mark,
  mostSeries,
  type Plan,
  type Press,
  type Shown,
  shape,
  soft,
} from './picture';
import { sayCell } from './says';
import { figureOf, type Style, textOf } from './style';

/** Panels side by side, and all that a picture holds. */
const across = 3;
const mostPanels = 24;

/** The columns of the first nest as lines: one for each combination of the outer values, of those that have a base for a share. */
function runsOf(c: Chart) {
  const runs: { name: string; columns: number[] }[] = [];
  c.columns.forEach((k, i) => {
    if (k.nest !== 0 || itemAt(c.bases, i).answers < c.tiny) return;
    const name = k.values.slice(0, -1).join(', ');
    const run = runs.find((r) => r.name === name);
    if (run) run.columns.push(i);
    else runs.push({ name, columns: [i] });
  });
  return runs;
}

/**
 * A small panel for each category, all of one scale: lines over columns in an order, with their intervals; where they are nested
 * in another segment, a line for each of its values.
 */
export function multiples(c: Chart, rows: Shown[], press: Press, style: Style): Plan {
  const text = textOf(style);
  const small = { ...text, fontSize: style.size - 2, fill: soft };
  const label = labelOf(style);
  const all = runsOf(c);
  const runs = all.slice(0, mostSeries);
  const inner = (column: number) => required(itemAt(c.columns, column).values.at(-1));
  const places = [...new Set(runs.flatMap((r) => r.columns.map(inner)))];
  const shown = categories(rows).slice(0, mostPanels);
  const high = endOf(
    Math.max(
      0.01,
      ...shown.flatMap(({ i }) => runs.flatMap((r) => r.columns.map((k) => itemAt(itemAt(c.cells, i), k).high))),
    ),
  );
  const top = runs.length > 1 ? style.size + 18 : 4;
  const band = { title: style.size + 8, plot: 78, foot: style.size + 14 };
  const tall = band.title + band.plot + band.foot;
  const gutter = 2.6 * style.size;
  const plotOf = (wide: number, panel: number) => {
    const room = wide / across;
    const x = (panel % across) * room + gutter;
    const y = top + Math.floor(panel / across) * tall + band.title;
    return { x, y, width: room - gutter - (runs.length > 1 ? 1.4 : 3.4) * style.size };
  };
  const at = (wide: number, panel: number, run: number, k: number) => {
    const { x, y, width } = plotOf(wide, panel);
    const column = itemAt(itemAt(runs, run).columns, k);
    const cell = itemAt(itemAt(c.cells, itemAt(shown, panel).i), column);
    const up = (share: number) => y + band.plot * (1 - share / high);
    const place = places.indexOf(inner(column));
    return {
      x: x + (places.length < 2 ? width / 2 : (width * place) / (places.length - 1)),
      y: up(cell.share),
      low: up(cell.low),
      high: up(cell.high),
      cell,
    };
  };
  const still = (_: CustomSeriesRenderItemParams, api: { getWidth: () => number }) => {
    const wide = api.getWidth() - 4;
    const legend = runs.length > 1 ? runs.map((r, n) => ({ r, n })) : [];
    let from = 4;
    return {
      type: 'group',
      children: [
        ...legend.flatMap(({ r, n }) => {
          const x = from;
          from += 24 + 0.56 * style.size * r.name.length;
          return [
            shape(n, x + 5, 9, 4, { fill: colour(n) }),
            { type: 'text', x: x + 14, y: 9, style: { ...text, verticalAlign: 'middle', text: r.name } },
          ];
        }),
        ...shown.flatMap((s, panel) => {
          const { x, y, width } = plotOf(wide, panel);
          const rule = (share: number) => y + band.plot * (1 - share);
          return [
            {
              type: 'text',
              x: x - gutter + 4,
              y: y - band.title,
              style: {
                ...text,
                fontWeight: 600,
                width: width + gutter + 2.6 * style.size,
                overflow: 'truncate',
                text: label(s),
              },
            },
            ...[0, 0.5, 1].flatMap((share) => [
              {
                type: 'line',
                shape: { x1: x, x2: x + width, y1: rule(share), y2: rule(share) },
                style: { stroke: line, lineWidth: 1 },
              },
              {
                type: 'text',
                x: x - 5,
                y: rule(share),
                style: {
                  ...small,
                  align: 'right',
                  verticalAlign: 'middle',
                  text: `${Math.round(1000 * share * high) / 10} %`,
                },
              },
            ]),
            ...[...new Set([0, places.length - 1])].map((k, _n, ends) => ({
              type: 'text',
              x: ends.length < 2 ? x + width / 2 : k ? x + width : x,
              y: y + band.plot + 5,
              style: {
                ...small,
                align: ends.length < 2 ? 'center' : k ? 'right' : 'left',
                width: width / 2 - 4,
                overflow: 'truncate',
                text: places[k],
              },
            })),
            ...runs.flatMap((r, run) => {
              const points = r.columns.map((_c, k) => at(wide, panel, run, k));
              const last = required(points.at(-1));
              return [
                {
                  type: 'polygon',
                  shape: {
                    points: [...points.map((p) => [p.x, p.high]), ...points.map((p) => [p.x, p.low]).reverse()],
                  },
                  style: { fill: colour(run), opacity: 0.12 },
                },
                {
                  type: 'polyline',
                  shape: { points: points.map((p) => [p.x, p.y]) },
                  style: { stroke: colour(run), lineWidth: 1.8, fill: 'none' },
                },
                // Several ends would stand on one another.
                ...(runs.length === 1
                  ? [
                      {
                        type: 'text',
                        x: last.x + 7,
                        y: last.y,
                        style: { ...text, verticalAlign: 'middle', text: `${figureOf(style, last.cell.share)} %` },
                      },
                    ]
                  : []),
              ];
            }),
          ];
        }),
      ],
    };
  };
  const dots = shown.flatMap((_, panel) =>
    runs.flatMap((r, run) => r.columns.map((column, k) => ({ panel, run, k, column }))),
  );
  const dot = (p: CustomSeriesRenderItemParams, api: { getWidth: () => number }) => {
    const d = itemAt(dots, p.dataIndex);
    const { x, y } = at(api.getWidth() - 4, d.panel, d.run, d.k);
    return shape(d.run, x, y, places.length > 16 ? 2.4 : 3.2, { fill: colour(d.run) });
  };
  const left = [
    categories(rows).length > shown.length
      ? `${categories(rows).length - shown.length} categories are not drawn; choose rows to see others.`
      : '',
    all.length > runs.length ? `${all.length - runs.length} of ${all.length} lines are not drawn.` : '',
  ];
  return {
    left: left.filter(Boolean).join(' '),
    marks: dots.map(
      (d, data): Mark => ({
        series: 1,
        data,
        says: sayCell(c, itemAt(shown, d.panel).i, d.column),
        press: () => press(itemAt(shown, d.panel).i, d.column),
        cell: { row: itemAt(shown, d.panel).i, column: d.column },
      }),
    ),
    height: top + tall * Math.ceil(shown.length / across) + 4,
    width: 600,
    option: {
      series: [
        {
          type: 'custom',
          silent: true,
          coordinateSystem: 'none',
          data: [0],
          renderItem: still as unknown as CustomSeriesRenderItem,
        },
        {
          type: 'custom',
          coordinateSystem: 'none',
          z: 3,
          renderItem: dot as unknown as CustomSeriesRenderItem,
          data: dots.map((d) => itemAt(itemAt(c.cells, itemAt(shown, d.panel).i), d.column).share),
        },
      ],
    },
  };
}
