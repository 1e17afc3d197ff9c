import { useAddress } from '../lib/address';
import { count, many } from '../lib/format';
import { useKept } from '../lib/kept';
import { asking, useAsk, useQuestionId } from '../lib/queries';
import { useReading } from '../lib/reading';
import { Failed } from '../parts/Asked';
import { Button } from '../parts/Button';
import { Files } from '../parts/Files';
import { usePaged } from '../parts/paged';
import { useRoving } from '../parts/roving';
import { optionsOf, Select } from '../parts/Select';
import { conditionOf, type Subject } from './subject';

const page = 100;
const orders = { after: 'the words after', before: 'the words before', given: 'the file' } as const;
type Order = keyof typeof orders;

/** Lines of text, aligned on what is looked at. */
export default function Context({ subject }: { subject: Subject }) {
  const id = useQuestionId();
  const { focusText, pick, setPick } = useAddress();
  const [by, setBy] = useKept<Order>('order of context', 'after');
  const [reading] = useReading();
  const query = { focus: focusText, of: subject.of, text: subject.text, by, show: reading };
  const pageQuery = (p: number) => ({ ...query, offset: p * page, limit: page });
  const head = useAsk('context', pageQuery(0));
  const total = head.data?.total ?? 0;
  const paged = usePaged({ total, size: page, height: 27, ask: (p) => asking(id, 'context', pageQuery(p)) });
  const line = (i: number) => {
    const { page: p, place } = paged.at(i);
    return (p ?? (i < page ? head.data : undefined))?.lines[place];
  };
  const stops = useRoving<HTMLDivElement>();
  const shown = pick.find((c) => c.kind === 'answers')?.answers?.[0];
  if (head.error && !head.data) return <Failed error={head.error} again={() => head.refetch()} />;
  return (
    <>
      <p className="text-soft text-sm flex items-baseline gap-2.5">
        <span>
          {head.data ? `${many(total, 'place')} in ${many(head.data.answers, 'answer')}` : 'looking…'}
          {paged.cut > 0 && `, the first ${count(total - paged.cut)} are drawn`}
        </span>
        <label>
          in the order of <Select label="in the order of" value={by} change={setBy} options={optionsOf(orders)} />
        </label>
        <span>
          download, as {reading}: <Files of="context" query={query} />
        </span>
      </p>
      <div ref={paged.scroller} role="region" aria-label="Lines in context" className="min-h-0 flex-1 overflow-y-auto">
        <div {...stops} className="relative" style={{ height: paged.list.getTotalSize() }}>
          {paged.items.map((item) => {
            const l = line(item.index);
            return (
              <Button
                key={item.key}
                look="bare"
                data-stop=""
                data-part="kwicline"
                className="absolute inset-x-0 top-0 grid h-6.75 grid-cols-[minmax(0,1fr)_auto_minmax(0,1fr)]
                  items-baseline gap-1.25 border-b border-hair pt-px pb-0.5 font-serif text-lg leading-normal
                  whitespace-nowrap outline-offset-[-2px] aria-pressed:bg-mosspale forced-colors:aria-pressed:outline"
                style={{ transform: `translateY(${item.start}px)` }}
                aria-pressed={!!l && l.answer === shown}
                title={l?.who}
                onClick={() => l && setPick([conditionOf(subject), { kind: 'answers', answers: [l.answer] }])}
              >
                {l ? (
                  <>
                    <span className="truncate text-right [direction:rtl]">
                      <bdi>{l.before}</bdi>
                    </span>
                    <mark>{l.hit}</mark>
                    <span className="truncate">{l.after}</span>
                  </>
                ) : (
                  <span>&nbsp;</span>
                )}
              </Button>
            );
          })}
        </div>
      </div>
    </>
  );
}
