import { useState } from 'react';
import { HouseStyle } from '../drawing/HouseStyle';
import { useAddress } from '../lib/address';
import type { Chart } from '../lib/api';
import { say } from '../lib/conditions';
import { useDesk } from '../lib/edits';
import { useFrame } from '../lib/queries';
import { Button } from '../parts/Button';
import { useRoving } from '../parts/roving';
import { CodedData } from './CodedData';
import type { Design } from './design';

/** The figures and the coded data as files. */
export function Download({ c, design }: { c: Chart; design: Design }) {
  const { question } = useDesk();
  const { focus } = useAddress();
  const frame = useFrame(design.query.focus);
  const [coded, setCoded] = useState(false);
  const stops = useRoving<HTMLElement>({ across: true });
  const link = (path: string, more: Record<string, string>) =>
    `/api/v1/questions/${question.id}/${path}?${new URLSearchParams(more)}`;
  const of: Record<string, string> = { by: JSON.stringify(c.nests.map((n) => n.variables)) };
  for (const [k, v] of Object.entries(design.query)) if (k !== 'by' && v) of[k] = String(v);
  const about = focus.length
    ? `Of the answers: ${focus.map((f) => say(f, frame.data?.categories ?? [])).join(', ')}.`
    : 'Of all answers.';
  return (
    <section {...stops} className="flex flex-wrap items-baseline gap-x-3 gap-y-1 pb-4 text-sm" aria-label="Download">
      <span className="text-soft">Download:</span>
      {(
        [
          ['this table, XLSX', link('chart/file', { ...of, about, format: 'xlsx' })],
          ['a table for each segment, XLSX', link('chart/file', { ...of, about, format: 'xlsx', each: 'true' })],
          ['this table, CSV', link('chart/file', { ...of, format: 'csv' })],
        ] as const
      ).map(([words, href]) => (
        <a key={words} data-stop="" className="underline" href={href} download>
          {words}
        </a>
      ))}
      <HouseStyle stop />
      <Button look="plain" data-stop="" onClick={() => setCoded(true)}>
        coded data…
      </Button>
      {coded && <CodedData close={() => setCoded(false)} />}
    </section>
  );
}
