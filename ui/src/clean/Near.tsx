import { useState } from 'react';
import { useAddress } from '../lib/address';
import { count, many, percent } from '../lib/format';
import { useProgress } from '../lib/live';
import { useAsk } from '../lib/queries';
import { Asked } from '../parts/Asked';
import { Button } from '../parts/Button';
import { Dialog } from '../parts/Dialog';
import { NumberField } from '../parts/NumberField';

/** A text, with the words that the other does not have marked. */
function Beside({ text, other }: { text: string; other: string }) {
  const key = (w: string) => w.toLowerCase().replace(/[^\p{L}\p{N}]/gu, '');
  const there = new Set(other.split(/\s+/).map(key));
  return (
    <p className="font-serif">
      {text
        .split(/(\s+)/)
        .map((w, i) =>
          w.trim() && key(w) && !there.has(key(w)) ? <mark key={i}>{w}</mark> : <span key={i}>{w}</span>,
        )}
    </p>
  );
}

/** Answers that are nearly alike: each group's first answer beside the one that is least like it. */
export function NearDialog({ close }: { close: () => void }) {
  const { setPick } = useAddress();
  const [share, setShare] = useState(80);
  const near = useAsk('near', { percent: share });
  const progress = useProgress();
  const show = (n: number) => {
    close();
    setPick([{ kind: 'alike', n: n || undefined, m: share }]);
  };
  return (
    <Dialog title="Answers that are nearly alike" wide close={close}>
      <p className="pb-2 text-soft">
        Two answers are nearly alike if at least{' '}
        <NumberField quiet label="percent in common" value={share} least={60} most={100} change={setShare} /> % of what
        they say, three words in a row at a time, is in both. Answers under three words are in none.
      </p>
      <div aria-busy={near.isPlaceholderData}>
        {near.isPending && progress?.what === 'comparing answers' && (
          <p className="text-soft" role="status">
            {count(progress.done ?? 0)} of {count(progress.total ?? 0)} answers compared
          </p>
        )}
        <Asked query={near}>
          {(found) => (
            <>
              <p className="pb-2">
                {found.groups === 0
                  ? 'No answer is so nearly like another.'
                  : `${many(found.answers, 'answer')} in ${many(found.groups, 'group')}.`}{' '}
                {found.groups > 0 && (
                  <Button look="plain" onClick={() => show(0)}>
                    Show them all
                  </Button>
                )}
                {found.top.length > 0 &&
                  ` The ${found.top.length} largest groups whose words are not all the same, each with what is least alike in it:`}
              </p>
              <ul aria-label="Groups of answers that are nearly alike">
                {found.top.map((g) => (
                  <li
                    key={g.number}
                    className="grid grid-cols-[1fr_1fr_7rem] items-baseline gap-x-5 border-t py-2 max-sm:grid-cols-1"
                  >
                    <Beside text={g.first} other={g.other} />
                    <Beside text={g.other} other={g.first} />
                    <span className="text-right text-sm text-soft">
                      <Button
                        look="plain"
                        aria-label={`${many(g.answers, 'answer')} like “${g.first.slice(0, 60)}”: show them`}
                        onClick={() => show(g.number + 1)}
                      >
                        {many(g.answers, 'answer')}
                      </Button>
                      <br />
                      {percent(g.alike)} in common
                    </span>
                  </li>
                ))}
              </ul>
              {found.blocks.length > 0 && (
                <>
                  <h3 className="pt-4 pb-1 font-semibold">Copied blocks</h3>
                  <p className="pb-1 text-soft">
                    Ten words or more that stand word for word in three answers or more, the rest of which differs.
                    {found.allBlocks > found.blocks.length && ` The largest of ${count(found.allBlocks)}:`}
                  </p>
                  <ul aria-label="Copied blocks">
                    {found.blocks.map((b) => (
                      <li key={b.row} className="grid grid-cols-[1fr_7rem] items-baseline gap-x-5 border-t py-2">
                        <p className="font-serif">{b.text}</p>
                        <span className="text-right text-sm text-soft">
                          <Button
                            look="plain"
                            aria-label={`${many(b.answers, 'answer')} with “${b.text.slice(0, 60)}”: show them`}
                            onClick={() => {
                              close();
                              setPick([{ kind: 'block', text: b.row }]);
                            }}
                          >
                            {many(b.answers, 'answer')}
                          </Button>
                          <br />
                          {count(b.words)} words
                        </span>
                      </li>
                    ))}
                  </ul>
                </>
              )}
            </>
          )}
        </Asked>
      </div>
      <p className="pt-2">
        <Button onClick={close}>Close</Button>
      </p>
    </Dialog>
  );
}
