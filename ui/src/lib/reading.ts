import { followed } from './followed';

/** How answers are shown: as they were written, tags and entities faint; or as people read them, without. */
export type Reading = 'written' | 'read';

const kept = 'answers are shown';
const reading = followed<Reading>(localStorage.getItem(kept) === 'read' ? 'read' : 'written');

/** How answers are shown, and the way to change it; kept for this browser. */
export function useReading(): [Reading, (to: Reading) => void] {
  return [
    reading.use(),
    (to) => {
      localStorage.setItem(kept, to);
      reading.set(to);
    },
  ];
}
