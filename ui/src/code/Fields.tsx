import { useState } from 'react';
import type { Edit, Field, FrameLine } from '../lib/api';
import { useDesk } from '../lib/edits';
import { many } from '../lib/format';
import { Button } from '../parts/Button';
import { Dialog, Ends } from '../parts/Dialog';
import { Choice, optionsOf } from '../parts/Select';
import { Caption, Labelled, TextField } from '../parts/Text';

const types: Record<Field['kind'], string> = {
  text: 'text',
  number: 'a number',
  list: 'one of a list',
  'yes or no': 'yes or no',
};

type Props = { fields: Field[]; lines: FrameLine[]; close: () => void };

/** The fields of the categories: added, changed, removed. */
export function Fields({ fields, lines, close }: Props) {
  const { edit } = useDesk();
  const [open, setOpen] = useState<string | undefined>(fields.length ? undefined : '');
  const being = fields.find((f) => f.name === open);
  return (
    <Dialog title="Fields of the categories" close={close}>
      <p className="pb-2 text-soft">
        A field says something of each category that rules don’t: how pressing it is, who sees to it, what was done.
        Fields sort and filter the frame, choose and group the rows of charts, and go along in reports and files.
      </p>
      {fields.length > 0 && (
        <ul className="border-t">
          {fields.map((f) => (
            <li key={f.name} data-part="field" className="flex flex-wrap items-baseline gap-x-2.5 border-b py-1">
              <b>{f.name}</b>
              <span className="min-w-0 flex-1 text-soft">
                {f.kind === 'list' ? f.choices.join(', ') : types[f.kind]} ·{' '}
                {many(lines.filter((l) => l.fields?.[f.name]).length, 'category has one', 'categories have one')}
              </span>
              <Button look="plain" aria-label={`Change ${f.name}`} onClick={() => setOpen(f.name)}>
                Change
              </Button>
              <Button
                look="plain"
                aria-label={`Remove ${f.name}`}
                onClick={() => void edit({ kind: 'remove field', field: f.name })}
              >
                Remove
              </Button>
            </li>
          ))}
        </ul>
      )}
      {open === undefined ? (
        <p className="flex gap-2.5 pt-3">
          <Button onClick={() => setOpen('')}>Add a field</Button>
          <Button onClick={close}>Close</Button>
        </p>
      ) : (
        <FieldForm key={open} of={being} done={() => setOpen(undefined)} />
      )}
    </Dialog>
  );
}

/** A choice of a list, and what it was called. */
type ListChoice = { was?: string; now: string };

/** Makes a field, or changes one. */
function FieldForm({ of, done }: { of?: Field; done: () => void }) {
  const { edit } = useDesk();
  const [name, setName] = useState(of?.name ?? '');
  const [kind, setKind] = useState<Field['kind']>(of?.kind ?? 'list');
  const [choices, setChoices] = useState<ListChoice[]>(
    of?.kind === 'list' ? of.choices.map((c) => ({ was: c, now: c })) : [],
  );
  const to = fieldOf(name.trim(), kind, choices);
  const change: Edit | undefined = to && (of ? changed(of, to, choices) : { kind: 'add field', field: to });
  const put = (i: number, now: string) =>
    setChoices(i < choices.length ? choices.map((c, k) => (k === i ? { ...c, now } : c)) : [...choices, { now }]);
  return (
    <form
      className="grid gap-2 pt-3"
      aria-label={of ? `Change the field ${of.name}` : 'A new field'}
      onSubmit={async (e) => {
        e.preventDefault();
        if (change && (await edit(change))) done();
      }}
    >
      <div className="flex flex-wrap items-end gap-x-4 gap-y-2">
        <Labelled name="Name">
          <TextField autoFocus value={name} onChange={(e) => setName(e.target.value)} placeholder="Priority" />
        </Labelled>
        <Choice label="holds" value={kind} change={setKind} options={optionsOf(types)} />
      </div>
      {kind === 'list' && (
        <fieldset className="grid gap-1">
          <legend>
            <Caption>The list, in its order</Caption>
          </legend>
          {[...choices, { now: '' }].map((c, i) => (
            <TextField
              key={i}
              value={c.now}
              aria-label={`Choice ${i + 1}`}
              placeholder={i === choices.length ? 'one more' : 'left out'}
              onChange={(e) => put(i, e.target.value)}
            />
          ))}
        </fieldset>
      )}
      <Ends go={of ? 'Change it' : 'Add it'} ready={!!change} close={done} />
    </form>
  );
}

function fieldOf(name: string, kind: Field['kind'], choices: ListChoice[]): Field | undefined {
  const named = choices.map((c) => c.now.trim()).filter(Boolean);
  if (!name || (kind === 'list' && !named.length)) return undefined;
  return kind === 'list' ? { kind, name, choices: named } : { kind, name };
}

/** Changes a field; values of choices that are called otherwise go along. */
function changed(of: Field, to: Field, choices: ListChoice[]): Edit {
  const renamed = to.kind === 'list' ? choices.filter((c) => c.was && c.now.trim() && c.was !== c.now.trim()) : [];
  return {
    kind: 'change field',
    field: of.name,
    to,
    renamed: renamed.length ? Object.fromEntries(renamed.map((c) => [c.was, c.now.trim()])) : undefined,
  };
}
