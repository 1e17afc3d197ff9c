import { type RefObject, useLayoutEffect, useRef } from 'react';
import { followed } from './followed';

/** Keys by name, as in KeyboardEvent.key; a leading "Alt+" or "Ctrl+" asks for that key held. */
export type Keys = Record<string, (e: KeyboardEvent) => void>;

const text = ['text', 'search', 'number', 'email', 'url', 'tel', 'password', 'date', 'time'];

/** Whether an element takes letters: nothing else does. */
export function takesText(t: EventTarget | null) {
  if (!(t instanceof HTMLElement)) return false;
  if (t instanceof HTMLInputElement) return text.includes(t.type);
  return t instanceof HTMLTextAreaElement || t.isContentEditable || !!t.closest('[contenteditable="true"]');
}

/** Keys that move within a list belong to the list that has the focus. */
const moving = new Set(['ArrowUp', 'ArrowDown', 'ArrowLeft', 'ArrowRight', 'PageUp', 'PageDown', 'Home', 'End']);

const over = '[role=dialog], [role=alertdialog], [role=menu], [role=listbox]';
/** Widgets that use all arrows themselves, and those that use only the ones to the side. */
const widget = '[role=slider], [role=combobox], [role=separator], svg [role=button]';
const across = '[role=tab], [role=radio]';

// Letters can be switched off (WCAG 2.1.4): for speech input, and for those who touch keys without meaning to.
const letters = followed(localStorage.getItem('letters') !== 'off');

/** Whether single letters are commands, and the way to switch that. */
export function useLetters(): [boolean, (on: boolean) => void] {
  return [
    letters.use(),
    (on) => {
      localStorage.setItem('letters', on ? 'on' : 'off');
      letters.set(on);
    },
  ];
}

/**
 * When a letter last went into a text field. Who types on after the field is gone, since Enter kept what was in it, does not
 * mean commands by the rest of the word.
 */
let typedAt = Number.NEGATIVE_INFINITY;
const inOneGo = 450;

window.addEventListener(
  'keydown',
  (e) => {
    if (takesText(e.target)) typedAt = e.key === 'Escape' ? Number.NEGATIVE_INFINITY : performance.now();
  },
  true,
);

// A press with the mouse ends it.
window.addEventListener(
  'pointerdown',
  () => {
    typedAt = Number.NEGATIVE_INFINITY;
  },
  true,
);

/** A text field is about to come up: letters on their way to it are no commands. */
export const awaitTyping = () => {
  typedAt = performance.now();
};

/** The name of a key as Keys have it, or nothing where it is no command. */
function named(e: KeyboardEvent) {
  // AltGr is how some layouts write "[": it makes a sign, not a command with Ctrl and Alt.
  if (e.getModifierState('AltGraph')) return e.key;
  if (e.metaKey || e.ctrlKey) return e.altKey ? undefined : `Ctrl+${e.key.toLowerCase()}`;
  return (e.altKey ? 'Alt+' : '') + e.key;
}

type Options = {
  /** Asked before all others. */
  early?: boolean;
  /** The list whose keys these are: arrows act only while no other list has the focus. */
  list?: RefObject<HTMLElement | null>;
};

/** Listens for keys on the whole window from the moment the component is seen. */
export function useKeys(keys: Keys, { early = false, list }: Options = {}) {
  const current = useRef(keys);
  current.current = keys;
  useLayoutEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      const key = named(e);
      if (e.defaultPrevented || !key || e.isComposing) return;
      const act = current.current[key];
      if (!act) return;
      const t = e.target instanceof Element ? e.target : undefined;
      const held = key.startsWith('Ctrl+');
      if (takesText(t ?? null)) {
        if (!held || key === 'Ctrl+z') return;
      } else {
        if (!held && t?.closest(over)) return;
        // A focused button or link keeps its own Enter and space.
        if ((key === 'Enter' || key === ' ') && t?.closest('button, a, [role=button], [role=checkbox]')) return;
        if (moving.has(key) && t) {
          const inList = t.closest('[data-list]');
          if (t.closest(across) && key !== 'ArrowUp' && key !== 'ArrowDown') return;
          if (t.closest(widget) || (inList && inList !== list?.current)) return;
        }
        if (key.length === 1 && key !== ' ') {
          if (!letters.get()) return;
          if (performance.now() - typedAt < inOneGo) {
            typedAt = performance.now();
            return;
          }
        }
      }
      e.preventDefault();
      act(e);
    };
    window.addEventListener('keydown', onKey, early);
    return () => window.removeEventListener('keydown', onKey, early);
  }, [early, list]);
}

/** Something that can be done: by its key, and from the list of all that can be done. */
export type Command = {
  /** As in Keys; an empty one is found in the list only. */
  key: string;
  words: string;
  act: () => void;
  /** It can't be done now. */
  off?: boolean;
  /** It is a move within a list, which needs no place among the things to do. */
  move?: boolean;
};

const registered = new Map<object, { where: string; commands: () => Command[] }>();

/** What can be done at this moment, by where it is offered. */
export function allCommands() {
  const groups = new Map<string, Command[]>();
  for (const { where, commands } of registered.values())
    groups.set(where, [...(groups.get(where) ?? []), ...commands()]);
  return groups;
}

/** Offers things to do for as long as the component is seen: each has its key, and is found by its words. */
export function useCommands(where: string, commands: Command[], options?: Options) {
  const current = useRef(commands);
  current.current = commands;
  useLayoutEffect(() => {
    const me = {};
    registered.set(me, { where, commands: () => current.current });
    return () => {
      registered.delete(me);
    };
  }, [where]);
  useKeys(Object.fromEntries(commands.filter((c) => c.key && !c.off).map((c) => [c.key, c.act])), options);
}

/** A key as it is written on keyboards. */
export const keyName = (key: string) =>
  key
    .replace('ArrowUp', '↑')
    .replace('ArrowDown', '↓')
    .replace('ArrowLeft', '←')
    .replace('ArrowRight', '→')
    .replace('Enter', '↵')
    .replace('Escape', 'Esc')
    .replace(/^ $/, 'space')
    .replace(/^Ctrl\+(.)$/, (_, k: string) => `Ctrl ${k.toUpperCase()}`)
    .replace('Alt+', 'Alt ');
