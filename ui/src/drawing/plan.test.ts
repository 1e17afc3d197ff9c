import { expect, test } from 'vitest';
import type { Design, Figures } from '../lib/api';
import { kinds } from '../lib/charts';
import { pictureOf } from './plan';
import { usual } from './style';

/** Figures of each kind with nothing in them, as an empty focus has them. */
const nothing: { [K in Design['kind']]: object } = {
  table: {
    rows: [],
    columns: [{ nest: -1, name: 'All', values: [], conditions: [] }],
    bases: [{ answers: 0, weighted: 0 }],
    cells: [],
    nests: [],
    notes: [],
    tiny: 10,
    small: 30,
    query: {},
  },
  means: { rows: [], bands: [], edges: [], notes: [], all: { mean: 0, answers: 0 }, numbers: [] },
  together: { nodes: [], pairs: [], notes: [], segments: [] },
  flow: { nodes: [], links: [], notes: [], values: [], waves: [], persons: 0, from: '', to: '' },
  questions: { questions: [], rows: [], notes: [] },
};

test('a chart of any kind, drawn in any way, is drawn of nothing too', () => {
  for (const kind of Object.keys(kinds) as Design['kind'][])
    for (const as of Object.keys(kinds[kind].forms)) {
      const draw = () => pictureOf({ ...nothing[kind], kind } as Figures, { kind, as, focus: [] } as never, usual);
      expect(draw, `${kind} as ${as}`).not.toThrow();
      expect(draw()?.height ?? 0).not.toBeNaN();
    }
});
