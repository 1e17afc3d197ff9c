import { useCallback, useMemo } from 'react';
import { useLocation, useNavigate, useSearchParams } from 'react-router';
import * as z from 'zod/mini';
import type { Condition, FrameLine } from './api';
import { count } from './format';

/** The kinds of personal data, in words. */
export const personalKinds: Record<string, string> = {
  mail: 'mail addresses',
  phone: 'phone numbers',
  card: 'card numbers',
  iban: 'bank accounts (IBAN)',
  postcode: 'post codes',
  link: 'links to somebody’s page',
};

const condition = z.object({
  kind: z.enum([
    'words',
    'term',
    'row',
    'variable',
    'category',
    'rule',
    'coded',
    'settled',
    'status',
    'step',
    'decided',
    'answers',
    'alike',
    'block',
    'branch',
    'short',
    'sample',
    'personal',
    'hazard',
    'changed',
  ] satisfies Condition['kind'][]),
  text: z.optional(z.string()),
  name: z.optional(z.string()),
  op: z.optional(z.string()),
  values: z.optional(z.array(z.string())),
  id: z.optional(z.string()),
  rule: z.optional(z.number()),
  n: z.optional(z.number()),
  m: z.optional(z.number()),
  not: z.optional(z.boolean()),
  answers: z.optional(z.array(z.number())),
});

/** The conditions in a word of the address; what is no condition is passed over. */
export function readConditions(s: string): Condition[] {
  if (!s) return [];
  try {
    const list: unknown = JSON.parse(s);
    if (!Array.isArray(list)) return [];
    return list.flatMap((c) => {
      const read = condition.safeParse(c);
      return read.success ? [read.data as Condition] : [];
    });
  } catch {
    return [];
  }
}

export const writeConditions = (list: Condition[]) => (list.length ? JSON.stringify(list) : '');
const same = (a: Condition, b: Condition) => JSON.stringify(a) === JSON.stringify(b);

/** What may stand in the address line, besides the question and the view. */
export type Place =
  | 'focus'
  | 'pick'
  | 'tab'
  | 'open'
  | 'find'
  | 'sort'
  | 'up'
  | 'from'
  | 'to'
  // terms
  | 'row'
  | 'stop'
  | 'way'
  | 'see'
  | 'over'
  | 'unit'
  | 'now'
  | 'kind'
  | 'seg'
  | 'a'
  | 'b'
  | 'words'
  | 'measure'
  | 'least'
  | 'links'
  | 'both'
  | 'class'
  | 'list'
  // code
  | 'category'
  | 'draft'
  | 'net'
  | 'write'
  | 'called'
  | 'back'
  // review
  | 'all'
  | 'at'
  | 'group'
  | 'sample'
  | 'coder'
  // chart
  | 'by'
  | 'base'
  | 'weighted'
  | 'as'
  | 'rows'
  | 'only'
  | 'fix'
  | 'cells'
  | 'of'
  | 'bands';

/**
 * What stands in the address line, so that back, reload and sharing work: the focus (what everything speaks of), the pick
 * (what the answers pane shows of it), and how each view is set. What was written there by hand and means nothing counts as
 * not there.
 */
export function useAddress() {
  const [params] = useSearchParams();
  const { pathname } = useLocation();
  const navigate = useNavigate();
  const focusWord = params.get('focus') ?? '';
  const pickWord = params.get('pick') ?? '';
  const focus = useMemo(() => readConditions(focusWord), [focusWord]);
  const pick = useMemo(() => readConditions(pickWord), [pickWord]);
  const set = useCallback(
    (changes: Partial<Record<Place, string>>, replace = false) => {
      // Another view may have been chosen while this one is still on the screen: it must not bring itself back.
      if (window.location.pathname !== pathname) return;
      const next = new URLSearchParams(window.location.search);
      for (const [key, value] of Object.entries(changes)) {
        if (value) next.set(key, value);
        else next.delete(key);
      }
      navigate({ search: next.toString() }, { replace });
    },
    [pathname, navigate],
  );
  return {
    focus,
    pick,
    focusText: writeConditions(focus),
    pickText: writeConditions(pick),
    /** What the answers pane shows: the pick within the focus. */
    shown: writeConditions([...focus, ...pick.filter((p) => !focus.some((f) => same(f, p)))]),
    /** A word of the address, empty where there is none. */
    get: (what: Place) => params.get(what) ?? '',
    /** A word of the address that is one of some, the first of them where it is not. */
    one: <V extends string>(what: Place, values: readonly V[]): V =>
      values.find((v) => v === params.get(what)) ?? values[0]!,
    /** A number of the address that lies within bounds. */
    number: (what: Place, fallback: number, least = 0, most = Number.MAX_SAFE_INTEGER) => {
      const n = params.get(what);
      const read = n === null || n.trim() === '' ? Number.NaN : Number(n);
      return Number.isFinite(read) ? Math.min(most, Math.max(least, read)) : fallback;
    },
    setFocus: (list: Condition[]) => set({ focus: writeConditions(list), pick: '' }),
    narrow: (...more: Condition[]) =>
      set({ focus: writeConditions([...focus, ...more.filter((m) => !focus.some((f) => same(f, m)))]), pick: '' }),
    setPick: useCallback((list: Condition[]) => set({ pick: writeConditions(list) }, true), [set]),
    set,
  };
}
const comparisons: Record<string, string> = {
  '=': 'is',
  '!=': 'is not',
  '<': 'under',
  '<=': 'up to',
  '>': 'over',
  '>=': 'from',
};

/** A state of the scheme in words. */
const state = (ref = 'now') =>
  ref === 'now' ? ref : ref === '0' ? 'the beginning' : ref.startsWith('=') ? ref.slice(1) : `revision ${ref}`;

const decisions: Record<string, string> = {
  '': 'coded by hand',
  any: 'decided on by hand',
  both: 'hand and rules agree',
  apart: 'hand against rules',
  suggested: 'suggested, unread',
  noted: 'decisions with a note',
};

const sayDecided = (c: Condition) =>
  (c.not ? 'not: ' : '') +
  (c.text === 'by' ? `decided by ${c.name || 'nobody named'}` : (decisions[c.text ?? ''] ?? 'decided on'));

/** A condition in words. */
export function say(c: Condition, frame: FrameLine[] = []): string {
  const category = () => frame.find((f) => f.id === c.id)?.path.join(' / ') ?? 'a category';
  switch (c.kind) {
    case 'words':
      return c.not ? `without ${c.text}` : (c.text ?? '');
    case 'term':
    case 'row':
      return c.not ? `without ${c.text}` : `with ${c.text}`;
    case 'variable': {
      const op = c.not && c.op === '=' ? 'is not' : comparisons[c.op ?? '='];
      return `${c.name} ${op} ${c.values?.join(' or ')}`;
    }
    case 'category':
      if (c.values?.length) return `${c.not ? 'none' : 'any'} of ${c.values.length} categories`;
      return c.not ? `not ${category()}` : category();
    case 'rule':
      return `${category()}, rule ${c.rule}`;
    case 'coded':
      return c.not ? 'not coded' : 'coded';
    case 'settled':
      return c.not ? 'not settled' : 'settled';
    case 'decided':
      return sayDecided(c) + (c.id ? ` on ${category()}` : '');
    case 'status':
      return c.text === 'any' ? 'answered or not' : `status is ${c.text}`;
    case 'step':
      return `changed by ${c.text}`;
    case 'alike':
      if (c.m) return c.not ? `not ${c.m} % like another` : c.n ? `${c.m} % alike` : `${c.m} % like another`;
      return c.n ? 'alike in their words' : c.not ? 'like no other' : 'alike to another';
    case 'branch':
      return c.n ? `${c.text} … ${c.values?.join(' ')}` : `${[...(c.values ?? [])].reverse().join(' ')} … ${c.text}`;
    case 'block':
      return `holds “${c.text!.length > 40 ? `${c.text!.slice(0, 40)}…` : c.text}”`;
    case 'short':
      return c.not ? `${c.n} words or more` : `under ${c.n} words`;
    case 'sample':
      return c.text === 'first' ? `the first ${count(c.n ?? 0)}` : `${count(c.n ?? 0)} at random`;
    case 'personal':
      return `with ${personalKinds[c.text ?? ''] ?? 'personal data'}`;
    case 'changed':
      return `what ${c.id ? category() : 'coding'} ${c.text} from ${state(c.values?.[0])} to ${state(c.values?.[1])}`;
    case 'hazard':
      return 'spoilt by the order of steps';
    default:
      return `${c.answers?.length === 1 ? 'one answer' : `${c.answers?.length} answers`} picked out`;
  }
}
