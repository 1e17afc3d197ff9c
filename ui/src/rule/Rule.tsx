import type { Problem, WrittenRule } from '../lib/api';
import { mended } from '../lib/text';
import { Button, Kbd } from '../parts/Button';
import { stretches, useWritten } from './written';

/** The look of each part of a rule, for those that are not being written; the editor has the same in styles.css. */
const looks: Record<WrittenRule['spans'][number]['kind'], string> = {
  joint: 'text-clay',
  list: 'text-slate',
  name: 'text-slate',
  quote: 'text-moss',
  bracket: 'text-soft',
  note: 'font-sans text-base text-soft italic',
};

/** A rule that is not being written. */
export function RuleText({ source }: { source: string }) {
  const written = useWritten(source);
  return (
    <span data-part="rule">
      {stretches(source, written).map(({ text, kind }, i) => (
        <span key={i} className={kind && looks[kind]}>
          {text}
        </span>
      ))}
    </span>
  );
}

/** What a mend changes, in words. */
function mendInWords(source: string, m: { start: number; end: number; with: string }) {
  const gone = [...source].slice(m.start, m.end).join('').trim();
  if (!m.with) return `Take out ${gone}`;
  return gone ? `Change ${gone} to ${m.with.trim()}` : `Add ${m.with.trim()}`;
}

type ProblemsProps = { source: string; problems: Problem[]; mend?: (s: string) => void; keys?: boolean };

/** What is wrong with a rule, each with its mend one press away; where there are keys, the first mend has one. */
export function Problems({ source, problems, mend, keys }: ProblemsProps) {
  const first = problems.find((p) => p.mend);
  return (
    <ul data-part="problems" className="pt-1 [&_code]:rounded-sm [&_code]:bg-hair [&_code]:px-0.75 [&_code]:font-mono">
      {problems.map((p) => {
        const m = p.mend;
        return (
          <li key={`${p.start}${p.message}`} className={p.warning ? 'text-soft' : 'text-clay'}>
            {p.end > p.start && <code>{[...source].slice(p.start, p.end).join('')}</code>} {p.message}{' '}
            {m && mend && (
              <Button look="plain" onClick={() => mend(mended(source, m))}>
                {mendInWords(source, m)} {keys && p === first && <Kbd>Alt m</Kbd>}
              </Button>
            )}
          </li>
        );
      })}
    </ul>
  );
}
