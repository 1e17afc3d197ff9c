import { useAddress, writeConditions } from '../lib/address';
import type { Chart, Condition, KeptChart } from '../lib/api';
import { viewAddress } from '../lib/views';

export const bases = {
  answered: 'the answered',
  respondents: 'all respondents',
  coded: 'the coded',
  mentions: 'all mentions',
} as const;
export type Base = keyof typeof bases;

const { mentions: _, ...answers } = bases;
/** What figures that are no table are of: answers, not mentions. */
export const answerBases = answers;
export const answerBase = (base: Base) => (base === 'mentions' ? 'answered' : base);

/** How a table is drawn. */
export const forms = ['bars', 'table', 'dots', 'heat', 'lines'] as const;

export const corrections = {
  'benjamini-hochberg': 'Benjamini-Hochberg',
  holm: 'Holm',
  bonferroni: 'Bonferroni',
  none: 'none',
} as const;

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

/** How the table is set in the address line, and the question that this is. */
export function useDesign() {
  const { focusText, get, one, number, set } = useAddress();
  const base = one<Base>('base', ['answered', 'respondents', 'coded', 'mentions']);
  const rows = one('rows', ['all', 'nets', 'categories'] as const);
  const fix = one('fix', Object.keys(corrections) as (keyof typeof corrections)[]);
  const cells = get('cells');
  const query = {
    focus: focusText,
    by: get('by') || undefined,
    base,
    weighted: get('weighted') === '1',
    rows,
    only: get('only') || undefined,
    sort: get('sort') || 'frame',
    least: number('least', 0),
    correction: fix,
  };
  return {
    query,
    set,
    shown: (cells ? cells.split(',').filter((c): c is Content => c in contents) : usual) as Content[],
    show: (to: Content[]) => set({ cells: to.join(',') || 'share' }),
    /** Other columns: those of the answers pane, and an order by one of them, are over with the earlier ones. */
    by: (nests: string[][]) => set({ by: JSON.stringify(nests), pick: '', sort: '' }),
  };
}

export type Design = ReturnType<typeof useDesign>;

/** What a chart is made of, and how it is drawn, as it is kept. */
export type KeptDrawing = KeptChart['drawn'];

/** Where a kept chart stands: the other way round from useDesign. What is usual is left out. */
export function addressOf(question: number, { query: q, focus, as, cells }: KeptDrawing) {
  const unless = (usual: string, value = '') => (value === usual ? '' : value);
  const words = {
    by: q.by,
    base: unless('answered', q.base),
    weighted: q.weighted ? '1' : '',
    rows: unless('all', q.rows),
    only: q.only,
    sort: unless('frame', q.sort),
    least: q.least ? String(q.least) : '',
    fix: unless('benjamini-hochberg', q.correction),
    as,
    cells,
  };
  const said = Object.entries(words).flatMap(([k, v]) => (v ? [[k, v] as const] : []));
  return viewAddress(question, 'chart', writeConditions(focus ?? []), Object.fromEntries(said));
}

/** The conditions behind a cell: pressing it shows the very answers that it counts. */
export const behind = (c: Chart, row: number, column: number): Condition[] => [
  ...(c.conditions ?? []),
  ...(c.rows?.[row]?.conditions ?? []),
  ...(c.columns?.[column]?.conditions ?? []),
];

/** A p value, as it is said. */
export const chance = (p: number) => (p < 0.001 ? 'p < 0.001' : `p = ${p.toFixed(3)}`);
export const points = (d: number) => `${d < 0 ? '−' : '+'}${Math.abs(100 * d).toFixed(1)}`;
