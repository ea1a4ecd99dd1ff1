import * as z from 'zod';

/**
 * How a value is compared. `from` is at least, `to` at most, `between` both; `with` and `no` ask whether there is one at all.
 */
export const Op = z.enum([
  'is',
  'has',
  'over',
  'under',
  'from',
  'to',
  'between',
  'before',
  'after',
  'with',
  'no',
]);
export type Op = z.infer<typeof Op>;

/**
 * Part of a search: words that stand anywhere, a condition on a field, or several parts of which all, any or none have to hold. `place` is
 * where a condition stands in the text it was read from.
 */
export type Part =
  | { kind: 'words'; text: string }
  | { kind: 'test'; field: string; op: Op; value: string; to: string; place?: readonly [number, number] }
  | { kind: 'group'; how: 'all' | 'any' | 'none'; of: Part[] };

/** What is searched for: all parts have to hold. */
export type Query = Part[];

/** Characters, parts and depth of brackets of a search, at most. */
export const [LONGEST, MOST_PARTS, DEEPEST] = [4000, 400, 20];

/** Where a search is not understood: `at` and `to` are characters of it. */
export class SearchFault extends Error {
  constructor(
    message: string,
    readonly at: number,
    readonly to: number,
  ) {
    super(message);
  }
}
