import { useEffect, useState } from 'react';
import { count, many, percent } from '../lib/format';
import { press } from '../parts/press';
import { Skeleton } from '../parts/Text';
import { type Clouds, layClouds, type Word } from './cloud';

type Props = {
  sets: { name: string; words: Word[] }[];
  width: number;
  height: number;
  upright: boolean;
  pressed: (set: number, word: string) => boolean;
  open: (set: number, word: string) => void;
};

/** Clouds side by side on one scale. No word is dropped without saying so; a word opens its answers. */
export function CloudPair({ sets, width, height, upright, pressed, open }: Props) {
  const [laid, setLaid] = useState<Clouds & { key: string }>();
  const [failed, setFailed] = useState('');
  const key = JSON.stringify([sets, width, height, upright]);
  useEffect(() => {
    let gone = false;
    const [words, w, h, up] = JSON.parse(key) as [Props['sets'], number, number, boolean];
    layClouds(
      words.map((s) => s.words),
      w,
      h,
      up,
    )
      .then((clouds) => !gone && setLaid({ ...clouds, key }))
      .catch((e: Error) => !gone && setFailed(e.message));
    return () => {
      gone = true;
    };
  }, [key]);
  if (failed) return <p className="text-clay">The clouds could not be drawn: {failed}</p>;
  if (!laid) return <Skeleton lines={6} />;
  const total = sets.reduce((n, s) => n + s.words.length, 0);
  return (
    <>
      <div
        className="grid auto-cols-fr grid-flow-col gap-4 [&>section+section]:border-l [&>section+section]:pl-4"
        aria-busy={laid.key !== key}
      >
        {laid.clouds.map((cloud, i) => (
          <section key={sets[i]?.name ?? i} aria-label={sets[i]?.name}>
            {sets.length > 1 && <h2>{sets[i]?.name}</h2>}
            <svg
              data-drawing="cloud"
              className={`h-auto w-full max-w-260 [&_text]:font-semibold hover:[&_text:hover]:underline
                [&_text[aria-pressed=true]]:underline ${i ? '[&_text]:fill-clay' : '[&_text]:fill-moss'}`}
              viewBox={`${-width / 2} ${-height / 2} ${width} ${height}`}
              role="group"
              aria-label={`Cloud of ${sets[i]?.name}`}
            >
              {cloud.map((w) => (
                <text
                  key={w.text}
                  {...press(
                    () => open(i, w.text),
                    `${w.text}: ${many(w.answers, 'answer')}, ${percent(w.share)}; show them`,
                    pressed(i, w.text),
                  )}
                  fontSize={w.size}
                  textAnchor="middle"
                  transform={`translate(${w.x},${w.y}) rotate(${w.rotate})`}
                >
                  {w.text}
                  <title>{`${w.text}: ${many(w.answers, 'answer')}, ${percent(w.share)}`}</title>
                </text>
              ))}
            </svg>
          </section>
        ))}
      </div>
      <p className="text-sm text-soft" role="status">
        {laid.left
          ? `${count(laid.left)} of ${count(total)} words did not fit in a size that can be read, and are left out; ask for fewer.`
          : `All ${count(total)} words are drawn${laid.scale < 0.99 ? `, ${Math.round(100 * laid.scale)} % of full size so that they fit` : ''}.`}{' '}
        Area goes with the share of answers{sets.length > 1 ? ', on one scale for both' : ''}.
      </p>
    </>
  );
}
