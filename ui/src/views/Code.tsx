import { useQueryClient } from '@tanstack/react-query';
import { useEffect, useRef, useState } from 'react';
import type { FrameLine } from '../api/client';
import { useFocus } from '../focus';
import { count, many, percent, tint } from '../format';
import { CopyFrom } from '../frame/CopyFrom';
import { useKeys } from '../keys';
import { useDesk, useFrame } from '../question';
import { Page } from './Category';
import { NewCategory } from './NewCategory';

/** The code frame as an outline; the open category is a page beside it. */
export default function Code() {
  const { question } = useDesk();
  const { focusText, params, pick, set, setPick } = useFocus();
  const frame = useFrame(focusText);
  const draft = params.get('draft') ?? '';
  const [adding, setAdding] = useState(false);
  const lines = frame.data?.categories ?? [];
  const open = lines.find((l) => l.id === params.get('category')) ?? (draft ? undefined : lines[0]);
  const show = (l: FrameLine | undefined) =>
    l && set({ category: l.id ?? '', pick: JSON.stringify([{ kind: 'category', id: l.id }]) }, true);
  const step = (by: number) =>
    show(lines[Math.max(0, Math.min(lines.length - 1, lines.findIndex((l) => l.id === open?.id) + by))]);
  // Arriving at a category shows its answers, unless others were picked; letting go of them stays possible.
  const arrived = useRef('');
  useEffect(() => {
    if (!open?.id || arrived.current === open.id) return;
    arrived.current = open.id;
    if (!pick.length) setPick([{ kind: 'category', id: open.id }]);
  }, [open?.id, pick.length, setPick]);
  useKeys({ n: () => setAdding(true), ArrowDown: () => step(1), ArrowUp: () => step(-1), Escape: () => setPick([]) });
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
          <span>answers</span>
        </p>
        <div className="treelines">
          {lines.map((l) => (
            <button
              type="button"
              key={l.id}
              className={`treeline ${tint(l.top)}${l.path.length === 1 ? ' top' : ''}`}
              aria-current={l.id === open?.id ? 'true' : undefined}
              onClick={() => show(l)}
            >
              <b className="key">{l.short}</b>
              <span style={{ paddingLeft: 10 * (l.path.length - 1) }}>
                {l.name}
                {l.off && <em> rests</em>}
                {broken(l) && <em className="bad"> to mend</em>}
              </span>
              <span className="num">{count(l.has)}</span>
              <span className="num soft">{percent(l.share)}</span>
            </button>
          ))}
        </div>
        <p className="row wrap treefoot">
          <button type="button" onClick={() => setAdding(true)}>
            New category <kbd>n</kbd>
          </button>
          <PlaybookTools />
        </p>
      </section>
      {open ? (
        <Page key={open.id} line={open} lines={lines} />
      ) : draft ? null : (
        <p className="empty">No category yet. Make one with n, or select terms in Terms and press c.</p>
      )}
      {(adding || draft) && (
        <NewCategory
          lines={lines}
          draft={draft}
          beside={open}
          close={(id) => {
            setAdding(false);
            set({ draft: '', ...(id ? { category: id, pick: JSON.stringify([{ kind: 'category', id }]) } : {}) }, true);
          }}
        />
      )}
      <span className="sr">{question.name}</span>
    </div>
  );
}

const broken = (l: FrameLine) => [...l.hits, ...l.less].some((r) => r.problems.some((p) => !p.warning));

/** Saving the scheme as a file, and taking one in. */
function PlaybookTools() {
  const { question, say } = useDesk();
  const client = useQueryClient();
  const load = async (file: File | undefined) => {
    if (!file) return;
    const text = await file.text();
    const reply = await fetch(`/api/v1/questions/${question.id}/playbook?revision=${question.revision}`, {
      method: 'PUT',
      headers: { 'Content-Type': 'application/json' },
      body: text,
    });
    const body = await reply.json().catch(() => undefined);
    if (reply.ok)
      say({
        text: `Loaded ${file.name}: ${count(body.coded)} answers are coded now, ${count(body.codedBefore)} were before.`,
        undo: true,
      });
    else say({ text: `${body?.detail ?? 'The file was not taken.'} Nothing was changed.`, bad: true });
    await client.invalidateQueries({ queryKey: ['question', question.id] });
  };
  return (
    <>
      <CopyFrom first="frame" />
      <a className="plain" href={`/api/v1/questions/${question.id}/playbook`} download>
        save playbook
      </a>
      <label className="plain filelink">
        load playbook
        <input
          type="file"
          accept=".json,application/json"
          onChange={(e) => {
            load(e.target.files?.[0]);
            e.target.value = '';
          }}
        />
      </label>
    </>
  );
}
