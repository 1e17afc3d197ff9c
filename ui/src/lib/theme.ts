import { useEffect, useState } from 'react';

type Theme = 'light' | 'dark';

function start(): Theme {
  const kept = localStorage.getItem('paper');
  if (kept === 'light' || kept === 'dark') return kept;
  return matchMedia('(prefers-color-scheme: dark)').matches ? 'dark' : 'light';
}

/** Light or dark paper: as the system has it, until it is chosen here. */
export function useTheme(): [Theme, () => void] {
  const [theme, setTheme] = useState<Theme>(start);
  useEffect(() => {
    document.documentElement.dataset.paper = theme;
  }, [theme]);
  return [
    theme,
    () => {
      const next = theme === 'dark' ? 'light' : 'dark';
      localStorage.setItem('paper', next);
      setTheme(next);
    },
  ];
}
