import { useQueryClient } from '@tanstack/react-query';
import { useEffect, useState } from 'react';
import { Link, useNavigate } from 'react-router';
import { api, type Guess, take } from '../lib/api';
import { many } from '../lib/format';
import { keys } from '../lib/queries';
import { itemAt, required } from '../lib/required';
import { useTheme } from '../lib/theme';
import { type Incoming, useIncoming } from '../lib/upload';
import { Button } from '../parts/Button';
import { Collapsible } from '../parts/Collapsible';
import { bare, FoldedSettings, RoleSelect } from '../parts/ColumnSettings';
import { ColumnsTogether } from '../parts/ColumnsTogether';
import { Odd } from '../parts/Notes';
import { optionsOf, Select } from '../parts/Select';
import { TextField } from '../parts/Text';
import { Finish } from './Loading';
import { Reading } from './Reading';

/** The page around a file on its way in. */
export function Arriving({ incoming, title, back }: { incoming: Incoming; title: string; back: string }) {
  const { what, sent, upload, error } = incoming;
  useTheme();
  useEffect(() => {
    document.title = `${title} · Aftermath`;
  }, [title]);
  return (
    <>
      <p className="font-serif text-xl leading-none font-semibold italic text-moss [&_a]:text-inherit">
        <Link to="/">Aftermath</Link>
      </p>
      <h1>{what ? title : 'No file is chosen'}</h1>
      {!what && (
        <p>
          <Link to={back}>Choose one</Link>
        </p>
      )}
      {error && (
        <p className="text-clay" role="alert">
          {error}
        </p>
      )}
      {what && !upload && !error && (
        <p role="status" className="text-soft">
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

const languages = optionsOf({
  '': 'found out from them',
  en: 'English',
  de: 'German',
  fr: 'French',
  es: 'Spanish',
  it: 'Italian',
  nl: 'Dutch',
  pt: 'Portuguese',
  und: 'another',
});

/** A file on its way in: how it is read and what its columns are, checked by eye before anything is stored. */
export default function Load() {
  const navigate = useNavigate();
  const client = useQueryClient();
  const incoming = useIncoming();
  const { upload, recipe, preview, stale, what } = incoming;
  const [said, setSaid] = useState<Record<string, Partial<Guess>>>({});
  const [name, setName] = useState(
    what
      ?.replace(/\.[^.\s]+$/, '')
      .replace(/^https?:\/\//, '')
      .slice(0, 80) ?? '',
  );
  const [language, setLanguage] = useState<(typeof languages)[number]['value']>('');
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
          body: {
            upload: required(upload).id,
            recipe,
            name,
            language: language || undefined,
            columns: columns.map(bare),
          },
          signal: abort.signal,
        }),
      );
      await client.invalidateQueries({ queryKey: keys.studies });
      navigate(`/q/${itemAt(study.questions, 0).id}/data`, { state: { notes: study.notes } });
    } catch (e) {
      setFailed(e instanceof DOMException ? 'Cancelled. Nothing of the file was stored.' : (e as Error).message);
      setLoading(undefined);
    }
  };
  const change: TableProps['change'] = (all) =>
    setSaid({ ...said, ...Object.fromEntries(all.map(([column, to]) => [column, { ...said[column], ...to }])) });
  const open = columns.filter((c) => c.role === 'open-ended').length;

  return (
    <main className="mx-auto grid max-w-295 gap-3.5 px-6 py-8.5">
      <Arriving incoming={incoming} title="How this file is read" back="/" />
      {upload && preview && (
        <>
          <Reading incoming={incoming} />
          {preview.problem ? (
            <p className="text-clay" role="alert">
              {preview.problem}
            </p>
          ) : (
            <div className="grid min-w-0 gap-2.5" aria-busy={stale}>
              <div className="flex items-baseline gap-2.5 justify-between">
                <h2>What its columns are</h2>
                <span className="text-soft">
                  {preview.whole ? many(preview.rows, 'row') : `the first ${many(preview.rows, 'row')}`},{' '}
                  {many(columns.length, 'column')}. Each role is a guess; change what is wrong.
                </span>
              </div>
              <Odd notes={preview.notes} byLines={() => incoming.setRecipe({ ...required(recipe), quotes: 'lines' })} />
              <ColumnTable columns={columns} guesses={preview.columns} head={preview.head} change={change} />
            </div>
          )}
          <div className="sticky bottom-0 z-10 grid gap-2.5 border-t bg-paper pt-2.5 pb-3.5">
            <div className="flex items-baseline gap-6.5">
              <label>
                Name of the study{' '}
                <TextField value={name} onChange={(e) => setName(e.target.value)} aria-label="Name of the study" />
              </label>
              <label>
                Language of the answers{' '}
                <Select label="Language of the answers" value={language} change={setLanguage} options={languages} />
              </label>
            </div>
            <Finish failed={failed} running={loading}>
              <Button
                look="go"
                disabled={!open || !name.trim() || stale || !!preview.problem || columns.some(unasked)}
                onClick={load}
              >
                {preview.whole ? `Load ${many(preview.rows, 'row')}` : 'Load all rows'}
              </Button>
              <Link to="/">Cancel</Link>
              <Undecided columns={columns} />
              {!open && !preview.problem && (
                <span className="text-clay">No column is open-ended: say which one holds the answers.</span>
              )}
            </Finish>
          </div>
        </>
      )}
    </main>
  );
}

/** Whether a column has a question that nobody has answered yet. */
export const unasked = (c: Guess) => !!c.ask && (c.role === 'number' || c.role === 'weight' || c.role === 'date');

/** Why a file can't be loaded yet, if columns are to be decided on. */
export function Undecided({ columns }: { columns: Guess[] }) {
  const open = columns.filter(unasked);
  if (!open.length) return null;
  return (
    <span className="text-clay">
      To be decided above: {open.map((c) => c.name).join(', ')}. The cells can be read in two ways.
    </span>
  );
}

type TableProps = {
  columns: Guess[];
  guesses: Guess[];
  head: string[][];
  change: (to: readonly (readonly [column: string, to: Partial<Guess>])[]) => void;
};

/** How many columns of a file are drawn at once. */
const shownAtOnce = 50;

/** The columns of a file, each with its role, what its cells need, and its first rows. */
export function ColumnTable({ columns, guesses, head, change }: TableProps) {
  const [from, setFrom] = useState(0);
  const [together, setTogether] = useState(false);
  const [round, setRound] = useState(0); // what was set from outside is drawn anew
  const long = columns.length > shownAtOnce;
  return (
    <div className="grid min-w-0 gap-2.5 overflow-x-auto">
      {columns.length > 6 && (
        <Collapsible words="Set several columns at once" open={together} change={setTogether}>
          <div className="pt-2 pl-4">
            <ColumnsTogether
              columns={columns}
              set={(to) => {
                setRound(round + 1);
                change(
                  to.map(({ name, role, missing, order, label }) => [name, { role, missing, order, label }] as const),
                );
              }}
            />
          </div>
        </Collapsible>
      )}
      {long && (
        <p className="flex items-baseline gap-2.5">
          <Button disabled={from === 0} onClick={() => setFrom(Math.max(0, from - shownAtOnce))}>
            Before
          </Button>
          <span className="text-soft">
            columns {from + 1} to {Math.min(from + shownAtOnce, columns.length)} of {columns.length}
          </span>
          <Button disabled={from + shownAtOnce >= columns.length} onClick={() => setFrom(from + shownAtOnce)}>
            After
          </Button>
        </p>
      )}
      <table
        data-part="columns"
        className="w-full border-collapse [&_:is(th,td)]:border-b [&_:is(th,td)]:border-hair [&_:is(th,td)]:py-1.5
          [&_:is(th,td)]:pr-3.5 [&_:is(th,td)]:text-left [&_:is(th,td)]:align-baseline [&_tbody_th]:max-w-55
          [&_thead_th]:text-sm [&_thead_th]:font-medium [&_thead_th]:text-soft [&_td:nth-child(2)]:w-72
          [&_td:nth-child(3)]:min-w-56"
      >
        <thead>
          <tr>
            <th>column</th>
            <th>is</th>
            <th>because</th>
            <th>first rows</th>
          </tr>
        </thead>
        <tbody>
          {columns.slice(from, from + shownAtOnce).map((c, n) => {
            const i = from + n;
            return (
              <tr key={c.name}>
                <th scope="row" className="break-words">
                  {c.name}
                </th>
                <td>
                  <RoleSelect column={c} change={(to) => change([[c.name, to]])} />
                  <FoldedSettings key={`${c.role} ${round}`} column={c} change={(to) => change([[c.name, to]])} />
                </td>
                <td className="text-soft">
                  {unasked(c) ? (
                    <span data-part="ask" className="text-clay">
                      {c.ask}{' '}
                      {required(c.choices).map((choice, n) => (
                        <span key={choice.words}>
                          {n > 0 && ' or '}
                          <Button look="plain" onClick={() => change([[c.name, { ...choice.spec, ask: '' }]])}>
                            {choice.words}
                          </Button>
                        </span>
                      ))}
                      ?
                    </span>
                  ) : c.role === itemAt(guesses, i).role && !itemAt(guesses, i).ask ? (
                    c.reason
                  ) : (
                    'you said so'
                  )}
                </td>
                <td className="truncate font-serif text-soft max-w-115">
                  {head
                    .map((row) => itemAt(row, i).trim())
                    .filter(Boolean)
                    .slice(0, c.role === 'open-ended' ? 2 : 4)
                    .join('  ·  ')}
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
    </div>
  );
}
