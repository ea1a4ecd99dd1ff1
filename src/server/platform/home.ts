import { DataFolderGone, isCode } from './errors';
import { unreadWhy } from './files/faults';
import { type FileHandle, open, stat } from './files/onDisk';

/**
 * Whether the data folder is still the one that was opened. Its drive may be pulled out, or something else put in its place:
 * what is written then goes nowhere, or where nobody looks for it. Once gone it stays so, since what was open of it does not
 * come back with it.
 */
export class HomeWatch {
  #gone = false;
  private constructor(
    private readonly home: string,
    private readonly opened: FileHandle,
    private readonly onGone: () => void,
  ) {}

  /**
   * Watches a folder that is there; `onGone` is called once. It is kept open: some file systems number anew what nobody has
   * open (exFAT through FUSE, tried).
   */
  static async of(home: string, onGone: () => void): Promise<HomeWatch> {
    return new HomeWatch(home, await open(home, 'r'), onGone);
  }

  get gone(): boolean {
    return this.#gone;
  }

  /** Looks at it. Throws DataFolderGone where it is not there, was not at an earlier look, or cannot be looked at now. */
  async check(): Promise<void> {
    if (this.#gone) throw this.#missing();
    const now = await Promise.all([stat(this.home), this.opened.stat()]).catch((e: unknown) => {
      if (isCode(e, 'ENOENT', 'ENOTDIR')) return null;
      // A share that does not answer for a moment is not gone.
      throw new DataFolderGone(`The data folder ${this.home} cannot be looked at: ${unreadWhy(e)}`, {
        file: this.home,
        next: 'Check that its drive or server is connected, then try again.',
      });
    });
    if (now && now[0].dev === now[1].dev && now[0].ino === now[1].ino) return;
    this.#gone = true;
    this.onGone();
    throw this.#missing();
  }

  async end(): Promise<void> {
    await this.opened.close();
  }

  #missing(): DataFolderGone {
    return new DataFolderGone(
      `The data folder ${this.home} is no longer there: its drive was taken out, or the folder was moved.`,
      {
        file: this.home,
        next: 'Connect the drive, or move the folder back, then end Sort Shelf and start it again. What ran was stopped; nothing is copied or named meanwhile.',
      },
    );
  }
}
