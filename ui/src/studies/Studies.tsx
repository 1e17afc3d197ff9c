import { useQuery } from '@tanstack/react-query';
import { useEffect, useState } from 'react';
import { api, take } from '../lib/api';
import { count } from '../lib/format';
import { useProgress } from '../lib/live';
import { keys, useStudies } from '../lib/queries';
import { useKnownSession } from '../lib/session';
import { Failed } from '../parts/Asked';
import { Button, Link } from '../parts/Button';
import { Empty, Skeleton } from '../parts/Text';
import { Toast, ToastPlace } from '../parts/Toast';
import { Who } from '../people/Who';
import { Backups } from './Backups';
import { Bring } from './Bring';
import { Deleted } from './Deleted';
import { StudyList } from './StudyList';
import { type Said, useLongWork } from './work';

/** The first page: all studies with their state, and the ways to bring in another. */
export default function Studies() {
  const studies = useStudies('always');
  const deleted = useQuery({
    queryKey: keys.deletedStudies,
    queryFn: ({ signal }) => take(api.GET('/api/v1/deleted-studies', { signal })),
  });
  const [said, setSaid] = useState<Said & { at: number }>();
  const say = (s: Said) => setSaid({ ...s, at: Date.now() });
  const work = useLongWork(say);
  const progress = useProgress();
  const session = useKnownSession();
  const brings = session?.brings ?? true;
  useEffect(() => {
    document.title = 'Aftermath';
  }, []);
  const demo = () =>
    work.run('Loading the demo study', async (signal) => {
      const made = await take(api.POST('/api/v1/studies/demo', { signal }));
      return { text: `Loaded ${made.name}` };
    });
  return (
    <main id="main" tabIndex={-1} className="mx-auto grid max-w-240 gap-5 px-6 py-8.5 outline-none">
      <header>
        <p className="flex items-baseline justify-between">
          <span className="font-serif text-xl leading-none font-semibold text-moss italic">Aftermath</span>
          <Who />
        </p>
        <h1 className="mt-3.5">Studies</h1>
      </header>
      {studies.error && <Failed error={studies.error} again={() => studies.refetch()} />}
      {studies.isPending && <Skeleton lines={6} />}
      {studies.data?.length === 0 && (
        <Empty>
          There is no study yet. Bring in a file of answers to begin, or load the demo: 6,000 made-up passengers of a
          made-up ferry line, to look round in.
        </Empty>
      )}
      {!!studies.data?.length && <StudyList studies={studies.data} work={work} say={say} />}
      <div className="sticky bottom-0 z-20 flex min-h-9 items-center gap-2.5 bg-paper" role="status">
        {work.what && (
          <>
            <span>
              {work.what} …{progress?.total ? ` ${count(progress.done ?? 0)} of ${count(progress.total)}` : ''}
            </span>
            <Button onClick={work.cancel}>Cancel</Button>
          </>
        )}
        <ToastPlace className="min-w-0 flex-1" />
        {said && (
          <Toast key={said.at} bad={said.bad} action={said.action} close={() => setSaid(undefined)}>
            {said.text}
          </Toast>
        )}
      </div>
      {/* What stands below the list comes with it: nothing moves away from under the mouse. */}
      {!studies.isPending && (
        <>
          {brings ? (
            <>
              <Bring />
              <p className="flex flex-wrap items-baseline gap-2.5">
                <Button onClick={demo} disabled={!!work.what}>
                  Load the demo study
                </Button>
                <span className="text-soft">6,000 made-up passengers of Larkmoor Ferries, in two waves</span>
              </p>
            </>
          ) : (
            <p className="text-soft">
              You work in what is shared with you. To bring in files, ask an admin to share a study with you to work on,
              or to let you begin studies.
            </p>
          )}
          <Backups work={work} any={!!studies.data?.length} />
          {session && !session.on && (
            <p className="text-soft">
              Whoever reaches this server can work here without signing in. <Link to="/people">Add accounts</Link>
            </p>
          )}
        </>
      )}
      {!!deleted.data?.length && <Deleted studies={deleted.data} say={say} />}
    </main>
  );
}
