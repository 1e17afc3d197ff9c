import type { HouseStyle } from '../lib/api';

export type Style = HouseStyle;

/** How pictures look where nothing else was set. */
export const usual: Style = { colours: [], face: 'sans', size: 13, decimals: 1, figures: true, codes: true };

const faces = {
  sans: "'Source Sans 3 Variable', 'Source Sans 3', system-ui, sans-serif",
  serif: "'Source Serif 4 Variable', 'Source Serif 4', Georgia, serif",
} as const;

/** The face of a style, as CSS has it. */
export const faceOf = (s: Style) => faces[s.face];

/** How text of a picture looks. */
export const textOf = (s: Style) => ({ fill: 'var(--color-ink)', fontSize: s.size, fontFamily: faceOf(s) });

/** A share from 0 to 1 as a percentage, without its sign. */
export const figureOf = (s: Style, share: number) => (100 * share).toFixed(s.decimals);

/** The colours of a style as variables of the page, for what is drawn in it. */
export const variablesOf = (s: Style) =>
  Object.fromEntries((s.colours ?? []).map((c, i) => [`--color-c${i}`, c])) as Record<string, string>;
