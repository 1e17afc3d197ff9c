import * as z from 'zod/mini';
import type { Condition } from './api';
import { type ConditionOf, personalKinds } from './conditions';

const text = z.string();
const values = z.array(z.string());
const whole = z.int().check(z.nonnegative());
const maybe = { text: z.optional(text), values: z.optional(values), whole: z.optional(whole) };

/** The reader of a kind: its own fields, *not*, and nothing else. */
const reader = <K extends Condition['kind'], F extends z.core.$ZodShape>(kind: K, fields: F) =>
  z.strictObject({ kind: z.literal(kind), not: z.optional(z.boolean()), ...fields });

/** How conditions are read from an address, by kind; what does not fit is no condition. */
const readers: { [K in Condition['kind']]: z.ZodMiniType<ConditionOf<K>> } = {
  words: reader('words', { text }),
  term: reader('term', { text }),
  row: reader('row', { text }),
  block: reader('block', { text }),
  branch: reader('branch', {
    op: z.enum(['words', 'term', 'row']),
    text,
    values,
    n: z.optional(z.union([z.literal(0), z.literal(1)])),
  }),
  variable: reader('variable', { name: text, op: z.optional(z.enum(['=', '!=', '<', '<=', '>', '>='])), values }),
  person: reader('person', { name: text, values, text: z.optional(z.enum(['any', 'none'])), id: maybe.text }),
  answers: reader('answers', { answers: z.optional(z.array(whole)) }),
  status: reader('status', { text }),
  step: reader('step', { text }),
  short: reader('short', { n: whole }),
  alike: reader('alike', { n: maybe.whole, m: maybe.whole }),
  sample: reader('sample', { text: z.enum(['random', 'first']), n: whole, m: maybe.whole }),
  personal: reader('personal', { text: z.enum(Object.keys(personalKinds) as ConditionOf<'personal'>['text'][]) }),
  hazard: reader('hazard', { n: maybe.whole, m: maybe.whole }),
  coded: reader('coded', {}),
  category: reader('category', { id: maybe.text, values: maybe.values }),
  rule: reader('rule', { id: text, rule: whole }),
  decided: reader('decided', {
    text: z.optional(z.enum(['any', 'both', 'apart', 'suggested', 'noted', 'by'])),
    name: maybe.text,
    id: maybe.text,
  }),
  settled: reader('settled', {}),
  changed: reader('changed', { id: maybe.text, text: z.enum(['gained', 'lost']), values }),
};

/** A condition from what an address holds, if it is one. */
export function readCondition(of: unknown): Condition | undefined {
  const kind = (of as { kind?: unknown } | null)?.kind;
  if (typeof kind !== 'string' || !Object.hasOwn(readers, kind)) return undefined;
  const read = readers[kind as Condition['kind']].safeParse(of);
  return read.success ? read.data : undefined;
}
