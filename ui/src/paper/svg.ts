import { CustomChart, LineChart } from 'echarts/charts';
import { GridComponent } from 'echarts/components';
import { init, use } from 'echarts/core';
import { SVGRenderer } from 'echarts/renderers';
import { coloured, coloursOf } from '../drawing/palette';
import type { Plan } from '../drawing/picture';
import { faceOf, type Style } from '../drawing/style';

use([CustomChart, LineChart, GridComponent, SVGRenderer]);

/** The width of a page's text, in pixels of 1/96 inch. */
export const pageWidth = 680;

/** A picture as SVG, drawn without a page. */
export function svgOf(plan: Plan, style: Style, width = pageWidth) {
  const wide = Math.max(width, plan.width);
  const drawn = init(null, undefined, { renderer: 'svg', ssr: true, width: wide, height: plan.height });
  drawn.setOption({ animation: false, textStyle: { fontFamily: faceOf(style) }, ...plan.option });
  const text = drawn.renderToSVGString();
  drawn.dispose();
  return { text: coloured(still(text), coloursOf(style)), width: wide, height: plan.height };
}

/** A drawing without what only a page with a pointer needs. */
const still = (svg: string) =>
  svg.replace(/<style\s*>[\s\S]*?<\/style>/g, '').replace(/ (ecmeta_\w+|class|pointer-events)="[^"]*"/g, '');
