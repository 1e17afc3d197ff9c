import { useQueryClient } from '@tanstack/react-query';
import { useId, useMemo, useRef, useState } from 'react';
import { useAddress } from '../lib/address';
import { api, type Condition, take } from '../lib/api';
import { say } from '../lib/conditions';
import { useDesk } from '../lib/edits';
import { count } from '../lib/format';
import { useCommands } from '../lib/keys';
import { askAgain, useFrame } from '../lib/queries';
import { Button } from '../parts/Button';
import { Dialog } from '../parts/Dialog';
import { Empty, Labelled, TextField } from '../parts/Text';
import { Tooltip } from '../parts/Tooltip';

type Offer = { label: string; condition: Condition };

/** What everything on the screen speaks of, as a sentence of removable pieces; typing narrows it. */
export function FocusLine() {
  const { question, stale } = useDesk();
  const { focus, unread, setFocus, narrow, focusText } = useAddress();
  const frame = useFrame(focusText);
  const categories = frame.data?.categories;
  const [typed, setTyped] = useState('');
  const [open, setOpen] = useState(false);
  const [at, setAt] = useState(0);
  const [error, setError] = useState('');
  const [keeping, setKeeping] = useState(false);
  const input = useRef<HTMLInputElement>(null);
  const listId = useId();
  useCommands('Focus', [
    { key: '/', words: 'Narrow the focus', act: () => input.current?.focus() },
    { key: '', words: 'Show all answers', act: () => setFocus([]), off: !focus.length },
    ...question.kept.map((k) => ({ key: '', words: `Focus: ${k.name}`, act: () => setFocus(k.conditions) })),
  ]);

  const offers = useMemo<Offer[]>(() => {
    const t = typed.trim().toLowerCase();
    const out: Offer[] = [];
    if (t) out.push({ label: `answers with: ${typed.trim()}`, condition: { kind: 'words', text: typed.trim() } });
    const all: Offer[] = [
      { label: 'not coded', condition: { kind: 'coded', not: true } },
      { label: 'coded', condition: { kind: 'coded' } },
      { label: 'not settled', condition: { kind: 'settled', not: true } },
      { label: 'settled', condition: { kind: 'settled' } },
      { label: 'coded by hand', condition: { kind: 'decided' } },
      { label: 'not decided on by hand', condition: { kind: 'decided', text: 'any', not: true } },
      { label: 'hand and rules agree', condition: { kind: 'decided', text: 'both' } },
      { label: 'hand against rules', condition: { kind: 'decided', text: 'apart' } },
      { label: 'suggested, unread', condition: { kind: 'decided', text: 'suggested' } },
      { label: 'decisions with a note', condition: { kind: 'decided', text: 'noted' } },
      ...['no answer', 'empty', 'missing'].map(
        (s): Offer => ({ label: `status is ${s}`, condition: { kind: 'status', text: s } }),
      ),
      { label: '3 words or more', condition: { kind: 'short', n: 3, not: true } },
      { label: 'under 3 words', condition: { kind: 'short', n: 3 } },
      { label: 'alike to another', condition: { kind: 'alike' } },
      { label: '1,000 answers at random', condition: { kind: 'sample', text: 'random', n: 1000, m: 1 } },
      { label: '1,000 others at random', condition: { kind: 'sample', text: 'random', n: 1000, m: 2 } },
      { label: 'the first 1,000 answers', condition: { kind: 'sample', text: 'first', n: 1000 } },
      { label: 'like no other', condition: { kind: 'alike', not: true } },
      ...question.variables.flatMap((v) =>
        v.values.map(
          (value): Offer => ({
            label: `${v.name} is ${value}`,
            condition: { kind: 'variable', name: v.name, op: '=', values: [value] },
          }),
        ),
      ),
      ...(categories ?? []).map(
        (c): Offer => ({ label: `in ${c.path.join(' / ')}`, condition: { kind: 'category', id: c.id } }),
      ),
    ];
    return out.concat(all.filter((o) => o.label.toLowerCase().includes(t)).slice(0, t ? 12 : 9));
  }, [typed, question.variables, categories]);

  const choose = async (o: Offer | undefined) => {
    if (!o) return;
    if (o.condition.kind === 'words') {
      // What can't be read as a rule is said here, while it still can be mended.
      try {
        const { problems } = await take(
          api.POST('/api/v1/questions/{question}/rule', {
            params: { path: { question: question.id } },
            body: { rule: o.condition.text ?? '', limit: 1 },
          }),
        );
        const wrong = problems.find((p) => !p.warning);
        if (wrong) return setError(wrong.message);
      } catch (e) {
        return setError((e as Error).message);
      }
    }
    narrow(o.condition);
    setTyped('');
    setOpen(false);
    document.getElementById('main')?.focus({ preventScroll: true });
  };
  const keep = Math.min(at, offers.length - 1);
  return (
    <header
      data-part="focus"
      className="flex min-h-11 flex-none items-center gap-2 border-b px-4.5 whitespace-nowrap max-sm:flex-wrap max-sm:py-1.5"
    >
      <Tooltip text="Answers that everything on the screen speaks of now, of all that say something">
        <button type="button" className="cursor-help">
          <b className="font-semibold" aria-busy={stale}>
            {stale ? '…' : count(question.focus)}
          </b>{' '}
          <span className="text-soft">of {count(question.answered)} answered</span>
        </button>
      </Tooltip>
      {focus.map((c, i) => (
        <span
          key={JSON.stringify(c)}
          data-part="condition"
          className="ml-2 flex min-w-15 shrink items-baseline border-b-2 border-moss py-px"
        >
          <span className="truncate" title={say(c, categories)}>
            {say(c, categories)}
          </span>
          <Button
            look="bare"
            className="min-w-6 pl-1.25 text-soft"
            aria-label={`Take off: ${say(c, categories)}`}
            onClick={() => setFocus(focus.filter((_, j) => j !== i))}
          >
            ×
          </Button>
        </span>
      ))}
      {unread > 0 && (
        <span role="alert" className="ml-2 flex items-baseline border-b-2 border-clay py-px text-clay">
          {unread === 1 ? 'one condition' : `${unread} conditions`} of the address can’t be read
          <Button
            look="bare"
            className="min-w-6 pl-1.25"
            aria-label="Take off what can’t be read"
            onClick={() => setFocus(focus)}
          >
            ×
          </Button>
        </span>
      )}
      <span className="relative ml-2 min-w-36 flex-[0_1_14.5rem]">
        <input
          ref={input}
          value={typed}
          placeholder="narrow by word, rule, group…"
          aria-label="Narrow the focus by word, rule or group"
          role="combobox"
          aria-expanded={open}
          aria-controls={listId}
          aria-autocomplete="list"
          aria-activedescendant={open && offers[keep] ? `${listId}-${keep}` : undefined}
          className="w-full border-b border-dashed border-edge bg-transparent py-0.5"
          onFocus={() => {
            setOpen(true);
            setAt(0);
          }}
          onBlur={() => setOpen(false)}
          onChange={(e) => {
            setTyped(e.target.value);
            setError('');
            setOpen(true);
            setAt(0);
          }}
          onKeyDown={(e) => {
            if (e.key === 'ArrowDown') setAt((keep + 1) % offers.length);
            else if (e.key === 'ArrowUp') setAt((keep + offers.length - 1) % offers.length);
            else if (e.key === 'Enter') choose(offers[keep]);
            else if (e.key === 'Escape') {
              setTyped('');
              setError('');
              document.getElementById('main')?.focus({ preventScroll: true });
            } else if (e.key === 'Backspace' && !typed && focus.length) setFocus(focus.slice(0, -1));
            else return;
            if (e.key !== 'Backspace') e.preventDefault();
          }}
        />
        <div
          id={listId}
          role="listbox"
          aria-label="Ways to narrow"
          className={`absolute top-7.5 -left-2 z-20 max-w-120 min-w-70 border border-edge bg-sheet py-1 shadow-over
            ${open && offers.length ? '' : 'hidden'}`}
        >
          {error && (
            <div role="alert" className="px-3 py-1 whitespace-normal text-clay">
              {error}
            </div>
          )}
          {open &&
            offers.map((o, i) => (
              <div
                key={o.label}
                id={`${listId}-${i}`}
                role="option"
                tabIndex={-1}
                aria-selected={i === keep}
                className="cursor-pointer truncate px-3 py-1 aria-selected:bg-mosspale forced-colors:aria-selected:outline"
                onMouseDown={(e) => {
                  e.preventDefault();
                  choose(o);
                }}
              >
                {o.label}
              </div>
            ))}
        </div>
      </span>
      <span className="ml-auto flex items-baseline gap-2.5">
        {(focus.length > 0 || question.kept.length > 0) && (
          <Button look="plain" onClick={() => setKeeping(true)}>
            {focus.length > 0 ? 'keep this focus' : 'kept focuses'}
          </Button>
        )}
        {focus.length > 0 && (
          <Button look="plain" onClick={() => setFocus([])}>
            all answers
          </Button>
        )}
      </span>
      {keeping && <Kept words={focus.map((c) => say(c, categories)).join(', ')} close={() => setKeeping(false)} />}
    </header>
  );
}

/** Keeps the focus under a name, and lists those that were kept. */
function Kept({ words, close }: { words: string; close: () => void }) {
  const { question, say: notify } = useDesk();
  const { focus, setFocus } = useAddress();
  const client = useQueryClient();
  const [name, setName] = useState(words);
  const path = { question: question.id };
  const then = async (call: Promise<unknown>) => {
    try {
      await call;
    } catch (e) {
      notify({ text: (e as Error).message, bad: true });
    }
    await askAgain(client, question.id);
  };
  const keep = async () => {
    close();
    await then(
      take(
        api.POST('/api/v1/questions/{question}/focuses', {
          params: { path },
          body: { name: name.trim(), conditions: focus },
        }),
      ),
    );
    notify({ text: `Kept this focus as ${name.trim()}` });
  };
  return (
    <Dialog title="Kept focuses" close={close}>
      {focus.length > 0 && (
        <form
          onSubmit={(e) => {
            e.preventDefault();
            if (name.trim()) keep();
          }}
        >
          <Labelled name={<>Keep “{words}” as</>}>
            <TextField wide value={name} onChange={(e) => setName(e.target.value)} />
          </Labelled>
          <p>
            <Button type="submit" look="go" disabled={!name.trim()}>
              Keep this focus
            </Button>
          </p>
        </form>
      )}
      {question.kept.length === 0 && <Empty>None is kept yet.</Empty>}
      <ul className="mb-4 border-b">
        {question.kept.map((k) => (
          <li key={k.name} className="grid grid-cols-[1fr_auto] items-baseline gap-x-1 gap-y-0.5 border-t py-1.75">
            <Button
              look="plain"
              onClick={() => {
                close();
                setFocus(k.conditions);
              }}
            >
              {k.name}
            </Button>
            <Button
              look="plain"
              aria-label={`Delete ${k.name}`}
              onClick={() =>
                then(
                  take(
                    api.DELETE('/api/v1/questions/{question}/focuses', { params: { path, query: { name: k.name } } }),
                  ),
                )
              }
            >
              Delete
            </Button>
          </li>
        ))}
      </ul>
      <p className="flex items-baseline gap-2.5">
        <Button onClick={close}>Close</Button>
      </p>
    </Dialog>
  );
}
