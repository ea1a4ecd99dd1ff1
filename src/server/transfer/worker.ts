import path from 'node:path';
import pMap from 'p-map';
import type { HashKind } from '../../core/hashLists';
import { Clash, codeOf, isCode, NotFound, ShelfError } from '../platform/errors';
import { inWords, unreadWhy } from '../platform/files/faults';
import { flushFolder, makeFolder, removeFile, setModified } from '../platform/files/fileSystem';
import { requireVolume } from '../platform/files/onVolume';
import { partName } from '../platform/files/partName';
import { newHash } from '../platform/files/hash';
import { dropClaim, dropPlaceHolder, nameExclusively, removeIfThere } from '../platform/files/move';
import * as disk from './disk';
import { addGeneration, type ExpectedFiles, expectedFiles, type ListInput } from './hashList';
import {
  CHANGED,
  type CopyTask,
  DIFFERS,
  type FileOutcome,
  type HashOutcome,
  type HashTask,
  type OpenSource,
  type OpenTarget,
  type RefusedList,
  STOPPED,
  type Stood,
  type TargetFile,
  type TaskFile,
} from './task';
import { lstat } from '../platform/files/onDisk';

// Runs in worker threads: copying and hashing never take the thread that answers the interface.

/** Bytes read at a time: what a processor's cache holds while they are hashed and written; past the system's cache, what keeps a drive busy; for small files. */
const CHUNK = 256 << 10;
const DIRECT_CHUNK = 1 << 20;
const SMALL_CHUNK = 64 << 10;
/** Files up to this many bytes are copied several at a time: most of their cost is waiting for the disk. */
const SMALL = 1 << 20;
const CONCURRENCY = 8;

/** Memory on page bounds, which reading past the cache needs: WebAssembly gives it. Kept for the next task, by size. */
const kept = new Map<number, Buffer[]>([CHUNK, DIRECT_CHUNK, SMALL_CHUNK].map((size) => [size, []]));
function borrow(fileSize: number, direct = false): Buffer {
  const size = fileSize <= SMALL_CHUNK ? SMALL_CHUNK : direct ? DIRECT_CHUNK : CHUNK;
  return kept.get(size)!.pop() ?? Buffer.from(new WebAssembly.Memory({ initial: size >> 16 }).buffer);
}
const giveBack = (...buffers: Buffer[]): void => buffers.forEach((b) => kept.get(b.length)!.push(b));

class Fault extends Error {
  constructor(
    readonly where: number | 'source',
    readonly code: string,
    message: string,
  ) {
    super(message);
  }
}

const faultAt = (where: number | 'source', e: unknown): Fault =>
  e instanceof Fault
    ? e
    : new Fault(where, codeOf(e) || 'UNKNOWN', where === 'source' ? unreadWhy(e) : inWords(e));

class Gate {
  readonly #words: Int32Array;
  constructor(shared: SharedArrayBuffer) {
    this.#words = new Int32Array(shared);
  }

  check(): void {
    if (Atomics.load(this.#words, 1) !== 0) throw new Fault('source', STOPPED, 'stopped');
  }

  /** Waits for its turn at the source; checks for the stop sign meanwhile. */
  enter(): void {
    while (Atomics.compareExchange(this.#words, 0, 0, 1) !== 0) {
      this.check();
      Atomics.wait(this.#words, 0, 1, 200);
    }
  }

  leave(): void {
    Atomics.store(this.#words, 0, 0);
    Atomics.notify(this.#words, 0, 1);
  }
}

type Source = Awaited<ReturnType<OpenSource>>;

/** Throws where a destination is not on its volume any more. */
type RequireVolume = (destination: number) => Promise<void>;

/** What was read of a file and where it was written. */
interface Written {
  file: TaskFile;
  hash: string;
  readBack: boolean;
  parts: { destination: number; part: string; final: string; target: TargetFile }[];
  present: { destination: number; final: string }[];
}

/** Copies a batch of files of one card; each fares on its own. */
export async function copy(task: CopyTask): Promise<FileOutcome[]> {
  const openSource: OpenSource = task.reader
    ? ((await import(task.reader)) as { openSource: OpenSource }).openSource
    : disk.openSource;
  const openTarget: OpenTarget = task.writer
    ? ((await import(task.writer)) as { openTarget: OpenTarget }).openTarget
    : disk.openTarget;
  return new Batch(task, openSource, openTarget).copy();
}

/** The copying of a batch: each step is done with every file that went well so far. */
class Batch {
  readonly #gate: Gate;
  readonly #counter: BigInt64Array;
  /**
   * A file alone holds the gate chunk by chunk: while one is hashed and written, another thread reads, and the card is never idle.
   * Small files read several at a time in one thread hold it together: a thread cannot wait for itself.
   */
  readonly #isAlone: boolean;
  readonly #outcomes: FileOutcome[] = [];
  readonly #written: Written[] = [];

  constructor(
    private readonly task: CopyTask,
    private readonly openSource: OpenSource,
    private readonly openTarget: OpenTarget,
  ) {
    this.#gate = new Gate(task.gate);
    this.#counter = new BigInt64Array(task.counter);
    this.#isAlone = task.files.length === 1;
  }

  async copy(): Promise<FileOutcome[]> {
    const { files, verification } = this.task;
    try {
      await this.#readAll();
      const onDisk = await this.#those(this.#written, (w) => this.#flush(w));
      let agreeing = onDisk;
      if (verification === 'contentsTwice' && onDisk.length > 0) {
        this.#gate.enter();
        agreeing = await this.#those(onDisk, (w) => this.#readSecond(w)).finally(() => this.#gate.leave());
      }
      await this.#settleAll(await this.#those(agreeing, (w) => this.#prove(w)));
    } catch (e) {
      // Stopped while it waited for its turn at the card.
      const open = new Set(files.filter((f) => !this.#outcomes.some((o) => o.number === f.number)));
      for (const w of this.#written) if (open.has(w.file)) await this.#giveUp(w, e);
      for (const file of open) if (!this.#written.some((w) => w.file === file)) this.#fail(file, e);
    }
    return this.#outcomes;
  }

  async #readAll(): Promise<void> {
    const { files } = this.task;
    if (!this.#isAlone) this.#gate.enter();
    try {
      await pMap(
        files,
        (file) =>
          this.#read(file).then(
            (w) => void this.#written.push(w),
            (e: unknown) => this.#fail(file, e),
          ),
        { concurrency: files.every((f) => f.size <= SMALL) ? CONCURRENCY : 1 },
      );
    } finally {
      if (!this.#isAlone) this.#gate.leave();
    }
  }

  /** Names of one folder are flushed together; nothing counts as copied before its name is on the disk. */
  async #settleAll(proven: readonly Written[]): Promise<void> {
    const folders = new Map<string, Promise<void>>();
    const flushed = (folder: string): Promise<void> => {
      if (!folders.has(folder)) folders.set(folder, flushFolder(folder));
      return folders.get(folder)!;
    };
    await pMap(
      proven,
      (w) =>
        settle(w, flushed, this.#requireThere).then(
          (o) => void this.#outcomes.push(o),
          (e: unknown) => this.#fail(w.file, e),
        ),
      { concurrency: CONCURRENCY },
    );
  }

  readonly #requireThere: RequireVolume = async (destination) => {
    const volume = this.task.on[destination];
    if (volume) await requireVolume(volume);
  };

  #fail(file: TaskFile, e: unknown): void {
    const { where, code, message } = faultAt('source', e);
    this.#outcomes.push({ number: file.number, state: 'fault', where, code, text: message });
  }

  /** Takes away what was written of a file, and says why. */
  async #giveUp(w: Written, e: unknown): Promise<void> {
    await drop(w);
    Atomics.sub(this.#counter, 0, BigInt(w.file.size));
    this.#fail(w.file, e);
  }

  /** Does a step with each of some files, and returns those it went well with; of the others nothing is left. */
  async #those(list: readonly Written[], step: (w: Written) => Promise<void>): Promise<Written[]> {
    const well: Written[] = [];
    await pMap(
      list,
      (w) =>
        step(w).then(
          () => void well.push(w),
          (e: unknown) => this.#giveUp(w, e),
        ),
      { concurrency: CONCURRENCY },
    );
    return well;
  }

  /** Reads a file once, and writes it to every destination that does not have it yet, under temporary names. */
  async #read(file: TaskFile): Promise<Written> {
    this.#gate.check();
    const { kind, verification } = this.task;
    const w: Written = { file, hash: '', readBack: verification !== 'sizes', parts: [], present: [] };
    const buffers = [borrow(file.size), borrow(file.size)] as const;
    const read = { bytes: 0 };
    const source = await this.openSource(file.from, false).catch((e: unknown) => {
      throw isCode(e, 'ELOOP') ? new Fault('source', CHANGED, 'it has become a link') : faultAt('source', e);
    });
    try {
      await unchanged(source, file);
      for (const [destination, final] of file.to.entries())
        if (final !== null)
          await begin(w, destination, final, {
            openTarget: this.openTarget,
            requireThere: this.#requireThere,
          });
      const hash = newHash(kind);
      await this.#pump(source, w, { buffers, hash, read });
      if (read.bytes !== file.size)
        throw new Fault(
          'source',
          CHANGED,
          `it has ${read.bytes} bytes, not ${file.size}: it is still being written, or was changed`,
        );
      await unchanged(source, file);
      w.hash = hash.digest();
      return w;
    } catch (e) {
      Atomics.sub(this.#counter, 0, BigInt(read.bytes));
      await drop(w);
      throw e;
    } finally {
      await source.close().catch(() => undefined);
      giveBack(...buffers);
    }
  }

  /** Reads to the end of a source: while one buffer is hashed and written, the other is read into. `read` is counted up meanwhile. */
  async #pump(
    source: Source,
    w: Written,
    {
      buffers,
      hash,
      read,
    }: { buffers: readonly [Buffer, Buffer]; hash: ReturnType<typeof newHash>; read: { bytes: number } },
  ): Promise<void> {
    let writing: Promise<unknown> = Promise.resolve();
    for (let turn: 0 | 1 = 0; ; turn = turn === 0 ? 1 : 0) {
      const buffer = buffers[turn];
      if (this.#isAlone) this.#gate.enter();
      const n = await source
        .read(buffer, read.bytes)
        .catch((e: unknown) => {
          throw faultAt('source', e);
        })
        .finally(() => this.#isAlone && this.#gate.leave());
      await writing;
      if (n === 0) return;
      this.#gate.check();
      const bytes = buffer.subarray(0, n);
      writing = Promise.all(
        w.parts.map((p) =>
          p.target.write(bytes).catch((e: unknown) => {
            throw faultAt(p.destination, e);
          }),
        ),
      );
      // Heard at the next turn; until then it is nobody's unhandled failure.
      writing.catch(() => undefined);
      hash.update(bytes);
      read.bytes += n;
      Atomics.add(this.#counter, 0, BigInt(n));
    }
  }

  /** Flushes the parts of a file. */
  async #flush(w: Written): Promise<void> {
    await Promise.all(
      w.parts.map((p) =>
        p.target
          .sync()
          .then(() => p.target.close())
          .catch((e: unknown) => {
            throw faultAt(p.destination, e);
          }),
      ),
    );
    this.#gate.check();
  }

  /** Reads a file from the card once more. The gate is held meanwhile. */
  async #readSecond({ file, hash }: Written): Promise<void> {
    const [second] = await hashOf(file.from, [this.task.kind], this.openSource, true, this.#gate);
    if (second !== hash)
      throw new Fault('source', DIFFERS, 'the card gave other bytes when the file was read a second time');
  }

  /** Reads the parts of a file back, from the drive and not from memory where that can be, and gives them their names. Nothing that differs is ever named. */
  async #prove(w: Written): Promise<void> {
    const { file } = w;
    const isWhole = async (copy: string): Promise<boolean> =>
      (await hashOf(copy, [this.task.kind], disk.openSource, true, this.#gate))[0] === w.hash;
    for (const p of w.parts) {
      if (this.task.verification === 'sizes') {
        if ((await lstat(p.part)).size !== file.size)
          throw new Fault(p.destination, DIFFERS, 'the copy has another length');
      } else if (!(await isWhole(p.part))) {
        throw new Fault(p.destination, DIFFERS, 'the copy does not read back the same');
      }
    }
    for (const p of w.present) {
      if (!(await isWhole(p.final)))
        throw new Fault(p.destination, 'EEXIST', 'another file of this name is there already');
    }
    for (const p of w.parts) {
      try {
        await setModified(p.part, file.modified);
        await nameExclusively(p.part, p.final);
      } catch (e) {
        throw e instanceof Clash
          ? new Fault(p.destination, 'EEXIST', 'a file of this name has come there meanwhile')
          : faultAt(p.destination, e);
      }
    }
  }
}

/** Flushes the names of a proven file, and only then takes the temporary ones away. Tells how it stands. */
async function settle(
  w: Written,
  flushed: (folder: string) => Promise<void>,
  requireThere: RequireVolume,
): Promise<FileOutcome> {
  const stood: Stood[] = [];
  for (const { destination, final, read } of [
    ...w.parts.map((p) => ({ ...p, read: w.readBack })),
    ...w.present.map((p) => ({ ...p, read: true })),
  ]) {
    try {
      await flushed(path.dirname(final));
      // One that stays is a second name of the same file: nothing is lost, but a check would find it. A drive may refuse once.
      const drop = () => removeIfThere(partName(final));
      await drop()
        .catch(drop)
        .catch(() => undefined);
      await dropClaim(final);
      const now = await lstat(final);
      await requireThere(destination);
      stood.push({ destination, size: now.size, modified: Math.round(now.mtimeMs), read });
    } catch (e) {
      throw faultAt(destination, e);
    }
  }
  return { number: w.file.number, state: 'verified', hash: w.hash, stood };
}

/** Opens the part of a copy, or notes that the file is there already. */
async function begin(
  w: Written,
  destination: number,
  final: string,
  { openTarget, requireThere }: { openTarget: OpenTarget; requireThere: RequireVolume },
): Promise<void> {
  try {
    await requireThere(destination);
    let there = await lstat(final).catch((e: unknown) => {
      if (isCode(e, 'ENOENT', 'ENOTDIR')) return null;
      throw e;
    });
    if (there && there.size === 0 && (await dropPlaceHolder(final))) there = null;
    const part = partName(final);
    // What an interrupted copy left is begun again; a part that was named already may still be beside its final name.
    await removeFile(part).catch(() => undefined);
    if (there) {
      if (!there.isFile() || there.size !== w.file.size)
        throw new Fault(destination, 'EEXIST', 'another file of this name is there already');
      w.present.push({ destination, final });
      return;
    }
    await makeFolder(path.dirname(final));
    w.parts.push({ destination, part, final, target: await openTarget(part) });
  } catch (e) {
    throw faultAt(destination, e);
  }
}

/** Closes and removes the parts of a file that was not finished. A part that was named already is no longer there. */
async function drop(w: Written): Promise<void> {
  for (const p of w.parts) {
    await p.target.close().catch(() => undefined);
    await removeFile(p.part).catch(() => undefined);
  }
}

async function unchanged(source: Source, file: TaskFile): Promise<void> {
  const now = await source.stat();
  if (!now.isFile) throw new Fault('source', CHANGED, 'it is no longer a regular file');
  if (now.size !== file.size || now.modified !== file.modified)
    throw new Fault(
      'source',
      CHANGED,
      'its size or time has changed: it is still being written, or was changed',
    );
}

async function hashOf(
  file: string,
  kinds: readonly HashKind[],
  openSource: OpenSource,
  again: boolean,
  gate: Gate,
  counter?: BigInt64Array,
): Promise<string[]> {
  const source = await openSource(file, again);
  const buffer = borrow((await source.stat()).size, again);
  try {
    const hashes = kinds.map((k) => newHash(k));
    for (let at = 0; ;) {
      const n = await source.read(buffer, at);
      if (n === 0) break;
      gate.check();
      for (const h of hashes) h.update(buffer.subarray(0, n));
      at += n;
      if (counter) Atomics.add(counter, 0, BigInt(n));
    }
    return hashes.map((h) => h.digest());
  } finally {
    await source.close().catch(() => undefined);
    giveBack(buffer);
  }
}

/** Hashes one file by every kind asked for, read from the drive where it can be. What goes wrong comes back with its code: an error passed between threads loses it. */
export async function hash(task: HashTask): Promise<HashOutcome> {
  try {
    return {
      values: await hashOf(
        task.file,
        task.kinds,
        disk.openSource,
        true,
        new Gate(task.gate),
        new BigInt64Array(task.counter),
      ),
    };
  } catch (e) {
    const { code, message } = faultAt('source', e);
    return { code, text: message };
  }
}

/** What lists say of a folder's files: tens of megabytes of XML where a card has very many. An error of ours comes back as what it says. */
export async function expected(task: {
  folder: string;
  list: string | null;
}): Promise<ExpectedFiles | { refused: RefusedList }> {
  try {
    return await expectedFiles(task);
  } catch (e) {
    if (!(e instanceof ShelfError)) throw e;
    return { refused: { gone: e instanceof NotFound, message: e.message, about: e.about } };
  }
}

/** Adds a generation to a folder's lists. */
export const generation = ({ folder, input }: { folder: string; input: ListInput }): Promise<number> =>
  addGeneration(folder, input);

/** Does nothing: asked of each thread so that it has loaded before the first file. */
export const ready = (): void => undefined;
