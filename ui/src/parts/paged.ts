import { useQueries } from '@tanstack/react-query';
import { useVirtualizer } from '@tanstack/react-virtual';
import { useRef } from 'react';

type Query<P> = {
  queryKey: readonly unknown[];
  queryFn: (of: { signal: AbortSignal }) => Promise<P>;
  refetchInterval?: (q: { state: { data?: P } }) => number | false;
};

type Props<P> = {
  total: number;
  /** Lines of a page. */
  size: number;
  /** The height of a line before it was measured, in pixels. */
  height: number;
  /** How a page is asked for. */
  ask: (page: number) => Query<P>;
  /** A line that is needed though it may not be in sight. */
  also?: number;
};

/** An element has a greatest height in every browser: no list is longer than this many pixels, and says so. */
const highest = 22_000_000;

/** A list of any length: only what is on the screen is drawn, and asked for by pages. */
export function usePaged<P>({ total, size, height, ask, also }: Props<P>) {
  const scroller = useRef<HTMLDivElement>(null);
  const most = Math.floor(highest / height);
  const list = useVirtualizer({
    count: Math.min(total, most),
    getScrollElement: () => scroller.current,
    estimateSize: () => height,
    overscan: 6,
  });
  const items = list.getVirtualItems();
  const wanted = items.map((i) => Math.floor(i.index / size));
  if (also !== undefined) wanted.push(Math.floor(also / size));
  const pages = [...new Set(wanted)];
  const loaded = useQueries({ queries: pages.map((p) => ask(p)) });
  return {
    scroller,
    list,
    items,
    /** Lines that can't be shown, since the list would be too high. */
    cut: Math.max(0, total - most),
    /** The page a line is on, once it is there, and its place in it. */
    at: (i: number): { page?: P; place: number } => ({
      page: loaded[pages.indexOf(Math.floor(i / size))]?.data as P | undefined,
      place: i % size,
    }),
    error: loaded.find((l) => l.error)?.error ?? undefined,
  };
}
