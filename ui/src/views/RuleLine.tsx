import { defaultKeymap, history, historyKeymap } from '@codemirror/commands';
import { EditorState, type Range, StateEffect, StateField } from '@codemirror/state';
import {
  Decoration,
  type DecorationSet,
  EditorView,
  keymap,
  placeholder,
  ViewPlugin,
  type ViewUpdate,
} from '@codemirror/view';
import { useEffect, useRef } from 'react';
import type { Problem } from '../api/client';

/** What each sign of a rule is, for its colour only; the server's parser alone decides what a rule means. */
const pieces: [RegExp, string][] = [
  [/re"(?:\\.|[^"\\])*"?/y, 'r-quote'],
  [/["“][^"”]*["”]?/y, 'r-quote'],
  [/@(?:"[^"]*"?|[^\s/()[\]{}"]+)/y, 'r-list'],
  [/\{[^}]*\}?|\[[^\]]*\]?/y, 'r-name'],
  [/[+\-–—][<>]?\d+[ws](?=[\s("@=]|$)/y, 'r-joint'],
  [/[+\-–—](?=[\s(]|$)|\//y, 'r-joint'],
  [/[()]/y, 'r-bracket'],
  [/\d+\s+of(?=\s*[(@])/y, 'r-joint'],
];

/** Cuts a rule into stretches with their class. */
export function stretches(src: string): [string, string][] {
  const out: [string, string][] = [];
  let plain = '';
  for (let i = 0; i < src.length; ) {
    const glued = i > 0 && /[^\s()[\]{}/]/.test(src[i - 1]!);
    const hit = pieces
      .filter(([, kind]) => !(glued && kind === 'r-joint' && src[i] !== '/'))
      .map(([find, kind]) => {
        find.lastIndex = i;
        return [find.exec(src)?.[0], kind] as const;
      })
      .find(([text]) => text);
    if (!hit) {
      plain += src[i++];
      continue;
    }
    if (plain) out.push([plain, '']);
    plain = '';
    out.push([hit[0]!, hit[1]]);
    i += hit[0]!.length;
  }
  if (plain) out.push([plain, '']);
  return out;
}

/** A rule that is not being written. */
export function RuleText({ source }: { source: string }) {
  return (
    <>
      {stretches(source).map(([text, kind], i) => (
        <span key={i} className={kind}>
          {text}
        </span>
      ))}
    </>
  );
}

const colour = ViewPlugin.fromClass(
  class {
    decorations: DecorationSet;
    constructor(view: EditorView) {
      this.decorations = this.make(view);
    }
    update(u: ViewUpdate) {
      if (u.docChanged) this.decorations = this.make(u.view);
    }
    make(view: EditorView) {
      let at = 0;
      const marks: Range<Decoration>[] = [];
      for (const [text, kind] of stretches(view.state.doc.toString())) {
        if (kind) marks.push(Decoration.mark({ class: kind }).range(at, at + text.length));
        at += text.length;
      }
      return Decoration.set(marks);
    }
  },
  { decorations: (p) => p.decorations },
);

/** A key binding that always takes its key. */
const act = (f: () => void) => () => {
  f();
  return true;
};

const setProblems = StateEffect.define<Problem[]>();

/** The server counts runes, the editor UTF-16 units. */
function unit(text: string, rune: number) {
  let n = 0;
  for (const c of text) {
    if (rune-- === 0) return n;
    n += c.length;
  }
  return n;
}

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

type Props = {
  value: string;
  problems: Problem[];
  change: (s: string) => void;
  keep: () => void;
  drop: () => void;
  label: string;
};

/** The rule that is being written: one line, coloured, with its problems marked in place. */
export function RuleEditor({ value, problems, change, keep, drop, label }: Props) {
  const host = useRef<HTMLDivElement>(null);
  const view = useRef<EditorView>(undefined);
  const acts = useRef({ change, keep, drop });
  acts.current = { change, keep, drop };
  // biome-ignore lint/correctness/useExhaustiveDependencies: the editor is made once and told of changes below
  useEffect(() => {
    const v = new EditorView({
      parent: host.current!,
      state: EditorState.create({
        doc: value,
        selection: { anchor: value.length },
        extensions: [
          EditorView.cspNonce.of(document.querySelector<HTMLMetaElement>('meta[name=csp-nonce]')?.content ?? ''),
          EditorView.lineWrapping,
          EditorView.contentAttributes.of({ 'aria-label': label, spellcheck: 'false' }),
          EditorState.transactionFilter.of((tr) => (tr.newDoc.lines > 1 ? [] : tr)),
          placeholder('queue / wait + ticket'),
          history(),
          colour,
          marked,
          keymap.of([
            { key: 'Enter', run: act(() => acts.current.keep()) },
            { key: 'Escape', run: act(() => acts.current.drop()) },
            ...historyKeymap,
            ...defaultKeymap,
          ]),
          EditorView.updateListener.of((u) => u.docChanged && acts.current.change(u.state.doc.toString())),
        ],
      }),
    });
    view.current = v;
    v.focus();
    return () => v.destroy();
  }, []);
  useEffect(() => {
    const v = view.current;
    if (v && v.state.doc.toString() !== value)
      v.dispatch({ changes: { from: 0, to: v.state.doc.length, insert: value }, selection: { anchor: value.length } });
  }, [value]);
  useEffect(() => {
    view.current?.dispatch({ effects: setProblems.of(problems) });
  }, [problems]);
  return <div ref={host} className="editor" />;
}

/** What is wrong with a rule, each with its mend one press away. */
export function Problems({
  source,
  problems,
  mend,
}: {
  source: string;
  problems: Problem[];
  mend?: (s: string) => void;
}) {
  return (
    <ul className="plainlist problems">
      {problems.map((p) => {
        const m = p.mend;
        return (
          <li key={`${p.start}${p.message}`} className={p.warning ? 'warning' : 'bad'}>
            {p.end > p.start && <code>{[...source].slice(p.start, p.end).join('')}</code>} {p.message}{' '}
            {m && mend && (
              <button
                type="button"
                className="plain"
                onClick={() => {
                  const runes = [...source];
                  mend([...runes.slice(0, m.start), m.with, ...runes.slice(m.end)].join(''));
                }}
              >
                {m.with ? `put ${m.with.trim()}` : 'take it out'}
              </button>
            )}
          </li>
        );
      })}
    </ul>
  );
}
