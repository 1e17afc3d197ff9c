import { type ReactNode, useEffect, useRef } from 'react';
import { Link } from 'react-router';
import { api, take } from '../lib/api';
import { useAsk, useDesk } from '../lib/desk';
import { moment } from '../lib/format';
import { keyList } from '../lib/keys';

/** A sheet laid over the view; Esc or a click beside it closes it. */
export function Sheet({ title, close, children }: { title: string; close: () => void; children: ReactNode }) {
  const ref = useRef<HTMLDialogElement>(null);
  useEffect(() => {
    const d = ref.current;
    d?.showModal();
    return () => d?.close();
  }, []);
  return (
    // biome-ignore lint/a11y/useKeyWithClickEvents: Esc closes a dialog by itself
    <dialog
      ref={ref}
      className="sheet"
      onClose={close}
      onClick={(e) => e.target === ref.current && close()}
      aria-label={title}
    >
      <h1>{title}</h1>
      {children}
    </dialog>
  );
}

type EndsProps = { go: string; ready: boolean; close: () => void; children?: ReactNode };

/** The two ends of a sheet's form: doing it, or leaving it. */
export function Ends({ go, ready, close, children }: EndsProps) {
  return (
    <p className="row">
      <button type="submit" className="go" disabled={!ready}>
        {go}
      </button>
      <button type="button" onClick={close}>
        Leave it
      </button>
      {children}
    </p>
  );
}

export function Help({ close }: { close: () => void }) {
  return (
    <Sheet title="Keys" close={close}>
      <div className="keys-page">
        {keyList.map(([where, keys]) => (
          <section key={where}>
            <h2>{where}</h2>
            <dl>
              {keys.map(([key, what]) => (
                <div key={key}>
                  <dt>
                    <kbd>{key}</kbd>
                  </dt>
                  <dd>{what}</dd>
                </div>
              ))}
            </dl>
          </section>
        ))}
      </div>
      <p>
        <button type="button" onClick={close}>
          Close
        </button>
      </p>
    </Sheet>
  );
}

export function Revisions({ close }: { close: () => void }) {
  const { question, undo, redo } = useDesk();
  const list = useAsk(['revisions'], (q) =>
    take(api.GET('/api/v1/questions/{question}/revisions', { params: { path: { question: q } } })),
  );
  return (
    <Sheet title="Revisions" close={close}>
      {list.data?.length === 0 && (
        <p className="empty">Nothing has been changed yet. Every edit will stand here, and can be undone.</p>
      )}
      <ol className="revisions">
        {list.data?.map((r) => (
          <li key={`${r.study ?? false}${r.number}`} className={r.undone ? 'undone' : ''}>
            <span>{r.study ? 'data' : r.number}</span>
            <span>
              {r.summary}
              {r.undone && ' (undone)'}
            </span>
            <time dateTime={r.at}>{moment(r.at)}</time>
          </li>
        ))}
      </ol>
      <p className="row">
        <button type="button" disabled={!question.undo} onClick={() => undo()}>
          Undo the newest
        </button>
        <button type="button" disabled={!question.redo} onClick={() => redo()}>
          Redo
        </button>
        <Link className="plain" to={`/q/${question.id}/code?tab=revisions`} onClick={close}>
          compare, name, go back…
        </Link>
        <button type="button" onClick={close}>
          Close
        </button>
      </p>
    </Sheet>
  );
}
