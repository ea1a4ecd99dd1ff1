import { randomUUID } from 'node:crypto';
import PQueue from 'p-queue';
import { NotFound } from './errors';

interface Done<Change> {
  job: string;
  text: string;
  changes: readonly Change[];
}

/** What was done since the server started, in words and one by one, so that it can be taken back. Of more than `most` changes those that were done first are forgotten. */
export class Undos<Change> {
  readonly #turns = new PQueue({ concurrency: 1 });
  readonly #done = new Map<string, Done<Change>>();
  #rows = 0;

  constructor(private readonly most = 1_000_000) {}

  /** Runs a change with what is told of it, one after the other: what is held in memory changes in the order of the database. */
  inTurn<T>(work: () => Promise<T>): Promise<T> {
    return this.#turns.add(work);
  }

  keep(done: Done<Change>): string {
    const id = randomUUID();
    this.#done.set(id, done);
    this.#rows += done.changes.length;
    for (const [old, { changes }] of this.#done) {
      if (this.#rows <= this.most || old === id) break;
      this.#done.delete(old);
      this.#rows -= changes.length;
    }
    return id;
  }

  /** What was done under an id in a job. Throws NotFound where that is not known any more. */
  require(job: string, id: string): Done<Change> {
    const done = this.#done.get(id);
    if (done?.job === job) return done;
    throw new NotFound('This can no longer be undone: it was done too long ago.', {
      next: 'Change it by hand.',
    });
  }

  forget(id: string): void {
    const done = this.#done.get(id);
    if (!done) return;
    this.#done.delete(id);
    this.#rows -= done.changes.length;
  }
}

const UNDONE = 'Undone: ';
/** What is said of taking something back; and of taking that back in turn, what was said at first. */
export const undoneWords = (text: string): string =>
  text.startsWith(UNDONE) ? text.slice(UNDONE.length) : `${UNDONE}${text}`;
/** What is said where nothing was left to be taken back. */
export const NOTHING_UNDONE = { text: 'Nothing is left to be undone: it was changed since.', undo: null };
