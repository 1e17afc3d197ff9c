import { useEffect, useState } from 'react';
import { Link } from 'react-router';
import { useFocus } from '../lib/address';
import type { Condition, EditOf, FrameLine } from '../lib/api';
import { useDesk } from '../lib/desk';
import { count, many, tint } from '../lib/format';
import { useKeys } from '../lib/keys';
import { forget, keepWriting, keptWriting, type Writ } from '../rule/kept';
import { alternatives, Problems, RuleText } from '../rule/Rule';
import { Writing } from '../rule/Writing';
import { Arrange, type Arranging } from './Arrange';

/** An open category: its name, its note, its rules one per line. */
export function Page({ line, lines, write }: { line: FrameLine; lines: FrameLine[]; write?: string }) {
  const { edit, question, say } = useDesk();
  const { setPick, params, set, focusText } = useFocus();
  const [writing, setWriting] = useState<Writ | undefined>(() => keptWriting(question.id, line.id!));
  const [naming, setNaming] = useState(false);
  const [arranging, setArranging] = useState<Arranging>();
  const put = (w: Writ) => {
    setWriting(w);
    keepWriting(question.id, line.id!, w);
  };
  // biome-ignore lint/correctness/useExhaustiveDependencies: what comes is taken once
  useEffect(() => {
    if (!write) return;
    // What is being written here already is kept: what comes is a further alternative of it.
    put(
      writing?.text.trim()
        ? { ...writing, text: alternatives(writing.text, write) }
        : { was: '', unless: false, text: write },
    );
    set({ write: '' }, true);
  }, [write]);
  const change = (to: Partial<EditOf<'change category'>>) => {
    const { id, name, code, short, note, alone, off, colour } = line;
    return edit({ kind: 'change category', category: id, name, code, short, note, alone, off, colour, ...to });
  };
  const start = (was: string, unless = false) => {
    if (writing?.text.trim() && writing.text !== writing.was)
      say({ text: 'Another rule is being written: keep it with Enter, or drop it with Esc, first.' });
    else setWriting({ was, unless, text: was });
  };
  const stop = () => {
    forget(question.id, line.id!);
    setWriting(undefined);
  };
  useKeys({ a: () => start(''), u: () => start('', true) });
  const keep = async () => {
    const rule = writing?.text.trim();
    if (!writing || !rule) return;
    const list = writing.unless ? line.less : line.hits;
    const was = list.some((r) => r.source === writing.was) ? writing.was : undefined;
    if (was === rule || (await edit({ kind: 'rule', category: line.id, rule, was, unless: writing.unless }))) {
      stop();
      setPick([{ kind: 'category', id: line.id }]);
    }
  };
  const drop = (was: string, unless: boolean) => {
    stop();
    return edit({ kind: 'rule', category: line.id, was, rule: '', unless });
  };
  const picked = params.get('pick') ?? '';
  /** What a rule matches: of those that take away, by what they say. */
  const behind = (source: string, i: number, unless: boolean): Condition[] => [
    unless ? { kind: 'words', text: source } : { kind: 'rule', id: line.id, rule: i + 1 },
  ];
  const pen = (unless: boolean, no: number) =>
    writing && (
      <Writing
        key={`${unless}${writing.was}`}
        line={line}
        was={writing.was}
        unless={unless}
        text={writing.text}
        no={no}
        change={(text) => put({ ...writing, text })}
        keep={keep}
        drop={stop}
        remove={writing.was ? () => drop(writing.was, unless) : undefined}
      />
    );
  const list = (rules: FrameLine['hits'], unless: boolean) => (
    <>
      {rules.map((r, i) =>
        writing?.was === r.source && writing.unless === unless ? (
          pen(unless, i + 1)
        ) : (
          <div key={`${i}${r.source}`} className="ruleline">
            <span className="no">{i + 1}</span>
            <button
              type="button"
              className="rulesource"
              onClick={() => start(r.source, unless)}
              aria-label={`rule ${i + 1}: ${r.source}; change it`}
            >
              <RuleText source={r.source} />
            </button>
            <button
              type="button"
              className="plain num"
              aria-pressed={picked === JSON.stringify(behind(r.source, i, unless))}
              disabled={r.problems.some((p) => !p.warning)}
              aria-label={`show the ${count(r.answers)} answers of ${unless ? '“unless” ' : ''}rule ${i + 1}`}
              onClick={() => setPick(behind(r.source, i, unless))}
            >
              {count(r.answers)}
            </button>
            <div className="ruleacts">
              <Link
                className="plain small"
                to={`/q/${question.id}/terms?${new URLSearchParams({ ...(focusText ? { focus: focusText } : {}), pick: JSON.stringify([{ kind: 'words', text: r.source }]) })}`}
              >
                in context
              </Link>
              {!unless && (
                <button
                  type="button"
                  className="plain small"
                  onClick={() => edit({ kind: 'rest', category: line.id, rule: r.source, on: true })}
                  aria-label={`let rest rule ${i + 1}`}
                >
                  let rest
                </button>
              )}
            </div>
            {r.problems.length > 0 && (
              <div className="under">
                <Problems
                  source={r.source}
                  problems={r.problems}
                  mend={(rule) => edit({ kind: 'rule', category: line.id, rule, was: r.source, unless })}
                />
              </div>
            )}
          </div>
        ),
      )}
      {writing?.unless === unless && !rules.some((r) => r.source === writing.was) && pen(unless, rules.length + 1)}
    </>
  );
  return (
    <section className="page" aria-label={line.name}>
      <p className={`soft row ${tint(line.top)}`}>
        <span>
          {line.path.slice(0, -1).join(' / ') || (line.net ? 'a net' : 'stands at the top')} · code {line.code} · key{' '}
          <b className="short">{line.short}</b>
        </span>
      </p>
      {naming ? (
        <Naming
          line={line}
          done={(to) => {
            setNaming(false);
            if (to) change(to);
          }}
        />
      ) : (
        <>
          <h1>
            <button
              type="button"
              className="title"
              onClick={() => setNaming(true)}
              title="change name, note, code, key and colour"
            >
              {line.name}
            </button>
          </h1>
          <p className="soft note">
            {line.note || 'No note yet: press the name to write what belongs here and what does not.'}
          </p>
        </>
      )}
      <p className="soft">
        {many(line.has, 'answer')} here, {count(line.only)} of them only here
        {line.hand ? `, ${count(line.hand)} by hand` : ''}
        {line.alone ? '; only where no other category applies' : ''}
        {line.off ? '; its rules rest' : ''}
        {line.net ? '; a net has what any category inside it has' : ''}
        {!line.net && !line.hits.length ? '; it has no rule, so it is given by hand only' : ''}.
      </p>
      <div className="rules">{list(line.hits, false)}</div>
      {(line.less.length > 0 || writing?.unless) && (
        <>
          <p className="caption">unless</p>
          <div className="rules">{list(line.less, true)}</div>
        </>
      )}
      {!!line.resting?.length && (
        <>
          <p className="caption">resting: kept, not used</p>
          <div className="rules">
            {line.resting.map((source) => (
              <div key={source} className="ruleline rested">
                <span className="no" />
                <span className="rulesource">
                  <RuleText source={source} />
                </span>
                <button
                  type="button"
                  className="plain small"
                  onClick={() => edit({ kind: 'rest', category: line.id, rule: source, on: false })}
                >
                  take up again
                </button>
              </div>
            ))}
          </div>
        </>
      )}
      {!writing && (
        <p className="row wrap">
          <button type="button" onClick={() => start('')}>
            Add a rule <kbd>a</kbd>
          </button>
          <button type="button" onClick={() => start('', true)}>
            Add an “unless” <kbd>u</kbd>
          </button>
        </p>
      )}
      {!writing && (
        <div className="row wrap settings">
          <label>
            <input type="checkbox" checked={!!line.alone} onChange={(e) => change({ alone: e.target.checked })} />{' '}
            stands alone
          </label>
          <label>
            <input type="checkbox" checked={!!line.off} onChange={(e) => change({ off: e.target.checked })} /> all rules
            rest
          </label>
          {(
            [
              ['move', 'move…'],
              ['merge', 'merge into…'],
              ['split', 'split…'],
              ['duplicate', 'duplicate'],
              ['remove', 'remove…'],
            ] as const
          ).map(([kind, words]) => (
            <button
              key={kind}
              type="button"
              className="plain"
              disabled={kind === 'split' && line.hits.length < 2}
              title={kind === 'split' ? 'move some of its rules to a new category' : undefined}
              onClick={() =>
                kind === 'duplicate' ? edit({ kind: 'duplicate category', category: line.id }) : setArranging(kind)
              }
            >
              {words}
            </button>
          ))}
        </div>
      )}
      {arranging && <Arrange kind={arranging} line={line} lines={lines} close={() => setArranging(undefined)} />}
    </section>
  );
}

const colours = ['moss', 'clay', 'slate', 'violet', 'ochre', 'teal', 'plum', 'ink'];

function Naming({ line, done }: { line: FrameLine; done: (to?: Partial<EditOf<'change category'>>) => void }) {
  const [name, setName] = useState(line.name);
  const [note, setNote] = useState(line.note ?? '');
  const [code, setCode] = useState(String(line.code ?? ''));
  const [short, setShort] = useState(line.short ?? '');
  const [colour, setColour] = useState(line.colour ?? 0);
  return (
    <form
      className="naming"
      onKeyDown={(e) => e.key === 'Escape' && done()}
      onSubmit={(e) => {
        e.preventDefault();
        if (name.trim())
          done({
            name: name.trim(),
            note: note.trim(),
            code: Number(code) || line.code,
            short: short.trim() || line.short,
            colour: colour || undefined,
          });
      }}
    >
      {/* biome-ignore lint/a11y/noAutofocus: the name was pressed in order to write it */}
      <input className="title" autoFocus value={name} onChange={(e) => setName(e.target.value)} aria-label="Name" />
      <textarea
        value={note}
        rows={2}
        onChange={(e) => setNote(e.target.value)}
        aria-label="Note"
        placeholder="What belongs here, and what does not"
      />
      <p className="row wrap">
        <label>
          code <input className="tiny" value={code} inputMode="numeric" onChange={(e) => setCode(e.target.value)} />
        </label>
        <label>
          key <input className="tiny" value={short} onChange={(e) => setShort(e.target.value)} />
        </label>
        {line.path.length === 1 && (
          <label>
            colour{' '}
            <select value={colour} onChange={(e) => setColour(Number(e.target.value))}>
              <option value={0}>by its place</option>
              {colours.map((c, i) => (
                <option key={c} value={i + 1}>
                  {c}
                </option>
              ))}
            </select>
          </label>
        )}
        <button type="submit" className="go">
          Keep
        </button>
        <button type="button" onClick={() => done()}>
          Drop
        </button>
      </p>
    </form>
  );
}
