import { useState } from 'react';
import { useFocus } from '../lib/address';
import { type Answer, api, take } from '../lib/api';
import { useAsk, useFrame } from '../lib/desk';
import { tint } from '../lib/format';
import { Sheet } from '../parts/Dialog';
import { RuleText } from '../rule/Rule';
import { Words } from './Answers';

/** Why an answer has a category, or not: each rule part by part, with what each found in it. */
export function WhySheet({ answer, start, close }: { answer: Answer; start?: string; close: () => void }) {
  const { focusText } = useFocus();
  const frame = useFrame(focusText);
  const lines = frame.data?.categories ?? [];
  const [chosen, setChosen] = useState(start ?? '');
  const category = lines.find((l) => l.id === chosen) ?? lines[0];
  const why = useAsk(
    ['why', answer.number, category?.id],
    (question) =>
      take(
        api.GET('/api/v1/questions/{question}/why', {
          params: { path: { question }, query: { answer: answer.number, category: category!.id } },
        }),
      ),
    !!category,
  );
  const w = why.isPlaceholderData ? undefined : why.data;
  return (
    <Sheet title="Why, or why not?" close={close}>
      <p className="verbatim">
        <Words answer={answer} />
      </p>
      {!category ? (
        <p className="empty">There is no category yet.</p>
      ) : (
        <label className="stack">
          Category
          <select value={category.id} onChange={(e) => setChosen(e.target.value)}>
            {lines.map((l) => (
              <option key={l.id} value={l.id}>
                {l.path.join(' / ')}
                {answer.codes.some((c) => c.id === l.id) ? ' ✓' : ''}
              </option>
            ))}
          </select>
        </label>
      )}
      {why.error && <p className="bad">{why.error.message}</p>}
      {w && category && (
        <>
          <p className={`effect ${tint(category.top)}`} role="status">
            {w.has ? 'It has ' : 'It does not have '}
            <b>{category.name}</b>: {w.reason}.
          </p>
          {w.rules.length === 0 && (
            <p className="soft">
              {category.net
                ? 'A net without rules of its own has what any category inside it has.'
                : 'It has no rule; it is given by hand only.'}
            </p>
          )}
          {w.rules.map((r) => (
            <section key={`${r.unless}${r.number}`} className="whyrule">
              <p className="row">
                <span className={r.found ? 'found' : 'soft'}>{r.broken ? '!' : r.found ? '✓' : '–'}</span>
                <span className="rulesource">
                  {r.unless && <em className="soft">unless </em>}
                  <RuleText source={r.source} />
                </span>
                <span className="soft small">
                  {r.broken ?? (r.found ? 'matches' : 'does not match')}
                  {r.parts.length > 1 && !r.found && ` (${r.parts[0]!.what})`}
                  {r.found && r.parts[0]?.words.length ? (
                    <>
                      : <q>{r.parts[0].words.join(' … ')}</q>
                    </>
                  ) : null}
                </span>
              </p>
              {r.parts.length > 1 && (
                <ul className="plainlist">
                  {r.parts.slice(1).map((p, i) => (
                    <li key={i} style={{ paddingLeft: 4 + 18 * p.depth }} className={p.spoils ? 'bad' : ''}>
                      <span className={p.found && !p.spoils ? 'found' : p.spoils ? '' : 'soft'}>
                        {p.spoils ? '✗' : p.found ? '✓' : '–'}
                      </span>{' '}
                      <code>{p.text}</code> <span className="soft small">{p.what}:</span>{' '}
                      {p.words.length > 0 ? (
                        <span>
                          <q>{p.words.join(' … ')}</q>
                          {p.spoils && ', which must not be there'}
                        </span>
                      ) : (
                        <span className="soft">{p.found ? 'so it is' : 'not there'}</span>
                      )}
                    </li>
                  ))}
                </ul>
              )}
            </section>
          ))}
        </>
      )}
      <p className="row">
        <button type="button" onClick={close}>
          Close
        </button>
      </p>
    </Sheet>
  );
}
