import type { ReactNode } from 'react';
import type { Notes, Recipe } from '../lib/api';
import { count, many } from '../lib/format';
import type { Incoming } from '../lib/upload';

const formats: [Recipe['format'], string][] = [
  ['delimited', 'a table, cells parted by a sign (CSV, TSV)'],
  ['sheet', 'a workbook (XLSX)'],
  ['json', 'a JSON array'],
  ['ndjson', 'JSON, a value per line'],
  ['lines', 'plain text, an answer per line'],
  ['blocks', 'plain text, answers parted by blank lines'],
  ['page', 'a web page, an answer per block'],
];
const signs: [string, string][] = [
  [',', 'comma'],
  [';', 'semicolon'],
  ['\t', 'tab'],
  ['|', 'bar |'],
  ['^', 'caret ^'],
];
const quotes: [NonNullable<Recipe['quotes']>, string][] = [
  ['strict', 'hold cells together'],
  ['lax', 'hold cells together; stray ones stay'],
  ['none', 'are signs like any other'],
];
const ways: [NonNullable<Recipe['split']>['by'], string][] = [
  ['paragraph', 'paragraphs'],
  ['line', 'lines'],
  ['sentence', 'sentences'],
  ['parts', 'equal parts'],
  ['delimiter', 'a sign or word'],
  ['pattern', 'a regular expression'],
];

/** How a file is read: each setting a guess with its reason, to be overruled. */
export function Reading({ incoming }: { incoming: Incoming }) {
  const { upload, recipe, setRecipe, preview } = incoming;
  if (!upload || !recipe) return null;
  const guess = upload.guess;
  const set = (to: Partial<Recipe>) => setRecipe({ ...recipe, ...to });
  const why = (key: keyof Recipe) =>
    JSON.stringify(recipe[key] ?? 0) === JSON.stringify(guess[key] ?? 0) ? (guess.because[key] ?? '') : 'you said so';
  const table = recipe.format === 'delimited' || recipe.format === 'sheet';
  const given = recipe.delimiter ?? ',';
  return (
    <section className="reading" aria-label="How the file is read">
      <Setting label="It is" because={why('format')}>
        <select
          aria-label="what the file is"
          value={recipe.format}
          onChange={(e) => {
            const format = e.target.value as Recipe['format'];
            // A format that was not guessed needs settings of its own to begin with.
            const more =
              format === 'delimited' ? { delimiter: given, quotes: recipe.quotes ?? ('strict' as const) } : {};
            set({
              format,
              ...more,
              headers: format === 'lines' || format === 'blocks' ? 0 : Math.max(1, recipe.headers),
            });
          }}
        >
          {formats.map(([f, words]) => (
            <option key={f} value={f}>
              {words}
            </option>
          ))}
        </select>
      </Setting>
      {recipe.format === 'sheet' && guess.sheets && (
        <Setting label="Sheet" because={why('sheet')}>
          <select aria-label="sheet" value={recipe.sheet} onChange={(e) => set({ sheet: e.target.value })}>
            {guess.sheets.map((s) => (
              <option key={s}>{s}</option>
            ))}
          </select>
        </Setting>
      )}
      {recipe.format !== 'sheet' && (
        <Setting label="Letters are" because={why('encoding')}>
          <select aria-label="encoding" value={recipe.encoding} onChange={(e) => set({ encoding: e.target.value })}>
            {upload.encodings.map((e) => (
              <option key={e}>{e}</option>
            ))}
          </select>
        </Setting>
      )}
      {recipe.format === 'delimited' && (
        <>
          <Setting label="Cells are parted by" because={why('delimiter')}>
            <select aria-label="what parts cells" value={given} onChange={(e) => set({ delimiter: e.target.value })}>
              {(signs.some(([s]) => s === given) ? signs : [...signs, [given, given] as [string, string]]).map(
                ([s, words]) => (
                  <option key={s} value={s}>
                    {words}
                  </option>
                ),
              )}
            </select>
          </Setting>
          <Setting label="Double quotes" because={why('quotes')}>
            <select
              aria-label="double quotes"
              value={recipe.quotes ?? 'strict'}
              onChange={(e) => set({ quotes: e.target.value as Recipe['quotes'] })}
            >
              {quotes.map(([q, words]) => (
                <option key={q} value={q}>
                  {words}
                </option>
              ))}
            </select>
          </Setting>
        </>
      )}
      {(table || recipe.format === 'lines') && (
        <Setting label="Rows that name the columns" because={why('headers')}>
          <select
            aria-label="rows that name the columns"
            value={recipe.headers}
            onChange={(e) => set({ headers: Number(e.target.value) })}
          >
            <option value={0}>none</option>
            <option value={1}>one</option>
            {table && <option value={2}>two, names joined</option>}
            {table && <option value={3}>three, names joined</option>}
          </select>
        </Setting>
      )}
      {table && (
        <Setting label="Rows above that to pass over" because={why('skip')}>
          <input
            className="tiny"
            type="number"
            min={0}
            max={100}
            aria-label="rows to pass over"
            value={recipe.skip ?? 0}
            onChange={(e) => set({ skip: Math.max(0, Math.min(100, Number(e.target.value))) })}
          />
        </Setting>
      )}
      <Setting
        label="One row is"
        because={
          recipe.split
            ? 'each answer knows its document, its number there, and the quarter of the document it stands in'
            : 'long documents can be cut into answers'
        }
      >
        <select
          aria-label="cut documents"
          value={recipe.split?.column ?? ''}
          onChange={(e) =>
            set({
              split: e.target.value
                ? { by: recipe.split?.by ?? 'paragraph', n: 10, at: '', ...recipe.split, column: e.target.value }
                : undefined,
            })
          }
        >
          <option value="">one answer</option>
          {preview?.columns
            .filter((c) => c.name === recipe.split?.column || !['document', 'part', 'position'].includes(c.name))
            .map((c) => (
              <option key={c.name} value={c.name}>
                a document: cut {c.name}
              </option>
            ))}
        </select>
        {recipe.split && (
          <>
            {' at '}
            <select
              aria-label="cut at"
              value={recipe.split.by}
              onChange={(e) => set({ split: { ...recipe.split!, by: e.target.value as typeof recipe.split.by } })}
            >
              {ways.map(([w, words]) => (
                <option key={w} value={w}>
                  {words}
                </option>
              ))}
            </select>
            {recipe.split.by === 'parts' && (
              <input
                className="tiny"
                type="number"
                min={2}
                max={1000}
                aria-label="how many parts"
                value={recipe.split.n ?? 10}
                onChange={(e) => set({ split: { ...recipe.split!, n: Number(e.target.value) } })}
              />
            )}
            {(recipe.split.by === 'delimiter' || recipe.split.by === 'pattern') && (
              <input
                className="mono"
                aria-label="what parts the answers"
                placeholder={recipe.split.by === 'pattern' ? '\\n-{3,}\\n' : '***'}
                value={recipe.split.at ?? ''}
                onChange={(e) => set({ split: { ...recipe.split!, at: e.target.value } })}
              />
            )}
          </>
        )}
      </Setting>
    </section>
  );
}

function Setting({ label, because, children }: { label: string; because: string; children: ReactNode }) {
  return (
    <div className="setting">
      <span className="soft">{label}</span>
      <span>{children}</span>
      <span className="soft small">{because}</span>
    </div>
  );
}

/** What was odd about the rows, in words. */
export function Odd({ notes }: { notes: Notes }) {
  const words = [
    notes.short && `${many(notes.short, 'row')} had too few cells: the missing ones are blank.`,
    notes.long && `${many(notes.long, 'row')} had too many cells: the last cell holds the rest.`,
    (notes.short || notes.long) && notes.places?.length && `Look at row ${notes.places.slice(0, 8).join(', ')}.`,
    notes.blank && `${many(notes.blank, 'blank row or line', 'blank rows or lines')} passed over.`,
    ...(notes.renamed ?? []).slice(0, 4).map((r) => `${r[0]!.toUpperCase()}${r.slice(1)}.`),
    (notes.renamed?.length ?? 0) > 4 && `And ${count(notes.renamed!.length - 4)} more columns were given a name.`,
  ].filter(Boolean);
  if (!words.length) return null;
  return <p className="oddnote">{words.join(' ')}</p>;
}
