import { useState } from 'react';
import { useFocus } from '../lib/address';
import { api, type Edit, type Effect, type Term, take } from '../lib/api';
import { useAsk, useDesk } from '../lib/desk';
import { count, many } from '../lib/format';
import { Ends, Sheet } from '../parts/Dialog';
import { useEffectOf } from '../rule/EffectOf';
import { useLexicon } from './lexicon';

/** What an edit would do to the categories, in words. */
export function EffectInWords({ effect }: { effect: Pick<Effect, 'categories'> }) {
  if (!effect.categories.length) return <>No category gains or loses an answer by it.</>;
  return (
    <>
      Categories change:{' '}
      {effect.categories
        .map((c) => `${c.name} ${c.gained ? `+${count(c.gained)}` : ''}${c.lost ? ` −${count(c.lost)}` : ''}`)
        .join(', ')}
      .
    </>
  );
}

type Props = { terms: string[]; close: () => void; done: () => void };

const words = (typed: string) =>
  typed
    .split(',')
    .map((s) => s.trim())
    .filter(Boolean);

export function MergeSheet({ terms, close, done }: Props) {
  const { edit } = useDesk();
  const { setPick } = useFocus();
  const [label, setLabel] = useState(terms[0] ?? '');
  const [more, setMore] = useState('');
  const all = [...terms.filter((t) => t !== label), ...words(more)];
  const change: Edit = { kind: 'merge', label, terms: all };
  const ready = !!label.trim() && all.length > 0;
  const preview = useEffectOf(change, ready);
  const keep = async () => {
    close();
    done();
    if (await edit(change)) setPick([{ kind: 'term', text: label }]);
  };
  return (
    <Sheet title="Count as one term" close={close}>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          if (ready) keep();
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
        <Chips terms={terms} />
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
          {!ready ? (
            'Name at least one word besides the label.'
          ) : preview.error ? (
            <span className="bad">{preview.error.message}</span>
          ) : preview.data ? (
            <>
              <EffectInWords effect={preview.data} /> {many(preview.data.coded, 'answer')} coded in the end.
            </>
          ) : (
            '…'
          )}
        </p>
        <Ends go="Merge" ready={ready} close={close} />
      </form>
    </Sheet>
  );
}

const Chips = ({ terms }: { terms: string[] }) => (
  <p>
    {terms.map((t) => (
      <span key={t} className="chip">
        {t}
      </span>
    ))}
  </p>
);

/** Puts terms on a term list, a new one or one there is. */
export function ListSheet({ terms, close, done }: Props) {
  const { edit } = useDesk();
  const lexicon = useLexicon();
  const lists = lexicon.data?.lexicon.lists ?? [];
  const [name, setName] = useState('');
  const ready = !!name.trim();
  const known = lists.some((l) => l.name === name.trim());
  return (
    <Sheet title="To a term list" close={close}>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          if (!ready) return;
          close();
          done();
          edit({ kind: 'list', list: name.trim(), entries: terms });
        }}
      >
        <Chips terms={terms} />
        <label className="stack">
          Name of the list; rules call it by @name
          <input className="wide" value={name} onChange={(e) => setName(e.target.value)} list="lists" />
        </label>
        <datalist id="lists">
          {lists.map((l) => (
            <option key={l.name} value={l.name} />
          ))}
        </datalist>
        <p className="row wrap">
          {lists.map((l) => (
            <button key={l.name} type="button" className="plain" onClick={() => setName(l.name)}>
              @{l.name} ({l.entries.length})
            </button>
          ))}
        </p>
        <Ends go={known ? `Add to @${name.trim()}` : 'Make the list'} ready={ready} close={close} />
      </form>
    </Sheet>
  );
}

/** Takes words out of what is joined under a term. */
export function PartSheet({ term, start, close }: { term: Term; start: string[]; close: () => void }) {
  const { edit } = useDesk();
  const [out, setOut] = useState(start);
  const all = useAsk(['members', term.label], (question) =>
    take(
      api.GET('/api/v1/questions/{question}/members', { params: { path: { question }, query: { term: term.label } } }),
    ),
  );
  const others = (all.data ?? []).map((m) => m.word).filter((w) => w !== term.label);
  // Without anything but its label a merge is none.
  const whole = term.merge && others.length > 0 && others.every((w) => out.includes(w));
  const change: Edit = term.merge
    ? { kind: 'split', label: term.label, variants: whole ? [] : out }
    : { kind: 'part', words: out, from: term.label };
  const preview = useEffectOf(change, out.length > 0);
  return (
    <Sheet title={`What is joined as ${term.label}`} close={close}>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          if (!out.length) return;
          close();
          edit(change);
        }}
      >
        <p className="soft">Tick what should stand apart.</p>
        <div className="partlist">
          {all.data?.map((m) => (
            <label key={m.word}>
              <input
                type="checkbox"
                checked={out.includes(m.word)}
                disabled={term.merge && m.word === term.label}
                onChange={(e) => setOut(e.target.checked ? [...out, m.word] : out.filter((w) => w !== m.word))}
              />{' '}
              {m.word} <em>{count(m.times)}</em>
            </label>
          ))}
        </div>
        <p className="effect">
          {preview.error ? (
            <span className="bad">{preview.error.message}</span>
          ) : out.length && preview.data ? (
            <EffectInWords effect={preview.data} />
          ) : (
            'Nothing is ticked yet.'
          )}
        </p>
        <Ends go="Part" ready={out.length > 0} close={close}>
          {term.merge && (
            <button type="button" onClick={() => setOut(others)}>
              Tick all
            </button>
          )}
        </Ends>
      </form>
    </Sheet>
  );
}
