import type { Proof } from '../lib/api';
import { type StepSpec, sentence } from '../lib/steps';

const ins = 'relative -top-[0.72em] mx-px font-sans text-sm font-semibold text-moss no-underline';

type PiecesProps = { pieces: Proof['pieces']; steps: StepSpec[]; only?: string };

/** An answer with the marks of the steps that read it; what one's own replacements did stands out. */
function Pieces({ pieces, steps, only }: PiecesProps) {
  return pieces.map((x, i) => {
    if (!x.struck) return <span key={i}>{x.text}</span>;
    const by = (x.steps ?? []).map((n) => steps[n]).filter((s) => !!s);
    const faint = only && !by.some((s) => s.step === only);
    const own = by.some((s) => s.step === 'replace' || s.step === 'letters');
    return (
      <span
        key={i}
        className={`${faint ? 'opacity-45' : ''} ${own ? 'bg-straw/45 forced-colors:outline' : ''}`}
        title={by.map(sentence).join(', then ')}
      >
        {x.text && <del className="text-soft decoration-clay decoration-1">{x.text}</del>}
        {x.with?.trim() ? (
          <ins className={ins}>{x.with}</ins>
        ) : x.with?.includes('\n') ? (
          <ins className={ins} title="a new sentence">
            ¶
          </ins>
        ) : (
          !x.text && (
            <ins className={ins} title="a space">
              ␣
            </ins>
          )
        )}
      </span>
    );
  });
}

type SheetProps = {
  proof: Proof[];
  steps: StepSpec[];
  /** The steps by which answers are read now, in a preview of others. */
  now?: StepSpec[];
  only?: string;
};

const said = 'font-serif text-lg leading-loose break-words whitespace-pre-wrap';

/** Answers with proof-reader's marks: struck words are not read, those above the line are read instead. */
export function ProofSheet({ proof, steps, now, only }: SheetProps) {
  return proof.map((p) =>
    now && p.was ? (
      <dl
        data-part="proof"
        key={p.number}
        className="grid grid-cols-[2.75rem_1fr] border-t py-1.5 [&_dt]:pt-2 [&_dt]:text-sm [&_dt]:text-soft"
      >
        <dt>now</dt>
        <dd className={said}>
          <Pieces pieces={p.was} steps={now} />
        </dd>
        <dt>then</dt>
        <dd className={said}>
          <Pieces pieces={p.pieces} steps={steps} />
        </dd>
      </dl>
    ) : (
      <p data-part="proof" className={`border-t py-2 ${said}`} key={p.number}>
        <Pieces pieces={p.pieces} steps={steps} only={only} />
      </p>
    ),
  );
}
