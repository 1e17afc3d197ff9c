import { createContext, type ReactNode, useContext, useLayoutEffect } from 'react';
import { followed } from '../lib/followed';

const Depth = createContext(0);
const top = followed(0);

/** Notes that what is inside lies over the page: what only explains the page below gives way, and leaves Esc to it. */
export function Over({ children }: { children: ReactNode }) {
  const depth = useContext(Depth) + 1;
  // Before anything can be pressed: Esc belongs to what has just come up.
  useLayoutEffect(() => {
    top.set(depth);
    return () => top.set(depth - 1);
  }, [depth]);
  return <Depth.Provider value={depth}>{children}</Depth.Provider>;
}

/** Whether nothing lies over where this stands. */
export const useOnTop = () => top.use() === useContext(Depth);
