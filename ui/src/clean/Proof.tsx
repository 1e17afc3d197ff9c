import type { Proof } from '../lib/api';
import { type StepSpec, sentence } from './steps';

/** Answers with proof-reader's marks: struck words are not read, those above the line are read instead. */
export function ProofSheet({ proof, steps, only }: { proof: Proof[]; steps: StepSpec[]; only?: string }) {
  return (
    <>
      {proof.map((p) => (
        <p className="proof" key={p.number}>
          {p.pieces.map((x, i) => {
            if (!x.struck) return <span key={i}>{x.text}</span>;
            const by = (x.steps ?? []).map((n) => steps[n]).filter((s) => !!s);
            const faint = only && !by.some((s) => s.step === only);
            return (
              <span key={i} className={faint ? 'faint' : ''} title={by.map(sentence).join(', then ')}>
                {x.text && <del>{x.text}</del>}
                {x.with?.trim() ? (
                  <ins>{x.with}</ins>
                ) : x.with?.includes('\n') ? (
                  <ins title="a new sentence">¶</ins>
                ) : (
                  !x.text && <ins title="a space">␣</ins>
                )}
              </span>
            );
          })}
        </p>
      ))}
    </>
  );
}
