import { cellOf, readContents } from '../drawing/contents';
import type { Shown } from '../drawing/picture';
import { testsOf } from '../drawing/says';
import type { Chart } from '../lib/api';
import { count } from '../lib/format';
import { itemAt } from '../lib/required';

/** A cell: what it says, and smaller figures under it. */
export type Cell = { text: string; small: string[] };

/** A table as files have it: lines of headings, then rows that begin with their name. */
export type Table = {
  head: { words: string[]; span: number }[][];
  rows: { cells: Cell[]; depth: number; sum: boolean }[];
};

/** A chart's table: the same figures, letters and marks. */
export function tableOf(c: Chart, rows: Shown[], cells?: string): Table {
  const shown = readContents(cells);
  const tests = shown.includes('tests');
  const groups = c.nests.map((_, n) => n);
  const columns = c.columns;
  const tested = (i: number) =>
    tests && itemAt(columns, i).group >= 0 && columns[i + 1]?.group !== itemAt(columns, i).group;
  const wide = (i: number) => (tested(i) ? 2 : 1);
  const spanOf = (n: number) => columns.reduce((sum, k, i) => sum + (k.nest === n ? wide(i) : 0), 0);
  const first = [
    { words: [''], span: 1 },
    { words: [''], span: 1 },
    ...groups.map((n) => ({ words: [itemAt(c.nests, n).label], span: spanOf(n) })),
  ];
  const second = [
    { words: [c.query.base === 'mentions' ? 'share of mentions' : 'share'], span: 1 },
    ...columns.flatMap((k, i) => [
      {
        words: [
          i === 0 ? 'All' : k.values.join(', '),
          [
            k.letter,
            `base ${count(itemAt(c.bases, i).answers)}${itemAt(c.bases, i).answers < c.small ? ', small' : ''}`,
          ]
            .filter(Boolean)
            .join(' · '),
        ],
        span: 1,
      },
      ...(tested(i) ? [{ words: ['tests'], span: 1 }] : []),
    ]),
  ];
  const body = rows.map(({ r, i }) => ({
    depth: r.depth,
    sum: !r.id,
    cells: [
      { text: `${r.short ? `${r.short}  ` : ''}${r.name}`, small: [] },
      ...columns.flatMap((k, column) => {
        const x = cellOf(c, i, column, shown);
        const marks = [x.mark, x.letters].filter(Boolean).join(' ');
        const cell = { text: marks ? `${x.share}  ${marks}` : x.share, small: x.small };
        return tested(column) ? [cell, { text: '', small: testsOf(c, i, k.group) }] : [cell];
      }),
    ],
  }));
  const mean = {
    depth: 0,
    sum: true,
    cells: [
      { text: 'categories, mean', small: [] },
      ...columns.flatMap((_, i) => {
        const cell = {
          text: itemAt(c.bases, i).answers >= c.tiny ? itemAt(c.mean, i).value.toFixed(2) : '–',
          small: [],
        };
        return tested(i) ? [cell, { text: '', small: [] }] : [cell];
      }),
    ],
  };
  return { head: groups.length ? [first, second] : [second], rows: [...body, mean] };
}
