import { useRef, useState } from 'react';
import { Who, Words } from '../answers/Words';
import { useAddress } from '../lib/address';
import { api, type BlindPage, type FrameLine, take } from '../lib/api';
import { count } from '../lib/format';
import { useCommands, useKeys } from '../lib/keys';
import { useFrame, useQuestionId } from '../lib/queries';
import { required } from '../lib/required';
import { Failed } from '../parts/Asked';
import { Button, Kbd } from '../parts/Button';
import { Progress } from '../parts/Progress';
import { Empty, Skeleton } from '../parts/Text';
import { CodeGrid, codeKeys, useShortCodes } from './ShortCodes';
import { agreed, coderName, useBlind, useSamplesAgain } from './samples';

type Props = { sample: number; name: string; coder: string; close: () => void };

/** Codes a sample blind: nothing says how its answers are coded. Each answer is kept as one goes on; one may stop at any time. */
export function Blind({ sample, name, coder, close }: Props) {
  const { number, set } = useAddress();
  const place = number('at', -1, -1);
  const page = useBlind(sample, coder, place);
  const frame = useFrame('');
  const leaves = (frame.data?.categories ?? []).filter((c) => !c.net);
  if (page.error && !page.data) return <Failed error={page.error} again={() => page.refetch()} />;
  if (!page.data || !frame.data) return <Skeleton lines={6} />;
  const p = page.data;
  const done = p.total ? p.coded / p.total : 1;
  return (
    <section aria-label="Coding blind" className="max-w-220">
      <p className="flex flex-wrap items-baseline gap-x-3 pb-1.5">
        <b>{name}</b>
        <span className="text-soft">
          {coder === agreed ? 'what coders gave differently' : `coded by ${coderName(coder)}`} · {count(p.coded)} of{' '}
          {count(p.total)} coded
        </span>
        <Button look="plain" className="ml-auto" onClick={close}>
          stop for now
        </Button>
      </p>
      <Progress label={`${count(p.coded)} of ${count(p.total)} coded`} share={done} />
      {p.answer ? (
        <One key={`${sample} ${coder} ${p.answer.number}`} page={p} leaves={leaves} sample={sample} coder={coder} />
      ) : (
        <Empty>
          {p.total === 0 ? 'There is nothing to code here.' : 'All of it is coded.'}{' '}
          <Button onClick={close}>See the figures</Button>{' '}
          {p.total > 0 && (
            <Button look="plain" onClick={() => set({ at: String(p.total - 1) }, true)}>
              back to the last one <Kbd>k</Kbd>
            </Button>
          )}
        </Empty>
      )}
    </section>
  );
}

type OneProps = { page: BlindPage; leaves: FrameLine[]; sample: number; coder: string };

function One({ page: p, leaves, sample, coder }: OneProps) {
  const { set } = useAddress();
  const id = useQuestionId();
  const again = useSamplesAgain();
  const [given, setGiven] = useState(p.given);
  const chosen = useRef(p.given);
  const [error, setError] = useState<Error>();
  const busy = useRef(false);
  const answer = required(p.answer);
  const go = (to: number) => set({ at: String(Math.max(0, to)) }, true);
  // What was chosen is kept before the next answer comes: who stops here has lost nothing.
  const keep = async (categories: string[]) => {
    if (busy.current) return;
    busy.current = true;
    try {
      await take(
        api.PUT('/api/v1/questions/{question}/samples/{sample}/codes', {
          params: { path: { question: id, sample }, query: { coder } },
          body: { answer: answer.number, coded: true, categories },
        }),
      );
      setError(undefined);
      go(p.place + 1);
      await again();
    } catch (e) {
      setError(e as Error);
    } finally {
      busy.current = false;
    }
  };
  const turn = (c: FrameLine) => {
    if (!c.id) return;
    const now = chosen.current;
    chosen.current = now.includes(c.id) ? now.filter((g) => g !== c.id) : [...now, c.id];
    setGiven(chosen.current);
  };
  const codes = useShortCodes(leaves, turn);
  const { typed } = codes;
  const next = () => (chosen.current.length || p.done ? keep(chosen.current) : setError(new Error(nothing)));
  const acts: Record<string, [string, () => void]> = {
    j: ['Keep it, and on to the next answer', next],
    k: ['Answer before', () => go(p.place - 1)],
    s: ['None applies: keep that, and on', () => keep([])],
  };
  useCommands(
    'Coding blind',
    Object.entries(acts).map(([key, [words, act]]) => ({ key, words, act })),
  );
  const letters = Object.fromEntries(
    codeKeys.map((k) => [k, () => (typed || /\d/.test(k) ? codes.type(k) : acts[k]?.[1]())]),
  );
  const { z: zTyped, f: fTyped, ...free } = letters;
  useKeys(
    {
      ...free,
      ...(typed ? { z: required(zTyped), f: required(fTyped) } : {}),
      Enter: () => (typed ? codes.enter() : next()),
      Escape: codes.forget,
      ArrowDown: next,
      ArrowUp: () => go(p.place - 1),
    },
    { early: true },
  );
  const names = (ids: string[]) =>
    leaves
      .filter((c) => ids.includes(c.id))
      .map((c) => c.name)
      .join(', ') || 'none';
  return (
    <>
      <p
        data-part="said"
        className="py-3 font-serif text-2xl leading-normal break-words whitespace-pre-line"
        aria-live="polite"
      >
        <Words answer={answer} />
      </p>
      <Who answer={{ ...answer, status: 'answered', codes: [] }} />
      {p.others?.map((o) => (
        <p key={o.name} className="pt-1 text-sm text-soft">
          {coderName(o.name)}: {names(o.categories)}
        </p>
      ))}
      {error && <Failed error={error} />}
      <p className="flex flex-wrap items-baseline gap-2.5 pt-4 pb-2 text-soft">
        <Button look="go" disabled={!given.length && !p.done} onClick={next}>
          Keep, and on <Kbd>j</Kbd>
        </Button>
        <Button aria-pressed={p.done && !given.length} onClick={() => keep([])}>
          None applies <Kbd>s</Kbd>
        </Button>
        <Button look="plain" disabled={p.place === 0} onClick={() => go(p.place - 1)}>
          back <Kbd>k</Kbd>
        </Button>
        <span role="status">
          {typed ? (
            <>
              typed <Kbd>{typed}</Kbd>
            </>
          ) : (
            `Answer ${count(p.place + 1)}. Type short codes, or press categories.`
          )}
        </span>
      </p>
      <CodeGrid categories={leaves} typed={typed} has={(c) => given.includes(c.id)} press={turn} />
    </>
  );
}

const nothing = 'Nothing is chosen. Press a category, or s if none applies.';
