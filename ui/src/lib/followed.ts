import { useSyncExternalStore } from 'react';

/** A value that components follow. */
export function followed<T>(start: T) {
  let value = start;
  const listeners = new Set<() => void>();
  return {
    get: () => value,
    set: (to: T) => {
      value = to;
      for (const l of listeners) l();
    },
    use: () =>
      useSyncExternalStore(
        (l) => {
          listeners.add(l);
          return () => listeners.delete(l);
        },
        () => value,
      ),
  };
}
