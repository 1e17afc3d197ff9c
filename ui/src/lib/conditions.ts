import type { Condition } from './api';
import { count } from './format';

/** A condition of one kind. */
export type ConditionOf<K extends Condition['kind']> = Extract<Condition, { kind: K }>;

/** The kinds of personal data, in words. */
export const personalKinds: Record<ConditionOf<'personal'>['text'], string> = {
  mail: 'mail addresses',
  phone: 'phone numbers',
  card: 'card numbers',
  iban: 'bank accounts (IBAN)',
  postcode: 'post codes',
  link: 'links to somebody’s page',
};

/** A category as conditions are said with. */
type Named = { id?: string; path: string[] | null };

type Say = {
  /** The name of a category. */
  category: (id?: string) => string;
};

type Kind<K extends Condition['kind']> = {
  /** Whether an edit that changes coding only, and no words, may change which answers pass. */
  asksForCoding: boolean;
  /** The condition in words. */
  say: (c: ConditionOf<K>, with_: Say) => string;
};

const comparisons = { '=': 'is', '!=': 'is not', '<': 'under', '<=': 'up to', '>': 'over', '>=': 'from' } as const;

/** A state of the scheme in words. */
const state = (ref = 'now') =>
  ref === 'now' ? ref : ref === '0' ? 'the beginning' : ref.startsWith('=') ? ref.slice(1) : `revision ${ref}`;

const decisions = {
  any: 'decided on by hand',
  both: 'hand and rules agree',
  apart: 'hand against rules',
  suggested: 'suggested, unread',
  noted: 'decisions with a note',
} as const;

/** What the interface knows of each kind of condition. */
export const kinds: { [K in Condition['kind']]: Kind<K> } = {
  words: {
    asksForCoding: true, // a rule may name categories
    say: (c) => (c.not ? `without ${c.text}` : c.text),
  },
  term: {
    asksForCoding: false,
    say: (c) => (c.not ? `without ${c.text}` : `with ${c.text}`),
  },
  row: {
    asksForCoding: false,
    say: (c) => (c.not ? `without ${c.text}` : `with ${c.text}`),
  },
  block: {
    asksForCoding: false,
    say: (c) => `holds “${c.text.length > 40 ? `${c.text.slice(0, 40)}…` : c.text}”`,
  },
  branch: {
    asksForCoding: true,
    say: (c) => (c.n ? `${c.text} … ${c.values.join(' ')}` : `${[...c.values].reverse().join(' ')} … ${c.text}`),
  },
  variable: {
    asksForCoding: false,
    say: (c) => {
      const op = c.not && (c.op ?? '=') === '=' ? 'is not' : comparisons[c.op ?? '='];
      return `${c.name} ${op} ${c.values.join(' or ')}`;
    },
  },
  person: {
    asksForCoding: true,
    say: (c, { category }) => {
      const what = c.text === 'any' ? 'an answer' : c.text === 'none' ? 'no category' : category(c.id);
      return `${c.not ? 'not ' : ''}people with ${what} in ${c.values.join(' or ')}`;
    },
  },
  answers: {
    asksForCoding: false,
    say: ({ answers = [] }) => `${answers.length === 1 ? 'one answer' : `${answers.length} answers`} picked out`,
  },
  status: {
    asksForCoding: false,
    say: (c) => (c.text === 'any' ? 'answered or not' : `status is ${c.text}`),
  },
  step: { asksForCoding: false, say: (c) => `changed by ${c.text}` },
  short: {
    asksForCoding: false,
    say: (c) => (c.not ? `${c.n} words or more` : `under ${c.n} words`),
  },
  alike: {
    asksForCoding: false,
    say: (c) => {
      if (c.m) return c.not ? `not ${c.m} % like another` : c.n ? `${c.m} % alike` : `${c.m} % like another`;
      return c.n ? 'alike in their words' : c.not ? 'like no other' : 'alike to another';
    },
  },
  sample: {
    asksForCoding: false,
    say: (c) => (c.text === 'first' ? `the first ${count(c.n)}` : `${count(c.n)} at random`),
  },
  personal: {
    asksForCoding: false,
    say: (c) => `with ${personalKinds[c.text]}`,
  },
  hazard: {
    asksForCoding: false,
    say: () => 'spoilt by the order of steps',
  },
  coded: { asksForCoding: true, say: (c) => (c.not ? 'not coded' : 'coded') },
  category: {
    asksForCoding: true,
    say: (c, { category }) => {
      if (c.values?.length) return `${c.not ? 'none' : 'any'} of ${c.values.length} categories`;
      return c.not ? `not ${category(c.id)}` : category(c.id);
    },
  },
  rule: {
    asksForCoding: true,
    say: (c, { category }) => `${category(c.id)}, rule ${c.rule}`,
  },
  decided: {
    asksForCoding: true,
    say: (c, { category }) => {
      const which =
        c.text === 'by' ? `decided by ${c.name || 'nobody named'}` : c.text ? decisions[c.text] : 'coded by hand';
      return `${c.not ? 'not: ' : ''}${which}${c.id ? ` on ${category(c.id)}` : ''}`;
    },
  },
  settled: { asksForCoding: true, say: (c) => (c.not ? 'not settled' : 'settled') },
  changed: {
    asksForCoding: true,
    say: (c, { category }) =>
      `what ${c.id ? category(c.id) : 'coding'} ${c.text} from ${state(c.values[0])} to ${state(c.values[1])}`,
  },
};

/** What is known of the kind of a condition. The type of the condition is that of its kind, which TypeScript can't follow. */
const kindOf = (c: Condition) => kinds[c.kind] as unknown as Kind<Condition['kind']>;

/** A condition in words. */
export const say = (c: Condition, frame: Named[] = []) =>
  kindOf(c).say(c, { category: (id) => frame.find((f) => f.id === id)?.path?.join(' / ') ?? 'a category' });

/** Whether an edit that changes coding only may change which answers a condition finds. */
export const asksForCoding = (c: Condition) => kindOf(c).asksForCoding;
