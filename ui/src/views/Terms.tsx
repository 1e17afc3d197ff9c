import { useQueries } from '@tanstack/react-query';
import { useVirtualizer } from '@tanstack/react-virtual';
import { type ReactNode, useEffect, useRef, useState } from 'react';
import { useNavigate } from 'react-router';
import { api, type Term, take } from '../api/client';
import { useFocus } from '../focus';
import { count, many, percent } from '../format';
import { Sheet } from '../frame/Sheets';
import { useKeys } from '../keys';
import { useAsk, useDesk, useQuestionId } from '../question';

const page = 100;
type Sort = 'answers' | 'times' | 'uncoded' | 'term';

/** A ledger of what is said, one line per term. */
export default function Terms() {
  const id = useQuestionId();
  const { edit } = useDesk();
  const { focusText, pick, setPick, set, params } = useFocus();
  const navigate = useNavigate();
  const [sort, setSort] = useState<Sort>('answers');
  const [up, setUp] = useState(false);
  const [search, setSearch] = useState('');
  const [chosen, setChosen] = useState<string[]>([]);
  const [merging, setMerging] = useState(false);
  const [at, setAt] = useState(0);
  const stop = params.get('stop') === '1';
  const query = { focus: focusText, search, sort, up, stop };
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
    estimateSize: () => 32,
    overscan: 12,
  });
  const items = list.getVirtualItems();
  const pages = [...new Set([Math.floor(at / page), ...items.map((i) => Math.floor(i.index / page))])];
  const loaded = useQueries({
    queries: pages.map((p) => ({
      queryKey: ['question', id, 'terms', query, p],
      queryFn: () => ask(p * page, page)(id),
    })),
  });
  const term = (i: number): Term | undefined =>
    loaded[pages.indexOf(Math.floor(i / page))]?.data?.terms[i % page] ?? (i < page ? head.data?.terms[i] : undefined);
  const current = Math.min(at, Math.max(total - 1, 0));
  const label = term(current)?.label;
  const acted = chosen.length ? chosen : label ? [label] : [];

  // biome-ignore lint/correctness/useExhaustiveDependencies: another list starts at its top
  useEffect(() => {
    setAt(0);
    list.scrollToOffset(0);
  }, [focusText, search, sort, up, stop]);

  const show = (i: number) => {
    const t = term(i);
    setAt(i);
    if (t) setPick([{ kind: 'term', text: t.label }]);
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
  useKeys({
    ArrowDown: () => move(1),
    ArrowUp: () => move(-1),
    PageDown: () => move(15),
    PageUp: () => move(-15),
    Home: () => move(-total),
    ' ': () => label && choose(label),
    h: hide,
    m: () => acted.length && !stop && setMerging(true),
    c: () => acted.length && !stop && category(),
    Escape: () => {
      setChosen([]);
      setPick([]);
    },
  });
  const column = (s: Sort, words: string) => (
    <span
      role="columnheader"
      tabIndex={-1}
      aria-sort={sort === s ? (up ? 'ascending' : 'descending') : 'none'}
      className={s === 'term' ? 'first' : 'num'}
    >
      <button
        type="button"
        className="plain"
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
  return (
    <div className="termsv" aria-busy={head.isPlaceholderData}>
      <div className="row between tools">
        <span className="row">
          <input
            className="search"
            placeholder="find a term…"
            aria-label="Find a term"
            value={search}
            onChange={(e) => setSearch(e.target.value)}
          />
          <span className="soft">
            {stop ? many(total, 'hidden term') : many(total, 'term')} ·{' '}
            <button
              type="button"
              className="plain"
              aria-pressed={stop}
              onClick={() => set({ stop: stop ? '' : '1', pick: '' })}
            >
              {stop ? 'back to the terms' : `${count(head.data?.hidden ?? 0)} hidden`}
            </button>
          </span>
        </span>
        <span className="row soft">
          {chosen.length > 0 && <b>{many(chosen.length, 'term')} selected</b>}
          <Tool name={stop ? 'bring back' : 'hide'} k="h" act={hide} off={!acted.length} />
          {!stop && <Tool name="merge" k="m" act={() => setMerging(true)} off={!acted.length} />}
          {!stop && <Tool name="start a category" k="c" act={category} off={!acted.length} />}
        </span>
      </div>
      {head.error && <p className="bad">{head.error.message}</p>}
      {head.data && total === 0 && (
        <p className="empty">
          {search
            ? `No term has “${search}” in it.`
            : stop
              ? 'Nothing is hidden here.'
              : 'There are no words in this focus.'}
        </p>
      )}
      <div className="ledger" role="table" aria-label="Terms" aria-rowcount={total}>
        <div className="ledgerline ledgerhead" role="row">
          {column('term', 'term')}
          {column('answers', 'answers')}
          <span role="columnheader" tabIndex={-1} className="num">
            share
          </span>
          {column('times', 'times')}
          {column('uncoded', 'uncoded')}
        </div>
        {/* biome-ignore lint/a11y/noNoninteractiveTabindex: a scrolling region must be reachable by keyboard */}
        <div className="scroll" ref={scroller} role="rowgroup" tabIndex={0}>
          <div className="virtual" role="presentation" style={{ height: list.getTotalSize() }}>
            {items.map((item) => {
              const t = term(item.index);
              const on = item.index === current && pick.some((p) => p.kind === 'term');
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
                  {t ? (
                    <Line
                      term={t}
                      on={on}
                      stop={stop}
                      chosen={chosen.includes(t.label)}
                      choose={() => choose(t.label)}
                      show={() => show(item.index)}
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
      {merging && <MergeSheet terms={acted} close={() => setMerging(false)} done={() => setChosen([])} />}
    </div>
  );
}

function Tool({ name, k, act, off }: { name: string; k: string; act: () => void; off: boolean }) {
  return (
    <button type="button" className="plain" onClick={act} disabled={off}>
      {name} <kbd>{k}</kbd>
    </button>
  );
}

type LineProps = { term: Term; on: boolean; stop: boolean; chosen: boolean; choose: () => void; show: () => void };

function Line({ term: t, on, stop, chosen, choose, show }: LineProps) {
  const { edit } = useDesk();
  const others = t.members.filter((m) => m.word !== t.label);
  const share = t.answers ? t.uncoded / t.answers : 0;
  let under: ReactNode = null;
  if (on) {
    under = (
      <span role="cell" className="members">
        {t.members.map((m) => (
          <span key={m.word}>
            {m.word} <em>{count(m.times)}</em>
          </span>
        ))}
        {t.more > 0 && <span>and {count(t.more)} more</span>}
        {t.merge && !stop && (
          <button type="button" className="plain" onClick={() => edit({ kind: 'split', label: t.label })}>
            part this merge
          </button>
        )}
      </span>
    );
  }
  return (
    <>
      <span role="cell" className="first">
        <input type="checkbox" checked={chosen} onChange={choose} aria-label={`select ${t.label}`} />
        <button type="button" className="termname" onClick={show}>
          {t.label}
          {!on && others.length > 0 && (
            <small>
              {others.map((m) => m.word).join(', ')}
              {t.more ? '…' : ''}
            </small>
          )}
        </button>
      </span>
      <span role="cell" className="num">
        {count(t.answers)}
      </span>
      <span role="cell" className="num">
        {percent(t.share)}
      </span>
      <span role="cell" className="num">
        {count(t.times)}
      </span>
      <span role="cell" className={share >= 0.5 ? 'num hot' : 'num'}>
        {(100 * share).toFixed(0)} %
      </span>
      {under}
    </>
  );
}

function MergeSheet({ terms, close, done }: { terms: string[]; close: () => void; done: () => void }) {
  const { edit } = useDesk();
  const { setPick } = useFocus();
  const [label, setLabel] = useState(terms[0] ?? '');
  const [more, setMore] = useState('');
  const extra = more
    .split(',')
    .map((s) => s.trim())
    .filter(Boolean);
  const all = [...terms.filter((t) => t !== label), ...extra];
  const change = { kind: 'merge' as const, label, terms: all };
  const key = JSON.stringify(change);
  const preview = useAsk(
    ['preview', key],
    (question) =>
      take(api.POST('/api/v1/questions/{question}/preview', { params: { path: { question } }, body: change })),
    !!label.trim() && all.length > 0,
  );
  const keep = async () => {
    close();
    done();
    if (await edit(change)) setPick([{ kind: 'term', text: label }]);
  };
  const effect = preview.data;
  return (
    <Sheet title="Count as one term" close={close}>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          if (label.trim() && all.length) keep();
        }}
      >
        <label className="stack">
          Called
          <input className="wide" value={label} onChange={(e) => setLabel(e.target.value)} list="merge-labels" />
        </label>
        <datalist id="merge-labels">
          {terms.map((t) => (
            <option key={t} value={t} />
          ))}
        </datalist>
        <p>
          {terms.map((t) => (
            <span key={t} className="chip">
              {t}
            </span>
          ))}
        </p>
        <label className="stack">
          and further words, parted by commas; several words may make one, and * stands for any ending
          <input
            className="wide"
            value={more}
            onChange={(e) => setMore(e.target.value)}
            placeholder="tailback*, long wait"
          />
        </label>
        <p className="effect">
          {preview.error && all.length > 0 ? (
            <span className="bad">{preview.error.message}</span>
          ) : effect && all.length > 0 ? (
            effect.categories.length ? (
              <>
                Categories change:{' '}
                {effect.categories
                  .map((c) => `${c.name} ${c.gained ? `+${c.gained}` : ''}${c.lost ? ` −${c.lost}` : ''}`)
                  .join(', ')}
                . {many(effect.coded, 'answer')} coded in the end.
              </>
            ) : (
              'No category gains or loses an answer by it.'
            )
          ) : (
            'Name at least one word besides the label.'
          )}
        </p>
        <p className="row">
          <button type="submit" className="go" disabled={!label.trim() || !all.length}>
            Merge
          </button>
          <button type="button" onClick={close}>
            Leave it
          </button>
        </p>
      </form>
    </Sheet>
  );
}
