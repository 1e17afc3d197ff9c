import type { EditOf } from './api';

export type StepSpec = EditOf<'cleaning'>['steps'][number];

/** What each step does, as a sentence; in the usual order. */
export const sentences: Record<string, string> = {
  markup: 'Take out tags and entities',
  links: 'Take out links and addresses',
  typography: 'Plain quotes, dashes, spaces',
  replace: 'Our own replacements',
  letters: 'Swap letters',
  contractions: 'Write contractions out',
  accents: 'Fold accents',
  glued: 'Part letters from digits',
  repeats: 'Shorten long runs of a letter',
  numbers: 'Leave out numbers',
  emoji: 'Leave out emoji',
};

/** Their usual order. */
export const usual = Object.keys(sentences);

export function sentence(s: StepSpec) {
  if (s.step === 'links' && s.mode === 'mask') return 'Mask links and addresses';
  if (s.step === 'emoji' && s.mode !== 'drop') return 'Keep emoji as words';
  const pairs = s.rules?.length ?? Object.keys(s.letters ?? {}).length;
  return sentences[s.step] + (pairs ? ` (${pairs})` : '');
}
