import { useState } from 'react';
import { Words } from '../answers/Words';
import { tint } from '../lib/format';
import { useTry } from '../lib/queries';
import { sentence } from '../lib/steps';
import { Failed } from '../parts/Asked';
import { Labelled, Short, TextArea } from '../parts/Text';

/** Any text, through each step, into words, terms and categories. */
export function TryIt() {
  const [text, setText] = useState('');
  const tried = useTry('text/try', { text }, { enabled: text.trim() !== '' });
  const t = text.trim() ? tried.data : undefined;
  const sentences = t
    ? [...new Set(t.words.map((w) => w.sentence))].map((n) => t.words.filter((w) => w.sentence === n))
    : [];
  return (
    <div data-part="tryit" className="grid gap-2.5 pt-2.5">
      <Labelled name="Paste or type any text: it is read and coded as an answer would be, and kept nowhere">
        <TextArea
          rows={3}
          className="font-serif text-lg"
          aria-label="a text to try"
          value={text}
          onChange={(e) => setText(e.target.value)}
        />
      </Labelled>
      {tried.error && <Failed error={tried.error} again={() => tried.refetch()} />}
      {t && (
        <>
          <h2>Step by step</h2>
          <table
            data-part="stages"
            className="border-collapse [&_td]:border-t [&_td]:border-hair [&_td]:py-0.75 [&_td]:pr-4
              [&_td]:align-baseline [&_td:first-child]:whitespace-nowrap"
          >
            <tbody>
              {t.stages.map((s, i) => (
                <tr key={i} className={s.edits.length ? '' : 'text-soft'}>
                  <td>{sentence(s.step)}</td>
                  <td>{s.edits.length ? <span className="font-serif text-lg">{s.text}</span> : 'changes nothing'}</td>
                </tr>
              ))}
            </tbody>
          </table>
          <h2>Sentences, words and terms</h2>
          {t.status !== 'answered' && <p>As an answer it counts as {t.status}.</p>}
          {sentences.map((words, i) => (
            <p key={i} data-part="triedwords" className="flex flex-wrap gap-x-3 gap-y-1 [&_small]:text-moss">
              <b className="text-soft">{i + 1}</b>
              {words.map((w, j) => (
                <span
                  key={j}
                  className={w.stop ? 'text-soft' : ''}
                  title={w.new ? 'in no answer of this question' : undefined}
                >
                  {w.surface}
                  {w.term !== w.surface && <small> {w.term}</small>}
                  {w.stop && <small> hidden</small>}
                  {w.new && <small> new</small>}
                </span>
              ))}
            </p>
          ))}
          <h2>Categories</h2>
          {t.categories.length === 0 && <p className="text-soft">No rule catches it.</p>}
          {t.categories.map((c) => (
            <div key={c.id} className={`${tint(c.top)} triedcode`}>
              <span>
                <Short>{c.short}</Short>
                {c.name} <em className="text-soft">{c.rules.length > 0 && `rule ${c.rules.join(', ')}`}</em>
              </span>
              <p className="font-serif text-lg">
                <Words answer={c} />
              </p>
            </div>
          ))}
          <p className="text-sm text-soft">
            Rules that ask for a segment are judged as for somebody of whom nothing is known.
          </p>
        </>
      )}
    </div>
  );
}
