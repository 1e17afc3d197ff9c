import layout from 'd3-cloud';
import { itemAt, required } from '../lib/required';

export type Word = { text: string; share: number; answers: number };
type Laid = Word & { x: number; y: number; size: number; rotate: number };

/** Chance that is the same every time: the same words give the same cloud. */
function chance() {
  let seed = 1;
  return () => {
    seed = (seed * 48271) % 2147483647;
    return seed / 2147483647;
  };
}

function once(words: Word[], width: number, height: number, size: (w: Word) => number, upright: boolean) {
  return new Promise<Laid[]>((done) => {
    layout<layout.Word & Word>()
      .size([width, height])
      .words(words.map((w) => ({ ...w })))
      .padding(2)
      .font('"Source Sans 3 Variable"')
      .fontWeight(600)
      .fontSize((w) => size(w))
      .rotate((_, i) => (upright && i % 4 === 3 ? 90 : 0))
      .random(chance())
      .spiral('archimedean')
      .on('end', (laid) =>
        done(
          laid.map((w) => ({
            text: w.text,
            share: w.share,
            answers: w.answers,
            x: required(w.x),
            y: required(w.y),
            size: required(w.size),
            rotate: required(w.rotate),
          })),
        ),
      )
      .start();
  });
}

/** What was laid out: every cloud, and how much smaller the words had to be for all to fit. */
export type Clouds = { clouds: Laid[][]; scale: number; left: number };

const largest = 52;
const smallest = 9;

/**
 * Lays clouds out on one scale: an equal share is an equal size in all of them. Words become smaller until every word of
 * every cloud has its place; if they would be too small to be read, the number of those left out is given.
 */
export async function layClouds(sets: Word[][], width: number, height: number, upright: boolean): Promise<Clouds> {
  await document.fonts.load('600 20px "Source Sans 3 Variable"');
  const most = Math.max(1e-9, ...sets.flat().map((w) => w.share));
  let best: Clouds = { clouds: sets.map(() => []), scale: 1, left: sets.flat().length };
  for (let scale = 1; scale > 0.3; scale *= 0.88) {
    const size = (w: Word) => Math.max(smallest, scale * largest * Math.sqrt(w.share / most));
    const clouds = await Promise.all(sets.map((s) => once(s, width, height, size, upright)));
    const left = sets.reduce((n, s, i) => n + s.length - itemAt(clouds, i).length, 0);
    if (left < best.left) best = { clouds, scale, left };
    if (left === 0) break;
  }
  return best;
}
