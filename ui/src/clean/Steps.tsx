import { type ReactNode, useRef, useState } from 'react';
import type { Step } from '../lib/api';
import { count } from '../lib/format';
import { freshStep, type StepOf, type StepSpec, sentence, sentenceOf } from '../lib/steps';
import { Button } from '../parts/Button';
import { Checkbox, Switch } from '../parts/Checkbox';
import { useRoving } from '../parts/roving';
import { Labelled, TextField } from '../parts/Text';
import { moved, withStep } from './order';

type Props = {
  /** The steps that are on, as they are kept, with their figures, then the others. */
  kept: Step[];
  /** The steps that are on as they would be. */
  on: StepSpec[];
  busy: boolean;
  only?: string;
  change: (on: StepSpec[]) => void;
  show: (step: string) => void;
};

/** The steps as sentences, each with a switch, its place and its figure. */
export function Steps({ kept, on, busy, only, change, show }: Props) {
  const [open, setOpen] = useState<number>();
  const [over, setOver] = useState<number>();
  const dragged = useRef<number>(undefined);
  const stops = useRoving<HTMLOListElement>();
  const others = useRoving<HTMLUListElement>();
  const off = kept
    .filter((s) => !on.some((x) => x.step === s.step))
    .filter((s, i, all) => all.findIndex((x) => x.step === s.step) === i);
  const figure = (s: StepSpec, i: number) => {
    const same = kept.filter((k) => k.on)[i];
    return same &&
      JSON.stringify({ ...same, on: 0, answers: 0 }) === JSON.stringify({ ...same, ...s, on: 0, answers: 0 })
      ? same.answers
      : undefined;
  };
  const move = (from: number, to: number) => {
    const next = moved(on, from, to);
    if (next === on) return;
    change(next);
    setOpen(undefined);
    requestAnimationFrame(() => (stops.ref.current?.children[to] as HTMLElement)?.focus());
  };
  const set = (i: number, to: StepSpec) => change(on.map((s, j) => (j === i ? to : s)));
  return (
    <>
      <ol {...stops} className="mb-4 border-b" aria-label="Steps that are on, in their order">
        {on.map((s, i) => {
          const n = figure(s, i);
          return (
            <li
              key={`${s.step}${i}`}
              className={`grid grid-cols-[2.1rem_1fr_auto] items-baseline gap-x-1 gap-y-0.5 border-t py-1.75
                ${over === i ? 'border-t-moss shadow-[0_-1px_0_var(--color-moss)]' : ''}`}
              data-stop=""
              draggable
              aria-label={`${sentence(s)}, step ${i + 1} of ${on.length}; space turns it off, Enter sets it, Alt with an arrow moves it`}
              onDragStart={(e) => {
                dragged.current = i;
                e.dataTransfer.effectAllowed = 'move';
              }}
              onDragOver={(e) => {
                e.preventDefault();
                setOver(i);
              }}
              onDragEnd={() => setOver(undefined)}
              onDrop={(e) => {
                e.preventDefault();
                setOver(undefined);
                if (dragged.current !== undefined) move(dragged.current, i);
              }}
              onKeyDown={(e) => {
                if (e.target !== e.currentTarget) return;
                if (e.altKey && e.key === 'ArrowUp') move(i, i - 1);
                else if (e.altKey && e.key === 'ArrowDown') move(i, i + 1);
                else if (e.key === ' ') change(on.filter((_, j) => j !== i));
                else if (e.key === 'Enter') setOpen(open === i ? undefined : i);
                else return;
                e.preventDefault();
              }}
            >
              <Switch
                stop={false}
                id={`step-${i}`}
                checked
                disabled={busy}
                change={() => change(on.filter((_, j) => j !== i))}
              />
              <label htmlFor={`step-${i}`}>{sentence(s)}</label>
              <span className="flex items-baseline gap-2 [&_.text-right]:min-w-8.5">
                <Button
                  look="plain"
                  tabIndex={-1}
                  className="text-sm"
                  aria-expanded={open === i}
                  aria-label={`${open === i ? 'Close' : 'Set'}: ${sentence(s)}`}
                  onClick={() => setOpen(open === i ? undefined : i)}
                >
                  {open === i ? 'Close' : 'Set'}
                </Button>
                {n === undefined ? (
                  <span className="text-soft text-right" title="not worked out yet">
                    …
                  </span>
                ) : n > 0 ? (
                  <Button
                    look="plain"
                    tabIndex={-1}
                    className="text-right"
                    aria-pressed={only === s.step}
                    aria-label={`${count(n)} answers changed; show them`}
                    onClick={() => show(s.step)}
                  >
                    {count(n)}
                  </Button>
                ) : (
                  <span className="text-soft text-right">0</span>
                )}
              </span>
              {open === i && (
                <div className="col-start-2 col-end-[-1] grid gap-1.25 pt-0.5 pb-1.5">
                  <p className="flex items-baseline gap-2.5">
                    <Button look="plain" disabled={i === 0} onClick={() => move(i, i - 1)}>
                      ↑ earlier
                    </Button>
                    <Button look="plain" disabled={i === on.length - 1} onClick={() => move(i, i + 1)}>
                      ↓ later
                    </Button>
                  </p>
                  <Setting step={s} set={(to) => set(i, to)} />
                </div>
              )}
            </li>
          );
        })}
      </ol>
      <ul {...others} className="mb-4 border-b" aria-label="Steps that are off">
        {off.map((s) => (
          <li
            key={s.step}
            className="grid grid-cols-[2.1rem_1fr_auto] items-baseline gap-x-1 gap-y-0.5 border-t py-1.75 [&_label]:text-soft"
          >
            <Switch
              id={`off-${s.step}`}
              data-stop=""
              checked={false}
              disabled={busy}
              change={() => {
                const next = withStep(on, s.step);
                change(next);
                if (s.step === 'replace' || s.step === 'letters') setOpen(next.findIndex((x) => x.step === s.step));
              }}
            />
            <label htmlFor={`off-${s.step}`}>{sentenceOf(s.step)}</label>
            <span className="text-soft text-right">–</span>
          </li>
        ))}
        {on.some((s) => s.step === 'replace') && (
          <li className="grid grid-cols-[2.1rem_1fr_auto] items-baseline gap-x-1 gap-y-0.5 border-t py-1.75 [&_label]:text-soft">
            <span />
            <Button
              look="plain"
              onClick={() => {
                const last = on.map((s) => s.step).lastIndexOf('replace');
                const next = [...on];
                next.splice(last + 1, 0, freshStep('replace'));
                change(next);
                setOpen(last + 1);
              }}
            >
              Another list of replacements
            </Button>
            <span />
          </li>
        )}
      </ul>
    </>
  );
}

type SettingProps<K extends StepSpec['step']> = { step: StepOf<K>; set: (to: StepOf<K>) => void };

/** What a step without settings does. */
const says = (words: string) => () => <p className="text-sm text-soft">{words}</p>;

/** What can be set of each step. */
const settings: { [K in StepSpec['step']]: (props: SettingProps<K>) => ReactNode } = {
  markup: says('Block tags part words and sentences; scripts and comments go; “price < 20” stays.'),
  links: ({ step, set }) => (
    <>
      <label>
        <Checkbox checked={step.mode === 'mask'} change={(on) => set({ ...step, mode: on ? 'mask' : undefined })} />{' '}
        leave a mark where an address stood
      </label>
      <label>
        <Checkbox checked={!!step.phones} change={(on) => set({ ...step, phones: on || undefined })} /> phone numbers
        too
      </label>
      <label>
        <Checkbox checked={!!step.bare} change={(on) => set({ ...step, bare: on || undefined })} /> names alone, such as
        larkmoor.com, too
      </label>
    </>
  ),
  typography: says('Curly quotes, long dashes and odd spaces are read as plain ones.'),
  replace: ({ step, set }) => <Replacements rules={step.rules ?? []} change={(rules) => set({ ...step, rules })} />,
  letters: ({ step, set }) => <Letters letters={step.letters ?? {}} change={(letters) => set({ ...step, letters })} />,
  contractions: says('“didn’t” is read as did not; a possessive ’s falls off. By the language of the question.'),
  accents: says('“café” and “cafe” count as one.'),
  glued: says('“bus42” is read as bus 42; “10am” and “2nd” stay whole.'),
  repeats: says('“soooo” is read as soo.'),
  numbers: says('Numbers that stand alone are not read.'),
  emoji: ({ step, set }) => (
    <label>
      <Checkbox checked={step.mode === 'drop'} change={(on) => set({ ...step, mode: on ? 'drop' : 'keep' })} /> leave
      them out
    </label>
  ),
};

/** What can be set of a step. */
function Setting({ step, set }: { step: StepSpec; set: (to: StepSpec) => void }) {
  const Of = settings[step.step] as (props: { step: StepSpec; set: (to: StepSpec) => void }) => ReactNode;
  return <Of step={step} set={set} />;
}

type Rule = NonNullable<StepOf<'replace'>['rules']>[number];

function Replacements({ rules, change }: { rules: Rule[]; change: (rules: Rule[]) => void }) {
  const set = (i: number, to: Partial<Rule>) => change(rules.map((r, j) => (j === i ? { ...r, ...to } : r)));
  return (
    <div className="grid justify-items-start gap-2">
      {rules.map((r, i) => (
        <div key={i} className="grid w-full grid-cols-[1fr_auto] gap-x-1.25 gap-y-0.75 [&>input]:col-span-full">
          <TextField
            aria-label={`find, replacement ${i + 1}`}
            className={r.regex ? 'font-mono' : ''}
            placeholder="find"
            value={r.find}
            onChange={(e) => set(i, { find: e.target.value })}
          />
          <TextField
            aria-label={`read instead, replacement ${i + 1}`}
            placeholder="read nothing"
            value={r.with}
            onChange={(e) => set(i, { with: e.target.value })}
          />
          <label className="text-sm" title="a regular expression (RE2), as written; else whole words, case aside">
            <Checkbox checked={!!r.regex} change={(on) => set(i, { regex: on || undefined })} /> expression
          </label>
          <Button
            look="plain"
            className="text-sm"
            aria-label={`take out replacement ${i + 1}`}
            onClick={() => change(rules.filter((_, j) => j !== i))}
          >
            take out
          </Button>
        </div>
      ))}
      <Button onClick={() => change([...rules, { find: '', with: '' }])}>One more</Button>
    </div>
  );
}

function Letters({
  letters,
  change,
}: {
  letters: Record<string, string>;
  change: (letters: Record<string, string>) => void;
}) {
  const [text, setText] = useState(
    Object.entries(letters)
      .map(([a, b]) => `${a}${b}`)
      .join(' '),
  );
  return (
    <Labelled name="Pairs of letters: the one, and what it is read as">
      <TextField
        className="font-mono"
        aria-label="pairs of letters"
        placeholder="ёе ßz"
        value={text}
        onChange={(e) => {
          setText(e.target.value);
          const pairs = e.target.value
            .split(/\s+/)
            .map((p) => [...p])
            .filter((p) => p.length === 2);
          change(Object.fromEntries(pairs) as Record<string, string>);
        }}
      />
    </Labelled>
  );
}
