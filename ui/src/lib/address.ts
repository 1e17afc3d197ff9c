import { useCallback, useMemo } from 'react';
import { useLocation, useNavigate, useSearchParams } from 'react-router';
import type { Condition, FrameLine } from './api';

function read(s: string | null): Condition[] {
  if (!s) return [];
  try {
    const list = JSON.parse(s);
    return Array.isArray(list) ? list : [];
  } catch {
    return [];
  }
}

const write = (list: Condition[]) => (list.length ? JSON.stringify(list) : '');
const same = (a: Condition, b: Condition) => JSON.stringify(a) === JSON.stringify(b);

/**
 * The focus (what everything speaks of) and the pick (what the answers pane shows of it) live in the address line, so
 * that back, reload and sharing work.
 */
export function useFocus() {
  const [params] = useSearchParams();
  const { pathname } = useLocation();
  const navigate = useNavigate();
  const focusText = params.get('focus') ?? '';
  const pickText = params.get('pick') ?? '';
  const focus = useMemo(() => read(focusText), [focusText]);
  const pick = useMemo(() => read(pickText), [pickText]);
  const set = useCallback(
    (changes: Record<string, string>, replace = false) => {
      // Another view may have been chosen while this one is still on the screen: it must not bring itself back.
      if (window.location.pathname !== pathname) return;
      const next = new URLSearchParams(window.location.search);
      for (const [key, value] of Object.entries(changes)) {
        if (value) next.set(key, value);
        else next.delete(key);
      }
      navigate({ search: next.toString() }, { replace });
    },
    [pathname, navigate],
  );
  return {
    focus,
    pick,
    focusText: write(focus),
    /** What the answers pane shows: the pick within the focus. */
    shown: write([...focus, ...pick.filter((p) => !focus.some((f) => same(f, p)))]),
    params,
    setFocus: (list: Condition[]) => set({ focus: write(list), pick: '' }),
    narrow: (...more: Condition[]) =>
      set({ focus: write([...focus, ...more.filter((m) => !focus.some((f) => same(f, m)))]), pick: '' }),
    setPick: useCallback((list: Condition[]) => set({ pick: write(list) }, true), [set]),
    set,
  };
}

const comparisons: Record<string, string> = {
  '=': 'is',
  '!=': 'is not',
  '<': 'under',
  '<=': 'up to',
  '>': 'over',
  '>=': 'from',
};

/** A state of the scheme in words. */
const state = (ref = 'now') =>
  ref === 'now' ? ref : ref === '0' ? 'the beginning' : ref.startsWith('=') ? ref.slice(1) : `revision ${ref}`;

/** A condition in words. */
export function say(c: Condition, frame: FrameLine[] = []): string {
  const category = () => frame.find((f) => f.id === c.id)?.path.join(' / ') ?? 'a category';
  switch (c.kind) {
    case 'words':
      return c.not ? `without ${c.text}` : (c.text ?? '');
    case 'term':
    case 'row':
      return c.not ? `without ${c.text}` : `with ${c.text}`;
    case 'variable': {
      const op = c.not && c.op === '=' ? 'is not' : comparisons[c.op ?? '='];
      return `${c.name} ${op} ${c.values?.join(' or ')}`;
    }
    case 'category':
      return c.not ? `not ${category()}` : category();
    case 'rule':
      return `${category()}, rule ${c.rule}`;
    case 'coded':
      return c.not ? 'not coded' : 'coded';
    case 'settled':
      return c.not ? 'not settled' : 'settled';
    case 'decided':
      return 'coded by hand';
    case 'status':
      return c.text === 'any' ? 'answered or not' : `status is ${c.text}`;
    case 'step':
      return `changed by ${c.text}`;
    case 'alike':
      return c.n ? 'alike in their words' : c.not ? 'like no other' : 'alike to another';
    case 'short':
      return c.not ? `${c.n} words or more` : `under ${c.n} words`;
    case 'personal':
      return c.text === 'phone' ? 'with a phone number' : 'with a mail address';
    case 'changed':
      return `what ${c.id ? category() : 'coding'} ${c.text} from ${state(c.values?.[0])} to ${state(c.values?.[1])}`;
    case 'hazard':
      return 'spoilt by the order of steps';
    default:
      return `${c.answers?.length === 1 ? 'one answer' : `${c.answers?.length} answers`} picked out`;
  }
}
