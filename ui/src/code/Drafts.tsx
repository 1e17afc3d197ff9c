import { useEffect, useRef, useState } from 'react';
import { useAddress } from '../lib/address';
import type { Condition, FrameLine } from '../lib/api';
import { categoryOptions, useDesk } from '../lib/edits';
import { count, many, percent } from '../lib/format';
import { useCommands } from '../lib/keys';
import { useAsk, useFrame } from '../lib/queries';
import { Failed } from '../parts/Asked';
import { Button, Kbd } from '../parts/Button';
import { Combobox } from '../parts/Combobox';
import { Empty, Skeleton } from '../parts/Text';
import { RuleText } from '../rule/Rule';
import { NewCategory } from './NewCategory';

/** Proposals for categories, from terms that come together in what no category has; one key takes one, one refuses it. */
export default function Drafts() {
  const { focusText, get, set, setPick } = useAddress();
  const { edit } = useDesk();
  const frame = useFrame(focusText);
  const whole = focusText ? 'of the focus' : 'in all';
  const lines: FrameLine[] = frame.data?.categories ?? [];
  const [at, setAt] = useState(0);
  const inside = get('net');
  const [top, setTop] = useState('');
  const up = inside || top;
  const [changing, setChanging] = useState<{ rule: string; name: string }>();
  const found = useAsk('drafts', { focus: focusText, net: inside || undefined });
  const list = found.data?.drafts ?? [];
  const current = Math.min(at, Math.max(list.length - 1, 0));
  const now = list[current];
  // Once one walks through them, the answers pane shows those of the current one, whichever comes up.
  const [walking, setWalking] = useState(false);
  const children = lines
    .filter((l) => inside && l.up === inside)
    .map((l) => l.id)
    .join(' ');
  const rule = now?.rule;
  useEffect(() => {
    if (walking && rule) setPick(behind(rule, inside, children ? children.split(' ') : []));
  }, [walking, rule, setPick, inside, children]);
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
  const scroller = useRef<HTMLDivElement>(null);
  useCommands(
    'Drafts',
    [
      { key: 'ArrowDown', words: 'Next draft', act: () => show(Math.min(current + 1, list.length - 1)), move: true },
      { key: 'ArrowUp', words: 'Draft before', act: () => show(Math.max(current - 1, 0)), move: true },
      { key: 't', words: 'Accept the draft', act: () => act().take(), off: !now },
      { key: 'e', words: 'Change the draft first', act: () => act().change(), off: !now },
      { key: 'r', words: 'Refuse the draft', act: () => act().refuse(), off: !now },
      { key: 'Escape', words: 'Let go of the draft', act: letGo, off: !walking, move: true },
    ],
    { list: scroller },
  );
  const nowLine = useRef<HTMLLIElement>(null);
  // biome-ignore lint/correctness/useExhaustiveDependencies: another one comes into sight
  useEffect(() => {
    if (walking) nowLine.current?.scrollIntoView({ block: 'nearest' });
  }, [walking, current]);
  if (found.error && !found.data) return <Failed error={found.error} again={() => found.refetch()} />;
  if (!found.data) return <Skeleton lines={6} />;
  const { base, refused } = found.data;
  const nets = lines.filter((l) => l.net);
  return (
    <div
      ref={scroller}
      data-list=""
      role="region"
      aria-label="Drafts" // biome-ignore lint/a11y/noNoninteractiveTabindex: a scrolling region must be reachable by keyboard
      tabIndex={0}
      aria-busy={found.isPlaceholderData}
      className="min-h-0 max-w-280 flex-1 overflow-auto pr-2"
    >
      <div className="flex flex-wrap items-baseline gap-2.5 pb-2">
        {lines.length > 0 && (
          <label>
            of{' '}
            <Combobox
              label="of"
              value={inside}
              change={(net) => {
                setAt(0);
                set({ net, pick: '' }, true);
              }}
              options={[
                { value: '', words: 'what no category has' },
                ...lines
                  .filter((l) => !l.decisions)
                  .map((l) => ({ value: l.id ?? '', words: `what only ${l.path.join(' / ')} has` })),
              ]}
            />
          </label>
        )}
        {nets.length > 0 && !inside && (
          <label>
            put them into{' '}
            <Combobox
              label="put them into"
              value={top}
              change={(v) => setTop(v)}
              options={[{ value: '', words: 'the top' }, ...categoryOptions(nets)]}
            />
          </label>
        )}
        <span className="text-soft ml-auto">
          accept <Kbd>t</Kbd> change first <Kbd>e</Kbd> refuse <Kbd>r</Kbd> next <Kbd>↓</Kbd>
        </span>
      </div>
      <p className="text-sm text-soft">
        Subjects of the {many(base, 'answer')} of the focus that{' '}
        {inside
          ? `${lines.find((l) => l.id === inside)?.name ?? 'the category'} has, and nothing inside it`
          : 'no category has and that are not settled'}
        .
        {refused > 0 && (
          <>
            {' '}
            {many(refused, 'draft')} refused:{' '}
            <Button look="plain" onClick={() => edit({ kind: 'draft again' })}>
              Propose them again
            </Button>
          </>
        )}
      </p>
      {list.length === 0 && (
        <Empty>
          {base
            ? 'No group of terms stands out in what is left. What is left is said in too many ways: read it in Review.'
            : 'Nothing is left uncoded in this focus.'}
        </Empty>
      )}
      <ol>
        {list.map((d, i) => (
          <li
            key={d.rule}
            ref={i === current ? nowLine : undefined}
            data-part="suggestion"
            className={`grid grid-cols-[minmax(0,1fr)_auto] items-baseline gap-3.5 border-t border-hair pt-1.5 pr-2
              pb-1.75 pl-1 ${i === current ? 'bg-mosspale forced-colors:outline' : ''}`}
            aria-current={i === current}
          >
            <div>
              <p>
                <Button look="plain" tabIndex={-1} onClick={() => show(i)}>
                  <b className="text-lg">{d.name}</b>
                </Button>{' '}
                <span data-part="gain" className="pl-2 font-semibold text-moss">
                  +{count(d.gained)}{' '}
                  <span className="text-soft">{base ? percent(d.gained / base) : ''} of what is left</span>
                </span>
              </p>
              <p className="font-mono text-lg break-words">
                <RuleText source={d.rule} />
              </p>
              <p className="text-sm text-soft">
                {d.shared
                  ? `${many(d.matches, 'answer')} ${whole}; ${count(d.shared)} of them have another category already`
                  : `${many(d.matches, 'answer')} ${whole}; none has another category`}
              </p>
            </div>
            {i === current ? (
              <span className="flex items-baseline gap-2.5">
                <Button onClick={act(d).take}>Accept</Button>
                <Button look="plain" onClick={act(d).change}>
                  Change first…
                </Button>
                <Button look="plain" onClick={act(d).refuse}>
                  Refuse
                </Button>
              </span>
            ) : (
              <Button look="plain" tabIndex={-1} aria-label={`Look at ${d.name}`} onClick={() => show(i)}>
                Look
              </Button>
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

/** The answers that a draft would gain: of what no category has, or of what a category has and nothing inside it. */
const behind = (rule: string, inside: string, children: string[]): Condition[] => [
  { kind: 'words', text: rule },
  ...(inside
    ? [
        { kind: 'category', id: inside } as const,
        ...children.map((id) => ({ kind: 'category', id, not: true }) as const),
      ]
    : [{ kind: 'coded', not: true } as const]),
  { kind: 'settled', not: true },
];
