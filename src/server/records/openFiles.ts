import { type Header, type Mark, RECORDS_VERSION } from '../../core/records/replay';
import { isCode } from '../platform/errors';
import { flushFolder } from '../platform/files/fileSystem';
import { joinPath } from '../platform/files/names';
import { type FileHandle, lstat, mkdirNew, rename, rm } from '../platform/files/onDisk';
import { openToAppend } from '../platform/files/plainFile';

export const recordsName = (id: string): string => `records-${id}.jsonl`;
/** The name of a file that could not be brought up to date: it is known to be behind. A name is changed also where a disk is full. */
export const behindName = (id: string): string => `records-${id}.behind.jsonl`;
/** The folder for the records beside the database. */
export const homeRecords = (home: string): string => joinPath(home, 'records');

/** Where a file of records belongs. */
export interface Place {
  folder: string;
  root: string | null;
  name: string;
}
/** A place with how long its file is, and how long it was when it was last written anew; zero where it is written anew. */
export interface SizedPlace extends Place {
  size: number;
  base: number;
}

interface OpenFile {
  place: SizedPlace;
  handle: FileHandle;
  file: string;
  /** The temporary name of one that is written anew. */
  part: string | null;
  size: number;
}

/** The files that one writing of a library's records goes to. One that fails is let go of and told to `failed`; the others go on. */
export class OpenFiles {
  readonly #open: OpenFile[] = [];

  constructor(
    private readonly library: string,
    private readonly failed: (place: Place, e: unknown) => Promise<void>,
    /** Throws where the data folder's drive has gone. */
    private readonly checkHome: () => Promise<void>,
  ) {}

  /** Opens the file of each place: to be gone on with, or `anew` under a temporary name. */
  async open(places: readonly SizedPlace[], anew: boolean): Promise<void> {
    for (const place of places) await this.#openOne(place, anew).catch((e: unknown) => this.#drop(place, e));
  }

  async #openOne(place: SizedPlace, anew: boolean): Promise<void> {
    // What is to be written was gathered meanwhile, and its drive may have been pulled out: its folder is not made in its place.
    if (place.root === null) await this.checkHome();
    // Only the folder itself: one around it that is not there is a drive that has gone, which must not be made in its place.
    await mkdirNew(place.folder).catch((e: unknown) => {
      if (!isCode(e, 'EEXIST')) throw e;
    });
    // A link in its place leads to where nothing of it belongs.
    if (!(await lstat(place.folder)).isDirectory()) throw new Error(`${place.folder} is not a folder`);
    const file = joinPath(place.folder, recordsName(this.library));
    const part = anew ? `${file}.part` : null;
    if (part) await rm(part, { force: true });
    const open: OpenFile = {
      place,
      handle: await openToAppend(part ?? file),
      file,
      part,
      size: place.size,
    };
    this.#open.push(open);
    if (part)
      await write(
        open,
        `${JSON.stringify({ records: RECORDS_VERSION, library: this.library, root: place.root } satisfies Header)}\n`,
      );
  }

  /** Writes a line to each. */
  async append(line: string): Promise<void> {
    for (const o of [...this.#open]) await write(o, line).catch((e: unknown) => this.#drop(o.place, e));
  }

  /** Ends each with a mark, and flushes it. `done` is told of each that is whole. */
  async end(
    mark: Omit<Mark, 'base'>,
    done: (place: Place, written: { base: number; size: number }) => void,
  ): Promise<void> {
    for (const o of [...this.#open]) {
      try {
        const base = o.part ? o.size : o.place.base;
        await write(o, `${JSON.stringify({ ...mark, base } satisfies Mark)}\n`);
        await o.handle.sync();
        if (o.part) {
          await rename(o.part, o.file);
          await flushFolder(o.place.folder);
          await rm(joinPath(o.place.folder, behindName(this.library)), { force: true });
        }
        done(o.place, { base, size: o.size });
        await o.handle.close();
      } catch (e) {
        await this.#drop(o.place, e);
      }
    }
  }

  async #drop(place: Place, e: unknown): Promise<void> {
    const i = this.#open.findIndex((o) => o.place === place);
    const [gone] = i >= 0 ? this.#open.splice(i, 1) : [];
    await gone?.handle.close().catch(() => undefined);
    // A drive that is full needs no half of it; the file before stays.
    if (gone?.part) await rm(gone.part, { force: true }).catch(() => undefined);
    // What it has is older than what is known now, and says so by its name.
    const file = joinPath(place.folder, recordsName(this.library));
    const isThere = await lstat(file).then(
      (s) => s.isFile(),
      () => false,
    );
    if (isThere) await rename(file, joinPath(place.folder, behindName(this.library))).catch(() => undefined);
    await this.failed(place, e);
  }
}

async function write(o: OpenFile, text: string): Promise<void> {
  await o.handle.appendFile(text);
  o.size += Buffer.byteLength(text);
}
