import { useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { useFocus } from '../lib/address';
import { api, type FrameLine, take } from '../lib/api';
import { categoryOptions, useAsk, useDesk, useQuestionId } from '../lib/desk';
import { count, many } from '../lib/format';
import { Sheet } from '../parts/Dialog';
import { nameOf, Problems } from '../rule/Rule';
import { type Joint, joined, joints } from '../rule/runes';

type NewProps = {
  lines: FrameLine[];
  draft: string;
  /** What the draft would be called. */
  called?: string;
  beside?: FrameLine;
  /** Goes on with what the address line shall say. */
  close: (to: Record<string, string>) => void;
};

/** Makes a category, empty or from a draft of its first rule; the draft may go to a category there is instead. */
export function NewCategory({ lines, draft, called, beside, close }: NewProps) {
  const { edit } = useDesk();
  const id = useQuestionId();
  const client = useQueryClient();
  const { focusText } = useFocus();
  // Only a draft of plain alternatives is words that can be joined in another way.
  const terms = draft.trim() && !/[()+@{[]/.test(draft) ? draft.trim().split(' / ') : [];
  const [name, setName] = useState(called ?? nameOf(terms[0] ?? draft));
  const [up, setUp] = useState(draft ? '' : ((beside?.net ? beside.id : beside?.up) ?? ''));
  const [rule, setRule] = useState(draft.trim());
  const [joint, setJoint] = useState<Joint>('any');
  const [into, setInto] = useState('');
  const preview = useAsk(
    ['rule', 'new', rule, focusText, into],
    (question) =>
      take(
        api.POST('/api/v1/questions/{question}/rule', {
          params: { path: { question }, query: { focus: focusText } },
          body: { rule, category: into || undefined, limit: 3 },
        }),
      ),
    !!rule.trim(),
  );
  const p = rule.trim() ? preview.data : undefined;
  const keep = async () => {
    if (into) {
      close({ category: into, write: rule.trim(), pick: JSON.stringify([{ kind: 'category', id: into }]) });
      return;
    }
    if (!name.trim()) return;
    const done = await edit({
      kind: 'add category',
      parent: up || undefined,
      name: name.trim(),
      rules: rule.trim() ? [rule.trim()] : [],
    });
    if (!done) return;
    const frame = await client.fetchQuery({
      queryKey: ['question', id, 'frame', focusText],
      queryFn: () =>
        take(
          api.GET('/api/v1/questions/{question}/frame', {
            params: { path: { question: id }, query: { focus: focusText } },
          }),
        ),
    });
    const known = new Set(lines.map((l) => l.id));
    const made = frame.categories.find((l) => !known.has(l.id))?.id;
    close(made ? { category: made, pick: JSON.stringify([{ kind: 'category', id: made }]) } : {});
  };
  return (
    <Sheet title={called ? called : terms.length ? 'A rule of these terms' : 'New category'} close={() => close({})}>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          keep();
        }}
      >
        {draft.trim() && lines.length > 0 && (
          <label className="stack">
            It belongs to
            <select value={into} onChange={(e) => setInto(e.target.value)}>
              <option value="">a new category</option>
              {categoryOptions(lines)}
            </select>
          </label>
        )}
        {!into && (
          <>
            <label className="stack">
              Name
              {/* biome-ignore lint/a11y/noAutofocus: the sheet was opened in order to write it */}
              <input className="wide" autoFocus value={name} onChange={(e) => setName(e.target.value)} />
            </label>
            <label className="stack">
              In
              <select value={up} onChange={(e) => setUp(e.target.value)}>
                <option value="">the top</option>
                {categoryOptions(lines.filter((l) => !l.decisions))}
              </select>
            </label>
          </>
        )}
        {terms.length > 1 && (
          <label className="stack">
            Answers must hold
            <select
              value={joint}
              onChange={(e) => {
                setJoint(e.target.value as Joint);
                setRule(joined(terms, e.target.value as Joint));
              }}
            >
              {(['any', 'all', 'sentence', 'near'] as const).map((j) => (
                <option key={j} value={j}>
                  {joints[j][0]}
                </option>
              ))}
            </select>
          </label>
        )}
        <label className="stack">
          {into ? 'The rule' : 'First rule, or none for a category that is given by hand only'}
          <input
            className="wide mono"
            value={rule}
            onChange={(e) => setRule(e.target.value)}
            placeholder="dog / pet"
            spellCheck={false}
          />
        </label>
        {p && <Problems source={rule} problems={p.problems} mend={preview.isPlaceholderData ? undefined : setRule} />}
        {p && !p.problems.some((x) => !x.warning) && (
          <p className="effect">
            Catches {many(p.matches, 'answer')}; {count(p.uncoded)} of them had no category at all
            {into ? `, ${count(p.new)} are new there` : ''}.
          </p>
        )}
        <p className="row">
          <button type="submit" className="go" disabled={into ? !rule.trim() : !name.trim()}>
            {into ? 'Look at it there' : 'Make it'}
          </button>
          <button type="button" onClick={() => close({})}>
            Leave it
          </button>
        </p>
      </form>
    </Sheet>
  );
}
