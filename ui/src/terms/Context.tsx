import { useQueries } from '@tanstack/react-query';
import { useVirtualizer } from '@tanstack/react-virtual';
import { useRef, useState } from 'react';
import { useFocus } from '../lib/address';
import { api, take } from '../lib/api';
import { useAsk, useQuestionId } from '../lib/desk';
import { count, many } from '../lib/format';
import { Files } from '../parts/Files';
import { conditionOf, type Subject } from './subject';

const page = 100;
const orders = { after: 'the words after', before: 'the words before', given: 'the file' } as const;
type Order = keyof typeof orders;

/** Lines of text, aligned on what is looked at. */
export default function Context({ subject }: { subject: Subject }) {
  const id = useQuestionId();
  const { focusText, pick, setPick } = useFocus();
  const [by, setBy] = useState<Order>('after');
  const query = { focus: focusText, of: subject.of, text: subject.text, by };
  const ask = (offset: number, limit: number) => (question: number) =>
    take(
      api.GET('/api/v1/questions/{question}/context', {
        params: { path: { question }, query: { ...query, offset, limit } },
      }),
    );
  const head = useAsk(['context', query, 0], ask(0, page));
  const total = head.data?.total ?? 0;
  const scroller = useRef<HTMLDivElement>(null);
  const list = useVirtualizer({
    count: Math.min(total, 400_000),
    getScrollElement: () => scroller.current,
    estimateSize: () => 27,
    overscan: 8,
  });
  const items = list.getVirtualItems();
  const pages = [...new Set(items.map((i) => Math.floor(i.index / page)))];
  const loaded = useQueries({
    queries: pages.map((p) => ({
      queryKey: ['question', id, 'context', query, p],
      queryFn: () => ask(p * page, page)(id),
    })),
  });
  const line = (i: number) =>
    loaded[pages.indexOf(Math.floor(i / page))]?.data?.lines[i % page] ?? (i < page ? head.data?.lines[i] : undefined);
  const shown = pick.find((c) => c.kind === 'answers')?.answers?.[0];
  if (head.error) return <p className="bad">{head.error.message}</p>;
  return (
    <>
      <p className="soft small row">
        <span>
          {head.data ? `${many(total, 'place')} in ${many(head.data.answers, 'answer')}` : 'looking…'}
          {total > 400_000 && `, the first ${count(400_000)} are drawn`}
        </span>
        <label>
          in the order of{' '}
          <select value={by} onChange={(e) => setBy(e.target.value as Order)}>
            {Object.entries(orders).map(([k, v]) => (
              <option key={k} value={k}>
                {v}
              </option>
            ))}
          </select>
        </label>
        <span>
          out: <Files of="context" query={query} />
        </span>
      </p>
      <div
        className="scroll kwic"
        ref={scroller} // biome-ignore lint/a11y/noNoninteractiveTabindex: a scrolling region must be reachable by keyboard
        tabIndex={0}
        role="region"
        aria-label="Lines in context"
      >
        <div className="virtual" style={{ height: list.getTotalSize() }}>
          {items.map((item) => {
            const l = line(item.index);
            return (
              <button
                type="button"
                key={item.key}
                className="kwicline"
                style={{ transform: `translateY(${item.start}px)` }}
                aria-pressed={!!l && l.answer === shown}
                title={l?.who}
                onClick={() => l && setPick([conditionOf(subject), { kind: 'answers', answers: [l.answer] }])}
              >
                {l ? (
                  <>
                    <span className="kwicbefore">
                      <bdi>{l.before}</bdi>
                    </span>
                    <mark>{l.hit}</mark>
                    <span className="kwicafter">{l.after}</span>
                  </>
                ) : (
                  <span>&nbsp;</span>
                )}
              </button>
            );
          })}
        </div>
      </div>
    </>
  );
}
