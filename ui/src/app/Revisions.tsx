import { useDesk } from '../lib/edits';
import { moment } from '../lib/format';
import { useAsk } from '../lib/queries';
import { Asked } from '../parts/Asked';
import { Button, Link } from '../parts/Button';
import { Dialog } from '../parts/Dialog';
import { Empty } from '../parts/Text';

/** Every edit that was kept, the newest first. */
export function Revisions({ close }: { close: () => void }) {
  const { question, undo, redo } = useDesk();
  const list = useAsk('revisions', {});
  return (
    <Dialog title="Revisions" close={close}>
      <Asked query={list}>
        {(all) => (
          <>
            {all.length === 0 && (
              <Empty>Nothing has been changed yet. Every edit will stand here, and can be undone.</Empty>
            )}
            <ol data-part="revisions">
              {all.map((r) => (
                <li
                  key={`${r.study ?? false}${r.number}`}
                  className={`grid grid-cols-[2.25rem_1fr_auto] gap-x-2.5 border-t border-hair py-1
                    ${r.undone ? 'text-soft line-through' : ''}`}
                >
                  <span className="text-soft">{r.study ? 'data' : r.number}</span>
                  <span>
                    {r.summary}
                    {r.undone && ' (undone)'}
                    {r.by && <span className="text-soft"> · {r.by}</span>}
                  </span>
                  <time className="text-soft" dateTime={r.at}>
                    {moment(r.at)}
                  </time>
                </li>
              ))}
            </ol>
          </>
        )}
      </Asked>
      <p className="flex items-baseline gap-2.5 pt-3">
        <Button disabled={!question.undo} onClick={() => undo()}>
          Undo the newest
        </Button>
        <Button disabled={!question.redo} onClick={() => redo()}>
          Redo
        </Button>
        <Link to={`/q/${question.id}/code?tab=revisions`} onClick={close}>
          compare, name, go back…
        </Link>
        <Button onClick={close}>Close</Button>
      </p>
    </Dialog>
  );
}
