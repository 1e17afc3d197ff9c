import { keepPreviousData, type Query, type QueryClient, useQuery } from '@tanstack/react-query';
import { useParams } from 'react-router';
import { readConditions } from './address';
import { api, type Design, type Edit, take } from './api';
import { asksForCoding } from './conditions';
import type { paths } from './schema.gen';

type Root = '/api/v1/questions/{question}';
type Name<P> = P extends `${Root}/${infer R}` ? R : never;
type Json<T> = { responses: { 200: { content: { 'application/json': T } } } };

/** What can be asked about a question, by the end of its address. */
type Gets = {
  [P in keyof paths as paths[P] extends { get: Json<unknown> } ? Name<P> : never]: paths[P] extends { get: infer G }
    ? G
    : never;
};
/** What is asked with a body; none of it changes anything. */
type Tries = {
  [P in
    | 'edits/try'
    | 'texts/try'
    | 'text/try'
    | `rule${'' | '/misses' | '/sharpen' | '/examples' | '/beside'}`]: paths[`${Root}/${P}`]['post'];
};
type Some<T> = [T] extends [never] ? Record<string, never> : T;
type QueryOf<G> = G extends { parameters: { query?: infer Q } } ? Some<NonNullable<Q>> : Record<string, never>;
type BodyOf<G> = G extends { requestBody: { content: { 'application/json': infer B } } } ? B : never;
type ReplyOf<G> = G extends Json<infer R> ? R : never;

/** The question's number from the address line. */
export const useQuestionId = () => Number(useParams().question);

/**
 * The one place where keys of queries are made: all that is asked for stands in them, so that an answer can't be taken for
 * another's.
 */
export const keys = {
  studies: ['studies'] as const,
  allStudies: ['studies', 'all'] as const,
  deletedStudies: ['studies', 'deleted'] as const,
  session: ['session'] as const,
  people: ['people'] as const,
  users: ['people', 'users'] as const,
  entries: (everybody: boolean) => ['people', 'entries', everybody] as const,
  members: (study: number) => ['people', 'members', study] as const,
  log: ['people', 'log'] as const,
  backedUp: ['studies', 'backed up'] as const,
  reports: (study: number) => ['reports', study] as const,
  columnSets: (study: number) => ['column sets', study] as const,
  ofReports: ['report'] as const,
  style: ['house style'] as const,
  report: (study: number, report: number) => ['report', study, report] as const,
  frozen: (study: number, report: number, frozen: number) => ['frozen', study, report, frozen] as const,
  ofQuestions: ['question'] as const,
  question: (id: number) => ['question', id] as const,
  asked: (id: number, name: string, query: unknown, body?: unknown) => ['question', id, name, query, body] as const,
};

/** A query about a question, for useQuery and useQueries. */
export function asking<N extends keyof Gets>(id: number, name: N, query: QueryOf<Gets[N]>) {
  return {
    queryKey: keys.asked(id, name, query),
    queryFn: ({ signal }: { signal: AbortSignal }) =>
      take(
        api.GET(
          `/api/v1/questions/{question}/${name}` as never,
          { params: { path: { question: id }, query }, signal } as never,
        ),
      ) as Promise<ReplyOf<Gets[N]>>,
  };
}

type Options = { enabled?: boolean };
/** How long until something that is still being worked out is asked for again, in milliseconds. */
type Again<R> = { refetchInterval?: (q: { state: { data?: R } }) => number | false };

/** What came, and whether it is of what is asked now: `now` is empty while only an earlier answer is at hand. */
function told<Q extends { data: unknown; isPlaceholderData: boolean }>(q: Q) {
  return { ...q, now: (q.isPlaceholderData ? undefined : q.data) as Q['data'] };
}

/** Asks for something about the question; it is asked again when the question changes. */
export function useAsk<N extends keyof Gets>(
  name: N,
  query: QueryOf<Gets[N]>,
  options?: Options & Again<ReplyOf<Gets[N]>>,
) {
  const id = useQuestionId();
  return told(useQuery({ ...asking(id, name, query), placeholderData: keepPreviousData, ...options }));
}

type TryOptions<N extends keyof Tries> = Options & { query?: QueryOf<Tries[N]> };

type Tried<N extends keyof Tries> = ReplyOf<Tries[N]> & { of: BodyOf<Tries[N]> };

/** Tries something out on the question, which changes nothing. The answer carries what it was asked of. */
export function useTry<N extends keyof Tries>(name: N, body: BodyOf<Tries[N]>, options: TryOptions<N> = {}) {
  const id = useQuestionId();
  const { query, ...more } = options;
  return told(
    useQuery<Tried<N>>({
      queryKey: keys.asked(id, name, query, body),
      queryFn: async ({ signal }) => {
        const reply = (await take(
          api.POST(
            `/api/v1/questions/{question}/${name}` as never,
            { params: { path: { question: id }, query }, body, signal } as never,
          ),
        )) as ReplyOf<Tries[N]>;
        return { ...reply, of: body };
      },
      placeholderData: (old) => old,
      ...more,
    }),
  );
}

/** The figures of a chart of any kind, once they are wanted. */
export function useFigures(design: Design, enabled: boolean) {
  const id = useQuestionId();
  return told(
    useQuery({
      queryKey: keys.asked(id, 'figures', undefined, design),
      queryFn: ({ signal }) =>
        take(
          api.POST('/api/v1/questions/{question}/figures', {
            params: { path: { question: id } },
            body: design,
            signal,
          }),
        ),
      enabled,
    }),
  );
}

/** The code frame with its figures in a focus. */
export const useFrame = (focus: string) => useAsk('frame', { focus });

/** All studies; with `always`, how far they are coded is as of now. */
export const useStudies = (refetchOnMount: 'always' | true = true) =>
  useQuery({
    queryKey: keys.allStudies,
    queryFn: ({ signal }) => take(api.GET('/api/v1/studies', { signal })),
    refetchOnMount,
  });

/** What is worked out from words alone: coding changes none of it, as long as its focus does not ask for coding. */
const ofWords = new Set<string>([
  'lexicon',
  'members',
  'branches',
  'timeline',
  'rising',
  'corpus',
  'values',
  'company',
  'compare',
  'context',
  'suggestions',
  'cleaning',
  'checks',
  'personal',
  'near',
]);
/** What lists terms, and the question's own state. */
const listing = new Set<string>([
  'state',
  'terms',
  'lexicon',
  'corpus',
  'suggestions',
  'drafts',
  'health',
  'network',
  'compare',
  'rising',
  'company',
  'revisions',
  'text/try',
  'rule/misses',
  'rule/sharpen',
  'rule/examples',
]);
/** What is worked out before words become terms. */
const ofText = new Set<string>(['cleaning', 'checks', 'personal', 'near']);

/**
 * How far an edit reaches: into what is read of the texts, into terms, into which terms are listed (stop words shape lists, never
 * rules), or into the coding only.
 */
const reach: Record<Edit['kind'], 'text' | 'terms' | 'lists' | 'coding'> = {
  cleaning: 'text',
  'no answers': 'text',
  mask: 'text',
  'not personal': 'text',
  'put aside': 'coding',
  language: 'text',
  base: 'text',
  copy: 'text',
  playbook: 'text',
  'go back': 'text',
  lexicon: 'text',
  inflections: 'terms',
  comparatives: 'terms',
  hide: 'lists',
  show: 'lists',
  merge: 'terms',
  'rename merge': 'terms',
  split: 'terms',
  join: 'terms',
  apart: 'terms',
  part: 'terms',
  list: 'terms',
  unlist: 'terms',
  'rename list': 'terms',
  'suggest again': 'terms',
  rule: 'coding',
  rest: 'coding',
  'replace in rules': 'coding',
  check: 'coding',
  several: 'coding',
  single: 'coding',
  'add category': 'coding',
  'change category': 'coding',
  'duplicate category': 'coding',
  'move category': 'coding',
  'merge categories': 'coding',
  'split category': 'coding',
  'remove category': 'coding',
  'add field': 'coding',
  'change field': 'coding',
  'remove field': 'coding',
  frame: 'coding',
  'refuse draft': 'coding',
  'draft again': 'coding',
  decide: 'coding',
  settle: 'coding',
  'take over': 'coding',
};

/**
 * Whether an edit of a kind, made in this window, may have changed the answer to a query. Named states are changed by no edit.
 */
export function mayChange(kind: Edit['kind'] | undefined, name: unknown, query: unknown) {
  if (!kind || typeof name !== 'string') return true;
  if (name === 'states' || name === 'samples' || name === 'blind') return false;
  if (reach[kind] === 'text') return true;
  const focus = (query as { focus?: string } | undefined)?.focus ?? '';
  if (kind === 'put aside') return ['checks', 'state', 'revisions'].includes(name);
  if (ofText.has(name) && !focus) return false;
  if (reach[kind] === 'lists') return listing.has(name);
  return reach[kind] === 'terms' || !ofWords.has(name) || readConditions(focus).some(asksForCoding);
}

/**
 * Asks anew for what an edit may have changed; of any question, unless one is named. What is on its way for the first time is
 * begun anew too: invalidated only, it would arrive as it was before the change, and stay.
 */
export function askAgain(client: QueryClient, question?: number, kind?: Edit['kind']) {
  const queryKey = question === undefined ? keys.ofQuestions : keys.question(question);
  const touched = (q: { queryKey: readonly unknown[] }) => mayChange(kind, q.queryKey[2], q.queryKey[3]);
  client.invalidateQueries({ queryKey: keys.ofReports }); // a report is of all questions of its study
  if (question !== undefined)
    renew(client, (q) => isAsked(q) && q.queryKey[1] !== question && ofOthers.has(q.queryKey[2] as string));
  return renew(client, touched, queryKey);
}

/** What is asked of one question and tells of others too. */
const ofOthers = new Set<string>(['questions', 'charts'] satisfies (keyof Gets)[]);

const isAsked = (q: Query) => q.queryKey[0] === keys.ofQuestions[0];

/** Asks anew, and begins anew what is on its way for the first time. */
function renew(client: QueryClient, which: (q: Query) => boolean, queryKey?: readonly unknown[]) {
  client.resetQueries({
    queryKey,
    predicate: (q) => which(q) && q.state.fetchStatus === 'fetching' && q.state.data === undefined,
  });
  return client.invalidateQueries({ queryKey, predicate: which });
}

/** Asks for the reports of a study anew, and for what they say. */
export const askReportsAgain = (client: QueryClient, study: number) =>
  Promise.all([
    client.invalidateQueries({ queryKey: keys.reports(study) }),
    client.invalidateQueries({ queryKey: [...keys.ofReports, study] }),
  ]);

/** Rows of the question's study as they came, with its columns. */
export function useSheet(study: number, query: { offset: number; limit: number }) {
  const id = useQuestionId();
  return told(
    useQuery({
      queryKey: keys.asked(id, 'sheet', { study, ...query }),
      queryFn: ({ signal }) =>
        take(api.GET('/api/v1/studies/{study}/sheet', { params: { path: { study }, query }, signal })),
      placeholderData: keepPreviousData,
    }),
  );
}
