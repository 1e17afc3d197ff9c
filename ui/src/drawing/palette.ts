import { required } from '../lib/required';
import type { Style } from './style';

/** The colours of light paper, by the names that drawings use. They are those of tokens.css, which a test holds them to. */
export const palette: Record<string, string> = {
  ink: '#23261f',
  soft: '#5b5f52',
  line: '#ddd6c6',
  hair: '#eee8da',
  paper: '#faf7f0',
  sheet: '#fffdf8',
  moss: '#3e5c3a',
  straw: '#f3de93',
  clay: '#a0441f',
  slate: '#3d5f70',
  c0: '#3e5c3a',
  c1: '#a0441f',
  c2: '#3d5f70',
  c3: '#74518a',
  c4: '#8a6412',
  c5: '#1f6b66',
  c6: '#98385a',
  c7: '#4d4a43',
};

/** The colours of a file: those of the house, where they are set, before the usual ones. */
export const coloursOf = (style: Style): Record<string, string> => ({
  ...palette,
  ...Object.fromEntries((style.colours ?? []).map((c, i) => [`c${i}`, c])),
});

/** A colour without the #, as office files have it. */
export const hex = (name: string, colours = palette) => required(colours[name]).slice(1).toUpperCase();

/** A drawing with its colours written out, for files that know no variables. */
export const coloured = (svg: string, colours: Record<string, string>) =>
  svg.replace(/var\(--color-([a-z0-9]+)\)/g, (whole, name: string) => colours[name] ?? whole);
