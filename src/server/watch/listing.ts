import type { DiskPath } from '../../core/platform/names';
import { Refused } from '../platform/errors';
import { isEmpty, type ListedFolder, listFolder, type Walked, walkLimits } from '../platform/files/walk';

/** A folder that is not listed yet. */
const NOTHING: ListedFolder = { entries: [], folders: [] };

/** Everything below a folder as it was listed last: of a large one only those folders are listed again in which something changed. */
export class Listing {
  #folders = new Map<string, ListedFolder>();

  /**
   * Lists the folders that are named again, with what is new below them, and drops what is gone; all of them where `changed` is null.
   * Throws what the system says of the top folder, and Refused where there is more than can be listed.
   */
  async look(top: DiskPath, changed: ReadonlySet<string> | null): Promise<Walked> {
    const open = changed === null ? [''] : [...changed].filter((f) => this.#folders.has(f));
    if (changed === null) this.#folders = new Map([['', NOTHING]]);
    while (open.length > 0) {
      const at = open.pop()!;
      const before = this.#folders.get(at);
      // It went with one around it.
      if (!before) continue;
      const listed = await listFolder(top, at);
      this.#folders.set(at, listed);
      const now = new Set(listed.folders);
      for (const folder of before.folders) if (!now.has(folder)) this.#drop(folder);
      for (const folder of listed.folders) {
        if (this.#folders.has(folder)) continue;
        this.#folders.set(folder, NOTHING);
        open.push(folder);
      }
    }
    return this.#walked(top);
  }

  #drop(folder: string): void {
    const listed = this.#folders.get(folder);
    this.#folders.delete(folder);
    for (const below of listed?.folders ?? []) this.#drop(below);
  }

  #walked(top: DiskPath): Walked {
    const all = [...this.#folders];
    const entries = all.flatMap(([, f]) => f.entries);
    if (entries.length > walkLimits.entries)
      throw new Refused(
        `This folder holds more than ${walkLimits.entries.toLocaleString('en')} files and folders.`,
        { file: top, next: 'Watch the folders in it one by one.' },
      );
    const empty = all.filter(([at, f]) => at !== '' && isEmpty(f)).map(([at]) => at);
    return { entries, empty, whole: true };
  }
}
