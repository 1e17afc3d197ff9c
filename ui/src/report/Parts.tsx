import { useQueryClient } from '@tanstack/react-query';
import { type KeyboardEvent, useRef, useState } from 'react';
import { api, type Block, type ReportChange, type ReportState, type Section, take } from '../lib/api';
import { useDesk } from '../lib/edits';
import { useCommands } from '../lib/keys';
import { keys } from '../lib/queries';
import { type NewBlock, newId, useReports } from '../lib/reports';
import { itemAt } from '../lib/required';
import { titleOf } from '../paper/items';
import { Button } from '../parts/Button';
import { Menu } from '../parts/Menu';
import { useRoving } from '../parts/roving';
import { Empty } from '../parts/Text';
import { AddChart } from './AddChart';
import { alike, blockOf } from './block';
import { Change } from './Change';
import { Still } from './Still';

const kinds: Record<Block['kind'], string> = {
  text: 'text',
  chart: 'chart',
  finding: 'finding',
  quotes: 'quotes',
  method: 'how it was coded',
};

/** A change of the report, without the revision that it is of. */
type Made = { [K in ReportChange['kind']]: Omit<Extract<ReportChange, { kind: K }>, 'revision'> }[ReportChange['kind']];

/** What a part is called where it is acted on. */
const called = (s: Section, i: number) => `part ${i + 1}, ${kinds[s.kind]}${titleOf(s) && ` “${titleOf(s)}”`}`;

/** The parts of a report in their order: moved by dragging or keys, changed in place, taken out, and all of that taken back. */
export function Parts({ report }: { report: ReportState }) {
  const { question, say } = useDesk();
  const { study, again } = useReports();
  const client = useQueryClient();
  const sections = report.page.sections ?? [];
  const [changing, setChanging] = useState<string>();
  const [adding, setAdding] = useState(false);
  const [dragged, setDragged] = useState<string>();
  const [over, setOver] = useState<number>();
  const stops = useRoving<HTMLOListElement>();
  const chain = useRef<Promise<unknown>>(Promise.resolve());

  /**
   * Changes go one after the other. Each is worked out when its turn comes, of the report as it is then: none is made of what was
   * there before another one.
   */
  const send = (change: (now: ReportState) => Made | undefined) => {
    const done = chain.current.then(async () => {
      const now = client.getQueryData<ReportState>(keys.report(study, report.id)) ?? report;
      const made = change(now);
      if (!made) return undefined;
      try {
        return await take(
          api.POST('/api/v1/studies/{study}/reports/{report}', {
            params: { path: { study, report: report.id } },
            body: { ...made, revision: now.revision } as ReportChange,
          }),
        );
      } catch (e) {
        say({ text: (e as Error).message, bad: true });
        return undefined;
      } finally {
        await again();
      }
    });
    chain.current = done.catch(() => undefined);
    return done;
  };
  const keep = (make: (blocks: Block[]) => Block[] | undefined, summary: string) =>
    send((now) => {
      const blocks = make((now.page.sections ?? []).map(blockOf));
      return blocks && { kind: 'blocks', blocks, summary };
    });
  const undo = async () => {
    let what: string | undefined;
    const done = await send((now) => {
      what = now.undo;
      return what ? { kind: 'undo' } : undefined;
    });
    if (done) say({ text: `Undone: ${what}.` });
  };
  const redo = async () => {
    let what: string | undefined;
    const done = await send((now) => {
      what = now.redo;
      return what ? { kind: 'redo' } : undefined;
    });
    if (done) say({ text: `Done again: ${what}.` });
  };
  useCommands('This report', [
    { key: 'u', words: 'Take the last change of the report back', act: undo, off: !report.undo },
    { key: 'U', words: 'Do it again', act: redo, off: !report.redo },
    { key: 't', words: 'Add text to the report', act: () => add({ kind: 'text' }) },
  ]);

  const focusOn = (id: string) =>
    requestAnimationFrame(() =>
      stops.ref.current?.querySelector<HTMLElement>(`[data-of="${CSS.escape(id)}"]`)?.focus(),
    );
  /** Moves a part before another, or to the end. */
  const moveBefore = async (id: string, before?: string) => {
    const i = sections.findIndex((s) => s.id === id);
    if (i < 0 || id === before) return;
    const done = await keep(
      (blocks) => {
        const part = blocks.find((x) => x.id === id);
        const rest = blocks.filter((x) => x.id !== id);
        const at = before === undefined ? rest.length : rest.findIndex((x) => x.id === before);
        if (!part || at < 0) return undefined;
        return [...rest.slice(0, at), part, ...rest.slice(at)];
      },
      `Moved ${called(itemAt(sections, i), i)}`,
    );
    if (done) focusOn(id);
  };
  /** Moves a part up or down by one. */
  const step = async (id: string, by: -1 | 1) => {
    const i = sections.findIndex((s) => s.id === id);
    const done = await keep(
      (blocks) => {
        const from = blocks.findIndex((x) => x.id === id);
        const to = from + by;
        if (from < 0 || to < 0 || to >= blocks.length) return undefined;
        const next = [...blocks];
        next.splice(to, 0, ...next.splice(from, 1));
        return next;
      },
      `Moved ${called(itemAt(sections, i), i)}`,
    );
    if (done) focusOn(id);
  };
  const remove = async (i: number) => {
    const { id } = itemAt(sections, i);
    const what = called(itemAt(sections, i), i);
    const done = await keep((blocks) => blocks.filter((x) => x.id !== id), `Took out ${what}`);
    if (!done) return;
    // Only that is taken back: what was changed after it is not.
    const back = () => send((now) => (now.revision === done.revision ? { kind: 'undo' } : undefined));
    say({ text: `Took out ${what}.`, action: { words: 'Undo', act: back } });
  };
  const add = async (what: NewBlock, before?: string) => {
    const block = { ...what, id: newId() } as Block;
    const done = await keep((blocks) => {
      const at = before === undefined ? -1 : blocks.findIndex((x) => x.id === before);
      return at < 0 ? [...blocks, block] : [...blocks.slice(0, at), block, ...blocks.slice(at)];
    }, `Added ${kinds[block.kind]}`);
    if (done && block.kind === 'text') setChanging(block.id);
  };
  const onKeyDown = (e: KeyboardEvent, i: number) => {
    if (e.target !== e.currentTarget) return;
    if (e.altKey && (e.key === 'ArrowUp' || e.key === 'ArrowDown')) {
      e.preventDefault();
      e.stopPropagation();
      step(itemAt(sections, i).id, e.key === 'ArrowUp' ? -1 : 1);
    } else if (e.key === 'Enter') {
      e.preventDefault();
      setChanging(itemAt(sections, i).id);
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
              setDragged(undefined);
              setOver(undefined);
              if (dragged) moveBefore(dragged, s.id);
            }}
          >
            <p className="flex items-baseline justify-end gap-x-3 text-sm text-soft">
              <button
                type="button"
                draggable
                data-stop=""
                data-of={s.id}
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
                skip
                actions={[
                  { words: 'Move up', key: 'Alt ↑', act: () => step(s.id, -1), disabled: i === 0 },
                  { words: 'Move down', key: 'Alt ↓', act: () => step(s.id, 1), disabled: i === sections.length - 1 },
                  { words: 'Add text above', act: () => add({ kind: 'text' }, s.id) },
                  { words: 'Take it out', key: 'Delete', act: () => remove(i), group: true },
                ]}
              />
            </p>
            {changing === s.id ? (
              <Change
                section={s}
                close={() => {
                  setChanging(undefined);
                  focusOn(s.id);
                }}
                keep={async (b, was) =>
                  !!(await keep(
                    (blocks) => {
                      const now = blocks.find((x) => x.id === b.id);
                      if (now && alike(now, was)) return blocks.map((x) => (x === now ? b : x));
                      say({
                        text: `This part was ${now ? 'changed' : 'taken out'} in the meantime, and that is kept. What you wrote is still here: copy it, cancel, and look again.`,
                        bad: true,
                      });
                      return undefined;
                    },
                    `Changed ${called(s, i)}`,
                  ))
                }
              />
            ) : s.kind === 'text' && !s.block.text?.trim() ? (
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
          setDragged(undefined);
          setOver(undefined);
          if (dragged) moveBefore(dragged);
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
