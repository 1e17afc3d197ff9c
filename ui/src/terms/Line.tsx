import { memo, type RefObject } from 'react';
import type { Term, TermTable } from '../lib/api';
import { count, percent } from '../lib/format';
import { Button, Kbd } from '../parts/Button';
import { Checkbox } from '../parts/Checkbox';

/** What can be done with a line. */
export type Does = {
  choose: (label: string) => void;
  show: (index: number) => void;
  /** Asks what taking a word out would change. */
  takeOut: (word: string) => void;
};

type Props = {
  term: Term;
  strip: TermTable['strip'];
  on: boolean;
  single: boolean;
  pending?: boolean;
  chosen: boolean;
  index: number;
  does: RefObject<Does | undefined>;
};

/** The columns of the ledger: figures stand near their terms, however wide the window is. */
export const lineColumns =
  'grid grid-cols-[minmax(0,1fr)_4.3rem_3.3rem_3.4rem_3.7rem_4.4rem_4.1rem_4.4rem_4.9rem] items-baseline gap-x-1.5';

/** A line of the ledger; what is joined under it opens with it. It is drawn anew only when something in it is another. */
export const Line = memo(function Line({ term: t, strip, on, single, pending, chosen, index, does }: Props) {
  const others = t.members.filter((m) => m.word !== t.label);
  const uncoded = t.answers ? t.uncoded / t.answers : 0;
  const figure = (words: string, look = '') => (
    <span role="gridcell" className={`text-right ${look}`}>
      {words}
    </span>
  );
  return (
    <>
      <span role="gridcell" className="flex min-w-0 items-baseline gap-2">
        <Checkbox
          checked={chosen}
          change={() => does.current?.choose(t.label)}
          label={`Tick ${t.label}`}
          stop={false}
        />
        <Button
          look="bare"
          tabIndex={-1}
          data-part="termname"
          className="flex-1 truncate"
          onClick={() => does.current?.show(index)}
        >
          {t.label}
          {!on && others.length > 0 && (
            <span className="pl-1.75 text-sm text-soft">
              {others.map((m) => m.word).join(', ')}
              {t.more ? '…' : ''}
            </span>
          )}
        </Button>
      </span>
      {figure(count(t.answers))}
      {figure(percent(t.share))}
      {figure(count(t.times))}
      {figure(`${(100 * t.ofWords).toFixed(2)} %`, 'text-soft')}
      {figure(`${(100 * uncoded).toFixed(0)} %`, uncoded >= 0.5 ? 'font-semibold text-clay' : '')}
      {figure(!single ? '' : pending ? '…' : t.stop ? '–' : t.distinct.toFixed(2), 'text-soft')}
      {figure(t.everyday ? times(t.everyday) : '', 'text-soft')}
      <span role="gridcell">
        <Spread counts={t.strip} strip={strip} />
      </span>
      {on && single && <Members term={t} takeOut={(word) => does.current?.takeOut(word)} />}
    </>
  );
});

/** A factor in as many digits as say something. */
const times = (x: number) => `${x < 10 ? x.toFixed(1) : count(Math.round(x))} ×`;

/** A small strip of where a term falls: its share of the answers in each stretch of time, or of the file. */
export function Spread({ counts, strip }: { counts: number[]; strip: TermTable['strip'] }) {
  const shares = counts.map((n, i) => (strip.bases[i] ? n / strip.bases[i] : 0));
  const most = Math.max(...shares, 1e-9);
  const top = shares.indexOf(most);
  return (
    <svg
      data-part="spread"
      className="ml-auto block h-3.75 w-19.5 fill-moss/62 forced-color-adjust-none"
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

function Members({ term: t, takeOut }: Pick<Props, 'term'> & Pick<Does, 'takeOut'>) {
  const alone = t.members.length + t.more < 2;
  return (
    <span
      role="gridcell"
      data-part="members"
      className="col-span-full flex flex-wrap gap-x-3.5 gap-y-0.5 pt-0.75 pb-0.5 pl-5.25 text-sm"
    >
      {t.members.map((m) => (
        <span key={m.word}>
          {m.word} <span className="text-soft">{count(m.times)}</span>
          {!t.stop && !alone && m.word !== t.label && (
            <Button
              look="bare"
              tabIndex={-1}
              className="min-w-6 text-center! text-soft hover:text-clay"
              aria-label={`Take ${m.word} out of ${t.label}`}
              onClick={() => takeOut(m.word)}
            >
              ×
            </Button>
          )}
        </span>
      ))}
      {t.more > 0 && (
        <span>
          and {count(t.more)} more, under Split <Kbd>p</Kbd>
        </span>
      )}
      {t.lists.map((l) => (
        <span key={l} className="text-soft">
          on @{l}
        </span>
      ))}
    </span>
  );
}
