import { useNavigate } from 'react-router';
import { useAddress } from '../lib/address';
import type { Queued } from '../lib/api';
import { useDesk } from '../lib/edits';
import { useQuestionId } from '../lib/queries';
import { Button } from '../parts/Button';
import { Menu } from '../parts/Menu';
import { useRoving } from '../parts/roving';

/** The terms of an answer, each of which starts a rule, a merge or a stop word from where one reads. */
export function Terms({ answer, close }: { answer: Queued; close: () => void }) {
  const { focusText } = useAddress();
  const { edit } = useDesk();
  const id = useQuestionId();
  const navigate = useNavigate();
  const stops = useRoving<HTMLParagraphElement>({ across: true });
  const go = (view: string, more: Record<string, string>) =>
    navigate(`/q/${id}/${view}?${new URLSearchParams({ ...(focusText ? { focus: focusText } : {}), ...more })}`);
  const back = window.location.search || '?';
  return (
    <p
      {...stops}
      role="group"
      aria-label="Terms of the answer"
      className="flex flex-wrap items-baseline gap-x-3 gap-y-1 pt-2.5 text-sm"
      onKeyUp={(e) => e.key === 'Escape' && close()}
    >
      <span className="text-soft">its terms:</span>
      {answer.terms.map((t) => (
        <Menu
          key={t}
          words={t}
          label={`${t}: what to do with it`}
          stop
          actions={[
            { words: `A rule of “${t}”…`, act: () => go('code', { draft: t, back }) },
            { words: `Look at “${t}” in Terms, to merge it`, act: () => go('terms', { find: t }) },
            { words: `Make “${t}” a stop word`, act: () => edit({ kind: 'hide', terms: [t] }), group: true },
          ]}
        />
      ))}
      <Button look="plain" data-stop="" onClick={close} aria-label="Close the terms">
        ×
      </Button>
    </p>
  );
}
