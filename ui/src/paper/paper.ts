import { required } from '../lib/required';
import './machine';
import type { Document } from '../lib/api';
import { docx } from './docx';
import { html } from './html';
import { charts, pptx } from './pptx';
import { toMarkdown } from './toMarkdown';

const formats: Record<string, (d: Document) => Promise<string>> = {
  html: async (d) => html(d),
  markdown: async (d) => toMarkdown(d),
  pptx,
  docx,
  charts,
};

/** Writes a report as a file: a text, or bytes in base64. It is what the server calls. */
(globalThis as unknown as { write: unknown }).write = (format: string, given: string) =>
  required(formats[format])(JSON.parse(given) as Document).catch((e: Error) =>
    Promise.reject(`${e.message}\n${e.stack}`),
  );
