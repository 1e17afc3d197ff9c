import type { Problem } from '../lib/api';
import { required } from '../lib/required';
import { mended } from '../lib/text';
import { Button, Kbd } from '../parts/Button';

/** What each sign of a rule is, for its colour only; the server's parser alone decides what a rule means. */
const pieces: [RegExp, string][] = [
  [/re"(?:\\.|[^"\\])*"?/y, 'r-quote'],
  [/["“][^"”]*["”]?/y, 'r-quote'],
  [/@(?:"[^"]*"?|[^\s/()[\]{}"]+)/y, 'r-list'],
  [/\{[^}]*\}?|\[[^\]]*\]?/y, 'r-name'],
  [/[+\-–—][<>]?\d+[ws](?=[\s("@=]|$)/y, 'r-joint'],
  [/[+\-–—](?=[\s(]|$)|\//y, 'r-joint'],
  [/[()]/y, 'r-bracket'],
  [/\d+\s+of(?=\s*[(@])/y, 'r-joint'],
  [/#(?=\s|$).*/sy, 'r-note'],
];

/** The look of each, for those that are not being written; the editor has the same in styles.css. */
const looks: Record<string, string> = {
  'r-joint': 'text-clay',
  'r-list': 'text-slate',
  'r-name': 'text-slate',
  'r-quote': 'text-moss',
  'r-bracket': 'text-soft',
  'r-note': 'font-sans text-base text-soft italic',
};

/** Cuts a rule into stretches with their kind. */
export function stretches(src: string): [string, string][] {
  const out: [string, string][] = [];
  let plain = '';
  for (let i = 0; i < src.length; ) {
    const glued = i > 0 && /[^\s()[\]{}/]/.test(required(src[i - 1]));
    const hit = pieces
      .filter(([, kind]) => !(glued && (kind === 'r-joint' || kind === 'r-note') && src[i] !== '/'))
      .map(([find, kind]) => {
        find.lastIndex = i;
        return [find.exec(src)?.[0], kind] as const;
      })
      .find(([text]) => text);
    if (!hit) {
      plain += src[i++];
      continue;
    }
    if (plain) out.push([plain, '']);
    plain = '';
    out.push([required(hit[0]), hit[1]]);
    i += required(hit[0]).length;
  }
  if (plain) out.push([plain, '']);
  return out;
}

/** The note behind a rule, with its sign; empty if it has none. */
export const noteOf = (src: string) => stretches(src).find(([, kind]) => kind === 'r-note')?.[0] ?? '';

/** A rule without its note. */
export const bare = (src: string) => src.slice(0, src.length - noteOf(src).length).trim();

const joint = (src: string) => stretches(src).some(([text, kind]) => kind === 'r-joint' && text !== '/');

/** One rule that matches what either does; joints that bind less than "/" are bracketed. */
export const alternatives = (a: string, b: string) =>
  [a, b]
    .map(bare)
    .map((s) => (joint(s) ? `(${s})` : s))
    .join(' / ');

/** The words of a rule as a name for what it finds. */
export function nameOf(src: string) {
  const words = stretches(src)
    .filter(([, kind]) => !kind || kind === 'r-quote')
    .map(([text]) => text.replace(/["“”]/g, '').trim())
    .filter(Boolean);
  return words
    .slice(0, 2)
    .join(' ')
    .replace(/^./, (c) => c.toUpperCase());
}

/** A rule that is not being written. */
export function RuleText({ source }: { source: string }) {
  return (
    <span data-part="rule">
      {stretches(source).map(([text, kind], i) => (
        <span key={i} className={looks[kind] ?? ''}>
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
