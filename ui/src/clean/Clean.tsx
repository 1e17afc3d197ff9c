import { useAddress } from '../lib/address';
import { useDesk, useStatus } from '../lib/edits';
import { count, many } from '../lib/format';
import { useKept } from '../lib/kept';
import { useCommands } from '../lib/keys';
import { useProgress } from '../lib/live';
import { useAsk, useTry } from '../lib/queries';
import { required } from '../lib/required';
import type { components } from '../lib/schema.gen';
import { type StepSpec, sentenceOf } from '../lib/steps';
import { Failed } from '../parts/Asked';
import { Button, Kbd } from '../parts/Button';
import { Tabs } from '../parts/Tabs';
import { Caption, Empty, Sentence, Skeleton } from '../parts/Text';
import { CopyFrom } from '../rule/CopyFrom';
import { baseInWords } from '../rule/EffectOf';
import { Checks } from './Checks';
import { bare, same } from './order';
import { ProofSheet } from './Proof';
import { Statuses } from './Statuses';
import { Steps } from './Steps';
import { TryIt } from './TryIt';

export type CleaningData = components['schemas']['Cleaning'];

/** The steps that answers are read by, and a proof sheet of what they changed. */
export default function Clean() {
  const { question, edit } = useDesk();
  const { busy } = useStatus();
  const { focus, focusText, pick, setPick, one, set } = useAddress();
  const [draft, setDraft] = useKept<StepSpec[] | null>('steps tried', null);
  const [short, setShort] = useKept('short answers', 3);
  const tab = one('see', ['proof', 'try']);
  const only = pick.find((p) => p.kind === 'step')?.text;
  const shown = only ? JSON.stringify([...focus, { kind: 'step', text: only }]) : focusText;
  const cleaning = useAsk('cleaning', { focus: shown, short });
  const kept = cleaning.data?.steps.filter((s) => s.on).map(bare) ?? [];
  const tried = draft && !same(draft, kept) ? draft : undefined;
  const keep = () => {
    if (!tried) return;
    setDraft(null);
    edit({ kind: 'cleaning', steps: tried });
  };
  const drop = () => setDraft(null);
  useCommands('Clean', [
    { key: 'Enter', words: 'Keep the steps that were tried', act: keep, off: !tried },
    { key: 'Escape', words: 'Put the steps back as they are kept', act: drop, off: !tried },
  ]);
  if (cleaning.error && !cleaning.data) return <Failed error={cleaning.error} again={() => cleaning.refetch()} />;
  if (!cleaning.data) return <Skeleton lines={6} />;
  const { steps, proof } = cleaning.data;
  return (
    <div
      className="grid grid-cols-[17rem_minmax(0,62rem)] gap-6.5 max-sm:grid-cols-1"
      aria-busy={cleaning.isPlaceholderData}
    >
      <section aria-label="Steps">
        <Caption>In this order, on {count(question.respondents)} answers</Caption>
        <Steps
          kept={steps}
          on={tried ?? kept}
          busy={busy}
          only={only}
          change={setDraft}
          show={(step) => {
            set({ see: '' }, true);
            setPick(only === step ? [] : [{ kind: 'step', text: step }]);
          }}
        />
        <Statuses cleaning={cleaning.data} short={short} setShort={setShort} />
        <CopyFrom first="cleaning" />
      </section>
      <section aria-label="Proof sheet">
        {tried ? (
          <Tried key={JSON.stringify(tried)} steps={tried} now={kept} keep={keep} drop={drop} />
        ) : (
          <>
            <Checks on={kept} tryOut={setDraft} />
            <Tabs
              label="What is shown"
              value={tab}
              change={(t) => set({ see: t === 'proof' ? '' : t }, true)}
              tabs={[
                { value: 'proof', words: 'Proof sheet' },
                { value: 'try', words: 'Try a text' },
              ]}
            >
              {tab === 'try' ? (
                <TryIt />
              ) : (
                <>
                  <p className="text-soft">
                    {only
                      ? `Answers that “${sentenceOf(only)}” changed; what other steps did is faint. `
                      : `${many(proof.length, 'answer')}, chosen so that every step shows. `}
                    Struck: not read. Green: read instead. The originals stay as they are.
                  </p>
                  {proof.length === 0 && <Empty>No answer in this focus was changed.</Empty>}
                  <ProofSheet proof={proof} steps={kept} only={only} />
                </>
              )}
            </Tabs>
          </>
        )}
      </section>
    </div>
  );
}

type TriedProps = { steps: StepSpec[]; now: StepSpec[]; keep: () => void; drop: () => void };

/** What other steps would change, over all answers, before they are kept. */
function Tried({ steps, now, keep, drop }: TriedProps) {
  const progress = useProgress();
  const effect = useTry('edits/try', { kind: 'cleaning', steps });
  const e = effect.now;
  const lines = e?.categories.slice(0, 6).map((c) => {
    const parts = [c.gained && `gains ${count(c.gained)}`, c.lost && `loses ${count(c.lost)}`].filter(Boolean);
    return `${c.name} ${parts.join(' and ')}`;
  });
  return (
    <>
      <h1 className="text-sm">What this would change</h1>
      {effect.error ? (
        <p className="text-clay" role="alert">
          {effect.error.message}
        </p>
      ) : !e ? (
        <Sentence role="status">
          Reading all answers so
          {progress?.what === 'cleaning' ? `: ${count(progress.done ?? 0)} of ${count(progress.total ?? 0)}` : '…'}
        </Sentence>
      ) : (
        <Sentence>
          {e.read ? `${many(e.read, 'answer')} would be read differently.` : 'Every answer would be read as it is now.'}{' '}
          {e.answered !== e.answeredBefore && `${baseInWords(e)} `}
          {e.categories.length
            ? `${required(lines).join('; ')}${e.categories.length > 6 ? `; and ${e.categories.length - 6} categories more` : ''}.`
            : 'No category gains or loses an answer.'}
        </Sentence>
      )}
      <p className="flex items-baseline gap-2.5">
        <Button look="go" disabled={!e} onClick={keep}>
          Keep <Kbd>↵</Kbd>
        </Button>
        <Button onClick={drop}>Cancel</Button>
      </p>
      {e && e.proof.length > 0 && (
        <>
          <p className="text-soft">
            {e.read > e.proof.length ? `The first ${e.proof.length} of them` : 'All of them'}, as they are read now, and
            would be then:
          </p>
          <ProofSheet proof={e.proof} steps={steps} now={now} />
        </>
      )}
    </>
  );
}
