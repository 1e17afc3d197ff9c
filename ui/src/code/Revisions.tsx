import { useEffect, useRef, useState } from 'react';
import { useAddress } from '../lib/address';
import { api, take } from '../lib/api';
import { useDesk } from '../lib/edits';
import { moment } from '../lib/format';
import { useAsk } from '../lib/queries';
import { Failed } from '../parts/Asked';
import { Button } from '../parts/Button';
import { Combobox } from '../parts/Combobox';
import { Dialog, Ends } from '../parts/Dialog';
import { Empty, Labelled, Skeleton, TextField } from '../parts/Text';
import { EffectOf } from '../rule/EffectOf';
import { Compared } from './Compared';

/** Every edit with when and what; any two states of the scheme compared by their effect on the answers. */
export default function Revisions() {
  const { get, set } = useAddress();
  const { question } = useDesk();
  const list = useAsk('revisions', {});
  const named = useAsk('states', {});
  const [naming, setNaming] = useState<string>();
  const [back, setBack] = useState<string>();
  const from = get('from');
  const to = get('to') || 'now';
  const compare = (a: string, b = 'now') => set({ from: a, to: b === 'now' ? '' : b, pick: '' });
  if (list.error && !list.data) return <Failed error={list.error} again={() => list.refetch()} />;
  if (!list.data) return <Skeleton lines={6} />;
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
    <Labelled name={words}>
      <Combobox
        label={words}
        value={value}
        change={set}
        placeholder="choose a state"
        options={[...[...new Set([...states, ...(value ? [value] : [])])].map((s) => ({ value: s, words: label(s) }))]}
      />
    </Labelled>
  );
  return (
    <div data-part="revisionsv" className="pr-2.5">
      <div className="flex flex-wrap items-baseline gap-2.5 items-end pb-1 [&>*]:min-w-40 [&>*]:flex-1">
        {choose(from, (s) => compare(s, to), 'from')}
        {choose(to, (s) => compare(from, s), 'to')}
        <span className="flex items-baseline gap-2.5">
          <Button disabled={!from} onClick={() => compare(to, from)}>
            Swap
          </Button>
          <Button onClick={() => setNaming('')}>Name the present state…</Button>
        </span>
      </div>
      {from ? (
        <Compared from={from} to={to} label={label} />
      ) : (
        <p className="text-soft">
          Press a revision or a name below to see what has changed since, by the answers that gained or lost which
          category.
        </p>
      )}
      {!!named.data?.length && (
        <>
          <h2 className="pt-3.5 pb-1">Named states</h2>
          <ol
            data-part="revisions"
            className="[&_li]:grid [&_li]:grid-cols-[2.5rem_minmax(0,1fr)_auto_8rem] [&_li]:items-baseline
              [&_li]:gap-x-2.5 [&_li]:border-t [&_li]:border-hair [&_li]:py-1 [&_time]:text-right [&_time]:text-soft
              [&_li>span:first-child]:text-soft"
          >
            {named.data.map((n) => (
              <li key={n.name}>
                <span>{n.number || 'start'}</span>
                <span>
                  <Button look="plain" aria-pressed={from === `=${n.name}`} onClick={() => compare(`=${n.name}`)}>
                    {n.name}
                  </Button>
                </span>
                <span className="flex items-baseline gap-2.5">
                  <Button
                    look="plain"
                    className="text-sm"
                    aria-label={`Go back to it…: ${n.name}`}
                    onClick={() => setBack(`=${n.name}`)}
                  >
                    Go back to it…
                  </Button>
                  <DropName name={n.name} done={() => from === `=${n.name}` && set({ from: '', to: '' })} />
                </span>
                <time dateTime={n.at}>{moment(n.at)}</time>
              </li>
            ))}
          </ol>
        </>
      )}
      <h2 className="pt-3.5 pb-1">Every edit</h2>
      {list.data.length === 0 && (
        <Empty>Nothing has been changed yet. Every edit will stand here, and can be undone.</Empty>
      )}
      <ol
        data-part="revisions"
        className="[&_li]:grid [&_li]:grid-cols-[2.5rem_minmax(0,1fr)_auto_8rem] [&_li]:items-baseline
          [&_li]:gap-x-2.5 [&_li]:border-t [&_li]:border-hair [&_li]:py-1 [&_time]:text-right [&_time]:text-soft
          [&_li>span:first-child]:text-soft"
      >
        {list.data.map((r, i) => {
          const ref = String(r.number);
          const stands = !r.study && !r.undone;
          const newest = stands && list.data.slice(0, i).every((x) => x.study || x.undone);
          return (
            <li key={`${r.study ?? false}${r.number}`} className={r.undone ? 'text-soft line-through' : ''}>
              <span>{r.study ? 'data' : r.number}</span>
              <span>
                {stands ? (
                  <Button
                    look="plain"
                    aria-pressed={from === ref}
                    title="compare what was after it with now"
                    onClick={() => compare(ref)}
                  >
                    {r.summary}
                  </Button>
                ) : (
                  r.summary
                )}
                {r.undone && ' (undone)'}
              </span>
              <span className="flex items-baseline gap-2.5">
                {stands && (
                  <Button
                    look="plain"
                    className="text-sm"
                    aria-label={`name… the state after revision ${ref}`}
                    onClick={() => setNaming(ref)}
                  >
                    Name…
                  </Button>
                )}
                {stands && !newest && (
                  <Button
                    look="plain"
                    className="text-sm"
                    aria-label={`Go back to it…: after revision ${ref}`}
                    onClick={() => setBack(ref)}
                  >
                    Go back to it…
                  </Button>
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
              <Button look="plain" aria-pressed={from === '0'} onClick={() => compare('0')}>
                before any edit
              </Button>
            </span>
            <span className="flex items-baseline gap-2.5">
              <Button look="plain" className="text-sm" onClick={() => setBack('0')}>
                Go back to it…
              </Button>
            </span>
          </li>
        )}
      </ol>
      {list.data.length >= 500 && <p className="text-sm text-soft">The newest 500 edits; the others are kept too.</p>}
      {naming !== undefined && <NameSheet state={naming} close={() => setNaming(undefined)} />}
      {back !== undefined && <GoBack state={back} words={label(back)} close={() => setBack(undefined)} />}
      <span className="sr-only">{question.name}</span>
    </div>
  );
}

/** Takes a name off a state; asked twice, as it can’t be undone. */
function DropName({ name, done }: { name: string; done: () => void }) {
  const { question, say } = useDesk();
  const states = useAsk('states', {});
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
    <Button
      look="plain"
      className="text-sm"
      aria-label={sure ? `Really delete ${name}` : `Delete ${name}`}
      onBlur={() => setSure(false)}
      onClick={() => (sure ? drop() : setSure(true))}
    >
      {sure ? 'Delete it?' : 'Delete'}
    </Button>
  );
}

function NameSheet({ state, close }: { state: string; close: () => void }) {
  const { question, say } = useDesk();
  const [name, setName] = useState('');
  const [wrong, setWrong] = useState('');
  const field = useRef<HTMLInputElement>(null);
  useEffect(() => field.current?.focus(), []);
  const states = useAsk('states', {});
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
    <Dialog title={state ? `Name the state after revision ${state}` : 'Name the present state'} close={close}>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          if (name.trim()) keep();
        }}
      >
        <Labelled name="Name">
          <TextField
            wide
            ref={field}
            value={name}
            maxLength={200}
            onChange={(e) => setName(e.target.value)}
            placeholder="sent to client"
          />
        </Labelled>
        {wrong && <p className="text-clay">{wrong}</p>}
        <p className="text-soft">Cleaning, lexicon, frame and decisions by hand are kept whole under it.</p>
        <Ends go="Keep it" ready={!!name.trim()} close={close} />
      </form>
    </Dialog>
  );
}

function GoBack({ state, words, close }: { state: string; words: string; close: () => void }) {
  const { edit } = useDesk();
  const change = { kind: 'go back' as const, state };
  return (
    <Dialog title={`Go back to ${words}?`} close={close}>
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
    </Dialog>
  );
}
