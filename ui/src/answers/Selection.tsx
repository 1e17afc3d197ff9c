import { useEffect, useState } from 'react';
import { useNavigate } from 'react-router';
import { useAddress } from '../lib/address';
import { categoryOptions } from '../lib/edits';
import { count, many } from '../lib/format';
import { useFrame, useQuestionId, useTry } from '../lib/queries';
import { required } from '../lib/required';
import { type Joint, joined, joints } from '../lib/text';
import { Button } from '../parts/Button';
import { Combobox } from '../parts/Combobox';
import { Select } from '../parts/Select';
import { RuleText } from '../rule/Rule';

const joint = ['row', 'near', 'sentence', 'all', 'any'] as const satisfies Joint[];

/** The words of an answer that are selected on the screen; they stay until others are, or they are let go. */
function useSelectedWords() {
  const [words, setWords] = useState('');
  useEffect(() => {
    const read = () => {
      const s = document.getSelection();
      const whole = s?.toString().trim() ?? '';
      if (!s?.rangeCount || !whole || whole.length > 400) return;
      const range = s.getRangeAt(0).cloneRange();
      const start = range.startContainer;
      const said = (start instanceof Element ? start : start.parentElement)?.closest('[data-part=said]');
      if (!said) return;
      // Three presses select a paragraph up to the beginning of what follows: words of that are none.
      if (!said.contains(range.endContainer)) range.setEndAfter(said.lastChild ?? said);
      if (range.toString().trim() === whole) setWords(whole);
    };
    document.addEventListener('selectionchange', read);
    return () => document.removeEventListener('selectionchange', read);
  }, []);
  return [words, setWords] as const;
}

/** Makes a rule of words that were selected in an answer, without typing. */
export function Selection() {
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
  const { focusText, get, pick } = useAddress();
  const frame = useFrame(focusText);
  const [how, setHow] = useState<Joint>('near');
  const [turned, setTurned] = useState<string[]>([]); // words that were ticked, or unticked, against what was proposed
  const lines = frame.data?.categories ?? [];
  const open = get('category') || pick.find((c) => c.kind === 'category')?.id;
  const [into, setInto] = useState(lines.some((l) => l.id === open) ? required(open) : '');
  const read = useTry('text/try', { text: words });
  const all = [...new Map((read.now?.words ?? []).map((w) => [w.surface, w])).values()];
  const ticked = all.filter((w) => !w.stop !== turned.includes(w.surface));
  const rule = joined(
    ticked.map((w) => w.surface),
    how,
  );
  const effect = useTry(
    'rule',
    { rule, category: into || undefined, limit: 0 },
    { query: { focus: focusText }, enabled: ticked.length > 0 },
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
  const e = effect.now;
  return (
    <section
      data-part="selection"
      className="-ml-5 grid gap-1.5 border-t-2 border-moss bg-paper px-5 pt-2 pb-2.5"
      aria-label="A rule of the selected words"
      onKeyDown={(event) => event.key === 'Escape' && close()}
    >
      <p className="flex items-baseline gap-2.5 justify-between">
        <b>A rule of these words</b>
        <Button look="plain" aria-label="Close" onClick={close}>
          ×
        </Button>
      </p>
      {read.now && all.length === 0 && <p className="text-soft">Cleaning leaves no word of this.</p>}
      <p className="flex flex-wrap items-baseline gap-2.5">
        {all.map((w) => (
          <Button
            key={w.surface}
            look="bare"
            className="mr-1.5 mb-1 inline-block rounded-sm border border-edge px-1.75"
            aria-pressed={ticked.includes(w)}
            onClick={() =>
              setTurned((all) => (all.includes(w.surface) ? all.filter((t) => t !== w.surface) : [...all, w.surface]))
            }
          >
            {w.surface}
          </Button>
        ))}
      </p>
      {ticked.length > 1 && (
        <label>
          <span className="text-soft">stand</span>{' '}
          <Select
            label="stand"
            value={how}
            change={setHow}
            options={joint.map((j) => ({ value: j, words: joints[j][0] }))}
          />
        </label>
      )}
      {ticked.length > 0 && (
        <>
          <p className="font-mono text-lg break-words">
            <RuleText source={rule} />
          </p>
          <p className="text-sm text-soft" role="status">
            {e
              ? (e.problems.find((x) => !x.warning)?.message ??
                `${many(e.matches, 'answer')}, ${count(e.uncoded)} of them uncoded${into ? `, ${count(e.new)} new there` : ''}`)
              : '…'}
          </p>
        </>
      )}
      <p className="flex items-baseline gap-2.5">
        <Combobox
          label="the category it is for"
          value={into}
          change={setInto}
          options={[{ value: '', words: 'a new category' }, ...categoryOptions(lines)]}
        />
        <Button look="go" disabled={!ticked.length} onClick={write}>
          Write it
        </Button>
      </p>
    </section>
  );
}
