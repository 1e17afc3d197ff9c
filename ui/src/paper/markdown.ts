import { type MarkdownToJSX, parser, RuleType } from 'markdown-to-jsx/react';
import type { Item } from './items';

/** A stretch of text of one look. */
export type Run = { text: string; bold?: boolean; italic?: boolean; code?: boolean; link?: string };

type Node = MarkdownToJSX.ASTNode;

/** Links that lead out of a file; any other is told as text. */
const leads = (target: string | null) => (target && /^(https?:|mailto:)/i.test(target) ? target : undefined);

function runs(nodes: Node[], look: Omit<Run, 'text'> = {}): Run[] {
  return nodes.flatMap((n): Run[] => {
    switch (n.type) {
      case RuleType.text:
        return [{ ...look, text: n.text.replace(/\s*\n\s*/g, ' ') }]; // a line may end anywhere in a paragraph
      case RuleType.textFormatted: {
        const more = n.tag === 'strong' ? { bold: true } : n.tag === 'em' ? { italic: true } : {};
        return runs(n.children, { ...look, ...more });
      }
      case RuleType.codeInline:
        return [{ ...look, code: true, text: n.text }];
      case RuleType.link:
        return runs(n.children, { ...look, link: leads(n.target) });
      case RuleType.breakLine:
        return [{ ...look, text: '\n' }];
      case RuleType.image:
        return [{ ...look, text: n.alt ?? '' }];
      case RuleType.paragraph:
        return runs(n.children, look);
    }
    return 'text' in n && typeof n.text === 'string' ? [{ ...look, text: n.text }] : [];
  });
}

const words = (nodes: Node[]) =>
  runs(nodes)
    .map((r) => r.text)
    .join('');

const blocks: number[] = [
  RuleType.orderedList,
  RuleType.unorderedList,
  RuleType.codeBlock,
  RuleType.blockQuote,
  RuleType.heading,
];

/** The text of a list's line, and what stands under it by itself: lists in lists follow it, a level out. */
function line(nodes: Node[]): { runs: Run[]; below: Node[] } {
  const inside = nodes.filter((n) => !blocks.includes(n.type));
  return { runs: runs(inside), below: nodes.filter((n) => blocks.includes(n.type)) };
}

function items(nodes: Node[]): Item[] {
  return nodes.flatMap((n): Item[] => {
    switch (n.type) {
      case RuleType.heading:
        return [{ kind: 'heading', level: Math.min(3, n.level) as 1 | 2 | 3, text: words(n.children) }];
      case RuleType.orderedList:
      case RuleType.unorderedList: {
        const lines = n.items.map(line);
        const list: Item = { kind: 'list', ordered: n.type === RuleType.orderedList, items: lines.map((l) => l.runs) };
        return [list, ...items(lines.flatMap((l) => l.below))];
      }
      case RuleType.blockQuote:
        return [{ kind: 'quote', text: n.children.map((c) => words([c])).join('\n'), who: '' }];
      case RuleType.codeBlock:
        return [{ kind: 'code', text: n.text }];
      case RuleType.breakThematic:
        return [{ kind: 'rule' }];
      case RuleType.table: {
        const row = (cells: Node[][]) => cells.map((c) => ({ text: words(c), small: [] }));
        const head = n.header.map((c) => ({ words: [words(c)], span: 1 }));
        return [
          {
            kind: 'table',
            name: '',
            table: { head: [head], rows: n.cells.map((c) => ({ cells: row(c), depth: 0, sum: false })) },
          },
        ];
      }
      case RuleType.refCollection:
      case RuleType.ref:
      case RuleType.frontmatter:
        return [];
    }
    const said = runs([n]);
    return said.some((r) => r.text.trim()) ? [{ kind: 'text', runs: said }] : [];
  });
}

/** A text in Markdown as what a report is made of. Tags in it are text. */
export const markdown = (text: string): Item[] => items(parser(text, { disableParsingRawHTML: true }));
