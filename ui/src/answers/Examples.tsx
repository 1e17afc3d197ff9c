import { useState } from 'react';
import { useAddress } from '../lib/address';
import type { Edit, Induced } from '../lib/api';
import { categoryOptions, useDesk } from '../lib/edits';
import { count, many } from '../lib/format';
import { useKept } from '../lib/kept';
import { useFrame, useTry } from '../lib/queries';
import { Failed } from '../parts/Asked';
import { Button } from '../parts/Button';
import { Checkbox } from '../parts/Checkbox';
import { Combobox } from '../parts/Combobox';
import { Dialog, Ends } from '../parts/Dialog';
import { useRoving } from '../parts/roving';
import { Empty, Labelled, Skeleton, TextField } from '../parts/Text';
import { EffectOf } from '../rule/EffectOf';
import { RuleText } from '../rule/Rule';
import { Example } from './Words';

/** Answers that were marked: examples of what belongs to a category, and of what doesn't, by the numbers of their respondents. */
export type Marked = { in: number[]; out: number[] };
export type Side = keyof Marked;

/** What is marked stays marked, in this window, until it is done with. */
export function useMarked() {
  const [marked, setMarked] = useKept<Marked>('examples', { in: [], out: [] });
  /** Marks an answer; one that is marked so already is let go of. */
  const mark = (answer: number, as: Side) => {
    const other = as === 'in' ? 'out' : 'in';
    const on = marked[as].includes(answer);
    setMarked({
      ...marked,
      [as]: on ? marked[as].filter((a) => a !== answer) : [...marked[as], answer],
      [other]: marked[other].filter((a) => a !== answer),
    });
  };
  return { marked, mark, clear: () => setMarked({ in: [], out: [] }) };
}

/** The two marks of an answer. */
export function Marks({
  answer,
  marked,
  mark,
}: {
  answer: number;
  marked: Marked;
  mark: (a: number, as: Side) => void;
}) {
  const one = (as: Side, sign: string, label: string) => (
    <Button
      look="plain"
      tabIndex={-1}
      className="min-w-6 text-center"
      aria-pressed={marked[as].includes(answer)}
      aria-label={label}
      title={label}
      onClick={(e) => {
        e.stopPropagation();
        mark(answer, as);
      }}
    >
      {sign}
    </Button>
  );
  return (
    <>
      {one('in', '+', 'Mark as an example that belongs (+)')}
      {one('out', '−', 'Mark as an example that does not belong (−)')}
    </>
  );
}

type StripProps = { marked: Marked; clear: () => void };

/** Says what is marked, and makes rules of it. */
export function ExamplesStrip({ marked, clear }: StripProps) {
  const { setPick } = useAddress();
  const [open, setOpen] = useState(false);
  const all = [...marked.in, ...marked.out];
  if (!all.length) return null;
  return (
    <section
      data-part="examples"
      aria-label="Marked answers"
      className="-ml-5 flex flex-wrap items-baseline gap-x-2.5 gap-y-1 border-t-2 border-moss bg-paper px-5 py-2"
    >
      <span role="status">
        {many(marked.in.length, 'example')}
        {marked.out.length > 0 &&
          `, ${count(marked.out.length)} that ${marked.out.length === 1 ? 'does' : 'do'} not belong`}
      </span>
      <Button look="go" disabled={!marked.in.length} onClick={() => setOpen(true)}>
        Find rules
      </Button>
      <Button look="plain" onClick={() => setPick([{ kind: 'answers', answers: all }])}>
        show them
      </Button>
      <Button look="plain" onClick={clear}>
        clear
      </Button>
      {open && <FromExamples marked={marked} close={() => setOpen(false)} done={clear} />}
    </section>
  );
}

type FromProps = { marked: Marked; close: () => void; done: () => void };

/** Rules that find what the marked answers have in common; one of them is kept, with what it misses, in one edit. */
function FromExamples({ marked, close, done }: FromProps) {
  const { focusText, get, set } = useAddress();
  const { edit } = useDesk();
  const frame = useFrame(focusText);
  const lines = frame.data?.categories ?? [];
  const [into, setInto] = useState(() => (lines.some((l) => l.id === get('category')) ? get('category') : ''));
  const found = useTry('rule/examples', { ...marked, category: into || undefined }, { query: { focus: focusText } });
  const [chosen, setChosen] = useState('');
  const [name, setName] = useState<string>();
  const [byHand, setByHand] = useState(false);
  const offers = found.now?.offers ?? [];
  const offer = offers.find((o) => o.rule === chosen) ?? offers[0];
  const line = lines.find((l) => l.id === into);
  const called = name ?? offer?.name ?? '';
  const hands = offer && !line?.net ? offer.missed.length + offer.wrong.length : 0;
  const change =
    offer && keeping({ offer, into: line?.id, path: line?.path.join(' / '), called, byHand: byHand && hands > 0 });
  const keep = async () => {
    if (!change) return;
    close();
    if (!(await edit(change))) return;
    done();
    if (into) set({ pick: JSON.stringify([{ kind: 'category', id: into }]) }, true);
  };
  return (
    <Dialog title="Rules from examples" wide close={close}>
      <form
        className="grid gap-2"
        onSubmit={(e) => {
          e.preventDefault();
          keep();
        }}
      >
        {found.error && !found.data && <Failed error={found.error} again={() => found.refetch()} />}
        {!found.now && !found.error && <Skeleton lines={4} />}
        {found.now && !offers.length && (
          <Empty>
            These answers have no term in common that tells them from the rest. Mark some more that belong, or select
            words in one of them and write a rule of those.
          </Empty>
        )}
        {offer && (
          <>
            <Offers offers={offers} chosen={offer.rule} choose={setChosen} examples={marked} />
            <section aria-label="What else it catches" className="border-t pt-1.5">
              <h3 className="text-sm text-soft">
                {offer.new
                  ? `${many(offer.new, 'answer')} more${offer.new > offer.examples.answers.length ? `, ${offer.examples.answers.length} of them drawn at random` : ''}`
                  : 'It catches no other answer.'}
              </h3>
              <ul className="max-h-[26vh] overflow-y-auto">
                {offer.examples.answers.map((a) => (
                  <Example key={a.number} answer={a} />
                ))}
              </ul>
            </section>
            <div className="flex flex-wrap gap-x-5">
              <Labelled name="It belongs to">
                <Combobox
                  label="It belongs to"
                  value={into}
                  change={setInto}
                  options={[{ value: '', words: 'a new category' }, ...categoryOptions(lines)]}
                />
              </Labelled>
              {!into && (
                <Labelled name="Name">
                  <TextField value={called} onChange={(e) => setName(e.target.value)} />
                </Labelled>
              )}
            </div>
            {hands > 0 && (
              <label>
                <Checkbox checked={byHand} change={setByHand} />{' '}
                {offer.missed.length > 0 &&
                  `put the ${offer.missed.length === 1 ? 'example' : `${count(offer.missed.length)} examples`} it misses there by hand`}
                {offer.missed.length > 0 && offer.wrong.length > 0 && ', and '}
                {offer.wrong.length > 0 &&
                  `take the ${offer.wrong.length === 1 ? 'one' : count(offer.wrong.length)} that ${offer.wrong.length === 1 ? 'does' : 'do'} not belong off it`}
              </label>
            )}
            {called.trim() && <EffectOf change={change} />}
          </>
        )}
        <Ends go="Keep it" ready={!!change && (!!into || !!called.trim())} close={close} />
      </form>
    </Dialog>
  );
}

type Offer = Induced['offers'][number];

/** The rules that are offered, with what they find of the examples and how much more. */
function Offers({
  offers,
  chosen,
  choose,
  examples,
}: {
  offers: Offer[];
  chosen: string;
  choose: (rule: string) => void;
  examples: Marked;
}) {
  const stops = useRoving<HTMLUListElement>();
  return (
    <ul {...stops} aria-label="Rules">
      {offers.map((o) => (
        <li key={o.rule} className="border-t">
          <Button
            look="bare"
            data-stop={o.rule === chosen ? 'here' : ''}
            data-part="offer"
            aria-pressed={o.rule === chosen}
            className="grid w-full grid-cols-[minmax(0,1fr)_auto] items-baseline gap-x-4 px-1 py-1 aria-pressed:bg-mosspale forced-colors:aria-pressed:outline"
            onClick={() => choose(o.rule)}
          >
            <span className="font-mono text-lg break-words">
              <RuleText source={o.rule} />
            </span>
            <span className="text-right text-sm text-soft">
              {count(examples.in.length - o.missed.length)} of {many(examples.in.length, 'example')}
              {examples.out.length > 0 && `, ${count(o.wrong.length)} of the others`} · {many(o.matches, 'answer')},{' '}
              {count(o.uncoded)} uncoded
            </span>
          </Button>
        </li>
      ))}
    </ul>
  );
}

type Keeping = { offer: Offer; into?: string; path?: string; called: string; byHand: boolean };

/** The one edit that keeps a rule and, if so chosen, what it misses. */
function keeping({ offer, into, path, called, byHand }: Keeping): Edit {
  const on = byHand ? offer.missed : [];
  const off = byHand ? offer.wrong : [];
  if (!into) return { kind: 'add category', name: called.trim(), rules: [offer.rule], on, off };
  const by = (answers: number[], to: 'on' | 'off') => (answers.length ? [{ category: into, answers, to }] : []);
  return {
    kind: 'several',
    summary: `Added the rule ${offer.rule} to ${path} from examples`,
    rules: [{ category: into, rule: offer.rule }],
    decide: [...by(on, 'on'), ...by(off, 'off')],
  };
}
