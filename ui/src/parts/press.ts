import type { KeyboardEvent } from 'react';

/** Makes a part of a drawing a button: by mouse, and by Enter or space. Its picture is one Tab stop, with arrows inside. */
export const press = (act: () => void, label: string, pressed?: boolean) => ({
  role: 'button',
  'data-stop': '',
  'aria-label': label,
  'aria-pressed': pressed,
  onClick: act,
  onKeyDown: (e: KeyboardEvent) => {
    if (e.key !== 'Enter' && e.key !== ' ') return;
    e.preventDefault();
    act();
  },
});
