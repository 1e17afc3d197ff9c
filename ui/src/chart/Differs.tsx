import { useState } from 'react';
import { useAddress } from '../lib/address';
import type { Finding, Findings } from '../lib/api';
import { useDesk } from '../lib/edits';
import { many, tint } from '../lib/format';
import { useAsk } from '../lib/queries';
import { useReports } from '../lib/reports';
import { Failed } from '../parts/Asked';
import { Button } from '../parts/Button';
import { Checkbox } from '../parts/Checkbox';
import { useRoving } from '../parts/roving';
import { Choice, optionsOf } from '../parts/Select';
import { Empty, Short, Skeleton } from '../parts/Text';
import { answerBase, answerBases, useDesign } from './design';

const why = { column: 'so too', category: 'so too', explained: 'explained by it' } as const;

/** What differs most between segments, over all categories: each a sentence, told once. */
export default function Differs() {
  const { query, set } = useDesign();
  const base = answerBase(query.base);
  const found = useAsk('findings', { focus: query.focus, base, weighted: query.weighted });
  if (found.error && !found.data) return <Failed error={found.error} again={() => found.refetch()} />;
  if (!found.data) return <Skeleton lines={8} />;
  const f = found.data;
  return (
    <div className="grid max-w-240 gap-3 pr-2 pb-4" aria-busy={found.isPlaceholderData}>
      <div className="flex flex-wrap items-end gap-x-4 gap-y-2 border-b pb-3">
        <Choice
          label="shares of"
          value={base}
          change={(v) => set({ base: v === 'answered' ? '' : v })}
          options={optionsOf(answerBases)}
        />
        <label className="flex items-center gap-1.5 pb-1">
          <Checkbox checked={query.weighted} change={(on) => set({ weighted: on ? '1' : '' })} /> weighted
        </label>
      </div>
      {f.findings.length === 0 ? (
        <Empty>
          Nothing differs surely.{' '}
          {f.tested === 0 && 'There are no segments with bases that are large enough to be tested.'}
        </Empty>
      ) : (
        <Heads f={f} base={base} />
      )}
      <p className="border-t pt-2 text-sm text-soft">{f.notes.join(' ')}</p>
    </div>
  );
}

function Heads({ f, base }: { f: Findings; base: keyof typeof answerBases }) {
  const { setPick, pickText, set, focus } = useAddress();
  const { question } = useDesk();
  const { put } = useReports();
  const intoReport = ({ category, variable, value }: Finding) =>
    put(
      {
        kind: 'finding',
        question: question.id,
        finding: { focus, base, weighted: f.weighted, category, variable, value },
      },
      'Put a finding into the report',
    );
  const [open, setOpen] = useState<string>();
  const stops = useRoving<HTMLOListElement>();
  const on = (x: Finding) => pickText === JSON.stringify(x.conditions);
  const line = (x: Finding, words?: string) => (
    <p className={`${tint(x.top)} font-serif text-lg`}>
      <Button
        look="bare"
        data-stop=""
        data-part="finding"
        aria-pressed={on(x)}
        className="rounded-sm px-1 hover:bg-hair aria-pressed:bg-straw forced-colors:aria-pressed:outline"
        onClick={() => setPick(x.conditions)}
      >
        {words && <em className="pr-1.5 text-sm text-soft">{words}</em>}
        {x.short && <Short>{x.short}</Short>}
        <b className="font-semibold">{x.path}</b> {x.said}
      </Button>
    </p>
  );
  return (
    <ol {...stops} className="grid gap-2.5" aria-label="Findings, the strongest first">
      {f.findings.map((x) => {
        const key = `${x.category} ${x.variable} ${x.value}`;
        return (
          <li key={key} className="border-t border-hair pt-2 first:border-t-0">
            {line(x)}
            <p className="flex flex-wrap gap-x-3 pl-1 text-sm text-soft">
              <Button
                look="plain"
                data-stop=""
                onClick={() =>
                  set({
                    tab: '',
                    by: JSON.stringify([[x.variable]]),
                    sort: '',
                    // The row must be there.
                    rows: '',
                    only: '',
                    least: '',
                    pick: JSON.stringify(x.conditions),
                  })
                }
              >
                show by {x.variable}
              </Button>
              <Button look="plain" data-stop="" onClick={() => intoReport(x)}>
                into the report
              </Button>
              {x.also.length > 0 && (
                <Button
                  look="plain"
                  data-stop=""
                  aria-expanded={open === key}
                  onClick={() => setOpen(open === key ? undefined : key)}
                >
                  {open === key ? 'fold away' : `${many(x.also.length, 'finding')} in this one`}
                </Button>
              )}
            </p>
            {open === key && (
              <ul className="mt-1.5 grid gap-1.5 border-l border-line pl-4">
                {x.also.map((a) => (
                  <li key={`${a.category} ${a.variable} ${a.value}`}>{line(a, why[a.why])}</li>
                ))}
              </ul>
            )}
          </li>
        );
      })}
    </ol>
  );
}
