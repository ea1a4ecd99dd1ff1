/**
 * Who comes when, among jobs that share a queue: each piece of work is given a turn, and those of a lower turn are done first. The
 * pieces of one job follow one another; a job that comes later begins at the turn that is `reached`, and so waits for none of what the
 * others have queued, nor lets them wait for all of its own (start-time fair queueing, with pieces of one size). `last` is each job's
 * last turn that is open.
 */
export class Turns {
  readonly #last: Map<string, number>;

  constructor(
    private readonly reached: number,
    last: Iterable<readonly [string, number]>,
  ) {
    this.#last = new Map(last);
  }

  /** The turn of a job's next piece of work. */
  next(job: string): number {
    const turn = Math.max(this.reached, (this.#last.get(job) ?? 0) + 1);
    this.#last.set(job, turn);
    return turn;
  }
}
