import { useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { useAddress } from '../lib/address';
import type { FrameLine } from '../lib/api';
import { categoryOptions, useDesk } from '../lib/edits';
import { count, many } from '../lib/format';
import { asking, useQuestionId, useTry } from '../lib/queries';
import { type Joint, joined, joints } from '../lib/text';
import { Button } from '../parts/Button';
import { Combobox } from '../parts/Combobox';
import { Dialog } from '../parts/Dialog';
import { Labelled, Sentence, TextField } from '../parts/Text';
import { Problems } from '../rule/Rule';
import { useWritten } from '../rule/written';

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
  const { focusText } = useAddress();
  // Only a draft of plain alternatives is words that can be joined in another way.
  const terms = useWritten(draft.trim())?.terms ?? [];
  const proposed = useWritten(terms[0] ?? draft.trim())?.name ?? '';
  const [typed, setName] = useState(called);
  const name = typed ?? proposed;
  const [up, setUp] = useState(draft ? '' : ((beside?.net ? beside.id : beside?.up) ?? ''));
  const [rule, setRule] = useState(draft.trim());
  const [joint, setJoint] = useState<Joint>('any');
  const [into, setInto] = useState('');
  const preview = useTry(
    'rule',
    { rule, category: into || undefined, limit: 3 },
    { query: { focus: focusText }, enabled: !!rule.trim() },
  );
  const p = rule.trim() ? preview.now : undefined;
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
    const frame = await client.fetchQuery(asking(id, 'frame', { focus: focusText }));
    const known = new Set(lines.map((l) => l.id));
    const made = frame.categories.find((l) => !known.has(l.id))?.id;
    close(made ? { category: made, pick: JSON.stringify([{ kind: 'category', id: made }]) } : {});
  };
  return (
    <Dialog title={called ? called : terms.length ? 'A rule of these terms' : 'New category'} close={() => close({})}>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          keep();
        }}
      >
        {draft.trim() && lines.length > 0 && (
          <Labelled name="It belongs to">
            <Combobox
              label="It belongs to"
              value={into}
              change={(v) => setInto(v)}
              options={[{ value: '', words: 'a new category' }, ...categoryOptions(lines)]}
            />
          </Labelled>
        )}
        {!into && (
          <>
            <Labelled name="Name">
              <TextField wide autoFocus value={name} onChange={(e) => setName(e.target.value)} />
            </Labelled>
            <Labelled name="In">
              <Combobox
                label="In"
                value={up}
                change={(v) => setUp(v)}
                options={[{ value: '', words: 'the top' }, ...categoryOptions(lines.filter((l) => !l.decisions))]}
              />
            </Labelled>
          </>
        )}
        {terms.length > 1 && (
          <Labelled name="Answers must hold">
            <Combobox
              label="Answers must hold"
              value={joint}
              change={(v) => {
                setJoint(v as Joint);
                setRule(joined(terms, v as Joint));
              }}
              options={[
                ...(['any', 'all', 'sentence', 'near'] as const).map((j) => ({ value: j, words: joints[j][0] })),
              ]}
            />
          </Labelled>
        )}
        <Labelled name={into ? 'The rule' : 'First rule, or none for a category that is given by hand only'}>
          <TextField
            className="w-full font-mono"
            value={rule}
            onChange={(e) => setRule(e.target.value)}
            placeholder="dog / pet"
            spellCheck={false}
          />
        </Labelled>
        {p && <Problems source={rule} problems={p.problems} mend={preview.isPlaceholderData ? undefined : setRule} />}
        {p && !p.problems.some((x) => !x.warning) && (
          <Sentence>
            Catches {many(p.matches, 'answer')}; {count(p.uncoded)} of them had no category at all
            {into ? `, ${count(p.new)} are new there` : ''}.
          </Sentence>
        )}
        <p className="flex items-baseline gap-2.5">
          <Button type="submit" look="go" disabled={into ? !rule.trim() : !name.trim()}>
            {into ? 'Look at it there' : 'Make it'}
          </Button>
          <Button onClick={() => close({})}>Cancel</Button>
        </p>
      </form>
    </Dialog>
  );
}
