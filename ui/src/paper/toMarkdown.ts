import type { Document } from '../lib/api';
import { itemAt, required } from '../lib/required';
import { figuresOf } from './figures';
import { type Item, itemsOf, under } from './items';
import type { Run } from './markdown';
import type { Table } from './table';

/** A text so that Markdown reads it as it is. */
const literal = (s: string) => s.replace(/[\\`*_[\]<>#|~]/g, '\\$&').replace(/^(\s*)([-+]|\d+[.)])(?=\s)/gm, '$1\\$2');

function run(r: Run) {
  if (r.code) return `\`${r.text}\``;
  // Marks stand at the words, not at the white space around them.
  const [, before, words, after] = required(/^(\s*)([\s\S]*?)(\s*)$/.exec(r.text));
  if (!words) return r.text;
  const mark = `${r.bold ? '**' : ''}${r.italic ? '*' : ''}`;
  const said = `${mark}${literal(words)}${[...mark].reverse().join('')}`;
  return `${before}${r.link ? `[${said}](${r.link.replace(/[()\s]/g, encodeURIComponent)})` : said}${after}`;
}

const runs = (list: Run[]) => list.map(run).join('').replaceAll('\n', '  \n');

function table(t: Table) {
  const cell = (words: string[]) => words.map(literal).join(' ').replaceAll('\n', ' ');
  const head = required(t.head.at(-1)).flatMap((h) => [cell(h.words), ...Array(h.span - 1).fill('')]);
  const over =
    t.head.length > 1 ? [itemAt(t.head, 0).flatMap((h) => [cell(h.words), ...Array(h.span - 1).fill('')])] : [];
  const row = (cells: string[]) => `| ${cells.join(' | ')} |`;
  const body = t.rows.map((r) =>
    row(
      r.cells.map(
        (c, i) =>
          `${i === 0 ? '&nbsp;'.repeat(3 * r.depth) : ''}${cell([c.text, ...(c.small.length ? [`(${c.small.join(' · ')})`] : [])])}`,
      ),
    ),
  );
  const names = head.map((h, i) => [over[0]?.[i], h].filter(Boolean).join(': '));
  return [row(names), row(names.map((_, i) => (i ? '---:' : '---'))), ...body].join('\n');
}

function written(item: Item): string {
  switch (item.kind) {
    case 'heading':
      return `${'#'.repeat(item.level + 1)} ${literal(item.text)}`;
    case 'text':
      return item.warning ? `*${literal(item.runs.map((r) => r.text).join(''))}*` : runs(item.runs);
    case 'list':
      return item.items.map((r, i) => `${item.ordered ? `${i + 1}.` : '-'} ${runs(r)}`).join('\n');
    case 'code':
      return `\`\`\`\n${item.text}\n\`\`\``;
    case 'rule':
      return '---';
    case 'quote':
      return `${literal(item.text).replace(/^/gm, '> ')}${item.who ? `\n>\n> — ${literal(item.who)}` : ''}`;
    case 'finding':
      return `**${literal(item.head)}** ${literal(item.text)}`;
    case 'figure':
      // Markdown has no pictures of its own.
      return item.tabled ? '' : table(figuresOf(item));
    case 'table':
      return table(item.table);
  }
}

/** A report in Markdown, with tables where it has pictures. */
export const toMarkdown = (d: Document) =>
  `${[`# ${literal(d.name)}`, literal(under(d)), ...d.sections.flatMap((s) => itemsOf(s, d.style).map(written).filter(Boolean))].join('\n\n')}\n`;
