import { useQuery } from '@tanstack/react-query';
import { useRef } from 'react';
import { api, take } from '../lib/api';
import { many, moment, percent } from '../lib/format';
import { keys } from '../lib/queries';
import { itemAt } from '../lib/required';
import { useKnownSession } from '../lib/session';
import { post } from '../lib/upload';
import { Button } from '../parts/Button';
import { fetchFile } from '../parts/save';
import type { LongWork } from './work';

/** Back-ups of all studies, and the way back. */
export function Backups({ work, any }: { work: LongWork; any: boolean }) {
  const last = useQuery({
    queryKey: keys.backedUp,
    queryFn: ({ signal }) => take(api.GET('/api/v1/backup/last', { signal })),
  });
  const session = useKnownSession();
  const brings = session?.brings ?? true;
  const file = useRef<HTMLInputElement>(null);
  const restore = (chosen: File | undefined) =>
    chosen &&
    work.run(`Restoring ${chosen.name}`, async (signal, tell) => {
      const going = (share: number) =>
        tell(share < 1 ? `Sending ${chosen.name}: ${percent(share)}` : `Restoring ${chosen.name}`);
      const made = await post<{ name: string }[]>('/api/v1/restore', chosen, going, signal);
      return {
        text:
          made.length === 1
            ? `Restored “${itemAt(made, 0).name}”`
            : `Restored ${many(made.length, 'study', 'studies')}`,
      };
    });
  return (
    <section aria-label="Back-ups" className="grid gap-1.5">
      <p className="flex flex-wrap items-baseline gap-2.5">
        {(!session?.on || session.admin) && (
          <Button onClick={() => fetchFile('/api/v1/backup')} disabled={!any}>
            Back up all studies
          </Button>
        )}
        {brings && (
          <Button onClick={() => file.current?.click()} disabled={!!work.what}>
            Restore a back-up…
          </Button>
        )}
        {brings && (
          <span className="text-soft">one file with answers, code frames, decisions, reports and history</span>
        )}
        <input
          ref={file}
          type="file"
          hidden
          accept=".zip"
          aria-label="Back-up to restore"
          onChange={(e) => {
            restore(e.target.files?.[0]);
            e.target.value = '';
          }}
        />
      </p>
      {last.data?.folder &&
        (last.data.problem ? (
          <p role="alert" className="text-clay">
            The back-up of {moment(last.data.at)} is none to count on: {last.data.problem}. Another one is made by
            itself.
          </p>
        ) : (
          <p className="text-soft">
            Backed up by the server on {moment(last.data.at)}, in {last.data.folder}
            {last.data.read && `: ${last.data.read}`}
          </p>
        ))}
    </section>
  );
}
