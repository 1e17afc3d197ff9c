import type { AnswerGroup, Condition } from '../lib/api';
import { count } from '../lib/format';
import { left } from './ways';

type GroupOf<K extends AnswerGroup['kind']> = Extract<AnswerGroup, { kind: K }>;

/** What is known of a kind of groups. */
type Kind<K extends AnswerGroup['kind']> = {
  /** What tells one from the others of its kind. */
  name: (g: GroupOf<K>) => string | number;
  heading: (g: GroupOf<K>) => string;
  /** What finds its answers, besides that they are left; none for the answers themselves. */
  found?: (g: GroupOf<K>) => Condition;
  /** How many examples tell what the group is, where it is open. */
  examples: number;
};

const kinds: { [K in AnswerGroup['kind']]: Kind<K> } = {
  same: {
    name: (g) => g.like,
    heading: (g) => `${count(g.gained)} that say the same`,
    found: (g) => ({ kind: 'alike', n: g.like + 1 }),
    examples: 1,
  },
  near: {
    name: (g) => g.like,
    heading: (g) => `${count(g.gained)} that say nearly the same`,
    found: (g) => ({ kind: 'alike', n: g.like + 1, m: g.nearly }),
    examples: 3,
  },
  likely: { name: (g) => g.category.id, heading: (g) => `Likely ${g.category.name}`, examples: 3 },
  words: { name: (g) => g.rule, heading: (g) => g.name, found: (g) => ({ kind: 'words', text: g.rule }), examples: 3 },
};

/** What is known of the kind of a group. The type of the group is that of its kind, which TypeScript can't follow. */
const kindOf = (g: AnswerGroup) => kinds[g.kind] as Kind<AnswerGroup['kind']>;

/** What tells a group from the others. */
export const nameOf = (g: AnswerGroup) => `${g.kind} ${kindOf(g).name(g)}`;

export const heading = (g: AnswerGroup) => kindOf(g).heading(g);

/** So many answers are picked out at once: an address line holds no more. */
const maxPicked = 300;

/** What finds the answers of a group that are left. */
export const conditions = (g: AnswerGroup): Condition[] => [
  ...left,
  kindOf(g).found?.(g) ?? { kind: 'answers', answers: g.answers.slice(0, maxPicked) },
];

export const examplesOf = (g: AnswerGroup, open: boolean) => g.examples.slice(0, open ? kindOf(g).examples : 1);

/** The category that most of a group are likely to have. */
export const likelyOf = (g: AnswerGroup) => (g.kind === 'likely' ? g.category : g.likely);
