import type { Chart, Section } from '../lib/api';
import type { KeptDrawing } from '../lib/charts';
import { bars } from './bars';
import { dots } from './dots';
import { flow } from './flow';
import { heat } from './heat';
import { lines } from './lines';
import { multiples } from './multiples';
import { oftenAgainstMean } from './often';
import type { Plan, Press, Shown } from './picture';
import { stack } from './stack';
import type { Style } from './style';
import { matrix, network } from './together';

/** How a table may be drawn as a picture. */
export const drawn = ['bars', 'stack', 'dots', 'heat', 'lines', 'multiples'] as const;
export type Drawn = (typeof drawn)[number];

/** The rows that a chart shows: what was left out as too small is one row, unless it is opened. */
export const rowsOf = (c: Chart, opened = false): Shown[] =>
  c.rows!.map((r, i) => ({ r, i })).filter(({ r }) => opened || r.kind !== 'hidden');

/** A chart as a picture that is not drawn yet. Lines may be a rolling mean over so many columns. */
export function planOf(c: Chart, rows: Shown[], as: Drawn, press: Press, style: Style, over = 1): Plan {
  switch (as) {
    case 'stack':
      return stack(c, rows, press, style);
    case 'dots':
      return dots(c, rows, press, style);
    case 'heat':
      return heat(c, rows, press, style);
    case 'lines':
      return lines(c, rows, press, style, over);
    case 'multiples':
      return multiples(c, rows, press, style);
  }
  return bars(c, rows, press, style);
}

/** The figures of a chart that was kept: those of its kind. */
export type Figures = Pick<Section, 'chart' | 'means' | 'together' | 'flow' | 'questions'>;

const nothing = () => {};

/** A kept chart as a picture that is only looked at, whatever kind it is of. A table is drawn as the picture nearest to it. */
export function pictureOf(f: Figures, { as, measure }: KeptDrawing, style: Style): Plan | undefined {
  if (f.means) return oftenAgainstMean(f.means, nothing, style);
  if (f.together) return (as === 'network' ? network : matrix)(f.together, measure ?? 'lift', nothing, style);
  if (f.flow) return flow(f.flow, { node: nothing, link: nothing }, style);
  const form = drawn.find((d) => d === as) ?? (as === 'table' ? 'heat' : 'bars');
  return f.chart && planOf(f.chart, rowsOf(f.chart), form, nothing, style);
}
