import { DataFolderGone } from './errors';
import { stat } from './files/onDisk';

const identityOf = (home: string): Promise<string | null> =>
  stat(home).then(
    (s) => `${s.dev}:${s.ino}`,
    () => null,
  );

/**
 * Whether the data folder is still the one that was opened. Its drive may be pulled out, or something else put in its place: what is
 * written then goes nowhere, or where nobody looks for it. Once gone it stays so, since what was open of it does not come back with it.
 */
export class HomeWatch {
  #gone = false;
  private constructor(
    private readonly home: string,
    private readonly identity: string,
    private readonly onGone: () => void,
  ) {}

  /** Watches a folder that is there; `onGone` is called once. */
  static async of(home: string, onGone: () => void): Promise<HomeWatch> {
    return new HomeWatch(home, (await identityOf(home)) ?? '', onGone);
  }

  get gone(): boolean {
    return this.#gone;
  }

  /** Looks at it. Throws DataFolderGone where it is not there, or was not at an earlier look. */
  async check(): Promise<void> {
    if (!this.#gone && (await identityOf(this.home)) !== this.identity) {
      this.#gone = true;
      this.onGone();
    }
    if (this.#gone) {
      throw new DataFolderGone(
        `The data folder ${this.home} is not there any more: its drive was taken out, or the folder was moved.`,
        {
          file: this.home,
          next: 'Connect the drive, or move the folder back, then end Sort Shelf and start it again. No footage is touched meanwhile.',
        },
      );
    }
  }
}
