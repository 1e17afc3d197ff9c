import { useLayoutEffect, useRef } from 'react';

/** Keys by name, as in KeyboardEvent.key; a leading "Alt+" asks for that key held. */
export type Keys = Record<string, (e: KeyboardEvent) => void>;

/** True while typing goes into a field, where single letters must stay letters. */
export function typing(e: KeyboardEvent) {
  const t = e.target as HTMLElement | null;
  return !!t?.closest?.('input, textarea, select, [contenteditable="true"], dialog');
}

/** Listens for keys on the whole window from the moment the component is seen; early ones are asked before all others. */
export function useKeys(keys: Keys, early = false) {
  const current = useRef(keys);
  current.current = keys;
  useLayoutEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      if (e.defaultPrevented || e.ctrlKey || e.metaKey || typing(e)) return;
      const act = current.current[(e.altKey ? 'Alt+' : '') + e.key];
      if (!act) return;
      // A focused button or link keeps its own Enter and space.
      if ((e.key === 'Enter' || e.key === ' ') && (e.target as HTMLElement).closest?.('button, a, summary')) return;
      e.preventDefault();
      act(e);
    };
    window.addEventListener('keydown', onKey, early);
    return () => window.removeEventListener('keydown', onKey, early);
  }, [early]);
}

/** All keys, for the page under "?". */
export const keyList: [string, [string, string][]][] = [
  [
    'Everywhere',
    [
      ['[ and ]', 'the view before, the view after'],
      ['/', 'narrow the focus'],
      ['z', 'undo'],
      ['Shift z', 'redo'],
      ['f', 'narrow the focus to what the answers pane shows'],
      ['Esc', 'let go of what is selected'],
      ['?', 'this page'],
    ],
  ],
  [
    'Clean',
    [
      ['Alt ↑ ↓', 'move the step that has the focus'],
      ['space', 'switch a step on or off'],
      ['Enter', 'keep what was tried'],
      ['Esc', 'drop it'],
    ],
  ],
  [
    'Terms',
    [
      ['↓ ↑', 'next term, term before'],
      ['space', 'take the term into the selection'],
      ['h', 'hide it as a stop word; among the hidden ones, bring it back'],
      ['m', 'merge the selected terms'],
      ['p', 'part what is joined under the term'],
      ['l', 'put the selected terms on a term list'],
      ['c', 'start a category from the selected terms'],
      ['t', 'in Suggestions: take it'],
      ['r', 'in Suggestions: refuse it, keep the terms apart'],
    ],
  ],
  [
    'Code',
    [
      ['↓ ↑', 'next category, category before'],
      ['n', 'a new category'],
      ['Alt ↑ ↓', 'move the category among its neighbours'],
      ['Alt → ←', 'move it into the one above, out of its net'],
      ['a', 'add a rule'],
      ['u', 'add an “unless”'],
      ['Enter', 'in a rule: keep it'],
      ['Esc', 'in a rule: drop it'],
      ['Alt m', 'in a rule: take the first mend'],
      ['Alt f', 'in a rule: its usual form'],
      ['t e r', 'in Drafts: take, change first, refuse'],
    ],
  ],
  [
    'Review',
    [
      ['j k', 'next answer, answer before'],
      ['1q …', 'a short code: put that category on, or take it off'],
      ['s', 'settle: looked at, needs no category'],
      ['n', 'a new category'],
    ],
  ],
];
