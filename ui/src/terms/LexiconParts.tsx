import { useQueryClient } from '@tanstack/react-query';
import { type ReactNode, useState } from 'react';
import { api, take } from '../lib/api';
import { useDesk } from '../lib/edits';
import { askAgain, useQuestionId } from '../lib/queries';
import { Button } from '../parts/Button';
import { FileLink } from '../parts/FileLink';
import { Stops } from '../parts/Stops';
import { TextField } from '../parts/Text';

/** A part of the lexicon: one Tab stop, arrows go from word to word. */
export const Section = ({ name, children }: { name: string; children: ReactNode }) => (
  <Stops as="section" aria-label={name} className="grid gap-1.5 border-t pt-2.5 pb-3.5 first:border-t-0 first:pt-0">
    {children}
  </Stops>
);

type ChipProps = {
  word: string;
  out: () => void;
  label: string;
  faint?: boolean;
  /** Counts it in this form only, or with its other forms again. */
  form?: () => void;
};

export function Chip({ word, out, label, faint, form }: ChipProps) {
  return (
    <span
      data-part="chip"
      className="inline-block rounded-sm border border-edge pl-1.75"
      title={faint ? 'stands in no answer' : undefined}
    >
      <span className={faint ? 'text-soft' : ''}>{word}</span>
      {form && (
        <Button
          data-stop=""
          look="bare"
          className={`min-w-6 text-center! ${word.startsWith('=') ? 'font-semibold text-moss' : 'text-soft'}`}
          aria-pressed={word.startsWith('=')}
          aria-label={`count ${word.replace(/^=/, '')} in this form only`}
          title={
            word.startsWith('=')
              ? 'in this form only; press to count its other forms too'
              : 'with its other forms; press to count this form only'
          }
          onClick={form}
        >
          =
        </Button>
      )}
      <Button
        data-stop=""
        look="bare"
        className="min-w-6 text-center! text-soft hover:text-clay"
        aria-label={label}
        onClick={out}
      >
        ×
      </Button>
    </span>
  );
}

/** A field that adds words, several separated by commas. */
export function Adding({ label, hint, add }: { label: string; hint: string; add: (words: string[]) => void }) {
  const [typed, setTyped] = useState('');
  return (
    <form
      className="inline"
      onSubmit={(e) => {
        e.preventDefault();
        const words = typed
          .split(',')
          .map((w) => w.trim())
          .filter(Boolean);
        if (!words.length) return;
        add(words);
        setTyped('');
      }}
    >
      <TextField
        data-stop=""
        className="w-32 border-0 border-b border-dashed bg-transparent px-0.5"
        aria-label={label}
        placeholder={hint}
        value={typed}
        onChange={(e) => setTyped(e.target.value)}
      />
    </form>
  );
}

type Part = 'stop-words' | 'merges' | 'lists';

/** Takes a part of the lexicon out as a file, or adds what a file holds. */
function InAndOut({ part }: { part: Part }) {
  const id = useQuestionId();
  const { question, say } = useDesk();
  const client = useQueryClient();
  const add = async (file: File) => {
    try {
      const done = await take(
        api.POST('/api/v1/questions/{question}/lexicon/{part}', {
          params: { path: { question: id, part }, query: { revision: question.revision } },
          headers: { 'Content-Type': 'text/csv' },
          body: '',
          bodySerializer: () => file, // as it is: the server judges its letters
        }),
      );
      say({ text: `${done.summary} from ${file.name}`, undo: done.edit });
    } catch (e) {
      say({ text: (e as Error).message, bad: true });
    } finally {
      askAgain(client, id);
    }
  };
  return (
    <span className="text-sm text-soft">
      <a
        className="text-ink underline decoration-edge underline-offset-3 hover:decoration-moss"
        href={`/api/v1/questions/${id}/lexicon/${part}`}
        download
      >
        Download CSV
      </a>{' '}
      <FileLink words="Add from CSV" title={`${part} from a CSV file`} accept=".csv,text/csv" choose={add} />
    </span>
  );
}

export const Head = ({ children, part }: { children: ReactNode; part: Part }) => (
  <p className="flex items-baseline gap-2.5 justify-between">
    <b className="font-serif text-lg font-semibold">{children}</b>
    <InAndOut part={part} />
  </p>
);

/** A name that can be given anew. */
export function Name({ name, give, children }: { name: string; give: (to: string) => void; children: ReactNode }) {
  const [typed, setTyped] = useState<string>();
  if (typed === undefined)
    return (
      <Button
        data-stop=""
        look="bare"
        data-part="title"
        className="hover:underline hover:decoration-dashed hover:underline-offset-4"
        title="rename it"
        onClick={() => setTyped(name)}
      >
        {children}
      </Button>
    );
  const done = () => {
    if (typed.trim() && typed !== name) give(typed.trim());
    setTyped(undefined);
  };
  return (
    <TextField
      data-stop=""
      autoFocus
      aria-label={`another name for ${name}`}
      value={typed}
      onChange={(e) => setTyped(e.target.value)}
      onBlur={done}
      onKeyDown={(e) => {
        if (e.key === 'Enter') done();
        if (e.key === 'Escape') setTyped(undefined);
      }}
    />
  );
}
