import { useState } from 'react';
import { useFocus } from '../lib/address';
import type { Condition } from '../lib/api';
import { useDesk } from '../lib/desk';
import { count, many } from '../lib/format';
import { Sheet } from '../parts/Dialog';
import type { CleaningData } from './Clean';

const statuses: [string, string][] = [
  ['answered', 'answered'],
  ['no answer', 'refused, in so many words'],
  ['empty', 'no word in it'],
  ['missing', 'missing'],
];

type Props = { cleaning: CleaningData; short: number; setShort: (n: number) => void };

/** What the answers are: what they say, how alike and how short they are, and what is private in them. */
export function Statuses({ cleaning, short, setShort }: Props) {
  const { question, edit } = useDesk();
  const { pick, setPick, narrow } = useFocus();
  const [phrases, setPhrases] = useState(false);
  const [groups, setGroups] = useState(false);
  const line = (words: React.ReactNode, n: number, to: Condition) => (
    <li className="stepline two">
      <span>{words}</span>
      <button
        type="button"
        className="plain num"
        disabled={!n}
        aria-pressed={JSON.stringify(pick) === JSON.stringify([to])}
        onClick={() => setPick([to])}
      >
        {count(n)}
      </button>
    </li>
  );
  const { alike } = cleaning;
  return (
    <>
      <p className="caption">What the answers are</p>
      <ul className="plainlist ruled">
        {statuses.map(([status, words]) => (
          <li key={status} className="stepline two">
            <span>
              {words}{' '}
              {status === 'no answer' && (
                <button type="button" className="plain small" onClick={() => setPhrases(true)}>
                  {many(cleaning.noAnswers.length, 'phrase')}
                </button>
              )}
            </span>
            <button
              type="button"
              className="plain num"
              disabled={!question.statuses[status]}
              onClick={() => setPick([{ kind: 'status', text: status }])}
            >
              {count(question.statuses[status] ?? 0)}
            </button>
          </li>
        ))}
      </ul>
      <p className="caption">Among the answered</p>
      <ul className="plainlist ruled">
        {line(
          <>
            alike in their words{' '}
            {alike.groups > 0 && (
              <button type="button" className="plain small" onClick={() => setGroups(true)}>
                {many(alike.groups, 'group')}
              </button>
            )}
          </>,
          alike.answers,
          { kind: 'alike' },
        )}
        {line(
          <label>
            under{' '}
            <input
              className="tiny"
              type="number"
              min={1}
              max={100}
              aria-label="shorter than this many words"
              value={short}
              onChange={(e) => setShort(Math.max(1, Math.min(100, Number(e.target.value) || 1)))}
            />{' '}
            words
          </label>,
          cleaning.short,
          { kind: 'short', n: short },
        )}
      </ul>
      <p className="soft small">
        <button type="button" className="plain" onClick={() => narrow({ kind: 'short', n: short, not: true })}>
          leave the short ones out
        </button>{' '}
        of the focus
      </p>
      <p className="caption">Personal data</p>
      <ul className="plainlist ruled">
        {line('a mail address in it', cleaning.mail, { kind: 'personal', text: 'mail' })}
        {line('a phone number in it', cleaning.phone, { kind: 'personal', text: 'phone' })}
        <li className="stepline two">
          <label>
            <input
              type="checkbox"
              checked={cleaning.mask}
              onChange={(e) => edit({ kind: 'mask', on: e.target.checked })}
            />{' '}
            masked here and in exports
          </label>
        </li>
      </ul>
      {phrases && <Phrases phrases={cleaning.noAnswers} close={() => setPhrases(false)} />}
      {groups && (
        <Sheet title="Answers alike in their words" close={() => setGroups(false)}>
          <p className="soft">
            {many(alike.answers, 'answer')} in {many(alike.groups, 'group')}, case, spacing and punctuation aside;{' '}
            {count(alike.exact)} of them are the same to the letter.
            {alike.groups > alike.top.length && ` The ${alike.top.length} largest groups:`}
          </p>
          <ul className="plainlist ruled">
            {alike.top.map((g) => (
              <li key={g.number} className="stepline two">
                <span className="verbatim">{g.text}</span>
                <button
                  type="button"
                  className="plain num"
                  aria-label={`${count(g.answers)} like “${g.text}”: show them`}
                  onClick={() => {
                    setGroups(false);
                    setPick([{ kind: 'alike', n: g.number + 1 }]);
                  }}
                >
                  {count(g.answers)}
                </button>
              </li>
            ))}
          </ul>
          <p>
            <button type="button" onClick={() => setGroups(false)}>
              Close
            </button>
          </p>
        </Sheet>
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
  return (
    <Sheet title="Phrases of refusal" close={close}>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          close();
          edit({ kind: 'no answers', phrases: list });
        }}
      >
        <label className="stack">
          One per line. An answer that is nothing but one of these, case and punctuation aside, counts as refused.
          “Nothing” and “don’t know” are answers: they can be coded.
          <textarea rows={12} value={text} onChange={(e) => setText(e.target.value)} />
        </label>
        <p className="row">
          <button type="submit" className="go">
            Keep
          </button>
          <button type="button" onClick={close}>
            Close
          </button>
        </p>
      </form>
    </Sheet>
  );
}
