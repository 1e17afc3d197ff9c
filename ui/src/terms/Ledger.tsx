import { useQueryClient } from '@tanstack/react-query';
import { useEffect, useRef, useState } from 'react';
import { useNavigate } from 'react-router';
import { useAddress } from '../lib/address';
import type { Term, TermTable } from '../lib/api';
import { useDesk } from '../lib/edits';
import { count, many } from '../lib/format';
import { useKept } from '../lib/kept';
import { keyName, useCommands } from '../lib/keys';
import { asking, useAsk, useQuestionId } from '../lib/queries';
import { required } from '../lib/required';
import { viewAddress } from '../lib/views';
import { Failed } from '../parts/Asked';
import { Button, Kbd } from '../parts/Button';
import { Files } from '../parts/Files';
import { Panes } from '../parts/Panes';
import { usePaged } from '../parts/paged';
import { optionsOf } from '../parts/Select';
import { Stops } from '../parts/Stops';
import { Empty } from '../parts/Text';
import { ToggleGroup } from '../parts/ToggleGroup';
import { Tooltip } from '../parts/Tooltip';
import { Beneath } from './Beneath';
import { type Filter, Filters, noFilter } from './Filters';
import { takeOff } from './hidden';
import { type Does, Line, lineColumns } from './Line';
import { useSheets } from './Sheets';
import { conditionOf, subjectOf } from './subject';

const page = 100;
const sorts = ['answers', 'times', 'uncoded', 'distinct', 'everyday', 'term'] as const;
type Sort = (typeof sorts)[number];

/** A ledger of what is said, one line per term, with what stands around the current one beneath it. */
export default function Ledger() {
  const id = useQuestionId();
  const { edit, say } = useDesk();
  const client = useQueryClient();
  const { focusText, pick, pickText, setPick, set, get, one } = useAddress();
  const navigate = useNavigate();
  const sort = one<Sort>('sort', sorts);
  const up = get('up') === '1';
  const [kept, setFilter] = useKept<Partial<Filter>>('term filters', noFilter);
  const filter: Filter = { ...noFilter, ...kept };
  const [stood, setStood] = useKept('ledger line', 0);
  const stop = get('stop') === '1';
  const row = Number(one('row', ['1', '2', '3']));
  const [chosen, setChosen] = useKept<string[]>(`ticked terms ${row} ${stop}`, []);
  const query = { focus: focusText, row, sort, up, stop, ...filter };
  const pageQuery = (p: number) => ({ ...query, offset: p * page, limit: page });
  const head = useAsk('terms', pageQuery(0));
  const total = head.data?.total ?? 0;
  const at = Math.min(stood, Math.max(total - 1, 0));
  const paged = usePaged<TermTable>({
    total,
    size: page,
    height: 30,
    also: at,
    ask: (p) => ({
      ...asking(id, 'terms', pageQuery(p)),
      // Distinctiveness takes long at a million answers: it is asked for again while the other figures are already there.
      refetchInterval: (q) => (q.state.data?.pending ? 500 : false),
    }),
  });
  const pageOf = (i: number) => paged.at(i).page ?? (i < page ? head.data : undefined);
  const term = (i: number): Term | undefined => pageOf(i)?.terms[i % page];
  /** A line to act on: of the list that is asked for now, not of the one before that may still be drawn. */
  const termNow = (i: number) => (paged.at(i).page ?? (i < page ? head.now : undefined))?.terms[i % page];
  // The line that was gone to is marked at once; the address, and all that follows it, comes a moment later.
  const [ahead, setAhead] = useState<{ label: string; of: string }>();
  const isShown = (t: Term | undefined) =>
    !!t &&
    (ahead?.of === pickText
      ? t.label === ahead.label
      : pick.some((p) => (p.kind === 'term' || p.kind === 'row') && p.text === t.label && !p.not));
  // Nothing is acted on that is not visibly chosen: the ticked ones, or the line that is marked.
  const now = isShown(termNow(at)) ? termNow(at) : undefined;
  // Keys may come faster than the page is drawn: they go to the line that was meant last.
  const meant = useRef<string>(undefined);
  // biome-ignore lint/correctness/useExhaustiveDependencies: only what is marked matters
  useEffect(() => {
    if (now) meant.current = now.label;
    else if (!subjectOf(pick)) meant.current = undefined;
  }, [now?.label, pick]);
  const acted = () => (chosen.length ? chosen : meant.current ? [meant.current] : []);
  const some = chosen.length > 0 || !!now;
  const condition = (t: Term) => conditionOf({ of: row > 1 ? 'row' : 'term', text: t.label });

  const key = JSON.stringify(query);
  const seen = useRef(key);
  // biome-ignore lint/correctness/useExhaustiveDependencies: another list starts at its top
  useEffect(() => {
    if (seen.current === key) return;
    seen.current = key;
    setStood(0);
    if (paged.list.scrollOffset) paged.list.scrollToOffset(0);
  }, [key]);

  // What opens beneath takes room: the line one stands on stays in sight.
  const looked = pick.length > 0;
  // biome-ignore lint/correctness/useExhaustiveDependencies: only when the room changes
  useEffect(() => {
    const timer = setTimeout(() => paged.list.scrollToIndex(at), 60);
    return () => clearTimeout(timer);
  }, [looked]);

  const show = (i: number) => {
    const t = termNow(i);
    setStood(i);
    meant.current = t?.label;
    if (!t) return;
    setAhead({ label: t.label, of: pickText });
    setPick([condition(t)]);
  };
  const move = (by: number) => {
    const to = Math.max(0, Math.min(total - 1, at + by));
    paged.list.scrollToIndex(to);
    // Without anything marked yet, the first key marks the line one stands on.
    show(now ? to : at);
  };
  const choose = (l: string) => setChosen(chosen.includes(l) ? chosen.filter((x) => x !== l) : [...chosen, l]);
  const needed = () => {
    if (!acted().length) say({ text: 'No term is chosen: press ↓ or a line, or tick some.' });
    return acted().length > 0;
  };
  const hide = async () => {
    if (!needed()) return;
    const gone = acted();
    const ticked = chosen;
    // One goes on with the line that takes the place, at once.
    const stays = (i: number) => !!termNow(i) && !gone.includes(required(termNow(i)).label);
    let next = at;
    while (next < total && termNow(next) && !stays(next)) next++;
    if (!stays(next)) for (next = at; next >= 0 && !stays(next); ) next--;
    const t = stays(next) ? termNow(next) : undefined;
    meant.current = t?.label;
    const putBack = row === 1 && !stop ? takeOff(client, id, query, page, gone) : undefined;
    setPick(t ? [condition(t)] : []);
    setChosen([]);
    if (await edit({ kind: stop ? 'show' : 'hide', terms: gone })) return;
    putBack?.();
    setChosen(ticked);
  };
  const category = () => {
    if (needed() && !stop) navigate(viewAddress(id, 'code', focusText, { draft: acted().join(' / ') }));
  };
  const sheets = useSheets({ terms: acted, term: now, done: () => setChosen([]) });
  const does = useRef<Does>(undefined);
  does.current = { choose, show, takeOut: (word) => sheets.open('part', word) };
  const parts = row === 1 && !chosen.length && !!now && now.members.length + now.more > 1;
  const tools = [
    { key: 'h', words: stop ? 'Bring back' : 'Hide', act: hide },
    { key: 'm', words: 'Merge', act: () => needed() && sheets.open('merge'), off: stop },
    { key: 'p', words: 'Split', act: () => sheets.open('part'), off: !parts || stop },
    { key: 'l', words: 'List', act: () => needed() && sheets.open('list'), off: stop },
    { key: 'c', words: 'Category', act: category, off: stop },
  ];
  const told: Record<string, string> = {
    h: stop ? 'Bring the chosen terms back' : 'Hide the chosen terms as stop words',
    m: 'Merge the chosen terms: count them as one',
    p: 'Split: take words out of the term',
    l: 'Put the chosen terms on a term list',
    c: 'Start a category from the chosen terms',
  };
  useCommands(
    'Terms',
    [
      { key: 'ArrowDown', words: 'Next term', act: () => move(1), move: true },
      { key: 'ArrowUp', words: 'Term before', act: () => move(-1), move: true },
      { key: 'PageDown', words: 'A page down', act: () => move(12), move: true },
      { key: 'PageUp', words: 'A page up', act: () => move(-12), move: true },
      { key: 'Home', words: 'First term', act: () => move(-total), move: true },
      { key: 'End', words: 'Last term', act: () => move(total), move: true },
      {
        key: ' ',
        words: 'Tick the term',
        act: () => (now ? choose(now.label) : show(at)),
        move: true,
      },
      ...tools.map((t) => ({ ...t, words: required(told[t.key]) })),
      {
        key: 'Escape',
        words: 'Untick all terms',
        act: () => {
          setChosen([]);
          setPick([]);
        },
        off: !chosen.length,
      },
    ],
    { list: paged.scroller },
  );
  const strip = head.data?.strip;
  const column = (s: Sort, words: string, definition: string) => (
    <span
      role="columnheader"
      aria-sort={sort === s ? (up ? 'ascending' : 'descending') : 'none'}
      className={s === 'term' ? 'text-left' : 'text-right'}
    >
      <Tooltip text={definition}>
        <Button
          look="plain"
          data-stop=""
          className="text-soft"
          onClick={() =>
            set({ sort: s === 'answers' ? '' : s, up: (sort === s ? !up : s === 'term') ? '1' : '' }, true)
          }
        >
          {words}
          {sort === s ? (up ? ' ↑' : ' ↓') : ''}
        </Button>
      </Tooltip>
    </span>
  );
  const figure = (words: string, definition: string) => (
    <span role="columnheader" className="truncate text-right">
      <Tooltip text={definition}>
        <button type="button" data-stop="" className="max-w-full cursor-help truncate">
          {words}
        </button>
      </Tooltip>
    </span>
  );
  const ledger = (
    <div className="flex size-full min-h-0 max-w-240 flex-col">
      <div
        role="grid"
        aria-label="Terms"
        aria-rowcount={total}
        aria-busy={head.isPlaceholderData}
        className="flex min-h-0 flex-1 flex-col"
      >
        <Stops across role="row" className={`${lineColumns} border-b pr-4.5 pb-0.75 text-sm text-soft`}>
          {column('term', 'term', 'A word, with what is joined under it')}
          {column('answers', 'answers', 'Answers of the focus that hold it')}
          {figure('share', 'Of the answers in the focus that say something')}
          {column('times', 'times', 'How often it is said in the focus')}
          {figure('of words', 'Of all words said in the focus')}
          {column('uncoded', 'uncoded', 'Of the answers that hold it: those that no category has')}
          {row === 1 ? (
            column('distinct', 'distinct', 'How much it makes of the answers that hold it, 0 to 1 (mean tf-idf)')
          ) : (
            <span role="columnheader" />
          )}
          {row === 1 && head.data?.everyday ? (
            column(
              'everyday',
              'unusual',
              'How many times as often it is said here as in everyday English; 1 is as often. Once in a million words is added on both sides.',
            )
          ) : (
            <span role="columnheader" />
          )}
          {figure(strip?.by || 'order of the file', strip ? stripInWords(strip) : '')}
        </Stops>
        <div
          ref={paged.scroller}
          data-list=""
          role="rowgroup"
          // biome-ignore lint/a11y/noNoninteractiveTabindex: one stop for the list; arrows go from line to line
          tabIndex={0}
          aria-label="Terms; arrows go from one to the next, space ticks"
          onMouseDown={(e) => {
            // Keys go on being those of the list after a press in it.
            e.preventDefault();
            e.currentTarget.focus({ preventScroll: true });
          }}
          className="min-h-0 flex-1 overflow-y-auto [scrollbar-gutter:stable]"
        >
          <div className="relative" role="presentation" style={{ height: paged.list.getTotalSize() }}>
            {paged.items.map((item) => {
              const t = term(item.index);
              const on = isShown(t);
              return (
                <div
                  key={item.key}
                  role="row"
                  aria-rowindex={item.index + 1}
                  aria-selected={on}
                  data-part="ledgerline"
                  data-index={item.index}
                  ref={paged.list.measureElement}
                  className={`${lineColumns} absolute inset-x-0 top-0 border-b border-hair py-0.75 pr-2
                    ${on ? 'bg-mosspale forced-colors:outline' : ''}`}
                  style={{ transform: `translateY(${item.start}px)` }}
                >
                  {t && strip ? (
                    <Line
                      term={t}
                      strip={strip}
                      on={on}
                      single={row === 1}
                      pending={pageOf(item.index)?.pending}
                      chosen={chosen.includes(t.label)}
                      index={item.index}
                      does={does}
                    />
                  ) : (
                    <span role="gridcell">&nbsp;</span>
                  )}
                </div>
              );
            })}
          </div>
        </div>
      </div>
      <p className="py-1 text-sm text-soft">
        {head.isPlaceholderData || !head.data ? 'counting…' : many(total, stop ? 'hidden term' : 'term')} ·{' '}
        <Button look="plain" aria-pressed={stop} onClick={() => set({ stop: stop ? '' : '1', pick: '' })}>
          {stop ? 'back to the terms' : `${count(head.data?.hidden ?? 0)} hidden`}
        </Button>
        {row > 1 && !!head.data?.rare && ` · ${count(head.data.rare)} in one answer only are not listed`} · download:{' '}
        <Files of="terms" query={query} />
      </p>
    </div>
  );
  return (
    <>
      <div className="flex flex-wrap items-center justify-between gap-x-4 gap-y-1.5 pb-2">
        <span className="flex flex-wrap items-center gap-2.5">
          <ToggleGroup
            label="Words in a term"
            value={String(row)}
            options={optionsOf({ '1': 'One word', '2': 'Two', '3': 'Three' })}
            change={(r) => {
              setChosen([]);
              set({ row: r === '1' ? '' : r, pick: '' });
            }}
          />
          <Filters filter={filter} change={setFilter} known={!!head.data?.everyday} />
        </span>
        <span className="flex flex-wrap items-baseline gap-2.25 text-soft">
          {chosen.length > 0 && <b className="font-semibold text-ink">{chosen.length} ticked</b>}
          {tools
            .filter((t) => !stop || t.key === 'h')
            .map((t) => (
              <Button
                key={t.key}
                look="plain"
                title={told[t.key]}
                disabled={t.off || (t.key !== 'p' && !some)}
                onClick={t.act}
              >
                {t.words} <Kbd>{keyName(t.key)}</Kbd>
              </Button>
            ))}
        </span>
      </div>
      {(head.error || paged.error) && (
        <Failed error={required(head.error ?? paged.error)} again={() => head.refetch()} />
      )}
      {head.now && total === 0 && (
        <Empty>
          {JSON.stringify(filter) !== JSON.stringify(noFilter)
            ? 'No term passes these filters.'
            : stop
              ? 'Nothing is hidden here.'
              : row > 1
                ? 'No two answers of this focus share such a sequence of words.'
                : 'There are no words in this focus.'}
        </Empty>
      )}
      <div className="min-h-0 flex-1">
        <Panes
          direction="vertical"
          none={!subjectOf(pick)}
          side={{
            id: 'beneath',
            name: 'what stands around it',
            size: '45%',
            least: '7rem',
            most: '80%',
            children: <Beneath />,
          }}
        >
          {ledger}
        </Panes>
      </div>
      {sheets.shown}
    </>
  );
}

function stripInWords(s: { by: string; buckets: string[] }) {
  return `${s.by ? `By ${s.by}` : 'In the order of the file'}: ${s.buckets[0]} … ${s.buckets.at(-1)}; bars are shares of the answers there`;
}
