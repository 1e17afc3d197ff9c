import { useQueryClient } from '@tanstack/react-query';
import { useRef, useState } from 'react';
import { keys } from '../lib/queries';

/** What was just done with a study, or went wrong. */
export type Said = { text: string; bad?: boolean; action?: { words: string; act: () => void } };

/** Work on studies that may take its time: one at a time, and it can be cancelled. */
export type LongWork = {
  /** What is being done; nothing is if it is empty. */
  what: string;
  /** Runs it; what is being done can be told anew on the way. */
  run: (
    what: string,
    work: (signal: AbortSignal, tell: (what: string) => void) => Promise<Said | undefined>,
  ) => Promise<void>;
  cancel: () => void;
};

/** Runs work on studies and says how it ended; the lists are asked for again after it. */
export function useLongWork(say: (s: Said) => void): LongWork {
  const client = useQueryClient();
  const [what, setWhat] = useState('');
  const running = useRef<AbortController>(undefined);
  return {
    what,
    cancel: () => running.current?.abort(),
    run: async (words, work) => {
      const abort = new AbortController();
      running.current = abort;
      setWhat(words);
      try {
        const done = await work(abort.signal, setWhat);
        if (done) say(done);
      } catch (e) {
        say(
          abort.signal.aborted
            ? { text: 'Cancelled. Nothing was changed.' }
            : { text: (e as Error).message, bad: true },
        );
      } finally {
        setWhat('');
        await client.invalidateQueries({ queryKey: keys.studies });
      }
    },
  };
}
