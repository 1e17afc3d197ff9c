import { type QueryClient, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { api, type Study, take } from '../lib/api';
import { dated, many } from '../lib/format';
import { keys } from '../lib/queries';
import { Button } from '../parts/Button';
import { Collapsible } from '../parts/Collapsible';
import { Dialog, Ends } from '../parts/Dialog';
import { TextField } from '../parts/Text';
import type { Said } from './work';

/** Brings a deleted study back. */
export async function restore(client: QueryClient, study: Study, say: (s: Said) => void) {
  try {
    await take(api.POST('/api/v1/deleted-studies/{study}/restore', { params: { path: { study: study.id } } }));
    say({ text: `Restored ${study.name}` });
  } catch (e) {
    say({ text: (e as Error).message, bad: true });
  }
  await client.invalidateQueries({ queryKey: keys.studies });
}

/** Deleted studies: each can be restored until its day. */
export function Deleted({ studies, say }: { studies: Study[]; say: (s: Said) => void }) {
  const client = useQueryClient();
  const [going, setGoing] = useState<Study>();
  return (
    <section>
      <Collapsible words={many(studies.length, 'deleted study', 'deleted studies')}>
        <ul aria-label="Deleted studies">
          {studies.map((s) => (
            <li key={s.id} className="flex items-baseline justify-between gap-4.5 border-b border-hair py-1">
              <span className="min-w-0 truncate" title={s.name}>
                {s.name}
              </span>
              <span className="flex items-baseline gap-2.5 whitespace-nowrap text-soft">
                {many(s.respondents, 'respondent')} · goes for good on {dated((s.until ?? '').slice(0, 10))}
                <Button look="plain" onClick={() => restore(client, s, say)} aria-label={`Restore the study ${s.name}`}>
                  Restore
                </Button>
                <Button look="plain" onClick={() => setGoing(s)} aria-label={`Delete the study ${s.name} for good…`}>
                  Delete for good…
                </Button>
              </span>
            </li>
          ))}
        </ul>
      </Collapsible>
      {going && <ForGood study={going} say={say} close={() => setGoing(undefined)} />}
    </section>
  );
}

function ForGood({ study, say, close }: { study: Study; say: (s: Said) => void; close: () => void }) {
  const client = useQueryClient();
  const [typed, setTyped] = useState('');
  const [error, setError] = useState('');
  const go = async () => {
    try {
      await take(api.DELETE('/api/v1/deleted-studies/{study}', { params: { path: { study: study.id } } }));
      close();
      say({ text: `Deleted ${study.name} for good` });
      await client.invalidateQueries({ queryKey: keys.studies });
    } catch (e) {
      setError((e as Error).message);
    }
  };
  return (
    <Dialog title={`Delete ${study.name} for good?`} close={close}>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          go();
        }}
      >
        <p className="pb-2.5">
          {many(study.respondents, 'respondent')}, {many(study.questions.length, 'question')}, their code frames and
          every decision by hand go with it. This is the one thing that can’t be undone. Type the study’s name to go on.
        </p>
        <TextField wide value={typed} onChange={(e) => setTyped(e.target.value)} aria-label="The study’s name" />
        {error && (
          <p className="pt-1.5 text-clay" role="alert">
            {error}
          </p>
        )}
        <Ends go="Delete it for good" ready={typed === study.name} close={close} />
      </form>
    </Dialog>
  );
}
