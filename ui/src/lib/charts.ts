import { writeConditions } from './address';
import type { Design, DesignOf } from './api';
import { viewAddress } from './views';

const correction = 'benjamini-hochberg';

/** Words of the address line. */
type Words = Record<string, string | undefined>;

/** What the interface knows of each kind of chart, besides how it is drawn. */
type Kind<K extends Design['kind']> = {
  /** How it may be drawn; the first is usual. */
  forms: Partial<Record<NonNullable<Design['as']>, string>>;
  /** What it is of, in a text: figures that are of something else are another chart. */
  subject: (d: DesignOf<K>) => unknown;
  /** What it is in the address line of its view: the other way round from there. What is usual is left out. */
  address: (d: DesignOf<K>) => Words;
  /** What it is, in words. */
  says: (d: DesignOf<K>) => string;
};

const unless = (usual: string, value = '') => (value === usual ? '' : value);

/** What tables of several kinds have in the address line. */
const table = (q: Omit<DesignOf<'means'>, 'kind' | 'focus' | 'of' | 'bands'>): Words => ({
  base: unless('answered', q.base),
  weighted: q.weighted ? '1' : '',
  rows: unless('all', q.rows),
  only: q.only,
  where: q.where,
  group: q.group,
  sort: unless('frame', q.sort),
  least: q.least ? String(q.least) : '',
  fix: unless(correction, q.correction),
});

/** The segments of a chart, in words. */
function bySegments(by = '') {
  if (!by.startsWith('[')) return by && `by ${by}`;
  const nests = JSON.parse(by) as string[][];
  return nests.length ? `by ${nests.map((n) => n.join(' / ')).join(' and by ')}` : 'of the total';
}

export const kinds: { [K in Design['kind']]: Kind<K> } = {
  table: {
    forms: {
      bars: 'bars',
      stack: 'stacked to 100 %',
      table: 'a table',
      dots: 'dots with intervals',
      heat: 'a heat table',
      lines: 'lines',
      multiples: 'small lines for each category',
    },
    subject: ({ by }) => ({ by }),
    address: (d) => ({ ...table(d), by: d.by, as: d.as, cells: d.cells }),
    says: ({ as = 'bars', by, group }) =>
      [
        as === 'multiples' ? 'small lines' : as === 'stack' ? 'stacked' : as,
        bySegments(by),
        group && `grouped by ${group}`,
      ]
        .filter(Boolean)
        .join(' '),
  },
  means: {
    forms: { often: 'how often against mean', table: 'a table' },
    subject: ({ of }) => ({ means: of }),
    address: (d) => ({
      ...table(d),
      tab: 'means',
      of: d.of,
      bands: d.bands,
      as: unless('table', d.as ?? 'often'),
    }),
    says: ({ as, of }) => `${as === 'table' ? 'table' : 'how often against mean'} of ${of}`,
  },
  together: {
    forms: { matrix: 'a matrix', network: 'a network', table: 'a table' },
    subject: (d) => ({ together: d.with ?? '' }),
    address: (d) => ({
      tab: 'together',
      base: unless('answered', d.base),
      rows: unless('categories', d.rows),
      with: d.with,
      measure: unless('lift', d.measure),
      see: unless('matrix', d.as),
    }),
    says: (d) => `${d.as ?? 'matrix'} of what comes together${d.with ? ` with ${d.with}` : ''}`,
  },
  flow: {
    forms: { flow: 'a flow', table: 'a table' },
    subject: ({ from, to }) => ({ from, to }),
    address: (d) => ({
      tab: 'people',
      a: d.from,
      b: d.to,
      rows: unless('nets', d.rows),
      see: unless('flow', d.as),
    }),
    says: ({ as, from, to }) => `${as ?? 'flow'} of the same people, ${from ?? 'first'} and ${to ?? 'next'}`,
  },
  questions: {
    forms: { table: 'a table' },
    subject: ({ questions, by }) => ({ questions, by }),
    address: (d) => ({ ...table(d), tab: 'questions', by: d.by, questions: d.questions }),
    says: ({ by }) => ['questions side by side', bySegments(by)].filter(Boolean).join(', '),
  },
};

/** What is known of the kind of a chart. The type of the design is that of its kind, which TypeScript can't follow. */
const kindOf = (d: Design) => kinds[d.kind] as unknown as Kind<Design['kind']>;

export const formsOf = (d: Design) => kindOf(d).forms as Record<string, string>;
export const subjectOf = (d: Design) => JSON.stringify(kindOf(d).subject(d));
export const saysOf = (d: Design) => kindOf(d).says(d);
/** What is said of a table where a chart is none. */
export const usualTable = { base: 'answered', rows: 'all', sort: 'frame', correction } as const;

/** The title and note that somebody wrote for a chart, and what that is of: they are no other's. */
export type Written = { of: string; title?: string; note?: string };

/** Where a kept chart stands, with the title and note it has. */
export function chartAddress(question: number, drawn: Design, title?: string, note?: string) {
  const own: Written = { of: subjectOf(drawn), title, note };
  const all = { ...kindOf(drawn).address(drawn), titled: title ? JSON.stringify(own) : '' };
  const said = Object.entries(all).flatMap(([k, v]) => (v ? [[k, v] as const] : []));
  return viewAddress(question, 'chart', writeConditions(drawn.focus), Object.fromEntries(said));
}
