import {
  AlignmentType,
  BorderStyle,
  ExternalHyperlink,
  Document as File,
  Table as Grid,
  HeadingLevel,
  LevelFormat,
  Packer,
  Paragraph,
  type ParagraphChild,
  ShadingType,
  TableCell,
  TableRow,
  TextRun,
  WidthType,
} from 'docx';
import { hex } from '../drawing/palette';
import type { Style } from '../drawing/style';
import type { Document } from '../lib/api';
import { figuresOf } from './figures';
import { type Item, itemsOf, under } from './items';
import type { Run } from './markdown';
import { type Own, valuesOf } from './series';
import type { Cell, Table } from './table';

const serif = 'Source Serif 4';
const sans = 'Source Sans 3';

/** Marks the place of a chart: a character that texts don't have. */
const mark = '\uE000';
/** How high a chart stands, in points. */
const chartHeight = (own: Own, style: Style) => Math.min(560, 90 + 16 * valuesOf(own, style));

const headings = { 1: HeadingLevel.HEADING_1, 2: HeadingLevel.HEADING_2, 3: HeadingLevel.HEADING_3 } as const;
/** Half points. */
const sizes = { small: 17, table: 17 };

/** Runs of text; a line that breaks in one does so in the file. */
const texts = (runs: Run[], look: { size?: number; color?: string } = {}): ParagraphChild[] =>
  runs.flatMap((r): ParagraphChild[] => {
    const font = r.code ? 'Courier New' : undefined;
    const style = r.link ? 'Hyperlink' : undefined;
    const children = r.text
      .split('\n')
      .map((text, i) => new TextRun({ text, break: i ? 1 : 0, bold: r.bold, italics: r.italic, font, style, ...look }));
    return r.link ? [new ExternalHyperlink({ link: r.link, children })] : children;
  });

/** A report as a text document: its tables are tables, its pictures drawings with their figures in a table below. */
export async function docx(d: Document): Promise<string> {
  const counted: Counted = { lists: 0, charts: 0 };
  const children = [
    new Paragraph({ text: d.name, heading: HeadingLevel.TITLE }),
    new Paragraph({
      children: texts([{ text: under(d) }], { size: sizes.small, color: hex('soft') }),
      spacing: { after: 240 },
    }),
    ...d.sections.flatMap((s) =>
      itemsOf(s, d.style).flatMap((item, i, all) => written(item, counted, d.style, all[i + 1])),
    ),
  ];
  const file = new File({
    title: d.name,
    styles: {
      default: {
        document: { run: { font: serif, size: 22, color: hex('ink') } },
        title: { run: { font: serif, size: 44, bold: true, color: hex('ink') } },
        heading1: {
          run: { font: serif, size: 34, bold: true, color: hex('ink') },
          paragraph: { spacing: { before: 360, after: 120 } },
        },
        heading2: {
          run: { font: serif, size: 28, bold: true, color: hex('ink') },
          paragraph: { spacing: { before: 280, after: 80 } },
        },
        heading3: {
          run: { font: sans, size: 23, bold: true, color: hex('ink') },
          paragraph: { spacing: { before: 200, after: 60 } },
        },
      },
    },
    numbering: {
      config: Array.from({ length: counted.lists }, (_, n) => ({
        reference: `list ${n}`,
        levels: [
          {
            level: 0,
            format: LevelFormat.DECIMAL,
            text: '%1.',
            alignment: AlignmentType.START,
            style: { paragraph: { indent: { left: 500, hanging: 300 } } },
          },
        ],
      })),
    },
    sections: [{ properties: { page: { margin: { top: 1000, bottom: 1000, left: 1000, right: 1000 } } }, children }],
  });
  return Packer.toBase64String(file);
}

type Counted = { lists: number; charts: number };

function written(item: Item, numbered: Counted, style: Style, next?: Item): (Paragraph | Grid)[] {
  switch (item.kind) {
    case 'heading':
      return [new Paragraph({ text: item.text, heading: headings[item.level], keepNext: true })];
    case 'text': {
      const look = {
        ...(item.small ? { size: sizes.small, color: hex('soft') } : {}),
        ...(item.warning ? { color: hex('clay') } : {}),
      };
      // What a figure is of stands on its page.
      const keepNext = next?.kind === 'figure' || next?.kind === 'table';
      return [new Paragraph({ children: texts(item.runs, look), spacing: { after: 120 }, keepNext })];
    }
    case 'list': {
      if (item.ordered) numbered.lists++;
      const how = item.ordered
        ? { numbering: { reference: `list ${numbered.lists - 1}`, level: 0 } }
        : { bullet: { level: 0 } };
      return item.items.map((runs) => new Paragraph({ children: texts(runs), ...how }));
    }
    case 'code':
      return [
        new Paragraph({
          children: texts([{ text: item.text, code: true }], { size: 19 }),
          shading: { type: ShadingType.CLEAR, fill: hex('hair') },
          spacing: { after: 120 },
        }),
      ];
    case 'rule':
      return [new Paragraph({ border: { bottom: { style: BorderStyle.SINGLE, size: 4, color: hex('line') } } })];
    case 'quote':
      return [
        new Paragraph({
          children: texts([{ text: item.text, italic: true }]),
          indent: { left: 400 },
          border: { left: { style: BorderStyle.SINGLE, size: 12, space: 8, color: hex('moss') } },
          spacing: { after: item.who ? 20 : 160 },
          keepNext: !!item.who,
        }),
        ...(item.who
          ? [
              new Paragraph({
                children: texts([{ text: item.who }], { size: sizes.small, color: hex('soft') }),
                indent: { left: 400 },
                spacing: { after: 160 },
              }),
            ]
          : []),
      ];
    case 'finding':
      return [
        new Paragraph({
          children: texts([{ text: `${item.head} `, bold: true }, { text: item.text }]),
          spacing: { before: 120, after: 80 },
        }),
      ];
    case 'figure':
      if (item.own) numbered.charts++;
      return [
        // The server puts the chart here, where one stands that can be changed: this library has none.
        ...(item.own
          ? [
              new Paragraph({
                children: [new TextRun(`${mark}chart ${numbered.charts} ${chartHeight(item.own, style)}${mark}`)],
              }),
            ]
          : []),
        ...(item.tabled ? [] : [grid(figuresOf(item)), new Paragraph({})]),
      ];
    case 'table':
      return [grid(item.table), new Paragraph({})];
  }
}

function grid(table: Table) {
  const edge = { style: BorderStyle.SINGLE, size: 4, color: hex('line') };
  const none = { style: BorderStyle.NONE, size: 0, color: 'auto' };
  const borders = { top: none, left: none, right: none, bottom: edge };
  const figures = table.rows.some((r) => r.cells.slice(1).some((c) => /^[–\d]/.test(c.text)));
  const side = (i: number, text = '0') =>
    i && figures && /^[–\d]/.test(text) ? AlignmentType.RIGHT : AlignmentType.LEFT;
  const line = (text: string, i: number, how: { bold?: boolean; color?: string; indent?: number } = {}) =>
    new Paragraph({
      alignment: side(i),
      indent: how.indent ? { left: how.indent } : undefined,
      children: [new TextRun({ text, bold: how.bold, color: how.color, size: sizes.table, font: sans })],
    });
  const cell = (c: Cell, i: number, r: Table['rows'][number]) =>
    new TableCell({
      borders,
      children: [
        new Paragraph({
          alignment: side(i, c.text),
          indent: i === 0 && r.depth ? { left: 200 * r.depth } : undefined,
          children: [
            new TextRun({ text: c.text, size: sizes.table, font: sans, color: r.sum ? hex('soft') : undefined }),
          ],
        }),
        ...(c.small.length
          ? [
              new Paragraph({
                alignment: side(i, c.text),
                children: [new TextRun({ text: c.small.join(' · '), size: 14, font: sans, color: hex('soft') })],
              }),
            ]
          : []),
      ],
    });
  return new Grid({
    width: { size: 100, type: WidthType.PERCENTAGE },
    rows: [
      ...table.head.map(
        (row) =>
          new TableRow({
            tableHeader: true,
            children: row.map(
              (h, i) =>
                new TableCell({
                  borders,
                  columnSpan: h.span,
                  children: h.words.map((w, k) =>
                    line(w, h.span > 1 ? 0 : i, k ? { color: hex('soft') } : { bold: true }),
                  ),
                }),
            ),
          }),
      ),
      ...table.rows.map((r) => new TableRow({ cantSplit: true, children: r.cells.map((c, i) => cell(c, i, r)) })),
    ],
  });
}
