import path from 'node:path';
import type { WatchedBy } from '../../core/watch';
import { isCode } from '../platform/errors';
import { joinPath } from '../platform/files/names';
import { type FSWatcher, listenTo } from '../platform/files/onDisk';
import { mountOf, NETWORK } from '../platform/volumes/mountTable';

/**
 * Listens to the folders of a watched folder, one by one: the system tells of changes in a folder, not of those below it. Where it tells
 * nothing (a network share) or takes no more listeners, the folder is looked at again and again.
 */
export class Listening {
  readonly #folders = new Map<string, FSWatcher>();
  by: WatchedBy = 'events';
  why = '';

  constructor(
    readonly at: string,
    /** Is told the folder in which something changed. */
    private readonly heard: (folder: string) => void,
    /** How one folder is listened to. Another in tests: a system's limit is everybody's. */
    private readonly listen: typeof listenTo = listenTo,
  ) {
    const mount = mountOf(at);
    if (mount && NETWORK.test(mount.type))
      this.#poll('it is on a network share, which does not tell of changes');
  }

  /** Listens to these folders from now on, paths below the watched one. Returns those that are new. */
  listenTo(folders: readonly string[]): string[] {
    const wanted = new Set(folders);
    for (const [folder, listener] of this.#folders)
      if (!wanted.has(folder)) {
        listener.close();
        this.#folders.delete(folder);
      }
    const added: string[] = [];
    for (const folder of folders) {
      if (this.by !== 'events') break;
      if (this.#folders.has(folder)) continue;
      try {
        const listener = this.listen(joinPath(this.at, folder), (what, name) => {
          // The folder itself went, or was moved: another may have its name by now.
          if (what === 'rename' && name === path.posix.basename(folder)) {
            listener.close();
            this.#folders.delete(folder);
          }
          this.heard(folder);
        });
        listener.on('error', () => {
          // A folder that goes is no longer listened to: the one around it tells of that.
          listener.close();
          this.#folders.delete(folder);
          this.heard(folder);
        });
        this.#folders.set(folder, listener);
        added.push(folder);
      } catch (e) {
        if (isCode(e, 'ENOSPC', 'EMFILE', 'ENFILE'))
          this.#poll('the system takes no more listeners (its limit of watched folders is reached)');
        // What has gone meanwhile is seen at the next look.
      }
    }
    return added;
  }

  #poll(why: string): void {
    this.by = 'polling';
    this.why = why;
    this.#close();
  }

  #close(): void {
    for (const listener of this.#folders.values()) listener.close();
    this.#folders.clear();
  }

  end(): void {
    this.#close();
  }
}
