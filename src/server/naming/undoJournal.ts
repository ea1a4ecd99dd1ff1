import { randomUUID } from 'node:crypto';
import path from 'node:path';
import pMap from 'p-map';
import { sameTime } from '../../core/custody';
import {
  type JournalChange,
  journalPlaces,
  type JournalPlace,
  type JournalPlan,
  type JournalUndone,
  type JournalWay,
  journalWays,
  stepsBack,
} from '../../core/naming/journal';
import { type Place, placeKey, type Step, undoSteps } from '../../core/naming/plan';
import type { StepState } from '../../core/naming/shapes';
import { type DiskPath, shownPath } from '../../core/platform/names';
import { plural } from '../../core/platform/words';
import { files } from '../cards/tables';
import { jobs } from '../jobs/tables';
import { writeLog } from '../logbook';
import { isMovable, listRoots } from '../places';
import { among } from '../platform/db/among';
import { Refused } from '../platform/errors';
import { inWords } from '../platform/files/faults';
import { Journal } from '../platform/files/journal';
import { areOneFile, isOfSample, pruneEmpty } from '../platform/files/move';
import { joinPath } from '../platform/files/names';
import { lstat, namesIn } from '../platform/files/onDisk';
import { resolveIn } from '../platform/files/paths';
import { inJob } from '../services';
import { doStep, type Roots, rootsNow, settle } from './doStep';
import { intentOf, journalPlans } from './journal';
import type { Ports } from './ports';
import { foldersToKeep } from './skeleton';
import { plans } from './tables';

/** Files that are looked at on the disk at once. */
const CONCURRENCY = 8;
/** How many files that go back, and that stay, are named of a change. */
const [EXAMPLES, STAYING] = [3, 20];

const ALIKE = 'another file of the same size and time was where it was: which is which cannot be told';
const GONE = 'it was renamed, changed or taken away since';
const RENAMED = 'it was renamed again later: undo that first';
const OF_A_JOB = 'it is a clip of a job here: rename it there';

/** Where a file of a plan is: at a place from which it can go back, back already, or neither, with the reason. */
type Stand = { at: Place } | 'back' | Stays;
interface Stays {
  why: string;
  /** Whether it may go back once its place is here. */
  later?: true;
}

/** The files of a clip that a plan led away: they go back together or not at all. */
interface Family {
  ways: { way: JournalWay; stand: Stand }[];
  state: 'open' | 'back' | 'stays';
}

/** Plans that the database does not know, as those of one that was lost, by the roots that there are now. */
async function unknownPlans(runtime: Ports): Promise<JournalPlan[]> {
  const known = new Set((await runtime.db.select({ id: plans.id }).from(plans)).map((p) => p.id));
  const roots = await listRoots(runtime);
  const ids = new Set(roots.map((r) => r.id));
  const byPath = new Map(roots.map((r) => [r.path, r.id]));
  const told = await journalPlans(
    roots.find((r) => r.id === 'shelf')!,
    (plan) => !known.has(plan),
  );
  return told.map(({ plan }) => {
    // A folder that was a place of the lost database is another place of this one, at the same path.
    const other = new Map(
      plan.roots.filter((r) => !ids.has(r.id)).map((r) => [r.id, byPath.get(r.path) ?? r.id]),
    );
    const place = (p: Place): Place => ({ ...p, root: other.get(p.root) ?? p.root });
    return { ...plan, steps: plan.steps.map((s) => ({ ...s, from: place(s.from), to: place(s.to) })) };
  });
}

/** The families of plans, as they stand on the disk now. */
class Families {
  readonly #told: readonly JournalPlan[];
  readonly #roots: Roots;
  /** Places at which the database knows files. */
  readonly #known: ReadonlySet<string>;
  /** Where the journal says that roots were. */
  readonly #were: ReadonlyMap<string, string>;
  /** Where files are, or what keeps that from being told. */
  readonly #at = new Map<string, readonly Place[] | Stays>();
  /** The names in folders that were listed. */
  readonly #listed = new Map<string, Promise<ReadonlySet<string>>>();

  private constructor(told: readonly JournalPlan[], roots: Roots, known: ReadonlySet<string>) {
    this.#told = told;
    this.#roots = roots;
    this.#known = known;
    this.#were = new Map(told.flatMap((p) => p.roots.map((r) => [r.id, r.path])));
  }

  static async of(runtime: Ports, told: readonly JournalPlan[], roots: Roots): Promise<Families> {
    const paths = [...new Set(told.flatMap((p) => p.steps.map((s) => s.to.path)))];
    const rows = await runtime.db
      .select({ root: files.root, path: files.path })
      .from(files)
      .where(among(files.path, paths));
    const families = new Families(told, roots, new Set(rows.map(placeKey)));
    await families.#find();
    return families;
  }

  /** Looks for all files. Where two would be one, as they are equally large and old, neither is found. */
  async #find(): Promise<void> {
    const claims = new Map<string, string[]>();
    await pMap(
      journalPlaces(this.#told),
      async ([file, places]) => {
        const at = await this.#look(places);
        this.#at.set(file, at);
        if (!isFound(at)) return;
        for (const key of new Set(at.map(placeKey))) claims.set(key, [...(claims.get(key) ?? []), file]);
      },
      { concurrency: CONCURRENCY },
    );
    for (const same of claims.values())
      if (same.length > 1) for (const file of same) this.#at.set(file, { why: ALIKE });
  }

  /** The places where a file is: more than one where a move of it was cut off, in which it has both names. */
  async #look(places: readonly JournalPlace[]): Promise<Place[] | Stays> {
    for (const { root } of places.map((p) => p.at)) {
      const stays = this.#staysIn(root);
      if (stays) return stays;
    }
    const found: { at: Place; file: DiskPath }[] = [];
    for (const place of places) {
      // Where only letters or Unicode form of its name were changed, a volume that ignores them finds it under both, and some say so still
      // when it was renamed.
      const key = placeKey(place.at);
      const hasOther = places.some(({ at }) => placeKey(at) === key && at.path !== place.at.path);
      if (hasOther && !(await this.#isSpelled(place.at))) continue;
      const file = await this.#fileAt(place);
      if (file === null) continue;
      if (found.length === 0 || (await areOneFile(found[0]!.file, file))) found.push({ at: place.at, file });
    }
    return found.length > 0 ? found.map((f) => f.at) : { why: GONE };
  }

  /** What keeps files from being moved in a root; null where nothing does. */
  #staysIn(id: string): Stays | null {
    const root = this.#roots.get(id);
    const was = this.#were.get(id);
    if (!root)
      return {
        why: `${was ? shownPath(was) : 'its folder'} is not among the places: add it first`,
        later: true,
      };
    if (!isMovable(root.kind)) return { why: `nothing is renamed in “${root.name}”` };
    return root.on ? null : { why: `“${root.name}” is offline`, later: true };
  }

  /** Whether something has the name of a place in just these letters. */
  async #isSpelled({ root, path: at }: Place): Promise<boolean> {
    const { dir, base } = path.posix.parse(at);
    const key = `${root}\0${dir}`;
    const listed =
      this.#listed.get(key) ??
      resolveIn(this.#roots.get(root)!, dir)
        .then(namesIn)
        .then((names) => new Set<string>(names))
        .catch(() => new Set<string>());
    this.#listed.set(key, listed);
    return (await listed).has(base);
  }

  /** The file at a place; null where there is none that is so large and so old, and holds what was fingerprinted. */
  async #fileAt({ at, size, modified, sample }: JournalPlace): Promise<DiskPath | null> {
    const file = await resolveIn(this.#roots.get(at.root)!, at.path).catch(() => null);
    const now = file === null ? null : await lstat(file).catch(() => null);
    const isAsOld = now?.isFile() && now.size === size && sameTime(Math.round(now.mtimeMs), modified);
    return isAsOld && (await isOfSample(file!, { size, modified, sample }).catch(() => false)) ? file : null;
  }

  ofPlan(plan: string): Family[] {
    const out = new Map<string, Family>();
    for (const way of journalWays(this.#told, plan)) {
      const family = out.get(way.clip) ?? { ways: [], state: 'back' };
      const stand = this.#stand(way);
      family.ways.push({ way, stand });
      if (isStaying(stand)) family.state = 'stays';
      else if (stand !== 'back' && family.state === 'back') family.state = 'open';
      out.set(way.clip, family);
    }
    return [...out.values()];
  }

  #stand({ file, step, led, before }: JournalWay): Stand {
    const found = this.#at.get(file)!;
    if (!isFound(found)) return found;
    const at = found.find((p) => led.has(placeKey(p)) && !isSamePlace(p, step.from));
    if (at) return this.#known.has(placeKey(at)) ? { why: OF_A_JOB } : { at };
    return found.some((p) => before.has(placeKey(p))) ? 'back' : { why: RENAMED };
  }
}

const isFound = (found: readonly Place[] | Stays): found is readonly Place[] => Array.isArray(found);
const isSamePlace = (a: Place, b: Place): boolean => a.root === b.root && a.path === b.path;
const isStaying = (stand: Stand): stand is Stays => typeof stand === 'object' && 'why' in stand;
const isOfOneThatStays = (w: { way: JournalWay; stand: Stand }): w is { way: JournalWay; stand: Stays } =>
  isStaying(w.stand);
const isOpen = (stand: Stand): stand is { at: Place } => typeof stand === 'object' && 'at' in stand;

const rootsOf = (runtime: Ports, told: readonly JournalPlan[]): Promise<Roots> =>
  rootsNow(
    runtime,
    told.flatMap((p) => p.steps.map((s) => ({ fromRoot: s.from.root, toRoot: s.to.root }))),
  );

/** The changes of names that only the journal knows and of which something can be taken back, now or once a place is here; the newest first. */
export async function journalChanges(runtime: Ports): Promise<JournalChange[]> {
  const told = await unknownPlans(runtime);
  const families = await Families.of(runtime, told, await rootsOf(runtime, told));
  const out: JournalChange[] = [];
  for (const { plan, at } of told.filter((p) => p.kind === 'name').toReversed()) {
    const all = families.ofPlan(plan);
    const open = all.filter((f) => f.state === 'open');
    const staying = all.filter((f) => f.state === 'stays').map((f) => f.ways.find(isOfOneThatStays)!);
    if (open.length === 0 && !staying.some(({ stand }) => stand.later)) continue;
    out.push({
      plan,
      at,
      clips: all.length,
      open: open.length,
      back: all.filter((f) => f.state === 'back').length,
      examples: open.slice(0, EXAMPLES).map(({ ways }) => {
        const { step } = ways.map((w) => w.way).reduce((a, b) => (b.step.size > a.step.size ? b : a));
        return { from: shownPath(step.to.path), to: shownPath(step.from.path) };
      }),
      staying: staying.slice(0, STAYING).map(({ way, stand }) => ({
        file: shownPath(way.step.to.path),
        why: stand.why,
      })),
    });
  }
  return out;
}

/**
 * Takes back what a plan did that only the journal knows: of each clip all files, or none. Only files that are as the plan left them go, and none
 * that a job here knows. It may be interrupted at any point and be done again.
 */
export function undoFromJournal(runtime: Ports, plan: string): Promise<JournalUndone> {
  return runtime.exclusively(async () => {
    const told = await unknownPlans(runtime);
    const roots = await rootsOf(runtime, told);
    const open = (await Families.of(runtime, told, roots)).ofPlan(plan).filter((f) => f.state === 'open');
    const ways = open
      .flatMap((f) => f.ways)
      .flatMap(({ way, stand }) => (isOpen(stand) ? [{ way, at: stand.at }] : []));
    if (ways.length === 0)
      throw new Refused('Of this change nothing can be taken back from the journal.', {
        next: 'Look again: its clips were renamed since, or it was undone.',
      });
    const steps = stepsBack(ways);
    const id = randomUUID();
    const journal = new Journal(roots.get('shelf')!.path);
    let undone: JournalUndone;
    const said = progressTo(runtime, steps.length);
    try {
      journal.write(intentOf([...roots.values()], { id, kind: 'undo', undoes: plan, steps }), true);
      undone = await goBack(runtime, roots, steps, (n, state) => {
        journal.write({ plan: id, step: n, state });
        said(n);
      });
    } finally {
      said(steps.length);
      journal.write({ plan: id, ended: true }, true);
      journal.close();
    }
    await writeLog({ db: runtime.db, who: runtime.who, job: null }, 'undo', sentence(undone));
    runtime.events.changed('log');
    return undone;
  });
}

/** Tells the interfaces how many steps are done, some times a second. */
function progressTo({ events }: Pick<Ports, 'events'>, total: number): (done: number) => void {
  let told = 0;
  return (done) => {
    if (done < total && performance.now() - told < 300) return;
    told = performance.now();
    events.send({ type: 'running', job: null, title: 'Undoing', done, total, left: null });
  };
}

/** What the logbook says of it. */
const sentence = ({ files: back, failed: [first, ...others] }: JournalUndone): string =>
  `${plural(back, 'file')} went back to where ${back === 1 ? 'it was' : 'they were'} before a change of names that only the journal on the shelf knows${
    first === undefined
      ? ''
      : `; ${first.file} could not: ${first.fault}${others.length > 0 ? ` (and ${plural(others.length, 'other')})` : ''}`
  }.`;

/** Does the steps in order; a family of which one fails stays together where it was. `note` is told of each. */
async function goBack(
  runtime: Ports,
  roots: Roots,
  steps: readonly Step[],
  note: (n: number, state: StepState) => void,
): Promise<JournalUndone> {
  const done = new Map<string, [number, Step][]>();
  const failed = new Map<string, JournalUndone['failed']>();
  for (const [n, s] of steps.entries()) {
    if (failed.has(s.clipId)) continue;
    note(n, 'doing');
    const fault = await takeStep(roots, s);
    note(n, fault === null ? 'done' : 'failed');
    const its = done.get(s.clipId) ?? [];
    done.set(s.clipId, its);
    if (fault === null) {
      its.push([n, s]);
      continue;
    }
    const faults = [{ file: shownPath(s.from.path), fault: `its clip stays together: ${fault}` }];
    failed.set(s.clipId, faults);
    for (const [k, was] of its.splice(0).reverse()) {
      const [forth] = undoSteps([was]);
      const again = await takeStep(roots, forth!);
      note(k, again === null ? 'reverted' : 'done');
      if (again === null) continue;
      // It is split, which must not be passed over in silence.
      its.push([k, was]);
      faults.push({ file: shownPath(was.to.path), fault: `could not go back: ${again}` });
    }
  }
  const led = [...done.values()].flat().map(([, s]) => s);
  await prune(runtime, roots, led).catch(() => undefined);
  return { files: new Set(led.map((s) => s.fileId)).size, failed: [...failed.values()].flat() };
}

/** Does a step, also one that was begun before. Returns the fault, or null. */
async function takeStep(roots: Roots, s: Step): Promise<string | null> {
  try {
    const { state, fault } = await settle(roots, s);
    if (state === 'waiting') await doStep(roots, s);
    return state === 'failed' ? fault : null;
  } catch (e) {
    return inWords(e);
  }
}

/** Removes the folders that were emptied, but for those that jobs here are to keep. */
async function prune(runtime: Ports, roots: Roots, led: readonly Step[]): Promise<void> {
  const keep: Place[] = [];
  for (const { id } of await runtime.db.select({ id: jobs.id }).from(jobs))
    keep.push(...(await foldersToKeep(inJob(runtime, id))));
  const left = new Set(led.map((s) => `${s.from.root}\0${path.posix.dirname(s.from.path)}`));
  for (const key of left) {
    const [root, folder] = key.split('\0') as [string, string];
    const top = await resolveIn(roots.get(root)!, '');
    const kept = new Set(keep.filter((k) => k.root === root).map((k) => joinPath(top, k.path)));
    if (folder !== '.') await pruneEmpty(await resolveIn(roots.get(root)!, folder), top, kept);
  }
}
