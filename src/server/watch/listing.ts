import { folderOf, type DiskPath } from '../../core/platform/names';
import type { FoundEntry } from '../../core/intake';
import { firstNotBefore } from '../../core/platform/sorted';
import { Refused } from '../platform/errors';
import { isEmpty, type ListedFolder, listFolder, type Walked, walkLimits } from '../platform/files/walk';

/** A folder that is not listed yet. */
const NOTHING: ListedFolder = { entries: [], folders: [] };

/** Everything below a folder as it was listed last: of a large one only those folders are listed again in which something changed. */
export class Listing {
  #folders = new Map<string, ListedFolder>();
  /** Folders that are still to be listed again in this round. */
  #round: string[] = [];

  /**
   * Lists the folders that are named again, with what is new below them, and drops what is gone; all of them where `changed` is null.
   * Resolves with the folders that were listed or dropped: of no other anything changed. Throws what the system says of the top folder, and
   * Refused where there is more than can be listed.
   */
  async look(top: DiskPath, changed: ReadonlySet<string> | null): Promise<ReadonlySet<string>> {
    const open = changed === null ? [''] : [...changed].filter((f) => this.#folders.has(f));
    const touched = new Set(changed === null ? this.#folders.keys() : []);
    if (changed === null) this.#folders = new Map([['', NOTHING]]);
    while (open.length > 0) {
      const at = open.pop()!;
      const before = this.#folders.get(at);
      // It went with one around it.
      if (!before) continue;
      const listed = await listFolder(top, at);
      this.#folders.set(at, listed);
      touched.add(at);
      const now = new Set(listed.folders);
      for (const folder of before.folders) if (!now.has(folder)) this.#drop(folder, touched);
      for (const folder of listed.folders) {
        if (this.#folders.has(folder)) continue;
        this.#folders.set(folder, NOTHING);
        open.push(folder);
      }
    }
    if (this.size > walkLimits.entries)
      throw new Refused(
        `This folder holds more than ${walkLimits.entries.toLocaleString('en')} files and folders.`,
        { file: top, next: 'Watch the folders in it one by one.' },
      );
    return touched;
  }

  #drop(folder: string, touched: Set<string>): void {
    const listed = this.#folders.get(folder);
    this.#folders.delete(folder);
    touched.add(folder);
    for (const below of listed?.folders ?? []) this.#drop(below, touched);
  }

  /** How many files and whatever else there are, folders not counted. */
  get size(): number {
    let n = 0;
    for (const { entries } of this.#folders.values()) n += entries.length;
    return n;
  }

  /** All folders, "" for the top one. */
  folders(): string[] {
    return [...this.#folders.keys()];
  }

  /** What is directly in a folder. */
  in(folder: string): readonly FoundEntry[] {
    return this.#folders.get(folder)?.entries ?? [];
  }

  /** What is at a path; undefined where nothing is, or a folder. */
  at(path: string): FoundEntry | undefined {
    // Entries of a folder are in order of their names.
    const entries = this.in(folderOf(path));
    const found = entries[firstNotBefore(entries.length, (i) => entries[i]!.path < path)];
    return found?.path === path ? found : undefined;
  }

  /** All of it as a walk finds it. */
  walked(): Walked {
    const all = [...this.#folders];
    const empty = all.filter(([at, f]) => at !== '' && isEmpty(f)).map(([at]) => at);
    return { entries: all.flatMap(([, f]) => f.entries), empty, whole: true };
  }

  /** The next folders of a round through all of them, with some `entries` in them: by and by each is listed again. */
  nextOfRound(entries: number): string[] {
    if (this.#round.length === 0) this.#round = this.folders();
    const out: string[] = [];
    for (let n = 0; n < entries && this.#round.length > 0;) {
      const folder = this.#round.pop()!;
      out.push(folder);
      n += 1 + this.in(folder).length;
    }
    return out;
  }
}
