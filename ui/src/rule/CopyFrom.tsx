import { useState } from 'react';
import type { Edit, EditOf } from '../lib/api';
import { useDesk } from '../lib/edits';
import { useStudies } from '../lib/queries';
import { itemAt } from '../lib/required';
import { Button } from '../parts/Button';
import { Checkbox } from '../parts/Checkbox';
import { Combobox } from '../parts/Combobox';
import { Dialog } from '../parts/Dialog';
import { Labelled } from '../parts/Text';
import { EffectOf } from './EffectOf';

type Part = EditOf<'copy'>['parts'][number];

const parts: [Part, string][] = [
  ['cleaning', 'cleaning and phrases of refusal'],
  ['lexicon', 'stop words, merges and term lists'],
  ['frame', 'the code frame with its rules'],
];

/** Takes cleaning, lexicon or frame of another question, in place of what this one has. */
export function CopyFrom({ first }: { first: Part }) {
  const { question, edit } = useDesk();
  const [open, setOpen] = useState(false);
  const [chosen, setChosen] = useState<Part[]>([first]);
  const [from, setFrom] = useState<number>();
  const studies = useStudies();
  const others = (studies.data ?? []).flatMap((s) =>
    s.questions
      .filter((q) => q.id !== question.id)
      .map((q) => ({ id: q.id, words: s.id === question.study.id ? q.name : `${q.name} (${s.name})` })),
  );
  if (!others.length) return null;
  const source = from ?? itemAt(others, 0).id;
  const change: Edit = { kind: 'copy', question: source, parts: chosen };
  return (
    <>
      <Button look="plain" onClick={() => setOpen(true)}>
        Copy from another question…
      </Button>
      {open && (
        <Dialog title="Copy from another question" close={() => setOpen(false)}>
          <form
            onSubmit={(e) => {
              e.preventDefault();
              setOpen(false);
              edit(change);
            }}
          >
            <Labelled name="from">
              <Combobox
                label="from"
                value={String(source)}
                change={(v) => setFrom(Number(v))}
                options={others.map((o) => ({ value: String(o.id), words: o.words }))}
              />
            </Labelled>
            <div>
              {parts.map(([part, words]) => (
                <p key={part}>
                  <label>
                    <Checkbox
                      checked={chosen.includes(part)}
                      change={(on) => setChosen(on ? [...chosen, part] : chosen.filter((p) => p !== part))}
                    />{' '}
                    {words}
                  </label>
                </p>
              ))}
            </div>
            <p className="text-soft">
              It takes the place of what stands here, and can be undone. Decisions by hand stay where a category of that
              name does.
            </p>
            <EffectOf change={chosen.length ? change : undefined} />
            <p className="flex items-baseline gap-2.5">
              <Button type="submit" look="go" disabled={!chosen.length}>
                Copy
              </Button>
              <Button onClick={() => setOpen(false)}>Close</Button>
            </p>
          </form>
        </Dialog>
      )}
    </>
  );
}
