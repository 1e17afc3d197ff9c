import { useEffect, useRef, useState } from 'react';
import { useAddress } from '../lib/address';
import { api, type Suggestion } from '../lib/api';
import { useDesk } from '../lib/edits';
import { count, many } from '../lib/format';
import { useKept } from '../lib/kept';
import { useCommands } from '../lib/keys';
import { useAsk, useQuestionId } from '../lib/queries';
import { Failed } from '../parts/Asked';
import { Button, Kbd } from '../parts/Button';
import { Checkbox } from '../parts/Checkbox';
import { Progress } from '../parts/Progress';
import { Stops } from '../parts/Stops';
import { Empty, Skeleton } from '../parts/Text';
import { ToggleGroup } from '../parts/ToggleGroup';
import { useEffectOf } from '../rule/EffectOf';
import { EffectInWords, MergedInWords } from './Sheets';

const kinds = {
  misspelt: ['misspelt', 'rare words, in no dictionary, that one or two letters make a frequent word of'],
  joined: ['joined and parted', 'one word here, two words there'],
  stem: ['of one stem', 'words that differ by an ending, one of them in no dictionary'],
  alike: ['used alike', 'words that mean much the same and stand in the same surroundings; read before you take them'],
} as const;
type Kind = keyof typeof kinds;

/** Terms that may be one, each with what speaks for it: one key takes it, one refuses it. */
export default function Suggestions() {
  const id = useQuestionId();
  const { edit, say } = useDesk();
  const { one, set, setPick } = useAddress();
  const [at, setAt] = useState(0);
  const [left, setLeft] = useKept<Record<string, string[]>>('unticked variants', {});
  const kind = one('kind', Object.keys(kinds) as Kind[]);
  const found = useAsk('suggestions', { kind, limit: 40 });
  const refetch = found.refetch;
  const running = found.data?.running;
  const again = async () => {
    await api.GET('/api/v1/questions/{question}/suggestions', {
      params: { path: { question: id }, query: { anew: true, limit: 0 } },
    });
    refetch();
  };
  useEffect(() => {
    if (!running) return;
    const timer = setInterval(() => refetch(), 700);
    return () => clearInterval(timer);
  }, [running, refetch]);
  const list = found.now?.list ?? [];
  const current = Math.min(at, Math.max(list.length - 1, 0));
  const now = list[current];
  const key = (s: Suggestion) => `${s.kind} ${s.term}`;
  // What would be hidden with its term is left out unless one ticks it.
  const leftOut = (s: Suggestion) => left[key(s)] ?? (s.stop ? s.variants.map((v) => v.text) : []);
  const ticked = (s: Suggestion) => s.variants.filter((v) => !leftOut(s).includes(v.text)).map((v) => v.text);
  // Once one walks through them, the answers pane shows those of the current one, whichever comes up.
  const [walking, setWalking] = useState(false);
  const rule = now?.variants.map((v) => v.text).join(' / ');
  useEffect(() => {
    if (walking && rule) setPick([{ kind: 'words', text: rule }]);
  }, [walking, rule, setPick]);
  const show = (i: number) => {
    setAt(i);
    setWalking(true);
  };
  const rest = () => {
    setWalking(false);
    setPick([]);
  };
  const act =
    (how: 'merge' | 'apart') =>
    async (s = now) => {
      if (!s) return;
      // With none ticked, it is the whole suggestion that is refused.
      const meant = how === 'apart' && !ticked(s).length ? s.variants.map((v) => v.text) : ticked(s);
      if (!meant.length) return say({ text: `Nothing is ticked: ${s.term} is hidden, and these would be, too.` });
      if (list.length === 1) rest();
      await edit({ kind: how, label: s.term, terms: meant });
    };
  const takeIt = act('merge');
  const refuse = act('apart');
  const scroller = useRef<HTMLDivElement>(null);
  useCommands(
    'Suggestions',
    [
      {
        key: 'ArrowDown',
        words: 'Next suggestion',
        act: () => show(Math.min(current + 1, list.length - 1)),
        move: true,
      },
      { key: 'ArrowUp', words: 'Suggestion before', act: () => show(Math.max(current - 1, 0)), move: true },
      { key: 't', words: 'Accept the suggestion', act: () => takeIt(), off: !now },
      { key: 'r', words: 'Refuse the suggestion: keep the terms apart', act: () => refuse(), off: !now },
      { key: 'Escape', words: 'Let go of the suggestion', act: rest, off: !walking, move: true },
    ],
    { list: scroller },
  );
  return (
    <div
      ref={scroller}
      data-list=""
      role="region"
      aria-label="Suggestions" // biome-ignore lint/a11y/noNoninteractiveTabindex: a scrolling region must be reachable by keyboard
      tabIndex={0}
      className="min-h-0 max-w-280 flex-1 overflow-auto pt-0.5 pr-2"
    >
      <div className="flex flex-wrap items-baseline gap-2.5 pb-2">
        <ToggleGroup
          label="Kind of suggestion"
          value={kind}
          options={(Object.keys(kinds) as Kind[]).map((k) => ({
            value: k,
            words: `${kinds[k][0]} ${count(found.data?.counts[k] ?? 0)}`,
          }))}
          change={(k) => {
            set({ kind: k, pick: '' });
            setAt(0);
          }}
        />
        <span className="text-soft ml-auto">
          accept <Kbd>t</Kbd> keep apart <Kbd>r</Kbd> next <Kbd>↓</Kbd>
        </span>
      </div>
      <p className="text-sm text-soft">
        {kinds[kind][1]}
        {!!found.data?.refused && (
          <>
            {' · '}
            <Button look="plain" onClick={() => set({ tab: 'lexicon', pick: '' })}>
              {many(found.data.refused, 'pair')} kept apart
            </Button>
          </>
        )}
      </p>
      {!found.data && !found.error && <Skeleton lines={6} />}
      {found.error && <Failed error={found.error} again={() => found.refetch()} />}
      {running && (
        <p role="status" className="flex items-baseline gap-2.5">
          <span className="w-40">
            <Progress label="Looking for terms that may be one" share={found.data?.part ?? 0} />
          </span>
          looking through all words: {Math.round(100 * (found.data?.part ?? 0))} %
          <Button
            look="plain"
            onClick={async () => {
              await api.DELETE('/api/v1/questions/{question}/suggestions', { params: { path: { question: id } } });
              refetch();
            }}
          >
            Cancel
          </Button>
        </p>
      )}
      {found.data?.stopped && (
        <Empty>
          Looking was cancelled.{' '}
          <Button look="plain" onClick={again}>
            Look again
          </Button>
        </Empty>
      )}
      {found.now && !running && !found.now.stopped && list.length === 0 && (
        <Empty>
          Nothing {Object.values(found.now.counts).some(Boolean) ? 'more of this kind ' : ''}to suggest. What you keep
          apart is not suggested again.
        </Empty>
      )}
      <ol>
        {list.map((s, i) => (
          <Line
            key={key(s)}
            s={s}
            current={i === current}
            near={i === current || i === current + 1}
            ticked={ticked(s)}
            tick={(text, on) => {
              const out = leftOut(s);
              setLeft({ ...left, [key(s)]: on ? out.filter((x) => x !== text) : [...out, text] });
            }}
            show={() => show(i)}
            take={() => takeIt(s)}
            refuse={() => refuse(s)}
          />
        ))}
      </ol>
      {found.data && !running && !found.data.stopped && (
        <p className="text-sm text-soft">
          {found.data.total > list.length && `The next of ${count(found.data.total)} come up as these are decided. `}
          Found under the lexicon as it was when they were looked for.{' '}
          <Button look="plain" onClick={again}>
            Look again
          </Button>
        </p>
      )}
    </div>
  );
}

type LineProps = {
  s: Suggestion;
  current: boolean;
  /** Its effect is worked out: it is the current one, or comes next. */
  near: boolean;
  ticked: string[];
  tick: (text: string, on: boolean) => void;
  show: () => void;
  take: () => void;
  refuse: () => void;
};

function Line({ s, current, near, ticked, tick, show, take: takeIt, refuse }: LineProps) {
  const ref = useRef<HTMLLIElement>(null);
  useEffect(() => {
    if (current) ref.current?.scrollIntoView({ block: 'nearest' });
  }, [current]);
  const effect = useEffectOf({ kind: 'merge', label: s.term, terms: ticked }, near && ticked.length > 0);
  return (
    <li
      ref={ref}
      data-part="suggestion"
      className={`grid grid-cols-[minmax(0,1fr)_auto] items-baseline gap-3.5 border-t border-hair pt-1.5 pr-2 pb-1.75
        pl-2 ${current ? 'bg-mosspale forced-colors:outline' : ''}`}
      aria-current={current}
    >
      <Stops across>
        <p>
          <Button look="plain" tabIndex={-1} onClick={show}>
            <b className="text-lg">{s.term}</b>
          </Button>{' '}
          <span className="text-soft">
            {count(s.times)}
            {s.stop && ', hidden: these will be hidden with it'}
          </span>{' '}
          ←{' '}
          {s.variants.map((v) => (
            <span key={v.text} className="mr-3 whitespace-nowrap" title={v.edits.join(', ')}>
              {(s.variants.length > 1 || s.stop) && (
                <Checkbox
                  stop={false}
                  {...(current ? { 'data-stop': '' } : {})}
                  label={`Take ${v.text} too`}
                  checked={ticked.includes(v.text)}
                  change={(on) => tick(v.text, on)}
                />
              )}{' '}
              {v.text} <span className="text-soft">{count(v.times)}</span>
              {v.edits.length > 0 && current && <small> {v.edits.join(', ')}</small>}
            </span>
          ))}
        </p>
        <p className="text-sm text-soft">
          {many(s.answers, 'answer')}
          {s.kind === 'alike' && s.same && ' · mean much the same'}
          {s.kind === 'alike' &&
            ` · surroundings ${s.score.toFixed(2)} alike${s.shared.length ? `: ${s.shared.join(', ')}` : ''}`}
          {current && ticked.length > 0 && (
            <>
              {' · '}
              {effect.error ? (
                effect.error.message
              ) : effect.now ? (
                <>
                  <MergedInWords effect={effect.now} />
                  <EffectInWords effect={effect.now} />
                </>
              ) : (
                '…'
              )}
            </>
          )}
        </p>
      </Stops>
      {current ? (
        <span className="flex items-baseline gap-2.5">
          <Button onClick={takeIt} disabled={!ticked.length}>
            Accept
          </Button>
          <Button look="plain" onClick={refuse}>
            Keep apart
          </Button>
        </span>
      ) : (
        <Button look="plain" tabIndex={-1} aria-label={`Look at what may be ${s.term}`} onClick={show}>
          Look
        </Button>
      )}
    </li>
  );
}
