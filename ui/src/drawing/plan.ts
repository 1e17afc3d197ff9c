import type { Chart, Design, DesignOf, Figures, FiguresOf } from '../lib/api';
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
  c.rows.map((r, i) => ({ r, i })).filter(({ r }) => opened || r.kind !== 'hidden');

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

const nothing = () => {};

/** How each kind of chart is a picture that is only looked at; one that is a table only is none. */
const pictures: { [K in Design['kind']]: (f: FiguresOf<K>, d: DesignOf<K>, style: Style) => Plan | undefined } = {
  // A table is drawn as the picture nearest to it.
  table: (f, { as }, style) =>
    planOf(f, rowsOf(f), drawn.find((d) => d === as) ?? (as === 'table' ? 'heat' : 'bars'), nothing, style),
  means: (f, _, style) => oftenAgainstMean(f, nothing, style),
  together: (f, { as, measure }, style) => (as === 'network' ? network : matrix)(f, measure ?? 'lift', nothing, style),
  flow: (f, _, style) => flow(f, { node: nothing, link: nothing }, style),
  questions: () => undefined,
};

/** A kept chart as a picture that is only looked at, whatever kind it is of. The figures are of the kind of the design. */
export const pictureOf = (f: Figures, d: Design, style: Style): Plan | undefined =>
  (pictures[d.kind] as (f: Figures, d: Design, style: Style) => Plan | undefined)(f, d, style);
