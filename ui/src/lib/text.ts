/** The server counts runes, the editor UTF-16 units: the unit at which a rune begins. */
export function unit(text: string, rune: number) {
  let n = 0;
  for (const c of text) {
    if (rune-- === 0) return n;
    n += c.length;
  }
  return n;
}

/** The rune that begins at a unit. */
export const runeAt = (text: string, unit: number) => [...text.slice(0, unit)].length;

/** A rule with a mend in it. */
export function mended(source: string, m: { start: number; end: number; with: string }) {
  const runes = [...source];
  return [...runes.slice(0, m.start), m.with, ...runes.slice(m.end)].join('');
}

/** The joints with which words are made one rule. */
export const joints = {
  any: ['any of them', ' / '],
  all: ['all, anywhere', ' + '],
  sentence: ['in one sentence', ' +1s '],
  near: ['near each other', ' +6w '],
  row: ['in a row', ' '],
} as const;
export type Joint = keyof typeof joints;

/** A word as a rule may hold it: one with signs in it is quoted. */
const written = (word: string) => (/[/()[\]{}"@=*?+]/.test(word) ? `"${word.replaceAll('"', '')}"` : word);

/** Makes a rule of words. */
export const joined = (words: string[], joint: Joint) => words.map(written).join(joints[joint][1]);
