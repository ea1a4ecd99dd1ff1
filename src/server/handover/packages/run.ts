import { and, asc, count, eq, inArray, isNull, sql, sum } from 'drizzle-orm';
import type { DiskPath } from '../../../core/platform/names';
import { shownPath } from '../../../core/platform/names';
import { plural } from '../../../core/platform/words';
import { isoSeconds, MHL_FOLDER } from '../../../core/hashLists';
import { placeOf } from '../../cards';
import { writeLog } from '../../logbook';
import { listRoots, type Root, rootById } from '../../places';
import { codeOf, messageOf } from '../../platform/errors';
import { inWords, unreadWhy } from '../../platform/files/faults';
import { removeFile } from '../../platform/files/fileSystem';
import { checkUnchanged, modifiedOf } from '../../platform/files/move';
import { joinPath } from '../../platform/files/names';
import { access, constants, freeBytes, mkdir, rm, writeFile } from '../../platform/files/onDisk';
import { type OnVolume, onVolume } from '../../platform/files/onVolume';
import { readAll } from '../../platform/files/plainFile';
import { resolveIn } from '../../platform/files/paths';
import { version } from '../../platform/version';
import { closeGate } from '../../platform/work/context';
import { Halted, type SingleKind, type WorkContext } from '../../platform/work/kinds';
import {
  addGeneration,
  batches,
  CHANGED,
  copyFiles,
  destinationDown,
  DIFFERS,
  type FileOutcome,
  inLanes,
  ListedEntries,
  STOPPED,
  type TaskFile,
} from '../../transfer';
import type { InJob, Ports } from '../ports';
import { packageFiles, packages, sendings } from '../tables';
import { listsOf } from './lists';
import type { PackedFile } from './plan';
import { clipsOfSet } from './sets';
import { HASH, isThere, lastSending, type PackageRow } from './kept';
import { type ImageFile, imageLimits, imageRuns, isImage, makeRun, runAt } from './makeRun';

/** How often a file is tried before it is given up. */
const MAX_TRIES = 3;
/** Milliseconds between two tellings of how far it is, and at least between two times that it is kept. */
const [TELLING, KEEPING] = [500, 500];

/** Where lists stand until they are copied. */
const listsAt = ({ home }: Pick<Ports, 'home'>, id: string): DiskPath => joinPath(home, 'cache', 'lists', id);

/** Handing over, as work of the queue. */
export const handingOver: SingleKind<InJob> = {
  workers: 2,
  afterDeath: 'again',
  shownAs: 'packages',
  run: async (runtime, context) => {
    const [row] = await runtime.db.select().from(packages).where(eq(packages.id, context.subject));
    if (row) await new Sending(runtime, row, context).run();
  },
  async told(db, { subject, state, fault }) {
    const now = new Date();
    // It has recorded its own end already.
    if (state === 'done') return;
    await db
      .update(sendings)
      .set({
        state: state === 'failed' ? 'paused' : state,
        fault,
        ...(state === 'running' ? { startedAt: sql`coalesce(${sendings.startedAt}, ${now})` } : {}),
        ...(state === 'cancelled' ? { endedAt: now } : {}),
      })
      .where(and(eq(sendings.package, subject), isNull(sendings.endedAt)));
  },
  async mayGoOn(runtime, subject) {
    const [row] = await runtime.db.select().from(packages).where(eq(packages.id, subject));
    return row !== undefined && (await isThere(runtime, row));
  },
};

/**
 * One sending of a package while it runs. The database says which files are verified; a file under its final name is whole and proven,
 * whatever happened.
 */
class Sending {
  readonly #counter = new SharedArrayBuffer(8);
  readonly #tries = new Map<number, number>();
  #again: PackedFile[] = [];
  /** Which lists could not be written, and why. */
  #unwritten: string[] = [];
  /** Verified, and not kept yet; and when some were kept last. */
  readonly #verified: { number: number; hash: string; size: number; modified: number }[] = [];
  #keptAt = 0;
  #root!: Root;
  #at!: DiskPath;
  #on!: OnVolume;
  #roots = new Map<string, Root>();
  /** Where the images stand that are copied now, by the numbers of their files. */
  #images: ReadonlyMap<number, DiskPath> = new Map();
  halt: Halted | null = null;

  constructor(
    private readonly runtime: InJob,
    private readonly row: PackageRow,
    private readonly context: WorkContext,
  ) {
    const { signal } = context;
    const heed = () => this.#stop(signal.reason as Halted);
    if (signal.aborted) heed();
    else signal.addEventListener('abort', heed, { once: true });
  }

  #stop(halt: Halted): void {
    this.halt ??= halt;
    closeGate(this.context.gate);
  }

  #endIfHalted(): void {
    if (this.halt) throw this.halt;
  }

  async run(): Promise<void> {
    const { runtime, row } = this;
    const timer = await this.#tellHowFar();
    try {
      await this.#reach();
      const waiting = await this.#waiting();
      await this.#copyAll(waiting.filter((f) => !isImage(f)));
      await this.#sendImages(waiting.filter(isImage));
      this.#endIfHalted();
      // What it contains is listed when it is known.
      await this.#writeLists();
      await this.#copyAll(await this.#waiting());
      this.#endIfHalted();
      await this.#end();
    } catch (e) {
      throw e instanceof Halted ? e : new Halted('paused', messageOf(e));
    } finally {
      clearInterval(timer);
      for (const at of [listsAt(runtime, row.id), runAt(runtime, row.id)])
        await rm(at, { recursive: true, force: true });
      runtime.events.changed('packages', 'log');
    }
  }

  /** Tells the bytes that were read, of all that are to be, until the timer is cleared. */
  async #tellHowFar(): Promise<NodeJS.Timeout> {
    const { number, bytes } = await lastSending(this.runtime, this.row.id);
    const [{ done } = { done: 0 }] = await this.runtime.db
      .select({ done: sum(packageFiles.size).mapWith(Number) })
      .from(packageFiles)
      .where(
        and(
          eq(packageFiles.package, this.row.id),
          eq(packageFiles.sending, number),
          eq(packageFiles.state, 'verified'),
        ),
      );
    const read = new BigInt64Array(this.#counter);
    return setInterval(
      () => this.context.progress(Math.min(bytes, Number(done ?? 0) + Number(Atomics.load(read, 0))), bytes),
      TELLING,
    );
  }

  /** Where it goes, which is made where it is not there. */
  async #reach(): Promise<void> {
    const { runtime, row } = this;
    this.#roots = new Map((await listRoots(runtime)).map((r) => [r.id, r]));
    this.#root = await rootById(runtime, row.root);
    if (!(await isThere(runtime, row)))
      throw new Halted(
        'waiting',
        `${this.#root.name} is not connected. Connect its drive: it goes on by itself.`,
      );
    this.#at = await resolveIn(this.#root, row.folder);
    await access(this.#root.path, constants.W_OK)
      .then(() => mkdir(this.#at))
      .catch((e: unknown) => {
        throw this.#down(codeOf(e), inWords(e));
      });
    this.#on = await onVolume(this.#at);
  }

  /** What is said where the place takes no more. */
  #down(code: string, text: string): Halted {
    return new Halted(
      'paused',
      `${this.#root.name} ${destinationDown(code) ?? `cannot be written to: ${text}`}. Fix that, then go on.`,
    );
  }

  #pulled(): Halted {
    return new Halted(
      'waiting',
      `${this.#root.name} was pulled out. Connect it again: it goes on by itself where it was.`,
    );
  }

  #waiting(): Promise<PackedFile[]> {
    return this.runtime.db
      .select()
      .from(packageFiles)
      .where(and(eq(packageFiles.package, this.row.id), eq(packageFiles.state, 'waiting')))
      .orderBy(asc(packageFiles.number));
  }

  /** Copies files side by side, a batch of one root at a time, and once more what is to be tried again. */
  async #copyAll(files: readonly PackedFile[]): Promise<void> {
    for (let these = files; these.length > 0 && !this.halt; these = this.#again.splice(0)) {
      const byRoot = [...new Set(these.map((f) => f.root))];
      const waiting = byRoot.flatMap((root) => batches(these.filter((f) => f.root === root)));
      const lane = async (): Promise<void> => {
        for (let batch = waiting.shift(); batch && !this.halt; batch = waiting.shift())
          await this.#copyBatch(batch);
      };
      await inLanes(lane, (e) => this.#stop(new Halted('paused', messageOf(e)))).finally(() =>
        this.#keepVerified(),
      );
      this.#endIfHalted();
    }
  }

  /** Makes the images that go, a run at a time, and copies it. A run that cannot be made fails, and the others go on. */
  async #sendImages(images: readonly ImageFile[]): Promise<void> {
    // Half of what is free is left to others.
    const most = Math.min(imageLimits.bytes, (await freeBytes(this.runtime.home)) / 2);
    for (const run of imageRuns(images, most)) {
      this.#endIfHalted();
      const made = await makeRun(this.runtime, this.row, run, this.context.signal).catch(
        async (e: unknown) => {
          if (e instanceof Halted) throw e;
          await this.#failed(run, inWords(e));
          return null;
        },
      );
      if (made === null) continue;
      this.#images = made.at;
      await this.#copyAll(made.files);
    }
  }

  async #copyBatch(batch: readonly PackedFile[]): Promise<void> {
    const { devices } = this.runtime;
    const tasks: TaskFile[] = [];
    for (const f of batch) {
      const from = await this.#sourceOf(f).catch(async (e: unknown) => {
        await this.#failed(f, unreadWhy(e));
        return null;
      });
      if (from !== null)
        tasks.push({
          ...{ number: f.number, from, size: f.size, modified: f.modified },
          to: [joinPath(this.#at, f.place)],
        });
    }
    if (tasks.length === 0) return;
    const outcomes = await copyFiles({
      files: tasks,
      ...{ kind: HASH, verification: 'contents', gate: this.context.gate, counter: this.#counter },
      on: [this.#on],
      reader: devices.readerOf(tasks[0]!.from),
      writer: devices.writerOf(this.#at),
    });
    for (const o of outcomes)
      if (o.state === 'verified')
        this.#verified.push({
          ...{ number: o.number, hash: o.hash },
          ...{ size: o.stood[0]!.size, modified: o.stood[0]!.modified },
        });
    if (performance.now() - this.#keptAt > KEEPING) await this.#keepVerified();
    for (const o of outcomes)
      if (o.state === 'fault')
        await this.#settle(
          batch.find((f) => f.number === o.number)!,
          o,
        );
  }

  async #sourceOf(f: PackedFile): Promise<DiskPath> {
    if (f.what === 'list') return joinPath(listsAt(this.runtime, this.row.id), f.path);
    if (isImage(f)) return this.#images.get(f.number)!;
    const root = this.#roots.get(f.root);
    if (!root) throw new Error('its place was removed');
    return placeOf(root, f);
  }

  /** Keeps what was verified since the last time: what a kill leaves out is found whole at its place, and read again. */
  async #keepVerified(): Promise<void> {
    this.#keptAt = performance.now();
    const rows = this.#verified.splice(0);
    if (rows.length === 0) return;
    // What was written to another volume in its place is not there.
    if (!(await isThere(this.runtime, this.row))) return this.#stop(this.#pulled());
    await this.runtime.db.execute(sql`
      update package_files f set state = 'verified', hash = r.hash, stood_size = r.size, stood_modified = r.modified, fault = null
      from json_to_recordset(${JSON.stringify(rows)}::json) as r(number int, hash text, size bigint, modified bigint)
      where f.package = ${this.row.id} and f.number = r.number`);
  }

  async #failed(of: PackedFile | readonly PackedFile[], fault: string): Promise<void> {
    const numbers = [of].flat().map((f) => f.number);
    await this.runtime.db
      .update(packageFiles)
      .set({ state: 'failed', fault })
      .where(and(eq(packageFiles.package, this.row.id), inArray(packageFiles.number, numbers)));
  }

  /** What becomes of a file that was not copied: it is tried again, is given up, or nothing can go on. */
  async #settle(f: PackedFile, o: FileOutcome & { state: 'fault' }): Promise<void> {
    if (o.code === STOPPED) return;
    const tried = (this.#tries.get(f.number) ?? 0) + 1;
    this.#tries.set(f.number, tried);
    if (o.where === 'source') {
      if (o.code === CHANGED)
        return this.#failed(f, `${shownPath(f.path)}: ${o.text}. Look for changes, then hand it over again.`);
      if (o.code !== 'ENOENT' && tried < MAX_TRIES) this.#again.push(f);
      else
        await this.#failed(
          f,
          o.code === 'ENOENT'
            ? `${shownPath(f.path)} is no longer there. Look for changes, then hand it over again.`
            : `${shownPath(f.path)} cannot be read (${o.code}), tried ${tried} times.`,
        );
      return;
    }
    if (o.code === 'EEXIST') return this.#replace(f, o.text, tried);
    if (o.code === 'ENAMETOOLONG')
      return this.#failed(f, `${this.#root.name} cannot hold a name or path of this length.`);
    if (o.code === 'ENODEV' || !(await isThere(this.runtime, this.row))) return this.#stop(this.#pulled());
    if (destinationDown(o.code) !== null) return this.#stop(this.#down(o.code, o.text));
    if (tried < MAX_TRIES) this.#again.push(f);
    else
      await this.#failed(
        f,
        o.code === DIFFERS
          ? `What ${this.#root.name} gave back was not what was written, ${tried} times: the drive is faulty.`
          : `${this.#root.name}: ${o.text}, tried ${tried} times.`,
      );
  }

  /** Something else is at its place: what an earlier sending brought gives way, where it is still as it was brought; anything else stays. */
  async #replace(f: PackedFile, text: string, tried: number): Promise<void> {
    const at = joinPath(this.#at, f.place);
    const isOurs =
      f.stoodSize !== null &&
      f.stoodModified !== null &&
      tried < MAX_TRIES &&
      (await checkUnchanged(at, { size: f.stoodSize, modified: f.stoodModified }).then(
        () => true,
        () => false,
      ));
    if (!isOurs)
      return this.#failed(
        f,
        f.stoodSize === null
          ? `${shownPath(f.place)}: ${text}. It was left as it is: move it away, then try again.`
          : `${shownPath(f.place)} was changed at its place since it was sent. It was left as it is: move it away, then try again.`,
      );
    await removeFile(at);
    this.#again.push(f);
  }

  /** Writes the lists anew; those that are as they were sent are not sent again. */
  async #writeLists(): Promise<void> {
    const { runtime, row } = this;
    const { db } = runtime;
    const { number } = await lastSending(runtime, row.id);
    const { ids } = await clipsOfSet(runtime, row.wanted.set);
    const files = await db
      .select()
      .from(packageFiles)
      .where(eq(packageFiles.package, row.id))
      .orderBy(asc(packageFiles.number));
    const { lists, faults } = await listsOf(runtime, {
      ...{ name: row.name, wanted: row.wanted, ids, sending: number },
      files: files.filter((f) => f.what !== 'list'),
    });
    this.#unwritten = faults;
    const folder = listsAt(runtime, row.id);
    await mkdir(folder);
    let next = Math.max(0, ...files.map((f) => f.number)) + 1;
    for (const { list, name, body } of lists) {
      const was = files.find((f) => f.what === 'list' && f.place === name);
      const to = joinPath(folder, name);
      await writeFile(to, body);
      const { size, modified } = await modifiedOf(to);
      const stands =
        was?.state === 'verified' &&
        (await readAll(joinPath(this.#at, name), size).catch(() => null))?.equals(Buffer.from(body)) === true;
      if (stands) continue;
      const now = {
        ...{ file: list, path: name, size, modified, state: 'waiting' as const, sending: number },
        ...{ replaces: was?.hash !== null && was !== undefined, fault: null },
      };
      if (was)
        await db
          .update(packageFiles)
          .set(now)
          .where(and(eq(packageFiles.package, row.id), eq(packageFiles.number, was.number)));
      else
        await db.insert(packageFiles).values({
          package: row.id,
          number: next++,
          place: name,
          what: 'list',
          clip: null,
          root: '',
          ...now,
        });
    }
    // A list that is no longer asked for stays at its place, as files do.
    const names = new Set(lists.map((l) => l.name));
    for (const f of files.filter((l) => l.what === 'list' && l.hash !== null && !names.has(l.place)))
      await db
        .update(packageFiles)
        .set({ state: 'left' })
        .where(and(eq(packageFiles.package, row.id), eq(packageFiles.number, f.number)));
  }

  /** Lists the hashes beside the files, and says what came of it. */
  async #end(): Promise<void> {
    const { runtime, row } = this;
    const { db } = runtime;
    const held = await db
      .select()
      .from(packageFiles)
      .where(
        and(
          eq(packageFiles.package, row.id),
          inArray(packageFiles.state, ['verified', 'left']),
          sql`hash is not null`,
        ),
      );
    // What an earlier sending brought was read then, and not since: its hash keeps that date.
    const sent = await db.select().from(sendings).where(eq(sendings.package, row.id));
    const takenAt = new Map(
      sent.map((s) => [s.number, s.endedAt === null ? null : isoSeconds(s.endedAt.getTime())]),
    );
    const listed = new ListedEntries();
    for (const f of held) {
      const before = takenAt.get(f.sending);
      listed.add({
        ...{ path: f.place, size: f.stoodSize!, modified: f.stoodModified!, kind: HASH },
        ...{ value: f.hash!, action: 'original', ...(before ? { takenAt: before } : {}) },
      });
    }
    const faults = [...this.#unwritten];
    await addGeneration(this.#at, {
      ...{ process: 'transfer', kind: HASH, emptyFolders: [], version, entries: listed.pages() },
    }).catch((e: unknown) =>
      faults.push(`Its hash list in ${MHL_FOLDER} could not be written: ${inWords(e)}`),
    );
    const [{ failed } = { failed: 0 }] = await db
      .select({ failed: count() })
      .from(packageFiles)
      .where(and(eq(packageFiles.package, row.id), eq(packageFiles.state, 'failed')));
    if (failed > 0) faults.unshift(`${plural(failed, 'file')} could not be copied.`);
    const { number } = await lastSending(runtime, row.id);
    const now = held.filter((f) => f.sending === number).length;
    const said = [
      `${plural(now, 'file')} verified in ${this.#root.name}/${shownPath(row.folder)}`,
      ...(failed > 0 ? [`${failed} not`] : []),
      ...(held.length > now ? [`${plural(held.length - now, 'file')} sent before`] : []),
    ];
    await writeLog(
      runtime,
      'handover',
      `Handed over ${row.name}${row.wanted.to ? ` to ${row.wanted.to}` : ''}: ${said.join(', ')}`,
    );
    await db
      .update(sendings)
      .set({
        state: faults.length > 0 ? 'partly' : 'done',
        fault: faults.length > 0 ? faults.join(' ') : null,
        endedAt: new Date(),
      })
      .where(and(eq(sendings.package, row.id), eq(sendings.number, number)));
  }
}
