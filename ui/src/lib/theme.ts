import { useEffect } from 'react';
import { followed } from './followed';

type Theme = 'light' | 'dark';

function start(): Theme {
  const kept = localStorage.getItem('paper');
  if (kept === 'light' || kept === 'dark') return kept;
  return matchMedia('(prefers-color-scheme: dark)').matches ? 'dark' : 'light';
}

const theme = followed(start());

/** Light or dark paper: as the system has it, until it is chosen here. */
export function useTheme(): [Theme, () => void] {
  const now = theme.use();
  useEffect(() => {
    document.documentElement.dataset.paper = now;
  }, [now]);
  return [
    now,
    () => {
      const next = theme.get() === 'dark' ? 'light' : 'dark';
      localStorage.setItem('paper', next);
      theme.set(next);
    },
  ];
}
