import { useEffect, useState } from 'react';
import { useAddress } from '../lib/address';
import type { Condition } from '../lib/api';
import { useDesk } from '../lib/edits';
import { count, many } from '../lib/format';
import { Button } from '../parts/Button';
import { Dialog, Ends } from '../parts/Dialog';
import { NumberField } from '../parts/NumberField';
import { Stops } from '../parts/Stops';
import { Caption, Labelled, TextArea } from '../parts/Text';
import { EffectOf } from '../rule/EffectOf';
import type { CleaningData } from './Clean';
import { NearDialog } from './Near';
import { Personal } from './Personal';

const statuses: [string, string][] = [
  ['answered', 'answered'],
  ['no answer', 'refused, in so many words'],
  ['empty', 'no word in it'],
  ['missing', 'missing'],
];

type Props = { cleaning: CleaningData; short: number; setShort: (n: number) => void };

/** What the answers are: what they say, how alike and how short they are, and what is private in them. */
export function Statuses({ cleaning, short, setShort }: Props) {
  const { question } = useDesk();
  const { pick, setPick, narrow } = useAddress();
  const [phrases, setPhrases] = useState(false);
  const [groups, setGroups] = useState(false);
  const [near, setNear] = useState(false);
  const line = (words: React.ReactNode, n: number, to: Condition) => (
    <li className="grid grid-cols-[1fr_auto] items-baseline gap-x-1 gap-y-0.5 border-t py-1.75">
      <span>{words}</span>
      <Button
        look="plain"
        data-stop=""
        className="text-right"
        disabled={!n}
        aria-pressed={JSON.stringify(pick) === JSON.stringify([to])}
        onClick={() => setPick([to])}
      >
        {count(n)}
      </Button>
    </li>
  );
  const { alike } = cleaning;
  return (
    <>
      <Caption>What the answers are</Caption>
      <Stops as="ul" aria-label="What the answers are" className="mb-4 border-b">
        {statuses.map(([status, words]) => (
          <li key={status} className="grid grid-cols-[1fr_auto] items-baseline gap-x-1 gap-y-0.5 border-t py-1.75">
            <span>
              {words}{' '}
              {status === 'no answer' && (
                <Button look="plain" data-stop="" className="text-sm" onClick={() => setPhrases(true)}>
                  {many(cleaning.noAnswers.length, 'phrase')}
                </Button>
              )}
            </span>
            <Button
              look="plain"
              data-stop=""
              className="text-right"
              disabled={!question.statuses[status]}
              onClick={() => setPick([{ kind: 'status', text: status }])}
            >
              {count(question.statuses[status] ?? 0)}
            </Button>
          </li>
        ))}
      </Stops>
      <Caption>Among the answered</Caption>
      <Stops as="ul" aria-label="Among the answered" className="mb-4 border-b">
        {line(
          <>
            alike in their words{' '}
            {alike.groups > 0 && (
              <Button look="plain" data-stop="" className="text-sm" onClick={() => setGroups(true)}>
                {many(alike.groups, 'group')}
              </Button>
            )}
          </>,
          alike.answers,
          { kind: 'alike' },
        )}
        <li className="grid grid-cols-[1fr_auto] items-baseline gap-x-1 gap-y-0.5 border-t py-1.75">
          <span>nearly alike</span>
          <Button look="plain" data-stop="" onClick={() => setNear(true)}>
            Compare
          </Button>
        </li>
        {line(
          <>
            under{' '}
            <NumberField
              quiet
              label="shorter than this many words"
              value={short}
              least={1}
              most={100}
              change={setShort}
            />{' '}
            words
          </>,
          cleaning.short,
          { kind: 'short', n: short },
        )}
      </Stops>
      <p className="mb-4 text-sm text-soft">
        <Button look="plain" onClick={() => narrow({ kind: 'short', n: short, not: true })}>
          leave the short ones out
        </Button>{' '}
        of the focus
      </p>
      <Personal mask={cleaning.mask} />
      {near && <NearDialog close={() => setNear(false)} />}
      {phrases && <Phrases phrases={cleaning.noAnswers} close={() => setPhrases(false)} />}
      {groups && (
        <Dialog title="Answers alike in their words" close={() => setGroups(false)}>
          <p className="text-soft">
            {many(alike.answers, 'answer')} in {many(alike.groups, 'group')}, case, spacing and punctuation aside;{' '}
            {count(alike.exact)} of them are the same to the letter.
            {alike.groups > alike.top.length && ` The ${alike.top.length} largest groups:`}
          </p>
          <ul className="mb-4 border-b">
            {alike.top.map((g) => (
              <li
                key={g.number}
                className="grid grid-cols-[1fr_auto] items-baseline gap-x-1 gap-y-0.5 border-t py-1.75"
              >
                <span className="font-serif text-lg">{g.text}</span>
                <Button
                  look="plain"
                  className="text-right"
                  aria-label={`${count(g.answers)} like “${g.text}”: show them`}
                  onClick={() => {
                    setGroups(false);
                    setPick([{ kind: 'alike', n: g.number + 1 }]);
                  }}
                >
                  {count(g.answers)}
                </Button>
              </li>
            ))}
          </ul>
          <p>
            <Button onClick={() => setGroups(false)}>Close</Button>
          </p>
        </Dialog>
      )}
    </>
  );
}

function Phrases({ phrases, close }: { phrases: string[]; close: () => void }) {
  const { edit } = useDesk();
  const [text, setText] = useState(phrases.join('\n'));
  const list = text
    .split('\n')
    .map((p) => p.trim())
    .filter(Boolean);
  // What is typed is previewed once the typing rests.
  const [settled, setSettled] = useState<string[]>();
  const key = list.join('\n');
  // biome-ignore lint/correctness/useExhaustiveDependencies: the list is told by its text
  useEffect(() => {
    const timer = setTimeout(() => setSettled(key === phrases.join('\n') ? undefined : list), 400);
    return () => clearTimeout(timer);
  }, [key]);
  return (
    <Dialog title="Phrases of refusal" close={close}>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          close();
          edit({ kind: 'no answers', phrases: list });
        }}
      >
        <Labelled name="One per line. An answer that is nothing but one of these, case and punctuation aside, counts as refused. “Nothing” and “don’t know” are answers: they can be coded.">
          <TextArea rows={12} value={text} onChange={(e) => setText(e.target.value)} />
        </Labelled>
        <div className="pt-2">
          <EffectOf change={settled && { kind: 'no answers', phrases: settled }} />
        </div>
        <Ends go="Keep" ready={key !== phrases.join('\n')} close={close} />
      </form>
    </Dialog>
  );
}
