import { useDesk } from '../lib/edits';
import { useAsk } from '../lib/queries';
import type { NewBlock } from '../lib/reports';
import { Failed } from '../parts/Asked';
import { Button } from '../parts/Button';
import { Dialog } from '../parts/Dialog';
import { useRoving } from '../parts/roving';
import { Empty, Skeleton } from '../parts/Text';

/** The kept charts of the question, to put one into the report. */
export function AddChart({ close, add }: { close: () => void; add: (b: NewBlock) => void }) {
  const { question } = useDesk();
  const kept = useAsk('charts', {});
  const stops = useRoving<HTMLUListElement>();
  const there = kept.data?.filter((k) => !k.gone && !k.problem);
  return (
    <Dialog title="Put a kept chart into the report" close={close}>
      {kept.error && !kept.data && <Failed error={kept.error} again={() => kept.refetch()} />}
      {!kept.data && !kept.error && <Skeleton lines={3} />}
      {there?.length === 0 && (
        <Empty>No chart of this question is kept. In Chart, Keep this chart… gives a figure a name.</Empty>
      )}
      <ul {...stops} aria-label="Kept charts">
        {there?.map((k) => (
          <li key={k.id} className="border-t border-hair py-1 first:border-t-0">
            <Button
              look="bare"
              data-stop=""
              className="w-full rounded-sm px-1 py-0.5 text-left font-serif text-lg hover:bg-hair"
              onClick={() => {
                close();
                add({ kind: 'chart', question: question.id, title: k.name, note: k.note, drawn: k.drawn });
              }}
            >
              {k.name}
            </Button>
          </li>
        ))}
      </ul>
    </Dialog>
  );
}
