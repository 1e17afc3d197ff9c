import { useEffect, useRef, useState } from 'react';
import { useFocus } from '../lib/address';
import { api, type Condition, type FrameLine, take } from '../lib/api';
import { categoryOptions, useAsk, useDesk, useFrame } from '../lib/desk';
import { count, many, percent } from '../lib/format';
import { useKeys } from '../lib/keys';
import { RuleText } from '../rule/Rule';
import { NewCategory } from './NewCategory';

/** Proposals for categories, from terms that come together in what no category has; one key takes one, one refuses it. */
export default function Drafts() {
  const { focusText, set, setPick } = useFocus();
  const { edit } = useDesk();
  const frame = useFrame(focusText);
  const whole = focusText ? 'of the focus' : 'in all';
  const lines: FrameLine[] = frame.data?.categories ?? [];
  const [at, setAt] = useState(0);
  const [up, setUp] = useState('');
  const [changing, setChanging] = useState<{ rule: string; name: string }>();
  const found = useAsk(['drafts', focusText], (question) =>
    take(
      api.GET('/api/v1/questions/{question}/drafts', {
        params: { path: { question }, query: { focus: focusText } },
      }),
    ),
  );
  const list = found.data?.drafts ?? [];
  const current = Math.min(at, Math.max(list.length - 1, 0));
  const now = list[current];
  // Once one walks through them, the answers pane shows those of the current one, whichever comes up.
  const [walking, setWalking] = useState(false);
  const rule = now?.rule;
  useEffect(() => {
    if (walking && rule) setPick(behind(rule));
  }, [walking, rule, setPick]);
  const show = (i: number) => {
    setAt(i);
    setWalking(true);
  };
  const letGo = () => {
    setWalking(false);
    setPick([]);
  };
  const act = (draft = now) => ({
    take: () => draft && edit({ kind: 'add category', parent: up || undefined, name: draft.name, rules: [draft.rule] }),
    refuse: () => draft && edit({ kind: 'refuse draft', rule: draft.rule }),
    change: () => draft && setChanging({ rule: draft.rule, name: draft.name }),
  });
  useKeys({
    ArrowDown: () => show(Math.min(current + 1, list.length - 1)),
    ArrowUp: () => show(Math.max(current - 1, 0)),
    t: () => act().take(),
    e: () => act().change(),
    r: () => act().refuse(),
    Escape: letGo,
  });
  const nowLine = useRef<HTMLLIElement>(null);
  // biome-ignore lint/correctness/useExhaustiveDependencies: another one comes into sight
  useEffect(() => {
    if (walking) nowLine.current?.scrollIntoView({ block: 'nearest' });
  }, [walking, current]);
  if (found.error) return <p className="bad">{found.error.message}</p>;
  if (!found.data) return <p className="ghost">&nbsp;</p>;
  const { base, refused } = found.data;
  const nets = lines.filter((l) => l.net);
  return (
    <div className="draftsv" aria-busy={found.isPlaceholderData}>
      <div className="row wrap tools">
        {nets.length > 0 && (
          <label>
            take them into{' '}
            <select value={up} onChange={(e) => setUp(e.target.value)}>
              <option value="">the top</option>
              {categoryOptions(nets)}
            </select>
          </label>
        )}
        <span className="soft right">
          take <kbd>t</kbd> change first <kbd>e</kbd> refuse <kbd>r</kbd> next <kbd>↓</kbd>
        </span>
      </div>
      <p className="soft small">
        Made of terms that come together in the {many(base, 'answer')} of the focus that no category has and that are
        not settled.
        {refused > 0 && (
          <>
            {' '}
            {many(refused, 'draft')} refused:{' '}
            <button type="button" className="plain" onClick={() => edit({ kind: 'draft again' })}>
              propose them again
            </button>
          </>
        )}
      </p>
      {list.length === 0 && (
        <p className="empty">
          {base
            ? 'No group of terms stands out in what is left. What is left is said in too many ways: read it in Review.'
            : 'Nothing is left uncoded in this focus.'}
        </p>
      )}
      <ol className="plainlist">
        {list.map((d, i) => (
          <li
            key={d.rule}
            ref={i === current ? nowLine : undefined}
            className={i === current ? 'suggestion on' : 'suggestion'}
            aria-current={i === current}
          >
            <div>
              <p>
                <button type="button" className="plain" onClick={() => show(i)}>
                  <b>{d.name}</b>
                </button>{' '}
                <span className="gain">
                  +{count(d.gained)}{' '}
                  <span className="soft">{base ? percent(d.gained / base) : ''} of what is left</span>
                </span>
              </p>
              <p className="rulesource">
                <RuleText source={d.rule} />
              </p>
              <p className="soft small">
                {d.shared
                  ? `${many(d.matches, 'answer')} ${whole}; ${count(d.shared)} of them have another category already`
                  : `${many(d.matches, 'answer')} ${whole}; none has another category`}
              </p>
            </div>
            {i === current ? (
              <span className="row">
                <button type="button" onClick={act(d).take}>
                  take
                </button>
                <button type="button" className="plain" onClick={act(d).change}>
                  change first…
                </button>
                <button type="button" className="plain" onClick={act(d).refuse}>
                  refuse
                </button>
              </span>
            ) : (
              <button type="button" className="plain" aria-label={`look at ${d.name}`} onClick={() => show(i)}>
                look
              </button>
            )}
          </li>
        ))}
      </ol>
      {changing && (
        <NewCategory
          lines={lines}
          draft={changing.rule}
          called={changing.name}
          close={(to) => {
            setChanging(undefined);
            if (to.category) set({ tab: '', ...to });
          }}
        />
      )}
    </div>
  );
}

/** The answers that a draft would gain. */
const behind = (rule: string): Condition[] => [
  { kind: 'words', text: rule },
  { kind: 'coded', not: true },
  { kind: 'settled', not: true },
];
