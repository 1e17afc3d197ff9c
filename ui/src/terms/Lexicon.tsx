import { useState } from 'react';
import { useAddress } from '../lib/address';
import type { LexiconState } from '../lib/api';
import { useDesk } from '../lib/edits';
import { count, many, percent } from '../lib/format';
import { itemAt } from '../lib/required';
import { Failed } from '../parts/Asked';
import { Button } from '../parts/Button';
import { Checkbox } from '../parts/Checkbox';
import { Combobox } from '../parts/Combobox';
import { Dialog, Ends } from '../parts/Dialog';
import { Skeleton } from '../parts/Text';
import { CopyFrom } from '../rule/CopyFrom';
import { Adding, Chip, Head, Name, Section } from './LexiconParts';
import { useLexicon } from './lexicon';
import { useWeigh, WeighProvider } from './Weigh';

/** What was decided about words: language, inflections, stop words, merges, term lists. */
export default function Lexicon() {
  const state = useLexicon();
  if (state.error && !state.data) return <Failed error={state.error} again={() => state.refetch()} />;
  const s = state.data;
  if (!s) return <Skeleton lines={6} />;
  return (
    <WeighProvider>
      <div data-part="lexicon" className="min-h-0 flex-1 overflow-auto pt-0.5 pr-2 max-w-280">
        <Language s={s} />
        <StopWords s={s} />
        <Merges s={s} />
        <Lists s={s} />
        <Apart s={s} />
        <CopyFrom first="lexicon" />
      </div>
    </WeighProvider>
  );
}

function Language({ s }: { s: LexiconState }) {
  const weigh = useWeigh();
  const named = (code: string) => s.languages.find((l) => l.code === code)?.name;
  return (
    <Section name="Language">
      <h2>Language and inflections</h2>
      <p className="flex flex-wrap items-baseline gap-2.5">
        <label>
          The answers are in{' '}
          <Combobox
            label="The answers are in"
            value={s.language}
            change={(v) => weigh({ kind: 'language', language: v }, 'Set another language')}
            options={[
              ...s.languages.map((l) => ({ value: l.code, words: l.name })),
              { value: 'und', words: 'another language' },
            ]}
          />
        </label>
        <span className="text-soft">
          {s.guess.answers === 0
            ? 'no answer has a word common to a language we know'
            : s.guess.language
              ? `${percent(s.guess.share)} of the answers that can be told look like ${named(s.guess.language)}`
              : 'no language stands out'}
        </span>
      </p>
      <p>
        <label>
          <Checkbox
            data-stop=""
            checked={s.lexicon.inflections}
            change={(on) => weigh({ kind: 'inflections', on }, on ? 'Join inflections' : 'Count every form apart')}
          />{' '}
          Inflections count as one term (queue, queues, queuing; go, went)
        </label>
      </p>
      {s.lexicon.inflections && s.table && (
        <p>
          <label>
            <Checkbox
              data-stop=""
              checked={!s.lexicon.comparativesApart}
              change={(on) =>
                weigh({ kind: 'comparatives', on }, on ? 'Join comparatives' : 'Count comparatives apart')
              }
            />{' '}
            Comparatives too (cheap, cheaper, cheapest; good, better, best)
          </label>
        </p>
      )}
      {!s.table && (
        <p className="text-soft">
          There is no table of words for this language: inflections are joined by their endings alone, and suggestions
          of misspellings and of words used alike are weaker.
        </p>
      )}
      {!!s.lexicon.parted?.length && (
        <p className="flex flex-wrap items-baseline gap-2.5">
          <span>Kept separate:</span>
          {s.lexicon.parted.map((w) => (
            <Chip
              key={w}
              word={w}
              out={() => weigh({ kind: 'join', words: [w] }, `Join ${w} again`)}
              label={`join ${w} again`}
            />
          ))}
        </p>
      )}
    </Section>
  );
}

/** A variant that stands for its own form only, or, if it does, with its other forms. */
const otherForms = (variant: string) => (variant.startsWith('=') ? variant.slice(1) : `=${variant}`);

function StopWords({ s }: { s: LexiconState }) {
  const { edit } = useDesk();
  const [all, setAll] = useState(false);
  const [offered, setOffered] = useState(false);
  const { base, add = [], keep = [] } = s.lexicon.stopWords;
  return (
    <Section name="Stop words">
      <Head part="stop-words">Stop words</Head>
      <p className="text-sm text-soft">They shape lists, clouds and suggestions; rules find them all the same.</p>
      <p className="flex flex-wrap items-baseline gap-2.5">
        <label>
          base list{' '}
          <Combobox
            label="base list"
            value={base}
            change={(v) => edit({ kind: 'base', language: v })}
            options={[{ value: '', words: 'none' }, ...s.languages.map((l) => ({ value: l.code, words: l.name }))]}
          />
        </label>
        <Button data-stop="" look="plain" aria-expanded={all} onClick={() => setAll(!all)}>
          {all ? 'Hide them' : `See its ${many(s.base.length, 'word')}`}
        </Button>
      </p>
      {all && <p className="text-sm font-serif">{s.base.join(' ')}</p>}
      {s.little.length > 0 && (
        <p>
          <Button data-stop="" look="plain" onClick={() => setOffered(true)}>
            Words that say little in comments: {count(s.little.length)} to look through…
          </Button>
        </p>
      )}
      {offered && <Little words={s.little} close={() => setOffered(false)} />}
      <div className="flex flex-wrap items-baseline gap-2.5">
        <span>Hidden too:</span>
        {add.map((w) => (
          <Chip key={w} word={w} out={() => edit({ kind: 'show', terms: [w] })} label={`bring ${w} back`} />
        ))}
        <Adding label="Words to hide" hint="hide words…" add={(terms) => edit({ kind: 'hide', terms })} />
      </div>
      <div className="flex flex-wrap items-baseline gap-2.5">
        <span>Never hidden:</span>
        {keep.map((w) => (
          <Chip key={w} word={w} out={() => edit({ kind: 'hide', terms: [w] })} label={`hide ${w}`} />
        ))}
        <Adding label="Words to keep" hint="keep words…" add={(terms) => edit({ kind: 'show', terms })} />
      </div>
    </Section>
  );
}

/** Words that say little, each to be ticked; nothing is hidden unasked. */
function Little({ words, close }: { words: LexiconState['little']; close: () => void }) {
  const { edit } = useDesk();
  const [ticked, setTicked] = useState<string[]>([]);
  const whole = ticked.length === words.length;
  return (
    <Dialog title="Words that say little in comments" close={close}>
      <form
        onSubmit={async (e) => {
          e.preventDefault();
          close();
          await edit({ kind: 'hide', terms: ticked });
        }}
      >
        <p className="pb-1.5 text-soft">
          Tick those to hide from lists, clouds and suggestions. Rules find them all the same.{' '}
          <Button look="plain" onClick={() => setTicked(whole ? [] : words.map((w) => w.term))}>
            {whole ? 'Untick all' : 'Tick all'}
          </Button>
        </p>
        <ul className="columns-3 gap-6">
          {words.map((w) => (
            <li key={w.term}>
              <label className="flex items-baseline gap-1.5">
                <Checkbox
                  checked={ticked.includes(w.term)}
                  change={(on) => setTicked(on ? [...ticked, w.term] : ticked.filter((t) => t !== w.term))}
                />
                <span className="flex-1">{w.term}</span>
                <span className="text-soft">{count(w.answers)}</span>
              </label>
            </li>
          ))}
        </ul>
        <Ends go={`Hide ${many(ticked.length, 'word')}`} ready={ticked.length > 0} close={close} />
      </form>
    </Dialog>
  );
}

function Merges({ s }: { s: LexiconState }) {
  const { edit } = useDesk();
  const weigh = useWeigh();
  const { setPick } = useAddress();
  const merges = s.lexicon.merges ?? [];
  return (
    <Section name="Merges">
      <Head part="merges">Merges</Head>
      <p className="text-sm text-soft">
        Counted as one term. A variant may have several words, and end in * for any ending; inflections come along,
        unless = stands before it.
      </p>
      {s.clashes.map((c) => (
        <p
          key={`${c.variant} ${c.wanted}`}
          data-part="warnbox"
          className="mb-3.5 border-l-3 border-clay py-0.5 pl-3 [&_b]:font-semibold"
        >
          <b>{c.variant}</b> is asked for by <b>{c.has}</b> and by <b>{c.wanted}</b>; {c.has} has it.{' '}
          <Button
            data-stop=""
            look="plain"
            onClick={() =>
              weigh({ kind: 'split', label: c.wanted, variants: [c.variant] }, `Take ${c.variant} out of ${c.wanted}`)
            }
          >
            take it out of {c.wanted}
          </Button>
        </p>
      ))}
      <ul>
        {merges.map((m, i) => (
          <li
            key={m.term}
            data-part="lexline"
            className="grid grid-cols-[12rem_minmax(0,1fr)_auto] items-baseline gap-2.5 border-t border-hair py-1"
          >
            <span>
              <Name name={m.term} give={(name) => edit({ kind: 'rename merge', label: m.term, name })}>
                <b>{m.term}</b>
              </Name>{' '}
              <Button
                data-stop=""
                look="plain"
                className="text-soft"
                onClick={() => setPick([{ kind: 'term', text: m.term }])}
              >
                {many(s.merges[i]?.answers ?? 0, 'answer')}
              </Button>
            </span>
            <span className="flex flex-wrap items-baseline gap-2.5">
              {m.variants.map((v) => (
                <Chip
                  key={v}
                  word={v}
                  faint={s.merges[i]?.unseen.includes(v)}
                  out={() => weigh({ kind: 'split', label: m.term, variants: [v] }, `Take ${v} out of ${m.term}`)}
                  form={
                    /[*?]/.test(v)
                      ? undefined
                      : () => weigh({ kind: 'merge', label: m.term, terms: [otherForms(v)] }, `Count ${v} otherwise`)
                  }
                  label={`take ${v} out of ${m.term}`}
                />
              ))}
              <Adding
                label={`Add to ${m.term}`}
                hint="add…"
                add={(terms) => weigh({ kind: 'merge', label: m.term, terms }, `Add to ${m.term}`)}
              />
            </span>
            <Button
              data-stop=""
              look="plain"
              onClick={() => weigh({ kind: 'split', label: m.term }, `Split ${m.term}`, 'Split')}
            >
              Split
            </Button>
          </li>
        ))}
      </ul>
      {!merges.length && <p className="text-soft">None yet. Select terms in the ledger and press m.</p>}
    </Section>
  );
}

function Lists({ s }: { s: LexiconState }) {
  const { edit } = useDesk();
  const weigh = useWeigh();
  const { setPick } = useAddress();
  const lists = s.lexicon.lists ?? [];
  const called = (name: string) => (/^[\p{L}\p{N}_'-]+$/u.test(name) ? `@${name}` : `@"${name}"`);
  return (
    <Section name="Term lists">
      <Head part="lists">Term lists</Head>
      <p className="text-sm text-soft">Used in rules by their names. Entries are like variants of merges.</p>
      <ul>
        {lists.map((l, i) => (
          <li
            key={l.name}
            data-part="lexline"
            className="grid grid-cols-[12rem_minmax(0,1fr)_auto] items-baseline gap-2.5 border-t border-hair py-1"
          >
            <span>
              <Name name={l.name} give={(name) => edit({ kind: 'rename list', list: l.name, name })}>
                <b>@{l.name}</b>
              </Name>{' '}
              <Button
                data-stop=""
                look="plain"
                className="text-soft"
                onClick={() => setPick([{ kind: 'words', text: called(l.name) }])}
              >
                {many(s.lists[i]?.answers ?? 0, 'answer')}
              </Button>
              {!!s.lists[i]?.used.length && (
                <small className="text-soft"> in rules of {s.lists[i].used.join(', ')}</small>
              )}
            </span>
            <span className="flex flex-wrap items-baseline gap-2.5">
              {l.entries.map((e) => (
                <Chip
                  key={e}
                  word={e}
                  faint={s.lists[i]?.unseen.includes(e)}
                  out={() => weigh({ kind: 'unlist', list: l.name, entries: [e] }, `Take ${e} off @${l.name}`)}
                  label={`take ${e} off @${l.name}`}
                />
              ))}
              <Adding
                label={`Add to @${l.name}`}
                hint="add…"
                add={(entries) => weigh({ kind: 'list', list: l.name, entries }, `Add to @${l.name}`)}
              />
            </span>
            <Button
              data-stop=""
              look="plain"
              onClick={() => weigh({ kind: 'unlist', list: l.name }, `Delete @${l.name}`, 'Delete')}
            >
              Delete
            </Button>
          </li>
        ))}
        <li
          data-part="lexline"
          className="grid grid-cols-[12rem_minmax(0,1fr)_auto] items-baseline gap-2.5 border-t border-hair py-1"
        >
          <span>
            <b>@negators</b> <small className="text-soft">built in</small>
          </span>
          <span className="text-soft">{s.negators.join(', ')}</span>
        </li>
      </ul>
      <Adding
        label="A new term list"
        hint="name of a new list…"
        add={(names) => edit({ kind: 'list', list: itemAt(names, 0) })}
      />
    </Section>
  );
}

function Apart({ s }: { s: LexiconState }) {
  const { edit } = useDesk();
  const apart = s.lexicon.apart ?? [];
  if (!apart.length) return null;
  const pairs = apart.reduce((n, m) => n + m.variants.length, 0);
  return (
    <Section name="Kept apart">
      <h2>Kept apart</h2>
      <p className="text-sm text-soft">{count(pairs)} refused suggestions; they are not made again.</p>
      <ul>
        {apart.map((m) => (
          <li
            key={m.term}
            data-part="lexline"
            className="grid grid-cols-[12rem_minmax(0,1fr)_auto] items-baseline gap-2.5 border-t border-hair py-1"
          >
            <b>{m.term}</b>
            <span className="flex flex-wrap items-baseline gap-2.5">
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
    </Section>
  );
}
