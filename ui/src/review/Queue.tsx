import { useCallback, useEffect, useMemo, useRef, useState } from 'react';
import { Codes, Who, Words } from '../answers/Words';
import { useAddress } from '../lib/address';
import type { Condition, Edit, EditOf, FrameLine, Queued } from '../lib/api';
import { useDesk } from '../lib/edits';
import { count } from '../lib/format';
import { useKept } from '../lib/kept';
import { useCommands, useKeys } from '../lib/keys';
import { useAsk, useFrame } from '../lib/queries';
import { itemAt, required } from '../lib/required';
import { Failed } from '../parts/Asked';
import { Button, Kbd } from '../parts/Button';
import { Checkbox } from '../parts/Checkbox';
import { Combobox } from '../parts/Combobox';
import { Empty } from '../parts/Text';
import { CodeGrid, codeKeys, useShortCodes } from './ShortCodes';
import { Terms } from './Terms';
import { Learning, LikelyLines, Note, TakenOff } from './Under';
import { left, type Way, ways } from './ways';

/** Keys that put on the categories that were put on last, the last one first. */
const recentKeys = ['u', 'i', 'o'];

/** Goes through answers, one at a time. */
export default function Queue() {
  const { edit } = useDesk();
  const { focus, focusText, pick, pickText, setPick, get, set, one: oneOf } = useAddress();
  const frame = useFrame(focusText);
  const all = get('all') === '1';
  const way = oneOf('way', Object.keys(ways) as Way[]);
  const group = get('group');
  // Which answer is on the page stands in the address line; the answers pane marks it, and sets it when one is pressed there.
  const at = get('at') ? Number(get('at')) : undefined;
  const shown = useMemo(
    () => [...focus, ...(all ? [] : left), ...(group ? JSON.parse(group) : [])],
    [focus, all, group],
  );
  const queue = JSON.stringify(shown);
  // What the group is about is marked in its answers, coded by now or not.
  const marking = (group ? (JSON.parse(group) as Condition[]) : []).filter((c) => c.kind === 'words');
  const order = way === 'groups' || way === 'alike' ? 'file' : way;

  // What the answers pane shows follows: everything that is left in the focus.
  const wanted = all ? '' : JSON.stringify(left);
  useEffect(() => {
    if (!pick.length && wanted) setPick(left);
    if (all && pickText === JSON.stringify(left)) setPick([]);
  }, [pick.length, wanted, pickText, all, setPick]);

  const learning = (q: { learned?: { current: boolean } } | undefined) => (q && !q.learned?.current ? 1500 : false);
  const ahead = useAsk(
    'queue',
    { focus: queue, order, at: at ?? -1, offset: 0, limit: 6, likely: true },
    { refetchInterval: (q) => learning(q.state.data) },
  );
  const behind = useAsk('queue', { focus: queue, order, at: at ?? -1, offset: -1, limit: 1 });
  // The answer stays on the page after it was coded, so that it can be given another category.
  const one = useAsk(
    'queue',
    { focus: JSON.stringify([...focus, ...marking, { kind: 'answers', answers: [at ?? 0] }]), limit: 1, likely: true },
    { enabled: at !== undefined },
  );
  const fresh = !ahead.isPlaceholderData && !behind.isPlaceholderData;
  const known = [...(one.data?.answers ?? []), ...(ahead.data?.answers ?? []), ...(behind.data?.answers ?? [])];
  const answer = known.find((a) => a.number === at);
  // Keys may come faster than the page is drawn: they go to the answer that the last move meant, or nowhere.
  const meant = useRef(at);
  useEffect(() => {
    meant.current = at;
  }, [at]);
  const aim = () => known.find((a) => a.number === meant.current);
  // What was decided here after the list was read still stands in it: the next one is none of these.
  const decided = useRef<{ answers: number[]; until: number }[]>([]);
  const gone = (n: number) =>
    !all && decided.current.some((d) => ahead.dataUpdatedAt <= d.until && d.answers.includes(n));
  // The list begins with the answer on the page, or with the one after where that is not in it any more.
  const after = (n: number | undefined) => {
    const list = ahead.data?.answers ?? [];
    const place = list.findIndex((a) => a.number === n);
    return list.slice(place + 1).find((a) => !gone(a.number));
  };
  const next = after(at);
  const before = at === undefined ? undefined : behind.data?.answers.find((a) => a.number !== at);
  const total = ahead.data?.total ?? 0;
  const place = (ahead.data?.offset ?? 0) + 1;

  // Without a place, or at one that the focus no longer holds, the next one is taken up.
  const lost = at === undefined || (fresh && !one.isPlaceholderData && one.data?.answers.length === 0);
  const first = ahead.data?.answers[0]?.number;
  useEffect(() => {
    if (lost && fresh && first !== undefined && first !== at) set({ at: String(first) }, true);
  }, [lost, fresh, first, at, set]);

  // What was put on the answer before is one key away for this one.
  const given = useRef<{ here: string[]; before: string[] }>({ here: [], before: [] });
  const forget = useRef(() => {});
  const go = useCallback(
    (n: number | undefined) => {
      if (n === undefined) return;
      forget.current();
      if (given.current.here.length) given.current = { here: [], before: given.current.here };
      meant.current = n;
      set({ at: String(n) }, true);
    },
    [set],
  );
  // Where the list is not there yet, or all that is known to come next was decided just now, the move waits for it.
  const waiting = useRef<number>(undefined);
  const forward = () => {
    const n = after(meant.current)?.number;
    if (n === undefined && (!ahead.now || ahead.now.answers.some((a) => gone(a.number))))
      waiting.current = meant.current;
    go(n);
  };
  // biome-ignore lint/correctness/useExhaustiveDependencies: when another list came
  useEffect(() => {
    if (waiting.current === undefined || ahead.isPlaceholderData || !ahead.data) return;
    if (waiting.current !== meant.current) waiting.current = undefined;
    else if (next && !gone(next.number)) {
      waiting.current = undefined;
      go(next.number);
    }
  }, [ahead.dataUpdatedAt, ahead.isPlaceholderData]);
  const back = () => go(before?.number);

  // Answers of the queue that say the same, word for word: what is decided can go to all of them at once.
  const same = useAsk(
    'answers',
    { focus: JSON.stringify([...focus, ...(all ? [] : left), { kind: 'alike', n: (at ?? 0) + 1 }]), limit: 500 },
    { enabled: at !== undefined },
  );
  const twins = (same.now?.answers ?? []).map((a) => a.number).filter((n) => n !== at);
  // An answer with those that are decided on with it: they are kept together, so that they go with no other.
  const [together, setTogether] = useState<{ answer: number; others: number[] }>();
  const tied = together?.answer === at ? together : undefined;
  const others = tied?.others ?? twins;
  const meaning = (a: Queued) => (together?.answer === a.number ? [a.number, ...together.others] : [a.number]);
  // The categories that were put on last are one key away.
  const [recent, setRecent] = useKept<string[]>('put on last', []);
  const leaves = (frame.data?.categories ?? []).filter((c) => !c.net);
  const leaf = (id: string) => leaves.find((c) => c.id === id);
  const change = async (e: Edit, answers: number[], takes: boolean) => {
    if (!takes) return edit(e);
    const now = { answers, until: Number.POSITIVE_INFINITY };
    decided.current = [...decided.current.filter((d) => ahead.dataUpdatedAt <= d.until), now];
    const effect = await edit(e);
    now.until = effect ? Date.now() : 0;
    return effect;
  };
  const codeOf = (a: Queued | undefined, id: string) => a?.codes.find((x) => x.id === id);
  const put = (ids: string[], a: Queued, note?: string) => {
    const answers = meaning(a);
    given.current.here = [...new Set([...given.current.here, ...ids])];
    setRecent([...ids, ...recent.filter((r) => !ids.includes(r))].slice(0, recentKeys.length));
    const decide = ids.map((category) => ({ category, answers, to: 'on' as const, note }));
    const names = ids.map((id) => leaf(id)?.name).join(', ');
    change(
      decide.length === 1
        ? { kind: 'decide', ...itemAt(decide, 0) }
        : {
            kind: 'several',
            summary: `Put ${names} on ${answers.length === 1 ? 'one answer' : `${count(answers.length)} answers`} by hand`,
            decide,
          },
      answers,
      true,
    );
  };
  const give = (c: FrameLine | undefined) => {
    const a = aim();
    if (!c?.id || !a) return;
    const has = codeOf(a, c.id);
    // What was suggested is confirmed first.
    if (has && !has.suggested) {
      given.current.here = given.current.here.filter((g) => g !== c.id);
      const e: EditOf<'decide'> = { kind: 'decide', category: c.id, answers: meaning(a), to: 'off' };
      change(e, meaning(a), false);
    } else put([c.id], a);
  };
  const codes = useShortCodes(leaves, give);
  const { typed } = codes;
  forget.current = codes.forget;
  const settle = () => {
    const a = aim();
    if (!a) return;
    change({ kind: 'settle', answers: meaning(a), on: !a.settled }, meaning(a), !a.settled);
    if (!a.settled) forward();
  };
  const takeLikeliest = () => {
    const l = aim()?.likely[0];
    if (l) give(leaf(l.id));
  };
  const sameAsBefore = () => {
    const a = aim();
    const ids = given.current.before.filter((id) => leaf(id) && !codeOf(a, id));
    if (a && ids.length) put(ids, a);
  };
  const lately = recent.flatMap((id) => leaf(id) ?? []);
  const tieTogether = () => {
    if (tied) setTogether(undefined);
    else if (at !== undefined && twins.length) setTogether({ answer: at, others: twins });
  };
  const [choosing, setChoosing] = useState(false);
  const [noting, setNoting] = useState<Queued>();
  const [reading, setReading] = useState(false);
  const make = async (name: string) => {
    const a = aim();
    if (!a) return;
    await change({ kind: 'add category', name, on: meaning(a) }, meaning(a), true);
  };
  const acts: Record<string, [string, () => void]> = {
    j: ['Next answer', forward],
    k: ['Answer before', back],
    s: ['Settle: it needs no category', settle],
    y: ['Put on the likeliest category', takeLikeliest],
    a: ['Find a category by its name, or make one', () => setChoosing(true)],
    e: ['The same as the answer before', sameAsBefore],
    g: ['Decide for all that say the same', tieTogether],
    w: ['Words of the answer: rule, merge, stop word', () => setReading(true)],
    m: ['A note with the decision', () => aim()?.codes.some((c) => c.byHand) && setNoting(aim())],
    u: ['The category put on last', () => give(lately[0])],
    i: ['The one before', () => give(lately[1])],
    o: ['The one before that', () => give(lately[2])],
  };
  useCommands(
    'Review',
    Object.entries(acts).map(([key, [words, act]]) => ({ key, words, act })),
  );
  const letters = Object.fromEntries(
    codeKeys.map((k) => [k, () => (typed || /\d/.test(k) ? codes.type(k) : acts[k]?.[1]())]),
  );
  const { z: zTyped, f: fTyped, n: nTyped, ...free } = letters;
  // A short code that has been begun takes its letters before any other key does.
  useKeys(
    {
      ...free,
      ...(typed ? { z: required(zTyped), f: required(fTyped), n: required(nTyped) } : { n: () => setChoosing(true) }),
      Enter: codes.enter,
      Escape: codes.forget,
      ArrowDown: forward,
      ArrowUp: back,
    },
    { early: true },
  );

  return (
    <section aria-label="The answer" className="min-w-0">
      {group && (
        <p className="pb-1 text-sm text-soft">
          One by one through a group ·{' '}
          <Button look="plain" onClick={() => set({ group: '', way: '', at: '', pick: '' })}>
            back to the groups
          </Button>
        </p>
      )}
      {ahead.error && <Failed error={ahead.error} again={() => ahead.refetch()} />}
      {!ahead.data && !ahead.error && <Learning cancel={() => set({ way: 'file', at: '' })} />}
      {answer ? (
        <>
          <p className="flex flex-wrap items-baseline gap-2.5 pt-0.5 text-soft">
            <span>
              {count(Math.min(place, Math.max(total, 1)))} of {count(total)}
            </span>
            <Button look="plain" disabled={!next} onClick={forward}>
              next <Kbd>j</Kbd>
            </Button>
            <Button look="plain" disabled={!before} onClick={back}>
              back <Kbd>k</Kbd>
            </Button>
            <Button look="plain" aria-pressed={answer.settled} onClick={settle}>
              {answer.settled ? 'settled' : 'settle'} <Kbd>s</Kbd>
            </Button>
            <Combobox
              label="Find a category by its name"
              placeholder="by name… (a)"
              value=""
              shown={choosing}
              show={setChoosing}
              options={leaves.map((c) => ({ value: c.id, words: c.path.join(' / ') }))}
              change={(id) => give(leaf(id))}
              create={{ words: (name) => `New category “${name}”`, act: make }}
            />
          </p>
          <p
            data-part="said"
            className="py-2.5 font-serif text-2xl leading-normal break-words whitespace-pre-line"
            lang="en"
            aria-live="polite"
          >
            <Words answer={answer} />
          </p>
          <Who answer={answer} />
          <Codes codes={answer.codes} />
          <TakenOff of={answer} />
          <LikelyLines of={answer} learned={one.data?.learned} give={(l) => give(leaf(l.id))} />
          {reading && <Terms answer={answer} close={() => setReading(false)} />}
          <p className="pt-4 pb-1.5 text-sm text-soft" role="status">
            {others.length > 0 && (
              <span className="block pb-1">
                <label>
                  <Checkbox checked={!!tied} change={tieTogether} /> what I decide goes to{' '}
                  {others.length === 1 ? 'one other' : `${count(others.length)} others`} that{' '}
                  {others.length === 1 ? 'says' : 'say'} the same, too <Kbd>g</Kbd>
                </label>
              </span>
            )}
            {lately.length > 0 && (
              <span className="flex flex-wrap items-baseline gap-x-3 pb-1">
                put on last:
                {lately.map((c, i) => (
                  <Button key={c.id} look="plain" tabIndex={-1} onClick={() => give(c)}>
                    {c.name} <Kbd>{recentKeys[i]}</Kbd>
                  </Button>
                ))}
              </span>
            )}
            {typed ? (
              <>
                typed <Kbd>{typed}</Kbd>
              </>
            ) : (
              'Type a short code, or press a category; the same again takes it off. Press w for the words of the answer.'
            )}
          </p>
          <CodeGrid
            categories={leaves}
            typed={typed}
            has={(c) => {
              const has = codeOf(answer, c.id);
              return has?.suggested ? 'suggested: press to confirm' : !!has;
            }}
            press={give}
          />
          {noting && (
            <Note answer={noting} close={() => setNoting(undefined)} keep={(ids, note) => put(ids, noting, note)} />
          )}
        </>
      ) : (
        fresh &&
        ahead.data &&
        first === undefined && (
          <Empty>
            {before ? (
              <>
                That was the last one.{' '}
                <Button look="plain" onClick={back}>
                  Back <Kbd>k</Kbd>
                </Button>
              </>
            ) : group ? (
              'Nothing of this group is left.'
            ) : (
              'Nothing is left here: every answer in this focus is coded or settled.'
            )}
          </Empty>
        )
      )}
    </section>
  );
}
