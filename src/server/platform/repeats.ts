import { messageOf } from './errors';

/** What is looked at again and again until it is ended; none keeps the process alive. */
export class Repeats {
  readonly #timers: NodeJS.Timeout[] = [];
  #ended = false;

  /** `what` is said before what goes wrong; the next look comes all the same. */
  every(milliseconds: number, what: string, look: () => Promise<unknown>): void {
    const timer = setInterval(
      () =>
        void look().catch((e: unknown) => {
          if (!this.#ended) console.error(`${what}:`, messageOf(e));
        }),
      milliseconds,
    );
    timer.unref();
    this.#timers.push(timer);
  }

  end(): void {
    this.#ended = true;
    for (const timer of this.#timers) clearInterval(timer);
  }
}
