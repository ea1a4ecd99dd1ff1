/** From this place to before that one: frames, or seconds. */
export interface Range {
  from: number;
  to: number;
}

/** Collects what is so at places that follow each other, and gives the ranges that are long enough. */
export class Ranges {
  readonly #all: Range[] = [];
  #from: number | null = null;

  /** `joined`: so much between two ranges does not part them. */
  constructor(
    private readonly least: number,
    private readonly joined = 0,
  ) {}

  at(place: number, is: boolean): void {
    if (is) this.#from ??= place;
    else this.#end(place);
  }

  #end(to: number): void {
    if (this.#from === null) return;
    const last = this.#all.at(-1);
    if (last && this.#from - last.to <= this.joined) last.to = to;
    else this.#all.push({ from: this.#from, to });
    this.#from = null;
  }

  /** All of them, the last one ended at `end`. */
  of(end: number): Range[] {
    this.#end(end);
    return this.#all.filter((r) => r.to - r.from >= this.least);
  }
}

/** Where all of these are at once. Each list is in order, and its ranges do not overlap. */
export function shared(lists: readonly (readonly Range[])[], least = 0): Range[] {
  const [first, ...rest] = lists;
  if (!first) return [];
  return rest
    .reduce<Range[]>(
      (now, list) =>
        now.flatMap((a) =>
          list.flatMap((b) => {
            const [from, to] = [Math.max(a.from, b.from), Math.min(a.to, b.to)];
            return to > from ? [{ from, to }] : [];
          }),
        ),
      [...first],
    )
    .filter((r) => r.to - r.from >= least);
}
