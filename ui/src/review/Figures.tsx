import { useAddress } from '../lib/address';
import type { SampleAgreement, SampleInfo } from '../lib/api';
import { count, many, moment, percent } from '../lib/format';
import { useQuestionId } from '../lib/queries';
import { itemAt } from '../lib/required';
import { viewAddress } from '../lib/views';
import { Failed } from '../parts/Asked';
import { Button, Link } from '../parts/Button';
import { Table } from '../parts/Table';
import { Caption, Sentence, Skeleton } from '../parts/Text';
import { coderName, useAgreement } from './samples';

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

type FiguresProps = { sample: SampleInfo; coder: string; other?: string };

/** Per category and in all: how far the coding, or another coder, agrees with a coder. */
export function Figures({ sample, coder, other }: FiguresProps) {
  // The other coder stands in the place of the coding.
  const found = useAgreement(sample, other ?? coder, other === undefined ? undefined : coder);
  if (found.error && !found.data) return <Failed error={found.error} again={() => found.refetch()} />;
  const a = found.data;
  if (!a) return <Skeleton lines={6} />;
  return (
    <FigureTables
      of={a}
      only={other === undefined ? 'the coding' : coderName(other)}
      hand={coderName(coder)}
      between={other !== undefined}
    />
  );
}

type TablesProps = { of: SampleAgreement; only: string; hand: string; between: boolean };

function FigureTables({ of: a, only, hand, between: two }: TablesProps) {
  const { setPick, pickText, focusText } = useAddress();
  const id = useQuestionId();
  const rows = a.categories
    .map((c, i) => ({ ...c, apart: itemAt(a.apart, i) }))
    .filter((c) => c.both + c.only + c.missed > 0);
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
        {many(a.answers, 'answer')} coded{a.answers < a.size ? ` of ${count(a.size)}` : ''}; all categories are the same
        in {count(a.whole)}. All together: precision {figure(o.precision)} ({figure(o.precisionLow)}–
        {figure(o.precisionHigh)}), recall {figure(o.recall)} ({figure(o.recallLow)}–{figure(o.recallHigh)}), F1{' '}
        {figure(o.f1)}, kappa {figure(o.kappa)} ({figure(o.kappaLow)}–{figure(o.kappaHigh)}), alpha {figure(o.alpha)},
        and the mean F1 of the categories {figure(o.macroF1)}.
        {a.gone > 0 && ` ${many(a.gone, 'answer')} of respondents who are not in the data now are left out.`}
      </Sentence>
      <Table
        label="Agreement by category"
        rows={rows}
        id={(c) => c.id}
        columns={[
          {
            key: 'category',
            name: 'category',
            told: 'To its rules and its note',
            head: true,
            grow: true,
            cell: (c) => (
              <Link data-stop="" to={viewAddress(id, 'code', focusText, { category: c.id })}>
                {c.name}
              </Link>
            ),
          },
          {
            key: 'both',
            name: 'both',
            told: 'Answers of the sample that both give it',
            figure: true,
            cell: (c) => count(c.both),
          },
          {
            key: 'only',
            name: two ? `only ${only}` : 'only coded',
            told: `Answers that only ${only} gives it: wrong, if ${hand} is right`,
            figure: true,
            cell: (c) => pick(c.apart.only, c.only, `answers that only ${only} gives ${c.name}`),
          },
          {
            key: 'missed',
            name: two ? `only ${hand}` : 'missed',
            told: `Answers that only ${hand} gives it`,
            figure: true,
            cell: (c) => pick(c.apart.missed, c.missed, `answers that only ${hand} gives ${c.name}`),
          },
          {
            key: 'precision',
            name: 'precision',
            told: `Both of what ${only} gives it, with its 95 % interval (Wilson)`,
            figure: true,
            cell: (c) => between(c.precision, c.precisionLow, c.precisionHigh, c.both + c.only),
          },
          {
            key: 'recall',
            name: 'recall',
            told: `Both of what ${hand} gives it, with its 95 % interval (Wilson)`,
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
        Of categories without others inside.{' '}
        {silent > 0 && `${count(silent)} of them, which neither gives to any answer, are left out. `}
        {!two && 'Decisions by hand count as coding. '}The figures are of the whole sample, whatever the focus.
      </p>
      <div className="flex flex-wrap items-start gap-x-10 gap-y-4 pt-4">
        {a.instead.length > 0 && (
          <section aria-label="One category for another">
            <Caption>One category for another</Caption>
            <Table
              label="One category for another"
              rows={a.instead.slice(0, 15)}
              id={(c) => `${c.only} ${c.missed}`}
              columns={[
                { key: 'only', name: `given by ${only}`, head: true, cell: (c) => c.only },
                { key: 'missed', name: `by ${hand}`, cell: (c) => c.missed },
                { key: 'n', name: 'answers', figure: true, cell: (c) => count(c.answers) },
              ]}
            />
          </section>
        )}
        {a.history.length > 1 && (
          <section aria-label="How it was before">
            <Caption>How it was before, at each look where it had changed</Caption>
            <Table
              label="Agreement by revision"
              rows={[...a.history].reverse().slice(0, 20)}
              id={(h) => `${h.revision} ${h.at}`}
              columns={[
                { key: 'revision', name: 'revision', head: true, figure: true, cell: (h) => count(h.revision) },
                { key: 'at', name: 'looked at', cell: (h) => moment(h.at) },
                { key: 'answers', name: 'answers', figure: true, cell: (h) => count(h.answers) },
                {
                  key: 'whole',
                  name: 'all the same',
                  figure: true,
                  cell: (h) => percent(h.answers ? h.whole / h.answers : 0),
                },
                { key: 'precision', name: 'precision', figure: true, cell: (h) => figure(h.precision) },
                { key: 'recall', name: 'recall', figure: true, cell: (h) => figure(h.recall) },
                { key: 'f1', name: 'F1', figure: true, cell: (h) => figure(h.f1) },
                { key: 'kappa', name: 'kappa', figure: true, cell: (h) => figure(h.kappa) },
              ]}
            />
          </section>
        )}
      </div>
    </>
  );
}
