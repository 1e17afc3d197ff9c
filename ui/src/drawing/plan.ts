import type { Chart } from '../lib/api';
import { bars } from './bars';
import { dots } from './dots';
import { heat } from './heat';
import { lines } from './lines';
import type { Plan, Press, Shown } from './picture';
import { stack } from './stack';
import type { Style } from './style';

/** How a table may be drawn as a picture. */
export const drawn = ['bars', 'stack', 'dots', 'heat', 'lines'] as const;
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
  }
  return bars(c, rows, press, style);
}
