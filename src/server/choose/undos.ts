import { randomUUID } from 'node:crypto';
import type { RowChange } from './rows';

/** Rows of changes that are kept, at most: those that were done first are forgotten first. */
const MOST_ROWS = 1_000_000;

interface Done {
  job: string;
  text: string;
  changes: readonly RowChange[];
}

/** What was done to keywords, bins, ranges and searches since the server started, so that it can be taken back. */
export class Undos {
  #last: Promise<unknown> = Promise.resolve();
  readonly #done = new Map<string, Done>();
  #rows = 0;

  /** Runs a change with what is told of it, one after the other: what is held in memory changes in the order of the database. */
  inTurn<T>(work: () => Promise<T>): Promise<T> {
    const next = this.#last.then(work, work);
    this.#last = next.catch(() => undefined);
    return next;
  }

  keep(done: Done): string {
    const id = randomUUID();
    this.#done.set(id, done);
    this.#rows += done.changes.length;
    for (const [old, { changes }] of this.#done) {
      if (this.#rows <= MOST_ROWS || old === id) break;
      this.#done.delete(old);
      this.#rows -= changes.length;
    }
    return id;
  }

  /** What was done under an id in a job; null where that is not known any more. */
  find(job: string, id: string): Done | null {
    const done = this.#done.get(id);
    return done?.job === job ? done : null;
  }

  forget(id: string): void {
    const done = this.#done.get(id);
    if (!done) return;
    this.#done.delete(id);
    this.#rows -= done.changes.length;
  }
}
