import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { Link, useNavigate, useParams } from 'react-router';
import { api, type Further, type Question, type Spec, take } from '../lib/api';
import { count, many } from '../lib/format';
import { askAgain } from '../lib/live';
import { type Incoming, useIncoming } from '../lib/upload';
import { bare } from '../parts/ColumnSettings';
import { Arriving, ColumnTable } from './Load';
import { Finish, Loading } from './Loading';
import { Odd, Reading } from './Reading';

/** A further file for a study: respondents of a next wave, or columns by a key. */
export default function Add() {
  const { question: id, kind } = useParams();
  const incoming = useIncoming();
  const question = useQuery({
    queryKey: ['question', Number(id), 'state', ''],
    queryFn: () => take(api.GET('/api/v1/questions/{question}', { params: { path: { question: Number(id) } } })),
  });
  const rows = kind === 'rows';
  const { preview } = incoming;
  const back = `/q/${id}/data`;
  return (
    <main className="lone load">
      <Arriving
        incoming={incoming}
        title={rows ? 'Add respondents of a further file' : 'Add columns of a second file'}
        back={back}
      />
      {question.error && <p className="bad">{question.error.message}</p>}
      {question.data && incoming.upload && preview && (
        <>
          <p className="soft">
            To {question.data.study.name}, which has {many(question.data.respondents, 'respondent')}.
          </p>
          <Reading incoming={incoming} />
          {preview.problem ? (
            <p className="bad" role="alert">
              {preview.problem}
            </p>
          ) : rows ? (
            <Rows key={JSON.stringify(incoming.recipe)} incoming={incoming} question={question.data} back={back} />
          ) : (
            <Columns key={JSON.stringify(incoming.recipe)} incoming={incoming} question={question.data} back={back} />
          )}
        </>
      )}
    </main>
  );
}

type PartProps = { incoming: Incoming; question: Question; back: string };

/** Runs the addition, and goes back to the study when it is done. */
function useAdding(back: string) {
  const navigate = useNavigate();
  const client = useQueryClient();
  const [adding, setAdding] = useState<AbortController>();
  const [failed, setFailed] = useState('');
  const run = async (add: (signal: AbortSignal) => Promise<{ summary: string }>) => {
    const abort = new AbortController();
    setAdding(abort);
    setFailed('');
    try {
      const { summary } = await add(abort.signal);
      await client.invalidateQueries({ queryKey: ['studies'] });
      await askAgain(client, ['question']);
      navigate(back, { state: { done: summary } });
    } catch (e) {
      setFailed(e instanceof DOMException ? 'Cancelled. The study is as it was.' : (e as Error).message);
      setAdding(undefined);
    }
  };
  return { adding, failed, run };
}

const leaveOut = '\u0000out';
const asNew = '\u0000new';

function Rows({ incoming, question, back }: PartProps) {
  const { upload, recipe, preview } = incoming;
  const [further, setFurther] = useState<Further>();
  const { adding, failed, run } = useAdding(back);
  const study = question.study;
  const tried = useQuery({
    queryKey: ['add rows', upload!.id, recipe, study.revision, further],
    queryFn: ({ signal }) =>
      take(
        api.POST('/api/v1/studies/{study}/rows/try', {
          params: { path: { study: study.id } },
          body: { upload: upload!.id, recipe, revision: study.revision, further },
          signal,
        }),
      ),
    placeholderData: (old) => old,
  });
  if (tried.error) return <p className="bad">{tried.error.message}</p>;
  if (!tried.data) return <Loading cancel={() => history.back()} />;
  const report = tried.data;
  const now = further ?? report.further;
  const used = new Set(now.columns.map((c) => c.to).filter(Boolean));
  const send = (i: number, to: string) => {
    const guess = preview!.columns[i]!;
    const next =
      to === asNew
        ? { column: guess.name, new: bare(guess) }
        : { column: guess.name, to: to === leaveOut ? undefined : to };
    setFurther({ ...now, columns: now.columns.map((c, j) => (j === i ? next : c)) });
  };
  const fill = (column: string, to: { value?: string; before?: string }) => {
    const fills = now.fill ?? [];
    const old = fills.find((f) => f.column === column);
    const others = fills.filter((f) => f.column !== column);
    const next = { value: '', ...old, column, ...to };
    setFurther({ ...now, fill: next.value ? [...others, next] : others });
  };
  const wave = study.columns.find((c) => c.role === 'wave');
  return (
    <>
      <h2>Where its columns go</h2>
      <div className="scroll-x">
        <table className="columns matching">
          <thead>
            <tr>
              <th>column of the file</th>
              <th>goes to</th>
              <th>first rows</th>
            </tr>
          </thead>
          <tbody>
            {now.columns.map((c, i) => (
              <tr key={c.column}>
                <th scope="row">{c.column}</th>
                <td>
                  <select
                    aria-label={`${c.column} goes to`}
                    value={c.new ? asNew : (c.to ?? leaveOut)}
                    onChange={(e) => send(i, e.target.value)}
                  >
                    <option value={leaveOut}>nowhere: it is left out</option>
                    <option value={asNew}>a new column, blank for those who are there</option>
                    {study.columns
                      .filter((s) => s.name === c.to || !used.has(s.name))
                      .map((s) => (
                        <option key={s.name} value={s.name}>
                          {s.name} ({s.role})
                        </option>
                      ))}
                  </select>
                </td>
                <td className="samples">
                  {preview!.head
                    .map((row) => row[i]?.trim())
                    .filter(Boolean)
                    .slice(0, 3)
                    .join('  ·  ')}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      {!(wave && used.has(wave.name)) && (
        <div className="row wrap fields">
          <label>
            The wave of these rows{' '}
            <input
              aria-label="the wave of these rows"
              placeholder="Spring 2027"
              onChange={(e) => fill(wave?.name ?? 'wave', { value: e.target.value })}
            />
          </label>
          {!wave && (
            <label>
              and of those who are there{' '}
              <input
                aria-label="the wave of those who are there"
                placeholder="Autumn 2026"
                onChange={(e) => fill('wave', { before: e.target.value })}
              />
            </label>
          )}
        </div>
      )}
      <ul className="report" aria-busy={tried.isPlaceholderData}>
        {report.problem && <li className="bad">{report.problem}</li>}
        {!report.problem && <li>{many(report.rows, 'respondent')} would be added.</li>}
        {report.blank.length > 0 && <li>Blank for them: {report.blank.join(', ')}.</li>}
        {report.leftOut.length > 0 && <li>Left out: {report.leftOut.join(', ')}.</li>}
        {report.known > 0 && (
          <li className="warn">
            {many(report.known, 'row')} {report.known === 1 ? 'has an identifier' : 'have identifiers'} that a
            respondent has already: {report.samples.slice(0, 8).join(', ')}
            {report.known > 8 && ' …'}. They would be there twice.
          </li>
        )}
        {report.values.map((v) => (
          <li key={v.column}>
            New in {v.column}: {v.values.map((x) => `${x.value} (${count(x.count)})`).join(', ')}
            {v.more > 0 && ` and ${count(v.more)} more`}.
          </li>
        ))}
      </ul>
      <Odd notes={report.notes} />
      <div className="finish">
        <Finish failed={failed} running={adding}>
          <button
            type="button"
            className="go"
            disabled={!!report.problem || tried.isPlaceholderData || !report.rows}
            onClick={() =>
              run((signal) =>
                take(
                  api.POST('/api/v1/studies/{study}/rows', {
                    params: { path: { study: study.id } },
                    body: { upload: upload!.id, recipe, revision: study.revision, further: now },
                    signal,
                  }),
                ),
              )
            }
          >
            Add {many(report.rows, 'respondent')}
          </button>
          <Link to={back}>Leave it</Link>
        </Finish>
      </div>
    </>
  );
}

function Columns({ incoming, question, back }: PartProps) {
  const { upload, recipe, preview } = incoming;
  const { adding, failed, run } = useAdding(back);
  const study = question.study;
  const ids = study.columns.filter((c) => c.role === 'identifier');
  const [key, setKey] = useState((ids[0] ?? study.columns[0]!).name);
  const [fileKey, setFileKey] = useState(
    (
      preview!.columns.find((c) => c.name.toLowerCase() === key.toLowerCase()) ??
      preview!.columns.find((c) => c.role === 'identifier') ??
      preview!.columns[0]!
    ).name,
  );
  const [said, setSaid] = useState<Record<string, Partial<Spec>>>({});
  const taken = new Set(study.columns.map((c) => c.name.toLowerCase()));
  const columns = preview!.columns.filter((c) => c.name !== fileKey).map((c) => ({ ...c, ...said[c.name] }));
  const join = {
    key,
    fileKey,
    columns: columns
      .filter((c) => c.role !== 'left out')
      .map((c) => ({ ...bare(c), from: c.name, name: taken.has(c.name.toLowerCase()) ? `${c.name} (2)` : c.name })),
  };
  const body = { upload: upload!.id, recipe, revision: study.revision, join };
  const tried = useQuery({
    queryKey: ['add columns', body],
    queryFn: ({ signal }) =>
      take(api.POST('/api/v1/studies/{study}/columns/try', { params: { path: { study: study.id } }, body, signal })),
    placeholderData: (old) => old,
  });
  const report = tried.data;
  const keyList = (keys: string[], n: number) => (
    <details>
      <summary>which</summary>
      <p className="soft">
        {keys.map((k) => k || '(blank)').join(', ')}
        {n > keys.length && ` and ${count(n - keys.length)} more`}
      </p>
    </details>
  );
  return (
    <>
      <h2>Whose they are</h2>
      <div className="row wrap fields">
        <label>
          Key in the study{' '}
          <select aria-label="key in the study" value={key} onChange={(e) => setKey(e.target.value)}>
            {study.columns.map((c) => (
              <option key={c.name}>{c.name}</option>
            ))}
          </select>
        </label>
        <label>
          is the same as, in the file,{' '}
          <select aria-label="key in the file" value={fileKey} onChange={(e) => setFileKey(e.target.value)}>
            {preview!.columns.map((c) => (
              <option key={c.name}>{c.name}</option>
            ))}
          </select>
        </label>
      </div>
      {tried.error && <p className="bad">{tried.error.message}</p>}
      {report && (
        <ul className="report" aria-busy={tried.isPlaceholderData}>
          <li>{many(report.matched, 'respondent')} get a row of the file.</li>
          {report.without > 0 && (
            <li>
              {many(report.without, 'respondent')} without one: blank there.{' '}
              {keyList(report.withoutKeys, report.without)}
            </li>
          )}
          {report.unused > 0 && (
            <li>
              {many(report.unused, 'row')} of the file left out: no respondent has the key.{' '}
              {keyList(report.unusedKeys, report.unused)}
            </li>
          )}
          {report.repeated > 0 && (
            <li className="warn">
              {many(report.repeated, 'row')} of the file repeat a key: the first one counts.{' '}
              {keyList(report.repeatedKeys, report.repeated)}
            </li>
          )}
          {report.shared > 0 && (
            <li className="warn">
              {many(report.shared, 'respondent')} share a key with another: each gets the row.{' '}
              {keyList(report.sharedKeys, report.shared)}
            </li>
          )}
        </ul>
      )}
      <h2>What is added</h2>
      <ColumnTable
        columns={columns}
        guesses={preview!.columns.filter((c) => c.name !== fileKey)}
        head={preview!.head.map((row) => row.filter((_, i) => preview!.columns[i]!.name !== fileKey))}
        change={(column, to) => setSaid({ ...said, [column]: { ...said[column], ...to } })}
      />
      <div className="finish">
        <Finish failed={failed} running={adding}>
          <button
            type="button"
            className="go"
            disabled={!report?.matched || tried.isPlaceholderData || !join.columns.length}
            onClick={() =>
              run((signal) =>
                take(
                  api.POST('/api/v1/studies/{study}/columns', {
                    params: { path: { study: study.id } },
                    body,
                    signal,
                  }),
                ),
              )
            }
          >
            Add {many(join.columns.length, 'column')}
          </button>
          <Link to={back}>Leave it</Link>
        </Finish>
      </div>
    </>
  );
}
