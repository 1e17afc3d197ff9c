import { useEffect, useRef, useState } from 'react';
import { useNavigate } from 'react-router';
import { Words } from '../answers/Words';
import { useAddress } from '../lib/address';
import type { AnswerGroup, Queued } from '../lib/api';
import { categoryOptions, useDesk } from '../lib/edits';
import { count, many } from '../lib/format';
import { useCommands } from '../lib/keys';
import { useAsk, useFrame, useQuestionId } from '../lib/queries';
import { Failed } from '../parts/Asked';
import { Button, Kbd } from '../parts/Button';
import { Checkbox } from '../parts/Checkbox';
import { Combobox } from '../parts/Combobox';
import { useRoving } from '../parts/roving';
import { Empty } from '../parts/Text';
import { RuleText } from '../rule/Rule';
import { conditions, examplesOf, heading, likelyOf, nameOf } from './groups';
import { chance, Learning } from './Under';

/** What is left in groups, those that gain most first: one rule or one decision may do for all of a group. */
export default function Groups({ alike }: { alike: boolean }) {
  const { focusText, set, setPick, pickText } = useAddress();
  const found = useAsk(
    'groups',
    { focus: focusText, of: alike ? 'alike' : 'all' },
    { refetchInterval: (q) => (q.state.data && !q.state.data.learned?.current ? 1500 : false) },
  );
  const list = found.data?.groups ?? [];
  // The group one is at stays the same while others come and go; where it is done with, the one that comes up in its place is next.
  const [open, setOpen] = useState({ name: '', place: 0 });
  const [moved, setMoved] = useState(false);
  const named = list.findIndex((g) => nameOf(g) === open.name);
  const at = named >= 0 ? named : Math.max(0, Math.min(open.place, list.length - 1));
  // Groups of an earlier focus stand there until the new ones come, and are not acted on.
  const now = found.isPlaceholderData ? undefined : list[at];
  const likely = now && likelyOf(now);
  const acts = useActs();
  const stops = useRoving<HTMLOListElement>();
  const show = (g: AnswerGroup | undefined) => {
    if (!g) return;
    setMoved(true);
    setOpen({ name: nameOf(g), place: list.indexOf(g) });
    setPick(conditions(g));
  };
  useCommands('Groups', [
    { key: 'ArrowDown', words: 'Next group', act: () => show(list[at + 1]), move: true },
    { key: 'ArrowUp', words: 'Group before', act: () => show(list[at - 1]), move: true },
    { key: 'j', words: 'Next group', act: () => show(list[at + 1]) },
    { key: 'k', words: 'Group before', act: () => show(list[at - 1]) },
    {
      key: 'r',
      words: 'Make a rule for the group',
      act: () => now?.kind === 'words' && acts.rule(now),
      off: now?.kind !== 'words',
    },
    {
      key: 'y',
      words: 'Put the group into its likely category',
      act: () => now && likely && acts.put(likely.id, now.answers, now.kind === 'likely'),
      off: !likely,
    },
    { key: 's', words: 'Settle all of the group', act: () => now && acts.settle(now.answers), off: !now },
    {
      key: 'o',
      words: 'Go through the group one by one',
      act: () => now && set({ way: 'file', group: JSON.stringify(conditions(now)), at: '', pick: '' }),
      off: !now,
    },
  ]);
  useEffect(() => {
    if (!now || (nameOf(now) === open.name && at === open.place)) return;
    if (nameOf(now) !== open.name && (open.name || !pickText)) setPick(conditions(now));
    setOpen({ name: nameOf(now), place: at });
  }, [now, at, open, pickText, setPick]);
  if (found.error && !found.data) return <Failed error={found.error} again={() => found.refetch()} />;
  if (!found.data) return <Learning words={alike ? 'Comparing answers…' : 'Looking for groups…'} />;
  if (!list.length)
    return (
      <Empty>
        {found.data.left
          ? `No groups: the ${many(found.data.left, 'answer')} left ${alike ? 'are not alike' : 'have little in common'}. Go through them one at a time.`
          : 'Nothing is left here: every answer in this focus is coded or settled.'}
      </Empty>
    );
  return (
    <section aria-label="Groups of what is left" aria-busy={found.isPlaceholderData} className="min-w-0">
      <p className="pb-1 text-sm text-soft">
        Those that gain most first. An answer may be in several groups. <Kbd>j</Kbd> <Kbd>k</Kbd> go from one to the
        next.
      </p>
      <ol {...stops} className="border-b">
        {list.map((g) => (
          <Group
            key={nameOf(g)}
            of={g}
            on={g === now}
            moved={moved}
            show={() => show(g)}
            oneByOne={() => set({ way: 'file', group: JSON.stringify(conditions(g)), at: '', pick: '' })}
            acts={acts}
          />
        ))}
      </ol>
      {!found.data.learned?.current && (
        <p className="pt-2 text-sm text-soft" role="status">
          {found.data.learned
            ? 'Likely categories are as learned before the last changes; the present coding is being learned.'
            : 'Groups of what is likely come when what is coded has been learned from.'}
        </p>
      )}
    </section>
  );
}

type Telling = Extract<AnswerGroup, { kind: 'words' }>;

/** What can be done with a group. */
function useActs() {
  const { edit } = useDesk();
  const { focusText } = useAddress();
  const id = useQuestionId();
  const navigate = useNavigate();
  return {
    rule: (g: Telling) =>
      navigate(
        `/q/${id}/code?${new URLSearchParams({ ...(focusText ? { focus: focusText } : {}), draft: g.rule, called: g.name, back: window.location.search || '?' })}`,
      ),
    /** What nobody has read is marked so. */
    put: (category: string, answers: number[], suggested = false) =>
      answers.length > 0 && edit({ kind: 'decide', category, answers, to: 'on', suggested: suggested || undefined }),
    make: (called: string, answers: number[]) =>
      answers.length > 0 && edit({ kind: 'add category', name: called, on: answers }),
    settle: (answers: number[]) => answers.length > 0 && edit({ kind: 'settle', answers, on: true }),
  };
}

type Acts = ReturnType<typeof useActs>;
type GroupProps = {
  of: AnswerGroup;
  on: boolean;
  /** One has gone from group to group: the present one is brought into sight. */
  moved: boolean;
  show: () => void;
  oneByOne: () => void;
  acts: Acts;
};

function Group({ of: g, on, moved, show, oneByOne, acts }: GroupProps) {
  const { focusText } = useAddress();
  const frame = useFrame(focusText);
  const lines = frame.data?.categories ?? [];
  const [listed, setListed] = useState(false);
  const [unticked, setUnticked] = useState<number[]>([]);
  const own = useRef<HTMLLIElement>(null);
  useEffect(() => {
    if (on && moved) own.current?.scrollIntoView({ block: 'nearest' });
  }, [on, moved]);
  const answers = g.answers.filter((a) => !unticked.includes(a));
  const some = answers.length < g.gained;
  const leaves = lines.filter((c) => !c.net);
  const likely = likelyOf(g);
  return (
    <li
      ref={own}
      aria-current={on}
      className="grid grid-cols-[3.5rem_minmax(0,1fr)] gap-x-3 border-t py-2.5 aria-[current=true]:bg-mosspale"
    >
      <span className="pt-0.5 text-right font-serif text-xl">
        {count(g.gained)}
        <span className="sr-only"> answers</span>
      </span>
      <div className="min-w-0">
        <p className="flex flex-wrap items-baseline gap-x-2.5">
          <Button
            look="bare"
            className="font-semibold"
            data-stop=""
            onClick={show}
            aria-label={`${heading(g)}: show these answers`}
          >
            {heading(g)}
          </Button>
          {g.kind === 'words' && (
            <span className="font-mono text-sm">
              <RuleText source={g.rule} />
            </span>
          )}
          {g.kind === 'words' && g.matches > g.gained && (
            <small className="text-soft">finds {count(g.matches)} in all</small>
          )}
          {likely && (
            <small className="text-soft">
              {g.kind !== 'likely' && `likely ${likely.name}, `}
              {chance(likely.chance)} on average
            </small>
          )}
        </p>
        {listed && on ? (
          <Listed of={g} unticked={unticked} set={setUnticked} />
        ) : (
          <ul className="font-serif text-lg">
            {examplesOf(g, on).map((a) => (
              <li key={a.number} data-part="said" className={on ? 'line-clamp-2' : 'truncate'}>
                <Words answer={a} />
              </li>
            ))}
          </ul>
        )}
        {on && (
          <p className="flex flex-wrap items-baseline gap-x-3 gap-y-1 pt-1.5">
            {g.kind === 'words' && (
              <Button onClick={() => acts.rule(g)}>
                Make a rule… <Kbd>r</Kbd>
              </Button>
            )}
            {likely && (
              <Button look="go" onClick={() => acts.put(likely.id, answers, g.kind === 'likely')}>
                Put {amount(answers.length, g.gained)} into {likely.name} <Kbd>y</Kbd>
              </Button>
            )}
            <Combobox
              label={`Put ${heading(g)} into a category`}
              placeholder={`put ${amount(answers.length, g.gained)} into…`}
              value=""
              options={categoryOptions(leaves)}
              change={(id) => acts.put(id, answers)}
              create={{ words: (typed) => `New category “${typed}”`, act: (typed) => acts.make(typed, answers) }}
            />
            <Button look="plain" onClick={() => acts.settle(answers)}>
              settle {amount(answers.length, g.gained)} <Kbd>s</Kbd>
            </Button>
            <Button look="plain" onClick={oneByOne}>
              one by one <Kbd>o</Kbd>
            </Button>
            <Button look="plain" aria-expanded={listed} onClick={() => setListed(!listed)}>
              {listed ? 'fold the list' : 'tick them'}
            </Button>
            {some && g.answers.length < g.gained && (
              <small className="text-soft">the first {count(g.answers.length)} at a time</small>
            )}
          </p>
        )}
      </div>
    </li>
  );
}

const amount = (n: number, all: number) => (n === all ? (all === 1 ? 'it' : `all ${count(all)}`) : count(n));

const mostTicked = 50;

/** The answers of a group to be ticked one by one; at first all are. */
function Listed({ of: g, unticked, set }: { of: AnswerGroup; unticked: number[]; set: (to: number[]) => void }) {
  const { focus } = useAddress();
  const found = useAsk('queue', { focus: JSON.stringify([...focus, ...conditions(g)]), limit: mostTicked });
  if (found.error) return <Failed error={found.error} again={() => found.refetch()} />;
  const answers: Queued[] = found.now?.answers ?? [];
  return (
    <ul className="max-h-80 overflow-y-auto border-y border-hair py-1" aria-busy={!found.now}>
      {answers.map((a) => (
        <li key={a.number}>
          <label className="flex items-baseline gap-2 py-0.5">
            <Checkbox
              checked={!unticked.includes(a.number)}
              change={(on) => set(on ? unticked.filter((u) => u !== a.number) : [...unticked, a.number])}
            />
            <span data-part="said" className="font-serif text-lg break-words">
              <Words answer={a} />
            </span>
          </label>
        </li>
      ))}
      {g.gained > answers.length && answers.length > 0 && (
        <li className="text-sm text-soft">and {count(g.gained - answers.length)} more, all ticked</li>
      )}
    </ul>
  );
}
