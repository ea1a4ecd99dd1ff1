import { and, eq, inArray, sql } from 'drizzle-orm';
import path from 'node:path';
import { type DiskPath, shownPath } from '../../core/platform/names';
import { placeKey, type StepKind, undoSteps } from '../../core/naming/plan';
import type { PlanResult, PlanState, StepState } from '../../core/naming/shapes';
import { standElsewhere, standsAt } from '../cards';
import { files } from '../cards/tables';
import { inWords } from '../platform/files/faults';
import { flushFolder, replaceFile } from '../platform/files/fileSystem';
import { Journal } from '../platform/files/journal';
import { type Move, moveFiles, pruneEmpty } from '../platform/files/move';
import { joinPath } from '../platform/files/names';
import { lstat, namesIn } from '../platform/files/onDisk';
import { resolveIn } from '../platform/files/paths';
import { isSameName } from '../platform/files/plainFile';
import type { TaskContext } from '../platform/work/context';
import { STOPPED } from '../transfer';
import { doStep, type Roots, rootsNow, settleFault } from './doStep';
import { type StepRow, stepsOf, toStep } from './planStore';
import type { InJob } from './ports';
import { foldersToKeep } from './skeleton';
import { plans, steps } from './tables';

/** No more moves are done at once: what a kill leaves to be asked of the disk stays small. */
const BATCH = 50;

/** Whether the file stays where it was as well. */
export const stays = (kind: StepKind): boolean => kind === 'copy' || kind === 'link';

const fromOf = (s: StepRow) => ({ root: s.fromRoot, path: s.fromPath });
const toOf = (s: StepRow) => ({ root: s.toRoot, path: s.toPath });

/**
 * Does the waiting steps of a plan in order. A family of which a step fails goes back whole; the others go on. Stopped, it begins no other
 * family, and those under way go back.
 */
export async function execute(runtime: InJob, planId: string, task: TaskContext): Promise<PlanResult> {
  return new Execution(runtime, planId, task).run();
}

class Execution {
  readonly #runtime: InJob;
  readonly #plan: string;
  readonly #task: TaskContext;
  #all: StepRow[] = [];
  #ofClip = new Map<string, StepRow[]>();
  #roots: Roots = new Map();
  #journal!: Journal;
  /** Why the clips' families stay where they are. */
  readonly #failed = new Map<string, string>();
  readonly #faults: PlanResult['failed'] = [];
  #done = 0;
  #told = 0;
  readonly #begun = performance.now();

  constructor(runtime: InJob, planId: string, task: TaskContext) {
    this.#runtime = runtime;
    this.#plan = planId;
    this.#task = task;
  }

  async run(): Promise<PlanResult> {
    this.#all = await stepsOf(this.#runtime, this.#plan);
    this.#roots = await rootsNow(this.#runtime, this.#all);
    for (const s of this.#all) {
      const list = this.#ofClip.get(s.clip);
      if (list) list.push(s);
      else this.#ofClip.set(s.clip, [s]);
    }
    for (const s of this.#all) if (s.state === 'failed') this.#tell(s, s.fault ?? '');
    this.#done = this.#all.filter((s) => s.state === 'done').length;
    this.#journal = new Journal(this.#roots.get('shelf')!.path);
    try {
      // A server that died between a step that failed and the way back left a family split.
      for (const clip of [...this.#failed.keys()]) await this.#goBack(clip);
      for (let at = 0; at < this.#all.length;) at = await this.#next(at);
      // A folder that cannot be listed or renamed keeps its letters: the files in it are where they were to go.
      await this.#spellFolders().catch(() => undefined);
      await this.#prune();
    } finally {
      this.#journal.write({ plan: this.#plan, ended: true }, true);
      this.#journal.close();
    }
    const state: PlanState = this.#faults.length > 0 ? 'partly' : 'done';
    await this.#runtime.db.update(plans).set({ state, endedAt: new Date() }).where(eq(plans.id, this.#plan));
    this.#said(this.#all.length);
    this.#runtime.events.changed('clips', 'cards', 'log');
    const done = this.#all.filter((s) => s.state === 'done').length;
    return { planId: this.#plan, state, done, failed: this.#faults };
  }

  /** Says of a family once what is in its way. */
  #tell(s: StepRow, fault: string): void {
    if (this.#failed.has(s.clip)) return;
    this.#failed.set(s.clip, `its family stayed together: ${fault}`);
    this.#faults.push({ file: shownPath(s.fromPath), fault });
  }

  /** Does the next step, or several moves at once; returns where to go on. */
  async #next(at: number): Promise<number> {
    const s = this.#all[at]!;
    if (s.state !== 'waiting') return at + 1;
    const given = this.#failed.get(s.clip);
    if (given !== undefined) {
      await this.#set([s], 'failed', given);
      return at + 1;
    }
    if (this.#task.stopped()) {
      await this.#fail([s], 'stopped by the user');
      // What of its family was done already goes back with it.
      await this.#goBack(s.clip);
      return at + 1;
    }
    const batch = s.kind === 'move' ? this.#movesFrom(at) : [s];
    await this.#set(batch, 'doing');
    if (batch.length > 1) await this.#moveAll(batch);
    else
      await doStep(this.#roots, toStep(s), this.#task.gate).then(
        () => this.#set([s], 'done'),
        (e: unknown) =>
          this.#fail([s], (e as { code?: string }).code === STOPPED ? 'stopped by the user' : inWords(e)),
      );
    for (const clip of new Set(batch.map((b) => b.clip)))
      if (this.#failed.has(clip)) await this.#goBack(clip);
    this.#done = this.#done + batch.filter((b) => b.state === 'done').length;
    if (performance.now() - this.#told > 300) this.#said(this.#done);
    return at + batch.length;
  }

  /** Waiting moves from a step on, none of which waits for another of them to have left its place. */
  #movesFrom(at: number): StepRow[] {
    const batch: StepRow[] = [];
    const places = new Set<string>();
    for (const s of this.#all.slice(at, at + BATCH)) {
      const [from, to] = [placeKey(fromOf(s)), placeKey(toOf(s))];
      if (s.kind !== 'move' || s.state !== 'waiting' || this.#failed.has(s.clip)) break;
      if (places.has(from) || places.has(to)) break;
      places.add(from).add(to);
      batch.push(s);
    }
    return batch;
  }

  async #moveAll(batch: readonly StepRow[]): Promise<void> {
    /** Folders are resolved once: of the names in them, the move itself tells whether they are links. */
    const folders = new Map<string, Promise<string>>();
    const placeOf = async (place: { root: string; path: string }): Promise<string> => {
      const { dir, base } = path.posix.parse(place.path);
      const key = `${place.root}\0${dir}`;
      const root = this.#roots.get(place.root);
      if (!root) throw new Error('the place of this step no longer exists');
      if (!folders.has(key)) folders.set(key, resolveIn(root, dir));
      return joinPath(await folders.get(key)!, base);
    };
    const moves: Move[] = [];
    const rows: StepRow[] = [];
    const lost: [StepRow, unknown][] = [];
    for (const s of batch) {
      try {
        moves.push({
          from: await placeOf(fromOf(s)),
          to: await placeOf(toOf(s)),
          size: s.size,
          modified: s.modified,
        });
        rows.push(s);
      } catch (e) {
        lost.push([s, e]);
      }
    }
    // A folder that cannot be flushed is a fault of all: how far each came, the disk says.
    const ofAll = await moveFiles(moves).then(
      () => undefined,
      (e: unknown) => e,
    );
    const done: StepRow[] = [];
    for (const [i, s] of rows.entries()) {
      const fault = moves[i]!.fault ?? ofAll;
      try {
        if (fault !== undefined) await settleFault(this.#roots, toStep(s), fault);
        done.push(s);
      } catch (e) {
        lost.push([s, e]);
      }
    }
    await this.#set(done, 'done');
    for (const [s, e] of lost) await this.#fail([s], inWords(e));
  }

  async #fail(list: readonly StepRow[], fault: string): Promise<void> {
    for (const s of list) this.#tell(s, fault);
    await this.#set(list, 'failed', fault);
  }

  /** Takes back what was done of a family, the last first. */
  async #goBack(clip: string): Promise<void> {
    for (const s of this.#ofClip
      .get(clip)!
      .filter((b) => b.state === 'done')
      .reverse()) {
      await this.#set([s], 'doing');
      const [back] = undoSteps([toStep(s)]);
      const fault = await doStep(this.#roots, back!).then(() => null, inWords);
      await this.#set([s], fault === null ? 'reverted' : 'done', fault);
      this.#done--;
      if (fault !== null)
        this.#faults.push({ file: shownPath(s.toPath), fault: `could not go back: ${fault}` });
    }
  }

  /** Notes a state, beside the footage and in the database, and with it where the files are. */
  async #set(list: readonly StepRow[], state: StepState, fault: string | null = null): Promise<void> {
    if (list.length === 0) return;
    const { db } = this.#runtime;
    for (const s of list) {
      s.state = state;
      this.#journal.write({ plan: this.#plan, step: s.number, state, ...(fault ? { fault } : {}) });
    }
    await db.transaction(async (tx) => {
      await tx
        .update(steps)
        .set({ state, fault })
        .where(
          and(
            eq(steps.plan, this.#plan),
            inArray(
              steps.number,
              list.map((s) => s.number),
            ),
          ),
        );
      const led = state === 'done' && fault === null ? toOf : state === 'reverted' ? fromOf : null;
      if (!led) return;
      const [staying, moved] = [list.filter((s) => stays(s.kind)), list.filter((s) => !stays(s.kind))];
      for (const s of staying) await standsAt(tx, s.file, led(s), state === 'done');
      await standElsewhere(
        tx,
        moved.map((s) => ({ id: s.file, ...led(s) })),
      );
    });
  }

  #said(done: number): void {
    this.#told = performance.now();
    this.#task.progress(done, this.#all.length);
    this.#runtime.events.send({
      type: 'running',
      job: this.#runtime.job,
      title: 'Renaming',
      done,
      total: this.#all.length,
      left: (((this.#told - this.#begun) / 1000) * (this.#all.length - done)) / Math.max(1, done),
    });
  }

  /**
   * Spells folders as the plan does: on a volume that ignores case, one that was there in other letters is where the files went. It keeps its
   * letters where files that are known, or a watched folder, are still told by them.
   */
  async #spellFolders(): Promise<void> {
    const led = this.#all.filter((s) => s.state === 'done');
    const folders = new Set(led.map((s) => `${s.toRoot}\0${path.posix.dirname(s.toPath)}`));
    /** Names that the plan has in each folder: those above are spelled before those in them, and each folder is listed once. */
    const wanted = new Map<string, Set<string>>();
    for (const key of [...folders].sort()) {
      const [root, folder] = key.split('\0') as [string, string];
      const parts = folder === '.' ? [] : folder.split('/');
      for (const [i, name] of parts.entries()) {
        const above = `${root}\0${parts.slice(0, i).join('/')}`;
        wanted.set(above, (wanted.get(above) ?? new Set<string>()).add(name));
      }
    }
    for (const [key, names] of wanted) {
      const [root, above] = key.split('\0') as [string, string];
      const parent = await resolveIn(this.#roots.get(root)!, above);
      const there = new Set(await namesIn(parent));
      for (const name of names)
        if (!there.has(name)) await this.#spell({ root, above, name }, parent, [...there]);
    }
  }

  /** Spells one folder, which is there in other letters. Where case counts it is no longer there, and what is in other letters is somebody's. */
  async #spell(
    { root, above, name }: { root: string; above: string; name: string },
    parent: DiskPath,
    there: readonly DiskPath[],
  ): Promise<void> {
    const other = there.find((n) => isSameName(n, name));
    if (other === undefined || (await lstat(joinPath(parent, name)).catch(() => null)) === null) return;
    if (await this.#isToldBy(root, above === '' ? other : `${above}/${other}`)) return;
    await replaceFile(joinPath(parent, other), joinPath(parent, name));
    await flushFolder(parent);
  }

  /** Whether files of any job, or folders that are to stay, are known by this spelling of a folder. */
  async #isToldBy(root: string, folder: string): Promise<boolean> {
    const { db } = this.#runtime;
    const below = and(eq(files.root, root), sql`starts_with(${files.path}, ${`${folder}/`})`);
    return (
      (await db.$count(files, below)) > 0 ||
      (await foldersToKeep(this.#runtime)).some(
        (k) => k.root === root && (k.path === folder || k.path.startsWith(`${folder}/`)),
      )
    );
  }

  /** Folders that the plan emptied go; folders that hold anything, are watched, or are further folders of the job stay. */
  async #prune(): Promise<void> {
    const left = new Set(
      this.#all
        .filter((s) => s.state === 'done' && !stays(s.kind))
        .map((s) => `${s.fromRoot}\0${path.posix.dirname(s.fromPath)}`),
    );
    const keep = left.size > 0 ? await foldersToKeep(this.#runtime) : [];
    for (const key of left) {
      const [root, folder] = key.split('\0') as [string, string];
      if (folder === '.') continue;
      const place = this.#roots.get(root)!;
      const top = await resolveIn(place, '');
      const kept = new Set(keep.filter((k) => k.root === root).map((k) => joinPath(top, k.path)));
      await pruneEmpty(await resolveIn(place, folder), top, kept);
    }
  }
}
