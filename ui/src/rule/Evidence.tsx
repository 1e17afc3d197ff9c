import type { KeyboardEvent } from 'react';
import { Words } from '../answers/Words';
import type { Answer, FrameLine } from '../lib/api';
import { useDesk } from '../lib/edits';
import { Button, Kbd } from '../parts/Button';
import { useRoving } from '../parts/roving';

type ListProps = { answers: Answer[]; category?: FrameLine };

/**
 * Answers with what decided; arrows go from one to the next. One that is wrong in the category can be taken off by hand, with x, and
 * speaks for an exclusion then.
 */
export function EvidenceList({ answers, category }: ListProps) {
  const { edit } = useDesk();
  const stops = useRoving<HTMLUListElement>();
  const judged = category && !category.net ? category : undefined;
  const wrong = (a: Answer) => judged && edit({ kind: 'decide', category: judged.id, answers: [a.number], to: 'off' });
  const onKeyDown = (a: Answer) => (e: KeyboardEvent) => {
    if (e.key !== 'x' || e.ctrlKey || e.metaKey || e.altKey || !judged) return;
    e.preventDefault();
    e.stopPropagation();
    wrong(a);
  };
  return (
    <ul {...stops}>
      {answers.map((a) => (
        <li
          key={a.number}
          data-part="evidence"
          data-stop=""
          tabIndex={-1}
          onKeyDown={onKeyDown(a)}
          className="group/evidence border-t py-1.75 font-serif text-lg break-words whitespace-pre-line outline-offset-[-2px]"
        >
          <span data-part="said">
            <Words answer={a} />
          </span>
          {judged && (
            <Button
              look="plain"
              tabIndex={-1}
              className="ml-2 font-sans text-sm opacity-0 group-focus-within/evidence:opacity-100
                group-hover/evidence:opacity-100 focus-visible:opacity-100"
              onClick={() => wrong(a)}
            >
              wrong here <Kbd>x</Kbd>
            </Button>
          )}
        </li>
      ))}
    </ul>
  );
}
