import { chance } from '../drawing/figures';
import type { Plan } from '../drawing/picture';
import type { Style } from '../drawing/style';
import type { Condition, Document, Section, SectionOf } from '../lib/api';
import { say } from '../lib/conditions';
import { count, dated, whoOf } from '../lib/format';
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
const within = (s: Section, focus: Condition[]) =>
  focus.length ? focus.map((c) => say(c, s.categories)).join(' · ') : 'all answers';

const titled = (title = ''): Item[] => (title ? [{ kind: 'heading', level: 2, text: title }] : []);
const note = ({ note }: { note?: string }): Item[] => (note ? markdown(note) : []);

/** What is told of an answer, with … where something is left out. */
export const told = (q: { text: string; before: boolean; after: boolean }) =>
  `${q.before ? '… ' : ''}${q.text}${q.after ? ' …' : ''}`;

/** What each kind of part of a report says. */
const items: { [K in Section['kind']]: (s: SectionOf<K>, style: Style) => Item[] } = {
  text: ({ block }) => markdown(block.text ?? ''),
  chart: (s, style) => {
    const { block, figures } = s;
    const made = figures && madeOf(figures, block.drawn, style);
    const name = block.title || 'Chart';
    const out: Item[] = [...titled(block.title), ...note(block)];
    out.push({ kind: 'text', small: true, runs: plain(`${s.about} · ${within(s, block.drawn.focus)}`) });
    if (!made) return out;
    const { plan, table, left, notes, own } = made;
    if (plan) out.push({ kind: 'figure', name, plan, table, own, tabled: !!block.table });
    if (left) out.push({ kind: 'text', small: true, warning: true, runs: plain(left) });
    if (!plan || block.table) out.push({ kind: 'table', name, table });
    out.push({ kind: 'text', small: true, runs: plain(notes.join(' ')) });
    return out;
  },
  finding: (s) => {
    const { block, found: f } = s;
    if (!f) return [...titled(block.title), ...note(block)];
    const out: Item[] = [...titled(block.title), { kind: 'finding', head: f.path, text: f.said }];
    const p = chance(f.adjusted);
    if (!f.sure)
      out.push({
        kind: 'text',
        warning: true,
        runs: plain(`Corrected for all that was looked at, this difference is not sure any more (${p}).`),
      });
    const of = `${s.about} · ${within(s, block.finding.focus)} · ${p}. `;
    out.push({ kind: 'text', small: true, runs: plain(of + f.notes.join(' ')) });
    return [...out, ...note(block)];
  },
  quotes: ({ block, said }) => {
    const out: Item[] = titled(block.title);
    for (const q of said) if (!q.gone) out.push({ kind: 'quote', text: told(q), who: block.bare ? '' : whoOf(q.who) });
    const gone = said.filter((q) => q.gone).length;
    if (gone)
      out.push({
        kind: 'text',
        warning: true,
        runs: plain(`${count(gone)} of the quotes are of respondents who are in the data no more.`),
      });
    return [...out, ...note(block)];
  },
  method: methodItems,
};

/** The title of a part, where it has one. */
export const titleOf = (s: Section) => ('title' in s.block ? (s.block.title ?? '') : '');

/** What a part of a report says. */
export const itemsOf = (s: Section, style: Style): Item[] =>
  s.problem
    ? [...titled(titleOf(s)), { kind: 'text', warning: true, runs: plain(`This part can’t be shown: ${s.problem}`) }]
    : (items[s.kind] as (s: Section, style: Style) => Item[])(s, style);

/** A moment, as reports say it: in universal time, so that it is the same wherever the file was made. */
export const when = (at: string) => `${dated(at.slice(0, 10))}, ${at.slice(11, 16)} UTC`;

/** What stands under the name of a report. */
export const under = (d: Document) =>
  `${d.study} · ${d.frozen ? `as frozen: ${d.frozen}` : 'figures as of'} ${when(d.at)}`;
