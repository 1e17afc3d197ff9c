import { useQueryClient } from '@tanstack/react-query';
import { useEffect } from 'react';
import { useFocus } from '../lib/address';
import { api, type Checks as ChecksData, take } from '../lib/api';
import { useAsk, useDesk } from '../lib/desk';
import { count, many } from '../lib/format';
import { useProgress } from '../lib/live';
import { ProofSheet } from './Proof';
import { type StepSpec, sentence } from './steps';

type Leftover = ChecksData['leftovers'][number];

/** Left-overs that one replacement mends stand together. */
function grouped(all: Leftover[]) {
  const groups: Leftover[][] = [];
  for (const l of all) {
    const group = l.mends ? groups.find((g) => g[0]!.rule === l.rule) : undefined;
    if (group) group.push(l);
    else groups.push([l]);
  }
  return groups;
}

/** What may be wrong: orders of steps that spoil something, and left-overs; each with a mend. */
export function Checks({ on }: { on: StepSpec[] }) {
  const { question, edit, busy } = useDesk();
  const { setPick } = useFocus();
  const client = useQueryClient();
  const progress = useProgress();
  const checks = useAsk(['checks', question.revision], (q) =>
    take(api.GET('/api/v1/questions/{question}/checks', { params: { path: { question: q } } })),
  );
  const found = checks.data;
  const warnings =
    found && !checks.isPlaceholderData
      ? found.hazards.length + found.leftovers.filter((l) => l.mends).length
      : undefined;
  useEffect(() => {
    // The rail counts the warnings once they are known.
    if (warnings !== undefined && warnings !== question.warnings)
      client.invalidateQueries({ queryKey: ['question', question.id, 'state'] });
  }, [warnings, question.warnings, question.id, client]);
  if (checks.error) return <p className="bad">{checks.error.message}</p>;
  if (!found || checks.isPlaceholderData)
    return (
      <p className="soft" role="status">
        Checking the order of the steps
        {progress?.what?.startsWith('checking')
          ? `: ${count(progress.done ?? 0)} of ${count(progress.total ?? 0)}`
          : '…'}
      </p>
    );
  return (
    <>
      {found.hazards.map((h) => {
        const [first, second] = [on[h.first], on[h.second]];
        if (!first || !second) return null;
        return (
          <div className="warnbox" key={`${h.first}-${h.second}-${h.late}`}>
            <p>
              <b>Order.</b>{' '}
              {h.late
                ? `“${sentence(first)}” comes too early: “${sentence(second)}” makes what it looks for in ${many(h.answers, 'answer')}.`
                : `“${sentence(first)}” takes away what “${sentence(second)}” looks for in ${many(h.answers, 'answer')}.`}{' '}
              <button
                type="button"
                className="plain"
                disabled={busy}
                onClick={() => edit({ kind: 'cleaning', steps: h.mend })}
              >
                Move it behind
              </button>{' '}
              ·{' '}
              <button
                type="button"
                className="plain"
                onClick={() => setPick([{ kind: 'hazard', n: h.first, m: h.second }])}
              >
                Show them
              </button>
            </p>
            <ProofSheet proof={h.proof.slice(0, 1)} steps={on} />
          </div>
        );
      })}
      {found.leftovers.length > 0 && (
        <div className="warnbox">
          <p>
            <b>Left over.</b> Words that look like what is left of something:
          </p>
          <ul className="plainlist">
            {grouped(found.leftovers).map((group) => {
              const [l] = group;
              return (
                <li key={l!.word} className="leftover">
                  {group.map((x) => (
                    <button
                      key={x.word}
                      type="button"
                      className="plain"
                      aria-label={`${x.word} ${count(x.answers)}: show the answers`}
                      onClick={() => setPick([{ kind: 'words', text: `=${x.word}` }])}
                    >
                      <b>{x.word}</b> {count(x.answers)}
                    </button>
                  ))}
                  <span className="soft"> from {l!.from.map((f) => `“${f.text}”`).join(', ')}</span>{' '}
                  {l!.mend && (
                    <button
                      type="button"
                      className="plain"
                      disabled={busy}
                      title={`adds a replacement that finds ${l!.rule}`}
                      onClick={() => edit({ kind: 'cleaning', steps: l!.mend! })}
                    >
                      Mend
                    </button>
                  )}
                </li>
              );
            })}
          </ul>
        </div>
      )}
    </>
  );
}
