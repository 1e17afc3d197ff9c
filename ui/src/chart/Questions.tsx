import { useEffect } from 'react';
import { useNavigate } from 'react-router';
import { markOfCell } from '../drawing/says';
import { useAddress } from '../lib/address';
import type { SideBySide } from '../lib/api';
import { usualTable } from '../lib/charts';
import { useDesk } from '../lib/edits';
import { count, percent, tint } from '../lib/format';
import { useAsk } from '../lib/queries';
import { itemAt } from '../lib/required';
import { viewAddress } from '../lib/views';
import { Failed } from '../parts/Asked';
import { Button } from '../parts/Button';
import { Checkbox } from '../parts/Checkbox';
import { Combobox } from '../parts/Combobox';
import { Popover } from '../parts/Popover';
import { useRoving } from '../parts/roving';
import { Choice, optionsOf } from '../parts/Select';
import { Caption, Empty, Labelled, Skeleton } from '../parts/Text';
import { type Base, bases, useDesign } from './design';
import { Titled } from './Titled';

const levels = { all: 'nets and categories', nets: 'top level only', categories: 'categories only' } as const;

/** The categories of several questions in one table. */
export default function Questions() {
  const { question } = useDesk();
  const { focus, setFocus, get } = useAddress();
  const { query, set } = useDesign();
  const { focus: _, by, base, rows, weighted } = query;
  const asking = { by, base, rows, weighted, questions: get('questions') || undefined };
  const asked = useAsk('questions', { ...asking, focus: query.focus });
  const others = focus.some((c) => c.kind !== 'variable' && c.kind !== 'answers');
  if (others)
    return (
      <>
        <Empty>
          This focus speaks of what was said to this question. Questions are held side by side for the same respondents:
          keep only variables in the focus.
        </Empty>
        <p>
          <Button onClick={() => setFocus(focus.filter((c) => c.kind === 'variable' || c.kind === 'answers'))}>
            Keep only variables in the focus
          </Button>
        </p>
      </>
    );
  if (asked.error && !asked.data)
    return (
      <>
        <Failed error={asked.error} again={() => asked.refetch()} />
        <Button look="plain" onClick={() => set({ questions: '', by: '', pick: '' })}>
          Go back to all questions in all
        </Button>
      </>
    );
  if (!asked.data) return <Skeleton lines={8} />;
  const t = asked.data;
  const names = t.questions.map((q) => q.name);
  const segment = t.by.length === 1 && itemAt(t.by, 0).length === 1 ? itemAt(itemAt(t.by, 0), 0) : '';
  return (
    <div className="grid max-w-400 gap-3 pr-1 pb-4" aria-busy={asked.isPlaceholderData}>
      <div className="flex flex-wrap items-end gap-x-4 gap-y-2 border-b pb-3">
        <Popover look="normal" label="Questions in the table" words={`${names.length} of ${t.all.length} questions ▾`}>
          <Chosen
            all={t.all}
            chosen={names}
            choose={(to) =>
              set({ questions: to.length === t.all.length ? '' : JSON.stringify(to), pick: '', titled: '' })
            }
          />
        </Popover>
        <Labelled name="each by">
          <Combobox
            label="each by"
            value={segment}
            options={[
              {
                value: '',
                words: t.by.length && !segment ? t.by.map((n) => n.join(' › ')).join(', ') : 'total only',
              },
              ...t.segments.map((s) => ({ value: s.name, words: `${s.name} (${count(s.values)})` })),
            ]}
            change={(v) => set({ by: v ? JSON.stringify([[v]]) : '[]', pick: '' })}
          />
        </Labelled>
        <Choice
          label="as a share of"
          value={base}
          change={(v: Base) => set({ base: v === 'answered' ? '' : v, pick: '' })}
          options={optionsOf(bases)}
        />
        <Choice
          label="rows"
          value={rows}
          options={optionsOf(levels)}
          change={(v) => set({ rows: v === 'all' ? '' : v, pick: '' })}
        />
        {t.weight && (
          <label className="flex items-center gap-1.5 pb-1">
            <Checkbox checked={query.weighted} change={(on) => set({ weighted: on ? '1' : '' })} /> weighted by{' '}
            {t.weight}
          </label>
        )}
      </div>
      {asked.error && <Failed error={asked.error} again={() => asked.refetch()} />}
      <Titled
        drawn={{
          kind: 'questions',
          focus,
          ...usualTable,
          base,
          rows,
          weighted,
          by: JSON.stringify(t.by),
          questions: JSON.stringify(names),
          as: 'table',
        }}
        usual="What was said to each question"
        under={question.study.name}
        ready={!!asked.now}
        notes={t.notes}
      >
        {() => (
          <>
            {t.all.length < 2 && <Empty>This study has one question only.</Empty>}
            <Figures t={t} />
          </>
        )}
      </Titled>
    </div>
  );
}

/** Which questions stand in the table; the last one stays. */
function Chosen({ all, chosen, choose }: { all: string[]; chosen: string[]; choose: (to: string[]) => void }) {
  const stops = useRoving<HTMLUListElement>();
  return (
    <>
      <Caption>In the order of the file</Caption>
      <ul {...stops} className="grid max-w-100 gap-1.5" aria-label="Questions">
        {all.map((name) => {
          const on = chosen.includes(name);
          return (
            <li key={name}>
              <label className="flex items-baseline gap-2">
                <Checkbox
                  stop
                  checked={on}
                  disabled={on && chosen.length === 1}
                  change={(to) => choose(all.filter((n) => (n === name ? to : chosen.includes(n))))}
                />
                {name}
              </label>
            </li>
          );
        })}
      </ul>
    </>
  );
}

/** Rows by questions and their columns. A cell opens the answers of its question: those of another one there. */
function Figures({ t }: { t: SideBySide }) {
  const { question } = useDesk();
  const { focusText, pickText, setPick } = useAddress();
  const navigate = useNavigate();
  const across = t.questions.reduce((n, q) => n + q.columns.length, 0);
  const stops = useRoving<HTMLTableElement>({ across: true, columns: across });
  // Who came here from a cell of another question goes on from that cell, as soon as it is there.
  const { ref } = stops;
  // biome-ignore lint/correctness/useExhaustiveDependencies: the cell may come with each of these
  useEffect(() => {
    if (document.activeElement === document.body)
      ref.current?.querySelector<HTMLElement>('[aria-pressed=true]')?.focus({ preventScroll: true });
  }, [ref, t, question.id, pickText]);
  const open = (of: number, conditions: Parameters<typeof setPick>[0]) => {
    if (of === question.id) return setPick(conditions);
    const address = new URLSearchParams(window.location.search);
    address.set('pick', JSON.stringify(conditions));
    address.delete('focus');
    navigate(viewAddress(of, 'chart', focusText, Object.fromEntries(address)));
  };
  return (
    // biome-ignore lint/a11y/noNoninteractiveTabindex: a scrolling region must be reachable by keyboard
    <div className="overflow-x-auto pt-2" role="region" aria-label="Questions side by side" tabIndex={0}>
      <table {...stops} data-part="questions" className="border-separate border-spacing-0">
        <thead>
          <tr>
            <td />
            {t.questions.map((q) => (
              <th
                key={q.id}
                scope="colgroup"
                colSpan={q.columns.length}
                className="max-w-72 border-b border-l border-l-line px-2.5 pb-1 text-left align-bottom font-serif font-semibold"
              >
                {q.name}
              </th>
            ))}
          </tr>
          <tr>
            <td className="text-sm text-soft">{t.mentions ? 'share of mentions' : 'share'}</td>
            {t.questions.flatMap((q) =>
              q.columns.map((c, k) => (
                <th
                  key={`${q.id} ${c.key}`}
                  scope="col"
                  className={`px-2.5 py-1 text-right align-bottom text-sm font-normal ${k ? '' : 'border-l border-line'}`}
                >
                  {k ? c.values.join(', ') : 'All'}
                  <small
                    className={`block text-xs ${itemAt(q.bases, k).answers < t.small ? 'text-clay' : 'text-soft'}`}
                  >
                    base {count(itemAt(q.bases, k).answers)}
                  </small>
                </th>
              )),
            )}
          </tr>
        </thead>
        <tbody>
          {t.rows.map((r) => (
            <tr key={`${r.kind} ${r.path}`} data-row={r.kind}>
              <th
                scope="row"
                className={`border-t border-hair py-0.5 pr-4 text-left font-normal whitespace-nowrap ${r.kind === 'category' ? tint(r.top) : 'text-soft'}`}
                style={{ paddingLeft: 12 * r.depth }}
              >
                {r.short && <b className="inline-block min-w-5.5 text-xs font-bold text-(--c)">{r.short}</b>}
                <span className={r.depth === 0 && r.kind === 'category' ? 'font-semibold' : ''}>{r.name}</span>
              </th>
              {t.questions.flatMap((q, i) =>
                q.columns.map((c, k) => {
                  const of = itemAt(r.cells, i);
                  const x = of.cells[k];
                  const edge = k ? '' : 'border-l border-l-line';
                  if (!x)
                    return (
                      <td key={`${q.id} ${c.key}`} className={`border-t border-hair px-1 text-right ${edge}`}>
                        <Button look="bare" data-stop="" aria-disabled className="w-full rounded-sm px-1.5 text-right">
                          <span className="sr-only">
                            {q.name} has no category {r.path}
                          </span>
                        </Button>
                      </td>
                    );
                  const base = itemAt(q.bases, k);
                  const conditions = [...(q.conditions ?? []), ...(of.conditions ?? []), ...(c.conditions ?? [])];
                  const mark = markOfCell(x);
                  return (
                    <td key={`${q.id} ${c.key}`} className={`border-t border-hair px-1 text-right ${edge}`}>
                      <Button
                        look="bare"
                        data-stop=""
                        aria-label={`${r.path}, ${q.name}, ${k ? c.values.join(', ') : 'All'}: ${percent(x.share)}, ${count(x.answers)} answers${mark === '▲' ? ', surely above the rest' : mark ? ', surely below the rest' : ''}`}
                        aria-pressed={q.id === question.id && pickText === JSON.stringify(conditions)}
                        className={`w-full rounded-sm px-1.5 text-right whitespace-nowrap hover:bg-hair aria-pressed:bg-straw forced-colors:aria-pressed:outline ${base.answers < t.small ? 'opacity-60' : ''}`}
                        onClick={() => open(q.id, conditions)}
                      >
                        <small className="pr-1 text-xs font-semibold text-clay">{mark}</small>
                        {base.answers >= t.tiny ? percent(x.share) : '–'}
                        <small className="inline-block min-w-11 pl-1.5 text-xs text-soft">{count(x.answers)}</small>
                      </Button>
                    </td>
                  );
                }),
              )}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
