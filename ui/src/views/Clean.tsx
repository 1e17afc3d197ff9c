import { api, type Step, take } from '../api/client';
import { useFocus } from '../focus';
import { count } from '../format';
import { useAsk, useDesk } from '../question';

const sentences: Record<string, string> = {
  markup: 'Take out tags and entities',
  links: 'Take out links and addresses',
  typography: 'Plain quotes, dashes, spaces',
  replace: 'Our own replacements',
  letters: 'Swap letters',
  contractions: 'Write contractions out',
  accents: 'Fold accents',
  glued: 'Part letters from digits',
  repeats: 'Shorten long runs of a letter',
  numbers: 'Leave out numbers',
  emoji: 'Leave out emoji',
};

const statuses: [string, string][] = [
  ['answered', 'answered'],
  ['no answer', 'refused, in so many words'],
  ['empty', 'no word in it'],
  ['missing', 'missing'],
];

/** The steps that answers are read by, and a proof sheet of what they changed. */
export default function Clean() {
  const { question, edit, busy } = useDesk();
  const { focus, focusText, pick, setPick } = useFocus();
  const only = pick.find((p) => p.kind === 'step')?.text;
  const shown = only ? JSON.stringify([...focus, { kind: 'step', text: only }]) : focusText;
  const cleaning = useAsk(['cleaning', shown], (q) =>
    take(
      api.GET('/api/v1/questions/{question}/cleaning', { params: { path: { question: q }, query: { focus: shown } } }),
    ),
  );
  if (cleaning.error) return <p className="bad">{cleaning.error.message}</p>;
  if (!cleaning.data) return <p className="ghost">&nbsp;</p>;
  const { steps, proof } = cleaning.data;
  const bare = ({ on: _, answers: __, ...step }: Step) => step;
  const turn = (s: Step) => {
    const on = steps.filter((x) => x.on);
    if (s.on) return edit({ kind: 'cleaning', steps: on.filter((x) => x !== s).map(bare) });
    // A step that is switched on goes to its usual place among the others.
    const usual = Object.keys(sentences);
    const fresh = s.step === 'emoji' ? { ...bare(s), mode: 'drop' } : bare(s);
    const at = on.findIndex((x) => usual.indexOf(x.step) > usual.indexOf(s.step));
    const next = on.map(bare);
    next.splice(at < 0 ? next.length : at, 0, fresh);
    return edit({ kind: 'cleaning', steps: next });
  };
  const settable = (s: Step) => s.on || (s.step !== 'replace' && s.step !== 'letters');
  return (
    <div className="cleanv" aria-busy={cleaning.isPlaceholderData}>
      <section aria-label="Steps">
        <p className="caption">In this order, on {count(question.respondents)} answers</p>
        <ol className="plainlist ruled">
          {steps.map((s, i) => (
            <li key={`${s.step}${i}`} className={s.on ? 'stepline' : 'stepline off'}>
              <input
                type="checkbox"
                id={`step-${i}`}
                checked={s.on}
                disabled={busy || !settable(s)}
                onChange={() => turn(s)}
                title={settable(s) ? undefined : 'its pairs come with a playbook'}
              />
              <label htmlFor={`step-${i}`}>
                {sentences[s.step]}
                {s.rules?.length ? ` (${s.rules.length})` : ''}
              </label>
              {s.on && s.answers > 0 ? (
                <button
                  type="button"
                  className="plain"
                  aria-pressed={only === s.step}
                  aria-label={`show the ${count(s.answers)} answers it changed`}
                  onClick={() => setPick(only === s.step ? [] : [{ kind: 'step', text: s.step }])}
                >
                  {count(s.answers)}
                </button>
              ) : (
                <span className="soft">{s.on ? '0' : '–'}</span>
              )}
            </li>
          ))}
        </ol>
        <p className="caption">What the answers are</p>
        <ul className="plainlist ruled">
          {statuses.map(([status, words]) => {
            const n = question.statuses[status] ?? 0;
            return (
              <li key={status} className="stepline two">
                <span>{words}</span>
                <button
                  type="button"
                  className="plain"
                  disabled={!n}
                  onClick={() => setPick([{ kind: 'status', text: status }])}
                >
                  {count(n)}
                </button>
              </li>
            );
          })}
        </ul>
      </section>
      <section aria-label="Proof sheet">
        <h1 className="small">Proof sheet</h1>
        <p className="soft">
          {only
            ? `Answers that “${sentences[only]}” changed. `
            : `${count(proof.length)} answers, chosen so that every step shows. `}
          Struck: not read. Green: read instead. The originals stay as they are.
        </p>
        {proof.length === 0 && <p className="empty">No answer in this focus was changed.</p>}
        {proof.map((p) => (
          <p className="proof" key={p.number}>
            {p.pieces.map((x, i) =>
              x.struck ? (
                <span key={i}>
                  {x.text && <del>{x.text}</del>}
                  {x.with?.trim() ? (
                    <ins>{x.with}</ins>
                  ) : x.with?.includes('\n') ? (
                    <ins title="a new sentence">¶</ins>
                  ) : (
                    !x.text && <ins title="a space">␣</ins>
                  )}
                </span>
              ) : (
                <span key={i}>{x.text}</span>
              ),
            )}
          </p>
        ))}
      </section>
    </div>
  );
}
