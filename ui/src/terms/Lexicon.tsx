import { useQueryClient } from '@tanstack/react-query';
import { type ReactNode, useState } from 'react';
import { useFocus } from '../lib/address';
import { api, type LexiconState, take } from '../lib/api';
import { useDesk, useQuestionId } from '../lib/desk';
import { count, many, percent } from '../lib/format';
import { askAgain } from '../lib/live';
import { CopyFrom } from '../rule/CopyFrom';
import { useLexicon } from './lexicon';

/** What was decided about words: language, inflections, stop words, merges, term lists. */
export default function Lexicon() {
  const state = useLexicon();
  if (state.error) return <p className="bad">{state.error.message}</p>;
  const s = state.data;
  if (!s) return <p className="ghost">&nbsp;</p>;
  return (
    <div className="lexiconv">
      <Language s={s} />
      <StopWords s={s} />
      <Merges s={s} />
      <Lists s={s} />
      <Apart s={s} />
      <CopyFrom first="lexicon" />
    </div>
  );
}

function Language({ s }: { s: LexiconState }) {
  const { edit } = useDesk();
  const named = (code: string) => s.languages.find((l) => l.code === code)?.name;
  return (
    <section aria-label="Language">
      <h2>Language and inflections</h2>
      <p className="row wrap">
        <label>
          The answers are in{' '}
          <select value={s.language} onChange={(e) => edit({ kind: 'language', language: e.target.value })}>
            {s.languages.map((l) => (
              <option key={l.code} value={l.code}>
                {l.name}
              </option>
            ))}
            <option value="und">another language</option>
          </select>
        </label>
        <span className="soft">
          {s.guess.answers === 0
            ? 'no answer has a word common to a language we know'
            : s.guess.language
              ? `${percent(s.guess.share)} of the answers that can be told look like ${named(s.guess.language)}`
              : 'no language stands out'}
        </span>
      </p>
      <p>
        <label>
          <input
            type="checkbox"
            checked={s.lexicon.inflections}
            onChange={(e) => edit({ kind: 'inflections', on: e.target.checked })}
          />{' '}
          Inflections count as one term (queue, queues, queuing; go, went)
        </label>
      </p>
      {!!s.lexicon.parted?.length && (
        <p className="row wrap">
          <span>Standing apart:</span>
          {s.lexicon.parted.map((w) => (
            <Chip key={w} word={w} out={() => edit({ kind: 'join', words: [w] })} label={`join ${w} again`} />
          ))}
        </p>
      )}
    </section>
  );
}

function Chip({ word, out, label, faint }: { word: string; out: () => void; label: string; faint?: boolean }) {
  return (
    <span className="chip" title={faint ? 'stands in no answer' : undefined}>
      <span className={faint ? 'soft' : ''}>{word}</span>
      <button type="button" aria-label={label} onClick={out}>
        ×
      </button>
    </span>
  );
}

/** A field that adds words, several parted by commas. */
function Adding({ label, hint, add }: { label: string; hint: string; add: (words: string[]) => void }) {
  const [typed, setTyped] = useState('');
  return (
    <form
      className="adding"
      onSubmit={(e) => {
        e.preventDefault();
        const words = typed
          .split(',')
          .map((w) => w.trim())
          .filter(Boolean);
        if (!words.length) return;
        add(words);
        setTyped('');
      }}
    >
      <input aria-label={label} placeholder={hint} value={typed} onChange={(e) => setTyped(e.target.value)} />
    </form>
  );
}

type Part = 'stop-words' | 'merges' | 'lists';

/** Takes a part of the lexicon out as a file, or adds what a file holds. */
function InAndOut({ part }: { part: Part }) {
  const id = useQuestionId();
  const { question, say } = useDesk();
  const client = useQueryClient();
  const add = async (file: File) => {
    try {
      const done = await take(
        api.POST('/api/v1/questions/{question}/lexicon/{part}', {
          params: { path: { question: id, part }, query: { revision: question.revision } },
          headers: { 'Content-Type': 'text/csv' },
          body: '',
          bodySerializer: () => file, // as it is: the server judges its letters
        }),
      );
      say({ text: `${done.summary} from ${file.name}`, undo: done.edit });
    } catch (e) {
      say({ text: (e as Error).message, bad: true });
    } finally {
      askAgain(client, ['question', id]);
    }
  };
  return (
    <span className="small soft">
      <a className="plain" href={`/api/v1/questions/${id}/lexicon/${part}`} download>
        CSV out
      </a>{' '}
      <label className="plain filelink">
        CSV in
        <input
          type="file"
          accept=".csv,text/csv"
          aria-label={`add ${part} from a CSV file`}
          onChange={(e) => {
            const file = e.target.files?.[0];
            if (file) add(file);
            e.target.value = '';
          }}
        />
      </label>
    </span>
  );
}

const Head = ({ children, part }: { children: ReactNode; part: Part }) => (
  <p className="row between">
    <b className="h2">{children}</b>
    <InAndOut part={part} />
  </p>
);

function StopWords({ s }: { s: LexiconState }) {
  const { edit } = useDesk();
  const [all, setAll] = useState(false);
  const { base, add = [], keep = [] } = s.lexicon.stopWords;
  return (
    <section aria-label="Stop words">
      <Head part="stop-words">Stop words</Head>
      <p className="soft small">They shape lists, clouds and suggestions; rules find them all the same.</p>
      <p className="row wrap">
        <label>
          base list{' '}
          <select value={base} onChange={(e) => edit({ kind: 'base', language: e.target.value })}>
            <option value="">none</option>
            {s.languages.map((l) => (
              <option key={l.code} value={l.code}>
                {l.name}
              </option>
            ))}
          </select>
        </label>
        <button type="button" className="plain" aria-expanded={all} onClick={() => setAll(!all)}>
          {all ? 'fold it away' : `see its ${many(s.base.length, 'word')}`}
        </button>
      </p>
      {all && <p className="small wordlist">{s.base.join(' ')}</p>}
      <p className="row wrap">
        <span>Hidden too:</span>
        {add.map((w) => (
          <Chip key={w} word={w} out={() => edit({ kind: 'show', terms: [w] })} label={`bring ${w} back`} />
        ))}
        <Adding label="Words to hide" hint="hide words…" add={(terms) => edit({ kind: 'hide', terms })} />
      </p>
      <p className="row wrap">
        <span>Never hidden:</span>
        {keep.map((w) => (
          <Chip key={w} word={w} out={() => edit({ kind: 'hide', terms: [w] })} label={`hide ${w}`} />
        ))}
        <Adding label="Words to keep" hint="keep words…" add={(terms) => edit({ kind: 'show', terms })} />
      </p>
    </section>
  );
}

/** A name that can be given anew. */
function Name({ name, give, children }: { name: string; give: (to: string) => void; children: ReactNode }) {
  const [typed, setTyped] = useState<string>();
  if (typed === undefined)
    return (
      <button type="button" className="title" title="give it another name" onClick={() => setTyped(name)}>
        {children}
      </button>
    );
  const done = () => {
    if (typed.trim() && typed !== name) give(typed.trim());
    setTyped(undefined);
  };
  return (
    <input
      // biome-ignore lint/a11y/noAutofocus: it was just asked for
      autoFocus
      aria-label={`another name for ${name}`}
      value={typed}
      onChange={(e) => setTyped(e.target.value)}
      onBlur={done}
      onKeyDown={(e) => {
        if (e.key === 'Enter') done();
        if (e.key === 'Escape') setTyped(undefined);
      }}
    />
  );
}

function Merges({ s }: { s: LexiconState }) {
  const { edit } = useDesk();
  const { setPick } = useFocus();
  const merges = s.lexicon.merges ?? [];
  return (
    <section aria-label="Merges">
      <Head part="merges">Merges</Head>
      <p className="soft small">
        Counted as one term. A variant may have several words, and end in * for any ending; inflections come along.
      </p>
      {s.clashes.map((c) => (
        <p key={`${c.variant} ${c.wanted}`} className="warnbox">
          <b>{c.variant}</b> is asked for by <b>{c.has}</b> and by <b>{c.wanted}</b>; {c.has} has it.{' '}
          <button
            type="button"
            className="plain"
            onClick={() => edit({ kind: 'split', label: c.wanted, variants: [c.variant] })}
          >
            take it out of {c.wanted}
          </button>
        </p>
      ))}
      <ul className="plainlist">
        {merges.map((m, i) => (
          <li key={m.term} className="lexline">
            <span>
              <Name name={m.term} give={(name) => edit({ kind: 'rename merge', label: m.term, name })}>
                <b>{m.term}</b>
              </Name>{' '}
              <button type="button" className="plain soft" onClick={() => setPick([{ kind: 'term', text: m.term }])}>
                {many(s.merges[i]?.answers ?? 0, 'answer')}
              </button>
            </span>
            <span className="row wrap">
              {m.variants.map((v) => (
                <Chip
                  key={v}
                  word={v}
                  faint={s.merges[i]?.unseen.includes(v)}
                  out={() => edit({ kind: 'split', label: m.term, variants: [v] })}
                  label={`take ${v} out of ${m.term}`}
                />
              ))}
              <Adding
                label={`Add to ${m.term}`}
                hint="add…"
                add={(terms) => edit({ kind: 'merge', label: m.term, terms })}
              />
            </span>
            <button type="button" className="plain" onClick={() => edit({ kind: 'split', label: m.term })}>
              part
            </button>
          </li>
        ))}
      </ul>
      {!merges.length && <p className="soft">None yet. Select terms in the ledger and press m.</p>}
    </section>
  );
}

function Lists({ s }: { s: LexiconState }) {
  const { edit } = useDesk();
  const { setPick } = useFocus();
  const lists = s.lexicon.lists ?? [];
  const called = (name: string) => (/^[\p{L}\p{N}_'-]+$/u.test(name) ? `@${name}` : `@"${name}"`);
  return (
    <section aria-label="Term lists">
      <Head part="lists">Term lists</Head>
      <p className="soft small">Used in rules by their names. Entries are like variants of merges.</p>
      <ul className="plainlist">
        {lists.map((l, i) => (
          <li key={l.name} className="lexline">
            <span>
              <Name name={l.name} give={(name) => edit({ kind: 'rename list', list: l.name, name })}>
                <b>@{l.name}</b>
              </Name>{' '}
              <button
                type="button"
                className="plain soft"
                onClick={() => setPick([{ kind: 'words', text: called(l.name) }])}
              >
                {many(s.lists[i]?.answers ?? 0, 'answer')}
              </button>
              {!!s.lists[i]?.used.length && <small className="soft"> in rules of {s.lists[i]!.used.join(', ')}</small>}
            </span>
            <span className="row wrap">
              {l.entries.map((e) => (
                <Chip
                  key={e}
                  word={e}
                  faint={s.lists[i]?.unseen.includes(e)}
                  out={() => edit({ kind: 'unlist', list: l.name, entries: [e] })}
                  label={`take ${e} off @${l.name}`}
                />
              ))}
              <Adding
                label={`Add to @${l.name}`}
                hint="add…"
                add={(entries) => edit({ kind: 'list', list: l.name, entries })}
              />
            </span>
            <button type="button" className="plain" onClick={() => edit({ kind: 'unlist', list: l.name })}>
              remove
            </button>
          </li>
        ))}
        <li className="lexline">
          <span>
            <b>@negators</b> <small className="soft">built in</small>
          </span>
          <span className="soft">{s.negators.join(', ')}</span>
        </li>
      </ul>
      <Adding
        label="A new term list"
        hint="name of a new list…"
        add={(names) => edit({ kind: 'list', list: names[0]! })}
      />
    </section>
  );
}

function Apart({ s }: { s: LexiconState }) {
  const { edit } = useDesk();
  const apart = s.lexicon.apart ?? [];
  if (!apart.length) return null;
  const pairs = apart.reduce((n, m) => n + m.variants.length, 0);
  return (
    <section aria-label="Kept apart">
      <h2>Kept apart</h2>
      <p className="soft small">{count(pairs)} refused suggestions; they are not made again.</p>
      <ul className="plainlist">
        {apart.map((m) => (
          <li key={m.term} className="lexline">
            <b>{m.term}</b>
            <span className="row wrap">
              {m.variants.map((v) => (
                <Chip
                  key={v}
                  word={v}
                  out={() => edit({ kind: 'suggest again', label: m.term, terms: [v] })}
                  label={`let ${v} be suggested with ${m.term} again`}
                />
              ))}
            </span>
          </li>
        ))}
      </ul>
    </section>
  );
}
