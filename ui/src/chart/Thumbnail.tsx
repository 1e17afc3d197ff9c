import { useEffect, useMemo, useRef, useState } from 'react';
import { Planned } from '../drawing/Planned';
import { type Figures, pictureOf } from '../drawing/plan';
import { useStyle } from '../drawing/useStyle';
import { writeConditions } from '../lib/address';
import type { KeptDrawing } from '../lib/charts';
import { useAsk } from '../lib/queries';

/** How much smaller than it is drawn. */
const scale = 0.25;

/** The figures of a kept chart as they are now, once they are wanted. */
function useFigures(drawn: KeptDrawing, wanted: boolean): Figures | undefined {
  const { query, means, together, flow, questions } = drawn;
  const focus = writeConditions(drawn.focus ?? []);
  const ask = (kind: boolean) => ({ enabled: wanted && kind });
  const table = useAsk('chart', { ...query, focus }, ask(!means && !together && !flow && !questions)).now;
  const of = {
    means: useAsk('means', { ...means, focus }, ask(!!means)).now,
    together: useAsk('together', { ...together, focus }, ask(!!together)).now,
    flow: useAsk('flow', { ...flow, focus }, ask(!!flow)).now,
  };
  return useMemo(() => {
    if (means) return of.means && { means: of.means };
    if (together) return of.together && { together: of.together };
    if (flow) return of.flow && { flow: of.flow };
    return table && { chart: table };
  }, [means, together, flow, table, of.means, of.together, of.flow]);
}

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
  const figures = useFigures(drawn, near);
  const plan = useMemo(() => figures && pictureOf(figures, drawn, style), [figures, drawn, style]);
  return (
    <div
      ref={box}
      aria-hidden
      className="h-27 w-42 flex-none overflow-hidden rounded-sm border border-line bg-sheet p-1"
    >
      {drawn.questions && <p className="p-2 text-sm text-soft">a table of questions</p>}
      {plan && plan.marks.length > 0 && (
        <div style={{ width: Math.max(640, plan.width), transform: `scale(${scale})`, transformOrigin: '0 0' }}>
          <Planned name="" plan={plan} style={style} still />
        </div>
      )}
    </div>
  );
}
