import { type ReactNode, useState } from 'react';
import { Link } from 'react-router';
import type { Block, BlockOf, Design, Quote, Section, SectionOf } from '../lib/api';
import { chartAddress, formsOf } from '../lib/charts';
import { whoOf } from '../lib/format';
import { itemAt } from '../lib/required';
import { told } from '../paper/items';
import { markdown } from '../paper/markdown';
import { Sheet } from '../paper/Sheet';
import { Button } from '../parts/Button';
import { Checkbox } from '../parts/Checkbox';
import { optionsOf, Select } from '../parts/Select';
import { Labelled, TextArea, TextField } from '../parts/Text';
import { alike, blockOf } from './block';

type Props = { section: Section; close: () => void; keep: (b: Block, was: Block) => Promise<boolean> };

/** Changes a part of a report in its place. */
export function Change({ section, close, keep }: Props) {
  const [was] = useState(() => blockOf(section));
  const [block, setBlock] = useState(was);
  const done = async () => {
    if (alike(block, was) || (await keep(block, was))) close();
  };
  return (
    <form
      data-part="change"
      className="grid gap-2.5 border-l-2 border-moss py-1 pl-3"
      onSubmit={(e) => {
        e.preventDefault();
        done();
      }}
      onKeyDown={(e) => {
        if (e.key === 'Escape') {
          e.stopPropagation();
          close();
        } else if (e.key === 'Enter' && (e.ctrlKey || e.metaKey)) {
          e.preventDefault();
          done();
        }
      }}
    >
      {block.kind === 'text' && <Written text={block.text ?? ''} change={(text) => setBlock({ ...block, text })} />}
      {block.kind !== 'text' && (
        <Labelled name="title">
          <TextField
            wide
            value={block.title ?? ''}
            maxLength={300}
            onChange={(e) => setBlock({ ...block, title: e.target.value })}
          />
        </Labelled>
      )}
      {block.kind === 'quotes' && section.kind === 'quotes' && (
        <Quotes section={section} block={block} change={setBlock} />
      )}
      {block.kind === 'chart' && <Drawing block={block} change={setBlock} />}
      {block.kind !== 'text' && block.kind !== 'method' && (
        <Labelled name="note, in Markdown">
          <TextArea
            rows={2}
            value={block.note ?? ''}
            maxLength={5000}
            onChange={(e) => setBlock({ ...block, note: e.target.value })}
          />
        </Labelled>
      )}
      <p className="flex items-baseline gap-3">
        <Button look="go" type="submit">
          Keep it
        </Button>
        <Button look="plain" onClick={close}>
          Cancel
        </Button>
        <span className="text-sm text-soft">Ctrl Enter keeps, Esc cancels</span>
      </p>
    </form>
  );
}

/** Text with how it will read below it. */
function Written({ text, change }: { text: string; change: (to: string) => void }) {
  return (
    <>
      <Labelled name="text, in Markdown: # heading, **bold**, *slanted*, - list, [words](https://…)">
        <TextArea
          rows={Math.min(18, Math.max(4, text.split('\n').length + 1))}
          className="font-mono"
          value={text}
          maxLength={100_000}
          autoFocus
          onChange={(e) => change(e.target.value)}
        />
      </Labelled>
      {text.trim() && (
        <div aria-label="How it reads" role="group" className="border-t border-hair pt-1">
          <Sheet items={markdown(text)} figure={nothing} />
        </div>
      )}
    </>
  );
}
const nothing = (): ReactNode => null;

type DrawingProps = { block: BlockOf<'chart'>; change: (to: Block) => void };

/** How a chart is drawn, and whether its table stands below it. */
function Drawing({ block, change }: DrawingProps) {
  const { drawn } = block;
  const forms = formsOf(drawn);
  return (
    <div className="flex flex-wrap items-end gap-x-4 gap-y-2">
      <Labelled name="drawn as">
        <Select
          label="drawn as"
          value={drawn.as ?? itemAt(Object.keys(forms), 0)}
          options={optionsOf(forms)}
          change={(as) => change({ ...block, drawn: { ...drawn, as: as as Design['as'] } })}
        />
      </Labelled>
      {drawn.as !== 'table' && (
        <label className="pb-1">
          <Checkbox checked={!!block.table} change={(table) => change({ ...block, table })} /> with its table
        </label>
      )}
      <Link className="pb-1 text-sm underline" to={chartAddress(block.question, drawn, block.title, block.note)}>
        open it in Chart
      </Link>
    </div>
  );
}

type QuotesProps = { section: SectionOf<'quotes'>; block: BlockOf<'quotes'>; change: (to: Block) => void };

/** Quotes: cut to what is selected, told whole again, moved and taken out. */
function Quotes({ section, block, change: keep }: QuotesProps) {
  const put = (to: Partial<BlockOf<'quotes'>>) => keep({ ...block, ...to });
  const said = new Map(section.block.quotes.map((q, i) => [q.respondent, section.said[i]]));
  const { quotes } = block;
  const change = (i: number, to: Quote | undefined) =>
    put({ quotes: quotes.flatMap((q, j) => (j === i ? (to ? [to] : []) : [q])) });
  const up = (i: number) => {
    const next = [...quotes];
    next.splice(i - 1, 0, ...next.splice(i, 1));
    put({ quotes: next });
  };
  return (
    <>
      <ol aria-label="Quotes" className="grid gap-2">
        {quotes.map((q, i) => {
          const s = said.get(q.respondent);
          if (!s || s.gone) return null;
          return (
            <li key={q.respondent} data-part="quote" className="border-t border-hair pt-1.5">
              <Cutting quote={q} whole={s.whole} of={s.of} change={(to) => change(i, to)} />
              <p className="flex flex-wrap gap-x-3 text-sm text-soft">
                <span>{whoOf(s.who)}</span>
                {i > 0 && (
                  <Button look="plain" onClick={() => up(i)}>
                    move up
                  </Button>
                )}
                <Button look="plain" onClick={() => change(i, undefined)}>
                  take out
                </Button>
              </p>
            </li>
          );
        })}
      </ol>
      <label>
        <Checkbox checked={!!block.bare} change={(bare) => put({ bare })} /> without who said it
      </label>
    </>
  );
}

type CuttingProps = { quote: Quote; whole: string; of: string; change: (to: Quote) => void };

/** A quote in its whole text: what is left out is struck; selecting words, by mouse or keys, and a press cut it to them. */
function Cutting({ quote, whole, of, change }: CuttingProps) {
  const letters = [...whole];
  const known = quote.of === of;
  const from = known ? (quote.from ?? 0) : 0;
  const to = (known && quote.to) || letters.length;
  const [selected, setSelected] = useState<{ from: number; to: number }>();
  const read = (t: HTMLTextAreaElement) => {
    // A field counts in units of UTF-16, a quote in characters.
    const at = (n: number) => [...whole.slice(0, n)].length;
    setSelected(t.selectionEnd > t.selectionStart ? { from: at(t.selectionStart), to: at(t.selectionEnd) } : undefined);
  };
  return (
    <div className="grid gap-1">
      <TextArea
        aria-label="The whole answer: select what to quote"
        readOnly
        rows={Math.min(8, 1 + Math.ceil(whole.length / 85))}
        className="font-serif text-lg"
        value={whole}
        onSelect={(e) => read(e.currentTarget)}
      />
      <p className="flex flex-wrap items-baseline gap-x-3 text-sm">
        <span className="min-w-0 text-soft [overflow-wrap:anywhere]">
          reads: {told({ text: letters.slice(from, to).join('').trim(), before: from > 0, after: to < letters.length })}
        </span>
        <Button
          look="plain"
          disabled={!selected}
          onClick={() => selected && change({ respondent: quote.respondent, of, from: selected.from, to: selected.to })}
        >
          quote what is selected
        </Button>
        {(from > 0 || to < letters.length) && (
          <Button look="plain" onClick={() => change({ respondent: quote.respondent })}>
            quote all of it
          </Button>
        )}
      </p>
    </div>
  );
}
