import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { api, take } from '../lib/api';
import { useDesk } from '../lib/edits';
import { keys } from '../lib/queries';
import { Button } from '../parts/Button';
import { Popover } from '../parts/Popover';
import { Caption, Labelled, TextField } from '../parts/Text';

type Props = { nests: string[][]; by: (nests: string[][]) => void; short: (name: string) => string };

/** What columns are made of, kept under a name: for all questions and charts of the study. */
export function ColumnSets({ nests, by, short }: Props) {
  const { question, say } = useDesk();
  const study = question.study.id;
  const client = useQueryClient();
  const path = '/api/v1/studies/{study}/column-sets';
  const kept = useQuery({
    queryKey: keys.columnSets(study),
    queryFn: ({ signal }) => take(api.GET(path, { params: { path: { study } }, signal })),
  });
  const call = async (done: Promise<unknown>) => {
    try {
      await done;
      return true;
    } catch (e) {
      say({ text: (e as Error).message, bad: true });
      return false;
    } finally {
      await client.invalidateQueries({ queryKey: keys.columnSets(study) });
    }
  };
  const keep = (name: string, of: string[][]) =>
    call(take(api.POST(path, { params: { path: { study } }, body: { name, nests: of } })));
  const drop = async (name: string, of: string[][]) => {
    if (await call(take(api.DELETE(path, { params: { path: { study }, query: { name } } }))))
      say({ text: `Columns ${name} were deleted.`, action: { words: 'Undo', act: () => keep(name, of) } });
  };
  const words = (of: string[][]) => of.map((n) => n.map(short).join(' › ')).join(', ');
  const sets = kept.data ?? [];
  if (!sets.length && !nests.length) return null;
  return (
    <Popover stop label="Kept columns" words="kept columns ▾">
      {(close) => (
        <div className="grid max-w-96 gap-2">
          {sets.length === 0 && <Caption>None is kept yet.</Caption>}
          <ul aria-label="Kept columns">
            {sets.map((k) => (
              <li key={k.name} className="flex items-baseline justify-between gap-6 border-b border-hair py-1">
                <Button
                  look="bare"
                  className="rounded-sm px-1 text-left hover:bg-hair"
                  onClick={() => {
                    close();
                    by(k.nests as string[][]);
                  }}
                >
                  <b className="font-semibold">{k.name}</b>{' '}
                  <small className="text-sm text-soft">{words(k.nests as string[][])}</small>
                </Button>
                <Button look="plain" onClick={() => drop(k.name, k.nests as string[][])}>
                  delete<span className="sr-only"> {k.name}</span>
                </Button>
              </li>
            ))}
          </ul>
          {nests.length > 0 && (
            <Keep
              usual={words(nests)}
              taken={sets.map((k) => k.name)}
              keep={async (name) => {
                close();
                if (await keep(name, nests)) say({ text: `Kept the columns as ${name}.` });
              }}
            />
          )}
        </div>
      )}
    </Popover>
  );
}

/** Asks under which name the columns are kept. */
function Keep({ usual, taken, keep }: { usual: string; taken: string[]; keep: (name: string) => void }) {
  const [name, setName] = useState(usual);
  const given = name.trim();
  return (
    <form
      className="grid gap-1.5"
      onSubmit={(e) => {
        e.preventDefault();
        if (given) keep(given);
      }}
    >
      <Labelled name="Name for these columns">
        <TextField wide value={name} maxLength={200} onChange={(e) => setName(e.target.value)} />
      </Labelled>
      <p>
        <Button look="go" type="submit" disabled={!given}>
          {taken.includes(given) ? 'Keep instead of the earlier ones' : 'Keep these columns'}
        </Button>
      </p>
    </form>
  );
}
