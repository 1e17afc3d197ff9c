import { z } from 'zod';
import { type Content, readContents } from '../drawing/contents';
import { useAddress } from '../lib/address';

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
export const forms = ['bars', 'stack', 'table', 'dots', 'heat', 'lines', 'multiples'] as const;

export const corrections = {
  'benjamini-hochberg': 'Benjamini-Hochberg',
  holm: 'Holm',
  bonferroni: 'Bonferroni',
  none: 'none',
} as const;

/** The values that categories must have to be rows, by fields, as the address has them; none if they can't be read. */
export function readWhere(where = ''): Record<string, string[]> {
  try {
    const read = z.record(z.string(), z.array(z.string())).safeParse(JSON.parse(where));
    return read.success ? read.data : {};
  } catch {
    return {};
  }
}

/** How the table is set in the address line, and the question that this is. */
export function useDesign() {
  const { focusText, get, one, number, set } = useAddress();
  const base = one<Base>('base', ['answered', 'respondents', 'coded', 'mentions']);
  const rows = one('rows', ['all', 'nets', 'categories'] as const);
  const fix = one('fix', Object.keys(corrections) as (keyof typeof corrections)[]);
  const query = {
    focus: focusText,
    by: get('by') || undefined,
    base,
    weighted: get('weighted') === '1',
    rows,
    only: get('only') || undefined,
    where: get('where') || undefined,
    group: get('group') || undefined,
    sort: get('sort') || 'frame',
    least: number('least', 0),
    correction: fix,
  };
  return {
    query,
    set,
    shown: readContents(get('cells')),
    show: (to: Content[]) => set({ cells: to.join(',') || 'share' }),
    /** Other columns: those of the answers pane, and an order by one of them, are over with the earlier ones. */
    by: (nests: string[][]) => set({ by: JSON.stringify(nests), pick: '', sort: '' }),
  };
}

export type Design = ReturnType<typeof useDesign>;
