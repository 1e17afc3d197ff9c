import { useEffect, useMemo, useRef, useState } from 'react';
import { useNavigate } from 'react-router';
import { Codes, Who, Words } from '../answers/Words';
import { useAddress } from '../lib/address';
import type { Answer, Condition, EditOf, FrameLine } from '../lib/api';
import { useDesk } from '../lib/edits';
import { count, percent, tint } from '../lib/format';
import { useKept } from '../lib/kept';
import { useKeys } from '../lib/keys';
import { useAsk, useFrame, useQuestionId } from '../lib/queries';
import { Failed } from '../parts/Asked';
import { Button, Kbd } from '../parts/Button';
import { Checkbox } from '../parts/Checkbox';
import { Progress } from '../parts/Progress';
import { useRoving } from '../parts/roving';
import { Stops } from '../parts/Stops';
import { Caption, Empty } from '../parts/Text';

/** Keys that put on the categories that were put on last, the last one first. */
const recentKeys = ['u', 'i', 'o'];

const left: Condition[] = [
  { kind: 'coded', not: true },
  { kind: 'settled', not: true },
];

/** Works through what no rule has caught, one answer at a time. */
export default function Queue() {
  const { question, edit } = useDesk();
  const { focus, focusText, narrow, pick, pickText, setPick, get, set } = useAddress();
  const id = useQuestionId();
  const navigate = useNavigate();
  const frame = useFrame(focusText);
  const all = get('all') === '1';
  const [typed, setTyped] = useState('');
  // Which answer is on the page stands in the address line; the answers pane marks it, and sets it when one is pressed there.
  const at = get('at') ? Number(get('at')) : undefined;
  const queue = useMemo(() => JSON.stringify(all ? focus : [...focus, ...left]), [focus, all]);

  // What the answers pane shows follows: everything that is left in the focus.
  const wanted = all ? '' : JSON.stringify(left);
  useEffect(() => {
    if (!pick.length && wanted) setPick(left);
    if (all && pickText === JSON.stringify(left)) setPick([]);
  }, [pick.length, wanted, pickText, all, setPick]);

  const ahead = useAsk('answers', { focus: queue, at: at ?? 0, offset: 0, limit: 6 });
  const behind = useAsk('answers', { focus: queue, at: at ?? 0, offset: -1, limit: 1 });
  // The answer stays on the page after it was coded, so that it can be given another category.
  const one = useAsk(
    'answers',
    { focus: JSON.stringify([...focus, { kind: 'answers', answers: [at ?? 0] }]), limit: 1 },
    { enabled: at !== undefined },
  );
  const fresh = !ahead.isPlaceholderData && !behind.isPlaceholderData;
  const known = [...(one.data?.answers ?? []), ...(ahead.data?.answers ?? []), ...(behind.data?.answers ?? [])];
  const answer = known.find((a) => a.number === at);
  // Keys may come faster than the page is drawn: they go to the answer that the last move meant, or nowhere.
  const meant = useRef(at);
  useEffect(() => {
    meant.current = at;
  }, [at]);
  const aim = () => known.find((a) => a.number === meant.current);
  // What was decided here after the list was read still stands in it: the next one is none of these.
  const decided = useRef<{ answers: number[]; until: number }[]>([]);
  const gone = (n: number) =>
    !all && decided.current.some((d) => ahead.dataUpdatedAt <= d.until && d.answers.includes(n));
  const after = (n: number | undefined) => ahead.data?.answers.find((a) => a.number > (n ?? -1) && !gone(a.number));
  const next = after(at);
  const before = behind.data?.answers.find((a) => a.number < (at ?? 0));
  const total = ahead.data?.total ?? 0;
  const place = (ahead.data?.offset ?? 0) + 1;

  // Without a place, or at one that the focus no longer holds, the next one is taken up.
  const lost = at === undefined || (fresh && !one.isPlaceholderData && one.data?.answers.length === 0);
  const first = ahead.data?.answers[0]?.number;
  useEffect(() => {
    if (lost && fresh && first !== undefined && first !== at) set({ at: String(first) }, true);
  }, [lost, fresh, first, at, set]);
  const go = (n: number | undefined) => {
    if (n === undefined) return;
    setTyped('');
    meant.current = n;
    set({ at: String(n) }, true);
  };
  // Where all that is known to come next was decided just now, the move waits for the list without them.
  const waiting = useRef<number>(undefined);
  const forward = () => {
    const n = after(meant.current)?.number;
    if (n === undefined && ahead.data?.answers.some((a) => gone(a.number))) waiting.current = meant.current;
    go(n);
  };
  // biome-ignore lint/correctness/useExhaustiveDependencies: when another list came
  useEffect(() => {
    if (waiting.current === undefined || ahead.isPlaceholderData || !ahead.data) return;
    if (waiting.current !== meant.current) waiting.current = undefined;
    else if (next && !gone(next.number)) {
      waiting.current = undefined;
      go(next.number);
    }
  }, [ahead.dataUpdatedAt]);
  const back = () => go(before?.number);

  // Answers of the queue that say the same, word for word: what is decided can go to all of them at once.
  const same = useAsk(
    'answers',
    { focus: JSON.stringify([...focus, ...(all ? [] : left), { kind: 'alike', n: (at ?? 0) + 1 }]), limit: 500 },
    { enabled: at !== undefined },
  );
  const twins = (same.now?.answers ?? []).map((a) => a.number).filter((n) => n !== at);
  // An answer with those that are decided on with it: they are kept together, so that they go with no other.
  const [together, setTogether] = useState<{ answer: number; others: number[] }>();
  const tied = together?.answer === at ? together : undefined;
  const others = tied?.others ?? twins;
  const meaning = (a: Answer) => (together?.answer === a.number ? [a.number, ...together.others] : [a.number]);
  // The categories that were put on last are one key away.
  const [recent, setRecent] = useKept<string[]>('put on last', []);
  const leaves = (frame.data?.categories ?? []).filter((c) => !c.net);
  const decide = async (e: EditOf<'decide'> | EditOf<'settle'>) => {
    if (e.kind === 'settle' ? !e.on : e.to !== 'on') return edit(e);
    const now = { answers: e.answers, until: Number.POSITIVE_INFINITY };
    decided.current = [...decided.current.filter((d) => ahead.dataUpdatedAt <= d.until), now];
    const effect = await edit(e);
    now.until = effect ? Date.now() : 0;
    return effect;
  };
  const has = (a: Answer | undefined, c: FrameLine) => !!a?.codes.some((x) => x.id === c.id);
  const give = (c: FrameLine | undefined) => {
    const a = aim();
    setTyped('');
    if (!c || !a) return;
    const to = has(a, c) ? 'off' : 'on';
    if (to === 'on') setRecent([c.id, ...recent.filter((r) => r !== c.id)].slice(0, recentKeys.length));
    decide({ kind: 'decide', category: c.id, answers: meaning(a), to });
  };
  const settle = () => {
    const a = aim();
    if (!a) return;
    decide({ kind: 'settle', answers: meaning(a), on: !a.settled });
    if (!a.settled) forward();
  };
  const lately = recent.flatMap((id) => leaves.find((c) => c.id === id) ?? []);
  const tieTogether = () => {
    if (tied) setTogether(undefined);
    else if (at !== undefined && twins.length) setTogether({ answer: at, others: twins });
  };
  const type = (k: string) => {
    const t = typed + k;
    const may = leaves.filter((c) => c.short?.toLowerCase().startsWith(t));
    if (may.length === 1 && may[0]!.short?.toLowerCase() === t) give(may[0]);
    else setTyped(may.length ? t : '');
  };
  const letters = Object.fromEntries(
    [...'abcdefghijklmnopqrstuvwxyz0123456789'].map((k) => [
      k,
      () => {
        if (typed || /\d/.test(k)) return type(k);
        if (k === 'j') forward();
        if (k === 'k') back();
        if (k === 's') settle();
        if (k === 'g') tieTogether();
        if (recentKeys.includes(k)) give(lately[recentKeys.indexOf(k)]);
        if (k === 'n') navigate(`/q/${id}/code?${new URLSearchParams({ draft: ' ' })}`);
      },
    ]),
  );
  const { z: zTyped, f: fTyped, ...free } = letters;
  // A short code that has been begun takes its letters before any other key does.
  useKeys(
    {
      ...free,
      ...(typed ? { z: zTyped!, f: fTyped! } : {}),
      Enter: () => give(leaves.find((c) => c.short?.toLowerCase() === typed)),
      Escape: () => setTyped(''),
      ArrowDown: forward,
      ArrowUp: back,
    },
    { early: true },
  );

  const terms = useAsk('terms', { focus: queue, limit: 14 });
  const stops = useRoving<HTMLDivElement>({ across: true, columns: 3 });
  const coverage = question.answered ? question.coded / question.answered : 0;
  return (
    <div className="grid max-w-300 grid-cols-[14.5rem_minmax(0,1fr)] gap-7 max-md:grid-cols-1">
      <section aria-label="What is left">
        <Caption>
          {count(question.left)} left of {count(question.answered)} · {percent(coverage)} coded
        </Caption>
        <Progress label={`${percent(coverage)} of the answered are coded`} share={coverage} />
        <p className="py-1.5 text-sm text-soft">
          {count(question.settled)} settled · {count(question.byHand)} coded by hand
        </p>
        <p className="pb-2.5">
          <label>
            <Checkbox checked={all} change={() => set({ all: all ? '' : '1', at: '', pick: '' })} /> coded ones too
          </label>
        </p>
        <Caption>{all ? 'Said most' : 'Said most in what is left'}</Caption>
        <Stops as="ol" className="mb-4 border-b">
          {terms.data?.terms.map((t) => (
            <li key={t.label} className="grid grid-cols-[1fr_auto] items-baseline gap-x-1 gap-y-0.5 border-t py-1.75">
              <Button
                look="plain"
                data-stop=""
                onClick={() => narrow({ kind: 'term', text: t.label })}
                title="narrow the focus to these"
              >
                {t.label}
              </Button>
              <span>{count(t.answers)}</span>
            </li>
          ))}
        </Stops>
      </section>
      <section aria-label="The answer">
        {ahead.error && <Failed error={ahead.error} again={() => ahead.refetch()} />}
        {answer ? (
          <>
            <p className="flex flex-wrap items-baseline gap-2.5 pt-0.5 text-soft">
              <span>
                {count(Math.min(place, Math.max(total, 1)))} of {count(total)}
              </span>
              <Button look="plain" disabled={!next} onClick={forward}>
                next <Kbd>j</Kbd>
              </Button>
              <Button look="plain" disabled={!before} onClick={back}>
                back <Kbd>k</Kbd>
              </Button>
              <Button look="plain" aria-pressed={answer.settled} onClick={settle}>
                {answer.settled ? 'settled' : 'settle'} <Kbd>s</Kbd>
              </Button>
            </p>
            <p
              data-part="said"
              className="py-2.5 font-serif text-2xl leading-normal break-words whitespace-pre-line"
              lang="en"
              aria-live="polite"
            >
              <Words answer={answer} />
            </p>
            <Who answer={answer} />
            <Codes codes={answer.codes} />
            <p className="text-sm text-soft pb-1.5 pt-5.5" role="status">
              {others.length > 0 && (
                <span className="block pb-1">
                  <label>
                    <Checkbox checked={!!tied} change={tieTogether} /> what I decide goes to{' '}
                    {others.length === 1 ? 'one other' : `${count(others.length)} others`} that{' '}
                    {others.length === 1 ? 'says' : 'say'} the same, too <Kbd>g</Kbd>
                  </label>
                </span>
              )}
              {lately.length > 0 && (
                <span className="flex flex-wrap items-baseline gap-x-3 pb-1">
                  put on last:
                  {lately.map((c, i) => (
                    <Button key={c.id} look="plain" tabIndex={-1} onClick={() => give(c)}>
                      {c.name} <Kbd>{recentKeys[i]}</Kbd>
                    </Button>
                  ))}
                </span>
              )}
              {typed ? (
                <>
                  typed <Kbd>{typed}</Kbd>
                </>
              ) : (
                'Type a short code, or press a category. The same again takes it off.'
              )}
            </p>
            <div
              data-part="keygrid"
              {...stops}
              aria-label="Categories"
              role="group"
              className="grid grid-cols-3 gap-x-4.5 gap-y-1.5 max-md:grid-cols-2"
            >
              {leaves.map((c) => (
                <Button
                  look="bare"
                  key={c.id}
                  data-stop=""
                  className={`group flex items-baseline gap-2 border-t py-1.25 aria-pressed:bg-mosspale
                    aria-pressed:font-semibold data-near:[&_kbd]:border-(--c) data-near:[&_kbd]:opacity-100
                    ${tint(c.top)}`}
                  aria-pressed={has(answer, c)}
                  onClick={() => give(c)}
                  data-near={typed && c.short?.toLowerCase().startsWith(typed) ? '' : undefined}
                >
                  <span className="text-(--c)">
                    <Kbd>{c.short}</Kbd>
                  </span>
                  <span>{c.name}</span>
                  <span className="hidden group-aria-pressed:inline">✓</span>
                </Button>
              ))}
              {leaves.length === 0 && <Empty>There is no category yet. Make one in Code.</Empty>}
            </div>
          </>
        ) : (
          fresh &&
          ahead.data &&
          first === undefined && (
            <Empty>
              {before ? (
                <>
                  That was the last one.{' '}
                  <Button look="plain" onClick={back}>
                    Back <Kbd>k</Kbd>
                  </Button>
                </>
              ) : (
                'Nothing is left here: every answer in this focus is coded or settled.'
              )}
            </Empty>
          )
        )}
      </section>
    </div>
  );
}
