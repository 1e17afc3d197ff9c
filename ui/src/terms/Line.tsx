import type { Term, TermTable } from '../lib/api';
import { count, percent } from '../lib/format';

type Props = {
  term: Term;
  strip: TermTable['strip'];
  on: boolean;
  single: boolean;
  pending?: boolean;
  chosen: boolean;
  choose: () => void;
  show: () => void;
  /** Asks what taking a word out would change. */
  takeOut: (word: string) => void;
};

/** A line of the ledger; what is joined under it opens with it. */
export function Line({ term: t, strip, on, single, pending, chosen, choose, show, takeOut }: Props) {
  const others = t.members.filter((m) => m.word !== t.label);
  const uncoded = t.answers ? t.uncoded / t.answers : 0;
  return (
    <>
      <span role="cell" className="first">
        <input type="checkbox" checked={chosen} onChange={choose} aria-label={`select ${t.label}`} />
        <button type="button" className="termname" onClick={show}>
          {t.label}
          {!on && others.length > 0 && (
            <small>
              {others.map((m) => m.word).join(', ')}
              {t.more ? '…' : ''}
            </small>
          )}
        </button>
      </span>
      <span role="cell" className="num">
        {count(t.answers)}
      </span>
      <span role="cell" className="num">
        {percent(t.share)}
      </span>
      <span role="cell" className="num">
        {count(t.times)}
      </span>
      <span role="cell" className="num soft">
        {(100 * t.ofWords).toFixed(2)} %
      </span>
      <span role="cell" className={uncoded >= 0.5 ? 'num hot' : 'num'}>
        {(100 * uncoded).toFixed(0)} %
      </span>
      <span role="cell" className="num soft">
        {!single ? '' : pending ? '…' : t.stop ? '–' : t.distinct.toFixed(2)}
      </span>
      <span role="cell">
        <Spread counts={t.strip} strip={strip} />
      </span>
      {on && single && <Members term={t} takeOut={takeOut} />}
    </>
  );
}

/** A small strip of where a term falls: its share of the answers in each stretch of time, or of the file. */
export function Spread({ counts, strip }: { counts: number[]; strip: TermTable['strip'] }) {
  const shares = counts.map((n, i) => (strip.bases[i] ? n / strip.bases[i]! : 0));
  const most = Math.max(...shares, 1e-9);
  const top = shares.indexOf(most);
  return (
    <svg
      className="spread"
      viewBox={`0 0 ${counts.length * 5} 16`}
      preserveAspectRatio="none"
      role="img"
      aria-label={top < 0 ? 'nowhere' : `most in ${strip.buckets[top]}: ${percent(most)}`}
    >
      {shares.map((s, i) => (
        <rect key={strip.buckets[i]} x={i * 5} width={4} y={16 - Math.max(1, (15 * s) / most)} height={16}>
          <title>{`${strip.buckets[i]}: ${counts[i]} of ${strip.bases[i]}`}</title>
        </rect>
      ))}
    </svg>
  );
}

function Members({ term: t, takeOut }: Pick<Props, 'term' | 'takeOut'>) {
  const alone = t.members.length + t.more < 2;
  return (
    <span role="cell" className="members">
      {t.members.map((m) => (
        <span key={m.word}>
          {m.word} <em>{count(m.times)}</em>
          {!t.stop && !alone && m.word !== t.label && (
            <button type="button" aria-label={`take ${m.word} out of ${t.label}`} onClick={() => takeOut(m.word)}>
              ×
            </button>
          )}
        </span>
      ))}
      {t.more > 0 && (
        <span>
          and {count(t.more)} more, under part <kbd>p</kbd>
        </span>
      )}
      {t.lists.map((l) => (
        <span key={l} className="soft">
          on @{l}
        </span>
      ))}
    </span>
  );
}
