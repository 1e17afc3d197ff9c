import { useState } from 'react';
import { useAddress } from '../lib/address';
import type { Answer } from '../lib/api';
import { tint } from '../lib/format';
import { useAsk, useFrame } from '../lib/queries';
import { itemAt, required } from '../lib/required';
import { Failed } from '../parts/Asked';
import { Button } from '../parts/Button';
import { Combobox } from '../parts/Combobox';
import { Dialog } from '../parts/Dialog';
import { Empty, Labelled, Sentence } from '../parts/Text';
import { RuleText } from '../rule/Rule';
import { Words } from './Words';

/** Why an answer has a category, or not: each rule part by part, with what each found in it. */
export function WhyDialog({ answer, start, close }: { answer: Answer; start?: string; close: () => void }) {
  const { focusText } = useAddress();
  const frame = useFrame(focusText);
  const lines = frame.data?.categories ?? [];
  const [chosen, setChosen] = useState(start ?? '');
  const category = lines.find((l) => l.id === chosen) ?? lines[0];
  const why = useAsk('why', { answer: answer.number, category: required(category).id }, { enabled: !!category });
  const w = why.isPlaceholderData ? undefined : why.data;
  return (
    <Dialog title="Why, or why not?" close={close}>
      <p className="font-serif text-lg">
        <Words answer={answer} />
      </p>
      {!category ? (
        <Empty>There is no category yet.</Empty>
      ) : (
        <Labelled name="Category">
          <Combobox
            label="Category"
            value={category.id}
            change={(v) => setChosen(v)}
            options={lines.map((l) => ({
              value: l.id,
              words: `${l.path.join(' / ')} ${answer.codes.some((c) => c.id === l.id) ? ' ✓' : ''}`,
            }))}
          />
        </Labelled>
      )}
      {why.error && <Failed error={why.error} again={() => why.refetch()} />}
      {w && category && (
        <>
          <Sentence className={tint(category.top)} role="status">
            {w.has ? 'It has ' : 'It does not have '}
            <b>{category.name}</b>: {w.reason}.
          </Sentence>
          {w.rules.length === 0 && (
            <p className="text-soft">
              {category.net
                ? 'A net without rules of its own has what any category inside it has.'
                : 'It has no rule; it is given by hand only.'}
            </p>
          )}
          {w.rules.map((r) => (
            <section key={`${r.unless}${r.number}`} data-part="why-rule" className="border-t py-1.75">
              <p className="flex items-baseline gap-2.5">
                <span className={r.found ? 'font-bold text-moss' : 'text-soft'}>
                  {r.broken ? '!' : r.found ? '✓' : '–'}
                </span>
                <span className="font-mono text-lg break-words">
                  {r.unless && <em className="text-soft">unless </em>}
                  <RuleText source={r.source} />
                </span>
                <span className="text-sm text-soft">
                  {r.broken ?? (r.found ? 'matches' : 'does not match')}
                  {r.parts.length > 1 && !r.found && ` (${itemAt(r.parts, 0).what})`}
                  {r.found && r.parts[0]?.words.length ? (
                    <>
                      : <q>{r.parts[0].words.join(' … ')}</q>
                    </>
                  ) : null}
                </span>
              </p>
              {r.parts.length > 1 && (
                <ul>
                  {r.parts.slice(1).map((p, i) => (
                    <li
                      key={i}
                      style={{ paddingLeft: 4 + 18 * p.depth }}
                      className={p.spoils ? 'py-0.5 text-clay' : 'py-0.5'}
                    >
                      <span className={p.found && !p.spoils ? 'font-bold text-moss' : p.spoils ? '' : 'text-soft'}>
                        {p.spoils ? '✗' : p.found ? '✓' : '–'}
                      </span>{' '}
                      <code className="font-mono">{p.text}</code> <span className="text-sm text-soft">{p.what}:</span>{' '}
                      {p.words.length > 0 ? (
                        <span>
                          <q>{p.words.join(' … ')}</q>
                          {p.spoils && ', which must not be there'}
                        </span>
                      ) : (
                        <span className="text-soft">{p.found ? 'so it is' : 'not there'}</span>
                      )}
                    </li>
                  ))}
                </ul>
              )}
            </section>
          ))}
        </>
      )}
      <p className="flex items-baseline gap-2.5">
        <Button onClick={close}>Close</Button>
      </p>
    </Dialog>
  );
}
