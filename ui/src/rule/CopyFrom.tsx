import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { api, type Edit, type EditOf, take } from '../lib/api';
import { useDesk } from '../lib/desk';
import { Sheet } from '../parts/Dialog';
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
  const studies = useQuery({ queryKey: ['studies'], queryFn: () => take(api.GET('/api/v1/studies')) });
  const others = (studies.data ?? []).flatMap((s) =>
    s.questions
      .filter((q) => q.id !== question.id)
      .map((q) => ({ id: q.id, words: s.id === question.study.id ? q.name : `${q.name} (${s.name})` })),
  );
  if (!others.length) return null;
  const source = from ?? others[0]!.id;
  const change: Edit = { kind: 'copy', question: source, parts: chosen };
  return (
    <>
      <button type="button" className="plain" onClick={() => setOpen(true)}>
        take over from another question…
      </button>
      {open && (
        <Sheet title="Take over from another question" close={() => setOpen(false)}>
          <form
            onSubmit={(e) => {
              e.preventDefault();
              setOpen(false);
              edit(change);
            }}
          >
            <label className="stack">
              from
              <select value={source} onChange={(e) => setFrom(Number(e.target.value))}>
                {others.map((o) => (
                  <option key={o.id} value={o.id}>
                    {o.words}
                  </option>
                ))}
              </select>
            </label>
            <div>
              {parts.map(([part, words]) => (
                <p key={part}>
                  <label>
                    <input
                      type="checkbox"
                      checked={chosen.includes(part)}
                      onChange={(e) =>
                        setChosen(e.target.checked ? [...chosen, part] : chosen.filter((p) => p !== part))
                      }
                    />{' '}
                    {words}
                  </label>
                </p>
              ))}
            </div>
            <p className="soft">
              It takes the place of what stands here, and can be undone. Decisions by hand stay where a category of that
              name does.
            </p>
            <EffectOf change={chosen.length ? change : undefined} />
            <p className="row">
              <button type="submit" className="go" disabled={!chosen.length}>
                Take over
              </button>
              <button type="button" onClick={() => setOpen(false)}>
                Close
              </button>
            </p>
          </form>
        </Sheet>
      )}
    </>
  );
}
