import { useQueryClient } from '@tanstack/react-query';
import { useEffect, useState } from 'react';
import { Link, useNavigate } from 'react-router';
import { api, type Guess, type Spec, take } from '../lib/api';
import { many } from '../lib/format';
import { useTheme } from '../lib/theme';
import { type Incoming, useIncoming } from '../lib/upload';
import { bare, FoldedSettings, RoleSelect } from '../parts/ColumnSettings';
import { Finish } from './Loading';
import { Odd, Reading } from './Reading';

/** The page around a file on its way in. */
export function Arriving({ incoming, title, back }: { incoming: Incoming; title: string; back: string }) {
  const { what, sent, upload, error } = incoming;
  useTheme();
  useEffect(() => {
    document.title = `${title} · Aftermath`;
  }, [title]);
  return (
    <>
      <p className="word">
        <Link to="/">Aftermath</Link>
      </p>
      <h1>{what ? title : 'No file is chosen'}</h1>
      {!what && (
        <p>
          <Link to={back}>Choose one</Link>
        </p>
      )}
      {error && (
        <p className="bad" role="alert">
          {error}
        </p>
      )}
      {what && !upload && !error && (
        <p role="status" className="soft">
          {sent > 0 && sent < 1 ? `Sending ${what}: ${Math.round(100 * sent)} %` : `Reading ${what}…`}
        </p>
      )}
      {what && !upload && error && (
        <p>
          Nothing was loaded. Mend the file and <Link to={back}>choose it again</Link>.
        </p>
      )}
    </>
  );
}

/** A file on its way in: how it is read and what its columns are, checked by eye before anything is stored. */
export default function Load() {
  const navigate = useNavigate();
  const client = useQueryClient();
  const incoming = useIncoming();
  const { upload, recipe, preview, stale, what } = incoming;
  const [said, setSaid] = useState<Record<string, Partial<Spec>>>({});
  const [name, setName] = useState(
    what
      ?.replace(/\.[^.\s]+$/, '')
      .replace(/^https?:\/\//, '')
      .slice(0, 80) ?? '',
  );
  const [language, setLanguage] = useState('');
  const [failed, setFailed] = useState('');
  const [loading, setLoading] = useState<AbortController>();

  const columns = (preview?.columns ?? []).map((c) => ({ ...c, ...said[c.name] }));
  const load = async () => {
    const abort = new AbortController();
    setLoading(abort);
    setFailed('');
    try {
      const study = await take(
        api.POST('/api/v1/studies', {
          body: { upload: upload!.id, recipe, name, language: language || undefined, columns: columns.map(bare) },
          signal: abort.signal,
        }),
      );
      await client.invalidateQueries({ queryKey: ['studies'] });
      navigate(`/q/${study.questions[0]!.id}/data`, { state: { notes: study.notes } });
    } catch (e) {
      setFailed(e instanceof DOMException ? 'Cancelled. Nothing of the file was stored.' : (e as Error).message);
      setLoading(undefined);
    }
  };
  const change = (column: string, to: Partial<Spec>) => setSaid({ ...said, [column]: { ...said[column], ...to } });
  const open = columns.filter((c) => c.role === 'open-ended').length;

  return (
    <main className="lone load">
      <Arriving incoming={incoming} title="How this file is read" back="/" />
      {upload && preview && (
        <>
          <Reading incoming={incoming} />
          {preview.problem ? (
            <p className="bad" role="alert">
              {preview.problem}
            </p>
          ) : (
            <div className="columnspart" aria-busy={stale}>
              <div className="row between">
                <h2>What its columns are</h2>
                <span className="soft">
                  {preview.whole ? many(preview.rows, 'row') : `the first ${many(preview.rows, 'row')}`},{' '}
                  {many(columns.length, 'column')}. Each role is a guess; change what is wrong.
                </span>
              </div>
              <Odd notes={preview.notes} />
              <ColumnTable columns={columns} guesses={preview.columns} head={preview.head} change={change} />
            </div>
          )}
          <div className="finish">
            <div className="row fields">
              <label>
                Name of the study{' '}
                <input value={name} onChange={(e) => setName(e.target.value)} aria-label="Name of the study" />
              </label>
              <label>
                Language of the answers{' '}
                <select value={language} onChange={(e) => setLanguage(e.target.value)}>
                  {[
                    ['', 'found out from them'],
                    ['en', 'English'],
                    ['de', 'German'],
                    ['fr', 'French'],
                    ['es', 'Spanish'],
                    ['it', 'Italian'],
                    ['nl', 'Dutch'],
                    ['pt', 'Portuguese'],
                    ['und', 'another'],
                  ].map(([code, words]) => (
                    <option key={code} value={code}>
                      {words}
                    </option>
                  ))}
                </select>
              </label>
            </div>
            <Finish failed={failed} running={loading}>
              <button
                type="button"
                className="go"
                disabled={!open || !name.trim() || stale || !!preview.problem}
                onClick={load}
              >
                {preview.whole ? `Load ${many(preview.rows, 'row')}` : 'Load all rows'}
              </button>
              <Link to="/">Leave it</Link>
              {!open && !preview.problem && (
                <span className="bad">No column is open-ended: say which one holds the answers.</span>
              )}
            </Finish>
          </div>
        </>
      )}
    </main>
  );
}

type TableProps = {
  columns: Guess[];
  guesses: Guess[];
  head: string[][];
  change: (column: string, to: Partial<Spec>) => void;
};

/** The columns of a file, each with its role, what its cells need, and its first rows. */
export function ColumnTable({ columns, guesses, head, change }: TableProps) {
  return (
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
                <RoleSelect column={c} change={(to) => change(c.name, to)} />
                <FoldedSettings key={c.role} column={c} change={(to) => change(c.name, to)} />
              </td>
              <td className="soft">{c.role === guesses[i]!.role ? c.reason : 'you said so'}</td>
              <td className="samples">
                {head
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
  );
}
