import { type FieldId, fieldOf } from '../../core/facts/catalogue';
import type { Only } from '../../core/facts/shapes';

/** Only some clips, as a chart's bar asks for, and how that is said. */
export interface Behind {
  only: Only;
  words: string;
}

/** Pixels of a letter at most: it is 7.5 wide, and 8 where a browser sets letters to whole pixels. */
const LETTER = 8;
/** What is beside a cell's words, in pixels. */
const BESIDE = 22;

/** Width of a column in pixels, by what is in some of its cells. */
export function widthOf(field: FieldId, cells: readonly string[]): number {
  const longest = cells.reduce((n, c) => Math.max(n, c.length), 0);
  return Math.round(
    Math.min(300, Math.max(74, longest * LETTER + BESIDE, fieldOf(field).term.length * 6.6 + 30)),
  );
}

export const isNumeric = (field: FieldId): boolean =>
  ['count', 'number', 'fraction', 'rate'].includes(fieldOf(field).type);
