import path from 'node:path';
import { and, eq, ne, sql } from 'drizzle-orm';
import type { MovedPlace, MovePlan } from '../../core/places';
import { sameTime } from '../../core/custody';
import { shownPath } from '../../core/platform/names';
import { formatBytes, plural } from '../../core/platform/words';
import { writeLog } from '../logbook';
import type { Writer } from '../platform/db/transaction';
import { Clash, Interrupted, isCode, Refused, Unreadable } from '../platform/errors';
import { inWords } from '../platform/files/faults';
import { createFile, flushFolder, makeFolder, removeFile, replaceFile } from '../platform/files/fileSystem';
import { OWN_FOLDER } from '../platform/files/journal';
import { joinPath } from '../platform/files/names';
import { LEAST_ROOM, lstat, namesIn, realpath, stat } from '../platform/files/onDisk';
import { type OnVolume, onVolume, requireVolume } from '../platform/files/onVolume';
import { isWithin } from '../platform/files/paths';
import { walk } from '../platform/files/walk';
import type { WorkContext } from '../platform/work/kinds';
import { work } from '../platform/work/tables';
import { batches, copyFiles, inLanes, STOPPED } from '../transfer';
import { isOwn, type Root, rootById } from './list';
import { MARKER, markAt, newMark, setMark } from './marker';
import { isStanding, keepPlace, requireHere, volumeOfRoot } from './mounts';
import type { MovingPorts, Ports } from './ports';
import { folderFor } from './roots';
import { roots } from './tables';

// A place is moved to another folder: on one volume by one renaming, to another by copying. What was copied is read back and has the
// bytes of its source before the place is there; nothing is taken away from where it was.

/** Milliseconds between two looks whether other work has ended. */
const AGAIN = 300;
/** How often a place that goes on changing is looked at again. */
const ROUNDS = 20;

/** A file of the place; its path is below it. */
interface PlaceFile {
  path: string;
  size: number;
  modified: number;
}
/** One that is in the new folder as well, with the hash of what was read of both. */
type Copied = PlaceFile & { hash: string };

interface Way {
  root: Root;
  to: string;
  sameVolume: boolean;
}

/** Says in a folder that a place is being copied into it: what else is in it was begun before. */
const signIn = (to: string, root: string): string => joinPath(to, OWN_FOLDER, `moving-${root}`);

async function wayOf(runtime: Ports, id: string, said: string): Promise<Way> {
  const root = await rootById(runtime, id);
  if (isOwn(root.id))
    throw new Refused(`“${root.name}” is where Sort Shelf keeps its own: it moves with the data folder.`);
  if (root.kind === 'source')
    throw new Refused(`“${root.name}” is only read: Sort Shelf moves nothing out of it.`, {
      next: 'Move the folder yourself, then say here where it is.',
    });
  const to = await folderFor(runtime, said, root.id);
  if (isWithin(to, root.path) || isWithin(root.path, to))
    throw new Refused(`${to} and “${root.name}” lie in one another.`, {
      file: to,
      next: 'Choose a folder outside of it.',
    });
  const [from, target] = await Promise.all([stat(root.path).catch(() => null), stat(to)]);
  const { devices } = runtime;
  const sameVolume =
    from !== null && from.dev === target.dev && devices.volumeIdOf(root.path) === devices.volumeIdOf(to);
  return { root, to, sameVolume };
}

/** Everything in a place but its mark, and what cannot be copied of it, in sentences. */
async function contentsOf(folder: string) {
  const { entries, empty, whole } = await walk(folder);
  const files = entries.filter((e) => e.kind === 'file' && e.fault === undefined && e.path !== MARKER);
  const others = entries.filter((e) => e.kind !== 'file' || e.fault !== undefined);
  const cannot = others
    .slice(0, 20)
    .map(
      (e) => `${shownPath(e.path)}: ${e.fault ?? (e.kind === 'link' ? 'a link' : 'neither file nor folder')}`,
    );
  if (others.length > cannot.length) cannot.push(`and ${others.length - cannot.length} more`);
  if (!whole) cannot.push(`more than ${plural(entries.length, 'file')}: more than can be listed`);
  return { files, empty, cannot };
}

/** Whether an earlier try to move a place to a folder was begun. */
const wasBegun = async (to: string, root: string): Promise<boolean> =>
  (await lstat(signIn(to, root)).catch(() => null)) !== null;

/** Bytes that have to be copied yet. */
async function bytesToCopy(to: string, files: readonly PlaceFile[]): Promise<number> {
  let bytes = 0;
  for (const f of files) {
    const there = await lstat(joinPath(to, f.path)).catch(() => null);
    if (there?.size !== f.size) bytes += f.size;
  }
  return bytes;
}

/** What moving a place to a folder would do. Nothing is changed. */
export async function planMove(runtime: Ports, id: string, said: string): Promise<MovePlan> {
  const { root, to, sameVolume } = await wayOf(runtime, id, said);
  const free = (await runtime.devices.volumeOf(to))?.free ?? 0;
  const refused = (why: string): MovePlan => ({ to, files: 0, bytes: 0, sameVolume, free, against: [why] });
  if (!(await isStanding(runtime, root))) return refused(`“${root.name}” is not here.`);
  const begun = await wasBegun(to, id);
  if (!begun && (await namesIn(to)).length > 0) return refused('The folder is not empty.');
  const { files, cannot } = await contentsOf(root.path);
  const bytes = files.reduce((n, f) => n + f.size, 0);
  const against: string[] = [];
  if (!sameVolume) {
    for (const what of cannot) against.push(`It cannot be copied to another volume: ${what}.`);
    const room = (begun ? await bytesToCopy(to, files) : bytes) + LEAST_ROOM;
    if (free < room) against.push(`It takes ${formatBytes(room)}; ${formatBytes(free)} are free there.`);
  }
  return { to, files: files.length, bytes, sameVolume, free, against };
}

/**
 * Moves a place to an empty folder. On its volume the folder is renamed. On another one its files are copied, read back and compared; then
 * the place is there, and the folder it was in is left as it is. Other work that runs is waited for before the place is put there. Where
 * it fails or is stopped the place is where it was; the same again goes on with what was copied.
 */
export async function movePlace(
  runtime: MovingPorts,
  id: string,
  said: string,
  task: WorkContext,
): Promise<MovedPlace> {
  const before = await rootById(runtime, id);
  try {
    return (
      (task.attempt > 1 && (await movedBefore(runtime, before, said))) ||
      (await moveTo(runtime, before, said, task))
    );
  } catch (e) {
    // Who asked for it may have closed the page.
    await sayIn(runtime, `The place “${before.name}” was not moved to ${said}: ${inWords(e)}`);
    throw e;
  }
}

async function moveTo(
  runtime: MovingPorts,
  root: Root,
  said: string,
  task: WorkContext,
): Promise<MovedPlace> {
  const { to, sameVolume, against } = await planMove(runtime, root.id, said);
  if (against.length > 0)
    throw new Refused(`“${root.name}” cannot be moved to ${to}. ${against.join(' ')}`, {
      file: to,
      next: 'It is where it was. Choose another folder, or mend that.',
    });
  const way = { root, to, sameVolume };
  await (sameVolume ? renameIt(runtime, way, task) : copyIt(runtime, way, task));
  return told(runtime, root, { to, left: sameVolume ? null : root.path });
}

/** What a server that died had done: the place is noted there already, or its folder was renamed and that was not noted yet. */
async function movedBefore(runtime: MovingPorts, root: Root, said: string): Promise<MovedPlace | null> {
  const moved = { to: await realpath(said), left: null };
  if (root.path === moved.to) return moved;
  if (!(await wasRenamed(runtime, root, moved.to))) return null;
  await runtime.db.transaction(async (tx) => {
    await standAt(runtime, tx, root, moved.to, root.mark);
    // It is known by its mark alone, which a copy carries as well.
    await runtime.distrustCopies(root.id, runtime.devices.volumeIdOf(moved.to), tx);
  });
  return told(runtime, root, moved);
}

/** Whether a place's folder has gone, and its mark is where it was to go, on its volume. */
const wasRenamed = async (runtime: Ports, root: Root, to: string): Promise<boolean> =>
  root.mark !== null &&
  !(await isStanding(runtime, root)) &&
  (await markAt(to)) === root.mark &&
  (root.volume === null || runtime.devices.volumeIdOf(to) === root.volume);

const sayIn = (runtime: Ports, text: string): Promise<void> =>
  writeLog({ db: runtime.db, who: runtime.who, job: null }, 'root', text).then(() =>
    runtime.events.changed('log'),
  );

async function told(runtime: MovingPorts, root: Root, moved: MovedPlace): Promise<MovedPlace> {
  await sayIn(
    runtime,
    `Moved the place “${root.name}” from ${root.path} to ${moved.to}` +
      (moved.left === null ? '' : `; the folder it was in is left as it is`),
  );
  runtime.events.changed('job', 'places', 'cards', 'copies', 'clips');
  await runtime.keepNow();
  return moved;
}

const standAt = async (
  runtime: Ports,
  tx: Writer,
  root: Root,
  to: string,
  mark: string | null,
): Promise<void> => {
  await tx
    .update(roots)
    .set({ ...volumeOfRoot(runtime, to), path: to, mark })
    .where(eq(roots.id, root.id));
  await keepPlace(tx, root.id, to);
};

/**
 * Does `last` at a moment at which no other work runs, and none begins: a piece that runs has found its way by where the place was. Resolves
 * with what `last` does. What runs may have to wait for its turn to move footage, so the turn is not kept while it is waited for.
 */
async function whenNothingRuns<T>(
  runtime: MovingPorts,
  task: WorkContext,
  last: (tx: Writer) => Promise<T>,
): Promise<T> {
  for (;;) {
    const done = await runtime.exclusively(() =>
      runtime.db.transaction(async (tx) => {
        // Whoever begins a piece changes its row.
        await tx.execute(sql`lock table ${work} in share row exclusive mode`);
        const others = await tx.$count(work, and(eq(work.state, 'running'), ne(work.id, task.id)));
        return others > 0 ? null : { result: await last(tx) };
      }),
    );
    if (done) return done.result;
    if (task.stopped()) throw stopped();
    await new Promise((r) => setTimeout(r, AGAIN));
  }
}

const stopped = (): Interrupted =>
  new Interrupted('The moving was stopped: the place is where it was.', {
    next: 'Move it to the same folder again: it goes on with what was copied.',
  });

const renameIt = (runtime: MovingPorts, { root, to }: Way, task: WorkContext): Promise<void> =>
  whenNothingRuns(runtime, task, async (tx) => {
    await standAt(runtime, tx, root, to, root.mark);
    // A folder that came to hold something is not replaced: the system refuses that.
    await replaceFile(root.path, to).catch((e: unknown) => {
      throw isCode(e, 'ENOTEMPTY', 'EEXIST', 'EBUSY', 'EXDEV')
        ? new Clash(`${to} is in use by now.`, { file: to, next: 'Choose another empty folder.' })
        : e;
    });
    await flushFolder(path.dirname(to));
    await flushFolder(path.dirname(root.path));
  });

async function copyIt(runtime: MovingPorts, way: Way, task: WorkContext): Promise<void> {
  const { root, to } = way;
  // Of a place that is taken away nothing is left to be copied, and all would seem to be.
  const from = await requireHere(runtime, root);
  await makeFolder(joinPath(to, OWN_FOLDER));
  const sign = signIn(to, root.id);
  if (!(await lstat(sign).catch(() => null))) createFile(sign).close();
  await flushFolder(path.dirname(sign));
  const on = await onVolume(to);
  const copying = new Copying(way, on, task);
  for (let round = 0; ; round++) {
    await copying.round();
    const there = await whenNothingRuns(runtime, task, async (tx) => {
      if (!(await copying.settle())) return false;
      for (const volume of [from, on]) await requireVolume(volume);
      const mark = newMark();
      const marked = await setMark(to, mark);
      await standAt(runtime, tx, root, to, marked ? mark : null);
      // They have the bytes that were there a moment ago, and whether those were right nobody has looked.
      await runtime.distrustCopies(root.id, runtime.devices.volumeIdOf(to), tx);
      return true;
    });
    if (there) break;
    if (round === ROUNDS)
      throw new Clash(`“${root.name}” goes on changing while it is copied: it is where it was.`, {
        file: root.path,
        next: 'End what writes in it, then move it to the same folder again.',
      });
  }
  await removeFile(sign).catch(() => undefined);
}

/** The copying of a place to another volume, until both hold the same. */
class Copying {
  readonly #copied = new Map<string, Copied>();
  #bytes = 0;

  constructor(
    private readonly way: Way,
    private readonly on: OnVolume,
    private readonly task: WorkContext,
  ) {}

  /** Copies what is not there yet as it is now. */
  async round(): Promise<void> {
    const { root, to } = this.way;
    const { files, empty, cannot } = await contentsOf(root.path);
    if (cannot.length > 0)
      throw new Refused(`“${root.name}” cannot be copied whole: ${cannot.join('; ')}.`, {
        file: root.path,
        next: 'It is where it was.',
      });
    for (const folder of empty) await makeFolder(joinPath(to, folder));
    const total = files.reduce((n, f) => n + f.size, 0);
    const open = batches(files.filter((f) => this.#isMissing(f)));
    let fault: unknown;
    await inLanes(
      async () => {
        for (let some = open.shift(); some && fault === undefined; some = open.shift()) {
          await this.#copy(some);
          this.task.progress(this.#bytes, Math.max(1, total));
        }
      },
      (e) => {
        fault = e;
      },
    );
  }

  #isMissing(f: PlaceFile): boolean {
    const known = this.#copied.get(f.path);
    return known?.size !== f.size || !sameTime(known.modified, f.modified);
  }

  /**
   * Whether all of the place was copied as it is now. Then copies of files that have got another name since, and were copied under that as
   * well, are removed.
   */
  async settle(): Promise<boolean> {
    const { files, cannot } = await contentsOf(this.way.root.path);
    // What Sort Shelf keeps there for itself it writes anew.
    const behind = (f: PlaceFile) => !f.path.startsWith(`${OWN_FOLDER}/`) && this.#isMissing(f);
    if (cannot.length > 0 || files.some(behind)) return false;
    const now = new Set(files.map((f) => f.path));
    const copied = [...this.#copied.values()];
    const held = new Set(copied.filter((c) => now.has(c.path)).map((c) => c.hash));
    for (const c of copied) if (!now.has(c.path) && held.has(c.hash)) await this.#dropOurs(c.path);
    return true;
  }

  /** What is there already from an earlier try is compared by the copying itself, and counts where it has the same bytes. */
  async #copy(files: readonly PlaceFile[]): Promise<void> {
    const { root, to } = this.way;
    for (const f of files) await this.#dropOurs(f.path);
    const outcomes = await copyFiles({
      files: files.map((f, number) => ({
        ...f,
        number,
        from: joinPath(root.path, f.path),
        to: [joinPath(to, f.path)],
      })),
      on: [this.on],
      kind: 'xxh128',
      verification: 'contents',
      reader: null,
      writer: null,
      gate: this.task.gate,
      counter: new SharedArrayBuffer(8),
    });
    for (const o of outcomes) {
      const f = files[o.number]!;
      if (o.state === 'verified') this.#keep({ ...f, hash: o.hash });
      else if (o.code === STOPPED) throw stopped();
      // Changed or gone while it was read: the next round finds it as it is then.
      else if (o.where === 'source' && (await this.#changed(f))) continue;
      else if (o.code === 'EEXIST')
        throw new Clash(`${shownPath(f.path)} is in the folder already, and is another file.`, {
          file: joinPath(to, f.path),
          next: 'Move it away, then move the place to the same folder again.',
        });
      else
        throw new Unreadable(`${shownPath(f.path)}: ${o.text}.`, {
          file: joinPath(o.where === 'source' ? root.path : to, f.path),
          next: 'The place is where it was. Mend that, then move it to the same folder again: it goes on with what was copied.',
        });
    }
  }

  async #changed({ path: at, size, modified }: PlaceFile): Promise<boolean> {
    const now = await lstat(joinPath(this.way.root.path, at)).catch(() => null);
    return now === null || now.size !== size || !sameTime(now.mtimeMs, modified);
  }

  /** Removes what was copied under a path, where it is still that. */
  async #dropOurs(below: string): Promise<void> {
    const ours = this.#copied.get(below);
    if (!ours) return;
    const at = joinPath(this.way.to, below);
    const now = await lstat(at).catch(() => null);
    if (!now?.isFile() || now.size !== ours.size || !sameTime(now.mtimeMs, ours.modified)) return;
    await removeFile(at);
    this.#copied.delete(below);
    this.#bytes -= ours.size;
  }

  #keep(file: Copied): void {
    this.#copied.set(file.path, file);
    this.#bytes += file.size;
  }
}
