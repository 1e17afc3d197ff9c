import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useEffect, useState } from 'react';
import { Link, useNavigate } from 'react-router';
import { api, type Study, take } from '../api/client';
import { count, dated, many } from '../format';
import { Sheet } from '../frame/Sheets';
import { useTheme } from '../theme';
import { held } from './upload';

/** All studies, and the way to bring in another. */
export default function Studies() {
  useTheme();
  const studies = useQuery({ queryKey: ['studies'], queryFn: () => take(api.GET('/api/v1/studies')) });
  const [going, setGoing] = useState<Study>();
  const [over, setOver] = useState(false);
  const navigate = useNavigate();
  const bring = (file: File | undefined) => {
    if (!file) return;
    held.file = file;
    navigate('/load');
  };
  useEffect(() => {
    document.title = 'Aftermath';
  }, []);
  return (
    <main className="lone studies">
      <p className="word">Aftermath</p>
      <h1>Studies</h1>
      {studies.error && <p className="bad">{studies.error.message}</p>}
      {studies.isPending && <p className="ghost">&nbsp;</p>}
      {studies.data?.length === 0 && (
        <p className="empty">There is no study yet. Bring in a file of answers to begin.</p>
      )}
      <ul className="plainlist">
        {studies.data?.map((s) => (
          <li key={s.id} className="studyline">
            <div>
              <h2>{s.name}</h2>
              <p className="soft">
                {many(s.respondents, 'respondent')} · {many(s.columns.length, 'column')} · brought in{' '}
                {dated(s.created.slice(0, 10))}
              </p>
              <ul className="plainlist">
                {s.questions.map((q) => (
                  <li key={q.id}>
                    <Link to={`/q/${q.id}/terms`}>{q.name}</Link>
                  </li>
                ))}
              </ul>
            </div>
            <button
              type="button"
              className="plain"
              onClick={() => setGoing(s)}
              aria-label={`delete the study ${s.name}`}
            >
              delete…
            </button>
          </li>
        ))}
      </ul>
      <label
        className={over ? 'drop over' : 'drop'}
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
        <span className="soft">
          Drop a CSV file here, or choose one. UTF-8, one row per respondent, names of the columns in the first row.
        </span>
        <input type="file" accept=".csv,text/csv" onChange={(e) => bring(e.target.files?.[0])} />
      </label>
      {going && <Delete study={going} close={() => setGoing(undefined)} />}
    </main>
  );
}

function Delete({ study, close }: { study: Study; close: () => void }) {
  const client = useQueryClient();
  const [typed, setTyped] = useState('');
  const [error, setError] = useState('');
  const go = async () => {
    try {
      await take(api.DELETE('/api/v1/studies/{study}', { params: { path: { study: study.id } } }));
      await client.invalidateQueries({ queryKey: ['studies'] });
      close();
    } catch (e) {
      setError((e as Error).message);
    }
  };
  return (
    <Sheet title={`Delete ${study.name}?`} close={close}>
      <p>
        {count(study.respondents)} respondents, {many(study.questions.length, 'question')}, their code frames and every
        decision by hand go with it. This is the one thing that can’t be undone. Type the study’s name to go on.
      </p>
      <input className="wide" value={typed} onChange={(e) => setTyped(e.target.value)} aria-label="The study’s name" />
      {error && <p className="bad">{error}</p>}
      <p className="row">
        <button type="button" disabled={typed !== study.name} onClick={go}>
          Delete the study
        </button>
        <button type="button" className="go" onClick={close}>
          Keep it
        </button>
      </p>
    </Sheet>
  );
}
