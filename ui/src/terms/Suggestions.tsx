import { useEffect, useRef, useState } from 'react';
import { useFocus } from '../lib/address';
import { api, type Suggestion, take } from '../lib/api';
import { useAsk, useDesk, useQuestionId } from '../lib/desk';
import { count, many } from '../lib/format';
import { useKeys } from '../lib/keys';
import { useEffectOf } from '../rule/EffectOf';
import { EffectInWords } from './Sheets';

const kinds = {
  misspelt: ['misspelt', 'rare words that one or two letters make a frequent word of'],
  joined: ['joined and parted', 'one word here, two words there'],
  stem: ['of one stem', 'words that differ by an ending that was not taken off'],
  alike: ['used alike', 'words around which the same words stand; read before you take them'],
} as const;
type Kind = keyof typeof kinds;

/** Terms that may be one, each with what speaks for it: one key takes it, one refuses it. */
export default function Suggestions() {
  const id = useQuestionId();
  const { edit } = useDesk();
  const { params, set, setPick } = useFocus();
  const [at, setAt] = useState(0);
  const [left, setLeft] = useState<Record<string, string[]>>({}); // variants that were unticked
  const asked = (params.get('kind') as Kind) in kinds ? (params.get('kind') as Kind) : undefined;
  const found = useAsk(['suggestions', asked], (question) =>
    take(
      api.GET('/api/v1/questions/{question}/suggestions', {
        params: { path: { question }, query: { kind: asked ?? 'misspelt', limit: 40 } },
      }),
    ),
  );
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
  const list = found.data?.list ?? [];
  const current = Math.min(at, Math.max(list.length - 1, 0));
  const now = list[current];
  const key = (s: Suggestion) => `${s.kind} ${s.term}`;
  const ticked = (s: Suggestion) => s.variants.filter((v) => !left[key(s)]?.includes(v.text)).map((v) => v.text);
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
    (kind: 'merge' | 'apart') =>
    async (s = now) => {
      if (!s || !ticked(s).length) return;
      if (list.length === 1) rest();
      await edit({ kind, label: s.term, terms: ticked(s) });
    };
  const takeIt = act('merge');
  const refuse = act('apart');
  useKeys({
    ArrowDown: () => show(Math.min(current + 1, list.length - 1)),
    ArrowUp: () => show(Math.max(current - 1, 0)),
    t: () => takeIt(),
    r: () => refuse(),
    Escape: rest,
  });
  return (
    <div className="suggestv">
      <div className="row wrap tools">
        {(Object.keys(kinds) as Kind[]).map((k) => (
          <button
            key={k}
            type="button"
            className="plain"
            aria-pressed={k === (asked ?? 'misspelt')}
            title={kinds[k][1]}
            onClick={() => {
              set({ kind: k, pick: '' });
              setAt(0);
            }}
          >
            {kinds[k][0]} <span className="soft">{count(found.data?.counts[k] ?? 0)}</span>
          </button>
        ))}
        <span className="soft right">
          take <kbd>t</kbd> keep apart <kbd>r</kbd> next <kbd>↓</kbd>
        </span>
      </div>
      <p className="soft small">
        {kinds[asked ?? 'misspelt'][1]}
        {!!found.data?.refused && (
          <>
            {' · '}
            <button type="button" className="plain" onClick={() => set({ tab: 'lexicon', pick: '' })}>
              {many(found.data.refused, 'pair')} kept apart
            </button>
          </>
        )}
      </p>
      {!found.data && !found.error && <p className="ghost">&nbsp;</p>}
      {found.error && <p className="bad">{found.error.message}</p>}
      {running && (
        <p role="status" className="row">
          <progress value={found.data?.part ?? 0} max={1} aria-label="looking for terms that may be one" />
          looking through all words: {Math.round(100 * (found.data?.part ?? 0))} %
          <button
            type="button"
            className="plain"
            onClick={async () => {
              await api.DELETE('/api/v1/questions/{question}/suggestions', { params: { path: { question: id } } });
              refetch();
            }}
          >
            stop
          </button>
        </p>
      )}
      {found.data?.stopped && (
        <p className="empty">
          Looking was given up.{' '}
          <button type="button" className="plain" onClick={again}>
            Look again
          </button>
        </p>
      )}
      {found.data && !running && !found.data.stopped && list.length === 0 && (
        <p className="empty">
          Nothing {Object.values(found.data.counts).some(Boolean) ? 'more of this kind ' : ''}to suggest. What you keep
          apart is not suggested again.
        </p>
      )}
      <ol className="plainlist">
        {list.map((s, i) => (
          <Line
            key={key(s)}
            s={s}
            current={i === current}
            near={i === current || i === current + 1}
            ticked={ticked(s)}
            tick={(text, on) => {
              const out = left[key(s)] ?? [];
              setLeft({ ...left, [key(s)]: on ? out.filter((x) => x !== text) : [...out, text] });
            }}
            show={() => show(i)}
            take={() => takeIt(s)}
            refuse={() => refuse(s)}
          />
        ))}
      </ol>
      {found.data && !running && !found.data.stopped && (
        <p className="soft small">
          {found.data.total > list.length && `The next of ${count(found.data.total)} come up as these are decided. `}
          Found under the lexicon as it was when they were looked for.{' '}
          <button type="button" className="plain" onClick={again}>
            look again
          </button>
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
    <li ref={ref} className={current ? 'suggestion on' : 'suggestion'} aria-current={current}>
      <div>
        <p>
          <button type="button" className="plain" onClick={show}>
            <b>{s.term}</b>
          </button>{' '}
          <span className="soft">
            {count(s.times)}
            {s.stop && ', hidden: these will be hidden with it'}
          </span>{' '}
          ←{' '}
          {s.variants.map((v) => (
            <span key={v.text} className="variant" title={v.edits.join(', ')}>
              {s.variants.length > 1 && (
                <input
                  type="checkbox"
                  aria-label={`take ${v.text} too`}
                  checked={ticked.includes(v.text)}
                  onChange={(e) => tick(v.text, e.target.checked)}
                />
              )}{' '}
              {v.text} <em>{count(v.times)}</em>
              {v.edits.length > 0 && current && <small> {v.edits.join(', ')}</small>}
            </span>
          ))}
        </p>
        <p className="soft small">
          {many(s.answers, 'answer')}
          {s.kind === 'alike' && ` · likeness ${(s.score ?? 0).toFixed(2)}: ${s.shared.join(', ')}`}
          {current && ticked.length > 0 && (
            <>
              {' · '}
              {effect.error ? effect.error.message : effect.data ? <EffectInWords effect={effect.data} /> : '…'}
            </>
          )}
        </p>
      </div>
      {current ? (
        <span className="row">
          <button type="button" onClick={takeIt} disabled={!ticked.length}>
            take
          </button>
          <button type="button" className="plain" onClick={refuse} disabled={!ticked.length}>
            keep apart
          </button>
        </span>
      ) : (
        <button type="button" className="plain" aria-label={`look at what may be ${s.term}`} onClick={show}>
          look
        </button>
      )}
    </li>
  );
}
