import Render from 'markdown-to-jsx/react';
import { itemAt } from '../lib/required';

const look = {
  h1: { component: 'h2', props: { className: 'pt-3 pb-1 font-serif text-xl font-semibold' } },
  h2: { component: 'h3', props: { className: 'pt-3.5 pb-1 font-serif text-lg font-semibold' } },
  h3: { component: 'h4', props: { className: 'pt-2.5 pb-0.5 font-semibold' } },
  p: { props: { className: 'pb-2' } },
  ul: { props: { className: 'list-disc pb-2 pl-5' } },
  ol: { props: { className: 'list-decimal pb-2 pl-5' } },
  li: { props: { className: 'pb-0.5' } },
  code: { props: { className: 'rounded-sm bg-hair px-0.75 font-mono text-sm' } },
  pre: { props: { className: 'mb-2 overflow-x-auto rounded-sm bg-hair p-2' } },
  table: { props: { className: 'mb-2 border-collapse' } },
  th: { props: { className: 'border-b pr-4 text-left align-baseline text-sm font-normal text-soft' } },
  td: { props: { className: 'border-b border-hair py-0.75 pr-4 align-baseline' } },
  // Pages of docs/ link to one another; here they would lead nowhere.
  a: { component: 'span' },
  img: { component: () => null },
} as const;

/** A page of docs/, as it is read in the application. */
export const Markdown = ({ text }: { text: string }) => (
  <div className="max-w-[75ch]">
    <Render options={{ overrides: look as never, disableParsingRawHTML: true }}>{text}</Render>
  </div>
);

/** The part of a page under one of its headings. */
export function section(text: string, heading: string) {
  const [, after = ''] = text.split(new RegExp(`^## ${heading}\\s*$`, 'm'));
  return itemAt(after.split(/^## /m), 0).trim();
}
