/**
 * Who comes when, among jobs that share a queue: each piece of work is given a turn, and those of a lower turn are done first. The
 * pieces of one job follow one another; a job that comes later begins at the turn that is reached, and so waits for none of what the
 * others have queued, nor lets them wait for all of its own (start-time fair queueing, with pieces of one size).
 */
export class Turns {
  #now = 0;
  readonly #last = new Map<string, number>();

  /** The turn of a job's next piece of work. */
  next(job: string): number {
    const turn = Math.max(this.#now, this.#last.get(job) ?? 0) + 1;
    this.#last.set(job, turn);
    return turn;
  }

  /** Work of this turn was begun. */
  reached(turn: number): void {
    this.#now = Math.max(this.#now, turn);
  }
}
