import { type QueryClient, useQueryClient } from '@tanstack/react-query';
import { useEffect } from 'react';
import type { LiveEvent } from './api';
import { followed } from './followed';
import { askAgain, keys } from './queries';

const progress = followed<LiveEvent | undefined>(undefined);

/** How far long work is, as the server last said. */
export const useProgress = progress.use;

const lost = followed<Date | undefined>(undefined);

/** Since when the server can't be reached; figures on the screen are as of then. */
export const useLost = lost.use;

/** What an edit is of: a question, or the setup of a study. */
type Edited = { question: number } | { study: number };
const nameOf = (e: Edited) => ('question' in e ? `question ${e.question}` : `study ${e.study}`);

/** Events that edits of this window have caused and that are not back yet, as "question 3 at 17". */
const own = new Set<string>();
/** What is told while an edit of this window is on its way waits for its end. */
const waiting = new Map<string, LiveEvent[]>();

/** Carries an edit out; the event that it causes is known as its own when it comes back, and asks for nothing again. */
export async function asOwn<T extends { revision: number }>(client: QueryClient, of: Edited, edit: () => Promise<T>) {
  const name = nameOf(of);
  waiting.set(name, []);
  try {
    const done = await edit();
    own.add(`${name} at ${done.revision}`);
    return done;
  } finally {
    const events = waiting.get(name) ?? [];
    waiting.delete(name);
    for (const e of events) hear(client, e);
  }
}

let fading: ReturnType<typeof setTimeout> | undefined;

function hear(client: QueryClient, e: LiveEvent) {
  switch (e.kind) {
    case 'progress':
      progress.set(e);
      clearTimeout(fading);
      fading = setTimeout(() => progress.set(undefined), e.done === e.total ? 600 : 4000);
      return;
    default: {
      const name = e.question ? nameOf({ question: e.question }) : e.study ? nameOf({ study: e.study }) : '';
      const held = waiting.get(name);
      if (held) return void held.push(e);
      if (own.delete(`${name} at ${e.revision ?? 0}`)) return;
      if (e.question) askAgain(client, e.question);
      else catchUp(client);
    }
  }
}

/** Asks for everything anew: something may have happened that was not heard. */
function catchUp(client: QueryClient) {
  own.clear(); // what was to come back is covered by this
  client.invalidateQueries({ queryKey: keys.studies });
  askAgain(client);
}

/** Follows what other windows and the server do. The stream is closed while the window is hidden. */
export function useLiveEvents() {
  const client = useQueryClient();
  useEffect(() => {
    let source: EventSource | undefined;
    let again: ReturnType<typeof setTimeout> | undefined;
    const close = () => {
      clearTimeout(again);
      source?.close();
      source = undefined;
    };
    const open = () => {
      const s = new EventSource('/api/v1/events');
      source = s;
      s.onopen = () => {
        if (!lost.get()) return;
        lost.set(undefined);
        catchUp(client);
      };
      s.onerror = () => {
        if (!lost.get()) lost.set(new Date());
        close();
        again = setTimeout(open, 1500);
      };
      s.onmessage = (m) => hear(client, JSON.parse(m.data) as LiveEvent);
    };
    const follow = () => {
      if (document.hidden) close();
      else if (!source) {
        open();
        catchUp(client);
      }
    };
    open();
    document.addEventListener('visibilitychange', follow);
    return () => {
      document.removeEventListener('visibilitychange', follow);
      close();
    };
  }, [client]);
}
