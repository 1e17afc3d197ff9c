import { useQueryClient } from '@tanstack/react-query';
import { useEffect, useRef, useState } from 'react';
import { Link, useNavigate } from 'react-router';
import { api, type Role, take, type Upload } from '../api/client';
import { count, many } from '../format';
import { useProgress } from '../live';
import { useTheme } from '../theme';
import { held, send } from './upload';

const roles: [Role, string][] = [
  ['open-ended', 'answers, in the respondents’ own words'],
  ['segment', 'one of a few values'],
  ['several answers', 'several values in one cell'],
  ['number', 'a number'],
  ['date', 'a date'],
  ['wave', 'the wave of the study'],
  ['weight', 'the survey weight'],
  ['identifier', 'names the respondent'],
  ['left out', 'kept, but not used'],
];

/** A file on its way in: what its columns are, checked by eye before anything is stored. */
export default function Load() {
  useTheme();
  const navigate = useNavigate();
  const client = useQueryClient();
  const [file] = useState(held.file);
  const [sent, setSent] = useState(0);
  const [upload, setUpload] = useState<Upload>();
  const [columns, setColumns] = useState<Upload['columns']>([]);
  const [name, setName] = useState(file?.name.replace(/\.[^.]+$/, '') ?? '');
  const [language, setLanguage] = useState('en');
  const [error, setError] = useState('');
  const [loading, setLoading] = useState<AbortController>();
  const progress = useProgress();
  const begun = useRef(false);

  useEffect(() => {
    document.title = 'Bring in a file · Aftermath';
    if (!file || begun.current) return;
    begun.current = true;
    send(file, setSent, new AbortController().signal).then(
      (u) => {
        setUpload(u);
        setColumns(u.columns);
      },
      (e) => setError(e.message),
    );
  }, [file]);

  const load = async () => {
    const abort = new AbortController();
    setLoading(abort);
    setError('');
    try {
      const study = await take(
        api.POST('/api/v1/studies', {
          body: {
            upload: upload!.id,
            name,
            language,
            columns: columns.map((c) => ({
              name: c.name,
              role: c.role,
              delimiter: c.role === 'several answers' ? c.delimiter || ';' : undefined,
            })),
          },
          signal: abort.signal,
        }),
      );
      await client.invalidateQueries({ queryKey: ['studies'] });
      navigate(`/q/${study.questions[0]!.id}/data`);
    } catch (e) {
      setError(e instanceof DOMException ? 'Cancelled. Nothing of the file was stored.' : (e as Error).message);
      setLoading(undefined);
    }
  };
  const change = (i: number, to: Partial<Upload['columns'][number]>) =>
    setColumns(columns.map((c, j) => (j === i ? { ...c, ...to } : c)));
  const open = columns.filter((c) => c.role === 'open-ended').length;

  if (!file)
    return (
      <main className="lone">
        <h1>No file is chosen</h1>
        <p>
          <Link to="/">Choose one</Link>
        </p>
      </main>
    );
  return (
    <main className="lone load">
      <p className="word">
        <Link to="/">Aftermath</Link>
      </p>
      <h1>What the columns are</h1>
      {error && (
        <p className="bad" role="alert">
          {error}
        </p>
      )}
      {!upload && !error && (
        <p role="status" className="soft">
          {sent < 1 ? `Sending ${file.name}: ${Math.round(100 * sent)} %` : 'Reading the file…'}
        </p>
      )}
      {!upload && error && (
        <p>
          Nothing was loaded. Mend the file and <Link to="/">choose it again</Link>.
        </p>
      )}
      {upload && (
        <>
          <p className="soft">
            {many(upload.rows, 'row')}, {many(columns.length, 'column')}. Each role is a guess, with its reason; change
            what is wrong.
          </p>
          <div className="row fields">
            <label>
              Name of the study <input value={name} onChange={(e) => setName(e.target.value)} />
            </label>
            <label>
              Language of the answers{' '}
              <select value={language} onChange={(e) => setLanguage(e.target.value)}>
                {[
                  ['en', 'English'],
                  ['de', 'German'],
                  ['fr', 'French'],
                  ['es', 'Spanish'],
                  ['it', 'Italian'],
                  ['nl', 'Dutch'],
                  ['pt', 'Portuguese'],
                ].map(([code, label]) => (
                  <option key={code} value={code}>
                    {label}
                  </option>
                ))}
              </select>
            </label>
          </div>
          <div className="scroll-x">
            <table className="columns">
              <thead>
                <tr>
                  <th>column</th>
                  <th>is</th>
                  <th>because</th>
                  <th>first rows</th>
                </tr>
              </thead>
              <tbody>
                {columns.map((c, i) => (
                  <tr key={c.name}>
                    <th scope="row">{c.name}</th>
                    <td>
                      <select
                        aria-label={`role of ${c.name}`}
                        value={c.role}
                        onChange={(e) => change(i, { role: e.target.value as Role })}
                      >
                        {roles.map(([role, what]) => (
                          <option key={role} value={role} title={what}>
                            {role}
                          </option>
                        ))}
                      </select>
                      {c.role === 'several answers' && (
                        <label className="soft">
                          {' '}
                          parted by{' '}
                          <input
                            className="tiny"
                            aria-label={`what parts the values of ${c.name}`}
                            value={c.delimiter ?? ';'}
                            onChange={(e) => change(i, { delimiter: e.target.value })}
                          />
                        </label>
                      )}
                    </td>
                    <td className="soft">{c.role === upload.columns[i]!.role ? c.reason : 'you said so'}</td>
                    <td className="samples">
                      {upload.head
                        .map((row) => row[i]!.trim())
                        .filter(Boolean)
                        .slice(0, c.role === 'open-ended' ? 2 : 4)
                        .join('  ·  ')}
                    </td>
                  </tr>
                ))}
              </tbody>
            </table>
          </div>
          {loading ? (
            <p role="status">
              {progress?.what === 'loading' && progress.total
                ? `${count(progress.done ?? 0)} of ${count(progress.total)} rows stored`
                : 'Checking every cell…'}{' '}
              <button type="button" onClick={() => loading.abort()}>
                Cancel
              </button>
            </p>
          ) : (
            <p className="row">
              <button type="button" className="go" disabled={!open || !name.trim()} onClick={load}>
                Load {many(upload.rows, 'row')}
              </button>
              <Link to="/">Leave it</Link>
              {!open && <span className="bad">No column is open-ended: say which one holds the answers.</span>}
            </p>
          )}
        </>
      )}
    </main>
  );
}
