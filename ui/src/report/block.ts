import type { Block, Section } from '../lib/api';

/** A part as it is kept, without what it says. */
export const blockOf = (s: Section) => ({ ...s.block, kind: s.kind, id: s.id }) as Block;

/** Whether two parts are kept alike. */
export const alike = (a: Block, b: Block) => JSON.stringify(a) === JSON.stringify(b);
