import { writeConditions } from './address';
import type { KeptChart } from './api';
import { viewAddress } from './views';

/** What a chart is made of, and how it is drawn, as it is kept. */
export type KeptDrawing = KeptChart['drawn'];

/** Where a kept chart stands: the other way round from useDesign. What is usual is left out. */
export function chartAddress(question: number, { query: q, focus, as, cells }: KeptDrawing) {
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
