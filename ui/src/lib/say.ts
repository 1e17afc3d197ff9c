import type { Condition } from './api';
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

/** A category as conditions are said with. */
type Named = { id?: string; path: string[] | null };

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
export function say(c: Condition, frame: Named[] = []): string {
  const category = () => frame.find((f) => f.id === c.id)?.path?.join(' / ') ?? 'a category';
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
    case 'person': {
      const what = c.text === 'any' ? 'an answer' : c.text === 'none' ? 'no category' : category();
      return `${c.not ? 'not ' : ''}people with ${what} in ${c.values?.join(' or ')}`;
    }
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
