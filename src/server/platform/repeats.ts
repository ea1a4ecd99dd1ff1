import { messageOf } from './errors';

/** What is looked at again and again until it is ended; none keeps the process alive. */
export class Repeats {
  readonly #timers: NodeJS.Timeout[] = [];
  #ended = false;

  /**
   * `what` is said before what goes wrong; the next look comes all the same, but not while one is still under way. Returns what looks
   * out of turn: while one is under way, which may be past what has changed, once more after it.
   */
  every(
    milliseconds: number,
    what: string,
    look: () => Promise<unknown>,
    { atOnce = false } = {},
  ): () => Promise<void> {
    let looking = false;
    let again = false;
    const once = async (): Promise<void> => {
      if (looking) return;
      looking = true;
      do {
        again = false;
        await look().catch((e: unknown) => {
          if (!this.#ended) console.error(`${what}:`, messageOf(e));
        });
      } while (again && !this.#ended);
      looking = false;
    };
    if (atOnce) void once();
    const timer = setInterval(() => void once(), milliseconds);
    timer.unref();
    this.#timers.push(timer);
    return () => {
      again = true;
      return once();
    };
  }

  end(): void {
    this.#ended = true;
    for (const timer of this.#timers) clearInterval(timer);
  }
}
