import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { Link, useNavigate, useParams } from 'react-router';
import { api, type Further, type Guess, type Question, take } from '../lib/api';
import { count, many } from '../lib/format';
import { askAgain, keys } from '../lib/queries';
import { itemAt, required } from '../lib/required';
import { type Incoming, useIncoming } from '../lib/upload';
import { Failed } from '../parts/Asked';
import { Button } from '../parts/Button';
import { Checkbox } from '../parts/Checkbox';
import { Collapsible } from '../parts/Collapsible';
import { bare } from '../parts/ColumnSettings';
import { Combobox } from '../parts/Combobox';
import { Odd } from '../parts/Notes';
import { Radios } from '../parts/Radios';
import { TextField } from '../parts/Text';
import { Arriving, ColumnTable, Undecided, unasked } from './Load';
import { Finish, Loading } from './Loading';
import { Reading } from './Reading';

/** A further file for a study: respondents of a next wave, or columns by a key. */
export default function Add() {
  const { question: id, kind } = useParams();
  const incoming = useIncoming();
  const question = useQuery({
    queryKey: keys.asked(Number(id), 'state', {}),
    queryFn: ({ signal }) =>
      take(api.GET('/api/v1/questions/{question}', { params: { path: { question: Number(id) } }, signal })),
  });
  const rows = kind === 'rows';
  const { preview } = incoming;
  const back = `/q/${id}/data`;
  return (
    <main className="mx-auto grid max-w-295 gap-3.5 px-6 py-8.5">
      <Arriving
        incoming={incoming}
        title={rows ? 'Add respondents of a further file' : 'Add columns of a second file'}
        back={back}
      />
      {question.error && <Failed error={question.error} again={() => question.refetch()} />}
      {question.data && incoming.upload && preview && (
        <>
          <p className="text-soft">
            To {question.data.study.name}, which has {many(question.data.respondents, 'respondent')}.
          </p>
          <Reading incoming={incoming} />
          {preview.problem ? (
            <p className="text-clay" role="alert">
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
      await client.invalidateQueries({ queryKey: keys.studies });
      await askAgain(client);
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
    queryKey: ['add rows', required(upload).id, recipe, study.revision, further],
    queryFn: ({ signal }) =>
      take(
        api.POST('/api/v1/studies/{study}/rows/try', {
          params: { path: { study: study.id } },
          body: { upload: required(upload).id, recipe, revision: study.revision, further },
          signal,
        }),
      ),
    placeholderData: (old) => old,
  });
  if (tried.error && !tried.data) return <Failed error={tried.error} again={() => tried.refetch()} />;
  if (!tried.data) return <Loading cancel={() => history.back()} />;
  const report = tried.data;
  const now = further ?? report.further;
  const used = new Set(now.columns.map((c) => c.to).filter(Boolean));
  const send = (i: number, to: string) => {
    const guess = itemAt(required(preview).columns, i);
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
      <div className="overflow-x-auto">
        <table
          data-part="columns"
          className="w-full border-collapse [&_:is(th,td)]:border-b [&_:is(th,td)]:border-hair [&_:is(th,td)]:py-1.5
            [&_:is(th,td)]:pr-3.5 [&_:is(th,td)]:text-left [&_:is(th,td)]:align-baseline [&_tbody_th]:max-w-55
            [&_thead_th]:text-sm [&_thead_th]:font-medium [&_thead_th]:text-soft [&_td:nth-child(2)]:min-w-48 matching"
        >
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
                  <Combobox
                    label={`${c.column} goes to`}
                    value={c.new ? asNew : (c.to ?? leaveOut)}
                    change={(v) => send(i, v)}
                    options={[
                      { value: leaveOut, words: 'nowhere: it is left out' },
                      { value: asNew, words: 'a new column, blank for those who are there' },
                      ...study.columns
                        .filter((s) => s.name === c.to || !used.has(s.name))
                        .map((s) => ({ value: s.name, words: `${s.name} (${s.role})` })),
                    ]}
                  />
                </td>
                <td className="truncate font-serif text-soft max-w-115">
                  {required(preview)
                    .head.map((row) => row[i]?.trim())
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
        <div className="flex flex-wrap items-baseline gap-2.5 gap-6.5">
          <label>
            The wave of these rows{' '}
            <TextField
              aria-label="the wave of these rows"
              placeholder="Spring 2027"
              onChange={(e) => fill(wave?.name ?? 'wave', { value: e.target.value })}
            />
          </label>
          {!wave && (
            <label>
              and of those who are there{' '}
              <TextField
                aria-label="the wave of those who are there"
                placeholder="Autumn 2026"
                onChange={(e) => fill('wave', { before: e.target.value })}
              />
            </label>
          )}
        </div>
      )}
      <ul data-part="report" className="grid list-disc gap-0.75 pl-5" aria-busy={tried.isPlaceholderData}>
        {report.problem && <li className="text-clay">{report.problem}</li>}
        {!report.problem && <li>{many(report.rows - report.replaced, 'respondent')} would be added.</li>}
        {report.blank.length > 0 && <li>Blank for them: {report.blank.join(', ')}.</li>}
        {report.leftOut.length > 0 && <li>Left out: {report.leftOut.join(', ')}.</li>}
        {report.known > 0 && (
          <li className="text-clay">
            {many(report.known, 'row')} {report.known === 1 ? 'has an identifier' : 'have identifiers'} that a
            respondent has already: {report.samples.slice(0, 8).join(', ')}
            {report.known > 8 && ' …'}.
            <div className="text-ink">
              <Radios
                label="What becomes of these rows"
                value={now.known ?? 'add'}
                change={(known) => setFurther({ ...now, known })}
                options={[
                  { value: 'add', words: 'Add them: these respondents are there twice then' },
                  { value: 'skip', words: 'Skip them' },
                  {
                    value: 'replace',
                    words: 'Replace what is there: columns that the file does not have stay as they are',
                  },
                ]}
              />
            </div>
          </li>
        )}
        {report.replaced > 0 && (
          <li>
            {many(report.replaced, 'respondent')} would be replaced.{' '}
            {report.changed
              .map(
                (c) => `${many(c.answers, 'answer')} to ${c.column} ${c.answers === 1 ? 'says' : 'say'} something else`,
              )
              .join(', ')}
            {report.changed.length > 0
              ? ': what was decided by hand does not hold for these.'
              : 'Their answers stay the same, with what was decided by hand.'}
          </li>
        )}
        {report.twice > 0 && (
          <li className="text-clay">
            {many(report.twice, 'row has', 'rows have')} an identifier that an earlier row of the file has.
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
      <div className="sticky bottom-0 z-10 grid gap-2.5 border-t bg-paper pt-2.5 pb-3.5">
        <Finish failed={failed} running={adding}>
          <Button
            look="go"
            disabled={!!report.problem || tried.isPlaceholderData || !report.rows}
            onClick={() =>
              run((signal) =>
                take(
                  api.POST('/api/v1/studies/{study}/rows', {
                    params: { path: { study: study.id } },
                    body: { upload: required(upload).id, recipe, revision: study.revision, further: now },
                    signal,
                  }),
                ),
              )
            }
          >
            {[
              report.rows > report.replaced && `Add ${many(report.rows - report.replaced, 'respondent')}`,
              report.replaced > 0 &&
                `${report.rows > report.replaced ? 'replace' : 'Replace'} ${count(report.replaced)}`,
            ]
              .filter(Boolean)
              .join(', ') || 'Add 0 respondents'}
          </Button>
          <Link to={back}>Cancel</Link>
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
  const [key, setKey] = useState((ids[0] ?? itemAt(study.columns, 0)).name);
  const [fileKey, setFileKey] = useState(
    (
      required(preview).columns.find((c) => c.name.toLowerCase() === key.toLowerCase()) ??
      required(preview).columns.find((c) => c.role === 'identifier') ??
      itemAt(required(preview).columns, 0)
    ).name,
  );
  const [said, setSaid] = useState<Record<string, Partial<Guess>>>({});
  const taken = new Set(study.columns.map((c) => c.name.toLowerCase()));
  const columns = required(preview)
    .columns.filter((c) => c.name !== fileKey)
    .map((c) => ({ ...c, ...said[c.name] }));
  const [loose, setLoose] = useState(false);
  const join = {
    key,
    fileKey,
    loose: loose || undefined,
    columns: columns
      .filter((c) => c.role !== 'left out')
      .map((c) => ({ ...bare(c), from: c.name, name: taken.has(c.name.toLowerCase()) ? `${c.name} (2)` : c.name })),
  };
  const body = { upload: required(upload).id, recipe, revision: study.revision, join };
  const tried = useQuery({
    queryKey: ['add columns', body],
    queryFn: ({ signal }) =>
      take(api.POST('/api/v1/studies/{study}/columns/try', { params: { path: { study: study.id } }, body, signal })),
    placeholderData: (old) => old,
  });
  const report = tried.data;
  const keyList = (keys: string[], n: number) => (
    <Collapsible words="which">
      <p className="text-soft">
        {keys.map((k) => k || '(blank)').join(', ')}
        {n > keys.length && ` and ${count(n - keys.length)} more`}
      </p>
    </Collapsible>
  );
  return (
    <>
      <h2>Whose they are</h2>
      <div className="flex flex-wrap items-baseline gap-2.5 gap-6.5">
        <label>
          Key in the study{' '}
          <Combobox
            label="key in the study"
            value={key}
            change={(v) => setKey(v)}
            options={study.columns.map((c) => ({ value: c.name, words: c.name }))}
          />
        </label>
        <label>
          is the same as, in the file,{' '}
          <Combobox
            label="key in the file"
            value={fileKey}
            change={(v) => setFileKey(v)}
            options={required(preview).columns.map((c) => ({ value: c.name, words: c.name }))}
          />
        </label>
      </div>
      <p>
        <label>
          <Checkbox checked={loose} change={setLoose} /> keys that differ in case or blanks only are the same
        </label>
        {!loose && !!report?.almost && (
          <span className="text-clay"> {many(report.almost, 'row')} of the file would find their respondent then.</span>
        )}
      </p>
      {tried.error && <Failed error={tried.error} again={() => tried.refetch()} />}
      {report && (
        <ul data-part="report" className="grid list-disc gap-0.75 pl-5" aria-busy={tried.isPlaceholderData}>
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
            <li className="text-clay">
              {many(report.repeated, 'row')} of the file repeat a key: the first one counts.{' '}
              {keyList(report.repeatedKeys, report.repeated)}
            </li>
          )}
          {report.shared > 0 && (
            <li className="text-clay">
              {many(report.shared, 'respondent')} share a key with another: each gets the row.{' '}
              {keyList(report.sharedKeys, report.shared)}
            </li>
          )}
        </ul>
      )}
      <h2>What is added</h2>
      <ColumnTable
        columns={columns}
        guesses={required(preview).columns.filter((c) => c.name !== fileKey)}
        head={required(preview).head.map((row) =>
          row.filter((_, i) => itemAt(required(preview).columns, i).name !== fileKey),
        )}
        change={(all) =>
          setSaid({ ...said, ...Object.fromEntries(all.map(([column, to]) => [column, { ...said[column], ...to }])) })
        }
      />
      <div className="sticky bottom-0 z-10 grid gap-2.5 border-t bg-paper pt-2.5 pb-3.5">
        <Finish failed={failed} running={adding}>
          <Button
            look="go"
            disabled={!report?.matched || tried.isPlaceholderData || !join.columns.length || columns.some(unasked)}
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
          </Button>
          <Link to={back}>Cancel</Link>
          <Undecided columns={columns} />
        </Finish>
      </div>
    </>
  );
}
