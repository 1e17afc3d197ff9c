import { type KeyboardEvent, useLayoutEffect, useRef } from 'react';
import { takesText } from '../lib/keys';
import { itemAt } from '../lib/required';

/**
 * One Tab stop for a list: arrows, Home and End go from one element marked data-stop to the next, and Tab comes back to the
 * one that was last. Give the props to the element around them. Across, arrows to the side do the same; of a grid with so
 * many columns, arrows up and down go by whole rows.
 */
export function useRoving<E extends HTMLElement>({ across = false, columns = 1 } = {}) {
  const ref = useRef<E>(null);
  const stops = () => [...(ref.current?.querySelectorAll<HTMLElement>('[data-stop]:not(:disabled)') ?? [])];
  useLayoutEffect(() => {
    const all = stops();
    if (!all.length) return;
    const now = all.find((s) => s === document.activeElement) ?? all.find((s) => s.dataset.stop === 'here');
    const at = now ?? all.find((s) => s.tabIndex === 0) ?? itemAt(all, 0);
    for (const s of all) s.tabIndex = s === at ? 0 : -1;
  });
  return {
    ref,
    'data-list': '',
    onFocus: (e: { target: EventTarget }) => {
      const t = (e.target as HTMLElement).closest<HTMLElement>('[data-stop]');
      if (t) for (const s of stops()) s.tabIndex = s === t ? 0 : -1;
    },
    onKeyDown: (e: KeyboardEvent) => {
      if (e.altKey || e.ctrlKey || e.metaKey || e.shiftKey || e.defaultPrevented) return;
      if (takesText(e.target) && (e.key === 'ArrowLeft' || e.key === 'ArrowRight')) return;
      const all = stops();
      const at = all.indexOf(document.activeElement as HTMLElement);
      if (at < 0) return;
      const by: Record<string, number> = {
        ArrowDown: columns,
        ArrowUp: -columns,
        Home: -all.length,
        End: all.length,
        ...(across ? { ArrowRight: 1, ArrowLeft: -1 } : {}),
      };
      const step = by[e.key];
      // A field keeps the keys that move within its text.
      if (step === undefined || (takesText(e.target) && Math.abs(step) !== columns)) return;
      e.preventDefault();
      const to = at + step;
      if (columns > 1 && (to < 0 || to >= all.length) && Math.abs(step) === columns) return;
      itemAt(all, Math.max(0, Math.min(all.length - 1, to))).focus();
    },
  };
}
