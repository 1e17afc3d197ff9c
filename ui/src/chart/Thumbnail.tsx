import { useEffect, useMemo, useRef, useState } from 'react';
import { Planned } from '../drawing/Planned';
import { drawn as forms, planOf, rowsOf } from '../drawing/plan';
import { useStyle } from '../drawing/useStyle';
import { writeConditions } from '../lib/address';
import type { KeptDrawing } from '../lib/charts';
import { useAsk } from '../lib/queries';

/** How much smaller than it is drawn. */
const scale = 0.25;

/** A kept chart in small, worked out when it comes into sight. */
export function Thumbnail({ drawn }: { drawn: KeptDrawing }) {
  const box = useRef<HTMLDivElement>(null);
  const [near, setNear] = useState(false);
  useEffect(() => {
    const watch = new IntersectionObserver(([e]) => e!.isIntersecting && setNear(true));
    watch.observe(box.current!);
    return () => watch.disconnect();
  }, []);
  const { style } = useStyle();
  const asked = useAsk('chart', { ...drawn.query, focus: writeConditions(drawn.focus ?? []) }, { enabled: near });
  const plan = useMemo(() => {
    if (!asked.now) return undefined;
    const as = forms.find((f) => f === drawn.as) ?? (drawn.as === 'table' ? 'heat' : 'bars');
    return planOf(asked.now, rowsOf(asked.now), as, () => {}, style);
  }, [asked.now, drawn.as, style]);
  return (
    <div
      ref={box}
      aria-hidden
      className="h-27 w-42 flex-none overflow-hidden rounded-sm border border-line bg-sheet p-1"
    >
      {plan && plan.marks.length > 0 && (
        <div style={{ width: Math.max(640, plan.width), transform: `scale(${scale})`, transformOrigin: '0 0' }}>
          <Planned name="" plan={plan} style={style} still />
        </div>
      )}
    </div>
  );
}
