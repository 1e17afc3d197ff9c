import { chance } from '../drawing/figures';
import type { Plan } from '../drawing/picture';
import type { Style } from '../drawing/style';
import type { Condition, Document, Section } from '../lib/api';
import { count, dated, whoOf } from '../lib/format';
import { say } from '../lib/say';
import { type Made, madeOf } from './figures';
import { markdown, type Run } from './markdown';
import { methodItems } from './method';
import type { Table } from './table';

/** What a report is made of, whatever file it becomes. */
export type Item =
  | { kind: 'heading'; level: 1 | 2 | 3; text: string }
  | { kind: 'text'; runs: Run[]; small?: boolean; warning?: boolean }
  | { kind: 'list'; ordered: boolean; items: Run[][] }
  | { kind: 'code'; text: string }
  | { kind: 'rule' }
  | { kind: 'quote'; text: string; who: string }
  | { kind: 'finding'; head: string; text: string }
  /** tabled: its table stands below it. */
  | { kind: 'figure'; name: string; plan: Plan; table: Table; own: Made['own']; tabled: boolean }
  | { kind: 'table'; name: string; table: Table };

const plain = (text: string): Run[] => [{ text }];

/** The focus of a part, in words. */
const within = (s: Section, focus: Condition[] | null) =>
  focus?.length ? focus.map((c) => say(c, s.categories ?? [])).join(' · ') : 'all answers';

const titled = (s: Section): Item[] => (s.title ? [{ kind: 'heading', level: 2, text: s.title }] : []);

function chartItems(s: Section, style: Style): Item[] {
  const made = madeOf(s, s.drawn!, style);
  const name = s.title || 'Chart';
  const out: Item[] = titled(s);
  out.push({ kind: 'text', small: true, runs: plain(`${s.about} · ${within(s, s.drawn!.focus)}`) });
  if (!made) return out;
  const { plan, table, left, notes, own } = made;
  if (plan) out.push({ kind: 'figure', name, plan, table, own, tabled: !!s.table });
  if (left) out.push({ kind: 'text', small: true, warning: true, runs: plain(left) });
  if (!plan || s.table) out.push({ kind: 'table', name, table });
  out.push({ kind: 'text', small: true, runs: plain(notes.join(' ')) });
  return out;
}

function findingItems(s: Section): Item[] {
  const f = s.found!;
  const out: Item[] = [...titled(s), { kind: 'finding', head: f.path, text: f.said }];
  const p = chance(f.adjusted);
  if (!f.sure)
    out.push({
      kind: 'text',
      warning: true,
      runs: plain(`Corrected for all that was looked at, this difference is not sure any more (${p}).`),
    });
  const of = `${s.about} · ${within(s, s.finding!.focus)} · ${p}. `;
  out.push({ kind: 'text', small: true, runs: plain(of + (f.notes ?? []).join(' ')) });
  return out;
}

/** What is told of an answer, with … where something is left out. */
export const told = (q: { text: string; before: boolean; after: boolean }) =>
  `${q.before ? '… ' : ''}${q.text}${q.after ? ' …' : ''}`;

function quoteItems(s: Section): Item[] {
  const out: Item[] = titled(s);
  for (const q of s.said ?? [])
    if (!q.gone) out.push({ kind: 'quote', text: told(q), who: s.bare ? '' : whoOf(q.who) });
  const gone = (s.said ?? []).filter((q) => q.gone).length;
  if (gone)
    out.push({
      kind: 'text',
      warning: true,
      runs: plain(`${count(gone)} of the quotes are of respondents who are in the data no more.`),
    });
  return out;
}

/** What a part of a report says. */
export function itemsOf(s: Section, style: Style): Item[] {
  if (s.problem)
    return [...titled(s), { kind: 'text', warning: true, runs: plain(`This part can’t be shown: ${s.problem}`) }];
  const note = s.kind === 'text' || !s.note ? [] : markdown(s.note);
  switch (s.kind) {
    case 'text':
      return markdown(s.text ?? '');
    case 'chart': {
      const items = chartItems(s, style);
      return [...items.slice(0, s.title ? 1 : 0), ...note, ...items.slice(s.title ? 1 : 0)];
    }
    case 'finding':
      return [...findingItems(s), ...note];
    case 'quotes':
      return [...quoteItems(s), ...note];
    case 'method':
      return methodItems(s);
  }
}

/** A moment, as reports say it: in universal time, so that it is the same wherever the file was made. */
export const when = (at: string) => `${dated(at.slice(0, 10))}, ${at.slice(11, 16)} UTC`;

/** What stands under the name of a report. */
export const under = (d: Document) =>
  `${d.study} · ${d.frozen ? `as frozen: ${d.frozen}` : 'figures as of'} ${when(d.at)}`;
