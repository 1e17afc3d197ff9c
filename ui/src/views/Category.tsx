import { useState } from 'react';
import { Link } from 'react-router';
import { api, type Category, type FrameLine, take } from '../api/client';
import { useFocus } from '../focus';
import { count, many } from '../format';
import { Sheet } from '../frame/Sheets';
import { useKeys } from '../keys';
import { useAsk, useDesk } from '../question';
import { Problems, RuleText } from './RuleLine';
import { Writing } from './Writing';

/** A category without its figures: what an edit sends. */
function plainCategory(l: FrameLine): Category {
  const { id, name, code, short, note, rules, unless, alone, off } = l;
  return { id, name, code, short, note, rules, unless, alone, off };
}

/** An open category: its name, its note, its rules one per line. */
export function Page({ line, lines }: { line: FrameLine; lines: FrameLine[] }) {
  const { edit, question } = useDesk();
  const { setPick, params, set, focusText } = useFocus();
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
          <Link
            className="plain small"
            to={`/q/${question.id}/terms?${new URLSearchParams({ ...(focusText ? { focus: focusText } : {}), pick: JSON.stringify([{ kind: 'words', text: r.source }]) })}`}
          >
            in context
          </Link>
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
