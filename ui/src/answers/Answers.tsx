import { useQueries } from '@tanstack/react-query';
import { useVirtualizer } from '@tanstack/react-virtual';
import { useEffect, useRef, useState } from 'react';
import { say, useFocus } from '../lib/address';
import { type Answer, api, type Code, take } from '../lib/api';
import { useAsk, useFrame, useQuestionId } from '../lib/desk';
import { count, dated, tint } from '../lib/format';
import { useKeys } from '../lib/keys';
import { WhySheet } from './Why';
import { WordBar } from './WordBar';

const page = 50;

/** An element has a greatest height in every browser: no list is longer than this, and says so. */
const longest = 200_000;

/** The respondent's own words, with what decided marked. */
export function Words({ answer }: { answer: Answer }) {
  return <>{answer.parts.map((p, i) => (p.hit ? <mark key={i}>{p.text}</mark> : <span key={i}>{p.text}</span>))}</>;
}

function why(c: Code) {
  const parts = [];
  if (c.rules.length) parts.push(`rule ${c.rules.join(', ')}`);
  if (c.byHand) parts.push('by hand');
  return parts.join(' and ');
}

export function Codes({ codes }: { codes: Code[] }) {
  if (!codes.length) return null;
  return (
    <div className="codes">
      {codes.map((c) => (
        <span key={c.id} className={tint(c.top)}>
          <b className="short">{c.short}</b>
          {c.name} <em>{why(c)}</em>
        </span>
      ))}
    </div>
  );
}

export function Who({ answer }: { answer: Answer }) {
  return (
    <div className="who">
      {answer.who.map(dated).join(' · ')}
      {answer.status !== 'answered' && ` · ${answer.status}`}
      {answer.settled && ' · settled'}
    </div>
  );
}

function One({ answer, ask }: { answer: Answer; ask: () => void }) {
  const blank = answer.status === 'missing';
  return (
    <>
      <p lang="en" className="said">
        {blank ? <span className="soft">nothing was written</span> : <Words answer={answer} />}
      </p>
      <div className="row between">
        <Who answer={answer} />
        {!blank && (
          <button
            type="button"
            className="plain small why"
            onClick={(e) => {
              e.stopPropagation();
              ask();
            }}
          >
            why?
          </button>
        )}
      </div>
      <Codes codes={answer.codes} />
    </>
  );
}

/** Scrolls through any number of answers; only those on the screen are asked for and drawn. */
type ListProps = { shown: string; total: number; current?: number; choose?: (answer: number) => void };

export function AnswerList({ shown, total, current, choose }: ListProps) {
  const id = useQuestionId();
  const { params, pick } = useFocus();
  const [asked, setAsked] = useState<Answer>();
  const scroller = useRef<HTMLDivElement>(null);
  const list = useVirtualizer({
    count: Math.min(total, longest),
    getScrollElement: () => scroller.current,
    estimateSize: () => 112,
    overscan: 4,
  });
  const items = list.getVirtualItems();
  const pages = [...new Set(items.map((i) => Math.floor(i.index / page)))];
  const loaded = useQueries({
    queries: pages.map((p) => ({
      queryKey: ['question', id, 'answers', shown, p],
      queryFn: () =>
        take(
          api.GET('/api/v1/questions/{question}/answers', {
            params: { path: { question: id }, query: { focus: shown, offset: p * page, limit: page } },
          }),
        ),
    })),
  });
  // biome-ignore lint/correctness/useExhaustiveDependencies: another list starts at its top
  useEffect(() => {
    list.scrollToOffset(0);
  }, [shown]);
  // The answer that another view has open is kept in sight.
  const place = useAsk(
    ['answers', shown, 'place', current],
    (question) =>
      take(
        api.GET('/api/v1/questions/{question}/answers', {
          params: { path: { question }, query: { focus: shown, at: current, limit: 0 } },
        }),
      ),
    current !== undefined,
  );
  const row = current === undefined || place.isPlaceholderData ? undefined : place.data?.offset;
  // biome-ignore lint/correctness/useExhaustiveDependencies: only where it stands matters
  useEffect(() => {
    if (row !== undefined && row < total) list.scrollToIndex(row, { align: 'auto' });
  }, [row]);
  const at = (i: number) => loaded[pages.indexOf(Math.floor(i / page))]?.data?.answers[i % page];
  return (
    <section
      className="scroll"
      ref={scroller}
      aria-label="Answers" // biome-ignore lint/a11y/noNoninteractiveTabindex: a scrolling region must be reachable by keyboard
      tabIndex={0}
    >
      <ol className="virtual" style={{ height: list.getTotalSize() }}>
        {items.map((item) => {
          const answer = at(item.index);
          return (
            // biome-ignore lint/a11y/useKeyWithClickEvents: j and k go from one to the next
            <li
              key={item.key}
              data-index={item.index}
              ref={list.measureElement}
              className={answer && answer.number === current ? 'ans on' : 'ans'}
              aria-current={answer && answer.number === current ? 'true' : undefined}
              onClick={choose && answer && (() => choose(answer.number))}
              style={{ transform: `translateY(${item.start}px)` }}
              aria-posinset={item.index + 1}
              aria-setsize={total}
            >
              {answer ? <One answer={answer} ask={() => setAsked(answer)} /> : <p className="ghost">&nbsp;</p>}
            </li>
          );
        })}
      </ol>
      {asked && (
        <WhySheet
          answer={asked}
          start={
            pick.find((c) => c.kind === 'category' || c.kind === 'rule')?.id ??
            params.get('category') ??
            asked.codes[0]?.id
          }
          close={() => setAsked(undefined)}
        />
      )}
    </section>
  );
}

/** The answers behind whatever is selected. */
export function AnswersPane() {
  const { focus, pick, shown, params, set, setFocus, setPick, focusText } = useFocus();
  const frame = useFrame(focusText);
  const first = useAsk(['answers', shown, 'count'], (question) =>
    take(
      api.GET('/api/v1/questions/{question}/answers', {
        params: { path: { question }, query: { focus: shown, limit: 0 } },
      }),
    ),
  );
  const into = () => setFocus([...focus, ...pick]);
  useKeys({ ...(pick.length ? { f: into, Escape: () => setPick([]) } : {}) });
  // A count stands beside its own words only: until the new one is there, the list stays and the count is left out.
  const counted = useRef<{ shown: string; total: number }>(undefined);
  if (first.data && !first.isPlaceholderData) counted.current = { shown, total: first.data.total };
  const now = counted.current?.shown === shown;
  const total = counted.current?.total ?? 0;
  // In Review the pane is the list that one works through.
  const open = params.has('at')
    ? { current: Number(params.get('at')), choose: (n: number) => set({ at: String(n) }, true) }
    : {};
  const what = pick.map((c) => say(c, frame.data?.categories)).join(', ');
  return (
    <aside className="pane" aria-label="Answers pane">
      <h2>
        <span>
          {now
            ? `${count(total)} ${total === 1 ? 'answer' : 'answers'}${what ? `: ${what}` : ' in focus'}`
            : 'counting…'}
        </span>
        {pick.length > 0 && (
          <button type="button" className="plain" onClick={into} title="Narrow the focus to these (f)">
            focus on these
          </button>
        )}
      </h2>
      {first.error ? (
        <p className="bad">{first.error.message}</p>
      ) : now && total === 0 ? (
        <p className="empty">No answer is in this focus. Take a piece off the focus line to see more.</p>
      ) : (
        counted.current && (
          <>
            {total > longest && (
              <p className="soft">The first {count(longest)}; narrow the focus to read the others.</p>
            )}
            <AnswerList {...counted.current} {...open} />
            <WordBar />
          </>
        )
      )}
    </aside>
  );
}
