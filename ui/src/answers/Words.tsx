import type { Answer, Code } from '../lib/api';
import { tint, whoOf } from '../lib/format';
import { useReading } from '../lib/reading';
import { Short } from '../parts/Text';

type Part = Answer['parts'][number];

/** A piece of an answer: a tag or entity is faint, or stands for what people read in its place. */
function Piece({ part }: { part: Part }) {
  const [reading] = useReading();
  const text = reading === 'read' ? (part.read ?? part.text) : part.text;
  if (part.hit) return <mark>{text}</mark>;
  return <span className={part.read !== undefined && reading === 'written' ? 'text-soft' : undefined}>{text}</span>;
}

/** The respondent's own words, with what decided marked. */
export const Words = ({ answer }: { answer: Pick<Answer, 'parts'> }) =>
  answer.parts.map((p, i) => <Piece key={i} part={p} />);

function why(c: Code) {
  const parts = [];
  if (c.rules.length) parts.push(`rule ${c.rules.join(', ')}`);
  if (c.suggested) parts.push('suggested, unread');
  else if (c.byHand) parts.push(c.by ? `by ${c.by}` : 'by hand');
  if (c.note) parts.push(`“${c.note}”`);
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

/** An answer in a short list of what a rule finds. */
export function Example({ answer }: { answer: Answer }) {
  return (
    <li data-part="evidence" className="border-t border-hair py-1 font-serif text-lg break-words">
      <Words answer={answer} />
    </li>
  );
}

/** Who said it, in one small line. */
export function Who({ answer }: { answer: Answer }) {
  return (
    <div className="mt-0.75 min-w-0 text-sm [overflow-wrap:anywhere] text-soft">
      {whoOf(answer.who)}
      {answer.status !== 'answered' && ` · ${answer.status}`}
      {answer.settled && ' · settled'}
    </div>
  );
}
