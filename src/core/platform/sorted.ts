/** The first of `count` numbers from 0 that is not `before` what is looked for, where all that are come first; `count` where all are. */
export function firstNotBefore(count: number, before: (i: number) => boolean): number {
  let [from, to] = [0, count];
  while (from < to) {
    const middle = (from + to) >> 1;
    if (before(middle)) from = middle + 1;
    else to = middle;
  }
  return from;
}
