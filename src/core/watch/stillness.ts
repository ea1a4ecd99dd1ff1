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
 * Tells which files are still being written, from looks at their folder. Times of looks are of a clock that only goes forward, in
 * milliseconds: neither the computer's clock nor a file's own time is believed.
 */
export class Stillness {
  #files = new Map<string, Known>();

  constructor(private readonly still = STILL) {}

  /** A look at all files there are; `writing` are those a process is known to write to. */
  look(now: number, list: readonly Seen[], writing: ReadonlySet<string> = new Set()): void {
    const next = new Map<string, Known>();
    for (const { path, size, modified } of list) {
      const before = this.#files.get(path);
      const same = before?.size === size && before.modified === modified && !writing.has(path);
      next.set(path, { size, modified, since: same ? before.since : now });
    }
    this.#files = next;
  }

  /** Whether a file has been as it is for long enough at the time of the last look. An empty one never has: something is still to come. */
  isWhole(path: string, now: number): boolean {
    const file = this.#files.get(path);
    return file !== undefined && file.size > 0 && now - file.since >= this.still;
  }

  /** Whether everything below a folder has ("" for all there is); what is empty does not hold up a folder. */
  isWholeBelow(folder: string, now: number): boolean {
    const below = folder === '' ? '' : `${folder}/`;
    for (const [path, file] of this.#files)
      if (path.startsWith(below) && now - file.since < this.still) return false;
    return true;
  }

  /** Files that are not still yet. */
  movingFiles(now: number): string[] {
    return [...this.#files].filter(([, f]) => now - f.since < this.still).map(([path]) => path);
  }

  /** How many files are not whole yet. */
  moving(now: number): number {
    return this.movingFiles(now).length;
  }
}
