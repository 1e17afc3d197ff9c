import { useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { api, type FrameLine, take } from '../api/client';
import { useFocus } from '../focus';
import { count, many } from '../format';
import { Sheet } from '../frame/Sheets';
import { useAsk, useDesk, useQuestionId } from '../question';
import { Problems } from './RuleLine';

type NewProps = { lines: FrameLine[]; draft: string; beside?: FrameLine; close: (id?: string) => void };

/** Makes a category, empty or from a draft of its first rule. */
export function NewCategory({ lines, draft, beside, close }: NewProps) {
  const { edit } = useDesk();
  const id = useQuestionId();
  const client = useQueryClient();
  const { focusText } = useFocus();
  const [name, setName] = useState(draft.trim() ? draft.split(' / ')[0]!.replace(/^./, (c) => c.toUpperCase()) : '');
  const [up, setUp] = useState(draft ? '' : ((beside?.net ? beside.id : beside?.up) ?? ''));
  const [rule, setRule] = useState(draft.trim());
  const preview = useAsk(
    ['rule', 'new', rule, focusText],
    (question) =>
      take(
        api.POST('/api/v1/questions/{question}/rule', {
          params: { path: { question }, query: { focus: focusText } },
          body: { rule, limit: 3 },
        }),
      ),
    !!rule.trim(),
  );
  const p = rule.trim() ? preview.data : undefined;
  const keep = async () => {
    if (!name.trim()) return;
    const done = await edit({
      kind: 'add category',
      parent: up || undefined,
      category: { name: name.trim(), rules: rule.trim() ? [rule.trim()] : [] },
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
    close(frame.categories.find((l) => !known.has(l.id))?.id);
  };
  return (
    <Sheet title="New category" close={() => close()}>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          keep();
        }}
      >
        <label className="stack">
          Name
          {/* biome-ignore lint/a11y/noAutofocus: the sheet was opened in order to write it */}
          <input className="wide" autoFocus value={name} onChange={(e) => setName(e.target.value)} />
        </label>
        <label className="stack">
          In
          <select value={up} onChange={(e) => setUp(e.target.value)}>
            <option value="">the top</option>
            {lines
              .filter((l) => !l.hand)
              .map((l) => (
                <option key={l.id} value={l.id}>
                  {l.path.join(' / ')}
                </option>
              ))}
          </select>
        </label>
        <label className="stack">
          First rule, or none for a category that is given by hand only
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
            Catches {many(p.matches, 'answer')}; {count(p.uncoded)} of them had no category at all.
          </p>
        )}
        <p className="row">
          <button type="submit" className="go" disabled={!name.trim()}>
            Make it
          </button>
          <button type="button" onClick={() => close()}>
            Leave it
          </button>
        </p>
      </form>
    </Sheet>
  );
}
