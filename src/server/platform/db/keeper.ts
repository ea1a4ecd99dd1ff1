import type { PGlite } from '@electric-sql/pglite';
import { DrizzleQueryError } from 'drizzle-orm';
import { constants } from 'node:fs';
import { access, mkdir, open, readdir, readFile, rename, rm, stat, writeFile } from 'node:fs/promises';
import path from 'node:path';
import PQueue from 'p-queue';
import { DatabaseLost, isFull, messageOf, Refused } from '../errors';
import { flushFolder } from '../files/fileSystem';
import { freeBytes, LEAST_ROOM } from '../files/onDisk';
import type { OpenDatabase } from './client';
import { joinPath } from '../files/names';

// The embedded database does not flush what it writes: it runs with fsync off; opening it, 20 inserts and closing
// it make 178 calls of pwrite64 and none of fsync or fdatasync (counted with strace). A power cut may take all that the system had not written out by itself (some 30 seconds), in any order.
// So its files are flushed from here every few seconds, and whole copies of it are kept.

/** Snapshots that are kept. */
const KEPT = 6;
const NAME = /^database_\d{8}T\d{6}Z\.tar\.gz$/;

const isAbort = (e: unknown): boolean => messageOf(e).startsWith('Aborted(');
/** Whether something was thrown because PostgreSQL could not do what it was asked. */
export const isDatabaseFault = (e: unknown): boolean =>
  e instanceof DrizzleQueryError || isAbort(e) || (e instanceof Error && 'severity' in e);
/** What is said of a database that is lost. */
export const lost = (folder: string, why: string): DatabaseLost =>
  new DatabaseLost(why, {
    file: folder,
    next: 'No footage is touched by this. Open Sort Shelf to choose what is done: rebuild from the records beside the footage, take a snapshot, or begin anew.',
  });
const isThere = (file: string): Promise<boolean> =>
  access(file, constants.F_OK).then(
    () => true,
    () => false,
  );

/** The snapshots of a database, the newest first. */
export async function snapshotsIn(folder: string): Promise<string[]> {
  return (await readdir(folder).catch(() => []))
    .filter((n) => NAME.test(n))
    .sort()
    .reverse()
    .map((n) => joinPath(folder, n));
}

/** When a snapshot was made, ISO 8601. */
export const snapshotTime = (file: string): string =>
  path.basename(file).replace(/^database_(\d{4})(\d\d)(\d\d)T(\d\d)(\d\d)(\d\d)Z.*$/, '$1-$2-$3T$4:$5:$6Z');

/** Flushes every file below a folder that was written to since. Returns how many. */
async function flushAll(folder: string, since: number): Promise<number> {
  let n = 0;
  for (const entry of await readdir(folder, { recursive: true, withFileTypes: true })) {
    if (!entry.isFile()) continue;
    const file = joinPath(entry.parentPath, entry.name);
    // The database removes files of its own while it works.
    const s = await stat(file).catch(() => null);
    if (!s || s.mtimeMs < since) continue;
    const handle = await open(file, 'r').catch(() => null);
    await handle?.sync().catch(() => undefined);
    await handle?.close();
    n++;
  }
  return n;
}

/** Keeps a database folder safe from a power cut, as far as that can be done from outside. */
export class DatabaseKeeper {
  /** When it was flushed last: by the clock that files are stamped by, and by one that only goes forward. */
  #flushed = { wall: 0, steady: 0 };
  #snapshotAt = performance.now();
  readonly #turns = new PQueue({ concurrency: 1 });

  constructor(
    private readonly engine: PGlite,
    private readonly folder: string,
    private readonly snapshots: string,
  ) {}

  /** Flushes every file of the database that was written to since the last time. Returns how many. */
  async flush(): Promise<number> {
    const [before, now] = [this.#flushed, { wall: Date.now(), steady: performance.now() }];
    this.#flushed = now;
    // After a clock was set, times of files say nothing. Else: a file may be written to in the very millisecond it is looked at.
    const wasSet = Math.abs(now.wall - before.wall - (now.steady - before.steady)) > 500;
    return flushAll(this.folder, wasSet ? 0 : before.wall - 1000);
  }

  /** Writes a whole copy of the database, consistent in itself, and keeps the newest ones. Returns its file. */
  snapshot(): Promise<string> {
    return this.#turns.add(() => this.#write());
  }

  /** Milliseconds since the last snapshot of this run, or since its start. */
  get age(): number {
    return performance.now() - this.#snapshotAt;
  }

  async #write(): Promise<string> {
    await mkdir(this.snapshots, { recursive: true });
    // From time to time what is in the tables is counted, for queries are planned by it, and what is out of use in them is freed:
    // nobody else does either here.
    await this.engine.exec('vacuum analyze');
    const dump = await this.engine.dumpDataDir('gzip');
    // The newest is the last by name, also where the clock was set back.
    const [newest] = await snapshotsIn(this.snapshots);
    const at = new Date(Math.max(Date.now(), newest ? Date.parse(snapshotTime(newest)) + 1000 : 0));
    const name = `database_${at.toISOString().replace(/[-:]/g, '').replace(/\.\d+/, '')}.tar.gz`;
    const part = joinPath(this.snapshots, `.${name}.part`);
    await writeFile(part, Buffer.from(await dump.arrayBuffer()), { flush: true });
    await rename(part, joinPath(this.snapshots, name));
    await flushFolder(this.snapshots);
    this.#snapshotAt = performance.now();
    for (const old of (await snapshotsIn(this.snapshots)).slice(KEPT)) await rm(old);
    return joinPath(this.snapshots, name);
  }
}

/** What is done where the database is damaged or gone: nothing but saying so, its newest snapshot that opens, or an empty one. */
export type Restore = 'say' | 'snapshot' | 'empty';

/** Stands beside the database while it is open, with the start of the system it was opened in. */
const openMark = (folder: string): string => `${folder}-open`;
/** Which start of the system this is (random(4)); "" where it does not say. */
const bootId = (): Promise<string> => readFile('/proc/sys/kernel/random/boot_id', 'utf8').catch(() => '');

/** Whether a folder is on another volume than the system: that may be pulled out while the system runs. */
const mayBePulled = async (folder: string): Promise<boolean> =>
  (await stat(folder)).dev !== (await stat(path.parse(folder).root)).dev;

/**
 * Whether something may be missing from a database: it was not closed, and the system has been started since (the power may have gone), or
 * its volume may have been pulled out. A server that died alone takes nothing: what it wrote is in the system's hands.
 */
async function mayBeCut(folder: string): Promise<boolean> {
  const then = await readFile(openMark(folder), 'utf8').catch(() => null);
  return then !== null && (then === '' || then !== (await bootId()) || (await mayBePulled(folder)));
}

/** The database, with its mark standing until it has been closed and flushed. */
async function marked(folder: string, database: OpenDatabase): Promise<OpenDatabase> {
  await writeFile(openMark(folder), await bootId(), { flush: true });
  await flushFolder(path.dirname(folder));
  return {
    ...database,
    async close() {
      await database.close();
      await flushAll(folder, 0);
      await rm(openMark(folder), { force: true });
    },
    async abandon() {
      await writeFile(openMark(folder), '', { flush: true });
      await database.close();
    },
  };
}

type OpenAt = (dump?: Blob) => Promise<OpenDatabase>;
/**
 * Where a database is kept: its folder, its snapshots, and files that only a database that was begun leaves behind. `doubt` looks at one
 * that opened but was not closed, and says what is wrong with it, or `null`. `aside` where it is known to be
 * lost, though it may open.
 */
export interface KeptAt {
  folder: string;
  snapshots: string;
  traces: readonly string[];
  doubt: (database: OpenDatabase) => Promise<string | null>;
  aside?: boolean;
}

/** Throws Refused where it is the volume that is full, which is no damage. */
export async function refuseFull(thrown: unknown, folder: string): Promise<void> {
  if (isFull(thrown) || (await freeBytes(path.dirname(folder))) < LEAST_ROOM)
    throw new Refused(`The database in ${folder} cannot be opened: its volume is full.`, {
      file: folder,
      next: 'Make room on the volume, then start Sort Shelf again.',
    });
}

/** Makes a database where none was. What was made of one that could not be made whole is taken away: it would pass for a damaged one. */
const makeNew = (folder: string, openAt: OpenAt): Promise<OpenDatabase> =>
  openAt().catch(async (e: unknown) => {
    await rm(folder, { recursive: true, force: true });
    await refuseFull(e, folder);
    throw isAbort(e)
      ? new Refused(`No database could be made in ${folder}.`, {
          file: folder,
          next: 'Check that its volume has space and is writable.',
        })
      : e;
  });

/**
 * Opens a kept database. One that is damaged, or gone although it left traces, is not opened: it is said (DatabaseLost). The damaged
 * one is never altered; it is moved aside once the person has chosen. `restored` where a snapshot was taken.
 */
export async function openKept(
  { folder, snapshots, traces, doubt, aside = false }: KeptAt,
  restore: Restore,
  openAt: OpenAt,
): Promise<{ database: OpenDatabase; restored: boolean }> {
  const known = await snapshotsIn(snapshots);
  let why: string;
  if (aside && restore !== 'say') why = `The database in ${folder} is damaged.`;
  else if (await isThere(joinPath(folder, 'PG_VERSION'))) {
    try {
      const database = await openAt();
      const doubts = (await mayBeCut(folder)) ? await doubt(database).catch(messageOf) : null;
      if (doubts === null) return { database: await marked(folder, database), restored: false };
      await database.close();
      why = `The database in ${folder} is damaged: ${doubts}.`;
    } catch (e) {
      await refuseFull(e, folder);
      // What the engine aborts with is no word for a person.
      why = `The database in ${folder} is damaged: ${isAbort(e) ? 'PostgreSQL cannot open it' : messageOf(e).replace(/\.{1,3}$/, '')}.`;
    }
  } else {
    const some = (await readdir(folder).catch(() => [])).length > 0;
    const left = some || known.length > 0 || (await Promise.all(traces.map(isThere))).some(Boolean);
    if (!left) return { database: await marked(folder, await makeNew(folder, openAt)), restored: false };
    why = some
      ? `The database in ${folder} is damaged: parts of it are gone.`
      : `The database in ${folder} is gone.`;
  }
  if (restore === 'say') throw lost(folder, why);
  if (restore === 'snapshot' && !known[0])
    throw new Refused(`${why} There is no snapshot of it.`, {
      file: folder,
      next: 'Rebuild from the records beside the footage, or begin anew.',
    });
  if (await isThere(folder))
    await rename(folder, `${folder}-damaged-${new Date().toISOString().replace(/[:.]/g, '-')}`);
  if (restore === 'empty')
    return { database: await marked(folder, await makeNew(folder, openAt)), restored: false };
  // A snapshot that cannot be opened gives way to the one before.
  for (const snapshot of known) {
    const database = await openAt(new Blob([await readFile(snapshot)])).catch(() =>
      rm(folder, { recursive: true, force: true }).then(() => null),
    );
    if (database) return { database: await marked(folder, database), restored: true };
  }
  throw new Refused(`None of the ${known.length} snapshots can be opened.`, {
    file: snapshots,
    next: 'Rebuild from the records beside the footage, or begin anew.',
  });
}
