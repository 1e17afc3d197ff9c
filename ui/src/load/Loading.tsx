import { type ReactNode, useEffect, useRef, useState } from 'react';
import { count } from '../lib/format';
import { useProgress } from '../lib/live';

/** How far a long load is: counts, rate, time left, and the way to give it up. */
export function Loading({ cancel }: { cancel: () => void }) {
  const p = useProgress();
  const begun = useRef(Date.now());
  const [, tick] = useState(0);
  useEffect(() => {
    const t = setInterval(() => tick((n) => n + 1), 500);
    return () => clearInterval(t);
  }, []);
  const going = p && (p.what === 'loading' || p.what === 'reading') ? p : undefined;
  const done = going?.done ?? 0;
  const total = going?.total ?? 0;
  const seconds = (Date.now() - begun.current) / 1000;
  const rate = done / Math.max(seconds, 0.2);
  const left = total > done && rate > 0 ? Math.ceil((total - done) / rate) : 0;
  return (
    <div className="loading" role="status">
      <div className="meter" role="img" aria-label={total ? `${Math.round((100 * done) / total)} %` : 'begun'}>
        <i style={{ width: `${total ? Math.min(100, (100 * done) / total) : 2}%` }} />
      </div>
      <p className="row">
        <span>
          {done
            ? `${count(done)}${total > done ? ` of about ${count(total)}` : ''} rows ${going!.what === 'reading' ? 'read' : 'stored'}, ${count(Math.round(rate))} a second${left ? `, about ${left} s left` : ''}`
            : 'Beginning to read…'}
        </span>
        <button type="button" onClick={cancel}>
          Cancel
        </button>
      </p>
    </div>
  );
}

type FinishProps = { failed: string; running?: AbortController; children: ReactNode };

/** What ends a long page: why it did not work, and what there is to press, or how far it is. */
export function Finish({ failed, running, children }: FinishProps) {
  return (
    <>
      {failed && (
        <p className="bad" role="alert">
          {failed}
        </p>
      )}
      {running ? <Loading cancel={() => running.abort()} /> : <p className="row">{children}</p>}
    </>
  );
}
