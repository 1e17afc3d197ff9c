import type { QueryClient } from '@tanstack/react-query';
import type { TermTable } from '../lib/api';
import { keys } from '../lib/queries';

type Page = Pick<TermTable, 'total' | 'hidden'> & { terms: { label: string }[] };

/**
 * The first pages of a list without some of its terms: what stood behind them moves up. Nothing if not all of them stand there, since
 * it is not known then what moves.
 */
export function without<P extends Page>(pages: P[], size: number, gone: ReadonlySet<string>): P[] | undefined {
  const all = pages.flatMap((p) => p.terms);
  const stay = all.filter((t) => !gone.has(t.label));
  if (all.length - stay.length !== gone.size) return undefined;
  return pages.map((p, i) => ({
    ...p,
    total: p.total - gone.size,
    hidden: p.hidden + gone.size,
    terms: stay.slice(i * size, (i + 1) * size),
  }));
}

/**
 * Takes terms that are being hidden off the list at hand. This is all that hiding changes in it, so that the line goes at once and not
 * when the server has answered; the list is asked for anew in any case. Gives what puts them back, if they could not be hidden.
 */
export function takeOff(client: QueryClient, id: number, query: object, size: number, terms: string[]) {
  const key = (page: number) => keys.asked(id, 'terms', { ...query, offset: page * size, limit: size });
  const pages: TermTable[] = [];
  for (let p = client.getQueryData<TermTable>(key(0)); p; p = client.getQueryData(key(pages.length))) pages.push(p);
  for (const [i, p] of without(pages, size, new Set(terms))?.entries() ?? []) {
    client.cancelQueries({ queryKey: key(i), exact: true }); // what is on its way is of before
    client.setQueryData(key(i), p);
  }
  return () => {
    for (const [i, p] of pages.entries()) client.setQueryData(key(i), p);
  };
}
