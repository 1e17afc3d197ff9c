import type { EditOf } from './api';

export type StepSpec = EditOf<'cleaning'>['steps'][number];
export type StepOf<K extends StepSpec['step']> = Extract<StepSpec, { step: K }>;

/** What is known of each cleaning step, besides how it is set. */
type Kind<K extends StepSpec['step']> = {
  /** What it does, as a sentence. */
  sentence: string;
  /** The same where settings have a say in it. */
  says?: (s: StepOf<K>) => string;
  /** As it is when it is switched on. */
  fresh: StepOf<K>;
};

const pairs = (sentence: string, n: number) => sentence + (n ? ` (${n})` : '');

/** All steps, in their usual order. */
const kinds: { [K in StepSpec['step']]: Kind<K> } = {
  markup: { sentence: 'Take out tags and entities', fresh: { step: 'markup' } },
  links: {
    sentence: 'Take out links and addresses',
    says: (s) => (s.mode === 'mask' ? 'Mask links and addresses' : kinds.links.sentence),
    fresh: { step: 'links' },
  },
  typography: { sentence: 'Plain quotes, dashes, spaces', fresh: { step: 'typography' } },
  replace: {
    sentence: 'Our own replacements',
    says: (s) => pairs(kinds.replace.sentence, s.rules?.length ?? 0),
    fresh: { step: 'replace', rules: [] },
  },
  letters: {
    sentence: 'Swap letters',
    says: (s) => pairs(kinds.letters.sentence, Object.keys(s.letters ?? {}).length),
    fresh: { step: 'letters' },
  },
  contractions: { sentence: 'Write contractions out', fresh: { step: 'contractions' } },
  accents: { sentence: 'Fold accents', fresh: { step: 'accents' } },
  glued: { sentence: 'Part letters from digits', fresh: { step: 'glued' } },
  repeats: { sentence: 'Shorten long runs of a letter', fresh: { step: 'repeats' } },
  numbers: { sentence: 'Leave out numbers', fresh: { step: 'numbers' } },
  emoji: {
    sentence: 'Leave out emoji',
    says: (s) => (s.mode === 'drop' ? kinds.emoji.sentence : 'Keep emoji as words'),
    fresh: { step: 'emoji', mode: 'drop' },
  },
};

/** What is known of the kind of a step. The type of the step is that of its kind, which TypeScript can't follow. */
const kindOf = (name: StepSpec['step']) => kinds[name] as Kind<StepSpec['step']>;

/** Their usual order. */
export const usual = Object.keys(kinds) as StepSpec['step'][];

/** What a step does, as a sentence. */
export const sentence = (s: StepSpec) => kindOf(s.step).says?.(s) ?? kindOf(s.step).sentence;

/** The same of a step by its name, which may be any. */
export const sentenceOf = (name: string) => usual.find((u) => u === name) && kinds[name as StepSpec['step']].sentence;

/** A step as it is when it is switched on. */
export const freshStep = (name: StepSpec['step']): StepSpec => kindOf(name).fresh;
