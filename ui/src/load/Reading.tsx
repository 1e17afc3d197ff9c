import type { ReactNode } from 'react';
import type { Recipe } from '../lib/api';
import { required } from '../lib/required';
import type { Incoming } from '../lib/upload';
import { Combobox } from '../parts/Combobox';
import { DivisionSettings } from '../parts/DivisionSettings';
import { NumberField } from '../parts/NumberField';
import { Select } from '../parts/Select';

const formats: [Recipe['format'], string][] = [
  ['delimited', 'a table, cells separated by a sign (CSV, TSV)'],
  ['sheet', 'a workbook (XLSX, ODS)'],
  ['json', 'a JSON array'],
  ['ndjson', 'JSON, a value per line'],
  ['lines', 'plain text, an answer per line'],
  ['blocks', 'plain text, answers separated by blank lines'],
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
  ['lines', 'hold cells together, but end with their line'],
  ['none', 'are signs like any other'],
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
    <section className="grid grid-cols-2 gap-x-8.5 border-b max-sm:grid-cols-1" aria-label="How the file is read">
      <Setting label="It is" because={why('format')}>
        <Select
          label="what the file is"
          value={recipe.format}
          change={(v) => {
            const format = v as Recipe['format'];
            // A format that was not guessed needs settings of its own to begin with.
            const more =
              format === 'delimited' ? { delimiter: given, quotes: recipe.quotes ?? ('strict' as const) } : {};
            set({
              format,
              ...more,
              headers: format === 'lines' || format === 'blocks' ? 0 : Math.max(1, recipe.headers),
            });
          }}
          options={formats.map(([f, words]) => ({ value: f, words }))}
        />
      </Setting>
      {recipe.format === 'sheet' && guess.sheets && (
        <Setting label="Sheet" because={why('sheet')}>
          <Combobox
            label="sheet"
            value={recipe.sheet ?? ''}
            change={(v) => set({ sheet: v })}
            options={guess.sheets.map((s) => ({ value: s, words: s }))}
          />
        </Setting>
      )}
      {recipe.format !== 'sheet' && (
        <Setting label="Character encoding" because={why('encoding')}>
          <Combobox
            label="encoding"
            value={recipe.encoding ?? ''}
            change={(v) => set({ encoding: v })}
            options={upload.encodings.map((e) => ({ value: e, words: e }))}
          />
        </Setting>
      )}
      {recipe.format === 'delimited' && (
        <>
          <Setting label="Cells are separated by" because={why('delimiter')}>
            <Select
              label="separator"
              value={given}
              change={(v) => set({ delimiter: v })}
              options={[
                ...(signs.some(([s]) => s === given) ? signs : [...signs, [given, given] as [string, string]]).map(
                  ([s, words]) => ({ value: s, words }),
                ),
              ]}
            />
          </Setting>
          <Setting label="Double quotes" because={why('quotes')}>
            <Select
              label="double quotes"
              value={recipe.quotes ?? 'strict'}
              change={(v) => set({ quotes: v as Recipe['quotes'] })}
              options={quotes.map(([q, words]) => ({ value: q, words }))}
            />
          </Setting>
        </>
      )}
      {(table || recipe.format === 'lines') && (
        <Setting label="Rows that name the columns" because={why('headers')}>
          <Select
            label="rows that name the columns"
            value={String(recipe.headers)}
            change={(v) => set({ headers: Number(v) })}
            options={[
              { value: '0', words: 'none' },
              { value: '1', words: 'one' },
              ...(table ? [{ value: '2', words: 'two, names joined' }] : []),
              ...(table ? [{ value: '3', words: 'three, names joined' }] : []),
            ]}
          />
        </Setting>
      )}
      {table && (
        <Setting label="Rows to skip above them" because={why('skip')}>
          <NumberField
            quiet
            label="rows to skip"
            value={recipe.skip ?? 0}
            most={100}
            change={(n) => set({ skip: n })}
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
        <Combobox
          label="cut documents"
          value={recipe.split?.column ?? ''}
          change={(v) =>
            set({
              split: v ? { by: recipe.split?.by ?? 'paragraph', n: 10, at: '', ...recipe.split, column: v } : undefined,
            })
          }
          options={[
            { value: '', words: 'one answer' },
            ...(preview?.columns ?? [])
              .filter((c) => c.name === recipe.split?.column || !['document', 'part', 'position'].includes(c.name))
              .map((c) => ({ value: c.name, words: `a document: cut ${c.name}` })),
          ]}
        />
        {recipe.split && (
          <DivisionSettings
            division={recipe.split}
            change={(to) => set({ split: { ...required(recipe.split), ...to } })}
          />
        )}
      </Setting>
    </section>
  );
}

function Setting({ label, because, children }: { label: string; because: string; children: ReactNode }) {
  return (
    <div
      data-part="setting"
      className="grid grid-cols-[12rem_minmax(0,1fr)] content-start items-baseline gap-x-3 gap-y-px border-t
        border-hair pt-1.25 pb-1.5 max-sm:grid-cols-1 [&_.text-sm]:col-start-2"
    >
      <span className="text-soft">{label}</span>
      <span>{children}</span>
      <span className="text-sm text-soft">{because}</span>
    </div>
  );
}
