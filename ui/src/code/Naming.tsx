import { useState } from 'react';
import type { EditOf, FrameLine } from '../lib/api';
import { Button } from '../parts/Button';
import { Select } from '../parts/Select';
import { TextArea, TextField } from '../parts/Text';

/** What of a category changes: what is left out stays as it was, null clears it. */
export type CategoryChange = Omit<EditOf<'change category'>, 'kind' | 'category'>;

const colours = ['moss', 'clay', 'slate', 'violet', 'ochre', 'teal', 'plum', 'ink'];

/** The name, note, code, key and colour of a category, to be changed. */
export function Naming({ line, done }: { line: FrameLine; done: (to?: CategoryChange) => void }) {
  const [name, setName] = useState(line.name);
  const [note, setNote] = useState(line.note ?? '');
  const [code, setCode] = useState(String(line.code ?? ''));
  const [short, setShort] = useState(line.short ?? '');
  const [colour, setColour] = useState(line.colour ?? 0);
  return (
    <form
      className="grid gap-1.5"
      onKeyDown={(e) => e.key === 'Escape' && done()}
      onSubmit={(e) => {
        e.preventDefault();
        if (name.trim())
          done({
            name: name.trim(),
            note: note.trim() || null,
            code: Number(code) || undefined,
            short: short.trim() || undefined,
            colour: colour || null,
          });
      }}
    >
      <TextField
        className="border-0 border-b border-moss bg-transparent px-0 font-serif text-2xl font-semibold"
        autoFocus
        value={name}
        onChange={(e) => setName(e.target.value)}
        aria-label="Name"
      />
      <TextArea
        value={note}
        rows={2}
        onChange={(e) => setNote(e.target.value)}
        aria-label="Note"
        placeholder="What belongs here, and what does not"
      />
      <p className="flex flex-wrap items-baseline gap-2.5">
        <label>
          code{' '}
          <TextField className="w-[4.5em]" value={code} inputMode="numeric" onChange={(e) => setCode(e.target.value)} />
        </label>
        <label>
          key <TextField className="w-[4.5em]" value={short} onChange={(e) => setShort(e.target.value)} />
        </label>
        {line.path.length === 1 && (
          <label>
            colour{' '}
            <Select
              label="colour"
              value={String(colour)}
              change={(v) => setColour(Number(v))}
              options={[
                { value: '0', words: 'by its place' },
                ...colours.map((c, i) => ({ value: String(i + 1), words: c })),
              ]}
            />
          </label>
        )}
        <Button type="submit" look="go">
          Keep
        </Button>
        <Button onClick={() => done()}>Cancel</Button>
      </p>
    </form>
  );
}
