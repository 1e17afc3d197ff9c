import { lazy, Suspense, useEffect, useState } from 'react';
import { useNavigate } from 'react-router';
import { useAddress } from '../lib/address';
import type { Condition, Field, FrameLine } from '../lib/api';
import { useDesk } from '../lib/edits';
import { count, many, tint } from '../lib/format';
import { awaitTyping, useCommands } from '../lib/keys';
import { required } from '../lib/required';
import { Button, Kbd } from '../parts/Button';
import { Checkbox } from '../parts/Checkbox';
import { Dialog } from '../parts/Dialog';
import { type Action, Menu } from '../parts/Menu';
import { Stops } from '../parts/Stops';
import { Caption, Labelled, Short, Skeleton } from '../parts/Text';
import { forget, keepWriting, keptWriting, type Writ } from '../rule/kept';
import { Problems, RuleText } from '../rule/Rule';
import { alternatives } from '../rule/written';
import { Arrange, type Arranging } from './Arrange';
import { Beside } from './Beside';
import { Check, CheckedText } from './Check';
import { FieldValue } from './FieldValue';
import { type CategoryChange, Naming } from './Naming';
import { Rules } from './Rules';

const load = () => import('../rule/Writing');
const Writing = lazy(load);

type PageProps = { line: FrameLine; lines: FrameLine[]; fields: Field[]; write?: string };

/** An open category: its name, its note, its rules one per line. */
export function Page({ line, lines, fields, write }: PageProps) {
  const { edit, question, say } = useDesk();
  const { setPick, pickText, set, focusText } = useAddress();
  const [writing, setWriting] = useState<Writ | undefined>(() => keptWriting(question.id, line.id));
  const navigate = useNavigate();
  const [naming, setNaming] = useState(false);
  const [arranging, setArranging] = useState<Arranging>();
  const [checking, setChecking] = useState<string>(); // the rule; empty for the category as a whole
  const [beside, setBeside] = useState<string>();
  const [moving, setMoving] = useState<string[]>();
  const put = (w: Writ) => {
    setWriting(w);
    keepWriting(question.id, line.id, w);
  };
  const [coming, setComing] = useState('');
  const [keeping, setKeeping] = useState(false);
  const unfinished = writing?.text.trim() && writing.text !== writing.was;
  // biome-ignore lint/correctness/useExhaustiveDependencies: what comes is taken once
  useEffect(() => {
    if (!write) return;
    // What is being written here already is never changed unasked.
    if (unfinished) setComing(write);
    else put({ was: '', unless: false, text: write });
    set({ write: '' }, true);
  }, [write]);
  // The editor is big: it comes while the page is read, so that it is there with the first key.
  useEffect(() => {
    load().catch(() => undefined);
  }, []);
  const change = (to: CategoryChange) => edit({ kind: 'change category', category: line.id, ...to });
  const start = (was: string, unless = false) => {
    if (unfinished) say({ text: 'Another rule is being written: keep it with Enter, or cancel it with Esc, first.' });
    else {
      awaitTyping();
      setWriting({ was, unless, text: was });
    }
  };
  /** Ends writing; one goes on where the next rule is begun. */
  const stop = () => {
    forget(question.id, line.id);
    setWriting(undefined);
    setTimeout(() => document.getElementById('add-rule')?.focus());
  };
  /** Stops without keeping; the text can be got back. */
  const cancel = () => {
    const was = writing;
    stop();
    if (was?.text.trim() && was.text !== was.was)
      say({ text: 'The rule was not kept.', action: { words: 'Get its text back', act: () => put(was) } });
  };
  const draftInside = () => set({ tab: 'drafts', net: line.id ?? '', pick: '' });
  useCommands('Category', [
    { key: 'a', words: 'Add a rule', act: () => start('') },
    { key: 'u', words: 'Add an “unless”', act: () => start('', true) },
    { key: 'e', words: 'Change name, note, code, key and colour', act: () => setNaming(true) },
    { key: '', words: 'Move the category…', act: () => setArranging('move') },
    { key: '', words: 'Merge the category into another…', act: () => setArranging('merge') },
    { key: '', words: 'Split the category…', act: () => setArranging('split'), off: line.hits.length < 2 },
    { key: '', words: 'Delete the category…', act: () => setArranging('remove') },
    { key: '', words: 'Check the category by a random sample…', act: () => setChecking(''), off: !line.has },
    { key: '', words: 'Move or delete several rules…', act: () => setMoving([]), off: !line.hits.length },
    { key: '', words: 'Propose categories inside this one', act: draftInside, off: !line.has || !!line.decisions },
  ]);
  const keep = async () => {
    const rule = writing?.text.trim();
    if (!writing || !rule || keeping) return;
    const list = writing.unless ? line.less : line.hits;
    const was = list.some((r) => r.source === writing.was) ? writing.was : undefined;
    setKeeping(true);
    const kept = was === rule || (await edit({ kind: 'rule', category: line.id, rule, was, unless: writing.unless }));
    setKeeping(false);
    if (!kept) return;
    stop();
    setPick([{ kind: 'category', id: line.id }]);
  };
  const drop = (was: string, unless: boolean) => {
    stop();
    return edit({ kind: 'rule', category: line.id, was, rule: '', unless });
  };
  /** What a rule matches: of those that take away, by what they say. */
  const behind = (source: string, i: number, unless: boolean): Condition[] => [
    unless ? { kind: 'words', text: source } : { kind: 'rule', id: line.id, rule: i + 1 },
  ];
  const pen = (unless: boolean, no: number) =>
    writing && (
      <Suspense fallback={<Skeleton lines={2} />}>
        <Writing
          key={`${unless}${writing.was}`}
          line={line}
          was={writing.was}
          unless={unless}
          text={writing.text}
          no={no}
          change={(text) => put({ ...writing, text })}
          keep={keep}
          drop={cancel}
          busy={keeping}
          remove={writing.was ? () => drop(writing.was, unless) : undefined}
        />
      </Suspense>
    );
  const actions = (source: string, unless: boolean): Action[] => [
    { words: 'In context', act: () => navigate(inContext(source)) },
    ...(unless
      ? []
      : [
          { words: 'Check by a random sample…', act: () => setChecking(source), group: true },
          { words: 'Compare with another rule…', act: () => setBeside(source) },
          { words: 'Move or delete…', act: () => setMoving([source]), group: true },
          { words: 'Turn off', act: () => void edit({ kind: 'rest', category: line.id, rule: source, on: true }) },
        ]),
  ];
  const inContext = (source: string) =>
    `/q/${question.id}/terms?${new URLSearchParams({ ...(focusText ? { focus: focusText } : {}), pick: JSON.stringify([{ kind: 'words', text: source }]) })}`;
  const list = (rules: FrameLine['hits'], unless: boolean) => (
    <>
      {rules.map((r, i) =>
        writing?.was === r.source && writing.unless === unless ? (
          pen(unless, i + 1)
        ) : (
          <div
            key={`${i}${r.source}`}
            data-part="ruleline"
            className="grid grid-cols-[1.4rem_minmax(0,1fr)_auto_auto] items-baseline gap-x-2 border-b py-1.5"
          >
            <span className="text-sm text-soft">{i + 1}</span>
            <Button
              data-stop=""
              look="bare"
              className="font-mono text-lg break-words"
              onClick={() => start(r.source, unless)}
              aria-label={`rule ${i + 1}: ${r.source}; change it`}
            >
              <RuleText source={r.source} />
            </Button>
            <Button
              data-stop=""
              look="plain"
              className="text-right"
              aria-pressed={pickText === JSON.stringify(behind(r.source, i, unless))}
              disabled={r.problems.some((p) => !p.warning)}
              aria-label={`show the ${count(r.answers)} answers of ${unless ? '“unless” ' : ''}rule ${i + 1}`}
              onClick={() => setPick(behind(r.source, i, unless))}
            >
              {count(r.answers)}
            </Button>
            <Menu
              stop
              words="more ▾"
              label={`more about ${unless ? '“unless” ' : ''}rule ${i + 1}`}
              actions={actions(r.source, unless)}
            />
            {r.checked && (
              <p className="col-start-2 col-end-[-1] text-sm text-soft" data-part="checked">
                <CheckedText checked={r.checked} />
              </p>
            )}
            {r.problems.length > 0 && (
              <div className="col-start-2 col-end-[-1]">
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
    <section className="grid min-w-0 grid-cols-1 content-start gap-1.5 pr-2" aria-label={line.name}>
      <p className={`text-soft ${tint(line.top)}`}>
        <span>
          {line.path.slice(0, -1).join(' / ') || (line.net ? 'a net' : 'stands at the top')} · code {line.code} · key{' '}
          <Short>{line.short}</Short>
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
            <Button
              look="bare"
              data-part="title"
              className="hover:underline hover:decoration-dashed hover:underline-offset-4"
              onClick={() => setNaming(true)}
              title="change name, note, code, key and colour"
            >
              {line.name}
            </Button>
          </h1>
          <p className="text-soft max-w-[60ch]">
            {line.note || 'No note yet: press the name to write what belongs here and what does not.'}
          </p>
        </>
      )}
      {fields.length > 0 && (
        <div role="group" aria-label="Fields" className="flex flex-wrap items-end gap-x-4 gap-y-1.5 pb-1">
          {fields.map((f) => (
            <Labelled key={f.name} name={f.name}>
              <FieldValue
                field={f}
                value={line.fields?.[f.name] ?? ''}
                change={(v) => change({ fields: { [f.name]: v || null } })}
              />
            </Labelled>
          ))}
        </div>
      )}
      <p className="text-soft">
        {many(line.has, 'answer')} here, {count(line.only)} of them only here
        {line.hand ? `, ${count(line.hand)} by hand` : ''}
        {line.alone ? '; only where no other category applies' : ''}
        {line.off ? '; its rules are turned off' : ''}
        {line.net ? '; a net has what any category inside it has' : ''}
        {!line.net && !line.hits.length ? '; it has no rule, so it is given by hand only' : ''}.
      </p>
      {line.whole && (
        <p className="text-soft" data-part="checked">
          As a whole: <CheckedText checked={line.whole} />.
        </p>
      )}
      <Stops className="mt-1.5 border-t" across>
        {list(line.hits, false)}
      </Stops>
      {(line.less.length > 0 || writing?.unless) && (
        <>
          <Caption>unless</Caption>
          <Stops className="mt-1.5 border-t" across>
            {list(line.less, true)}
          </Stops>
        </>
      )}
      {!!line.resting?.length && (
        <>
          <Caption>turned off: kept, not used</Caption>
          <div className="mt-1.5 border-t">
            {line.resting.map((source) => (
              <div
                key={source}
                data-part="ruleline"
                className="grid grid-cols-[1.4rem_minmax(0,1fr)_auto] items-baseline gap-x-2 border-b py-1.5 opacity-70"
              >
                <span className="text-sm text-soft" />
                <span className="font-mono text-lg break-words">
                  <RuleText source={source} />
                </span>
                <Button
                  look="plain"
                  className="text-sm"
                  onClick={() => edit({ kind: 'rest', category: line.id, rule: source, on: false })}
                >
                  Turn on
                </Button>
              </div>
            ))}
          </div>
        </>
      )}
      {!writing && (
        <p className="flex flex-wrap items-baseline gap-2.5">
          <Button id="add-rule" onClick={() => start('')}>
            Add a rule <Kbd>a</Kbd>
          </Button>
          <Button onClick={() => start('', true)}>
            Add an “unless” <Kbd>u</Kbd>
          </Button>
        </p>
      )}
      {!writing && (
        <Stops across className="mt-2.5 flex flex-wrap items-center gap-2.5 border-t pt-2.5 text-soft">
          <label>
            <Checkbox data-stop="" checked={!!line.alone} change={(on) => change({ alone: on })} /> stands alone
          </label>
          <label>
            <Checkbox data-stop="" checked={!!line.off} change={(on) => change({ off: on })} /> all rules off
          </label>
          <Menu
            stop
            words="More ▾"
            actions={[
              { words: 'Move…', act: () => setArranging('move') },
              { words: 'Merge into another…', act: () => setArranging('merge') },
              {
                words: 'Split: move some rules to a new category…',
                act: () => setArranging('split'),
                disabled: line.hits.length < 2,
              },
              {
                words: 'Several rules: move, turn off, delete…',
                act: () => setMoving([]),
                disabled: !line.hits.length,
              },
              { words: 'Check by a random sample…', act: () => setChecking(''), disabled: !line.has, group: true },
              {
                words: 'Propose categories inside it',
                act: draftInside,
                disabled: !line.has || !!line.decisions,
              },
              { words: 'Duplicate', act: () => void edit({ kind: 'duplicate category', category: line.id }) },
              { words: 'Delete…', act: () => setArranging('remove'), group: true },
            ]}
          />
        </Stops>
      )}
      {coming && (
        <Dialog title="A rule is being written here" close={() => setComing('')}>
          <p className="pb-2">
            In this category stands an unfinished rule: <code className="font-mono">{writing?.text}</code>. What should
            become of <code className="font-mono">{coming}</code>?
          </p>
          <p className="flex flex-wrap gap-2.5">
            <Button
              look="go"
              onClick={async () => {
                const now = required(writing);
                try {
                  put({ ...now, text: await alternatives(now.text, coming) });
                  setComing('');
                } catch (e) {
                  say({ text: `They can’t be joined: ${(e as Error).message}. Both are still here.`, bad: true });
                }
              }}
            >
              Add it as an alternative
            </Button>
            <Button
              onClick={() => {
                put({ was: '', unless: false, text: coming });
                setComing('');
              }}
            >
              Write it instead
            </Button>
            <Button onClick={() => setComing('')}>Cancel</Button>
          </p>
        </Dialog>
      )}
      {checking !== undefined && <Check line={line} rule={checking} close={() => setChecking(undefined)} />}
      {beside !== undefined && <Beside line={line} lines={lines} rule={beside} close={() => setBeside(undefined)} />}
      {moving && <Rules line={line} lines={lines} ticked={moving} close={() => setMoving(undefined)} />}
      {arranging && <Arrange kind={arranging} line={line} lines={lines} close={() => setArranging(undefined)} />}
    </section>
  );
}
