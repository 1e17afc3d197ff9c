import { useQueryClient } from '@tanstack/react-query';
import { useEffect, useMemo, useState } from 'react';
import { api, type Category, type FrameLine, take } from '../api/client';
import { useFocus } from '../focus';
import { count, many, percent, tint } from '../format';
import { Words } from '../frame/Answers';
import { Sheet } from '../frame/Sheets';
import { useKeys } from '../keys';
import { useAsk, useDesk, useFrame, useQuestionId } from '../question';
import { Problems, RuleEditor, RuleText } from './RuleLine';

/** The code frame as an outline; the open category is a page beside it. */
export default function Code() {
  const { question } = useDesk();
  const { focusText, params, set, setPick } = useFocus();
  const frame = useFrame(focusText);
  const draft = params.get('draft') ?? '';
  const [adding, setAdding] = useState(false);
  const lines = frame.data?.categories ?? [];
  const open = lines.find((l) => l.id === params.get('category')) ?? (draft ? undefined : lines[0]);
  const show = (l: FrameLine | undefined) =>
    l && set({ category: l.id ?? '', pick: JSON.stringify([{ kind: 'category', id: l.id }]) }, true);
  const step = (by: number) =>
    show(lines[Math.max(0, Math.min(lines.length - 1, lines.findIndex((l) => l.id === open?.id) + by))]);
  useKeys({ n: () => setAdding(true), ArrowDown: () => step(1), ArrowUp: () => step(-1), Escape: () => setPick([]) });
  if (frame.error) return <p className="bad">{frame.error.message}</p>;
  if (!frame.data) return <p className="ghost">&nbsp;</p>;
  const { base, coded } = frame.data;
  return (
    <div className="codev" aria-busy={frame.isPlaceholderData}>
      <section className="tree" aria-label="Code frame">
        <p className="caption row between">
          <span>
            {many(lines.length, 'category', 'categories')} · {base ? percent(coded / base) : '–'} coded
          </span>
          <span>answers</span>
        </p>
        <div className="treelines">
          {lines.map((l) => (
            <button
              type="button"
              key={l.id}
              className={`treeline ${tint(l.top)}${l.path.length === 1 ? ' top' : ''}`}
              aria-current={l.id === open?.id ? 'true' : undefined}
              onClick={() => show(l)}
            >
              <b className="key">{l.short}</b>
              <span style={{ paddingLeft: 10 * (l.path.length - 1) }}>
                {l.name}
                {l.off && <em> rests</em>}
                {broken(l) && <em className="bad"> to mend</em>}
              </span>
              <span className="num">{count(l.has)}</span>
              <span className="num soft">{percent(l.share)}</span>
            </button>
          ))}
        </div>
        <p className="row wrap treefoot">
          <button type="button" onClick={() => setAdding(true)}>
            New category <kbd>n</kbd>
          </button>
          <PlaybookTools />
        </p>
      </section>
      {open ? (
        <Page key={open.id} line={open} lines={lines} />
      ) : draft ? null : (
        <p className="empty">No category yet. Make one with n, or select terms in Terms and press c.</p>
      )}
      {(adding || draft) && (
        <NewCategory
          lines={lines}
          draft={draft}
          beside={open}
          close={(id) => {
            setAdding(false);
            set({ draft: '', ...(id ? { category: id, pick: JSON.stringify([{ kind: 'category', id }]) } : {}) }, true);
          }}
        />
      )}
      <span className="sr">{question.name}</span>
    </div>
  );
}

const broken = (l: FrameLine) => [...l.hits, ...l.less].some((r) => r.problems.some((p) => !p.warning));

/** A category without its figures: what an edit sends. */
function plainCategory(l: FrameLine): Category {
  const { id, name, code, short, note, rules, unless, alone, off } = l;
  return { id, name, code, short, note, rules, unless, alone, off };
}

function Page({ line, lines }: { line: FrameLine; lines: FrameLine[] }) {
  const { edit } = useDesk();
  const { setPick, params, set } = useFocus();
  const [writing, setWriting] = useState<{ at: number; unless: boolean; text: string }>();
  const [naming, setNaming] = useState(false);
  const [removing, setRemoving] = useState(false);
  const change = (to: Partial<Category>) =>
    edit({ kind: 'change category', id: line.id, category: { ...plainCategory(line), ...to } });
  const start = (at: number, unless = false) =>
    setWriting({ at, unless, text: at ? (unless ? line.less : line.hits)[at - 1]!.source : '' });
  useKeys({ a: () => start(0) });
  const keep = async (text: string) => {
    if (!writing || !text.trim()) return;
    const rules = [...((writing.unless ? line.unless : line.rules) ?? [])];
    if (writing.at) rules[writing.at - 1] = text.trim();
    else rules.push(text.trim());
    if (await change(writing.unless ? { unless: rules } : { rules })) {
      setWriting(undefined);
      setPick([{ kind: 'category', id: line.id }]);
    }
  };
  const drop = (at: number, unless: boolean) => {
    const rules = ((unless ? line.unless : line.rules) ?? []).filter((_, i) => i !== at - 1);
    setWriting(undefined);
    return change(unless ? { unless: rules } : { rules });
  };
  const picked = params.get('pick') ?? '';
  const list = (rules: FrameLine['hits'], unless: boolean) =>
    rules.map((r, i) =>
      writing?.at === i + 1 && writing.unless === unless ? (
        <Writing
          key={`w${i + 1}`}
          line={line}
          at={i + 1}
          unless={unless}
          start={writing.text}
          keep={keep}
          drop={() => setWriting(undefined)}
          remove={() => drop(i + 1, unless)}
        />
      ) : (
        <div key={`${i}${r.source}`} className="ruleline">
          <span className="no">{i + 1}</span>
          <button
            type="button"
            className="rulesource"
            onClick={() => start(i + 1, unless)}
            aria-label={`rule ${i + 1}: ${r.source}; change it`}
          >
            <RuleText source={r.source} />
          </button>
          <button
            type="button"
            className="plain num"
            aria-pressed={picked.includes(`"rule":${i + 1}`)}
            disabled={unless}
            aria-label={`show the ${count(r.answers)} answers of rule ${i + 1}`}
            onClick={() => setPick([{ kind: 'rule', id: line.id, rule: i + 1 }])}
          >
            {count(r.answers)}
          </button>
          {r.problems.length > 0 && (
            <div className="under">
              <Problems source={r.source} problems={r.problems} />
            </div>
          )}
        </div>
      ),
    );
  const nets = lines.filter((l) => l.id !== line.id && !l.hand && !l.path.join('\n').startsWith(line.path.join('\n')));
  const siblings = lines.filter((l) => l.up === line.up);
  const place = siblings.findIndex((l) => l.id === line.id);
  return (
    <section className="page" aria-label={line.name}>
      <p className="soft row">
        <span>
          {line.path.slice(0, -1).join(' / ') || (line.net ? 'a net' : 'stands at the top')} · code {line.code} · key{' '}
          <kbd>{line.short}</kbd>
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
              title="change name, note, code and key"
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
        {line.off ? '; its rules rest' : ''}.
      </p>
      <div className="rules">
        {list(line.hits, false)}
        {writing?.at === 0 && !writing.unless && (
          <Writing line={line} at={0} unless={false} start="" keep={keep} drop={() => setWriting(undefined)} />
        )}
      </div>
      {(line.less.length > 0 || (writing?.unless && writing.at === 0)) && (
        <>
          <p className="caption">unless</p>
          <div className="rules">
            {list(line.less, true)}
            {writing?.at === 0 && writing.unless && (
              <Writing line={line} at={0} unless start="" keep={keep} drop={() => setWriting(undefined)} />
            )}
          </div>
        </>
      )}
      {!writing && (
        <p className="row wrap">
          <button type="button" onClick={() => start(0)}>
            Add a rule <kbd>a</kbd>
          </button>
          <button type="button" onClick={() => start(0, true)}>
            Add an “unless”
          </button>
        </p>
      )}
      <div className="row wrap settings">
        <label>
          <input type="checkbox" checked={!!line.alone} onChange={(e) => change({ alone: e.target.checked })} /> stands
          alone
        </label>
        <label>
          <input type="checkbox" checked={!!line.off} onChange={(e) => change({ off: e.target.checked })} /> rules rest
        </label>
        <label>
          in{' '}
          <select
            value={line.up ?? ''}
            aria-label="the net it stands in"
            onChange={(e) => edit({ kind: 'move category', id: line.id, parent: e.target.value || undefined })}
          >
            <option value="">the top</option>
            {nets.map((l) => (
              <option key={l.id} value={l.id}>
                {l.path.join(' / ')}
              </option>
            ))}
          </select>
        </label>
        <button
          type="button"
          className="plain"
          disabled={place <= 0}
          onClick={() => edit({ kind: 'move category', id: line.id, parent: line.up, before: siblings[place - 1]!.id })}
        >
          move up
        </button>
        <button
          type="button"
          className="plain"
          disabled={place >= siblings.length - 1}
          onClick={() => edit({ kind: 'move category', id: line.id, parent: line.up, before: siblings[place + 2]?.id })}
        >
          move down
        </button>
        <button type="button" className="plain" onClick={() => setRemoving(true)}>
          remove…
        </button>
      </div>
      {removing && (
        <Remove line={line} close={() => setRemoving(false)} gone={() => set({ category: '', pick: '' }, true)} />
      )}
    </section>
  );
}

function Naming({ line, done }: { line: FrameLine; done: (to?: Partial<Category>) => void }) {
  const [name, setName] = useState(line.name);
  const [note, setNote] = useState(line.note ?? '');
  const [code, setCode] = useState(String(line.code ?? ''));
  const [short, setShort] = useState(line.short ?? '');
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
      <p className="row">
        <label>
          code <input className="tiny" value={code} inputMode="numeric" onChange={(e) => setCode(e.target.value)} />
        </label>
        <label>
          key <input className="tiny" value={short} onChange={(e) => setShort(e.target.value)} />
        </label>
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

type WritingProps = {
  line: FrameLine;
  at: number;
  unless: boolean;
  start: string;
  keep: (s: string) => void;
  drop: () => void;
  remove?: () => void;
};
const tabs = { new: 'New here', all: 'All', shared: 'Shared', lost: 'Lost' } as const;

/** The rule under one's fingers, what it would change, and the answers that say so. */
function Writing({ line, at, unless, start, keep, drop, remove }: WritingProps) {
  const { focusText } = useFocus();
  const [text, setText] = useState(start);
  const [asked, setAsked] = useState(start);
  const [show, setShow] = useState<keyof typeof tabs>(start ? 'all' : 'new');
  useEffect(() => {
    const t = setTimeout(() => setAsked(text), 90);
    return () => clearTimeout(t);
  }, [text]);
  const preview = useAsk(
    ['rule', line.id, at, unless, asked, show, focusText],
    (question) =>
      take(
        api.POST('/api/v1/questions/{question}/rule', {
          params: { path: { question }, query: { focus: focusText } },
          body: { rule: asked, category: unless ? undefined : line.id, at, show, limit: 20 },
        }),
      ),
    !!asked.trim(),
  );
  const p = asked.trim() ? preview.data : undefined;
  const wrong = useMemo(() => p?.problems ?? [], [p]);
  const stopped = wrong.some((x) => !x.warning);
  const figures = { new: p?.new, all: p?.matches, shared: p?.shared, lost: p?.lost };
  return (
    <div className="writing">
      <div className="ruleline now">
        <span className="no">{at || line.hits.length + 1}</span>
        <RuleEditor
          value={text}
          problems={wrong}
          change={setText}
          keep={() => keep(text)}
          drop={drop}
          label={unless ? 'the “unless” rule being written' : 'the rule being written'}
        />
        <span className="num">{p && !stopped ? count(p.matches) : ''}</span>
      </div>
      {preview.error && <p className="bad">{preview.error.message}</p>}
      <Problems source={asked} problems={wrong} mend={setText} />
      {p && !stopped && (
        <p className="effect" role="status">
          {unless
            ? `Matches ${many(p.matches, 'answer')}; what of them is in this category leaves it.`
            : `Catches ${many(p.matches, 'answer')}; ${count(p.uncoded)} of them had no category at all, ${count(p.new)} are new here, ${count(p.only)} nothing else has. ${p.lost ? `${many(p.lost, 'answer')} would be lost.` : 'Nothing is lost.'}`}
        </p>
      )}
      <p className="row">
        <button type="button" className="go" disabled={!text.trim()} onClick={() => keep(text)}>
          Keep <kbd>↵</kbd>
        </button>
        <button type="button" onClick={drop}>
          Drop <kbd>Esc</kbd>
        </button>
        {remove && (
          <button type="button" className="plain" onClick={remove}>
            remove this rule
          </button>
        )}
      </p>
      {p && !stopped && (
        <>
          <div className="tabs" role="tablist" aria-label="Examples">
            {(Object.keys(tabs) as (keyof typeof tabs)[])
              .filter((k) => !unless || k === 'all')
              .map((k) => (
                <button
                  type="button"
                  role="tab"
                  key={k}
                  aria-selected={show === k || unless}
                  onClick={() => setShow(k)}
                >
                  {tabs[k]} {count(figures[k] ?? 0)}
                </button>
              ))}
          </div>
          {p.examples.answers.map((a) => (
            <p className="evidence" key={a.number}>
              <Words answer={a} />
            </p>
          ))}
          {p.examples.total === 0 && <p className="empty">None.</p>}
          {p.examples.total > p.examples.answers.length && (
            <p className="soft">
              and {count(p.examples.total - p.examples.answers.length)} more; keep the rule and press its figure to read
              them all
            </p>
          )}
        </>
      )}
    </div>
  );
}

type NewProps = { lines: FrameLine[]; draft: string; beside?: FrameLine; close: (id?: string) => void };

function NewCategory({ lines, draft, beside, close }: NewProps) {
  const { edit } = useDesk();
  const id = useQuestionId();
  const client = useQueryClient();
  const { focusText } = useFocus();
  const [name, setName] = useState(draft ? draft.split(' / ')[0]!.replace(/^./, (c) => c.toUpperCase()) : '');
  const [up, setUp] = useState(draft ? '' : ((beside?.net ? beside.id : beside?.up) ?? ''));
  const [rule, setRule] = useState(draft);
  const preview = useAsk(
    ['rule', 'new', rule, focusText],
    (question) =>
      take(
        api.POST('/api/v1/questions/{question}/rule', {
          params: { path: { question }, query: { focus: focusText } },
          body: { rule, limit: 3 },
        }),
      ),
    !!rule.trim(),
  );
  const p = rule.trim() ? preview.data : undefined;
  const keep = async () => {
    if (!name.trim()) return;
    const done = await edit({
      kind: 'add category',
      parent: up || undefined,
      category: { name: name.trim(), rules: rule.trim() ? [rule.trim()] : [] },
    });
    if (!done) return;
    const frame = await client.fetchQuery({
      queryKey: ['question', id, 'frame', focusText],
      queryFn: () =>
        take(
          api.GET('/api/v1/questions/{question}/frame', {
            params: { path: { question: id }, query: { focus: focusText } },
          }),
        ),
    });
    const known = new Set(lines.map((l) => l.id));
    close(frame.categories.find((l) => !known.has(l.id))?.id);
  };
  return (
    <Sheet title="New category" close={() => close()}>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          keep();
        }}
      >
        <label className="stack">
          Name
          {/* biome-ignore lint/a11y/noAutofocus: the sheet was opened in order to write it */}
          <input className="wide" autoFocus value={name} onChange={(e) => setName(e.target.value)} />
        </label>
        <label className="stack">
          In
          <select value={up} onChange={(e) => setUp(e.target.value)}>
            <option value="">the top</option>
            {lines
              .filter((l) => !l.hand)
              .map((l) => (
                <option key={l.id} value={l.id}>
                  {l.path.join(' / ')}
                </option>
              ))}
          </select>
        </label>
        <label className="stack">
          First rule, or none for a category that is given by hand only
          <input
            className="wide mono"
            value={rule}
            onChange={(e) => setRule(e.target.value)}
            placeholder="dog / pet"
            spellCheck={false}
          />
        </label>
        {p && <Problems source={rule} problems={p.problems} mend={setRule} />}
        {p && !p.problems.some((x) => !x.warning) && (
          <p className="effect">
            Catches {many(p.matches, 'answer')}; {count(p.uncoded)} of them had no category at all.
          </p>
        )}
        <p className="row">
          <button type="submit" className="go" disabled={!name.trim()}>
            Make it
          </button>
          <button type="button" onClick={() => close()}>
            Leave it
          </button>
        </p>
      </form>
    </Sheet>
  );
}

function Remove({ line, close, gone }: { line: FrameLine; close: () => void; gone: () => void }) {
  const { edit } = useDesk();
  const change = { kind: 'remove category' as const, id: line.id };
  const preview = useAsk(['preview', JSON.stringify(change)], (question) =>
    take(api.POST('/api/v1/questions/{question}/preview', { params: { path: { question } }, body: change })),
  );
  const e = preview.data;
  return (
    <Sheet title={`Remove ${line.name}?`} close={close}>
      <p className="effect">
        {e ? (
          <>
            {many(e.codedBefore - e.coded, 'answer')} would have no category any more
            {line.net ? '; everything inside the net goes with it' : ''}
            {line.hand ? `; ${many(line.hand, 'decision')} by hand rest until it comes back` : ''}. Undo brings it back
            whole.
          </>
        ) : (
          'Working out what it would change…'
        )}
      </p>
      <p className="row">
        <button
          type="button"
          className="go"
          onClick={() => {
            close();
            gone();
            edit(change);
          }}
        >
          Remove it
        </button>
        <button type="button" onClick={close}>
          Keep it
        </button>
      </p>
    </Sheet>
  );
}

/** Saving the scheme as a file, and taking one in. */
function PlaybookTools() {
  const { question, say } = useDesk();
  const client = useQueryClient();
  const load = async (file: File | undefined) => {
    if (!file) return;
    const text = await file.text();
    const reply = await fetch(`/api/v1/questions/${question.id}/playbook?revision=${question.revision}`, {
      method: 'PUT',
      headers: { 'Content-Type': 'application/json' },
      body: text,
    });
    const body = await reply.json().catch(() => undefined);
    if (reply.ok)
      say({
        text: `Loaded ${file.name}: ${count(body.coded)} answers are coded now, ${count(body.codedBefore)} were before.`,
        undo: true,
      });
    else say({ text: `${body?.detail ?? 'The file was not taken.'} Nothing was changed.`, bad: true });
    await client.invalidateQueries({ queryKey: ['question', question.id] });
  };
  return (
    <>
      <a className="plain" href={`/api/v1/questions/${question.id}/playbook`} download>
        save playbook
      </a>
      <label className="plain filelink">
        load playbook
        <input
          type="file"
          accept=".json,application/json"
          onChange={(e) => {
            load(e.target.files?.[0]);
            e.target.value = '';
          }}
        />
      </label>
    </>
  );
}
