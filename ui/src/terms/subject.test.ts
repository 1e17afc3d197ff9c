import { expect, test } from 'vitest';
import { branchRule, subjectOf } from './subject';

test('a branch is a row of exact words beside its subject', () => {
  const queue = { of: 'term' as const, text: 'queue' };
  expect(branchRule(queue, ['for', 'cars'], true)).toBe('queue =for =cars');
  expect(branchRule(queue, ['the', 'in'], false)).toBe('=in =the queue');
  expect(branchRule({ of: 'rule', text: 'long / slow' }, ['queue'], true)).toBe('(long / slow) =queue');
});

test('what the pane shows is looked at in context, what it leaves out is not', () => {
  expect(subjectOf([{ kind: 'coded' }, { kind: 'words', text: 'a + b' }])).toEqual({ of: 'rule', text: 'a + b' });
  expect(subjectOf([{ kind: 'term', text: 'queue', not: true }])).toBeUndefined();
});
