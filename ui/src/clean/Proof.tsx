import type { Proof } from '../lib/api';
import { type StepSpec, sentence } from './steps';

const ins = 'relative -top-[0.72em] mx-px font-sans text-sm font-semibold text-moss no-underline';

/** Answers with proof-reader's marks: struck words are not read, those above the line are read instead. */
export function ProofSheet({ proof, steps, only }: { proof: Proof[]; steps: StepSpec[]; only?: string }) {
  return (
    <>
      {proof.map((p) => (
        <p
          data-part="proof"
          className="border-t py-2 font-serif text-lg leading-loose break-words whitespace-pre-wrap"
          key={p.number}
        >
          {p.pieces.map((x, i) => {
            if (!x.struck) return <span key={i}>{x.text}</span>;
            const by = (x.steps ?? []).map((n) => steps[n]).filter((s) => !!s);
            const faint = only && !by.some((s) => s.step === only);
            return (
              <span key={i} className={faint ? 'opacity-45' : ''} title={by.map(sentence).join(', then ')}>
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
          })}
        </p>
      ))}
    </>
  );
}
