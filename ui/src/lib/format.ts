const thousands = new Intl.NumberFormat('en-GB'); // made once: making one takes longer than all figures of a screen

/** A count, with its thousands separated. */
export const count = (n: number) => thousands.format(n);

/** A share from 0 to 1 as a percentage with one decimal. */
export const percent = (share: number) => `${(100 * share).toFixed(1)} %`;

/** "one answer", "1,204 answers". */
export const many = (n: number, one: string, more = `${one}s`) => (n === 1 ? `one ${one}` : `${count(n)} ${more}`);

const months = ['Jan', 'Feb', 'Mar', 'Apr', 'May', 'Jun', 'Jul', 'Aug', 'Sep', 'Oct', 'Nov', 'Dec'];

/** An ISO date as people say it; anything else as it is. */
export function dated(s: string) {
  const m = /^(\d{4})-(\d\d)-(\d\d)$/.exec(s);
  return m ? `${Number(m[3])} ${months[Number(m[2]) - 1]} ${m[1]}` : s;
}

const tints = [
  '[--c:var(--color-c0)]',
  '[--c:var(--color-c1)]',
  '[--c:var(--color-c2)]',
  '[--c:var(--color-c3)]',
  '[--c:var(--color-c4)]',
  '[--c:var(--color-c5)]',
  '[--c:var(--color-c6)]',
  '[--c:var(--color-c7)]',
];

/** The class that gives what is inside its top category's colour, as --c. */
export const tint = (top: number) => tints[top % tints.length] ?? '';

/** Unweighted bases under which a share is dimmed, and under which it is not shown: as charts have them. */
export const bases = { small: 30, tiny: 10 };

/** A share of a base, or that there are too few for one. */
export const shareIn = (base: number, share: number) => (base < bases.tiny ? 'few' : percent(share));

/** A moment in words: "25 Nov 2026, 08:21". */
export const moment = (at: string) => new Date(at).toLocaleString('en-GB', { dateStyle: 'medium', timeStyle: 'short' });

/** Who said something, in one line. */
export const whoOf = (who: { label?: string; value: string }[] | null | undefined) =>
  (who ?? []).map((k) => [k.label, dated(k.value)].filter(Boolean).join(' ')).join(' · ');
