import { useEffect, useState } from 'react';
import { itemAt } from './required';

const focusable = 'a[href], button:not(:disabled), input:not(:disabled), textarea:not(:disabled), [tabindex]';

/**
 * Keeps the keyboard's place: where what has the focus goes away, the focus goes to the nearest thing that is still there,
 * never to the page as a whole, from where nobody would know the way.
 */
export function useFocusKept() {
  useEffect(() => {
    let path: HTMLElement[] = [];
    const onFocus = (e: FocusEvent) => {
      path = [];
      for (let n = e.target as HTMLElement | null; n && n !== document.body; n = n.parentElement) path.push(n);
    };
    const mend = () => {
      if (document.activeElement !== document.body || !path.length || itemAt(path, 0).isConnected) return;
      const near = path.find((n) => n.isConnected && n.id !== 'root');
      const to = near && (near.matches('[tabindex]') ? near : near.querySelector<HTMLElement>(focusable));
      (to ?? document.getElementById('main'))?.focus({ preventScroll: true });
    };
    // What takes the place of what went away may take the focus itself: only then it is looked for.
    let timer: ReturnType<typeof setTimeout> | undefined;
    const watch = new MutationObserver(() => {
      if (document.activeElement !== document.body) return;
      clearTimeout(timer);
      timer = setTimeout(mend, 60);
    });
    document.addEventListener('focusin', onFocus);
    watch.observe(document.body, { childList: true, subtree: true });
    return () => {
      document.removeEventListener('focusin', onFocus);
      watch.disconnect();
      clearTimeout(timer);
    };
  }, []);
}

/** Gives the focus back to where it was when the component came up; for what lies over the page. */
export function useFocusBack() {
  const [before] = useState(() => document.activeElement);
  return (e: Event) => {
    e.preventDefault();
    if (before instanceof HTMLElement && before.isConnected && before !== document.body)
      before.focus({ preventScroll: true });
    else document.getElementById('main')?.focus({ preventScroll: true });
  };
}
