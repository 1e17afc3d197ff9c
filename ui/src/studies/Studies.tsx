import { useQueryClient } from '@tanstack/react-query';
import { useEffect, useState } from 'react';
import { useNavigate } from 'react-router';
import { api, type Study, take } from '../lib/api';
import { count, dated, many } from '../lib/format';
import { keys, useStudies } from '../lib/queries';
import { held, pasted } from '../lib/upload';
import { Failed } from '../parts/Asked';
import { Button, Link } from '../parts/Button';
import { Dialog } from '../parts/Dialog';
import { Empty, Skeleton, TextArea, TextField } from '../parts/Text';

/** All studies, and the way to bring in another. */
export default function Studies() {
  const studies = useStudies();
  const [going, setGoing] = useState<Study>();
  const [over, setOver] = useState(false);
  const navigate = useNavigate();
  const [other, setOther] = useState<'paste' | 'link'>();
  const bring = (file: File | undefined, link?: string) => {
    if (!file && !link) return;
    held.file = file;
    held.link = link;
    navigate('/load');
  };
  useEffect(() => {
    document.title = 'Aftermath';
  }, []);
  return (
    <main id="main" tabIndex={-1} className="mx-auto grid max-w-215 gap-3.5 px-6 py-8.5 outline-none">
      <p className="font-serif text-xl leading-none font-semibold text-moss italic">Aftermath</p>
      <h1>Studies</h1>
      {studies.error && <Failed error={studies.error} again={() => studies.refetch()} />}
      {studies.isPending && <Skeleton lines={6} />}
      {studies.data?.length === 0 && (
        <Empty>
          There is no study yet. Bring in a file of answers to begin; the program started as “aftermath demo” has a
          made-up study to look round in.
        </Empty>
      )}
      <ul>
        {studies.data?.map((s) => (
          <li key={s.id} data-part="studyline" className="flex items-start justify-between border-t py-3.5">
            <div>
              <h2>{s.name}</h2>
              <p className="text-soft">
                {many(s.respondents, 'respondent')} · {many(s.columns.length, 'column')} · brought in{' '}
                {dated(s.created.slice(0, 10))}
              </p>
              <ul>
                {s.questions.map((q) => (
                  <li key={q.id}>
                    <Link to={`/q/${q.id}/terms`}>{q.name}</Link>
                  </li>
                ))}
              </ul>
            </div>
            <Button look="plain" onClick={() => setGoing(s)} aria-label={`Delete… the study ${s.name}`}>
              Delete…
            </Button>
          </li>
        ))}
      </ul>
      <label
        data-part="drop"
        className={`grid cursor-pointer gap-1.5 rounded-(--radius) border-2 border-dashed border-moss p-5 focus-within:outline-2 focus-within:outline-moss ${over ? 'bg-mosspale' : ''}`}
        onDragOver={(e) => {
          e.preventDefault();
          setOver(true);
        }}
        onDragLeave={() => setOver(false)}
        onDrop={(e) => {
          e.preventDefault();
          setOver(false);
          bring(e.dataTransfer.files[0]);
        }}
      >
        <b>Bring in a file of answers</b>
        <span className="text-soft">
          Drop it here, or choose one: CSV or TSV, a workbook (XLSX), JSON, plain text, a saved web page, up to 2 GiB
          and 2,000,000 rows. You see how it is read before anything is stored.
        </span>
        <input
          type="file"
          className="pt-1.5 file:mr-3 file:cursor-pointer file:rounded-(--radius) file:bg-moss file:px-3 file:py-1 file:text-onmoss"
          onChange={(e) => bring(e.target.files?.[0])}
        />
      </label>
      <p className="flex items-baseline gap-2.5">
        <Button onClick={() => setOther('paste')}>Paste answers or a table</Button>
        <Button onClick={() => setOther('link')}>Follow a link</Button>
      </p>
      {other && <Other what={other} bring={bring} close={() => setOther(undefined)} />}
      {going && <Delete study={going} close={() => setGoing(undefined)} />}
    </main>
  );
}

type OtherProps = { what: 'paste' | 'link'; bring: (file?: File, link?: string) => void; close: () => void };

/** Answers that are in no file: pasted, or behind a link. */
function Other({ what, bring, close }: OtherProps) {
  const [text, setText] = useState('');
  const paste = what === 'paste';
  return (
    <Dialog title={paste ? 'Paste answers or a table' : 'Follow a link'} close={close}>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          if (text.trim()) bring(paste ? pasted(text) : undefined, paste ? undefined : text.trim());
        }}
      >
        <label className="grid gap-0.75 text-sm text-soft *:text-base *:text-ink" htmlFor="given">
          {paste
            ? 'An answer per line, answers parted by blank lines, or rows copied from a spreadsheet'
            : 'The address of a file or web page; the server fetches it, http and https only, up to 256 MiB'}
        </label>
        {paste ? (
          <TextArea id="given" rows={10} value={text} onChange={(e) => setText(e.target.value)} />
        ) : (
          <TextField id="given" wide value={text} placeholder="https://" onChange={(e) => setText(e.target.value)} />
        )}
        <p className="flex items-baseline gap-2.5">
          <Button type="submit" look="go" disabled={!text.trim()}>
            See how it is read
          </Button>
          <Button onClick={close}>Close</Button>
        </p>
      </form>
    </Dialog>
  );
}

function Delete({ study, close }: { study: Study; close: () => void }) {
  const client = useQueryClient();
  const [typed, setTyped] = useState('');
  const [error, setError] = useState('');
  const go = async () => {
    try {
      await take(api.DELETE('/api/v1/studies/{study}', { params: { path: { study: study.id } } }));
      await client.invalidateQueries({ queryKey: keys.studies });
      close();
    } catch (e) {
      setError((e as Error).message);
    }
  };
  return (
    <Dialog title={`Delete ${study.name}?`} close={close}>
      <p>
        {count(study.respondents)} respondents, {many(study.questions.length, 'question')}, their code frames and every
        decision by hand go with it. This is the one thing that can’t be undone. Type the study’s name to go on.
      </p>
      <TextField wide value={typed} onChange={(e) => setTyped(e.target.value)} aria-label="The study’s name" />
      {error && <p className="text-clay">{error}</p>}
      <p className="flex items-baseline gap-2.5">
        <Button disabled={typed !== study.name} onClick={go}>
          Delete the study
        </Button>
        <Button look="go" onClick={close}>
          Keep it
        </Button>
      </p>
    </Dialog>
  );
}
