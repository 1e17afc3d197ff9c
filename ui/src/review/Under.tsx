import { useState } from 'react';
import type { Likely, Queued } from '../lib/api';
import { percent, tint } from '../lib/format';
import { useProgress } from '../lib/live';
import { Button, Kbd } from '../parts/Button';
import { Dialog, Ends } from '../parts/Dialog';
import { Progress } from '../parts/Progress';
import { Labelled, Short, Skeleton, TextField } from '../parts/Text';

/** What stands here while something is worked out for the first time: while coded answers are learned from, say. */
export function Learning({ cancel, words = 'Learning from what is coded…' }: { cancel?: () => void; words?: string }) {
  const progress = useProgress();
  const share = progress?.total ? (progress.done ?? 0) / progress.total : undefined;
  return (
    <div className="max-w-96 py-2" role="status">
      <p className="pb-1.5 text-soft">{words}</p>
      <Progress label={words} share={share} />
      {cancel ? (
        <p className="pt-2">
          <Button look="plain" onClick={cancel}>
            Cancel, and go through the file in its order
          </Button>
        </p>
      ) : (
        <Skeleton lines={3} />
      )}
    </div>
  );
}

/** Categories that were taken off by hand, against the rules or with them. */
export function TakenOff({ of }: { of: Queued }) {
  if (!of.taken.length) return null;
  return (
    <p className="mt-1 text-sm text-soft">
      {of.taken.map((t) => (
        <span key={t.id} className="mr-3">
          <s>{t.name}</s> taken off {t.by ? `by ${t.by}` : 'by hand'}
          {t.rules ? ', against its rules' : ''}
          {t.note ? ` “${t.note}”` : ''}
        </span>
      ))}
    </p>
  );
}

type LikelyProps = { of: Queued; learned?: { current: boolean }; give: (l: Likely) => void };

/** What the answer is likely to be, with what speaks for and against it. */
export function LikelyLines({ of, learned, give }: LikelyProps) {
  if (!of.likely.length || of.status !== 'answered') return null;
  return (
    <ul data-part="likely" aria-label="Likely categories" className="mt-2.5 max-w-160 border-b border-hair">
      {of.likely.map((l, i) => (
        <li key={l.id} className={`flex flex-wrap items-baseline gap-x-2.5 border-t border-hair py-1 ${tint(l.top)}`}>
          <span className="min-w-16 text-right whitespace-nowrap tabular-nums">{chance(l.chance)}</span>
          <Button look="bare" onClick={() => give(l)} title="Put it on">
            <Short>{l.short}</Short>
            <span className="underline decoration-edge underline-offset-3">{l.name}</span> {i === 0 && <Kbd>y</Kbd>}
          </Button>
          <small className="text-soft">
            {l.for.length > 0 && <>for: {l.for.join(', ')}</>}
            {l.against.length > 0 && <> · against: {l.against.join(', ')}</>}
          </small>
        </li>
      ))}
      {learned && !learned.current && (
        <li className="border-t border-hair py-1 text-sm text-soft">
          As learned before the last changes; the present coding is being learned.
        </li>
      )}
    </ul>
  );
}

/** A chance in words that do not say more than it knows. */
export const chance = (p: number) => (p > 0.995 ? 'over 99 %' : percent(p).replace(/\.\d /, ' '));

type NoteProps = { answer: Queued; close: () => void; keep: (ids: string[], note: string) => void };

/** A note with the decisions on an answer. */
export function Note({ answer, close, keep }: NoteProps) {
  const made = answer.codes.filter((c) => c.byHand);
  const [note, setNote] = useState(made[0]?.note ?? '');
  return (
    <Dialog title="A note with the decision" close={close}>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          close();
          keep(
            made.map((c) => c.id),
            note,
          );
        }}
      >
        <Labelled name={`Why it is ${made.map((c) => c.name).join(', ')}`}>
          <TextField wide autoFocus maxLength={1000} value={note} onChange={(e) => setNote(e.target.value)} />
        </Labelled>
        <Ends go="Keep it" ready={note !== (made[0]?.note ?? '')} close={close} />
      </form>
    </Dialog>
  );
}
