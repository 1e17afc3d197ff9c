import { Words } from '../answers/Words';
import type { Answer, FrameLine } from '../lib/api';
import { useDesk } from '../lib/edits';
import { Button } from '../parts/Button';

/** An answer with what decided; one that is wrong here can be taken off by hand, and speaks for an exclusion then. */
export function Evidence({ answer, category }: { answer: Answer; category?: FrameLine }) {
  const { edit } = useDesk();
  return (
    <div
      data-part="evidence"
      className="group/evidence border-t py-1.75 font-serif text-lg break-words whitespace-pre-line"
    >
      <span data-part="said">
        <Words answer={answer} />
      </span>
      {category && !category.net && (
        <Button
          look="plain"
          className="ml-2 font-sans text-sm opacity-0 group-focus-within/evidence:opacity-100
            group-hover/evidence:opacity-100 focus-visible:opacity-100"
          onClick={() => edit({ kind: 'decide', category: category.id, answers: [answer.number], to: 'off' })}
        >
          wrong here
        </Button>
      )}
    </div>
  );
}
