import { type ChangeEvent, useRef, useState } from 'react';
import { useAddress } from '../lib/address';
import { api, type SampleInfo, take } from '../lib/api';
import { useDesk } from '../lib/edits';
import { count, many, moment } from '../lib/format';
import { useMaker } from '../lib/maker';
import { Failed } from '../parts/Asked';
import { Button } from '../parts/Button';
import { Select } from '../parts/Select';
import { Empty, Skeleton } from '../parts/Text';
import { Blind } from './Blind';
import { Drawing } from './Drawing';
import { Figures } from './Figures';
import { MakerField } from './MakerField';
import { agreed, coderName, useSamples, useSamplesAgain } from './samples';

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
          href={`/api/v1/questions/${question.id}/samples/${s.id}/file`}
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
