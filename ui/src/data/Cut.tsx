import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { api, type Column, type Division, take } from '../lib/api';
import { useDesk } from '../lib/edits';
import { many } from '../lib/format';
import { Dialog, Ends } from '../parts/Dialog';
import { DivisionSettings } from '../parts/DivisionSettings';

/** Cuts the answers of a column into several: shows what comes of it before it is kept. */
export function Cut({ column, close }: { column: Column; close: () => void }) {
  const { question, editStudy } = useDesk();
  const study = question.study;
  const [division, setDivision] = useState<Division>({ by: 'paragraph', n: 10, at: '' });
  const body = { ...division, column: column.name };
  const ready = (division.by !== 'delimiter' && division.by !== 'pattern') || !!division.at;
  const tried = useQuery({
    queryKey: ['cut', study.id, study.revision, body],
    queryFn: ({ signal }) =>
      take(api.POST('/api/v1/studies/{study}/divide/try', { params: { path: { study: study.id } }, body, signal })),
    enabled: ready,
    placeholderData: (old) => old,
  });
  const now = ready && !tried.error ? tried.data : undefined;
  return (
    <Dialog title={`Cut the answers to ${column.name}`} wide close={close}>
      <form
        className="grid gap-2"
        onSubmit={async (e) => {
          e.preventDefault();
          if (await editStudy({ kind: 'divide', divide: body })) close();
        }}
      >
        <p>
          Cut them
          <DivisionSettings division={division} change={(to) => setDivision({ ...division, ...to })} />
        </p>
        <p className="text-soft">
          Each part becomes a row of its own, with everything else its respondent said; answers to other open-ended
          questions stay with the first part. Bases count parts then, not people. The columns document, part and
          position say where a part comes from.
        </p>
        {tried.error && (
          <p className="text-clay" role="alert">
            {tried.error.message}
          </p>
        )}
        {now && (
          <div aria-busy={tried.isPlaceholderData} className="grid gap-2">
            <p role="status">
              {now.cut === 0
                ? 'No answer would be cut.'
                : `${many(now.cut, 'answer')} would be cut into ${many(now.parts, 'part')}, at most ${now.longest} of one; the study would have ${many(now.rows, 'row')}. What was decided by hand on these answers does not hold for their parts; undo brings it back.`}
            </p>
            <ol className="grid gap-2" aria-label="The first answers that would be cut">
              {now.samples.map((s) => (
                <li key={s.number} className="grid gap-1 border-t pt-2 font-serif">
                  {s.parts.map((p, i) => (
                    <p key={i} className="border-l-3 border-moss pl-2.5">
                      {p}
                    </p>
                  ))}
                </li>
              ))}
            </ol>
          </div>
        )}
        <Ends go="Cut them" ready={!!now && now.cut > 0 && !tried.isPlaceholderData} close={close} />
      </form>
    </Dialog>
  );
}
