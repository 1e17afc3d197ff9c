import { useState } from 'react';
import type { Edit, Field, FrameLine } from '../lib/api';
import { categoryOptions, useDesk } from '../lib/edits';
import { count, many } from '../lib/format';
import { itemAt } from '../lib/required';
import { Button } from '../parts/Button';
import { Checkbox } from '../parts/Checkbox';
import { Combobox } from '../parts/Combobox';
import { Dialog, Ends } from '../parts/Dialog';
import { Choice } from '../parts/Select';
import { Labelled, Sentence } from '../parts/Text';
import { EffectOf } from '../rule/EffectOf';
import { FieldValue } from './FieldValue';
import { Replace } from './Replace';

type Way = 'move' | 'merge' | 'off' | 'on' | 'field' | 'remove' | 'replace';

const words: Record<Way, string> = {
  move: 'Move…',
  merge: 'Merge into one…',
  off: 'Turn off',
  on: 'Turn on',
  field: 'Set a field…',
  remove: 'Delete…',
  replace: 'Find and replace in their rules…',
};

type BulkProps = { ticked: FrameLine[]; lines: FrameLine[]; fields: Field[]; clear: () => void };

/** What can be done with the ticked categories together, each in one edit. */
export function Bulk({ ticked, lines, fields, clear }: BulkProps) {
  const { edit } = useDesk();
  const [way, setWay] = useState<Way>();
  if (!ticked.length) return null;
  const turn = (off: boolean) => async () => {
    if (await edit(turned(ticked, off))) clear();
  };
  const act: Record<Way, () => void> = {
    move: () => setWay('move'),
    merge: () => setWay('merge'),
    off: turn(true),
    on: turn(false),
    field: () => setWay('field'),
    remove: () => setWay('remove'),
    replace: () => setWay('replace'),
  };
  return (
    <section
      data-part="bulk"
      aria-label="Ticked categories"
      className="mb-1.5 flex flex-wrap items-baseline gap-x-2.5 gap-y-0.5 border-y bg-mosspale px-1 py-1 text-sm"
    >
      <b role="status">{many(ticked.length, 'category', 'categories')} ticked:</b>
      {(Object.keys(words) as Way[])
        .filter((w) => (w !== 'merge' || ticked.length > 1) && (w !== 'on' || ticked.some((l) => l.off)))
        .filter((w) => (w !== 'off' || ticked.some((l) => !l.off)) && (w !== 'field' || fields.length > 0))
        .map((w) => (
          <Button key={w} look="plain" onClick={act[w]}>
            {words[w]}
          </Button>
        ))}
      <Button look="plain" onClick={clear}>
        Untick
      </Button>
      {way === 'field' && <SetField fields={fields} ticked={ticked} close={() => setWay(undefined)} />}
      {way === 'replace' && <Replace of={ticked} close={() => setWay(undefined)} />}
      {(way === 'move' || way === 'merge' || way === 'remove') && (
        <BulkDialog way={way} ticked={ticked} lines={lines} close={() => setWay(undefined)} done={clear} />
      )}
    </section>
  );
}

/** Turns the rules of categories off, or on again. */
function turned(of: FrameLine[], off: boolean): Edit {
  const change = of.filter((l) => !!l.off !== off).map((l) => ({ category: l.id, off }));
  return { kind: 'several', summary: `Turned ${off ? 'off' : 'on'} ${named(of)}`, change };
}

type SetFieldProps = { fields: Field[]; ticked: FrameLine[]; close: () => void };

/** Gives the ticked categories a value of a field, or takes it away, in one edit; they stay ticked, for the next field. */
function SetField({ fields, ticked, close }: SetFieldProps) {
  const { edit } = useDesk();
  const [name, setName] = useState(itemAt(fields, 0).name);
  const [typed, setTyped] = useState('');
  const [off, setOff] = useState(false);
  const value = off ? '' : typed.trim();
  const field = fields.find((f) => f.name === name) ?? itemAt(fields, 0);
  const others = ticked.filter((l) => (l.fields?.[name] ?? '') !== value);
  const change: Edit = {
    kind: 'several',
    summary: value ? `Set ${name} of ${named(others)} to ${value}` : `Took ${name} off ${named(others)}`,
    change: others.map((l) => ({ category: l.id, fields: { [name]: value || null } })),
  };
  const ready = (off || !!value) && others.length > 0;
  const replaced = others.filter((l) => l.fields?.[name]);
  return (
    <Dialog title={`Set a field of ${many(ticked.length, 'category', 'categories')}`} close={close}>
      <form
        className="grid gap-2"
        onSubmit={async (e) => {
          e.preventDefault();
          if (ready && (await edit(change))) close();
        }}
      >
        <p>{ticked.map((l) => l.path.join(' / ')).join(', ')}</p>
        <div className="flex flex-wrap items-end gap-x-4 gap-y-2">
          <Choice
            label="field"
            value={name}
            change={(v) => {
              setName(v);
              setTyped('');
            }}
            options={fields.map((f) => ({ value: f.name, words: f.name }))}
          />
          <Labelled name="value">
            <FieldValue key={name} field={field} value={typed} change={setTyped} inForm />
          </Labelled>
          <label className="pb-1">
            <Checkbox checked={off} change={setOff} /> take it off
          </label>
        </div>
        <Sentence>
          {!off && !value
            ? 'Choose the value that they have then.'
            : others.length
              ? `${many(others.length, 'category changes', 'categories change')}${
                  replaced.length ? `, ${count(replaced.length)} of them from another value` : ''
                }. No answer gains or loses a category.`
              : off
                ? 'None of them has one.'
                : 'They all have this value.'}
        </Sentence>
        <Ends go={off ? 'Take it off' : 'Set it'} ready={ready} close={close} />
      </form>
    </Dialog>
  );
}

/** Those that stand in no other one of them: what is done to a net is done to all inside. */
const outermost = (of: FrameLine[]) =>
  of.filter((l) => !of.some((o) => o !== l && `${l.path.join('\n')}\n`.startsWith(`${o.path.join('\n')}\n`)));

const named = (of: FrameLine[]) =>
  of.length > 4 ? many(of.length, 'category', 'categories') : of.map((l) => l.name).join(', ');

type BulkDialogProps = BulkOf & { way: 'move' | 'merge' | 'remove'; close: () => void; done: () => void };
type BulkOf = { ticked: FrameLine[]; lines: FrameLine[] };

function BulkDialog({ way, ticked, lines, close, done }: BulkDialogProps) {
  const { edit } = useDesk();
  const [to, setTo] = useState(way === 'merge' ? itemAt(ticked, 0).id : '');
  const top = outermost(ticked);
  const inside = (l: FrameLine) => top.some((t) => `${l.path.join('\n')}\n`.startsWith(`${t.path.join('\n')}\n`));
  const nets = lines.filter((l) => !l.decisions && !inside(l));
  const change: Edit | undefined = {
    move: {
      kind: 'several' as const,
      summary: `Moved ${named(top)}`,
      move: top.map((l) => ({ category: l.id, parent: to || undefined })),
    },
    merge: merged(ticked, to),
    remove: {
      kind: 'several' as const,
      summary: `Deleted ${named(top)}`,
      remove: top.map((l) => ({ category: l.id })),
    },
  }[way];
  const titles = { move: 'Move', merge: 'Merge', remove: 'Delete' };
  const decisions = ticked.reduce((n, l) => n + l.decisions, 0);
  return (
    <Dialog title={`${titles[way]} ${many(top.length, 'category', 'categories')}`} close={close}>
      <form
        onSubmit={async (e) => {
          e.preventDefault();
          if (!change) return;
          close();
          if (await edit(change)) done();
        }}
      >
        <p className="pb-1.5">{ticked.map((l) => l.path.join(' / ')).join(', ')}</p>
        {way !== 'remove' && (
          <Labelled name={way === 'move' ? 'The net they should stand in' : 'The one that stays'}>
            <Combobox
              label={way === 'move' ? 'The net they should stand in' : 'The one that stays'}
              value={to}
              change={setTo}
              options={
                way === 'move' ? [{ value: '', words: 'the top' }, ...categoryOptions(nets)] : categoryOptions(ticked)
              }
            />
          </Labelled>
        )}
        <EffectOf change={change}>
          {() =>
            way === 'remove'
              ? `${decisions ? `${count(decisions)} decisions by hand go along. ` : ''}Undo brings them back whole.`
              : way === 'merge'
                ? 'What any of them had, the one that stays has then; decisions by hand go along. Of fields, it keeps the values it has.'
                : ''
          }
        </EffectOf>
        <Ends go={`${titles[way]} them`} ready={!!change} close={close} />
      </form>
    </Dialog>
  );
}

function merged(of: FrameLine[], into: string): Edit | undefined {
  const [first, ...also] = of.filter((l) => l.id !== into).map((l) => l.id);
  return first ? { kind: 'merge categories', category: first, into, also } : undefined;
}
