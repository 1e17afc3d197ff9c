import { acceptCompletion, autocompletion, type CompletionContext, completionKeymap } from '@codemirror/autocomplete';
import { defaultKeymap, history, historyKeymap } from '@codemirror/commands';
import { EditorState, Prec, StateEffect, StateField } from '@codemirror/state';
import {
  Decoration,
  type DecorationSet,
  EditorView,
  hoverTooltip,
  keymap,
  placeholder,
  ViewPlugin,
  type ViewUpdate,
} from '@codemirror/view';
import { useEffect, useRef } from 'react';
import { api, type Problem, type RulePreview, take, type WrittenRule } from '../lib/api';
import { count, many } from '../lib/format';
import { nonce } from '../lib/nonce';
import { required } from '../lib/required';
import { mended, runeAt, unit } from '../lib/text';
import { rules } from './written';

const setWritten = StateEffect.define<{ of: string; written: WrittenRule }>();

/** The look of the parts. Until it is known what was typed is, what stood there before keeps its look. */
const colour = StateField.define<DecorationSet>({
  create: () => Decoration.none,
  update(old, tr) {
    let set = old.map(tr.changes);
    const text = tr.state.doc.toString();
    for (const e of tr.effects)
      if (e.is(setWritten) && e.value.of === text)
        set = Decoration.set(
          e.value.written.spans.map((s) =>
            Decoration.mark({ class: `r-${s.kind}` }).range(unit(text, s.start), unit(text, s.end)),
          ),
        );
    return set;
  },
  provide: (f) => EditorView.decorations.from(f),
});

/** Asks how the rule is written, at first and with each change. */
const reading = ViewPlugin.fromClass(
  class {
    private gone = false;
    constructor(view: EditorView) {
      this.read(view);
    }
    update(u: ViewUpdate) {
      if (u.docChanged) this.read(u.view);
    }
    destroy() {
      this.gone = true;
    }
    private read(view: EditorView) {
      const of = view.state.doc.toString();
      rules.read(of).then(
        (written) => {
          if (!this.gone) view.dispatch({ effects: setWritten.of({ of, written }) });
        },
        () => {}, // it stays plain
      );
    }
  },
);

/** A key binding that always takes its key. */
const act = (f: () => void) => () => {
  f();
  return true;
};

type Held = RulePreview['holding'][number];

const setHolding = StateEffect.define<Held[]>();

/** How many levels of what joints hold together are drawn. */
const mostHeld = 4;

/** What joints hold together, underlined faintly: the wider a stretch, the lower its line. */
const held = StateField.define<DecorationSet>({
  create: () => Decoration.none,
  update(old, tr) {
    let set = tr.docChanged ? Decoration.none : old;
    for (const e of tr.effects) {
      if (!e.is(setHolding)) continue;
      const text = tr.state.doc.toString();
      const marks = e.value
        .filter((h) => h.depth <= mostHeld)
        .map((h) =>
          Decoration.mark({ class: `r-held r-held-${h.depth}` }).range(unit(text, h.start), unit(text, h.end)),
        );
      set = Decoration.set(marks, true);
    }
    return set;
  },
  provide: (f) => EditorView.decorations.from(f),
});

const setProblems = StateEffect.define<Problem[]>();

const marked = StateField.define<DecorationSet>({
  create: () => Decoration.none,
  update(old, tr) {
    let set = old.map(tr.changes);
    for (const e of tr.effects) {
      if (!e.is(setProblems)) continue;
      const text = tr.state.doc.toString();
      const marks = e.value
        .map((p) => [unit(text, p.start), unit(text, p.end), p] as const)
        .filter(([a, b]) => b > a)
        .map(([a, b, p]) => Decoration.mark({ class: p.warning ? 'r-warning' : 'r-problem' }).range(a, b));
      set = Decoration.set(marks, true);
    }
    return set;
  },
  provide: (f) => EditorView.decorations.from(f),
});

/** What may come next: terms with their counts, lists, categories, variables and their values. */
const completing = (question: number) =>
  autocompletion({
    icons: false,
    selectOnOpen: false, // Enter keeps the rule, unless one of them was chosen
    activateOnTyping: true,
    override: [
      async (context: CompletionContext) => {
        const text = context.state.doc.toString();
        const before = text.slice(0, context.pos);
        if (!context.explicit && !/[^\s()/+-]$/.test(before) && !/[[{@/=][^\]}]*$/.test(before)) return null;
        const found = await take(
          api.POST('/api/v1/questions/{question}/rule/complete', {
            params: { path: { question } },
            body: { rule: text, at: runeAt(text, context.pos) },
          }),
        ).catch(() => undefined);
        if (!found?.options.length || context.aborted) return null;
        return {
          from: unit(text, found.from),
          filter: false,
          options: found.options.map((o) => ({
            label: o.label,
            apply: o.text,
            detail: o.detail.replace(/\d{4,}/, (n) => count(Number(n))),
            type: o.what,
          })),
        };
      },
    ],
  });

/** What the part under the pointer finds, and in how many answers. */
const hovering = (question: number, focus: () => string) =>
  hoverTooltip(
    async (view, pos) => {
      const text = view.state.doc.toString();
      const found = await take(
        api.POST('/api/v1/questions/{question}/rule/part', {
          params: { path: { question }, query: { focus: focus() } },
          body: { rule: text, at: runeAt(text, pos) },
        }),
      ).catch(() => undefined);
      const p = found?.part;
      if (!p || view.state.doc.toString() !== text) return null;
      return {
        pos: unit(text, p.start),
        end: unit(text, p.end),
        above: false,
        create: () => {
          const dom = document.createElement('div');
          dom.className = 'max-w-105 px-2.5 py-1.5 font-sans text-base';
          const line = (kind: string, words: string) => {
            const e = dom.appendChild(document.createElement('p'));
            e.className = kind;
            e.textContent = words;
          };
          line('', `${p.text}: ${p.what}, in ${many(p.answers, 'answer')}`);
          if (p.words.length)
            line(
              'text-soft',
              `finds ${p.words.map((w) => `${w.text} ${count(w.times)}`).join(', ')}${p.more ? `, and ${count(p.more)} more` : ''}`,
            );
          return { dom };
        },
      };
    },
    { hoverTime: 250 },
  );

/** What is wrong with a rule, and the very text that it was worked out for. */
export type Judged = { of: string; problems: Problem[] };

type Props = {
  question: number;
  focus: string;
  value: string;
  judged?: Judged;
  /** What joints hold together in the text that was judged. */
  holding?: Held[];
  change: (s: string) => void;
  keep: () => void;
  drop: () => void;
  format: () => void;
  /** It is being kept. */
  busy: boolean;
  label: string;
};

/** The rule that is being written: coloured, completed, its problems marked in place with their mend one key away. */
export function RuleEditor({
  question,
  focus,
  value,
  judged,
  holding,
  change,
  keep,
  drop,
  format,
  busy,
  label,
}: Props) {
  const host = useRef<HTMLDivElement>(null);
  const view = useRef<EditorView>(undefined);
  const acts = useRef({ change, keep, drop, format, judged, focus, busy });
  const sent = useRef(value); // what was last typed here: only what comes from elsewhere is put in
  acts.current = { change, keep, drop, format, judged, focus, busy };
  const put = (text: string) =>
    view.current?.dispatch({
      changes: { from: 0, to: view.current.state.doc.length, insert: text },
      selection: { anchor: text.length },
    });
  const wished = useRef<string>(undefined); // the text whose mend was asked for before it was judged
  const mend = () => {
    const text = view.current?.state.doc.toString() ?? '';
    const known = acts.current.judged;
    wished.current = known?.of === text ? undefined : text;
    const p = known?.of === text ? known.problems.find((x) => x.mend) : undefined;
    if (p?.mend) put(mended(text, p.mend));
  };
  // biome-ignore lint/correctness/useExhaustiveDependencies: the editor is made once and told of changes below
  useEffect(() => {
    const v = new EditorView({
      parent: required(host.current),
      state: EditorState.create({
        doc: value,
        selection: { anchor: value.length },
        extensions: [
          EditorView.cspNonce.of(nonce ?? ''),
          EditorView.lineWrapping,
          EditorView.contentAttributes.of({ 'aria-label': label, spellcheck: 'false' }),
          // A rule is one line: breaks in what is pasted become blanks.
          EditorView.clipboardInputFilter.of((text) => text.replace(/\s*[\r\n]+\s*/g, ' ').trim()),
          EditorState.transactionFilter.of((tr) => (tr.newDoc.lines > 1 ? [] : tr)),
          // While it is being kept, what is typed goes nowhere: the rule is as it was when Enter was pressed.
          EditorState.transactionFilter.of((tr) => (tr.docChanged && acts.current.busy ? [] : tr)),
          placeholder('queue / wait + ticket'),
          history(),
          colour,
          reading,
          marked,
          held,
          completing(question),
          hovering(question, () => acts.current.focus),
          Prec.high(keymap.of([...completionKeymap, { key: 'Tab', run: acceptCompletion, shift: () => true }])),
          keymap.of([
            // Tab never leaves: letters typed on would be commands. Esc does.
            { key: 'Tab', run: () => true },
            { key: 'Enter', run: act(() => acts.current.keep()) },
            { key: 'Escape', run: act(() => acts.current.drop()) },
            { key: 'Alt-m', run: act(mend) },
            { key: 'Alt-f', run: act(() => acts.current.format()) },
            ...historyKeymap,
            ...defaultKeymap,
          ]),
          EditorView.updateListener.of((u) => {
            if (!u.docChanged) return;
            sent.current = u.state.doc.toString();
            acts.current.change(sent.current);
          }),
        ],
      }),
    });
    view.current = v;
    v.focus();
    return () => v.destroy();
  }, []);
  // biome-ignore lint/correctness/useExhaustiveDependencies: only another value matters
  useEffect(() => {
    if (view.current && value !== sent.current) put(value);
  }, [value]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: another text or judgement matters, nothing else
  useEffect(() => {
    const fits = judged?.of === value;
    view.current?.dispatch({
      effects: [setProblems.of(fits ? judged.problems : []), setHolding.of(fits ? (holding ?? []) : [])],
    });
    if (fits && wished.current === value) mend();
  }, [judged, value]);
  return <div ref={host} aria-busy={busy} />;
}
