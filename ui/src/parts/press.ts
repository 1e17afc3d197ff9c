import type { KeyboardEvent } from 'react';

/** Makes a part of a drawing a button: by mouse, and by Enter or space. */
export const press = (act: () => void, label: string, pressed?: boolean) => ({
  role: 'button',
  tabIndex: 0,
  'aria-label': label,
  'aria-pressed': pressed,
  onClick: act,
  onKeyDown: (e: KeyboardEvent) => {
    if (e.key !== 'Enter' && e.key !== ' ') return;
    e.preventDefault();
    act();
  },
});
