/** Stretches of timecode on one count; `to` is behind the last frame, and after midnight larger than a day has frames. */
export interface Interval<T> {
  of: T;
  from: number;
  to: number;
}

/** Stretches in the order of their beginnings, to be asked which of them hold another whole. */
export class Intervals<T> {
  /** Each with the furthest end of those up to it. */
  readonly #list: (Interval<T> & { furthest: number })[];

  constructor(
    items: readonly Interval<T>[],
    /** Frames of a day. */
    private readonly day: number,
  ) {
    let furthest = 0;
    this.#list = [...items]
      .sort((a, b) => a.from - b.from)
      .map((i) => ({ ...i, furthest: (furthest = Math.max(furthest, i.to)) }));
  }

  /** Those that hold all of a stretch, one by one: whoever asks stops when it knows enough. */
  *holding(from: number, to: number): Generator<T> {
    // After midnight it may be in one that began before.
    for (const later of [0, this.day]) {
      const [first, end] = [from + later, to + later];
      // From the last that begins no later, back to where no earlier one reaches this far.
      for (let i = this.#lastBefore(first); i >= 0 && this.#list[i]!.furthest >= end; i--)
        if (this.#list[i]!.to >= end) yield this.#list[i]!.of;
    }
  }

  /** The last that begins no later than a frame; −1 where none does. */
  #lastBefore(frame: number): number {
    let [low, high] = [0, this.#list.length];
    while (low < high) {
      const middle = (low + high) >> 1;
      if (this.#list[middle]!.from <= frame) low = middle + 1;
      else high = middle;
    }
    return low - 1;
  }
}

/** Adds to the list that a map has under a key. */
export function put<V>(map: Map<string, V[]>, key: string, value: V): void {
  const list = map.get(key);
  if (list) list.push(value);
  else map.set(key, [value]);
}
