import { type ReactNode, useState } from 'react';
import * as z from 'zod/mini';
import { useAddress } from '../lib/address';
import type { Design } from '../lib/api';
import { subjectOf, type Written } from '../lib/charts';
import { useDesk } from '../lib/edits';
import { useReports } from '../lib/reports';
import { Button } from '../parts/Button';
import { useRoving } from '../parts/roving';
import { TextArea, TextField } from '../parts/Text';
import { KeepChart } from './Kept';

const written = z.object({ of: z.string(), title: z.optional(z.string()), note: z.optional(z.string()) });

/** The title and note that were written for a chart. They stand in the address, and count for what it is of alone. */
function useWritten(drawn: Design) {
  const { get, set } = useAddress();
  const of = subjectOf(drawn);
  let mine: Written | undefined;
  try {
    const read = written.safeParse(JSON.parse(get('titled')));
    if (read.success && read.data.of === of) mine = read.data;
  } catch {
    // Nothing is written, or nothing that can be read.
  }
  const write = (title: string, note: string) =>
    set({ titled: title || note ? JSON.stringify({ of, title: title || undefined, note: note || undefined }) : '' });
  return { title: mine?.title, note: mine?.note, write };
}

type Props = {
  /** What the figure is, and what it is called until somebody writes another title. */
  drawn: Design;
  usual: string;
  /** What stands under the title. */
  under: ReactNode;
  /** It is there: what one asked for may still be on its way. */
  ready: boolean;
  /** What has to be said with the figures. */
  notes: string[];
  /** The figure, by the title it has. */
  children: (title: string) => ReactNode;
};

/** A figure under its title: that, and a note, are written in place, and go with it where it is kept or put into a report. */
export function Titled({ drawn, usual, under, ready, notes, children }: Props) {
  const { question } = useDesk();
  const { put } = useReports();
  const { title: own, note, write } = useWritten(drawn);
  const [writing, setWriting] = useState(false);
  const [keeping, setKeeping] = useState(false);
  const stops = useRoving<HTMLSpanElement>({ across: true });
  const title = own || usual;
  return (
    <figure className="min-w-0">
      {writing ? (
        <Writing
          title={title}
          note={note ?? ''}
          close={() => setWriting(false)}
          keep={(t, n) => write(t === usual ? '' : t, n)}
        />
      ) : (
        <>
          <h1 className="font-serif text-2xl font-semibold [overflow-wrap:anywhere]">{title}</h1>
          {note && <p className="max-w-160 pb-1 font-serif text-lg whitespace-pre-line">{note}</p>}
        </>
      )}
      <p className="flex flex-wrap justify-between gap-x-4 text-soft">
        <span>{under}</span>
        {/* What is asked for may not be there yet: then it is not what one sees. */}
        <span {...stops} className="flex gap-x-3" role="group" aria-label="This chart">
          <Button look="plain" data-stop="" onClick={() => setWriting(!writing)}>
            title and note
          </Button>
          <Button look="plain" data-stop="" disabled={!ready} onClick={() => setKeeping(true)}>
            Keep this chart…
          </Button>
          <Button
            look="plain"
            data-stop=""
            disabled={!ready}
            onClick={() =>
              put({ kind: 'chart', question: question.id, title, note, drawn }, 'Put the chart into the report')
            }
          >
            into the report
          </Button>
        </span>
      </p>
      {children(title)}
      <figcaption className="mt-2 max-w-240 border-t pt-2 text-sm text-soft">{notes.join(' ')}</figcaption>
      {keeping && <KeepChart drawn={drawn} name={title} note={note} close={() => setKeeping(false)} />}
    </figure>
  );
}

type WritingProps = { title: string; note: string; close: () => void; keep: (title: string, note: string) => void };

/** The title and the note, where they stand. */
function Writing({ title, note, close, keep }: WritingProps) {
  const [typed, setTyped] = useState(title);
  const [told, setTold] = useState(note);
  return (
    <form
      className="grid gap-1.5 pb-1.5"
      onSubmit={(e) => {
        e.preventDefault();
        close();
        keep(typed.trim(), told.trim());
      }}
      onKeyDown={(e) => {
        if (e.key === 'Escape') {
          e.stopPropagation();
          close();
        } else if (e.key === 'Enter' && (e.ctrlKey || e.metaKey)) e.currentTarget.requestSubmit();
      }}
    >
      <TextField
        wide
        autoFocus
        aria-label="Title"
        className="font-serif text-2xl font-semibold"
        value={typed}
        maxLength={200}
        onChange={(e) => setTyped(e.target.value)}
      />
      <TextArea
        rows={2}
        aria-label="Note"
        placeholder="A note that stands under the title"
        className="font-serif text-lg"
        value={told}
        maxLength={2000}
        onChange={(e) => setTold(e.target.value)}
      />
      <p className="flex items-baseline gap-3">
        <Button look="go" type="submit">
          Keep it
        </Button>
        <Button look="plain" onClick={close}>
          Cancel
        </Button>
        <span className="text-sm text-soft">An empty title is the usual one; Ctrl Enter keeps, Esc cancels</span>
      </p>
    </form>
  );
}
