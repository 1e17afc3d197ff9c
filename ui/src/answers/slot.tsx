import { type ReactNode, useLayoutEffect } from 'react';
import { createPortal } from 'react-dom';
import { followed } from '../lib/followed';

const place = followed<HTMLElement | null>(null);
const users = followed(0);

/** What a view wants to be read stands in the answers pane, in place of the list there. */
export function InPane({ children }: { children: ReactNode }) {
  const element = place.use();
  useLayoutEffect(() => {
    users.set(users.get() + 1);
    return () => users.set(users.get() - 1);
  }, []);
  return element && createPortal(children, element);
}

/** The place in the pane for that, and whether it is used. */
export const usePlace = () => ({ place: place.set, used: users.use() > 0 });
