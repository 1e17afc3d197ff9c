import { useState } from 'react';
import { useAddress } from '../lib/address';
import type { Edit, Effect, Term } from '../lib/api';
import { useDesk } from '../lib/edits';
import { count, many } from '../lib/format';
import { useAsk } from '../lib/queries';
import { Button } from '../parts/Button';
import { Checkbox } from '../parts/Checkbox';
import { Dialog, Ends } from '../parts/Dialog';
import { Labelled, Sentence, TextField } from '../parts/Text';
import { useEffectOf } from '../rule/EffectOf';
import { useLexicon } from './lexicon';

/** What an edit would do to the categories, in words. */
/** What becomes of the merge itself. */
export function MergedInWords({ effect }: { effect: Pick<Effect, 'merged'> }) {
  return effect.merged.map((m) => (
    <span key={m.label}>
      {m.label} has{' '}
      {m.before === m.after ? many(m.after, 'answer') : `${many(m.after, 'answer')} then, ${count(m.before)} now`}
      {m.takes.length > 0 &&
        `; it takes ${m.takes
          .slice(0, 4)
          .map((t) => `${t.words.join(', ')} (${count(t.times)})${t.words.includes(t.label) ? '' : ` from ${t.label}`}`)
          .join('; ')}${m.takes.length > 4 ? ` and words of ${count(m.takes.length - 4)} more` : ''} along`}
      {'. '}
      {m.hidden && (
        <b className="font-semibold text-clay">
          A stop word is among it, so the whole of it would be hidden from lists.{' '}
        </b>
      )}
    </span>
  ));
}

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

function MergeSheet({ terms, close, done }: Props) {
  const { edit } = useDesk();
  const { setPick } = useAddress();
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
    <Dialog title="Count as one term" close={close}>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          if (ready) keep();
        }}
      >
        <Labelled name="Called">
          <TextField wide value={label} onChange={(e) => setLabel(e.target.value)} />
        </Labelled>
        <Chips terms={terms} take={setLabel} />
        <Labelled name="and further words, separated by commas; several words may make one, and * stands for any ending">
          <TextField wide value={more} onChange={(e) => setMore(e.target.value)} placeholder="tailback*, long wait" />
        </Labelled>
        <Sentence>
          {!ready ? (
            'Name at least one word besides the label.'
          ) : preview.error ? (
            <span className="text-clay">{preview.error.message}</span>
          ) : preview.now ? (
            <>
              <MergedInWords effect={preview.now} />
              <EffectInWords effect={preview.now} /> {many(preview.now.coded, 'answer')} coded in the end.
            </>
          ) : (
            '…'
          )}
        </Sentence>
        <Ends go="Merge" ready={ready} close={close} />
      </form>
    </Dialog>
  );
}

/** The terms that it goes for; where there is something to take one for, each can be pressed. */
const Chips = ({ terms, take }: { terms: string[]; take?: (term: string) => void }) => (
  <p className="flex flex-wrap gap-1.5 py-1">
    {terms.map((t) =>
      take ? (
        <Button key={t} look="bare" className={chip} title="call it so" onClick={() => take(t)}>
          {t}
        </Button>
      ) : (
        <span key={t} className={chip}>
          {t}
        </span>
      ),
    )}
  </p>
);

const chip = 'inline-block rounded-sm border border-edge px-1.75';

/** Puts terms on a term list, a new one or one there is. */
export function ListSheet({ terms, close, done }: Props) {
  const { edit } = useDesk();
  const lexicon = useLexicon();
  const lists = lexicon.data?.lexicon.lists ?? [];
  const [name, setName] = useState('');
  const ready = !!name.trim();
  const known = lists.some((l) => l.name === name.trim());
  return (
    <Dialog title="To a term list" close={close}>
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
        <Labelled name="Name of the list; rules call it by @name">
          <TextField wide value={name} onChange={(e) => setName(e.target.value)} />
        </Labelled>
        <p className="flex flex-wrap items-baseline gap-2.5">
          {lists.map((l) => (
            <Button key={l.name} look="plain" onClick={() => setName(l.name)}>
              @{l.name} ({l.entries.length})
            </Button>
          ))}
        </p>
        <Ends go={known ? `Add to @${name.trim()}` : 'Make the list'} ready={ready} close={close} />
      </form>
    </Dialog>
  );
}

/** Takes words out of what is joined under a term. */
function PartSheet({ term, start, close }: { term: Term; start: string[]; close: () => void }) {
  const { edit } = useDesk();
  const [out, setOut] = useState(start);
  const [together, setTogether] = useState(true);
  const all = useAsk('members', { term: term.label });
  const others = (all.data ?? []).map((m) => m.word).filter((w) => w !== term.label);
  // Without anything but its label a merge is none.
  const whole = term.merge && others.length > 0 && others.every((w) => out.includes(w));
  const change: Edit = term.merge
    ? { kind: 'split', label: term.label, variants: whole ? [] : out }
    : { kind: 'part', words: out, from: term.label, together: (out.length > 1 && together) || undefined };
  const preview = useEffectOf(change, out.length > 0);
  return (
    <Dialog title={`What is joined as ${term.label}`} close={close}>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          if (!out.length) return;
          close();
          edit(change);
        }}
      >
        <p className="text-soft">Tick what should stand apart.</p>
        <div data-part="partlist" className="columns-3 max-h-[40vh] overflow-auto [&_label]:block">
          {all.data?.map((m) => (
            <label key={m.word}>
              <Checkbox
                checked={out.includes(m.word)}
                disabled={term.merge && m.word === term.label}
                change={(on) => setOut(on ? [...out, m.word] : out.filter((w) => w !== m.word))}
              />{' '}
              {m.word} <span className="text-soft">{count(m.times)}</span>
            </label>
          ))}
        </div>
        <Sentence>
          {preview.error ? (
            <span className="text-clay">{preview.error.message}</span>
          ) : out.length && preview.now ? (
            <EffectInWords effect={preview.now} />
          ) : (
            'Nothing is ticked yet.'
          )}
        </Sentence>
        {!term.merge && out.length > 1 && (
          <p className="pt-1">
            <label>
              <Checkbox checked={together} change={setTogether} /> they count as one term, apart from {term.label}
            </label>
          </p>
        )}
        <Ends go="Split" ready={out.length > 0} close={close}>
          {term.merge && <Button onClick={() => setOut(others)}>Tick all</Button>}
        </Ends>
      </form>
    </Dialog>
  );
}

type SheetsProps = { terms: () => string[]; term?: Term; done: () => void };
type Which = 'merge' | 'part' | 'list';

/** The dialogs that ask what is to be done with terms. They go on speaking of the terms that they were opened for. */
export function useSheets({ terms, term, done }: SheetsProps) {
  const [asked, setAsked] = useState<{ which: Which; terms: string[]; term?: Term; out: string[] }>();
  const close = () => setAsked(undefined);
  return {
    open: (which: Which, ...out: string[]) => setAsked({ which, terms: terms(), term, out }),
    shown:
      asked?.which === 'merge' ? (
        <MergeSheet terms={asked.terms} close={close} done={done} />
      ) : asked?.which === 'list' ? (
        <ListSheet terms={asked.terms} close={close} done={done} />
      ) : asked?.term ? (
        <PartSheet term={asked.term} start={asked.out} close={close} />
      ) : null,
  };
}
