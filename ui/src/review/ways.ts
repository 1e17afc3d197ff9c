import type { Condition } from '../lib/api';

/** Ways to go through what is left, the quickest gain first. */
export const ways = {
  groups: 'in groups',
  alike: 'alike answers together',
  likely: 'likely ones, surest first',
  doubtful: 'doubtful ones first',
  file: 'as in the file',
  longest: 'longest first',
  newest: 'newest first',
  random: 'at random',
} as const;
export type Way = keyof typeof ways;

/** Ways by which answers come in groups. */
export const grouped = (way: Way) => way === 'groups' || way === 'alike';

/** What has no category and was not settled. */
export const left: Condition[] = [
  { kind: 'coded', not: true },
  { kind: 'settled', not: true },
];
