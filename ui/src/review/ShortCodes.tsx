import { useState } from 'react';
import type { FrameLine } from '../lib/api';
import { tint } from '../lib/format';
import { Button, Kbd } from '../parts/Button';
import { useRoving } from '../parts/roving';
import { Empty } from '../parts/Text';

/** Short codes as they are typed: a letter that makes one whole puts the category on. */
export function useShortCodes(categories: FrameLine[], put: (c: FrameLine) => void) {
  const [typed, setTyped] = useState('');
  const whole = (t: string) => categories.find((c) => c.short?.toLowerCase() === t);
  const take = (c: FrameLine | undefined) => {
    setTyped('');
    if (c) put(c);
  };
  return {
    typed,
    forget: () => setTyped(''),
    /** Puts on what was typed so far, where longer codes begin with it, too. */
    enter: () => take(whole(typed)),
    type: (letter: string) => {
      const t = typed + letter;
      const may = categories.filter((c) => c.short?.toLowerCase().startsWith(t));
      if (may.length === 1 && whole(t)) take(may[0]);
      else setTyped(may.length ? t : '');
    },
  };
}

/** The keys that short codes are made of. */
export const codeKeys = [...'abcdefghijklmnopqrstuvwxyz0123456789'];

type GridProps = {
  categories: FrameLine[];
  typed: string;
  /** Whether an answer has it; a word stands for how. */
  has: (c: FrameLine) => boolean | string;
  press: (c: FrameLine) => void;
};

/** The categories with their short codes under one's fingers. */
export function CodeGrid({ categories, typed, has, press }: GridProps) {
  const stops = useRoving<HTMLDivElement>({ across: true, columns: 3 });
  return (
    <div
      data-part="keygrid"
      {...stops}
      aria-label="Categories"
      role="group"
      className="grid grid-cols-3 gap-x-4.5 gap-y-1.5 max-md:grid-cols-2"
    >
      {categories.map((c) => {
        const how = has(c);
        return (
          <Button
            look="bare"
            key={c.id}
            data-stop=""
            className={`group flex items-baseline gap-2 border-t py-1.25 aria-pressed:bg-mosspale
              aria-pressed:font-semibold data-near:[&_kbd]:border-(--c) data-near:[&_kbd]:opacity-100 ${tint(c.top)}`}
            aria-pressed={!!how}
            onClick={() => press(c)}
            data-near={typed && c.short?.toLowerCase().startsWith(typed) ? '' : undefined}
          >
            <span className="text-(--c)">
              <Kbd>{c.short}</Kbd>
            </span>
            <span>{c.name}</span>
            {how && <span>{how === true ? '✓' : how}</span>}
          </Button>
        );
      })}
      {categories.length === 0 && <Empty>There is no category yet. Press a to make one, or make one in Code.</Empty>}
    </div>
  );
}
