import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { useFocus } from '../lib/address';
import { api, take } from '../lib/api';
import { useAsk, useDesk } from '../lib/desk';
import { count, many } from '../lib/format';
import { useKeys } from '../lib/keys';
import { useProgress } from '../lib/live';
import type { components } from '../lib/schema.gen';
import { CopyFrom } from '../rule/CopyFrom';
import { Checks } from './Checks';
import { ProofSheet } from './Proof';
import { Statuses } from './Statuses';
import { Steps } from './Steps';
import { bare, type StepSpec, same, sentences } from './steps';
import { TryIt } from './TryIt';

export type CleaningData = components['schemas']['Cleaning'];

/** The steps that answers are read by, and a proof sheet of what they changed. */
export default function Clean() {
  const { question, edit, busy } = useDesk();
  const { focus, focusText, pick, setPick } = useFocus();
  const [draft, setDraft] = useState<StepSpec[]>();
  const [short, setShort] = useState(3);
  const [tab, setTab] = useState<'proof' | 'try'>('proof');
  const only = pick.find((p) => p.kind === 'step')?.text;
  const shown = only ? JSON.stringify([...focus, { kind: 'step', text: only }]) : focusText;
  const cleaning = useAsk(['cleaning', shown, short], (q) =>
    take(
      api.GET('/api/v1/questions/{question}/cleaning', {
        params: { path: { question: q }, query: { focus: shown, short } },
      }),
    ),
  );
  const kept = cleaning.data?.steps.filter((s) => s.on).map(bare) ?? [];
  const tried = draft && !same(draft, kept) ? draft : undefined;
  const keep = () => {
    if (!tried) return;
    setDraft(undefined);
    edit({ kind: 'cleaning', steps: tried });
  };
  const drop = () => setDraft(undefined);
  useKeys(tried ? { Enter: keep, Escape: drop } : {});
  if (cleaning.error) return <p className="bad">{cleaning.error.message}</p>;
  if (!cleaning.data) return <p className="ghost">&nbsp;</p>;
  const { steps, proof } = cleaning.data;
  return (
    <div className="cleanv" aria-busy={cleaning.isPlaceholderData}>
      <section aria-label="Steps">
        <p className="caption">In this order, on {count(question.respondents)} answers</p>
        <Steps
          kept={steps}
          on={tried ?? kept}
          busy={busy}
          only={only}
          change={setDraft}
          show={(step) => {
            setTab('proof');
            setPick(only === step ? [] : [{ kind: 'step', text: step }]);
          }}
        />
        <Statuses cleaning={cleaning.data} short={short} setShort={setShort} />
        <CopyFrom first="cleaning" />
      </section>
      <section aria-label="Proof sheet">
        {tried ? (
          <Tried key={JSON.stringify(tried)} steps={tried} keep={keep} drop={drop} />
        ) : (
          <>
            <Checks on={kept} />
            <div className="tabs" role="tablist" aria-label="What is shown">
              <button type="button" role="tab" aria-selected={tab === 'proof'} onClick={() => setTab('proof')}>
                Proof sheet
              </button>
              <button type="button" role="tab" aria-selected={tab === 'try'} onClick={() => setTab('try')}>
                Try a text
              </button>
            </div>
            {tab === 'try' ? (
              <TryIt />
            ) : (
              <>
                <p className="soft">
                  {only
                    ? `Answers that “${sentences[only]}” changed; what other steps did is faint. `
                    : `${many(proof.length, 'answer')}, chosen so that every step shows. `}
                  Struck: not read. Green: read instead. The originals stay as they are.
                </p>
                {proof.length === 0 && <p className="empty">No answer in this focus was changed.</p>}
                <ProofSheet proof={proof} steps={kept} only={only} />
              </>
            )}
          </>
        )}
      </section>
    </div>
  );
}

/** What other steps would change, over all answers, before they are kept. */
function Tried({ steps, keep, drop }: { steps: StepSpec[]; keep: () => void; drop: () => void }) {
  const { question } = useDesk();
  const progress = useProgress();
  const effect = useQuery({
    queryKey: ['question', question.id, 'preview', question.revision, steps],
    queryFn: ({ signal }) =>
      take(
        api.POST('/api/v1/questions/{question}/preview', {
          params: { path: { question: question.id } },
          body: { kind: 'cleaning', steps },
          signal,
        }),
      ),
  });
  const e = effect.data;
  const lines = e?.categories.slice(0, 6).map((c) => {
    const parts = [c.gained && `gains ${count(c.gained)}`, c.lost && `loses ${count(c.lost)}`].filter(Boolean);
    return `${c.name} ${parts.join(' and ')}`;
  });
  return (
    <>
      <h1 className="small">What this would change</h1>
      {effect.error ? (
        <p className="bad" role="alert">
          {effect.error.message}
        </p>
      ) : !e ? (
        <p className="effect" role="status">
          Reading all answers so
          {progress?.what === 'cleaning' ? `: ${count(progress.done ?? 0)} of ${count(progress.total ?? 0)}` : '…'}
        </p>
      ) : (
        <p className="effect">
          {e.read ? `${many(e.read, 'answer')} would be read otherwise.` : 'Every answer would be read as it is now.'}{' '}
          {e.categories.length
            ? `${lines!.join('; ')}${e.categories.length > 6 ? `; and ${e.categories.length - 6} categories more` : ''}.`
            : 'No category gains or loses an answer.'}
        </p>
      )}
      <p className="row">
        <button type="button" className="go" disabled={!e} onClick={keep}>
          Keep <kbd>↵</kbd>
        </button>
        <button type="button" onClick={drop}>
          {e || effect.error ? 'Drop' : 'Cancel'}
        </button>
      </p>
      {e && e.proof.length > 0 && (
        <>
          <p className="soft">
            {e.read > e.proof.length ? `The first ${e.proof.length} of them` : 'All of them'}, as they would be read:
          </p>
          <ProofSheet proof={e.proof} steps={steps} />
        </>
      )}
    </>
  );
}
