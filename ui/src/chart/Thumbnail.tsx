import { useEffect, useMemo, useRef, useState } from 'react';
import { Planned } from '../drawing/Planned';
import { pictureOf } from '../drawing/plan';
import { useStyle } from '../drawing/useStyle';
import type { Design } from '../lib/api';
import { useFigures } from '../lib/queries';
import { required } from '../lib/required';

/** How much smaller than it is drawn. */
const scale = 0.25;

/** A kept chart in small, worked out when it comes into sight. */
export function Thumbnail({ drawn }: { drawn: Design }) {
  const box = useRef<HTMLDivElement>(null);
  const [near, setNear] = useState(false);
  useEffect(() => {
    const watch = new IntersectionObserver(([e]) => required(e).isIntersecting && setNear(true));
    watch.observe(required(box.current));
    return () => watch.disconnect();
  }, []);
  const { style } = useStyle();
  const figures = useFigures(drawn, near && drawn.kind !== 'questions').now;
  const plan = useMemo(() => figures && pictureOf(figures, drawn, style), [figures, drawn, style]);
  return (
    <div
      ref={box}
      aria-hidden
      className="h-27 w-42 flex-none overflow-hidden rounded-sm border border-line bg-sheet p-1"
    >
      {drawn.kind === 'questions' && <p className="p-2 text-sm text-soft">a table of questions</p>}
      {plan && !plan.marks.length && <p className="p-2 text-sm text-soft">nothing to draw</p>}
      {plan && plan.marks.length > 0 && (
        <div style={{ width: Math.max(640, plan.width), transform: `scale(${scale})`, transformOrigin: '0 0' }}>
          <Planned name="" plan={plan} style={style} still />
        </div>
      )}
    </div>
  );
}
