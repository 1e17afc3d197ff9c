import { useQueryClient } from '@tanstack/react-query';
import { useId, useMemo, useRef, useState } from 'react';
import { say, useFocus } from '../lib/address';
import { api, type Condition, take } from '../lib/api';
import { useDesk, useFrame } from '../lib/desk';
import { count } from '../lib/format';
import { useKeys } from '../lib/keys';
import { askAgain } from '../lib/live';
import { Sheet } from '../parts/Dialog';

type Offer = { label: string; condition: Condition };

/** What everything on the screen speaks of, as a sentence of removable pieces; typing narrows it. */
export function FocusLine() {
  const { question, stale } = useDesk();
  const { focus, setFocus, narrow, focusText } = useFocus();
  const frame = useFrame(focusText);
  const categories = frame.data?.categories;
  const [typed, setTyped] = useState('');
  const [open, setOpen] = useState(false);
  const [at, setAt] = useState(0);
  const [error, setError] = useState('');
  const [keeping, setKeeping] = useState(false);
  const input = useRef<HTMLInputElement>(null);
  const listId = useId();
  useKeys({ '/': () => input.current?.focus() });

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
      ...['no answer', 'empty', 'missing'].map(
        (s): Offer => ({ label: `status is ${s}`, condition: { kind: 'status', text: s } }),
      ),
      { label: '3 words or more', condition: { kind: 'short', n: 3, not: true } },
      { label: 'under 3 words', condition: { kind: 'short', n: 3 } },
      { label: 'alike to another', condition: { kind: 'alike' } },
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
    input.current?.blur();
  };
  const keep = Math.min(at, offers.length - 1);
  return (
    <header className="focus">
      <b aria-busy={stale}>{stale ? '…' : count(question.focus)}</b>
      <span className="soft">of {count(question.answered)} answered</span>
      {focus.map((c, i) => (
        <span className="bit" key={JSON.stringify(c)}>
          {say(c, categories)}
          <button
            type="button"
            aria-label={`take off: ${say(c, categories)}`}
            onClick={() => setFocus(focus.filter((_, j) => j !== i))}
          >
            ×
          </button>
        </span>
      ))}
      <span className="narrowing">
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
              input.current?.blur();
            } else if (e.key === 'Backspace' && !typed && focus.length) setFocus(focus.slice(0, -1));
            else return;
            if (e.key !== 'Backspace') e.preventDefault();
          }}
        />
        <div
          id={listId}
          role="listbox"
          aria-label="Ways to narrow"
          className={open && offers.length ? 'offers' : 'offers shut'}
        >
          {error && (
            <div role="alert" className="bad">
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
      <span className="right row">
        {(focus.length > 0 || question.kept.length > 0) && (
          <button type="button" className="plain" onClick={() => setKeeping(true)}>
            {focus.length > 0 ? 'keep this focus' : 'kept focuses'}
          </button>
        )}
        {focus.length > 0 && (
          <button type="button" className="plain" onClick={() => setFocus([])}>
            all answers
          </button>
        )}
      </span>
      {keeping && <Kept words={focus.map((c) => say(c, categories)).join(', ')} close={() => setKeeping(false)} />}
    </header>
  );
}

/** Keeps the focus under a name, and lists those that were kept. */
function Kept({ words, close }: { words: string; close: () => void }) {
  const { question, say: notify } = useDesk();
  const { focus, setFocus } = useFocus();
  const client = useQueryClient();
  const [name, setName] = useState(words);
  const path = { question: question.id };
  const then = async (call: Promise<unknown>) => {
    try {
      await call;
    } catch (e) {
      notify({ text: (e as Error).message, bad: true });
    }
    await askAgain(client, ['question', question.id]);
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
    <Sheet title="Kept focuses" close={close}>
      {focus.length > 0 && (
        <form
          onSubmit={(e) => {
            e.preventDefault();
            if (name.trim()) keep();
          }}
        >
          <label className="stack">
            Keep “{words}” as
            <input className="wide" value={name} onChange={(e) => setName(e.target.value)} />
          </label>
          <p>
            <button type="submit" className="go" disabled={!name.trim()}>
              Keep it
            </button>
          </p>
        </form>
      )}
      {question.kept.length === 0 && <p className="empty">None is kept yet.</p>}
      <ul className="plainlist ruled">
        {question.kept.map((k) => (
          <li key={k.name} className="stepline two">
            <button
              type="button"
              className="plain"
              onClick={() => {
                close();
                setFocus(k.conditions);
              }}
            >
              {k.name}
            </button>
            <button
              type="button"
              className="plain"
              aria-label={`forget ${k.name}`}
              onClick={() =>
                then(
                  take(
                    api.DELETE('/api/v1/questions/{question}/focuses', { params: { path, query: { name: k.name } } }),
                  ),
                )
              }
            >
              forget
            </button>
          </li>
        ))}
      </ul>
      <p className="row">
        <button type="button" onClick={close}>
          Close
        </button>
      </p>
    </Sheet>
  );
}
