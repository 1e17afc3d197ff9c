import { type ChangeEvent, useRef, useState } from 'react';
import { useAddress } from '../lib/address';
import { api, type SampleAgreement, type SampleInfo, take } from '../lib/api';
import { useDesk } from '../lib/edits';
import { count, many, moment, percent } from '../lib/format';
import { useMaker } from '../lib/maker';
import { useQuestionId } from '../lib/queries';
import { viewAddress } from '../lib/views';
import { Failed } from '../parts/Asked';
import { Button, Link } from '../parts/Button';
import { Dialog, Ends } from '../parts/Dialog';
import { NumberField } from '../parts/NumberField';
import { Select } from '../parts/Select';
import { Table } from '../parts/Table';
import { Caption, Empty, Labelled, Sentence, Skeleton, TextField } from '../parts/Text';
import { Blind } from './Blind';
import { MakerField } from './MakerField';
import { agreed, coderName, useAgreement, useSamples, useSamplesAgain } from './samples';

/** How good the coding is: samples that are coded blind, here or elsewhere, and the figures by them. */
export default function Agreement() {
  const { get, set } = useAddress();
  const samples = useSamples();
  const [drawing, setDrawing] = useState(false);
  if (samples.error && !samples.data) return <Failed error={samples.error} again={() => samples.refetch()} />;
  if (!samples.data) return <Skeleton lines={6} />;
  const all = samples.data.filter((s) => !s.gone);
  const open = all.find((s) => String(s.id) === get('sample')) ?? all[0];
  const coder = get('coder');
  if (open && get('see') === 'code')
    return <Blind sample={open.id} name={open.name} coder={coder} close={() => set({ see: '', at: '', coder })} />;
  return (
    <div className="max-w-300 pr-2">
      <section aria-label="Samples" className="flex flex-wrap items-baseline gap-x-3 gap-y-1.5 pb-2">
        {all.length > 0 && (
          <Select
            label="Sample"
            value={String(open?.id ?? '')}
            change={(v) => set({ sample: v, coder: '', pick: '' })}
            options={all.map((s) => ({ value: String(s.id), words: `${s.name} · ${many(s.size, 'answer')}` }))}
          />
        )}
        <Button look={all.length ? 'normal' : 'go'} onClick={() => setDrawing(true)}>
          Draw a sample…
        </Button>
        <BringIn done={(s) => set({ sample: String(s.id), coder: s.coders[0]?.name ?? '', pick: '' })} />
        <Thrown all={samples.data} />
      </section>
      {!open && (
        <Empty>
          How good is the coding? Draw a random sample and code it blind here, or download it and have it coded by
          somebody else. Precision, recall and kappa stand here then, and follow every change of the rules.
        </Empty>
      )}
      {open && <Sample key={open.id} of={open} />}
      {drawing && (
        <Drawing
          close={(made) => {
            setDrawing(false);
            if (made) set({ sample: String(made.id), coder: '', pick: '' });
          }}
        />
      )}
    </div>
  );
}

/** Half the width of the 95 % interval of a share about one half, of so many answers: the widest there is. */
const halfWidth = (n: number) => 1.959964 / (2 * Math.sqrt(n + 1.959964 ** 2));

/** Draws a sample. */
function Drawing({ close }: { close: (made?: SampleInfo) => void }) {
  const { question } = useDesk();
  const { focus } = useAddress();
  const again = useSamplesAgain();
  const [name, setName] = useState(`Sample of ${new Date().toLocaleDateString('en-GB', { dateStyle: 'medium' })}`);
  const [size, setSize] = useState(200);
  const [seed, setSeed] = useState(1);
  const [by, setBy] = useState('');
  const [error, setError] = useState<Error>();
  const parts = question.variables.filter((v) => v.role === 'segment' || v.role === 'wave');
  const draw = async () => {
    try {
      const made = await take(
        api.POST('/api/v1/questions/{question}/samples', {
          params: { path: { question: question.id } },
          body: { name, size, seed, by: by || undefined, focus },
        }),
      );
      await again();
      close(made);
    } catch (e) {
      setError(e as Error);
    }
  };
  return (
    <Dialog title="Draw a sample" close={() => close()}>
      <form
        className="grid gap-2.5"
        onSubmit={(e) => {
          e.preventDefault();
          draw();
        }}
      >
        <Labelled name="Name">
          <TextField wide autoFocus value={name} maxLength={200} onChange={(e) => setName(e.target.value)} />
        </Labelled>
        <p className="flex flex-wrap items-baseline gap-2.5">
          <NumberField label="answers" value={size} least={1} most={20_000} change={setSize} />
          <NumberField label="seed" value={seed} least={0} change={setSeed} />
        </p>
        <p className="text-sm text-soft">
          A share found in {count(size)} answers is known to about ±{(100 * halfWidth(size)).toFixed(1)} points; one
          that {count(Math.round(size / 10))} of them tell of, to ±{(100 * halfWidth(size / 10)).toFixed(0)}. It is
          drawn at random from the {count(question.focus)} answers of the focus; the same seed draws the same.
        </p>
        <Labelled name="As many from each">
          <Select
            label="As many from each"
            value={by}
            change={setBy}
            options={[
              { value: '', words: 'no parts: each answer is as likely' },
              { value: '=', words: 'coded, and not coded' },
              ...parts.map((v) => ({ value: v.name, words: `${v.name} (${many(v.values.length, 'value')})` })),
            ]}
          />
        </Labelled>
        {by && (
          <p className="text-sm text-soft">
            What is drawn from a part stands for all of it: figures are weighted, and say the effective intervals.
          </p>
        )}
        {error && <Failed error={error} />}
        <Ends go="Draw it" ready={!!name.trim()} close={() => close()} />
      </form>
    </Dialog>
  );
}

/** Brings in a sample that was coded elsewhere. */
function BringIn({ done }: { done: (s: SampleInfo) => void }) {
  const { question, say } = useDesk();
  const again = useSamplesAgain();
  const [maker] = useMaker();
  const file = useRef<HTMLInputElement>(null);
  const bring = async (e: ChangeEvent<HTMLInputElement>) => {
    const chosen = e.target.files?.[0];
    e.target.value = '';
    if (!chosen) return;
    try {
      const made = await take(
        api.POST('/api/v1/questions/{question}/samples/read', {
          params: { path: { question: question.id } },
          body: { name: chosen.name, coder: maker || 'by hand', csv: await chosen.text() },
        }),
      );
      await again();
      done(made);
    } catch (e) {
      say({ text: (e as Error).message, bad: true });
    }
  };
  return (
    <>
      <input
        ref={file}
        type="file"
        accept=".csv,text/csv"
        className="hidden"
        onChange={bring}
        aria-label="A sample coded by hand"
      />
      <Button onClick={() => file.current?.click()}>Bring a coded sample in…</Button>
    </>
  );
}

/** Samples that were thrown away come back from here. */
function Thrown({ all }: { all: SampleInfo[] }) {
  const { question } = useDesk();
  const again = useSamplesAgain();
  const gone = all.filter((s) => s.gone);
  if (!gone.length) return null;
  return (
    <Select
      label="Bring a thrown sample back"
      value=""
      change={async (v) => {
        if (!v) return;
        await take(
          api.POST('/api/v1/questions/{question}/samples/{sample}/restore', {
            params: { path: { question: question.id, sample: Number(v) } },
          }),
        );
        await again();
      }}
      options={[
        { value: '', words: `${many(gone.length, 'sample')} thrown away` },
        ...gone.map((s) => ({ value: String(s.id), words: `bring back ${s.name}` })),
      ]}
    />
  );
}

/** A sample: who has coded how much, and the figures by one of them. */
function Sample({ of: s }: { of: SampleInfo }) {
  const { get, set } = useAddress();
  const { question, say } = useDesk();
  const again = useSamplesAgain();
  const [maker] = useMaker();
  const chosen = get('coder');
  const coder = s.coders.some((c) => c.name === chosen)
    ? chosen
    : (s.coders.find((c) => c.name === agreed && !s.apart) ?? s.coders[0])?.name;
  const [against, setAgainst] = useState('');
  const throwAway = async () => {
    const call = (restore: boolean) => {
      const params = { path: { question: question.id, sample: s.id } };
      return take(
        restore
          ? api.POST('/api/v1/questions/{question}/samples/{sample}/restore', { params })
          : api.DELETE('/api/v1/questions/{question}/samples/{sample}', { params }),
      );
    };
    await call(false);
    await again();
    say({
      text: `${s.name} was thrown away, with what was coded.`,
      action: { words: 'Bring it back', act: () => call(true).then(again) },
    });
  };
  const mine = s.coders.find((c) => c.name === maker)?.coded ?? 0;
  const others = s.coders.filter((c) => c.name !== agreed && c.name !== coder);
  return (
    <>
      <p className="flex flex-wrap items-baseline gap-x-3 gap-y-1 pb-1.5">
        <MakerField words="You code as" />
        <Button
          look={mine < s.size ? 'go' : 'normal'}
          onClick={() => set({ see: 'code', coder: maker, at: '', pick: '' })}
        >
          {mine === 0
            ? 'Code it blind'
            : mine < s.size
              ? `Go on coding: ${count(s.size - mine)} to go`
              : 'Look it over'}
        </Button>
        {s.apart > 0 && (
          <Button onClick={() => set({ see: 'code', coder: agreed, at: '', pick: '' })}>
            Settle {many(s.apart, 'answer')} that coders gave differently
          </Button>
        )}
        <a
          className="px-0.5 text-ink underline decoration-edge underline-offset-3 hover:decoration-moss"
          href={`/api/v1/questions/${question.id}/samples/${s.id}/blind.csv`}
          download
        >
          Download to code elsewhere
        </a>
        <Button look="plain" onClick={throwAway}>
          throw it away
        </Button>
      </p>
      <p className="pb-2 text-sm text-soft">{drawnHow(s)}</p>
      {coder === undefined ? (
        <Empty>Nobody has coded it yet. Code it blind: nothing will say how its answers are coded.</Empty>
      ) : (
        <>
          <p className="flex flex-wrap items-baseline gap-x-3 gap-y-1">
            <span className="text-soft">held against</span>
            <Select
              label="Held against"
              value={coder}
              change={(v) => set({ coder: v, pick: '' })}
              options={s.coders.map((c) => ({
                value: c.name,
                words: `${coderName(c.name)} (${count(c.coded)} of ${count(s.size)})`,
              }))}
            />
            {others.length > 0 && coder !== agreed && (
              <>
                <span className="text-soft">of</span>
                <Select
                  label="What is held"
                  value={against}
                  change={setAgainst}
                  options={[
                    { value: '', words: 'the coding' },
                    ...others.map((c) => ({ value: `=${c.name}`, words: coderName(c.name) })),
                  ]}
                />
              </>
            )}
          </p>
          {coder === agreed && s.apart > 0 && (
            <p className="pt-1 text-clay">
              {many(s.apart, 'answer')} that coders gave differently {s.apart === 1 ? 'is' : 'are'} left out until{' '}
              {s.apart === 1 ? 'it is' : 'they are'} settled. What is easy to agree on is easy to code: these figures
              flatter the coding.
            </p>
          )}
          <Figures
            sample={s}
            coder={coder}
            other={
              against && coder !== agreed && others.some((o) => `=${o.name}` === against) ? against.slice(1) : undefined
            }
          />
        </>
      )}
    </>
  );
}

function drawnHow(s: SampleInfo) {
  const made = `${s.madeBy ? `by ${s.madeBy}, ` : ''}${moment(s.at)}`;
  if (s.how.read) return `${many(s.size, 'answer')}, coded elsewhere and brought in ${made}.`;
  const from = s.how.parts.reduce((n, p) => n + p.answers, 0);
  const parts =
    s.how.parts.length > 1
      ? `, ${s.how.parts.map((p) => `${count(p.drawn)} of ${count(p.answers)} ${p.value}`).join(', ')}`
      : '';
  return `${many(s.size, 'answer')} of ${count(from)}, at random (seed ${s.how.seed})${parts}; drawn ${made}.`;
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

type FiguresProps = { sample: SampleInfo; coder: string; other?: string };

/** Per category and in all: how far the coding, or another coder, agrees with a coder. */
function Figures({ sample, coder, other }: FiguresProps) {
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
