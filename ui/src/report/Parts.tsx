import { type KeyboardEvent, useRef, useState } from 'react';
import { api, type Block, Refusal, type ReportState, type Section, take } from '../lib/api';
import { useDesk } from '../lib/edits';
import { useCommands } from '../lib/keys';
import { newId, useReports } from '../lib/reports';
import { Button } from '../parts/Button';
import { Menu } from '../parts/Menu';
import { useRoving } from '../parts/roving';
import { Empty } from '../parts/Text';
import { AddChart } from './AddChart';
import { blockOf } from './block';
import { Change } from './Change';
import { Still } from './Still';

const kinds: Record<Block['kind'], string> = {
  text: 'text',
  chart: 'chart',
  finding: 'finding',
  quotes: 'quotes',
  method: 'how it was coded',
};

/** What a part is called where it is acted on. */
const called = (s: Section, i: number) => `part ${i + 1}, ${kinds[s.kind]}${s.title ? ` “${s.title}”` : ''}`;

/** The parts of a report in their order: moved by dragging or keys, changed in place, taken out, and all of that taken back. */
export function Parts({ report }: { report: ReportState }) {
  const { question, say } = useDesk();
  const { study, again } = useReports();
  const sections = report.page.sections ?? [];
  const [changing, setChanging] = useState<string>();
  const [adding, setAdding] = useState(false);
  const [dragged, setDragged] = useState<string>();
  const [over, setOver] = useState<number>();
  const stops = useRoving<HTMLOListElement>();
  const chain = useRef<Promise<unknown>>(Promise.resolve());
  const revision = useRef(report.revision);
  revision.current = Math.max(revision.current, report.revision);

  // Changes go one after the other, each on the revision that the one before it made.
  const send = (change: { kind: 'blocks' | 'undo' | 'redo'; blocks?: Block[]; summary?: string }) => {
    const done = chain.current.then(async () => {
      try {
        const made = await take(
          api.POST('/api/v1/studies/{study}/reports/{report}', {
            params: { path: { study, report: report.id } },
            body: { ...change, revision: revision.current },
          }),
        );
        revision.current = made.revision;
        return true;
      } catch (e) {
        const seen = e instanceof Refusal && e.status === 409;
        if (seen) revision.current = 0;
        say({ text: (e as Error).message, bad: true });
        return false;
      } finally {
        await again();
      }
    });
    chain.current = done.catch(() => undefined);
    return done;
  };
  const blocks = sections.map(blockOf);
  const keep = (to: Block[], summary: string) => send({ kind: 'blocks', blocks: to, summary });
  const undo = async () => {
    if (report.undo && (await send({ kind: 'undo' }))) say({ text: `Undone: ${report.undo}.` });
  };
  const redo = async () => {
    if (report.redo && (await send({ kind: 'redo' }))) say({ text: `Done again: ${report.redo}.` });
  };
  useCommands('This report', [
    { key: 'u', words: 'Take the last change of the report back', act: undo, off: !report.undo },
    { key: 'U', words: 'Do it again', act: redo, off: !report.redo },
    { key: 't', words: 'Add text to the report', act: () => add({ kind: 'text' }) },
  ]);

  const move = async (from: number, to: number) => {
    if (to < 0 || to >= blocks.length || from === to) return;
    const next = [...blocks];
    next.splice(to, 0, ...next.splice(from, 1));
    if (await keep(next, `Moved ${called(sections[from]!, from)}`)) focusOn(to);
  };
  const focusOn = (at: number) =>
    requestAnimationFrame(() => stops.ref.current?.querySelector<HTMLElement>(`[data-at="${at}"]`)?.focus());
  const remove = async (i: number) => {
    const what = called(sections[i]!, i);
    if (
      await keep(
        blocks.filter((_, j) => j !== i),
        `Took out ${what}`,
      )
    )
      say({ text: `Took out ${what}.`, action: { words: 'Undo', act: () => send({ kind: 'undo' }) } });
  };
  const add = async (what: Omit<Block, 'id'>, at = blocks.length) => {
    const block = { ...what, id: newId() };
    const next = [...blocks];
    next.splice(at, 0, block);
    if (await keep(next, `Added ${kinds[block.kind]}`)) setChanging(block.kind === 'text' ? block.id : undefined);
  };
  const onKeyDown = (e: KeyboardEvent, i: number) => {
    if (e.target !== e.currentTarget) return;
    if (e.altKey && (e.key === 'ArrowUp' || e.key === 'ArrowDown')) {
      e.preventDefault();
      e.stopPropagation();
      move(i, i + (e.key === 'ArrowUp' ? -1 : 1));
    } else if (e.key === 'Enter') {
      e.preventDefault();
      setChanging(sections[i]!.id);
    } else if (e.key === 'Delete') {
      e.preventDefault();
      remove(i);
    }
  };
  return (
    <>
      {sections.length === 0 && (
        <Empty>
          Nothing is in it yet. Add text here; charts, findings and quotes come from where they stand: Kept under Chart,
          What differs, and quote beside every answer.
        </Empty>
      )}
      <ol {...stops} aria-label="Parts of the report" className="grid min-w-0 grid-cols-[minmax(0,1fr)]">
        {sections.map((s, i) => (
          <li
            key={s.id}
            data-part="block"
            className={`group relative -mx-6 border-t-2 px-6 pt-1 pb-2 ${over === i ? 'border-moss' : 'border-transparent'}`}
            onDragOver={(e) => {
              if (!dragged) return;
              e.preventDefault();
              setOver(i);
            }}
            onDrop={(e) => {
              e.preventDefault();
              const from = sections.findIndex((x) => x.id === dragged);
              setDragged(undefined);
              setOver(undefined);
              if (from >= 0) move(from, from < i ? i - 1 : i);
            }}
          >
            <p className="flex items-baseline justify-end gap-x-3 text-sm text-soft">
              <button
                type="button"
                draggable
                data-stop=""
                data-at={i}
                className="mr-auto cursor-grab rounded-sm px-1 text-soft"
                title="Drag it, or Alt with ↑ or ↓, to move it; Enter changes it, Delete takes it out"
                onDragStart={(e) => {
                  e.dataTransfer.effectAllowed = 'move';
                  e.dataTransfer.setData('text/plain', s.id);
                  setDragged(s.id);
                }}
                onDragEnd={() => {
                  setDragged(undefined);
                  setOver(undefined);
                }}
                onKeyDown={(e) => onKeyDown(e, i)}
              >
                ⠿ {kinds[s.kind]}
                <span className="sr-only">, {called(s, i)}</span>
              </button>
              <Button look="plain" tabIndex={-1} onClick={() => setChanging(changing === s.id ? undefined : s.id)}>
                {changing === s.id ? 'close' : 'change'}
                <span className="sr-only"> {called(s, i)}</span>
              </Button>
              <Menu
                words="▾"
                label={`More for ${called(s, i)}`}
                actions={[
                  { words: 'Move up', key: 'Alt ↑', act: () => move(i, i - 1), disabled: i === 0 },
                  { words: 'Move down', key: 'Alt ↓', act: () => move(i, i + 1), disabled: i === sections.length - 1 },
                  { words: 'Add text above', act: () => add({ kind: 'text' }, i) },
                  { words: 'Take it out', key: 'Delete', act: () => remove(i), group: true },
                ]}
              />
            </p>
            {changing === s.id ? (
              <Change
                section={s}
                close={() => {
                  setChanging(undefined);
                  focusOn(i);
                }}
                keep={(b, what) =>
                  keep(
                    blocks.map((x) => (x.id === b.id ? b : x)),
                    what ?? `Changed ${called(s, i)}`,
                  )
                }
              />
            ) : s.kind === 'text' && !s.text?.trim() ? (
              <p className="text-soft italic">No text yet.</p>
            ) : (
              <Still section={s} style={report.page.style} />
            )}
          </li>
        ))}
      </ol>
      <p
        className="flex flex-wrap items-baseline gap-x-3 gap-y-1 border-t pt-2 text-sm"
        onDragOver={(e) => dragged && e.preventDefault()}
        onDrop={() => {
          const from = sections.findIndex((x) => x.id === dragged);
          setDragged(undefined);
          setOver(undefined);
          if (from >= 0) move(from, sections.length - 1);
        }}
      >
        <span className="text-soft">Add:</span>
        <Button look="plain" onClick={() => add({ kind: 'text' })}>
          text
        </Button>
        <Button look="plain" onClick={() => setAdding(true)}>
          a kept chart…
        </Button>
        <Button look="plain" onClick={() => add({ kind: 'method', question: question.id })}>
          how it was coded
        </Button>
        <span className="ml-auto flex gap-x-3">
          <Button
            look="plain"
            onClick={undo}
            aria-disabled={!report.undo}
            title={report.undo ?? 'Nothing to take back'}
          >
            undo
          </Button>
          <Button look="plain" onClick={redo} aria-disabled={!report.redo} title={report.redo ?? 'Nothing to do again'}>
            redo
          </Button>
        </span>
      </p>
      {adding && <AddChart close={() => setAdding(false)} add={(b) => add(b)} />}
    </>
  );
}
