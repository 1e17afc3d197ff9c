import { useState } from 'react';
import type { Role, Spec } from '../lib/api';

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

/** Only what says something for the role is kept of a column's settings. */
export function bare(c: Spec): Spec {
  const numeric = c.role === 'number' || c.role === 'weight';
  return {
    name: c.name,
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
    <select aria-label={`role of ${c.name}`} value={c.role} onChange={(e) => change({ role: e.target.value as Role })}>
      {roles.map(([role, what]) => (
        <option key={role} value={role} title={what}>
          {role}
        </option>
      ))}
    </select>
  );
}

/** The settings of a column's cells in a table: shown where one is set, else behind a press. */
export function FoldedSettings({ column: c, change }: { column: Spec; change: (to: Partial<Spec>) => void }) {
  const needed = !!(c.delimiter || c.days || c.unit || c.comma || c.missing?.length) || c.role === 'several answers';
  const [open, setOpen] = useState(needed);
  if (['open-ended', 'identifier', 'left out'].includes(c.role)) return null;
  return open || needed ? (
    <div className="cellsettings soft">
      <CellSettings column={c} change={change} />
    </div>
  ) : (
    <button
      type="button"
      className="plain small"
      aria-label={`set how ${c.name} is read`}
      onClick={() => setOpen(true)}
    >
      set
    </button>
  );
}

/** How the cells of a column are read, by its role. */
export function CellSettings({ column: c, change }: { column: Spec; change: (to: Partial<Spec>) => void }) {
  const charted = ['segment', 'several answers', 'wave', 'number', 'date'].includes(c.role);
  return (
    <>
      {c.role === 'several answers' && (
        <label>
          parted by{' '}
          <input
            className="tiny"
            aria-label={`what parts the values of ${c.name}`}
            value={c.delimiter ?? ';'}
            onChange={(e) => change({ delimiter: e.target.value })}
          />
        </label>
      )}
      {c.role === 'date' && (
        <select
          aria-label={`how the dates of ${c.name} are written`}
          value={c.days ?? ''}
          onChange={(e) => change({ days: (e.target.value || undefined) as Spec['days'] })}
        >
          <option value="">2026-03-14</option>
          <option value="dmy">day first: 14/03/2026</option>
          <option value="mdy">month first: 03/14/2026</option>
        </select>
      )}
      {(c.role === 'number' || c.role === 'weight') && (
        <>
          <label>
            unit{' '}
            <input
              className="tiny"
              aria-label={`unit of ${c.name}`}
              value={c.unit ?? ''}
              onChange={(e) => change({ unit: e.target.value })}
            />
          </label>
          <label>
            <input type="checkbox" checked={!!c.comma} onChange={(e) => change({ comma: e.target.checked })} /> decimal
            comma
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
      <input
        className="short-field"
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
