import { Fragment, type PointerEvent, type RefObject, useEffect, useRef, useState } from 'react';
import type { Field, FrameLine } from '../lib/api';
import { useDesk } from '../lib/edits';
import { count, many, percent, tint } from '../lib/format';
import { useKeys } from '../lib/keys';
import { itemAt, required } from '../lib/required';
import { Button } from '../parts/Button';
import { type Action, ContextMenu } from '../parts/Menu';
import { TextField } from '../parts/Text';
import { Heading } from '../parts/Tooltip';
import type { ByField } from './ByField';

/** Where a dragged category would go. */
type Drop = { id: string; where: 'before' | 'into' | 'after' };

type OutlineProps = {
  lines: FrameLine[];
  /** Those that are shown where nothing is looked for: outside of folded nets, or as their fields have it. */
  inSight: FrameLine[];
  by: ByField;
  open?: FrameLine;
  since: boolean;
  show: (l: FrameLine) => void;
  /** Where arrows go from one category to the next. */
  list: RefObject<HTMLDivElement | null>;
  /** Nets that are folded, by their ids. */
  folded: string[];
  fold: (net: string) => void;
  /** Categories that are ticked, by their ids, to do something with all of them. */
  ticked: string[];
  tick: (id: string) => void;
};

/** Lines that are not inside a folded net. */
export function unfolded(lines: FrameLine[], folded: string[]) {
  const nets = lines.filter((l) => folded.includes(l.id ?? '')).map((l) => `${l.path.join('\n')}\n`);
  return lines.filter((l) => !nets.some((n) => l.path.join('\n').startsWith(n)));
}

const fieldOf = (l: FrameLine, f: Field) => l.fields?.[f.name] ?? '';

const broken = (l: FrameLine) => [...l.hits, ...l.less].some((r) => r.problems.some((p) => !p.warning));

/** Says whether a category, its note, a field or one of its rules holds what is looked for. */
export const holds = (l: FrameLine, sought: string) =>
  [
    l.name,
    l.note ?? '',
    l.short ?? '',
    String(l.code ?? ''),
    ...l.hits.map((r) => r.source),
    ...l.less.map((r) => r.source),
    ...(l.resting ?? []),
    ...Object.values(l.fields ?? {}),
  ].some((s) => s.toLowerCase().includes(sought.toLowerCase()));

/** The edit that takes a category to where it was dropped; none if it stays where it is. */
export function dropped(lines: FrameLine[], id: string, drop: Drop) {
  const target = required(lines.find((l) => l.id === drop.id));
  if (drop.where === 'into') return { kind: 'move category' as const, category: id, parent: drop.id };
  const siblings = lines.filter((l) => l.up === target.up && l.id !== id);
  const at = siblings.findIndex((l) => l.id === drop.id) + (drop.where === 'after' ? 1 : 0);
  return { kind: 'move category' as const, category: id, parent: target.up, before: siblings[at]?.id };
}

/** The frame as an outline; categories are moved by dragging them, or by keys. */
export function Outline({ lines, inSight, by, open, since, show, list, folded, fold, ticked, tick }: OutlineProps) {
  const { edit } = useDesk();
  const [sought, setSought] = useState('');
  const [drag, setDrag] = useState<{ id: string; drop?: Drop }>();
  const pressed = useRef<{ id: string; x: number; y: number }>(undefined);
  const moved = useRef(false);
  const found = sought.trim() ? lines.filter((l) => holds(l, sought.trim())) : inSight;
  // By their fields, or where some are looked for, categories stand without their nets: none is moved.
  const flat = !!(by.order || by.having);
  const scrolling = useRef<ReturnType<typeof setInterval>>(undefined);
  const stop = () => {
    clearInterval(scrolling.current);
    pressed.current = undefined;
    setDrag(undefined);
  };
  // The open category is always in sight; who went to it by arrows goes on from there.
  // biome-ignore lint/correctness/useExhaustiveDependencies: only when another is opened
  useEffect(() => {
    const now = list.current?.querySelector<HTMLElement>('[aria-current]');
    now?.scrollIntoView({ block: 'nearest' });
    if (list.current?.contains(document.activeElement)) now?.focus({ preventScroll: true });
  }, [open?.id, found.length]);
  useKeys(drag ? { Escape: stop } : {}, { early: true });

  const actions = (l: FrameLine): Action[] => [
    { words: 'Open', key: '↵', act: () => show(l) },
    { words: ticked.includes(l.id ?? '') ? 'Untick' : 'Tick', key: 't', act: () => tick(l.id ?? '') },
    ...(l.net
      ? [
          {
            words: folded.includes(l.id ?? '') ? 'Unfold the net' : 'Fold the net',
            key: '← →',
            act: () => fold(l.id ?? ''),
          },
        ]
      : []),
    {
      words: 'Duplicate',
      act: () => void edit({ kind: 'duplicate category', category: l.id }),
      group: true,
    },
    { words: 'Delete', act: () => void edit({ kind: 'remove category', category: l.id }) },
  ];

  const aim = (e: PointerEvent): Drop | undefined => {
    const over = document.elementFromPoint(e.clientX, e.clientY)?.closest<HTMLElement>('[data-category]');
    const id = over?.dataset.category;
    const dragged = lines.find((l) => l.id === pressed.current?.id);
    const target = lines.find((l) => l.id === id);
    if (!over || !target || !dragged || `${target.path.join('\n')}\n`.startsWith(`${dragged.path.join('\n')}\n`))
      return;
    const box = over.getBoundingClientRect();
    const part = (e.clientY - box.top) / box.height;
    // A category with answers by hand can't be a net.
    const into = !target.decisions && part > 0.28 && part < 0.72;
    return { id: target.id, where: into ? 'into' : part < 0.5 ? 'before' : 'after' };
  };
  const handlers = (l: FrameLine) => ({
    onPointerDown: (e: PointerEvent) => {
      moved.current = false;
      if (e.button === 0 && !flat && !sought.trim()) pressed.current = { id: l.id, x: e.clientX, y: e.clientY };
    },
    onPointerMove: (e: PointerEvent<HTMLElement>) => {
      const from = pressed.current;
      if (!from || (!moved.current && Math.hypot(e.clientX - from.x, e.clientY - from.y) < 6)) return;
      moved.current = true;
      e.currentTarget.setPointerCapture(e.pointerId);
      setDrag({ id: from.id, drop: aim(e) });
      // At its edges the list scrolls on.
      const scroller = list.current?.parentElement;
      const box = scroller?.getBoundingClientRect();
      clearInterval(scrolling.current);
      if (!scroller || !box) return;
      const by = e.clientY < box.top + 28 ? -8 : e.clientY > box.bottom - 28 ? 8 : 0;
      if (by) scrolling.current = setInterval(() => scroller.scrollBy(0, by), 16);
    },
    onPointerUp: (e: PointerEvent) => {
      const from = pressed.current;
      const drop = moved.current ? aim(e) : undefined;
      stop();
      if (from && drop && drop.id !== from.id) edit(dropped(lines, from.id, drop));
    },
    onPointerCancel: stop,
    onClick: (e: { ctrlKey: boolean; metaKey: boolean }) => {
      if (moved.current) return;
      if (e.ctrlKey || e.metaKey) tick(l.id ?? '');
      else show(l);
    },
  });
  return (
    <>
      <TextField
        type="search"
        className="my-1.5 w-full"
        value={sought}
        onChange={(e) => setSought(e.target.value)}
        placeholder="find in names, notes, fields and rules"
        aria-label="Find in names, notes, fields and rules"
      />
      {sought.trim() && (
        <p className="text-sm text-soft" role="status">
          {found.length ? `in ${many(found.length, 'category', 'categories')}` : 'nowhere in the frame'}
        </p>
      )}
      <p className={`${columns} px-1 pb-1.5 text-right text-sm text-soft`}>
        <span />
        <span />
        <Heading text="Answers of the focus that have the category, by its rules or by hand">answers</Heading>
        <Heading text="Of the answers in the focus that say something">share</Heading>
        <Heading text="Answers that no other category has, those in it and above it aside">only</Heading>
      </p>
      <div
        ref={list}
        data-list=""
        role="group"
        aria-label="Categories"
        className={drag ? 'cursor-grabbing touch-none' : ''}
      >
        {found.map((l, i) => (
          <Fragment key={l.id}>
            {by.order &&
              !sought.trim() &&
              fieldOf(l, by.order) !== (i ? fieldOf(itemAt(found, i - 1), by.order) : undefined) && (
                <p data-part="value" className="border-b pt-2.5 pb-0.5 pl-1 font-serif text-soft italic">
                  {fieldOf(l, by.order) || `no ${by.order.name}`}
                </p>
              )}
            <ContextMenu actions={actions(l)}>
              <Button
                look="bare"
                data-category={l.id}
                data-part="treeline"
                tabIndex={l.id === (open?.id ?? found[0]?.id) ? 0 : -1}
                className={`${columns} w-full items-baseline rounded-sm p-1 aria-[current]:bg-mosspale forced-colors:aria-[current]:outline ${tint(l.top)} ${
                  l.path.length === 1 && !flat ? 'mt-1.25 border-t pt-1.75 font-semibold' : ''
                } ${drag?.id === l.id ? 'opacity-45' : ''} ${drag?.drop?.id === l.id ? dropLooks[drag.drop.where] : ''}`}
                aria-current={l.id === open?.id ? 'true' : undefined}
                aria-expanded={l.net && !flat ? !folded.includes(l.id ?? '') : undefined}
                {...handlers(l)}
              >
                <b className="text-xs font-bold text-(--c)">{l.short}</b>
                <span style={flat ? undefined : { paddingLeft: 9 * (l.path.length - 1) }}>
                  {ticked.includes(l.id ?? '') && (
                    <span className="pr-1 text-moss">
                      ✓<span className="sr-only"> ticked </span>
                    </span>
                  )}
                  {flat && l.path.length > 1 && <span className="text-soft">{l.path.slice(0, -1).join(' / ')} / </span>}
                  {l.name}
                  {l.net && !flat && folded.includes(l.id ?? '') && <span className="font-normal text-soft"> …</span>}
                  {l.off && <span className="font-normal text-soft"> off</span>}
                  {broken(l) && <span className="font-normal text-clay"> to fix</span>}
                  {since && (l.gained > 0 || l.gone > 0) && (
                    <span className="text-sm font-normal whitespace-nowrap text-moss">
                      {' '}
                      {l.gained > 0 && <>+{count(l.gained)}</>} {l.gone > 0 && <>−{count(l.gone)}</>}
                    </span>
                  )}
                </span>
                <span className="text-right">{count(l.has)}</span>
                <span className="text-right text-sm font-normal text-soft">{percent(l.share)}</span>
                <span className="text-right text-sm font-normal text-soft">{count(l.only)}</span>
              </Button>
            </ContextMenu>
          </Fragment>
        ))}
      </div>
    </>
  );
}

const columns = 'grid grid-cols-[1.6rem_minmax(0,1fr)_2.8rem_3rem_2.4rem]';
const dropLooks = {
  into: 'bg-straw',
  before: 'shadow-[0_-2px_0_var(--color-clay)]',
  after: 'shadow-[0_2px_0_var(--color-clay)]',
};
