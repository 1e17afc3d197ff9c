import { type KeyboardEvent, useEffect, useRef, useState } from 'react';
import { useAddress } from '../lib/address';
import { type Answer, Refusal } from '../lib/api';
import { say } from '../lib/conditions';
import { count } from '../lib/format';
import { useCommands } from '../lib/keys';
import { asking, useAsk, useFrame, useQuestionId } from '../lib/queries';
import { useReports } from '../lib/reports';
import { Failed } from '../parts/Asked';
import { Button } from '../parts/Button';
import { usePaged } from '../parts/paged';
import { Empty, Skeleton } from '../parts/Text';
import { Display } from './Display';
import { ExamplesStrip, type Marked, Marks, type Side, useMarked } from './Examples';
import { Selection } from './Selection';
import { usePlace } from './slot';
import { WhyDialog } from './Why';
import { Codes, Who, Words } from './Words';

const page = 50;

type OneProps = {
  answer: Answer;
  ask: () => void;
  quote: () => void;
  marked: Marked;
  mark: (answer: number, as: Side) => void;
};

function One({ answer, ask, quote, marked, mark }: OneProps) {
  const blank = answer.status === 'missing';
  return (
    <>
      <p lang="en" data-part="said" className="font-serif text-lg break-words whitespace-pre-line">
        {blank ? <span className="text-soft">nothing was written</span> : <Words answer={answer} />}
      </p>
      <Who answer={answer} />
      <div className="flex items-baseline justify-between gap-2.5">
        <Codes codes={answer.codes} />
        {!blank && (
          <span className="ml-auto flex-none text-sm whitespace-nowrap">
            <Marks answer={answer.number} marked={marked} mark={mark} />
            <Button
              look="plain"
              tabIndex={-1}
              className="ml-1"
              title="Put it into the report as a quote (q)"
              onClick={(e) => {
                e.stopPropagation();
                quote();
              }}
            >
              quote
            </Button>
            <Button
              look="plain"
              tabIndex={-1}
              className="ml-1"
              aria-label="Why, or why not?"
              onClick={(e) => {
                e.stopPropagation();
                ask();
              }}
            >
              why?
            </Button>
          </span>
        )}
      </div>
    </>
  );
}

type ListProps = {
  shown: string;
  total: number;
  current?: number;
  choose?: (answer: number) => void;
  marked: Marked;
  mark: (answer: number, as: Side) => void;
};

/** Scrolls through any number of answers; arrows go from one to the next, Enter asks why, + and − mark an example, q quotes. */
function AnswerList({ shown, total, current, choose, marked, mark }: ListProps) {
  const id = useQuestionId();
  const { get, pick } = useAddress();
  const { put } = useReports();
  const quote = (a: Answer) =>
    put({ kind: 'quotes', question: id, quotes: [{ respondent: a.number }] }, 'Put a quote into the report');
  const [asked, setAsked] = useState<Answer>();
  const [stood, setStood] = useState({ shown, at: 0 });
  const at = stood.shown === shown ? Math.min(stood.at, total - 1) : 0;
  const list = usePaged({
    total,
    size: page,
    height: 112,
    ask: (p) => asking(id, 'answers', { focus: shown, offset: p * page, limit: page }),
    also: at,
  });
  // biome-ignore lint/correctness/useExhaustiveDependencies: another list starts at its top
  useEffect(() => {
    if (list.list.scrollOffset) list.list.scrollToOffset(0);
  }, [shown]);
  // The answer that another view has open is kept in sight.
  const place = useAsk('answers', { focus: shown, at: current, limit: 0 }, { enabled: current !== undefined });
  const row = current === undefined ? undefined : place.now?.offset;
  // biome-ignore lint/correctness/useExhaustiveDependencies: only where it stands matters
  useEffect(() => {
    if (row !== undefined && row < total) list.list.scrollToIndex(row, { align: 'auto' });
  }, [row]);
  const answer = (i: number) => {
    const { page: p, place: n } = list.at(i);
    return p?.answers[n];
  };
  const onKeyDown = (e: KeyboardEvent) => {
    const by: Record<string, number> = { ArrowDown: 1, ArrowUp: -1, PageDown: 5, PageUp: -5, Home: -total, End: total };
    const step = by[e.key];
    if (e.key === 'Enter' && e.target === e.currentTarget) {
      const a = answer(at);
      if (a && a.status !== 'missing') setAsked(a);
    } else if ((e.key === '+' || e.key === '-') && !e.ctrlKey && !e.metaKey) {
      const a = answer(at);
      if (a && a.status !== 'missing') mark(a.number, e.key === '+' ? 'in' : 'out');
    } else if (e.key === 'q' && !e.ctrlKey && !e.metaKey && !e.altKey && e.target === e.currentTarget) {
      const a = answer(at);
      if (a && a.status !== 'missing') quote(a);
    } else if (step !== undefined && !e.altKey) {
      const to = Math.max(0, Math.min(total - 1, at + step));
      setStood({ shown, at: to });
      list.list.scrollToIndex(to, { align: 'auto' });
      const a = answer(to);
      if (a && choose) choose(a.number);
    } else return;
    e.preventDefault();
  };
  return (
    <>
      {list.cut > 0 && (
        <p className="text-soft">The first {count(total - list.cut)}; narrow the focus to read the others.</p>
      )}
      <div
        ref={list.scroller}
        data-list=""
        role="region"
        aria-label="Answers" // biome-ignore lint/a11y/noNoninteractiveTabindex: a scrolling region must be reachable by keyboard
        tabIndex={0}
        onKeyDown={onKeyDown}
        className="group min-h-0 flex-1 overflow-y-auto pr-5 outline-offset-[-2px]"
      >
        <ol className="relative" style={{ height: list.list.getTotalSize() }}>
          {list.items.map((item) => {
            const a = answer(item.index);
            const on = a && a.number === current;
            return (
              // biome-ignore lint/a11y/useKeyWithClickEvents: arrows go from one to the next
              <li
                key={item.key}
                id={`answer-${item.index}`}
                data-part="answer"
                data-index={item.index}
                ref={list.list.measureElement}
                className={`absolute inset-x-0 top-0 border-t py-2.75 ${
                  on
                    ? 'bg-mosspale shadow-[-8px_0_0_var(--color-mosspale),-11px_0_0_var(--color-moss)] forced-colors:outline'
                    : item.index === at
                      ? 'group-focus-visible:bg-mosspale'
                      : ''
                }`}
                aria-current={on ? 'true' : undefined}
                onClick={() => {
                  setStood({ shown, at: item.index });
                  if (a && choose) choose(a.number);
                }}
                style={{ transform: `translateY(${item.start}px)` }}
                aria-posinset={item.index + 1}
                aria-setsize={total}
              >
                {a ? (
                  <One answer={a} ask={() => setAsked(a)} quote={() => quote(a)} marked={marked} mark={mark} />
                ) : (
                  <Skeleton lines={2} />
                )}
              </li>
            );
          })}
        </ol>
      </div>
      {list.error && <Failed error={list.error} />}
      {asked && (
        <WhyDialog
          answer={asked}
          start={
            pick.find((c) => c.kind === 'category' || c.kind === 'rule')?.id || get('category') || asked.codes[0]?.id
          }
          close={() => setAsked(undefined)}
        />
      )}
    </>
  );
}

/** The answers behind whatever is selected. */
export function AnswersPane() {
  const { focus, pick, shown, get, set, setFocus, setPick, focusText } = useAddress();
  const frame = useFrame(focusText);
  const first = useAsk('answers', { focus: shown, limit: 0 });
  const { place, used } = usePlace();
  const { marked, mark, clear } = useMarked();
  // What the server refuses is there no more; while it is only away, what is at hand stays.
  const refused = first.error instanceof Refusal && first.error.status > 0;
  const into = () => setFocus([...focus, ...pick]);
  useCommands('Answers', [
    { key: 'f', words: 'Narrow the focus to what the answers pane shows', act: into, off: !pick.length },
    { key: 'Escape', words: 'Let go of what is selected', act: () => setPick([]), off: !pick.length },
  ]);
  // A count stands beside its own words only: until the new one is there, the list stays and the count is left out.
  const counted = useRef<{ shown: string; total: number }>(undefined);
  if (first.now) counted.current = { shown, total: first.now.total };
  const now = counted.current?.shown === shown;
  const total = counted.current?.total ?? 0;
  // In Review the pane is the list that one works through.
  const open = get('at') ? { current: Number(get('at')), choose: (n: number) => set({ at: String(n) }, true) } : {};
  const what = pick.map((c) => say(c, frame.data?.categories)).join(', ');
  return (
    <aside
      data-part="pane"
      aria-label="Answers pane"
      className="relative flex size-full min-h-0 flex-col bg-sheet pt-3 pl-5"
      aria-busy={!now && !first.error}
    >
      <div ref={place} className={used ? 'flex min-h-0 flex-1 flex-col' : 'hidden'} />
      {used ? (
        <Selection />
      ) : (
        <>
          <div className="flex justify-between gap-2.5 pr-5 pb-2 text-sm font-semibold text-soft">
            <h2 className="line-clamp-2 font-sans text-sm text-soft" aria-live="polite">
              {now
                ? `${count(total)} ${total === 1 ? 'answer' : 'answers'}${what ? `: ${what}` : ' in focus'}`
                : 'counting…'}
            </h2>
            <span className="flex flex-none items-baseline gap-2.5 self-start">
              {pick.length > 0 && (
                <Button look="plain" onClick={into} title="Narrow the focus to these (f)">
                  focus on these
                </Button>
              )}
              <Display />
            </span>
          </div>
          {first.error && (
            <>
              <Failed error={first.error} again={() => first.refetch()} />
              {pick.length > 0 && (
                <p>
                  <Button look="plain" onClick={() => setPick([])}>
                    Show all answers in focus
                  </Button>
                </p>
              )}
            </>
          )}
          {refused || (first.error && !now) ? null : now && total === 0 ? (
            <Empty>No answer is in this focus. Take a piece off the focus line to see more.</Empty>
          ) : (
            counted.current && (
              <>
                <AnswerList {...counted.current} {...open} marked={marked} mark={mark} />
                <Selection />
              </>
            )
          )}
        </>
      )}
      <ExamplesStrip marked={marked} clear={clear} />
    </aside>
  );
}
