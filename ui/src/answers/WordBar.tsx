import { useEffect, useState } from 'react';
import { useNavigate } from 'react-router';
import { useFocus } from '../lib/address';
import { api, take } from '../lib/api';
import { categoryOptions, useAsk, useFrame, useQuestionId } from '../lib/desk';
import { count, many } from '../lib/format';
import { RuleText } from '../rule/Rule';
import { type Joint, joined, joints } from '../rule/runes';

const joint = ['row', 'near', 'sentence', 'all', 'any'] as const satisfies Joint[];

/** The words of an answer that are selected on the screen; they stay until others are, or they are let go. */
function useSelectedWords() {
  const [words, setWords] = useState('');
  useEffect(() => {
    const read = () => {
      const s = document.getSelection();
      const text = s?.toString().trim() ?? '';
      const said = (n: Node | null | undefined) =>
        (n instanceof Element ? n : n?.parentElement)?.closest('.said, .evidence, .big');
      if (text && text.length < 400 && said(s?.anchorNode) && said(s?.anchorNode) === said(s?.focusNode))
        setWords(text);
    };
    document.addEventListener('selectionchange', read);
    return () => document.removeEventListener('selectionchange', read);
  }, []);
  return [words, setWords] as const;
}

/** Makes a rule of words that were selected in an answer, without typing. */
export function WordBar() {
  const [words, setWords] = useSelectedWords();
  const [settled, setSettled] = useState('');
  useEffect(() => {
    const t = setTimeout(() => setSettled(words), 120); // while the pointer is still selecting
    return () => clearTimeout(t);
  }, [words]);
  if (!settled || !words) return null;
  return <Bar key={settled} words={settled} close={() => setWords('')} />;
}

function Bar({ words, close }: { words: string; close: () => void }) {
  const id = useQuestionId();
  const navigate = useNavigate();
  const { focusText, params, pick } = useFocus();
  const frame = useFrame(focusText);
  const [how, setHow] = useState<Joint>('near');
  const [turned, setTurned] = useState<string[]>([]); // words that were ticked, or unticked, against what was proposed
  const lines = frame.data?.categories ?? [];
  const open = params.get('category') ?? pick.find((c) => c.kind === 'category')?.id;
  const [into, setInto] = useState(lines.some((l) => l.id === open) ? open! : '');
  const read = useAsk(['try', words], (question) =>
    take(api.POST('/api/v1/questions/{question}/try', { params: { path: { question } }, body: { text: words } })),
  );
  const all = [...new Map((read.data?.words ?? []).map((w) => [w.surface, w])).values()];
  const ticked = all.filter((w) => !w.stop !== turned.includes(w.surface));
  const rule = joined(
    ticked.map((w) => w.surface),
    how,
  );
  const effect = useAsk(
    ['rule', into, '', false, rule, 'all', '', focusText],
    (question) =>
      take(
        api.POST('/api/v1/questions/{question}/rule', {
          params: { path: { question }, query: { focus: focusText } },
          body: { rule, category: into || undefined, limit: 0 },
        }),
      ),
    ticked.length > 0,
  );
  const write = () => {
    const next = new URLSearchParams(focusText ? { focus: focusText } : {});
    if (into) {
      next.set('category', into);
      next.set('write', rule);
    } else next.set('draft', rule);
    close();
    document.getSelection()?.removeAllRanges();
    navigate(`/q/${id}/code?${next}`);
  };
  const e = effect.data;
  return (
    <section
      className="wordbar"
      aria-label="A rule of the selected words"
      onKeyDown={(event) => event.key === 'Escape' && close()}
    >
      <p className="row between">
        <b>A rule of these words</b>
        <button type="button" className="plain" aria-label="let go of the words" onClick={close}>
          ×
        </button>
      </p>
      {read.data && all.length === 0 && <p className="soft">Cleaning leaves no word of this.</p>}
      <p className="row wrap">
        {all.map((w) => (
          <button
            key={w.surface}
            type="button"
            className="chip"
            aria-pressed={ticked.includes(w)}
            onClick={() =>
              setTurned((all) => (all.includes(w.surface) ? all.filter((t) => t !== w.surface) : [...all, w.surface]))
            }
          >
            {w.surface}
          </button>
        ))}
      </p>
      {ticked.length > 1 && (
        <label>
          <span className="soft">stand</span>{' '}
          <select value={how} onChange={(event) => setHow(event.target.value as Joint)}>
            {joint.map((j) => (
              <option key={j} value={j}>
                {joints[j][0]}
              </option>
            ))}
          </select>
        </label>
      )}
      {ticked.length > 0 && (
        <>
          <p className="rulesource">
            <RuleText source={rule} />
          </p>
          <p className="soft small" role="status">
            {e && !effect.isPlaceholderData
              ? (e.problems.find((x) => !x.warning)?.message ??
                `${many(e.matches, 'answer')}, ${count(e.uncoded)} of them uncoded${into ? `, ${count(e.new)} new there` : ''}`)
              : '…'}
          </p>
        </>
      )}
      <p className="row">
        <select value={into} onChange={(event) => setInto(event.target.value)} aria-label="the category it is for">
          <option value="">a new category</option>
          {categoryOptions(lines)}
        </select>
        <button type="button" className="go" disabled={!ticked.length} onClick={write}>
          Write it
        </button>
      </p>
    </section>
  );
}
