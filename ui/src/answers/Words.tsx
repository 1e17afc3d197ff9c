import type { Answer, Code } from '../lib/api';
import { dated, tint } from '../lib/format';
import { Short } from '../parts/Text';

/** The respondent's own words, with what decided marked. */
export function Words({ answer }: { answer: Answer }) {
  return <>{answer.parts.map((p, i) => (p.hit ? <mark key={i}>{p.text}</mark> : <span key={i}>{p.text}</span>))}</>;
}

function why(c: Code) {
  const parts = [];
  if (c.rules.length) parts.push(`rule ${c.rules.join(', ')}`);
  if (c.byHand) parts.push('by hand');
  return parts.join(' and ');
}

/** The categories of an answer, each with its reason. */
export function Codes({ codes }: { codes: Code[] }) {
  if (!codes.length) return null;
  return (
    <div data-part="codes" className="mt-1 flex flex-wrap gap-x-3 gap-y-1 text-sm">
      {codes.map((c) => (
        <span key={c.id} className={tint(c.top)}>
          <Short>{c.short}</Short>
          {c.name} <span className="pl-0.5 text-soft">{why(c)}</span>
        </span>
      ))}
    </div>
  );
}

/** Who said it, in one small line. */
export function Who({ answer }: { answer: Answer }) {
  return (
    <div className="mt-0.75 text-sm text-soft">
      {answer.who.map(dated).join(' · ')}
      {answer.status !== 'answered' && ` · ${answer.status}`}
      {answer.settled && ' · settled'}
    </div>
  );
}
