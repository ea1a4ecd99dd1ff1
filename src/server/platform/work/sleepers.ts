/** Who sleeps until there is something to do. */
export class Sleepers {
  readonly #asleep = new Set<() => void>();

  /** Resolves when woken, or after so many milliseconds. */
  sleep(milliseconds: number): Promise<void> {
    return new Promise<void>((resolve) => {
      const up = () => {
        clearTimeout(timer);
        this.#asleep.delete(up);
        resolve();
      };
      const timer = setTimeout(up, milliseconds);
      timer.unref();
      this.#asleep.add(up);
    });
  }

  wake(): void {
    for (const up of [...this.#asleep]) up();
  }

  /** How many sleep now. */
  get size(): number {
    return this.#asleep.size;
  }
}
