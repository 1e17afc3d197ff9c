import { type Content, contents } from '../drawing/contents';
import { useAddress } from '../lib/address';
import type { Chart, Field } from '../lib/api';
import { valuesOf } from '../lib/fields';
import { useFrame } from '../lib/queries';
import { Button } from '../parts/Button';
import { Checkbox } from '../parts/Checkbox';
import { NumberField } from '../parts/NumberField';
import { Popover } from '../parts/Popover';
import { Choice, optionsOf } from '../parts/Select';

import { ToggleGroup } from '../parts/ToggleGroup';
import { Columns } from './Columns';
import { type Base, bases, corrections, type Design, forms, readWhere } from './design';

const levels = { all: 'nets and categories', nets: 'top level only', categories: 'categories only', chosen: 'chosen' };
const orders = { frame: 'the frame', size: 'share in all', name: 'name' };

/** What makes a table up: its columns, base, rows, order, tests, and what its cells hold. */
export function MadeOf({ c, design }: { c: Chart; design: Design }) {
  const { one } = useAddress();
  const { query, set } = design;
  const as = one('as', forms);
  const level = query.only ? 'chosen' : query.rows;
  const all = c.rows.flatMap((r) => (r.kind === 'category' || r.kind === 'hidden' ? [r.id] : []));
  const fields = useFrame(query.focus).data?.fields ?? [];
  const byField = fields.map((f) => ({ value: `field:${f.name}`, words: f.name }));
  const column = c.columns.find((k) => k.key && k.key === query.sort);
  return (
    <section className="grid gap-2 border-b pb-3" aria-label="What makes it up">
      <div className="flex flex-wrap items-center justify-between gap-x-4 gap-y-2">
        <Columns c={c} by={design.by} />
        <ToggleGroup
          label="drawn as"
          value={as}
          options={optionsOf({
            bars: 'Bars',
            stack: 'Stacked',
            table: 'Table',
            dots: 'Dots',
            heat: 'Heat',
            lines: 'Lines',
            multiples: 'Small lines',
          })}
          change={(v) => set({ as: v === 'bars' ? '' : v })}
        />
      </div>
      <div className="flex flex-wrap items-end gap-x-4 gap-y-2">
        <Choice
          label="as a share of"
          value={query.base}
          change={(v: Base) => set({ base: v === 'answered' ? '' : v, pick: '' })}
          options={optionsOf(bases)}
        />
        {c.weight && (
          <label className="flex items-center gap-1.5 pb-1">
            <Checkbox checked={query.weighted} change={(on) => set({ weighted: on ? '1' : '' })} /> weighted by{' '}
            {c.weight}
          </label>
        )}
        <Choice
          label="rows"
          value={level}
          change={(v) => set(v === 'chosen' ? { only: JSON.stringify(all) } : { only: '', rows: v === 'all' ? '' : v })}
          options={optionsOf(query.group ? { ...levels, nets: `values of ${query.group} only` } : levels)}
        />
        {fields.length > 0 && <Where fields={fields} design={design} />}
        {fields.length > 0 && (
          <Choice
            label="grouped by"
            value={fields.some((f) => f.name === query.group) ? (query.group ?? '') : ''}
            change={(v) => set({ group: v, pick: '' })}
            options={[{ value: '', words: 'their nets' }, ...fields.map((f) => ({ value: f.name, words: f.name }))]}
          />
        )}
        {query.only && <Chosen only={JSON.parse(query.only) as string[]} design={design} />}
        <Choice
          label="in order of"
          value={
            column?.key ?? (query.sort in orders || byField.some((o) => o.value === query.sort) ? query.sort : 'frame')
          }
          change={(v) => set({ sort: v === 'frame' ? '' : v })}
          options={[
            ...optionsOf(orders),
            ...byField,
            ...(column ? [{ value: column.key, words: `share in ${column.name}` }] : []),
          ]}
        />
        <Popover words="Cells and tests ▾" label="What cells hold, tests, and small rows" look="normal">
          <Cells design={design} weighted={c.weighted} />
        </Popover>
      </div>
    </section>
  );
}

/** The values of fields that categories must have to be rows: of each field any of those that are ticked. */
function Where({ fields, design }: { fields: Field[]; design: Design }) {
  const lines = useFrame(design.query.focus).data?.categories ?? [];
  const where = readWhere(design.query.where);
  const chosen = Object.values(where).flat().length;
  const put = (name: string, value: string, on: boolean) => {
    const values = (where[name] ?? []).filter((v) => v !== value);
    const { [name]: _, ...others } = where;
    const next = on || values.length ? { ...others, [name]: on ? [...values, value] : values } : others;
    design.set({ where: Object.keys(next).length ? JSON.stringify(next) : '', pick: '' }, true);
  };
  return (
    <span className="pb-1">
      <Popover words={chosen ? `by fields: ${chosen} ▾` : 'all of them ▾'} label="Rows by their fields">
        <p className="max-w-72 pb-1.5 text-sm text-soft">
          Only categories with a ticked value are rows. None ticked: all.
        </p>
        {fields.map((f) => (
          <fieldset key={f.name} className="pb-2">
            <legend className="text-sm text-soft">{f.name}</legend>
            {valuesOf(f, lines).map((v) => (
              <label key={v} className="block">
                <Checkbox checked={!!where[f.name]?.includes(v)} change={(on) => put(f.name, v, on)} /> {v || 'none'}
              </label>
            ))}
          </fieldset>
        ))}
        {chosen > 0 && (
          <Button look="plain" onClick={() => design.set({ where: '', pick: '' }, true)}>
            All rows
          </Button>
        )}
      </Popover>
    </span>
  );
}

/** The categories that are rows, where they are chosen one by one. */
function Chosen({ only, design }: { only: string[]; design: Design }) {
  const frame = useFrame(design.query.focus);
  const lines = frame.data?.categories ?? [];
  const put = (id: string, on: boolean) => {
    const next = lines.map((l) => l.id).filter((x) => (x === id ? on : only.includes(x)));
    design.set({ only: JSON.stringify(next) }, true);
  };
  return (
    <span className="pb-1">
      <Popover words={`${only.length} of ${lines.length} ▾`} label="Rows">
        <ul className="grid gap-1">
          {lines.map((l) => (
            <li key={l.id} style={{ paddingLeft: 14 * (l.path.length - 1) }}>
              <label>
                <Checkbox checked={only.includes(l.id)} change={(on) => put(l.id, on)} /> {l.path.at(-1)}
              </label>
            </li>
          ))}
        </ul>
      </Popover>
    </span>
  );
}

/** What a cell holds, and how p values are corrected. */
function Cells({ design, weighted }: { design: Design; weighted: boolean }) {
  const { shown, show, query, set } = design;
  const put = (k: Content, on: boolean) =>
    show((Object.keys(contents) as Content[]).filter((x) => (x === k ? on : shown.includes(x))));
  const offered = (Object.keys(contents) as Content[]).filter((k) => k !== 'weighted' || weighted);
  return (
    <div className="grid gap-3">
      <fieldset className="grid gap-1">
        <legend className="pb-1 text-sm text-soft">Cells hold their share, and</legend>
        {offered.map((k) => (
          <label key={k}>
            <Checkbox checked={shown.includes(k)} change={(on) => put(k, on)} /> {contents[k]}
          </label>
        ))}
      </fieldset>
      <Choice
        label="correction within a row"
        value={query.correction}
        change={(v) => set({ fix: v === 'benjamini-hochberg' ? '' : v })}
        options={optionsOf(corrections)}
      />
      <NumberField
        label="Show rows together that have fewer answers than"
        value={query.least}
        change={(n) => set({ least: n ? String(n) : '' }, true)}
      />
      <p className="max-w-80 text-sm text-soft">
        Bars hold the share and ▲ ▼; the table holds all. What a cell says is told in full below the figure when you
        point at it.
      </p>
    </div>
  );
}
