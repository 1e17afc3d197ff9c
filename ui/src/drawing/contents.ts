import type { Chart } from '../lib/api';
import { count, percent } from '../lib/format';
import { itemAt } from '../lib/required';
import { points } from './figures';
import { lettersOf, markOf } from './says';

/** What a cell of the table may hold besides its share. */
export const contents = {
  answers: 'answers',
  weighted: 'weighted count',
  ofRow: 'share of the row',
  index: 'index',
  rest: 'difference from the rest',
  interval: '95 % interval',
  letters: 'letters of lower columns',
  marks: '▲ ▼ against the rest',
  tests: 'tests of the row',
} as const;
export type Content = keyof typeof contents;
const usual: Content[] = ['answers', 'interval', 'letters', 'marks'];

/** What was chosen, as the address line and kept charts have it. */
export const readContents = (cells = '') =>
  (cells ? cells.split(',').filter((c): c is Content => c in contents) : usual) as Content[];

/** What a cell holds: its share, unless its base is too small for one, its letters and marks, and smaller figures. */
export function cellOf(c: Chart, row: number, column: number, shown: Content[]) {
  const x = itemAt(itemAt(c.cells, row), column);
  const given = itemAt(c.bases, column).answers >= c.tiny;
  const has = (k: Content) => shown.includes(k);
  const small = [
    has('answers') && count(x.answers),
    has('weighted') && c.weighted && `w ${x.weighted.toFixed(1)}`,
    ...(given
      ? [
          has('interval') && c.query.base !== 'mentions' && `${(100 * x.low).toFixed(1)}–${(100 * x.high).toFixed(1)}`,
          has('ofRow') && `row ${percent(x.ofRow)}`,
          has('index') && column > 0 && x.index > 0 && `index ${x.index.toFixed(0)}`,
          has('rest') && column > 0 && x.rest.difference !== 0 && `${points(x.rest.difference)} pts`,
        ]
      : []),
  ].filter((s): s is string => !!s);
  return {
    given,
    share: given ? percent(x.share) : '–',
    letters: given && has('letters') ? lettersOf(c, row, column) : '',
    mark: given && has('marks') ? markOf(c, row, column) : '',
    small,
  };
}
