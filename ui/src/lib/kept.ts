import { useState } from 'react';
import { useQuestionId } from './queries';

/**
 * State that outlives leaving the view and reloading: kept for the question, in this window. Give it a name that says whose
 * it is.
 */
export function useKept<T>(name: string, start: T): [T, (to: T) => void] {
  const id = useQuestionId();
  const key = `kept ${id} ${name}`;
  const [state, setState] = useState<{ key: string; value: T }>(() => ({ key, value: read(key, start) }));
  // Of another question, nothing is known yet.
  const value = state.key === key ? state.value : read(key, start);
  return [
    value,
    (to: T) => {
      sessionStorage.setItem(key, JSON.stringify(to));
      setState({ key, value: to });
    },
  ];
}

function read<T>(key: string, start: T): T {
  const kept = sessionStorage.getItem(key);
  if (kept === null) return start;
  try {
    return JSON.parse(kept) as T;
  } catch {
    return start;
  }
}
