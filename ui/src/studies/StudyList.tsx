import { useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { api, type Study, take } from '../lib/api';
import { count, dated, many, moment, percent } from '../lib/format';
import { askAgain, keys } from '../lib/queries';
import { required } from '../lib/required';
import { Link } from '../parts/Button';
import { Dialog, Ends } from '../parts/Dialog';
import { Menu } from '../parts/Menu';
import { fetchFile } from '../parts/save';
import { TextField } from '../parts/Text';
import { Heading } from '../parts/Tooltip';
import { Share } from '../people/Share';
import { restore } from './Deleted';
import type { LongWork, Said } from './work';

type Props = { studies: Study[]; work: LongWork; say: (s: Said) => void };

const headings: [string, string][] = [
  ['Answered', 'Answers that say something: those that are missing, empty or on the list of refusals are not counted'],
  ['Coded', 'Answers with at least one category'],
  ['Share', 'Coded answers of those that say something, unweighted'],
  ['Last edit', 'When the scheme of the question was last changed: cleaning, terms, code frame or decisions by hand'],
];
const th = 'pr-4.5 pb-1 align-bottom text-sm font-normal whitespace-nowrap text-soft last:pr-0';
const td = 'py-0.75 pr-4.5 text-right align-baseline whitespace-nowrap last:pr-0';

/** The studies, each with its questions and how far they are coded. */
export function StudyList({ studies, work, say }: Props) {
  const [renaming, setRenaming] = useState<Study>();
  const [sharing, setSharing] = useState<Study>();
  return (
    <>
      <table className="w-full border-collapse" aria-label="Studies and their questions">
        <thead>
          <tr>
            <th scope="col" className={`${th} w-full text-left`}>
              Question
            </th>
            {headings.map(([name, told]) => (
              <th key={name} scope="col" className={`${th} text-right`}>
                <Heading text={told}>{name}</Heading>
              </th>
            ))}
          </tr>
        </thead>
        {studies.map((s) => (
          <tbody key={s.id} data-part="studyline">
            <tr>
              <th scope="rowgroup" colSpan={5} className="border-t pt-2.5 text-left font-normal">
                <div className="flex items-baseline justify-between gap-4.5">
                  <h2 className="min-w-0 break-words">{s.name}</h2>
                  <Actions study={s} work={work} say={say} rename={() => setRenaming(s)} share={() => setSharing(s)} />
                </div>
                <p className="pb-1 text-soft">
                  {many(s.respondents, 'respondent')} · {many(s.columns.length, 'column')} · brought in{' '}
                  {dated(s.created.slice(0, 10))}
                  {s.role === 'reader' && ` · shared with you to read${s.noExports ? ', not to take out' : ''}`}
                  {s.role === 'analyst' && ' · shared with you to work on'}
                </p>
              </th>
            </tr>
            {s.questions.map((q) => (
              <tr key={q.id} className="border-t border-hair">
                <th scope="row" className="max-w-0 py-0.75 pr-4.5 text-left align-baseline font-normal">
                  <Link to={`/q/${q.id}/terms`} className="-ml-0.5 block truncate" title={q.name}>
                    {q.name}
                  </Link>
                </th>
                {q.coding ? (
                  <>
                    <td className={td}>{count(q.coding.answered)}</td>
                    <td className={td}>{count(q.coding.coded)}</td>
                    <td className={td}>{q.coding.answered ? percent(q.coding.coded / q.coding.answered) : '–'}</td>
                  </>
                ) : (
                  <td colSpan={3} className={`${td} text-soft`}>
                    counted when it is opened
                  </td>
                )}
                <td className={td}>{q.changed ? moment(q.changed) : <span className="text-soft">none yet</span>}</td>
              </tr>
            ))}
            <tr aria-hidden>
              <td colSpan={5} className="h-3.5" />
            </tr>
          </tbody>
        ))}
      </table>
      {sharing && <Share study={sharing} close={() => setSharing(undefined)} />}
      {renaming && <Rename study={renaming} say={say} close={() => setRenaming(undefined)} />}
    </>
  );
}

type ActionsProps = Omit<Props, 'studies'> & { study: Study; rename: () => void; share: () => void };

function Actions({ study, work, say, rename, share }: ActionsProps) {
  const client = useQueryClient();
  const copy = () =>
    work.run(`Copying ${study.name}`, async (signal) => {
      const made = await take(
        api.POST('/api/v1/studies/{study}/copy', { params: { path: { study: study.id } }, signal }),
      );
      return { text: `Made “${made.name}”, with its code frames, decisions and history` };
    });
  const remove = () =>
    work.run(`Deleting ${study.name}`, async (signal) => {
      await take(api.DELETE('/api/v1/studies/{study}', { params: { path: { study: study.id } }, signal }));
      return {
        text: `Deleted ${study.name}. It can be restored from the list of deleted studies below.`,
        action: { words: 'Undo', act: () => restore(client, study, say) },
      };
    });
  const busy = !!work.what;
  const { role } = study;
  const works = !role || role !== 'reader';
  const owns = !role || role === 'owner';
  const actions = [
    works && { words: 'Rename…', act: rename },
    works && { words: 'Make a copy', act: copy, disabled: busy },
    works && { words: 'Back up', act: () => fetchFile(`/api/v1/studies/${study.id}/backup`) },
    role === 'owner' && { words: 'Share…', act: share },
    owns && { words: 'Delete', act: remove, disabled: busy, group: true },
  ].filter((a) => !!a);
  if (!actions.length) return null;
  return (
    <Menu
      words="Rename, copy, back up, delete"
      label={`Rename, copy, back up, delete: ${study.name}`}
      actions={actions}
    />
  );
}

function Rename({ study, say, close }: { study: Study; say: (s: Said) => void; close: () => void }) {
  const client = useQueryClient();
  const [name, setName] = useState(study.name);
  const [error, setError] = useState('');
  const question = study.questions[0];
  const undo = (edit: number) => async () => {
    try {
      await take(
        api.POST('/api/v1/questions/{question}/undo', {
          params: { path: { question: required(question).id }, query: { edit, confirmed: true } },
        }),
      );
      say({ text: `It is called ${study.name} again` });
    } catch (e) {
      say({ text: (e as Error).message, bad: true });
    }
  };
  const go = async () => {
    try {
      const done = await take(
        api.POST('/api/v1/studies/{study}/edits', {
          params: { path: { study: study.id } },
          body: { revision: study.revision, edit: { kind: 'study name', name } },
        }),
      );
      close();
      say({ text: done.summary, action: question && { words: 'Undo', act: undo(done.edit) } });
      await client.invalidateQueries({ queryKey: keys.studies });
      await askAgain(client);
    } catch (e) {
      setError((e as Error).message);
    }
  };
  return (
    <Dialog title={`Rename ${study.name}`} close={close}>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          go();
        }}
      >
        <TextField
          wide
          autoFocus
          maxLength={200}
          value={name}
          onChange={(e) => setName(e.target.value)}
          aria-label="The study’s name"
        />
        {error && (
          <p className="pt-1.5 text-clay" role="alert">
            {error}
          </p>
        )}
        <Ends go="Rename it" ready={!!name.trim() && name.trim() !== study.name} close={close} />
      </form>
    </Dialog>
  );
}
