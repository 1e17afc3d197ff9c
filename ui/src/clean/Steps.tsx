import { useRef, useState } from 'react';
import type { Step } from '../lib/api';
import { count } from '../lib/format';
import { moved, type StepSpec, sentence, withStep } from './steps';

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
  const list = useRef<HTMLOListElement>(null);
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
    requestAnimationFrame(() => (list.current?.children[to] as HTMLElement)?.focus());
  };
  const set = (i: number, to: Partial<StepSpec>) => change(on.map((s, j) => (j === i ? { ...s, ...to } : s)));
  return (
    <>
      <ol className="plainlist ruled" ref={list} aria-label="Steps that are on, in their order">
        {on.map((s, i) => {
          const n = figure(s, i);
          return (
            <li
              key={`${s.step}${i}`}
              className={over === i ? 'stepline over' : 'stepline'}
              // biome-ignore lint/a11y/noNoninteractiveTabindex: Alt and the arrows move the step that has the focus
              tabIndex={0}
              draggable
              aria-label={`${sentence(s)}, step ${i + 1} of ${on.length}; Alt and an arrow move it`}
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
                if (!e.altKey || e.target !== e.currentTarget) return;
                if (e.key === 'ArrowUp') move(i, i - 1);
                else if (e.key === 'ArrowDown') move(i, i + 1);
                else return;
                e.preventDefault();
              }}
            >
              <input
                type="checkbox"
                id={`step-${i}`}
                checked
                disabled={busy}
                onChange={() => change(on.filter((_, j) => j !== i))}
              />
              <label htmlFor={`step-${i}`}>{sentence(s)}</label>
              <span className="stepends">
                <button
                  type="button"
                  className="plain"
                  aria-expanded={open === i}
                  aria-label={`${open === i ? 'close' : 'set'}: ${sentence(s)}`}
                  onClick={() => setOpen(open === i ? undefined : i)}
                >
                  {open === i ? 'close' : 'set'}
                </button>
                {n === undefined ? (
                  <span className="soft num" title="not worked out yet">
                    …
                  </span>
                ) : n > 0 ? (
                  <button
                    type="button"
                    className="plain num"
                    aria-pressed={only === s.step}
                    aria-label={`${count(n)} answers changed; show them`}
                    onClick={() => show(s.step)}
                  >
                    {count(n)}
                  </button>
                ) : (
                  <span className="soft num">0</span>
                )}
              </span>
              {open === i && (
                <div className="stepset">
                  <p className="row">
                    <button type="button" className="plain" disabled={i === 0} onClick={() => move(i, i - 1)}>
                      ↑ earlier
                    </button>
                    <button
                      type="button"
                      className="plain"
                      disabled={i === on.length - 1}
                      onClick={() => move(i, i + 1)}
                    >
                      ↓ later
                    </button>
                  </p>
                  <Setting step={s} set={(to) => set(i, to)} />
                </div>
              )}
            </li>
          );
        })}
      </ol>
      <ul className="plainlist ruled" aria-label="Steps that are off">
        {off.map((s) => (
          <li key={s.step} className="stepline off">
            <input
              type="checkbox"
              id={`off-${s.step}`}
              checked={false}
              disabled={busy}
              onChange={() => {
                const { on: _, answers: __, ...step } = s;
                const next = withStep(on, step);
                change(next);
                if (s.step === 'replace' || s.step === 'letters') setOpen(next.findIndex((x) => x.step === s.step));
              }}
            />
            <label htmlFor={`off-${s.step}`}>{sentence({ step: s.step, mode: 'drop' })}</label>
            <span className="soft num">–</span>
          </li>
        ))}
        {on.some((s) => s.step === 'replace') && (
          <li className="stepline off">
            <span />
            <button
              type="button"
              className="plain"
              onClick={() => {
                const last = on.map((s) => s.step).lastIndexOf('replace');
                const next = [...on];
                next.splice(last + 1, 0, { step: 'replace', rules: [] });
                change(next);
                setOpen(last + 1);
              }}
            >
              another list of replacements
            </button>
            <span />
          </li>
        )}
      </ul>
    </>
  );
}

/** What can be set of a step. */
function Setting({ step, set }: { step: StepSpec; set: (to: Partial<StepSpec>) => void }) {
  switch (step.step) {
    case 'links':
      return (
        <>
          <label>
            <input
              type="checkbox"
              checked={step.mode === 'mask'}
              onChange={(e) => set({ mode: e.target.checked ? 'mask' : undefined })}
            />{' '}
            leave a mark where an address stood
          </label>
          <label>
            <input
              type="checkbox"
              checked={!!step.phones}
              onChange={(e) => set({ phones: e.target.checked || undefined })}
            />{' '}
            phone numbers too
          </label>
        </>
      );
    case 'emoji':
      return (
        <label>
          <input
            type="checkbox"
            checked={step.mode === 'drop'}
            onChange={(e) => set({ mode: e.target.checked ? 'drop' : 'keep' })}
          />{' '}
          leave them out
        </label>
      );
    case 'replace':
      return <Replacements rules={step.rules ?? []} change={(rules) => set({ rules })} />;
    case 'letters':
      return <Letters letters={step.letters ?? {}} change={(letters) => set({ letters })} />;
    default:
      return <p className="soft small">{says[step.step]}</p>;
  }
}

const says: Record<string, string> = {
  markup: 'Block tags part words and sentences; scripts and comments go; “price < 20” stays.',
  typography: 'Curly quotes, long dashes and odd spaces are read as plain ones.',
  contractions: '“didn’t” is read as did not; a possessive ’s falls off. By the language of the question.',
  accents: '“café” and “cafe” count as one.',
  glued: '“bus42” is read as bus 42; “10am” and “2nd” stay whole.',
  repeats: '“soooo” is read as soo.',
  numbers: 'Numbers that stand alone are not read.',
};

type Rule = NonNullable<StepSpec['rules']>[number];

function Replacements({ rules, change }: { rules: Rule[]; change: (rules: Rule[]) => void }) {
  const set = (i: number, to: Partial<Rule>) => change(rules.map((r, j) => (j === i ? { ...r, ...to } : r)));
  return (
    <div className="rulesedit">
      {rules.map((r, i) => (
        <div key={i} className="ruleedit">
          <input
            aria-label={`find, replacement ${i + 1}`}
            className={r.regex ? 'mono' : ''}
            placeholder="find"
            value={r.find}
            onChange={(e) => set(i, { find: e.target.value })}
          />
          <input
            aria-label={`read instead, replacement ${i + 1}`}
            placeholder="read nothing"
            value={r.with}
            onChange={(e) => set(i, { with: e.target.value })}
          />
          <label className="small" title="a regular expression (RE2), as written; else whole words, case aside">
            <input
              type="checkbox"
              checked={!!r.regex}
              onChange={(e) => set(i, { regex: e.target.checked || undefined })}
            />{' '}
            expression
          </label>
          <button
            type="button"
            className="plain small"
            aria-label={`take out replacement ${i + 1}`}
            onClick={() => change(rules.filter((_, j) => j !== i))}
          >
            take out
          </button>
        </div>
      ))}
      <button type="button" onClick={() => change([...rules, { find: '', with: '' }])}>
        One more
      </button>
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
    <label className="stack">
      Pairs of letters: the one, and what it is read as
      <input
        className="mono"
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
    </label>
  );
}
