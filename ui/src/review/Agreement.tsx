import { type ChangeEvent, useRef, useState } from 'react';
import { useAddress } from '../lib/address';
import type { Agreeing } from '../lib/api';
import { useDesk } from '../lib/edits';
import { count, many } from '../lib/format';
import { useKept } from '../lib/kept';
import { useTry } from '../lib/queries';
import { Failed } from '../parts/Asked';
import { Button } from '../parts/Button';
import { NumberField } from '../parts/NumberField';
import { Table } from '../parts/Table';
import { Empty, Sentence, Skeleton } from '../parts/Text';

type Sample = { name: string; csv: string };

/** The coding held against a sample that was coded by hand elsewhere: drawn here, coded blind, and brought back as a file. */
export default function Agreement() {
  const { focusText } = useAddress();
  const { question } = useDesk();
  const [sample, setSample] = useKept<Sample | null>('sample', null);
  const [size, setSize] = useState(200);
  const [seed, setSeed] = useState(1);
  const file = useRef<HTMLInputElement>(null);
  const found = useTry('agreement', { csv: sample?.csv ?? '' }, { enabled: !!sample });
  const bring = async (e: ChangeEvent<HTMLInputElement>) => {
    const chosen = e.target.files?.[0];
    e.target.value = '';
    if (!chosen) return;
    setSample({ name: chosen.name, csv: await chosen.text() });
  };
  const drawn = new URLSearchParams({
    ...(focusText ? { focus: focusText } : {}),
    size: String(size),
    seed: String(seed),
  });
  return (
    <div className="max-w-300 pr-2">
      <section aria-label="A sample coded by hand" className="flex flex-wrap items-baseline gap-2.5 pb-2">
        <NumberField label="draw" value={size} least={1} change={(n) => setSize(Math.max(1, Math.round(n)))} /> answers
        of the focus at random,
        <NumberField label="seed" value={seed} least={0} change={(n) => setSeed(Math.max(0, Math.round(n)))} />
        <a
          className="px-0.5 text-ink underline decoration-edge underline-offset-3 hover:decoration-moss"
          href={`/api/v1/questions/${question.id}/sample.csv?${drawn}`}
          download
        >
          Download to code blind
        </a>
        <span className="ml-auto flex items-baseline gap-2.5">
          <input
            ref={file}
            type="file"
            accept=".csv,text/csv"
            className="hidden"
            onChange={bring}
            aria-label="A sample coded by hand"
          />
          <Button look={sample ? 'normal' : 'go'} onClick={() => file.current?.click()}>
            Bring the coded sample in…
          </Button>
          {sample && (
            <Button look="plain" onClick={() => setSample(null)}>
              Let go of it
            </Button>
          )}
        </span>
      </section>
      {!sample && (
        <Empty>
          How good is the coding? Download a random sample, have it coded by somebody who does not see the rules, and
          bring it back: a CSV file with the columns id and category, a row for each category of an answer, and one
          without a category where none applies. Precision, recall and kappa stand here then, and follow every change of
          the rules.
        </Empty>
      )}
      {sample && found.error && <Failed error={found.error} again={() => found.refetch()} />}
      {sample && !found.data && !found.error && <Skeleton lines={6} />}
      {sample && found.now && <Figures of={found.now} name={sample.name} />}
    </div>
  );
}

const figure = (n: number) => (Math.abs(n) < 0.005 ? 0 : n).toFixed(2);
const between = (n: number, low: number, high: number, base: number) =>
  base ? (
    <>
      {figure(n)}{' '}
      <small className="text-soft">
        {figure(low)}–{figure(high)}
      </small>
    </>
  ) : (
    '–'
  );

function Figures({ of: a, name }: { of: Agreeing; name: string }) {
  const { setPick, pickText } = useAddress();
  const rows = a.categories.map((c, i) => ({ ...c, apart: a.apart[i]! })).filter((c) => c.both + c.only + c.missed > 0);
  const silent = a.categories.length - rows.length;
  const pick = (answers: number[], n: number, label: string) => {
    const of = [{ kind: 'answers', answers } as const];
    return n ? (
      <Button
        data-stop=""
        look="plain"
        aria-label={`${count(n)} ${label}: show them`}
        aria-pressed={pickText === JSON.stringify(of)}
        onClick={() => setPick(of)}
      >
        {count(n)}
      </Button>
    ) : (
      '0'
    );
  };
  const o = a.overall;
  return (
    <>
      <Sentence>
        {many(a.answers, 'answer')} of {name}; all categories are the same in {count(a.whole)}. All together: precision{' '}
        {figure(o.precision)} ({figure(o.precisionLow)}–{figure(o.precisionHigh)}), recall {figure(o.recall)} (
        {figure(o.recallLow)}–{figure(o.recallHigh)}), F1 {figure(o.f1)}, kappa {figure(o.kappa)}, alpha{' '}
        {figure(o.alpha)}; mean F1 of the categories {figure(o.macroF1)}.
      </Sentence>
      <Table
        label="Agreement by category"
        rows={rows}
        id={(c) => c.id}
        columns={[
          { key: 'category', name: 'category', head: true, grow: true, cell: (c) => c.name },
          {
            key: 'both',
            name: 'both',
            told: 'Answers of the sample that the coding and the hand give it',
            figure: true,
            cell: (c) => count(c.both),
          },
          {
            key: 'only',
            name: 'only coded',
            told: 'Answers that only the coding gives it: wrong, if the hand is right',
            figure: true,
            cell: (c) => pick(c.apart.only, c.only, `answers that only the coding gives ${c.name}`),
          },
          {
            key: 'missed',
            name: 'missed',
            told: 'Answers that only the hand gives it',
            figure: true,
            cell: (c) => pick(c.apart.missed, c.missed, `answers that only the hand gives ${c.name}`),
          },
          {
            key: 'precision',
            name: 'precision',
            told: 'Both of what the coding gives it, with its 95 % interval (Wilson)',
            figure: true,
            cell: (c) => between(c.precision, c.precisionLow, c.precisionHigh, c.both + c.only),
          },
          {
            key: 'recall',
            name: 'recall',
            told: 'Both of what the hand gives it, with its 95 % interval (Wilson)',
            figure: true,
            cell: (c) => between(c.recall, c.recallLow, c.recallHigh, c.both + c.missed),
          },
          {
            key: 'f1',
            name: 'F1',
            told: 'Harmonic mean of precision and recall',
            figure: true,
            cell: (c) => figure(c.f1),
          },
          {
            key: 'kappa',
            name: 'kappa',
            told: 'Cohen’s kappa, with its 95 % interval: 1 agrees wholly, 0 as by chance',
            figure: true,
            cell: (c) => between(c.kappa, c.kappaLow, c.kappaHigh, a.answers),
          },
        ]}
      />
      <p className="pt-1.5 text-sm text-soft">
        Of categories without others inside;{' '}
        {silent > 0 && `${count(silent)} that neither gives to any answer are left out. `}
        Decisions by hand count as coding. The figures are of the whole sample, whatever the focus.
      </p>
    </>
  );
}
