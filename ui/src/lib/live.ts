import { type QueryClient, useQueryClient } from '@tanstack/react-query';
import { useEffect, useSyncExternalStore } from 'react';
import type { LiveEvent } from './api';

/** How far long work is, as the server last said. */
let progress: LiveEvent | undefined;
const listeners = new Set<() => void>();

function setProgress(e: LiveEvent | undefined) {
  progress = e;
  for (const l of listeners) l();
}

export function useProgress() {
  return useSyncExternalStore(
    (l) => {
      listeners.add(l);
      return () => listeners.delete(l);
    },
    () => progress,
  );
}

/**
 * Asks anew for all that was asked for under a key. What is on its way for the first time is begun anew too: invalidated
 * only, it would arrive as it was before the change, and stay.
 */
export function askAgain(client: QueryClient, queryKey: unknown[]) {
  client.resetQueries({ queryKey, predicate: (q) => q.state.fetchStatus === 'fetching' && q.state.data === undefined });
  return client.invalidateQueries({ queryKey });
}

/** Follows what other windows and the server do. The stream is closed while the window is hidden. */
export function useLiveEvents() {
  const client = useQueryClient();
  useEffect(() => {
    let source: EventSource | undefined;
    let timer: ReturnType<typeof setTimeout> | undefined;
    const open = () => {
      source = new EventSource('/api/v1/events');
      source.onmessage = (m) => {
        const e = JSON.parse(m.data) as LiveEvent;
        if (e.kind === 'progress') {
          setProgress(e);
          clearTimeout(timer);
          timer = setTimeout(() => setProgress(undefined), e.done === e.total ? 600 : 4000);
        } else if (e.kind === 'edit') {
          askAgain(client, ['question', e.question]);
        } else {
          client.invalidateQueries({ queryKey: ['studies'] });
          askAgain(client, ['question']);
        }
      };
    };
    const follow = () => {
      if (document.hidden) {
        source?.close();
        source = undefined;
      } else if (!source) {
        open();
        askAgain(client, ['question']);
      }
    };
    open();
    document.addEventListener('visibilitychange', follow);
    return () => {
      document.removeEventListener('visibilitychange', follow);
      source?.close();
    };
  }, [client]);
}
