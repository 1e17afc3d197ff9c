import type { Block, Section } from '../lib/api';

/** A part as it is kept, without what it says. */
export function blockOf(s: Section): Block {
  const {
    about: _,
    revision: __,
    problem: ___,
    categories: ____,
    chart: _c,
    means: _n,
    together: _t,
    flow: _w,
    questions: _q,
    found: _f,
    said: _s,
    method: _m,
    ...block
  } = s;
  return block;
}

/** Whether two parts are kept alike. */
export const alike = (a: Block, b: Block) => JSON.stringify(a) === JSON.stringify(b);
