import { useQueryClient } from '@tanstack/react-query';
import { useEffect } from 'react';
import { useAddress } from '../lib/address';
import type { Checks as ChecksData } from '../lib/api';
import { useDesk, useStatus } from '../lib/edits';
import { count, many } from '../lib/format';
import { useProgress } from '../lib/live';
import { useAsk } from '../lib/queries';
import { itemAt, required } from '../lib/required';
import { type StepSpec, sentence } from '../lib/steps';
import { Failed } from '../parts/Asked';
import { Button } from '../parts/Button';
import { ProofSheet } from './Proof';

type Leftover = ChecksData['leftovers'][number];

/** Left-overs that one replacement mends stand together. */
function grouped(all: Leftover[]) {
  const groups: Leftover[][] = [];
  for (const l of all) {
    const group = l.mends ? groups.find((g) => itemAt(g, 0).rule === l.rule) : undefined;
    if (group) group.push(l);
    else groups.push([l]);
  }
  return groups;
}

/** What may be wrong: orders of steps that spoil something, and left-overs; each with a mend. */
export function Checks({ on, tryOut }: { on: StepSpec[]; tryOut: (steps: StepSpec[]) => void }) {
  const { question, edit } = useDesk();
  const { busy } = useStatus();
  const { setPick } = useAddress();
  const client = useQueryClient();
  const progress = useProgress();
  const checks = useAsk('checks', {});
  const found = checks.data;
  const warnings =
    found && !checks.isPlaceholderData
      ? found.hazards.filter((h) => !h.aside).length +
        new Set(found.leftovers.filter((l) => l.mends && !l.aside).map((l) => l.rule)).size
      : undefined;
  useEffect(() => {
    // The rail counts the warnings once they are known.
    if (warnings !== undefined && warnings !== question.warnings)
      client.invalidateQueries({ queryKey: ['question', question.id, 'state'] });
  }, [warnings, question.warnings, question.id, client]);
  if (checks.error && !checks.data) return <Failed error={checks.error} again={() => checks.refetch()} />;
  if (!found || checks.isPlaceholderData)
    return (
      <p className="text-soft" role="status">
        Checking the order of the steps
        {progress?.what?.startsWith('checking')
          ? `: ${count(progress.done ?? 0)} of ${count(progress.total ?? 0)}`
          : '…'}
      </p>
    );
  const aside = (warnings: string[], back?: boolean) => edit({ kind: 'put aside', warnings, back });
  const leftovers = found.leftovers.filter((l) => !l.aside);
  const put = [...found.hazards, ...found.leftovers].filter((w) => w.aside);
  return (
    <>
      {put.length > 0 && (
        <p className="pb-2 text-sm text-soft">
          {many(put.length, 'warning')} put aside ·{' '}
          <Button
            look="plain"
            disabled={busy}
            onClick={() =>
              aside(
                put.map((w) => w.name),
                true,
              )
            }
          >
            Bring back
          </Button>
        </p>
      )}
      {found.hazards
        .filter((h) => !h.aside)
        .map((h) => {
          const [first, second] = [on[h.first], on[h.second]];
          if (!first || !second) return null;
          return (
            <div
              data-part="warnbox"
              className="mb-3.5 border-l-3 border-clay py-0.5 pl-3 [&_b]:font-semibold"
              key={`${h.first}-${h.second}-${h.late}`}
            >
              <p>
                <b>Order.</b>{' '}
                {h.late
                  ? `“${sentence(first)}” comes too early: “${sentence(second)}” makes what it looks for in ${many(h.answers, 'answer')}.`
                  : `“${sentence(first)}” takes away what “${sentence(second)}” looks for in ${many(h.answers, 'answer')}.`}{' '}
                <Button look="plain" onClick={() => tryOut(h.mend)}>
                  Try it behind
                </Button>{' '}
                ·{' '}
                <Button look="plain" onClick={() => setPick([{ kind: 'hazard', n: h.first, m: h.second }])}>
                  Show them
                </Button>{' '}
                ·{' '}
                <Button look="plain" disabled={busy} onClick={() => aside([h.name])}>
                  Put aside
                </Button>
              </p>
              <ProofSheet proof={h.proof.slice(0, 1)} steps={on} />
            </div>
          );
        })}
      {leftovers.length > 0 && (
        <div data-part="warnbox" className="mb-3.5 border-l-3 border-clay py-0.5 pl-3 [&_b]:font-semibold">
          <p>
            <b>Leftovers.</b> Words that look like parts of others:
          </p>
          <ul>
            {grouped(leftovers).map((group) => {
              const [l] = group;
              return (
                <li key={required(l).word} data-part="leftover" className="py-px">
                  {group.map((x) => (
                    <Button
                      key={x.word}
                      look="plain"
                      aria-label={`${x.word} ${count(x.answers)}: show the answers`}
                      onClick={() => setPick([{ kind: 'words', text: `=${x.word}` }])}
                    >
                      <b>{x.word}</b> {count(x.answers)}
                    </Button>
                  ))}
                  <span className="text-soft">
                    {' '}
                    from{' '}
                    {required(l)
                      .from.map((f) => `“${f.text}”`)
                      .join(', ')}
                  </span>{' '}
                  {required(l).mend && (
                    <Button
                      look="plain"
                      title={`adds a replacement that finds ${required(l).rule}`}
                      onClick={() => tryOut(required(required(l).mend))}
                    >
                      Try a fix
                    </Button>
                  )}{' '}
                  <Button
                    look="plain"
                    disabled={busy}
                    aria-label={`Put aside: ${group.map((x) => x.word).join(', ')}`}
                    onClick={() => aside(group.map((x) => x.name))}
                  >
                    Put aside
                  </Button>
                </li>
              );
            })}
          </ul>
        </div>
      )}
    </>
  );
}
