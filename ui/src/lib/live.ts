import { type QueryClient, useQueryClient } from '@tanstack/react-query';
import { useEffect } from 'react';
import type { LiveEvent } from './api';
import { followed } from './followed';
import { askAgain, askReportsAgain, keys } from './queries';
import { required } from './required';

const progress = followed<LiveEvent | undefined>(undefined);

/** How far long work is, as the server last said. */
export const useProgress = progress.use;

const lost = followed<Date | undefined>(undefined);

/** Since when the server can't be reached; figures on the screen are as of then. */
export const useLost = lost.use;

const trouble = followed<LiveEvent | undefined>(undefined);

/** What is wrong with the database, as the server last said. */
export const useTrouble = trouble.use;

/** What an edit is of: a question, the setup of a study, or, when one is undone, either. */
type Edited = { question?: number; study?: number };
type Made = { revision: number; studyRevision?: number };

/** Events that edits of this window have caused and that are not back yet, as "question 3 at 17". */
const own = new Set<string>();
/** What is told while an edit of this window is on its way waits for its end. */
const waiting = new Map<string, LiveEvent[]>();

/**
 * Carries an edit out; the event that it causes is known as its own when it comes back, and asks for nothing again. Its answer tells
 * the revision that it has made: of the question, and of the study where that is not what was edited by itself.
 */
export async function asOwn<T extends Made>(client: QueryClient, of: Edited, edit: () => Promise<T>) {
  const question = of.question && `question ${of.question}`;
  const study = of.study && `study ${of.study}`;
  const names = [question, study].filter((n) => !!n) as string[];
  for (const n of names) waiting.set(n, []);
  try {
    const done = await edit();
    if (question) own.add(`${question} at ${done.revision}`);
    const ofStudy = question ? done.studyRevision : done.revision;
    if (study && ofStudy !== undefined) own.add(`${study} at ${ofStudy}`);
    return done;
  } finally {
    for (const n of names) {
      const events = waiting.get(n) ?? [];
      waiting.delete(n);
      for (const e of events) hear(client, e);
    }
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
    case 'database':
      trouble.set(e.what ? e : undefined);
      if (!e.what) catchUp(client);
      return;
    case 'style':
      client.invalidateQueries({ queryKey: keys.style });
      client.invalidateQueries({ queryKey: keys.ofReports });
      return;
    case 'reports':
      askReportsAgain(client, required(e.study));
      return;
    default: {
      const name = e.question ? `question ${e.question}` : e.study ? `study ${e.study}` : '';
      const held = waiting.get(name);
      if (held) return void held.push(e);
      if (own.delete(`${name} at ${e.revision ?? 0}`)) return;
      if (e.question) askAgain(client, e.question);
      else if (e.study) catchUp(client);
      else client.invalidateQueries({ queryKey: keys.studies });
    }
  }
}

/** Asks for everything anew: something may have happened that was not heard. */
function catchUp(client: QueryClient) {
  own.clear(); // what was to come back is covered by this
  client.invalidateQueries({ queryKey: keys.studies });
  askAgain(client);
}

/** Follows what other windows and the server do. The stream is closed while the window is hidden, or nobody is signed in. */
export function useLiveEvents(on = true) {
  const client = useQueryClient();
  useEffect(() => {
    if (!on) return;
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
        trouble.set(undefined); // what is wrong is told anew
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
      lost.set(undefined);
      close();
    };
  }, [client, on]);
}
