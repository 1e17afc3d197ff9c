import { useSyncExternalStore } from 'react';

/** Whether the window is as a media query says. */
export function useMedia(query: string) {
  return useSyncExternalStore(
    (changed) => {
      const m = matchMedia(query);
      m.addEventListener('change', changed);
      return () => m.removeEventListener('change', changed);
    },
    () => matchMedia(query).matches,
  );
}
