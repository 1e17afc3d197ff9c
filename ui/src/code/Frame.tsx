import { useEffect, useMemo, useRef, useState } from 'react';
import { useFocus } from '../lib/address';
import { api, type FrameLine, take } from '../lib/api';
import { useAsk, useDesk, useNamedStates } from '../lib/desk';
import { many, percent } from '../lib/format';
import { useKeys } from '../lib/keys';
import { lastVisit } from '../rule/kept';
import { Page } from './Category';
import { NewCategory } from './NewCategory';
import { dropped, Outline } from './Outline';

/** The code frame as an outline; the open category is a page beside it. */
export default function Frame() {
  const { question, edit } = useDesk();
  const { focusText, params, pick, set, setPick } = useFocus();
  // The revision that the last visit ended with; it stays while this one lasts.
  const visit = useMemo(() => lastVisit(question.id, question.revision), [question.id, question.revision]);
  const [than, setThan] = useState('');
  const named = useNamedStates();
  const since = than || (visit < question.revision ? String(visit) : '');
  const frame = useAsk(['frame', focusText, 'since', since], (q) =>
    take(
      api.GET('/api/v1/questions/{question}/frame', {
        params: { path: { question: q }, query: { focus: focusText, since } },
      }),
    ),
  );
  const draft = params.get('draft') ?? '';
  const [adding, setAdding] = useState(false);
  const lines = frame.data?.categories ?? [];
  const open = lines.find((l) => l.id === params.get('category')) ?? (draft ? undefined : lines[0]);
  const show = (l: FrameLine | undefined) =>
    l && set({ category: l.id ?? '', pick: JSON.stringify([{ kind: 'category', id: l.id }]) }, true);
  const at = lines.findIndex((l) => l.id === open?.id);
  const step = (by: number) => show(lines[Math.max(0, Math.min(lines.length - 1, at + by))]);
  // Arriving at a category shows its answers, unless others were picked; letting go of them stays possible.
  const arrived = useRef('');
  useEffect(() => {
    if (!open?.id || arrived.current === open.id) return;
    arrived.current = open.id;
    if (!pick.length) setPick([{ kind: 'category', id: open.id }]);
  }, [open?.id, pick.length, setPick]);
  /** Moves the open category among its siblings, into the one above it, or out of its net. */
  const move = (to: 'up' | 'down' | 'in' | 'out') => {
    if (!open?.id) return;
    const siblings = lines.filter((l) => l.up === open.up);
    const place = siblings.findIndex((l) => l.id === open.id);
    const before = siblings[place - 1];
    const after = siblings[place + 1];
    const drop =
      to === 'up' && before
        ? ({ id: before.id!, where: 'before' } as const)
        : to === 'down' && after
          ? ({ id: after.id!, where: 'after' } as const)
          : to === 'in' && before && !before.decisions
            ? ({ id: before.id!, where: 'into' } as const)
            : to === 'out' && open.up
              ? ({ id: open.up, where: 'after' } as const)
              : undefined;
    if (drop) edit(dropped(lines, open.id, drop));
  };
  useKeys({
    n: () => setAdding(true),
    ArrowDown: () => step(1),
    ArrowUp: () => step(-1),
    'Alt+ArrowUp': () => move('up'),
    'Alt+ArrowDown': () => move('down'),
    'Alt+ArrowRight': () => move('in'),
    'Alt+ArrowLeft': () => move('out'),
    Escape: () => setPick([]),
  });
  if (frame.error) return <p className="bad">{frame.error.message}</p>;
  if (!frame.data) return <p className="ghost">&nbsp;</p>;
  const { base, coded } = frame.data;
  return (
    <div className="codev" aria-busy={frame.isPlaceholderData}>
      <section className="tree" aria-label="Code frame">
        <p className="caption row between">
          <span>
            {many(lines.length, 'category', 'categories')} · {base ? percent(coded / base) : '–'} coded
          </span>
          <button type="button" className="plain" onClick={() => setAdding(true)}>
            new <kbd>n</kbd>
          </button>
        </p>
        <Outline lines={lines} open={open} since={!!frame.data.since} show={show} />
        <p className="soft small treefoot">
          <label>
            + and − since{' '}
            <select value={than} onChange={(e) => setThan(e.target.value)} aria-label="changes since">
              <option value="">the last visit{visit < question.revision ? ` (revision ${visit})` : ': none'}</option>
              <option value="0">the beginning</option>
              {named.data?.map((n) => (
                <option key={n.name} value={`=${n.name}`}>
                  {n.name}
                </option>
              ))}
            </select>
          </label>
          {since && !frame.data.since && ' can’t be shown here: cleaning was another then. See Revisions.'}
        </p>
      </section>
      {open ? (
        <Page key={open.id} line={open} lines={lines} write={params.get('write') ?? undefined} />
      ) : draft ? null : (
        <p className="empty">
          No category yet. Make one with n, select terms in Terms and press c, look at the proposals under Drafts, or
          bring a frame in under In and out.
        </p>
      )}
      {(adding || draft) && (
        <NewCategory
          lines={lines}
          draft={draft}
          beside={open}
          close={(to) => {
            setAdding(false);
            set({ draft: '', ...to }, true);
          }}
        />
      )}
    </div>
  );
}
