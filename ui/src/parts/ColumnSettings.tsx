import { useState } from 'react';
import type { Role, Spec } from '../lib/api';
import { Button } from './Button';
import { Checkbox } from './Checkbox';
import { Combobox } from './Combobox';
import { Select } from './Select';
import { TextField } from './Text';

/** What a column can be used as. */
export const roles: [Role, string][] = [
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

/** Only what says something for the role is kept of a column's settings. */
export function bare(c: Spec): Spec {
  const numeric = c.role === 'number' || c.role === 'weight';
  return {
    name: c.name,
    was: c.was?.length ? c.was : undefined,
    called: c.called?.length ? c.called : undefined,
    label: c.label?.trim() || undefined,
    role: c.role,
    delimiter: c.role === 'several answers' ? c.delimiter || ';' : undefined,
    days: c.role === 'date' ? c.days : undefined,
    unit: numeric && c.unit ? c.unit : undefined,
    comma: numeric && c.comma ? true : undefined,
    missing: c.missing?.length && !['open-ended', 'identifier', 'left out'].includes(c.role) ? c.missing : undefined,
    order: c.order?.length && ['segment', 'several answers', 'wave'].includes(c.role) ? c.order : undefined,
  };
}

export function RoleSelect({ column: c, change }: { column: Spec; change: (to: Partial<Spec>) => void }) {
  return (
    <Combobox
      label={`role of ${c.name}`}
      value={c.role}
      change={(v) => change({ role: v as Role })}
      options={roles.map(([role, what]) => ({ value: role, words: `${role}: ${what}` }))}
    />
  );
}

/** The settings of a column's cells in a table: shown where one is set, else behind a press. */
export function FoldedSettings({ column: c, change }: { column: Spec; change: (to: Partial<Spec>) => void }) {
  const needed = !!(c.delimiter || c.days || c.unit || c.comma || c.missing?.length) || c.role === 'several answers';
  const [open, setOpen] = useState(needed);
  if (['open-ended', 'identifier', 'left out'].includes(c.role)) return null;
  return open || needed ? (
    <div className="inline-flex flex-wrap items-baseline gap-x-2.5 gap-y-1 text-sm text-soft">
      <CellSettings column={c} change={change} />
    </div>
  ) : (
    <Button look="plain" className="text-sm" aria-label={`set how ${c.name} is read`} onClick={() => setOpen(true)}>
      set
    </Button>
  );
}

/** How the cells of a column are read, by its role. */
export function CellSettings({ column: c, change }: { column: Spec; change: (to: Partial<Spec>) => void }) {
  const charted = ['segment', 'several answers', 'wave', 'number', 'date'].includes(c.role);
  return (
    <>
      {c.role === 'several answers' && (
        <label>
          separated by{' '}
          <TextField
            className="w-[4.5em]"
            aria-label={`what separates the values of ${c.name}`}
            value={c.delimiter ?? ';'}
            onChange={(e) => change({ delimiter: e.target.value })}
          />
        </label>
      )}
      {c.role === 'date' && (
        <Select
          label={`how the dates of ${c.name} are written`}
          value={c.days ?? ''}
          change={(v) => change({ days: (v || undefined) as Spec['days'] })}
          options={[
            { value: '', words: '2026-03-14' },
            { value: 'dmy', words: 'day first: 14/03/2026' },
            { value: 'mdy', words: 'month first: 03/14/2026' },
          ]}
        />
      )}
      {(c.role === 'number' || c.role === 'weight') && (
        <>
          <label>
            unit{' '}
            <TextField
              className="w-[4.5em]"
              aria-label={`unit of ${c.name}`}
              value={c.unit ?? ''}
              onChange={(e) => change({ unit: e.target.value })}
            />
          </label>
          <label>
            <Checkbox checked={!!c.comma} change={(on) => change({ comma: on })} /> decimal comma
          </label>
        </>
      )}
      {charted && <Missing column={c} change={change} />}
    </>
  );
}

function Missing({ column: c, change }: { column: Spec; change: (to: Partial<Spec>) => void }) {
  const [text, setText] = useState((c.missing ?? []).join(', '));
  return (
    <label>
      missing if{' '}
      <TextField
        className="w-[9em]"
        aria-label={`what counts as missing in ${c.name}`}
        placeholder="99, refused"
        value={text}
        onChange={(e) => {
          setText(e.target.value);
          change({
            missing: e.target.value
              .split(',')
              .map((m) => m.trim())
              .filter(Boolean),
          });
        }}
      />
    </label>
  );
}
