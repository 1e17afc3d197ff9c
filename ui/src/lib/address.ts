import { useCallback, useMemo } from 'react';
import { useLocation, useNavigate, useSearchParams } from 'react-router';
import type { Condition } from './api';
import { readCondition } from './readCondition';
import { itemAt } from './required';

/** The conditions in a word of the address, and how many of it can't be read. */
function readFocus(s: string): { conditions: Condition[]; unread: number } {
  if (!s) return { conditions: [], unread: 0 };
  let list: unknown;
  try {
    list = JSON.parse(s);
  } catch {
    // Nobody can say how many there were.
  }
  if (!Array.isArray(list)) return { conditions: [], unread: 1 };
  const conditions = list.flatMap((c) => readCondition(c) ?? []);
  return { conditions, unread: list.length - conditions.length };
}

/** The conditions in a word of the address; what is no condition is passed over. */
export const readConditions = (s: string) => readFocus(s).conditions;

export const writeConditions = (list: Condition[]) => (list.length ? JSON.stringify(list) : '');
const same = (a: Condition, b: Condition) => JSON.stringify(a) === JSON.stringify(b);

/** What may stand in the address line, besides the question and the view. */
export type Place =
  | 'focus'
  | 'pick'
  | 'tab'
  | 'open'
  | 'find'
  | 'sort'
  | 'up'
  | 'from'
  | 'to'
  // terms
  | 'row'
  | 'stop'
  | 'way'
  | 'see'
  | 'over'
  | 'unit'
  | 'now'
  | 'kind'
  | 'seg'
  | 'a'
  | 'b'
  | 'words'
  | 'measure'
  | 'least'
  | 'links'
  | 'both'
  | 'class'
  | 'list'
  // code
  | 'category'
  | 'draft'
  | 'net'
  | 'write'
  | 'called'
  | 'back'
  | 'having'
  | 'order'
  // review
  | 'all'
  | 'at'
  | 'group'
  | 'sample'
  | 'coder'
  // chart
  | 'by'
  | 'base'
  | 'weighted'
  | 'as'
  | 'rows'
  | 'only'
  | 'where'
  | 'fix'
  | 'cells'
  | 'of'
  | 'bands'
  | 'with'
  | 'questions'
  | 'titled'
  // report
  | 'report'
  | 'frozen';

/**
 * What stands in the address line, so that back, reload and sharing work: the focus (what everything speaks of), the pick
 * (what the answers pane shows of it), and how each view is set. What was written there by hand and means nothing counts as
 * not there.
 */
export function useAddress() {
  const [params] = useSearchParams();
  const { pathname } = useLocation();
  const navigate = useNavigate();
  const focusWord = params.get('focus') ?? '';
  const pickWord = params.get('pick') ?? '';
  const { conditions: focus, unread } = useMemo(() => readFocus(focusWord), [focusWord]);
  const pick = useMemo(() => readConditions(pickWord), [pickWord]);
  const set = useCallback(
    (changes: Partial<Record<Place, string>>, replace = false) => {
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
    /** Conditions of the address that can't be read: what is shown is of more answers than whoever wrote it meant. */
    unread,
    pick,
    focusText: writeConditions(focus),
    pickText: writeConditions(pick),
    /** What the answers pane shows: the pick within the focus. */
    shown: writeConditions([...focus, ...pick.filter((p) => !focus.some((f) => same(f, p)))]),
    /** A word of the address, empty where there is none. */
    get: (what: Place) => params.get(what) ?? '',
    /** A word of the address that is one of some, the first of them where it is not. */
    one: <V extends string>(what: Place, values: readonly V[]): V =>
      values.find((v) => v === params.get(what)) ?? itemAt(values, 0),
    /** A number of the address that lies within bounds. */
    number: (what: Place, fallback: number, least = 0, most = Number.MAX_SAFE_INTEGER) => {
      const n = params.get(what);
      const read = n === null || n.trim() === '' ? Number.NaN : Number(n);
      return Number.isFinite(read) ? Math.min(most, Math.max(least, read)) : fallback;
    },
    setFocus: (list: Condition[]) => set({ focus: writeConditions(list), pick: '' }),
    narrow: (...more: Condition[]) =>
      set({ focus: writeConditions([...focus, ...more.filter((m) => !focus.some((f) => same(f, m)))]), pick: '' }),
    setPick: useCallback((list: Condition[]) => set({ pick: writeConditions(list) }, true), [set]),
    set,
  };
}
