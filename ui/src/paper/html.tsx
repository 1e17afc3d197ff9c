import { renderToStaticMarkup } from 'react-dom/server.browser';
import type { Style } from '../drawing/style';
import type { Document } from '../lib/api';
import { type Item, itemsOf, under } from './items';
import css from './paper.css?inline';
import { Sheet } from './Sheet';
import { svgOf } from './svg';

/** Each item by itself: an interpreter takes long to make one text of many small pieces. */
const written = (style: Style) => (item: Item) =>
  item.kind === 'figure'
    ? `<div role="img" aria-label="${quoted(item.name)}" class="break-inside-avoid py-1">${svgOf(item.plan, style).text}</div>`
    : renderToStaticMarkup(<Sheet items={[item]} figure={() => null} />);

const quoted = (s: string) => s.replaceAll('&', '&amp;').replaceAll('"', '&quot;').replaceAll('<', '&lt;');

/** A report as one file that needs no other: to be read in a browser, and printed. */
export function html(d: Document) {
  const head = renderToStaticMarkup(
    <>
      <meta charSet="utf-8" />
      <meta name="viewport" content="width=device-width, initial-scale=1" />
      <meta
        httpEquiv="Content-Security-Policy"
        content="default-src 'none'; style-src 'unsafe-inline'; img-src data:; font-src data:"
      />
      <title>{d.name}</title>
    </>,
  );
  const top = renderToStaticMarkup(
    <>
      <h1 className="font-serif text-2xl font-semibold [overflow-wrap:anywhere]">{d.name}</h1>
      <p className="pb-3 text-sm text-soft">{under(d)}</p>
    </>,
  );
  const sections = d.sections.flatMap((s) => [
    '<section>',
    ...itemsOf(s, d.style).map(written(d.style)),
    '</section>\n',
  ]);
  return [
    '<!DOCTYPE html>\n<html lang="en"><head>',
    head,
    '<style>',
    css,
    '</style></head>\n<body><main class="mx-auto max-w-[760px] px-5 py-8 print:max-w-none print:p-0">',
    top,
    '\n',
    ...sections,
    '</main></body></html>\n',
  ].join('');
}
