import { type PointerEvent, useRef, useState } from 'react';
import type { FrameLine } from '../lib/api';
import { useDesk } from '../lib/desk';
import { count, many, percent, tint } from '../lib/format';

/** Where a dragged category would go. */
type Drop = { id: string; where: 'before' | 'into' | 'after' };

type OutlineProps = {
  lines: FrameLine[];
  open?: FrameLine;
  since: boolean;
  show: (l: FrameLine) => void;
};

const broken = (l: FrameLine) => [...l.hits, ...l.less].some((r) => r.problems.some((p) => !p.warning));

/** Says whether a category, its note or one of its rules holds what is looked for. */
export const holds = (l: FrameLine, sought: string) =>
  [
    l.name,
    l.note ?? '',
    l.short ?? '',
    String(l.code ?? ''),
    ...l.hits.map((r) => r.source),
    ...l.less.map((r) => r.source),
    ...(l.resting ?? []),
  ].some((s) => s.toLowerCase().includes(sought.toLowerCase()));

/** The edit that takes a category to where it was dropped; none if it stays where it is. */
export function dropped(lines: FrameLine[], id: string, drop: Drop) {
  const target = lines.find((l) => l.id === drop.id)!;
  if (drop.where === 'into') return { kind: 'move category' as const, category: id, parent: drop.id };
  const siblings = lines.filter((l) => l.up === target.up && l.id !== id);
  const at = siblings.findIndex((l) => l.id === drop.id) + (drop.where === 'after' ? 1 : 0);
  return { kind: 'move category' as const, category: id, parent: target.up, before: siblings[at]?.id };
}

/** The frame as an outline; categories are moved by dragging them, or with Alt and the arrow keys. */
export function Outline({ lines, open, since, show }: OutlineProps) {
  const { edit } = useDesk();
  const [sought, setSought] = useState('');
  const [drag, setDrag] = useState<{ id: string; drop?: Drop }>();
  const pressed = useRef<{ id: string; x: number; y: number }>(undefined);
  const moved = useRef(false);
  const found = sought.trim() ? lines.filter((l) => holds(l, sought.trim())) : lines;

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
    return { id: target.id!, where: into ? 'into' : part < 0.5 ? 'before' : 'after' };
  };
  const handlers = (l: FrameLine) => ({
    onPointerDown: (e: PointerEvent) => {
      moved.current = false;
      if (e.button === 0 && !sought.trim()) pressed.current = { id: l.id!, x: e.clientX, y: e.clientY };
    },
    onPointerMove: (e: PointerEvent<HTMLElement>) => {
      const from = pressed.current;
      if (!from || (!moved.current && Math.hypot(e.clientX - from.x, e.clientY - from.y) < 6)) return;
      moved.current = true;
      e.currentTarget.setPointerCapture(e.pointerId);
      setDrag({ id: from.id, drop: aim(e) });
    },
    onPointerUp: (e: PointerEvent) => {
      const from = pressed.current;
      const drop = moved.current ? aim(e) : undefined;
      pressed.current = undefined;
      setDrag(undefined);
      if (from && drop && drop.id !== from.id) edit(dropped(lines, from.id, drop));
    },
    onPointerCancel: () => {
      pressed.current = undefined;
      setDrag(undefined);
    },
    onClick: () => !moved.current && show(l),
  });
  return (
    <>
      <input
        type="search"
        className="findrule"
        value={sought}
        onChange={(e) => setSought(e.target.value)}
        placeholder="find in names, notes and rules"
        aria-label="Find in names, notes and rules"
      />
      {sought.trim() && (
        <p className="soft small" role="status">
          {found.length ? `in ${many(found.length, 'category', 'categories')}` : 'nowhere in the frame'}
        </p>
      )}
      <p className="caption treehead">
        <span />
        <span />
        <span>answers</span>
        <span>share</span>
        <span title="answers that no other category has, those in it and above it aside">only</span>
      </p>
      <div className={drag ? 'treelines dragging' : 'treelines'}>
        {found.map((l) => (
          <button
            type="button"
            key={l.id}
            data-category={l.id}
            className={`treeline ${tint(l.top)}${l.path.length === 1 ? ' top' : ''}${drag?.id === l.id ? ' dragged' : ''}${drag?.drop?.id === l.id ? ` ${drag?.drop?.where}` : ''}`}
            aria-current={l.id === open?.id ? 'true' : undefined}
            {...handlers(l)}
          >
            <b className="key">{l.short}</b>
            <span style={{ paddingLeft: 9 * (l.path.length - 1) }}>
              {l.name}
              {l.off && <em> rests</em>}
              {broken(l) && <em className="bad"> to mend</em>}
              {since && (l.gained > 0 || l.gone > 0) && (
                <em className="moved">
                  {' '}
                  {l.gained > 0 && <>+{count(l.gained)}</>} {l.gone > 0 && <>−{count(l.gone)}</>}
                </em>
              )}
            </span>
            <span className="num">{count(l.has)}</span>
            <span className="num soft">{percent(l.share)}</span>
            <span className="num soft">{count(l.only)}</span>
          </button>
        ))}
      </div>
    </>
  );
}
