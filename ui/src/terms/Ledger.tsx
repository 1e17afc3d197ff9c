import { useQueries } from '@tanstack/react-query';
import { useVirtualizer } from '@tanstack/react-virtual';
import { useEffect, useRef, useState } from 'react';
import { useNavigate } from 'react-router';
import { useFocus } from '../lib/address';
import { api, type Term, type TermTable, take } from '../lib/api';
import { useAsk, useDesk, useQuestionId } from '../lib/desk';
import { count, many } from '../lib/format';
import { useKeys } from '../lib/keys';
import { Files } from '../parts/Files';
import { Beneath } from './Beneath';
import { type Filter, Filters, noFilter } from './Filters';
import { Line } from './Line';
import { ListSheet, MergeSheet, PartSheet } from './Sheets';
import { conditionOf } from './subject';

const page = 100;
const rows = ['1', '2', '3'] as const;
type Sort = 'answers' | 'times' | 'uncoded' | 'distinct' | 'term';

/** A ledger of what is said, one line per term, with what stands around the current one beneath it. */
export default function Ledger() {
  const id = useQuestionId();
  const { edit } = useDesk();
  const { focusText, pick, setPick, set, params } = useFocus();
  const navigate = useNavigate();
  const [sort, setSort] = useState<Sort>('answers');
  const [up, setUp] = useState(false);
  const [filter, setFilter] = useState<Filter>(noFilter);
  const [chosen, setChosen] = useState<string[]>([]);
  const [sheet, setSheet] = useState<'merge' | 'part' | 'list'>();
  const [out, setOut] = useState<string[]>([]); // words to take out of the term, when that is asked about
  const [at, setAt] = useState(0);
  const stop = params.get('stop') === '1';
  const row = Number(rows.find((r) => r === params.get('row')) ?? 1);
  const query = { focus: focusText, row, sort, up, stop, ...filter };
  const ask = (offset: number, limit: number) => (question: number) =>
    take(
      api.GET('/api/v1/questions/{question}/terms', {
        params: { path: { question }, query: { ...query, offset, limit } },
      }),
    );
  const head = useAsk(['terms', query, 0], ask(0, page));
  const total = head.data?.total ?? 0;
  const scroller = useRef<HTMLDivElement>(null);
  const list = useVirtualizer({
    count: total,
    getScrollElement: () => scroller.current,
    estimateSize: () => 30,
    overscan: 12,
  });
  const items = list.getVirtualItems();
  const pages = [...new Set([Math.floor(at / page), ...items.map((i) => Math.floor(i.index / page))])];
  const loaded = useQueries({
    queries: pages.map((p) => ({
      queryKey: ['question', id, 'terms', query, p],
      queryFn: () => ask(p * page, page)(id),
      // Distinctiveness takes long at a million answers: it is asked for again while the other figures are already there.
      refetchInterval: (q: { state: { data?: TermTable } }) => (q.state.data?.pending ? 500 : (false as const)),
    })),
  });
  const pageOf = (i: number) => loaded[pages.indexOf(Math.floor(i / page))]?.data ?? (i < page ? head.data : undefined);
  const term = (i: number): Term | undefined => pageOf(i)?.terms[i % page];
  const current = Math.min(at, Math.max(total - 1, 0));
  const now = term(current);
  const acted = chosen.length ? chosen : now ? [now.label] : [];
  const subject = (t: Term) => ({ of: row > 1 ? ('row' as const) : ('term' as const), text: t.label });

  const key = JSON.stringify(query);
  // biome-ignore lint/correctness/useExhaustiveDependencies: another list starts at its top
  useEffect(() => {
    setAt(0);
    list.scrollToOffset(0);
  }, [key]);

  // What opens beneath takes room: the line one stands on stays in sight.
  const looked = pick.length > 0;
  // biome-ignore lint/correctness/useExhaustiveDependencies: only when the room changes
  useEffect(() => {
    const timer = setTimeout(() => list.scrollToIndex(current), 60);
    return () => clearTimeout(timer);
  }, [looked, params.get('way')]);

  const show = (i: number) => {
    const t = term(i);
    setAt(i);
    if (t) setPick([conditionOf(subject(t))]);
  };
  const move = (by: number) => {
    const to = Math.max(0, Math.min(total - 1, current + by));
    list.scrollToIndex(to);
    // Without anything shown yet, the first key shows the line one stands on.
    show(pick.length ? to : current);
  };
  const choose = (l: string) => setChosen(chosen.includes(l) ? chosen.filter((x) => x !== l) : [...chosen, l]);
  const hide = async () => {
    if (!acted.length) return;
    setChosen([]);
    setPick([]);
    await edit({ kind: stop ? 'show' : 'hide', terms: acted });
  };
  const category = () =>
    navigate(
      `/q/${id}/code?${new URLSearchParams({ ...(focusText ? { focus: focusText } : {}), draft: acted.join(' / ') })}`,
    );
  const open = (s: typeof sheet) => () => acted.length && !stop && setSheet(s);
  const part = (...words: string[]) => {
    if (!parts || stop) return;
    setOut(words);
    setSheet('part');
  };
  const parts = row === 1 && !chosen.length && !!now && now.members.length + now.more > 1;
  useKeys({
    ArrowDown: () => move(1),
    ArrowUp: () => move(-1),
    PageDown: () => move(12),
    PageUp: () => move(-12),
    Home: () => move(-total),
    End: () => move(total),
    ' ': () => now && choose(now.label),
    h: hide,
    m: open('merge'),
    p: () => part(),
    l: open('list'),
    c: () => acted.length && !stop && category(),
    Escape: () => {
      setChosen([]);
      setPick([]);
    },
  });
  const column = (s: Sort, words: string, title?: string) => (
    <span
      role="columnheader"
      tabIndex={-1}
      aria-sort={sort === s ? (up ? 'ascending' : 'descending') : 'none'}
      className={s === 'term' ? 'first' : 'num'}
    >
      <button
        type="button"
        className="plain"
        title={title}
        onClick={() => {
          setUp(sort === s ? !up : s === 'term');
          setSort(s);
        }}
      >
        {words}
        {sort === s ? (up ? ' ↑' : ' ↓') : ''}
      </button>
    </span>
  );
  const strip = head.data?.strip;
  return (
    <>
      <div className="row between tools">
        <span className="row">
          <span className="row rowsof" role="group" aria-label="Words in a term">
            {['One word', 'Two', 'Three'].map((name, i) => (
              <button
                key={name}
                type="button"
                className="plain"
                aria-pressed={row === i + 1}
                onClick={() => {
                  set({ row: i ? String(i + 1) : '', pick: '' });
                  setChosen([]);
                }}
              >
                {name}
              </button>
            ))}
          </span>
          <Filters filter={filter} change={setFilter} />
        </span>
        <span className="row soft keysrow">
          {chosen.length > 0 && <b>{chosen.length} selected</b>}
          <Tool name={stop ? 'bring back' : 'hide'} k="h" act={hide} off={!acted.length} />
          {!stop && (
            <>
              <Tool name="merge" k="m" act={open('merge')} off={!acted.length} />
              <Tool name="part" k="p" act={() => part()} off={!parts} />
              <Tool name="list" k="l" act={open('list')} off={!acted.length} />
              <Tool name="category" k="c" act={category} off={!acted.length} />
            </>
          )}
        </span>
      </div>
      {head.error && <p className="bad">{head.error.message}</p>}
      {head.data && !head.isPlaceholderData && total === 0 && (
        <p className="empty">
          {JSON.stringify(filter) !== JSON.stringify(noFilter)
            ? 'No term passes these filters.'
            : stop
              ? 'Nothing is hidden here.'
              : row > 1
                ? 'No two answers of this focus share such a row of words.'
                : 'There are no words in this focus.'}
        </p>
      )}
      <div className="ledger" role="table" aria-label="Terms" aria-rowcount={total} aria-busy={head.isPlaceholderData}>
        <div className="ledgerline ledgerhead" role="row">
          {column('term', 'term')}
          {column('answers', 'answers')}
          <span role="columnheader" tabIndex={-1} className="num" title="of the answers in the focus">
            share
          </span>
          {column('times', 'times', 'occurrences')}
          <span role="columnheader" tabIndex={-1} className="num" title="share of all words in the focus">
            of words
          </span>
          {column('uncoded', 'uncoded', 'of the answers with it: those that no category has')}
          {row === 1 ? (
            column('distinct', 'distinct', 'how much it makes of the answers with it, 0 to 1 (tf-idf, mean)')
          ) : (
            <span role="columnheader" tabIndex={-1} />
          )}
          <span role="columnheader" tabIndex={-1} className="striphead" title={strip && stripInWords(strip)}>
            {strip?.by || 'order of the file'}
          </span>
        </div>
        {/* biome-ignore lint/a11y/noNoninteractiveTabindex: a scrolling region must be reachable by keyboard */}
        <div className="scroll" ref={scroller} role="rowgroup" tabIndex={0}>
          <div className="virtual" role="presentation" style={{ height: list.getTotalSize() }}>
            {items.map((item) => {
              const t = term(item.index);
              const on = !!t && pick.some((p) => (p.kind === 'term' || p.kind === 'row') && p.text === t.label);
              return (
                <div
                  key={item.key}
                  role="row"
                  aria-rowindex={item.index + 1}
                  aria-selected={on}
                  data-index={item.index}
                  ref={list.measureElement}
                  className={`ledgerline${on ? ' on' : ''}`}
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
                      choose={() => choose(t.label)}
                      show={() => show(item.index)}
                      takeOut={part}
                    />
                  ) : (
                    <span role="cell">&nbsp;</span>
                  )}
                </div>
              );
            })}
          </div>
        </div>
      </div>
      <p className="ledgerfoot soft">
        {head.isPlaceholderData || !head.data ? 'counting…' : many(total, stop ? 'hidden term' : 'term')} ·{' '}
        <button
          type="button"
          className="plain"
          aria-pressed={stop}
          onClick={() => set({ stop: stop ? '' : '1', pick: '' })}
        >
          {stop ? 'back to the terms' : `${count(head.data?.hidden ?? 0)} hidden`}
        </button>
        {row > 1 && !!head.data?.rare && ` · ${count(head.data.rare)} in one answer only are not listed`} · out:{' '}
        <Files of="terms" query={query} />
      </p>
      <Beneath />
      {sheet === 'merge' && <MergeSheet terms={acted} close={() => setSheet(undefined)} done={() => setChosen([])} />}
      {sheet === 'list' && <ListSheet terms={acted} close={() => setSheet(undefined)} done={() => setChosen([])} />}
      {sheet === 'part' && now && <PartSheet term={now} start={out} close={() => setSheet(undefined)} />}
    </>
  );
}

function stripInWords(s: { by: string; buckets: string[] }) {
  return `${s.by ? `by ${s.by}` : 'in the order of the file'}: ${s.buckets[0]} … ${s.buckets.at(-1)}; bars are shares of the answers there`;
}

function Tool({ name, k, act, off }: { name: string; k: string; act: () => void; off: boolean }) {
  return (
    <button type="button" className="plain" onClick={act} disabled={off}>
      {name} <kbd>{k}</kbd>
    </button>
  );
}
