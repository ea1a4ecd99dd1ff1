import { appendFileSync, closeSync, fsyncSync, mkdirSync } from 'node:fs';
import { joinPath } from './names';
import { openToAppendSync } from './plainFile';

/** The folder inside a root that holds Sort Shelf's own files; never taken in as footage (a dot folder). */
export const OWN_FOLDER = '.sort-shelf';

export const JOURNAL = 'journal.jsonl';

/**
 * The append-only journal beside the footage: one JSON object a line, the plan's steps before the first is begun, then
 * each step before and after. Survives the loss of the database.
 */
export class Journal {
  readonly #fd: number;

  constructor(root: string) {
    const folder = joinPath(root, OWN_FOLDER);
    mkdirSync(folder, { recursive: true });
    this.#fd = openToAppendSync(joinPath(folder, JOURNAL));
  }

  /** Appends a line. `flush` waits until it is on the disk: for the intent of a whole plan, not for each step. */
  write(line: Record<string, unknown>, flush = false): void {
    appendFileSync(this.#fd, `${JSON.stringify({ at: new Date().toISOString(), ...line })}\n`);
    if (flush) fsyncSync(this.#fd);
  }

  close(): void {
    closeSync(this.#fd);
  }
}
