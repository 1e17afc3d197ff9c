import { CustomChart, LineChart } from 'echarts/charts';
import { GridComponent } from 'echarts/components';
import { type EChartsCoreOption, type EChartsType, init, use } from 'echarts/core';
import { SVGRenderer } from 'echarts/renderers';
import { useEffect, useRef, useState } from 'react';
import { Picture } from '../parts/Picture';
import { Caption } from '../parts/Text';
import type { Mark } from './picture';
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
};

/**
 * A drawing whose marks are pressed by mouse, or gone to by arrows and pressed by Enter; what the one at hand says stands below
 * it. Colours are variables of the page, so that it follows the paper, and is saved on light.
 */
export default function Drawing({ name, option, marks, height, width, still, look = usual }: Props) {
  const box = useRef<HTMLDivElement>(null);
  const chart = useRef<EChartsType>(undefined);
  const at = useRef(-1);
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
  const act = useRef({ find, go });
  act.current = { find, go };

  useEffect(() => {
    const drawn = init(box.current!, undefined, { renderer: 'svg' });
    chart.current = drawn;
    const hit = (p: { seriesIndex?: number; dataIndex?: number }) => act.current.find(p.seriesIndex, p.dataIndex);
    drawn.on('mouseover', (p) => act.current.go(hit(p)));
    drawn.on('click', (p) => now.current[hit(p)]?.press());
    const watch = new ResizeObserver(() => drawn.resize());
    watch.observe(box.current!);
    return () => {
      watch.disconnect();
      drawn.dispose();
    };
  }, []);
  // biome-ignore lint/correctness/useExhaustiveDependencies: a drawing of another height is laid out anew
  useEffect(() => {
    const drawn = chart.current!;
    now.current = marks;
    drawn.setOption({ animation: false, textStyle: { fontFamily: faceOf(look) }, ...option }, { notMerge: true });
    drawn.resize();
    at.current = -1;
    const svg = box.current!.querySelector('svg');
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
          aria-label={`${name}: a drawing. Arrows go from mark to mark, Enter shows the answers. The same figures stand in Table.`}
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
              now.current[at.current]?.press();
            } else if (step[e.key] && !e.altKey && !e.ctrlKey && !e.metaKey) {
              e.preventDefault();
              e.stopPropagation();
              go(Math.max(0, Math.min(now.current.length - 1, at.current + step[e.key]!)));
            }
          }}
        />
      </div>
      <div className="h-17 overflow-y-auto" data-part="says" role="status">
        <Caption>
          {said?.of === marks ? said.text : 'Point at a mark, or go to it with the arrows: what it says stands here.'}
        </Caption>
      </div>
    </Picture>
  );
}
