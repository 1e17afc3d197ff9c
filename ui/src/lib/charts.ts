import { writeConditions } from './address';
import type { KeptChart } from './api';
import { viewAddress } from './views';

/** What a chart is made of, and how it is drawn, as it is kept. */
export type KeptDrawing = KeptChart['drawn'];

const correction = 'benjamini-hochberg';
/** What is said of a table where a chart is none. */
export const noTable: KeptDrawing['query'] = { base: 'answered', rows: 'all', sort: 'frame', correction };

/** What a chart is of, in a text: figures that are of something else are another chart. */
export function subjectOf({ query, means, together, flow, questions }: KeptDrawing) {
  if (means) return JSON.stringify({ means: means.of });
  if (together) return JSON.stringify({ together: together.with ?? '' });
  if (flow) return JSON.stringify({ from: flow.from, to: flow.to });
  if (questions) return JSON.stringify({ questions: questions.questions, by: questions.by });
  return JSON.stringify({ by: query.by });
}

/** The title and note that somebody wrote for a chart, and what that is of: they are no other's. */
export type Written = { of: string; title?: string; note?: string };

const unless = (usual: string, value = '') => (value === usual ? '' : value);

/** What a chart is in the address line: the other way round from useDesign. What is usual is left out. */
function words(drawn: KeptDrawing): Record<string, string | undefined> {
  const { query, means, together, flow, questions, as, cells, measure } = drawn;
  if (flow)
    return { tab: 'people', a: flow.from, b: flow.to, rows: unless('nets', flow.rows), see: unless('flow', as) };
  if (together)
    return {
      tab: 'together',
      base: unless('answered', together.base),
      rows: unless('categories', together.rows),
      with: together.with,
      measure: unless('lift', measure),
      see: unless('matrix', as),
    };
  const q = means ?? questions ?? query;
  const table = {
    base: unless('answered', q.base),
    weighted: q.weighted ? '1' : '',
    rows: unless('all', q.rows),
    only: q.only,
    sort: unless('frame', q.sort),
    least: q.least ? String(q.least) : '',
    fix: unless(correction, q.correction),
  };
  if (means) return { ...table, tab: 'means', of: means.of, bands: means.bands, as: unless('table', as ?? 'often') };
  if (questions) return { ...table, tab: 'questions', by: q.by, questions: questions.questions };
  return { ...table, by: q.by, as, cells };
}

/** Where a kept chart stands, with the title and note it has. */
export function chartAddress(question: number, drawn: KeptDrawing, title?: string, note?: string) {
  const own: Written = { of: subjectOf(drawn), title, note };
  const all = { ...words(drawn), titled: title ? JSON.stringify(own) : '' };
  const said = Object.entries(all).flatMap(([k, v]) => (v ? [[k, v] as const] : []));
  return viewAddress(question, 'chart', writeConditions(drawn.focus ?? []), Object.fromEntries(said));
}
