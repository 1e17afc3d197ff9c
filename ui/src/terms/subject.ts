import type { Condition } from '../lib/api';

/** What is looked at in context: a term, terms in a row, or a rule. */
export type Subject = { of: 'term' | 'row' | 'rule'; text: string };

const kinds = { term: 'term', row: 'row', rule: 'words' } as const;

export const conditionOf = (s: Subject): Condition & { kind: 'words' | 'term' | 'row' } => ({
  kind: kinds[s.of],
  text: s.text,
});

/** The subject that the answers pane speaks of, if it speaks of one. */
export function subjectOf(conditions: Condition[]): Subject | undefined {
  for (const c of conditions) {
    if (c.not) continue;
    if (c.kind === 'term' || c.kind === 'row') return { of: c.kind, text: c.text };
    if (c.kind === 'words' && c.text) return { of: 'rule', text: c.text };
  }
}

/** The subject as a part of a rule that may stand in a row. */
const asPart = (s: Subject) => (s.of === 'rule' ? `(${s.text})` : s.text);

/** The rule for a subject with words before or after it, nearest to it last or first. */
export const branchRule = (s: Subject, words: string[], after: boolean) => {
  const exact = words.map((w) => `=${w}`);
  return (after ? [asPart(s), ...exact] : [...exact.reverse(), asPart(s)]).join(' ');
};

/** The condition of a branch; one that passes over stop words is no row of words, and has a kind of its own. */
export const branchCondition = (s: Subject, words: string[], after: boolean, telling: boolean): Condition =>
  telling
    ? { kind: 'branch', op: kinds[s.of], text: s.text, values: words, n: after ? 1 : 0 }
    : { kind: 'words', text: branchRule(s, words, after) };
