import { type KeyboardEvent, useEffect, useRef, useState } from 'react';
import { Who, Words } from '../answers/Words';
import type { Checked, FrameLine } from '../lib/api';
import { useDesk } from '../lib/edits';
import { count, many, percent } from '../lib/format';
import { useKept } from '../lib/kept';
import { useAsk } from '../lib/queries';
import { required } from '../lib/required';
import { Failed } from '../parts/Asked';
import { Button, Kbd } from '../parts/Button';
import { Dialog } from '../parts/Dialog';
import { Select } from '../parts/Select';
import { Empty, Skeleton } from '../parts/Text';
import { RuleText } from '../rule/Rule';

/** How right a rule was found to be, in words. */
export function CheckedText({ checked }: { checked: Checked }) {
  const n = checked.right + checked.wrong;
  if (!n) return <>none of the answers that were looked over is caught any more</>;
  return (
    <>
      {percent(checked.precision)} right ({Math.round(100 * checked.low)}–{Math.round(100 * checked.high)} %), by{' '}
      {many(n, 'answer')} drawn at random
      {checked.now !== checked.matches && `; it caught ${count(checked.matches)} then, ${count(checked.now)} now`}
    </>
  );
}

type CheckProps = {
  line: FrameLine;
  /** The text of the rule; empty for the category as a whole. */
  rule: string;
  close: () => void;
};

type Judged = Record<number, boolean>;

/** Draws a random sample of what a rule catches; each answer is judged with one key. What was judged outlives leaving. */
export function Check({ line, rule, close }: CheckProps) {
  const { edit } = useDesk();
  const [size, setSize] = useKept('check size', 50);
  const sample = useAsk('check', { category: line.id, rule, size });
  const [judged, setJudged] = useKept<Judged>(`check ${line.id} ${rule}`, {});
  const [at, setAt] = useState(0);
  const box = useRef<HTMLDivElement>(null);
  const known = sample.now;
  useEffect(() => {
    if (known) box.current?.focus();
  }, [known]);
  const before: Judged = Object.fromEntries([
    ...(known?.right ?? []).map((a) => [a, true] as const),
    ...(known?.wrong ?? []).map((a) => [a, false] as const),
  ]);
  const all = { ...before, ...judged };
  const answers = known?.answers ?? [];
  const one = answers[at];
  const right = answers.filter((a) => all[a.number] === true);
  const wrong = answers.filter((a) => all[a.number] === false);
  const judge = (is: boolean) => {
    if (!one) return;
    setJudged({ ...judged, [one.number]: is });
    setAt(Math.min(at + 1, answers.length));
  };
  const keys: Record<string, () => void> = {
    y: () => judge(true),
    n: () => judge(false),
    ArrowLeft: () => setAt(Math.max(0, at - 1)),
    ArrowRight: () => setAt(Math.min(answers.length, at + 1)),
  };
  const onKeyDown = (e: KeyboardEvent) => {
    const act = keys[e.key];
    if (!act || e.ctrlKey || e.metaKey || e.altKey || (e.target as HTMLElement).closest('[role=combobox]')) return;
    e.preventDefault();
    act();
  };
  const keep = async () => {
    // A larger sample holds the smaller one: what was judged of either is kept.
    const judgedAs = (is: boolean) =>
      Object.keys(all)
        .map(Number)
        .filter((a) => all[a] === is);
    const done = await edit({
      kind: 'check',
      category: line.id,
      rule,
      matches: required(known).matches,
      right: judgedAs(true),
      wrong: judgedAs(false),
    });
    if (!done) return;
    setJudged({});
    close();
  };
  return (
    <Dialog title={rule ? 'Is this rule right?' : `Is ${line.name} right?`} wide close={close}>
      {rule && (
        <p className="pb-2 font-mono text-lg break-words">
          <RuleText source={rule} />
        </p>
      )}
      {sample.error && !sample.data && <Failed error={sample.error} again={() => sample.refetch()} />}
      {!known && !sample.error && <Skeleton lines={4} />}
      {known && !answers.length && <Empty>It catches no answer, so there is nothing to look over.</Empty>}
      {known && answers.length > 0 && (
        // biome-ignore lint/a11y/noStaticElementInteractions: keys judge the answer that is shown
        <div ref={box} tabIndex={-1} className="grid gap-3 outline-none" onKeyDown={onKeyDown}>
          <p className="flex flex-wrap items-baseline justify-between gap-2.5 text-soft">
            <span role="status">
              {one ? `Answer ${count(at + 1)} of ${count(answers.length)}` : `All ${count(answers.length)} looked at`},
              drawn at random from {many(known.matches, 'answer')}. {count(right.length)} right, {count(wrong.length)}{' '}
              wrong so far.
            </span>
            <label>
              sample{' '}
              <Select
                label="sample"
                value={String(size)}
                change={(v) => setSize(Number(v))}
                options={[20, 50, 100, 200].map((n) => ({ value: String(n), words: `${n} answers` }))}
              />
            </label>
          </p>
          {one ? (
            <div className="min-h-40 border-t pt-3">
              <p className="font-serif text-xl break-words whitespace-pre-line" data-part="said" aria-live="polite">
                <Words answer={one} />
              </p>
              <Who answer={one} />
              {all[one.number] !== undefined && (
                <p className="pt-1 text-sm text-soft">judged {all[one.number] ? 'right' : 'wrong'}</p>
              )}
            </div>
          ) : (
            <p className="min-h-40 border-t pt-3">
              Keep it, and how right it is stands beside the rule until that changes.
            </p>
          )}
          <p className="flex flex-wrap items-baseline gap-2.5">
            <Button look="go" disabled={!one} onClick={() => judge(true)}>
              Right <Kbd>y</Kbd>
            </Button>
            <Button disabled={!one} onClick={() => judge(false)}>
              Wrong <Kbd>n</Kbd>
            </Button>
            <Button look="plain" disabled={at === 0} onClick={keys.ArrowLeft}>
              back <Kbd>←</Kbd>
            </Button>
            <Button look="plain" disabled={!one} onClick={keys.ArrowRight}>
              skip <Kbd>→</Kbd>
            </Button>
            <span className="ml-auto flex gap-2.5">
              <Button look={one ? 'normal' : 'go'} disabled={!right.length && !wrong.length} onClick={keep}>
                Keep what was found
              </Button>
              <Button onClick={close}>Close</Button>
            </span>
          </p>
          <p className="text-sm text-soft">
            What you judged is kept in this window when you close. A sample of 50 that is 90 % right tells precision to
            about ± 8 %; of 200, ± 4 %.
          </p>
        </div>
      )}
    </Dialog>
  );
}
