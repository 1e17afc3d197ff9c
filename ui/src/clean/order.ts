import type { Step } from '../lib/api';
import { required } from '../lib/required';
import { freshStep, type StepSpec, usual } from '../lib/steps';

/** A step as the playbook writes it, without its figures. */
export const bare = ({ on: _, answers: __, ...step }: Step) => step as StepSpec;

/** The steps with one more, at its usual place among the others. */
export function withStep(on: StepSpec[], name: StepSpec['step']) {
  const at = on.findIndex((x) => usual.indexOf(x.step) > usual.indexOf(name));
  const next = [...on];
  next.splice(at < 0 ? next.length : at, 0, freshStep(name));
  return next;
}

/** The steps with the one at from moved to the place to. */
export function moved(on: StepSpec[], from: number, to: number) {
  if (to < 0 || to >= on.length) return on;
  const next = [...on];
  const [step] = next.splice(from, 1);
  next.splice(to, 0, required(step));
  return next;
}

export const same = (a: unknown, b: unknown) => JSON.stringify(a) === JSON.stringify(b);
