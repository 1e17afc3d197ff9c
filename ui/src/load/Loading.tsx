import { type ReactNode, useEffect, useRef, useState } from 'react';
import { count } from '../lib/format';
import { useProgress } from '../lib/live';
import { required } from '../lib/required';
import { Button } from '../parts/Button';
import { Progress } from '../parts/Progress';

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
    <div className="grid gap-2" role="status">
      <Progress label="How far it is" share={total ? done / total : undefined} />
      <p className="flex items-baseline gap-2.5">
        <span>
          {done
            ? `${count(done)}${total > done ? ` of about ${count(total)}` : ''} rows ${required(going).what === 'reading' ? 'read' : 'stored'}, ${count(Math.round(rate))} a second${left ? `, about ${left} s left` : ''}`
            : 'Beginning to read…'}
        </span>
        <Button onClick={cancel}>Cancel</Button>
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
        <p className="text-clay" role="alert">
          {failed}
        </p>
      )}
      {running ? <Loading cancel={() => running.abort()} /> : <p className="flex items-baseline gap-2.5">{children}</p>}
    </>
  );
}
