import { CustomChart, LineChart } from 'echarts/charts';
import { GridComponent } from 'echarts/components';
import { type EChartsCoreOption, type EChartsType, init, use } from 'echarts/core';
import { SVGRenderer } from 'echarts/renderers';
import { useEffect, useRef, useState } from 'react';
import { required } from '../lib/required';
import { Picture } from '../parts/Picture';
import { Caption } from '../parts/Text';
import type { Brush, Mark } from './picture';
import { faceOf, type Style, usual, variablesOf } from './style';

use([CustomChart, LineChart, GridComponent, SVGRenderer]);

type Props = {
  name: string;
  option: EChartsCoreOption;
  marks: Mark[];
  height: number;
  /** It is not drawn narrower, but scrolled. */
  width: number;
  /** It is only looked at: it says nothing of its marks, and nothing is pressed. */
  still?: boolean;
  look?: Style;
  /** Marks are chosen together: by drawing from one to another, or with Shift. */
  brush?: Brush;
};

/**
 * A drawing whose marks are pressed by mouse, or gone to by arrows and pressed by Enter; what the one at hand says stands below
 * it. Colours are variables of the page, so that it follows the paper, and is saved on light.
 */
export default function Drawing({ name, option, marks, height, width, still, look = usual, brush }: Props) {
  const box = useRef<HTMLDivElement>(null);
  const chart = useRef<EChartsType>(undefined);
  const at = useRef(-1);
  // Where choosing several began: with the button held, or with Shift.
  const anchor = useRef(-1);
  const held = useRef(false);
  const [said, setSaid] = useState<{ of: Mark[]; text: string }>();
  // Those of what is drawn, which may be of before for a moment.
  const now = useRef<Mark[]>([]);
  const find = (series?: number, data?: number) => now.current.findIndex((m) => m.series === series && m.data === data);
  const go = (to: number) => {
    const drawn = chart.current;
    if (!drawn) return;
    drawn.dispatchAction({ type: 'downplay' });
    at.current = to;
    const m = now.current[to];
    if (!m) return;
    drawn.dispatchAction({ type: 'highlight', seriesIndex: m.series, dataIndex: m.data });
    setSaid({ of: now.current, text: m.says });
  };
  /** Marks what lies between the anchor and a mark; with `show`, that is what the answers pane shows. */
  const reach = (to: number, show: boolean) => {
    const [a, b] = [now.current[anchor.current], now.current[to]];
    const chosen = a && b && a !== b && brush?.(a, b, show);
    if (!chosen) return false;
    at.current = to;
    required(chart.current).dispatchAction({ type: 'downplay' });
    for (const m of now.current)
      if (chosen.has(m))
        required(chart.current).dispatchAction({ type: 'highlight', seriesIndex: m.series, dataIndex: m.data });
    setSaid({ of: now.current, text: chosen.says });
    return true;
  };
  const over = (to: number) => {
    if (held.current && (to < 0 || reach(to, false))) return;
    go(to);
  };
  const pressed = (to: number, shift: boolean) => {
    if (shift && anchor.current >= 0 && reach(to, true)) return;
    anchor.current = to;
    now.current[to]?.press();
  };
  const act = useRef({ find, over, pressed, reach });
  act.current = { find, over, pressed, reach };

  useEffect(() => {
    const drawn = init(required(box.current), undefined, { renderer: 'svg' });
    chart.current = drawn;
    const hit = (p: { seriesIndex?: number; dataIndex?: number }) => act.current.find(p.seriesIndex, p.dataIndex);
    drawn.on('mouseover', (p) => act.current.over(hit(p)));
    drawn.on('click', (p) => act.current.pressed(hit(p), !!(p.event?.event as unknown as MouseEvent)?.shiftKey));
    drawn.on('mousedown', (p) => {
      if ((p.event?.event as unknown as MouseEvent)?.shiftKey) return;
      anchor.current = hit(p);
      held.current = true;
    });
    const release = () => {
      if (held.current && at.current >= 0) act.current.reach(at.current, true);
      held.current = false;
    };
    window.addEventListener('mouseup', release);
    const watch = new ResizeObserver(() => drawn.resize());
    watch.observe(required(box.current));
    return () => {
      window.removeEventListener('mouseup', release);
      watch.disconnect();
      drawn.dispose();
    };
  }, []);
  // biome-ignore lint/correctness/useExhaustiveDependencies: a drawing of another height is laid out anew
  useEffect(() => {
    const drawn = required(chart.current);
    now.current = marks;
    drawn.setOption({ animation: false, textStyle: { fontFamily: faceOf(look) }, ...option }, { notMerge: true });
    drawn.resize();
    at.current = -1;
    anchor.current = -1;
    const svg = required(box.current).querySelector('svg');
    if (svg) {
      svg.dataset.drawing = 'chart';
      svg.setAttribute('viewBox', `0 0 ${svg.getAttribute('width')} ${svg.getAttribute('height')}`);
    }
  }, [option, marks, height, width]);

  const style = { height, minWidth: width, ...variablesOf(look) };
  if (still)
    return (
      <div className="overflow-x-auto">
        <div ref={box} role="img" aria-label={name} data-part="drawing" className="w-full" style={style} />
      </div>
    );
  const step: Record<string, number> = { ArrowDown: 1, ArrowRight: 1, ArrowUp: -1, ArrowLeft: -1 };
  return (
    <Picture name={name}>
      <div className="overflow-x-auto">
        <div
          ref={box}
          role="application"
          aria-label={`${name}: a drawing. Arrows go from mark to mark${brush ? ', with Shift several are chosen' : ''}, Enter shows the answers. The same figures stand in Table.`}
          data-part="drawing"
          data-stop=""
          // biome-ignore lint/a11y/noNoninteractiveTabindex: the one stop of the drawing
          tabIndex={0}
          className="w-full cursor-default"
          style={style}
          onKeyDown={(e) => {
            if (e.key === 'Enter' || e.key === ' ') {
              e.preventDefault();
              e.stopPropagation();
              pressed(at.current, anchor.current >= 0 && anchor.current !== at.current);
            } else if (step[e.key] && !e.altKey && !e.ctrlKey && !e.metaKey) {
              e.preventDefault();
              e.stopPropagation();
              const to = Math.max(0, Math.min(now.current.length - 1, at.current + required(step[e.key])));
              if (!e.shiftKey) {
                anchor.current = -1;
                return go(to);
              }
              if (anchor.current < 0) anchor.current = Math.max(0, at.current);
              if (!reach(to, false)) go(to);
            }
          }}
        />
      </div>
      <div className="h-17 overflow-y-auto" data-part="says" role="status">
        <Caption>
          {said?.of === marks
            ? said.text
            : `Point at a mark, or go to it with the arrows: what it says stands here.${brush ? ' Draw from one mark to another to choose all between them.' : ''}`}
        </Caption>
      </div>
    </Picture>
  );
}
