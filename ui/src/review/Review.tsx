import { useEffect, useMemo, useRef, useState } from 'react';
import { useNavigate } from 'react-router';
import { Codes, Who, Words } from '../answers/Answers';
import { useFocus } from '../lib/address';
import { type Answer, api, type Condition, type FrameLine, take } from '../lib/api';
import { useAsk, useDesk, useFrame, useQuestionId } from '../lib/desk';
import { count, percent, tint } from '../lib/format';
import { useKeys } from '../lib/keys';

const left: Condition[] = [
  { kind: 'coded', not: true },
  { kind: 'settled', not: true },
];

/** Works through what no rule has caught, one answer at a time. */
export default function Review() {
  const { question, edit } = useDesk();
  const { focus, focusText, narrow, pick, setPick, params, set } = useFocus();
  const id = useQuestionId();
  const navigate = useNavigate();
  const frame = useFrame(focusText);
  const all = params.get('all') === '1';
  const [typed, setTyped] = useState('');
  // Which answer is on the page stands in the address line; the answers pane marks it, and sets it when one is pressed there.
  const at = params.has('at') ? Number(params.get('at')) : undefined;
  const queue = useMemo(() => JSON.stringify(all ? focus : [...focus, ...left]), [focus, all]);

  // What the answers pane shows follows: everything that is left in the focus.
  const wanted = all ? '' : JSON.stringify(left);
  const now = JSON.stringify(pick);
  useEffect(() => {
    if (!pick.length && wanted) setPick(left);
    if (all && now === JSON.stringify(left)) setPick([]);
  }, [pick.length, wanted, now, all, setPick]);

  const useList = (key: string, offset: number, limit: number) =>
    useAsk(['answers', queue, 'review', at, key], (q) =>
      take(
        api.GET('/api/v1/questions/{question}/answers', {
          params: { path: { question: q }, query: { focus: queue, at: at ?? 0, offset, limit } },
        }),
      ),
    );
  const ahead = useList('ahead', 0, 6);
  const behind = useList('behind', -1, 1);
  // The answer stays on the page after it was coded, so that it can be given another category.
  const one = useAsk(
    ['answers', 'one', at, queue],
    (q) =>
      take(
        api.GET('/api/v1/questions/{question}/answers', {
          params: {
            path: { question: q },
            query: { focus: JSON.stringify([...focus, { kind: 'answers', answers: [at ?? 0] }]), limit: 1 },
          },
        }),
      ),
    at !== undefined,
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
  const after = (n: number | undefined) => ahead.data?.answers.find((a) => a.number > (n ?? -1));
  const next = after(at);
  const before = behind.data?.answers.find((a) => a.number < (at ?? 0));
  const total = ahead.data?.total ?? 0;
  const place = (ahead.data?.offset ?? 0) + 1;

  // Without a place, or at one that the focus no longer holds, the next one is taken up.
  const lost = at === undefined || (fresh && !one.isPlaceholderData && one.data?.answers.length === 0);
  const first = ahead.data?.answers[0]?.number;
  useEffect(() => {
    if (lost && fresh && first !== undefined && first !== at) set({ at: String(first) }, true);
  }, [lost, fresh, first, at, set]);
  const go = (n: number | undefined) => {
    if (n === undefined) return;
    setTyped('');
    meant.current = n;
    set({ at: String(n) }, true);
  };
  const forward = () => go(after(meant.current)?.number);
  const back = () => go(before?.number);

  const leaves = (frame.data?.categories ?? []).filter((c) => !c.net);
  const has = (a: Answer | undefined, c: FrameLine) => !!a?.codes.some((x) => x.id === c.id);
  const give = (c: FrameLine | undefined) => {
    const a = aim();
    setTyped('');
    if (c && a) edit({ kind: 'decide', category: c.id, answers: [a.number], to: has(a, c) ? 'off' : 'on' });
  };
  const settle = () => {
    const a = aim();
    if (!a) return;
    edit({ kind: 'settle', answers: [a.number], on: !a.settled });
    if (!a.settled) forward();
  };
  const type = (k: string) => {
    const t = typed + k;
    const may = leaves.filter((c) => c.short?.toLowerCase().startsWith(t));
    if (may.length === 1 && may[0]!.short?.toLowerCase() === t) give(may[0]);
    else setTyped(may.length ? t : '');
  };
  const letters = Object.fromEntries(
    [...'abcdefghijklmnopqrstuvwxyz0123456789'].map((k) => [
      k,
      () => {
        if (typed || /\d/.test(k)) return type(k);
        if (k === 'j') forward();
        if (k === 'k') back();
        if (k === 's') settle();
        if (k === 'n') navigate(`/q/${id}/code?${new URLSearchParams({ draft: ' ' })}`);
      },
    ]),
  );
  const { z: zTyped, f: fTyped, ...free } = letters;
  // A short code that has been begun takes its letters before any other key does.
  useKeys(
    {
      ...free,
      ...(typed ? { z: zTyped!, f: fTyped! } : {}),
      Enter: () => give(leaves.find((c) => c.short?.toLowerCase() === typed)),
      Escape: () => setTyped(''),
      ArrowDown: forward,
      ArrowUp: back,
    },
    true,
  );

  const terms = useAsk(['terms', 'left', queue], (q) =>
    take(
      api.GET('/api/v1/questions/{question}/terms', {
        params: { path: { question: q }, query: { focus: queue, limit: 14 } },
      }),
    ),
  );
  const coverage = question.answered ? question.coded / question.answered : 0;
  return (
    <div className="reviewv">
      <section aria-label="What is left">
        <p className="caption">
          {count(question.left)} left of {count(question.answered)} · {percent(coverage)} coded
        </p>
        <div className="meter" role="img" aria-label={`${percent(coverage)} of the answered are coded`}>
          <i style={{ width: percent(coverage).replace(' ', '') }} />
        </div>
        <p className="soft small">
          {count(question.settled)} settled · {count(question.byHand)} coded by hand
        </p>
        <p>
          <label>
            <input type="checkbox" checked={all} onChange={() => set({ all: all ? '' : '1', at: '', pick: '' })} />{' '}
            coded ones too
          </label>
        </p>
        <p className="caption">{all ? 'Said most' : 'Said most in what is left'}</p>
        <ol className="plainlist ruled">
          {terms.data?.terms.map((t) => (
            <li key={t.label} className="stepline two">
              <button
                type="button"
                className="plain"
                onClick={() => narrow({ kind: 'term', text: t.label })}
                title="narrow the focus to these"
              >
                {t.label}
              </button>
              <span>{count(t.answers)}</span>
            </li>
          ))}
        </ol>
      </section>
      <section aria-label="The answer">
        {ahead.error && <p className="bad">{ahead.error.message}</p>}
        {answer ? (
          <>
            <p className="soft row wrap">
              <span>
                {count(Math.min(place, Math.max(total, 1)))} of {count(total)}
              </span>
              <button type="button" className="plain" disabled={!next} onClick={forward}>
                next <kbd>j</kbd>
              </button>
              <button type="button" className="plain" disabled={!before} onClick={back}>
                back <kbd>k</kbd>
              </button>
              <button type="button" className="plain" aria-pressed={answer.settled} onClick={settle}>
                {answer.settled ? 'settled' : 'settle'} <kbd>s</kbd>
              </button>
            </p>
            <p className="big" lang="en" aria-live="polite">
              <Words answer={answer} />
            </p>
            <Who answer={answer} />
            <Codes codes={answer.codes} />
            <p className="caption grid-head" role="status">
              {typed ? (
                <>
                  typed <kbd>{typed}</kbd>
                </>
              ) : (
                'Type a short code, or press a category. The same again takes it off.'
              )}
            </p>
            <div className="keygrid">
              {leaves.map((c) => (
                <button
                  type="button"
                  key={c.id}
                  className={tint(c.top)}
                  aria-pressed={has(answer, c)}
                  onClick={() => give(c)}
                  data-near={typed && c.short?.toLowerCase().startsWith(typed) ? '' : undefined}
                >
                  <kbd>{c.short}</kbd> <span>{c.name}</span>
                </button>
              ))}
              {leaves.length === 0 && <p className="empty">There is no category yet. Make one in Code.</p>}
            </div>
          </>
        ) : (
          fresh &&
          ahead.data &&
          first === undefined && (
            <p className="empty">
              {before ? (
                <>
                  That was the last one.{' '}
                  <button type="button" className="plain" onClick={back}>
                    Back <kbd>k</kbd>
                  </button>
                </>
              ) : (
                'Nothing is left here: every answer in this focus is coded or settled.'
              )}
            </p>
          )
        )}
      </section>
    </div>
  );
}
