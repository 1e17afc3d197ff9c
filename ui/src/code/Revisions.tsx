import { useEffect, useRef, useState } from 'react';
import { useFocus } from '../lib/address';
import { api, take } from '../lib/api';
import { useAsk, useDesk, useNamedStates } from '../lib/desk';
import { moment } from '../lib/format';
import { Ends, Sheet } from '../parts/Dialog';
import { EffectOf } from '../rule/EffectOf';
import { Compared } from './Compared';

/** Every edit with when and what; any two states of the scheme compared by their effect on the answers. */
export default function Revisions() {
  const { params, set } = useFocus();
  const { question } = useDesk();
  const list = useAsk(['revisions'], (q) =>
    take(api.GET('/api/v1/questions/{question}/revisions', { params: { path: { question: q } } })),
  );
  const named = useNamedStates();
  const [naming, setNaming] = useState<string>();
  const [back, setBack] = useState<string>();
  const from = params.get('from') ?? '';
  const to = params.get('to') || 'now';
  const compare = (a: string, b = 'now') => set({ from: a, to: b === 'now' ? '' : b, pick: '' });
  if (list.error) return <p className="bad">{list.error.message}</p>;
  if (!list.data) return <p className="ghost">&nbsp;</p>;
  const own = list.data.filter((r) => !r.study && !r.undone);
  const label = (ref: string) =>
    ref === 'now'
      ? 'now'
      : ref === '0'
        ? 'the beginning'
        : ref.startsWith('=')
          ? ref.slice(1)
          : `after revision ${ref}: ${own.find((r) => String(r.number) === ref)?.summary ?? ''}`;
  const states = [
    'now',
    ...(named.data ?? []).map((n) => `=${n.name}`),
    ...own.map((r) => String(r.number)).slice(0, 200),
    '0',
  ];
  const choose = (value: string, set: (s: string) => void, words: string) => (
    <label className="stack">
      {words}
      <select value={value} onChange={(e) => set(e.target.value)}>
        {!value && <option value="">choose a state</option>}
        {[...new Set([...states, ...(value ? [value] : [])])].map((s) => (
          <option key={s} value={s}>
            {label(s)}
          </option>
        ))}
      </select>
    </label>
  );
  return (
    <div className="revisionsv">
      <div className="row wrap twostates">
        {choose(from, (s) => compare(s, to), 'from')}
        {choose(to, (s) => compare(from, s), 'to')}
        <span className="row">
          <button type="button" disabled={!from} onClick={() => compare(to, from)}>
            swap
          </button>
          <button type="button" onClick={() => setNaming('')}>
            Name the present state…
          </button>
        </span>
      </div>
      {from ? (
        <Compared from={from} to={to} label={label} />
      ) : (
        <p className="soft">
          Press a revision or a name below to see what has changed since, by the answers that gained or lost which
          category.
        </p>
      )}
      {!!named.data?.length && (
        <>
          <h2>Named states</h2>
          <ol className="revisions">
            {named.data.map((n) => (
              <li key={n.name}>
                <span>{n.number || 'start'}</span>
                <span>
                  <button
                    type="button"
                    className="plain"
                    aria-pressed={from === `=${n.name}`}
                    onClick={() => compare(`=${n.name}`)}
                  >
                    {n.name}
                  </button>
                </span>
                <span className="row">
                  <button
                    type="button"
                    className="plain small"
                    aria-label={`go back to it…: ${n.name}`}
                    onClick={() => setBack(`=${n.name}`)}
                  >
                    go back to it…
                  </button>
                  <DropName name={n.name} done={() => from === `=${n.name}` && set({ from: '', to: '' })} />
                </span>
                <time dateTime={n.at}>{moment(n.at)}</time>
              </li>
            ))}
          </ol>
        </>
      )}
      <h2>Every edit</h2>
      {list.data.length === 0 && (
        <p className="empty">Nothing has been changed yet. Every edit will stand here, and can be undone.</p>
      )}
      <ol className="revisions">
        {list.data.map((r, i) => {
          const ref = String(r.number);
          const stands = !r.study && !r.undone;
          const newest = stands && list.data.slice(0, i).every((x) => x.study || x.undone);
          return (
            <li key={`${r.study ?? false}${r.number}`} className={r.undone ? 'undone' : ''}>
              <span>{r.study ? 'data' : r.number}</span>
              <span>
                {stands ? (
                  <button
                    type="button"
                    className="plain"
                    aria-pressed={from === ref}
                    title="compare what was after it with now"
                    onClick={() => compare(ref)}
                  >
                    {r.summary}
                  </button>
                ) : (
                  r.summary
                )}
                {r.undone && ' (undone)'}
              </span>
              <span className="row">
                {stands && (
                  <button
                    type="button"
                    className="plain small"
                    aria-label={`name… the state after revision ${ref}`}
                    onClick={() => setNaming(ref)}
                  >
                    name…
                  </button>
                )}
                {stands && !newest && (
                  <button
                    type="button"
                    className="plain small"
                    aria-label={`go back to it…: after revision ${ref}`}
                    onClick={() => setBack(ref)}
                  >
                    go back to it…
                  </button>
                )}
              </span>
              <time dateTime={r.at}>{moment(r.at)}</time>
            </li>
          );
        })}
        {own.length > 0 && (
          <li>
            <span>start</span>
            <span>
              <button type="button" className="plain" aria-pressed={from === '0'} onClick={() => compare('0')}>
                before any edit
              </button>
            </span>
            <span className="row">
              <button type="button" className="plain small" onClick={() => setBack('0')}>
                go back to it…
              </button>
            </span>
          </li>
        )}
      </ol>
      {list.data.length >= 500 && <p className="soft small">The newest 500 edits; the others are kept too.</p>}
      {naming !== undefined && <NameSheet state={naming} close={() => setNaming(undefined)} />}
      {back !== undefined && <GoBack state={back} words={label(back)} close={() => setBack(undefined)} />}
      <span className="sr">{question.name}</span>
    </div>
  );
}

/** Takes a name off a state; asked twice, as it can’t be undone. */
function DropName({ name, done }: { name: string; done: () => void }) {
  const { question, say } = useDesk();
  const states = useNamedStates();
  const [sure, setSure] = useState(false);
  const drop = async () => {
    try {
      await take(
        api.DELETE('/api/v1/questions/{question}/states', {
          params: { path: { question: question.id }, query: { name } },
        }),
      );
      say({ text: `“${name}” is no longer kept. The scheme was not changed.` });
      done();
    } catch (e) {
      say({ text: (e as Error).message, bad: true });
    }
    states.refetch();
  };
  return (
    <button
      type="button"
      className="plain small"
      aria-label={sure ? `really drop ${name}` : `drop ${name}`}
      onBlur={() => setSure(false)}
      onClick={() => (sure ? drop() : setSure(true))}
    >
      {sure ? 'really drop' : 'drop'}
    </button>
  );
}

function NameSheet({ state, close }: { state: string; close: () => void }) {
  const { question, say } = useDesk();
  const [name, setName] = useState('');
  const [wrong, setWrong] = useState('');
  const field = useRef<HTMLInputElement>(null);
  useEffect(() => field.current?.focus(), []);
  const states = useNamedStates();
  const keep = async () => {
    try {
      await take(
        api.POST('/api/v1/questions/{question}/states', {
          params: { path: { question: question.id } },
          body: { name: name.trim(), state: state || undefined },
        }),
      );
      states.refetch();
      say({
        text: `Kept as “${name.trim()}”: whatever is undone or changed later, it can be compared and gone back to.`,
      });
      close();
    } catch (e) {
      setWrong((e as Error).message);
    }
  };
  return (
    <Sheet title={state ? `Name the state after revision ${state}` : 'Name the present state'} close={close}>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          if (name.trim()) keep();
        }}
      >
        <label className="stack">
          Name
          <input
            className="wide"
            ref={field}
            value={name}
            maxLength={200}
            onChange={(e) => setName(e.target.value)}
            placeholder="sent to client"
          />
        </label>
        {wrong && <p className="bad">{wrong}</p>}
        <p className="soft">Cleaning, lexicon, frame and decisions by hand are kept whole under it.</p>
        <Ends go="Keep it" ready={!!name.trim()} close={close} />
      </form>
    </Sheet>
  );
}

function GoBack({ state, words, close }: { state: string; words: string; close: () => void }) {
  const { edit } = useDesk();
  const change = { kind: 'go back' as const, state };
  return (
    <Sheet title={`Go back to ${words}?`} close={close}>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          close();
          edit(change);
        }}
      >
        <EffectOf change={change}>
          {() =>
            'Cleaning, lexicon, frame and decisions by hand become what they were then. It is an edit like any other: undo brings back what is here now.'
          }
        </EffectOf>
        <Ends go="Go back to it" ready close={close} />
      </form>
    </Sheet>
  );
}
