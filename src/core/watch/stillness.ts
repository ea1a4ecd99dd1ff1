import { folderOf } from '../platform/names';

/** A file as a look at its folder found it. `size` in bytes, `modified` in milliseconds of its own time. */
export interface Seen {
  path: string;
  size: number;
  modified: number;
}

/** Milliseconds for which size and time of a file have to have been the same until it counts as whole. */
export const STILL = 1500;

interface Known {
  size: number;
  modified: number;
  since: number;
}

/**
 * Tells which files are still being written, from looks at their folders. Times of looks are of a clock that only goes forward, in
 * milliseconds: neither the computer's clock nor a file's own time is believed.
 */
export class Stillness {
  #folders = new Map<string, Map<string, Known>>();
  /** Files that were not still at the last look, or have not been asked for since. */
  readonly #moving = new Set<string>();

  constructor(private readonly still = STILL) {}

  /** A look at all files there are, or at all there are directly in `only` these folders ("" for the top one). */
  look(now: number, list: readonly Seen[], only: ReadonlySet<string> | null = null): void {
    const next = new Map<string, Map<string, Known>>();
    for (const { path, size, modified } of list) {
      const folder = folderOf(path);
      const before = this.#folders.get(folder)?.get(path);
      const same = before?.size === size && before.modified === modified;
      if (!same) this.#moving.add(path);
      const files = next.get(folder) ?? new Map<string, Known>();
      next.set(folder, files.set(path, same ? before : { size, modified, since: now }));
    }
    if (only === null) this.#folders = next;
    else
      for (const folder of only) {
        const files = next.get(folder);
        if (files) this.#folders.set(folder, files);
        else this.#folders.delete(folder);
      }
  }

  /** Files that a process is known to write to at the time of the last look: they move, though they are as they were. */
  touch(now: number, paths: Iterable<string>): void {
    for (const path of paths) {
      const file = this.#find(path);
      if (!file) continue;
      file.since = now;
      this.#moving.add(path);
    }
  }

  /** Whether a file has been as it is for long enough at the time of the last look. An empty one never has: something is still to come. */
  isWhole(path: string, now: number): boolean {
    const file = this.#find(path);
    return file !== undefined && file.size > 0 && now - file.since >= this.still;
  }

  /** Whether everything below a folder has ("" for all there is); what is empty does not hold up a folder. */
  isWholeBelow(folder: string, now: number): boolean {
    return !this.movingFiles(now).some((p) => folder === '' || p.startsWith(`${folder}/`));
  }

  /** Files that are not still yet. */
  movingFiles(now: number): string[] {
    for (const path of this.#moving) {
      const file = this.#find(path);
      if (!file || now - file.since >= this.still) this.#moving.delete(path);
    }
    return [...this.#moving];
  }

  /** In how many milliseconds the next file is still if nothing happens to it; null where none moves. */
  nextWhole(now: number): number | null {
    const waits = this.movingFiles(now).map((p) => this.still - (now - this.#find(p)!.since));
    return waits.length > 0 ? waits.reduce((a, b) => Math.min(a, b)) : null;
  }

  #find(path: string): Known | undefined {
    return this.#folders.get(folderOf(path))?.get(path);
  }
}
