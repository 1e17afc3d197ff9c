import type { EditOf, Step } from '../lib/api';

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

const usual = Object.keys(sentences);

export function sentence(s: StepSpec) {
  if (s.step === 'links' && s.mode === 'mask') return 'Mask links and addresses';
  if (s.step === 'emoji' && s.mode !== 'drop') return 'Keep emoji as words';
  const pairs = s.rules?.length ?? Object.keys(s.letters ?? {}).length;
  return sentences[s.step] + (pairs ? ` (${pairs})` : '');
}

/** A step as the playbook writes it, without its figures. */
export const bare = ({ on: _, answers: __, ...step }: Step): StepSpec => step;

/** The steps with one more, at its usual place among the others. */
export function withStep(on: StepSpec[], step: StepSpec) {
  const fresh =
    step.step === 'emoji'
      ? { ...step, mode: 'drop' as const }
      : step.step === 'replace' && !step.rules?.length
        ? { ...step, rules: [] }
        : step;
  const at = on.findIndex((x) => usual.indexOf(x.step) > usual.indexOf(step.step));
  const next = [...on];
  next.splice(at < 0 ? next.length : at, 0, fresh);
  return next;
}

/** The steps with the one at from moved to the place to. */
export function moved(on: StepSpec[], from: number, to: number) {
  if (to < 0 || to >= on.length) return on;
  const next = [...on];
  const [step] = next.splice(from, 1);
  next.splice(to, 0, step!);
  return next;
}

export const same = (a: unknown, b: unknown) => JSON.stringify(a) === JSON.stringify(b);
