import Pptx from 'pptxgenjs';
import { coloursOf, hex } from '../drawing/palette';
import type { Style } from '../drawing/style';
import type { Document, Section } from '../lib/api';
import { required } from '../lib/required';
import { figuresOf } from './figures';
import { type Item, itemsOf, under } from './items';
import { type Own, seriesOf, turned } from './series';
import type { Table } from './table';

const serif = 'Source Serif 4';
const sans = 'Source Sans 3';
const left = 0.5;
const width = 12.33;

/** Rows of a table that stand on one slide. */
const rowsPerSlide = 18;
/** Letters that stand on one slide of text. */
const lettersPerSlide = 900;

/** A report as slides whose charts and tables are the program's own: their figures can be looked up and changed there. */
export async function pptx(d: Document): Promise<string> {
  const file = new Pptx();
  file.layout = 'LAYOUT_WIDE';
  file.title = d.name;
  file.theme = { headFontFace: serif, bodyFontFace: sans };
  const first = file.addSlide();
  first.addText(d.name, {
    x: left,
    y: 2.4,
    w: width,
    h: 1.4,
    fontFace: serif,
    fontSize: 36,
    bold: true,
    color: hex('ink'),
    valign: 'bottom',
  });
  first.addText(under(d), { x: left, y: 3.9, w: width, h: 0.5, fontFace: sans, fontSize: 14, color: hex('soft') });
  for (const s of d.sections) slides(file, s, d.style);
  return (await file.write({ outputType: 'base64' })) as string;
}

type Slide = ReturnType<Pptx['addSlide']>;

function begun(file: Pptx, title: string): Slide {
  const slide = file.addSlide();
  if (title)
    slide.addText(title, {
      x: left,
      y: 0.3,
      w: width,
      h: 0.8,
      fontFace: serif,
      fontSize: 24,
      bold: true,
      color: hex('ink'),
      fit: 'shrink',
    });
  return slide;
}

/** Where text stands on a slide of its own, and how. */
const body: Pptx.TextPropsOptions = {
  x: left,
  y: 1.2,
  w: width,
  h: 5.3,
  fontFace: sans,
  fontSize: 16,
  color: hex('ink'),
  valign: 'top',
  fit: 'shrink',
};

const caption = (slide: Slide, words: string) =>
  slide.addText(words, {
    x: left,
    y: 6.55,
    w: width,
    h: 0.85,
    fontFace: sans,
    fontSize: 9,
    color: hex('soft'),
    valign: 'top',
    fit: 'shrink',
  });

/** The slides of a part: figures and tables on slides of their own, text together under its headings. */
function slides(file: Pptx, s: Section, style: Style) {
  const items = itemsOf(s, style);
  const notes = items
    .flatMap((i) => (i.kind === 'text' && i.small ? [i.runs.map((r) => r.text).join('')] : []))
    .join(' ');
  let title = '';
  let words: Pptx.TextProps[] = [];
  let length = 0;
  const flush = () => {
    if (!words.length) return;
    const slide = begun(file, title);
    slide.addText(words, body);
    if (notes && s.kind !== 'text' && s.kind !== 'method') caption(slide, notes);
    words = [];
    length = 0;
  };
  for (const item of items) {
    if (item.kind === 'heading' && item.level < 3) {
      flush();
      title = item.text;
    } else if (item.kind === 'figure') {
      // A few words before a picture stand with it.
      const short = length <= 400 ? words.splice(0) : [];
      if (words.length) flush();
      length = 0;
      figure(file, title || item.name, short, item, style, notes);
    } else if (item.kind === 'table') {
      flush();
      tables(file, title || item.name, item.table, s.kind === 'chart' ? notes : '');
    } else if (!(item.kind === 'text' && item.small)) {
      const said = paragraphs(item);
      const more = said.reduce((sum, p) => sum + (p.text?.length ?? 0), 0);
      if (length && length + more > lettersPerSlide) flush();
      words.push(...said);
      length += more;
    }
  }
  flush();
}

function paragraphs(item: Item): Pptx.TextProps[] {
  switch (item.kind) {
    case 'heading':
      return [{ text: item.text, options: { bold: true, breakLine: true, fontFace: serif } }];
    case 'text':
      return ended(item.runs, item.warning ? { color: hex('clay') } : {});
    case 'list':
      return item.items.flatMap((runs) => {
        const [first, ...more] = ended(runs, {});
        const bullet = item.ordered ? ({ type: 'number' } as const) : true;
        return [{ ...first, options: { ...required(first).options, bullet } }, ...more];
      });
    case 'code':
      return [{ text: item.text, options: { fontFace: 'Courier New', breakLine: true } }];
    case 'quote':
      return [
        { text: item.text, options: { italic: true, fontFace: serif, breakLine: true } },
        ...(item.who
          ? [{ text: `— ${item.who}`, options: { fontSize: 11, color: hex('soft'), breakLine: true } }]
          : []),
        { text: ' ', options: { fontSize: 8, breakLine: true } },
      ];
    case 'finding':
      return [
        { text: `${item.head} `, options: { bold: true, fontFace: serif, fontSize: 20 } },
        { text: item.text, options: { fontFace: serif, fontSize: 20, breakLine: true } },
      ];
  }
  return [];
}

/** Runs of one paragraph. */
function ended(runs: (Item & { kind: 'text' })['runs'], look: Pptx.TextPropsOptions): Pptx.TextProps[] {
  return runs.map((r, i) => ({
    text: r.text,
    options: {
      ...look,
      ...(r.bold ? { bold: true } : {}),
      ...(r.italic ? { italic: true } : {}),
      ...(r.code ? { fontFace: 'Courier New' } : {}),
      ...(r.link ? { hyperlink: { url: r.link } } : {}),
      ...(i === runs.length - 1 ? { breakLine: true } : {}),
    },
  }));
}

/** A chart of the program's own. */
function drawn(
  slide: Slide,
  name: string,
  own: Own,
  style: Style,
  place: { x: number; y: number; w: number; h: number },
) {
  const { series } = seriesOf(own, style);
  slide.addChart(turned(own) ? 'line' : 'bar', series, {
    ...place,
    barDir: 'bar',
    barGapWidthPct: 40,
    // From the first at the top; the library's types know one of its two values.
    catAxisOrientation: (turned(own) ? 'minMax' : 'maxMin') as 'minMax',
    catAxisLabelFontFace: sans,
    catAxisLabelFontSize: 11,
    valAxisLabelFontFace: sans,
    valAxisLabelFontSize: 10,
    valAxisLabelFormatCode: '0 %',
    valAxisMinVal: 0,
    valGridLine: { color: hex('line'), size: 0.5 },
    chartColors: series.map((_, i) => hex(`c${i % 8}`, coloursOf(style))),
    showLegend: series.length > 1,
    legendPos: 't',
    legendFontFace: sans,
    legendFontSize: 11,
    showValue: style.figures && !turned(own) && series.length * (series[0]?.values.length ?? 0) <= 48,
    dataLabelFormatCode: `0${style.decimals ? `.${'0'.repeat(style.decimals)}` : ''} %`,
    dataLabelFontSize: 9,
    dataLabelFontFace: sans,
    altText: name,
  });
}

/** The pictures of a report as charts of slides, one each: other files take them from there. */
export async function charts(d: Document): Promise<string> {
  const file = new Pptx();
  for (const s of d.sections)
    for (const item of itemsOf(s, d.style))
      if (item.kind === 'figure' && item.own)
        drawn(file.addSlide(), item.name, item.own, d.style, { x: 0, y: 0, w: 6, h: 4 });
  return (await file.write({ outputType: 'base64' })) as string;
}

/** Straw, the deeper the greater a share is: 0 to 1. */
const shade = (part: number) =>
  [0, 2, 4]
    .map((k) => {
      const at = (name: string) => Number.parseInt(hex(name).slice(k, k + 2), 16);
      return Math.round(at('sheet') + (at('straw') - at('sheet')) * Math.min(1, part))
        .toString(16)
        .padStart(2, '0');
    })
    .join('')
    .toUpperCase();

/** A slide with a picture, and its table on further ones where it can't show all. What slides can't draw is a table. */
function figure(
  file: Pptx,
  title: string,
  words: Pptx.TextProps[],
  item: Item & { kind: 'figure' },
  style: Style,
  notes: string,
) {
  const { own } = item;
  const { left: out } = own ? seriesOf(own, style) : { left: '' };
  const drawable = own && own.as !== 'heat';
  if (drawable) {
    const slide = begun(file, title);
    const y = words.length ? 1.75 : 1.15;
    if (words.length)
      slide.addText(words, {
        x: left,
        y: 1.1,
        w: width,
        h: 0.65,
        fontFace: sans,
        fontSize: 14,
        color: hex('ink'),
        valign: 'top',
        fit: 'shrink',
      });
    drawn(slide, item.name, own, style, { x: left, y, w: width, h: 6.45 - y });
    caption(slide, `${out} ${notes}`.trim());
  } else if (words.length) {
    const slide = begun(file, title);
    slide.addText(words, body);
  }
  // A table of its own follows where one was asked for.
  if (drawable ? out : own || !item.tabled)
    tables(file, title, figuresOf(item, 'letters,marks'), notes, own?.as === 'heat');
}

function tables(file: Pptx, title: string, table: Table, notes: string, heat = false) {
  const cell = (text: string, options: Pptx.TableCellProps = {}): Pptx.TableCell => ({
    text,
    options: { fontFace: sans, ...options },
  });
  const columns = table.rows[0]?.cells.length ?? 1;
  const fontSize = columns > 10 ? 7 : columns > 6 ? 9 : 11;
  const wordy = !table.rows.some((r) => r.cells.slice(1).some((c) => /^[–\d]/.test(c.text))) || columns <= 3;
  const head = table.head.map((line) =>
    line.map((h, i) =>
      cell(h.words.join('\n'), {
        bold: true,
        colspan: h.span,
        align: i && !wordy ? 'right' : 'left',
        valign: 'bottom',
        fontSize,
      }),
    ),
  );
  const tall = table.rows.some((r) => r.cells.some((c) => c.small.length));
  const share = (text: string) => Number.parseFloat(text) || 0;
  const most = Math.max(1, ...table.rows.flatMap((r) => (r.sum ? [] : r.cells.slice(1).map((c) => share(c.text)))));
  const atMost = tall ? Math.ceil(rowsPerSlide / 2) : rowsPerSlide;
  const step = Math.max(1, Math.ceil(table.rows.length / Math.ceil(table.rows.length / atMost)));
  for (let from = 0; from < Math.max(1, table.rows.length); from += step) {
    const slide = begun(file, from ? `${title} (continued)` : title);
    const rows = table.rows.slice(from, from + step).map((r) =>
      r.cells.map((c, i) =>
        cell([c.text, ...c.small].join('\n'), {
          fill: heat && i && !r.sum ? { color: shade(share(c.text) / most) } : undefined,
          align: i && !wordy ? 'right' : 'left',
          color: hex(r.sum ? 'soft' : 'ink'),
          fontSize,
          margin: i ? undefined : [0.03, 0.05, 0.03, 0.05 + 0.12 * r.depth],
        }),
      ),
    );
    const first = Math.min(3.4, width / 2.5);
    const rest = columns > 1 ? (width - first) / (columns - 1) : 0;
    slide.addTable([...head, ...rows], {
      x: left,
      y: 1.15,
      w: width,
      colW: [first, ...Array(columns - 1).fill(rest)],
      border: { type: 'solid', pt: 0.5, color: hex('line') },
      fontSize,
    });
    if (notes) caption(slide, notes);
  }
}
