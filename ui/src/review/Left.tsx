import { useEffect, useRef, useState } from 'react';
import { useAddress } from '../lib/address';
import { useDesk } from '../lib/edits';
import { count, percent } from '../lib/format';
import { useAsk } from '../lib/queries';
import { itemAt } from '../lib/required';
import { Failed } from '../parts/Asked';
import { Button } from '../parts/Button';
import { Checkbox } from '../parts/Checkbox';
import { Progress } from '../parts/Progress';
import { optionsOf, Select } from '../parts/Select';
import { Stops } from '../parts/Stops';
import { Caption, Labelled } from '../parts/Text';
import Groups from './Groups';
import { MakerField } from './MakerField';
import Queue from './Queue';
import { grouped, left, type Way, ways } from './ways';

/** What is left, in the way that was chosen: in groups, or one answer at a time. */
export default function Left() {
  const { focusText, get, set, one } = useAddress();
  const way = one('way', Object.keys(ways) as Way[]);
  const all = get('all') === '1';
  return (
    <div className="grid max-w-300 grid-cols-[14.5rem_minmax(0,1fr)] gap-7 max-md:grid-cols-1">
      <section aria-label="What is left">
        <Coverage />
        <div className="grid gap-2 pb-3">
          <Labelled name="Go through it">
            <Select
              label="Go through it"
              value={way}
              change={(v) =>
                set({
                  way: v === 'groups' ? '' : v,
                  at: '',
                  group: '',
                  pick: '',
                  all: grouped(v) ? '' : get('all'),
                })
              }
              options={optionsOf(ways)}
            />
          </Labelled>
          {!grouped(way) && (
            <label>
              <Checkbox checked={all} change={() => set({ all: all ? '' : '1', at: '', pick: '' })} /> coded ones too
            </label>
          )}
        </div>
        <Segments />
        {!grouped(way) && <SaidMost focus={queueFocus(focusText, all)} all={all} />}
        <MakerField words="Your name, kept with what you decide" />
      </section>
      {grouped(way) ? <Groups alike={way === 'alike'} /> : <Queue />}
    </div>
  );
}

const queueFocus = (focus: string, all: boolean) =>
  all ? focus : JSON.stringify([...(focus ? JSON.parse(focus) : []), ...left]);

/** How far the question is coded, and how fast that goes. */
function Coverage() {
  const { question } = useDesk();
  const share = question.answered ? question.coded / question.answered : 0;
  const pace = usePace(question.left, question.id);
  return (
    <>
      <Caption>
        {count(question.left)} left of {count(question.answered)} · {percent(share)} coded
      </Caption>
      <Progress label={`${percent(share)} of the answered are coded`} share={share} />
      <p className="py-1.5 text-sm text-soft">
        {count(question.settled)} settled · {count(question.byHand)} coded by hand
        {pace > 0 && (
          <>
            <br />
            {count(pace)} fewer left a minute
          </>
        )}
      </p>
    </>
  );
}

const window10 = 10 * 60_000;

/** How many fewer are left a minute, over the last ten minutes of work here; 0 where that says nothing yet. */
function usePace(left: number, question: number) {
  const seen = useRef<{ question: number; list: { at: number; left: number }[] }>({ question, list: [] });
  const [pace, setPace] = useState(0);
  useEffect(() => {
    const now = Date.now();
    if (seen.current.question !== question) seen.current = { question, list: [] };
    const list = seen.current.list.filter((s) => now - s.at < window10);
    if (list.at(-1)?.left !== left) list.push({ at: now, left });
    seen.current.list = list;
    const first = itemAt(list, 0);
    const minutes = (now - first.at) / 60_000;
    setPace(list.length > 3 ? Math.max(0, Math.round((first.left - left) / Math.max(minutes, 0.5))) : 0);
  }, [left, question]);
  return pace;
}

/** What is left by segment, so that none is left behind: the one with most left first. */
function Segments() {
  const { question } = useDesk();
  const { focusText, narrow } = useAddress();
  const segments = question.variables.filter((v) => v.role === 'segment' || v.role === 'wave');
  const [by, setBy] = useState('');
  const found = useAsk('coverage', { focus: focusText, by }, { enabled: !!by });
  if (!segments.length) return null;
  const lines = [...(found.now?.values ?? [])]
    .filter((v) => v.answered)
    .sort((a, b) => b.left / b.answered - a.left / a.answered);
  return (
    <div className="pb-4">
      <Labelled name="Left by segment">
        <Select
          label="Left by segment"
          value={by}
          change={setBy}
          options={[{ value: '', words: 'not shown' }, ...segments.map((v) => ({ value: v.name, words: v.name }))]}
        />
      </Labelled>
      {by && found.error && <Failed error={found.error} again={() => found.refetch()} />}
      {by && (
        <Stops as="ol" className="mt-1.5 border-b" aria-busy={!found.now}>
          {lines.map((v) => (
            <li key={v.value} className="grid grid-cols-[1fr_auto] gap-x-2 border-t py-1">
              <Button
                look="plain"
                data-stop=""
                className="truncate"
                title="narrow the focus to these"
                onClick={() => narrow({ kind: 'variable', name: by, op: '=', values: [v.value] })}
              >
                {v.value}
              </Button>
              <span className="whitespace-nowrap">
                {count(v.left)} <small className="text-soft">{percent(v.left / v.answered)}</small>
              </span>
            </li>
          ))}
        </Stops>
      )}
    </div>
  );
}

/** The terms that are said most in what is gone through. */
function SaidMost({ focus, all }: { focus: string; all: boolean }) {
  const { narrow } = useAddress();
  const terms = useAsk('terms', { focus, limit: 10 });
  return (
    <>
      <Caption>{all ? 'Said most' : 'Said most in what is left'}</Caption>
      <Stops as="ol" className="mb-4 border-b">
        {terms.data?.terms.map((t) => (
          <li key={t.label} className="grid grid-cols-[1fr_auto] items-baseline gap-x-1 gap-y-0.5 border-t py-1.25">
            <Button
              look="plain"
              data-stop=""
              onClick={() => narrow({ kind: 'term', text: t.label })}
              title="narrow the focus to these"
            >
              {t.label}
            </Button>
            <span>{count(t.answers)}</span>
          </li>
        ))}
      </Stops>
    </>
  );
}
