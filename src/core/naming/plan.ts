import * as z from 'zod';
import { sameTime } from '../custody';
import { extensionOf, type FileRole, isMade } from '../intake';
import { join } from '../platform/names';
import { checkPath, type Problem, SHORT, type System } from './check';
import type { FolderPlan } from './convention';
import {
  after,
  Place,
  PlaceIndex,
  placeKey,
  placeNumber,
  sameOnes,
  spread,
  type TextNumber,
  textNumber,
} from './placeIndex';

export { Place, placeKey } from './placeIndex';

/**
 * What a step does. `move` renames within a volume; `carry` makes a verified copy on another volume and then removes the file; `copy`
 * makes a verified copy and leaves the source alone; `link` gives the file a second name. `uncopy` and `unlink` take the last two back,
 * the first after proving that the source still holds the same bytes, the second while both names are of one file.
 */
export const StepKind = z.enum(['move', 'copy', 'uncopy', 'carry', 'link', 'unlink']);
export type StepKind = z.infer<typeof StepKind>;

/** Whether a step takes its file away from where it was. */
export const leaves = (kind: StepKind): boolean => kind === 'move' || kind === 'carry';

export const Step = z.object({
  clipId: z.string(),
  fileId: z.string(),
  kind: StepKind,
  from: Place,
  to: Place,
  /** Bytes and milliseconds since 1970, as they were when the plan was made; a file that differs is not touched. */
  size: z.int().nonnegative(),
  modified: z.number(),
  /** Fingerprint of its contents: where it could be taken for another file of the plan (`alikeFiles`). */
  sample: z.string().optional(),
});
export type Step = z.infer<typeof Step>;

export interface PlanFile {
  id: string;
  role: FileRole;
  place: Place;
  /** What follows the stem in its name: its suffix, and its extension as it is. */
  tail: string;
  tailNumber: TextNumber | null;
  /** Of its place (`placeNumber`). */
  number: number;
  size: number;
  modified: number;
  /** The one folder of its root that it stays in; absent where it goes with its clip. */
  folder?: string;
}

const DOUBLED = /\.(?:mp4|mov|mxf|m4v)(?=\.[^./]+$)/i;

/** A file as plans take it: with what is the same in all of them. */
export function planFile(
  file: Omit<PlanFile, 'tail' | 'tailNumber' | 'number'> & { suffix: string },
): PlanFile {
  const { id, role, place, size, modified } = file;
  const name = place.path.slice(place.path.lastIndexOf('/') + 1).replace(DOUBLED, '');
  const extension = extensionOf(name) === '' ? '' : name.slice(name.lastIndexOf('.'));
  const tail = file.suffix + extension;
  return {
    id,
    role,
    place,
    tail,
    tailNumber: textNumber(tail),
    number: placeNumber(place),
    size,
    modified,
    ...(file.folder === undefined ? {} : { folder: file.folder }),
  };
}

export interface PlanClip {
  id: string;
  stem: string;
  folder: string;
  folderPlan: FolderPlan;
  files: readonly PlanFile[];
}

/** A root as plans see it: whether files may be moved in it and brought into it, and which volume it is on. */
export interface PlanRoot {
  name: string;
  movable: boolean;
  volume: string;
}

export interface PlanOptions {
  /** Root that clips are copied to when they are in a root that may only be read. */
  shelf: string;
  roots: ReadonlyMap<string, PlanRoot>;
  /** Whether something is at a place on disk now, given by its number first (`PlaceIndex`). Asked once per target. */
  occupied: (number: number, place: () => Place) => boolean;
  /** Whose file of the job is at a place, also of clips that are not in the plan; null for nobody's. */
  ownerAt: (number: number, place: () => Place) => string | null;
  systems: readonly System[];
}

export interface ClipProblem extends Problem {
  clipId: string;
}

export interface Plan {
  /** In an order in which each can be done: a place is left before it is taken. Made when they are asked for. */
  readonly steps: Step[];
  /** How many files of each clip get another name or place, in the order of the clips. */
  changes: number[];
  copies: number;
  copyBytes: number;
  links: number;
  problems: ClipProblem[];
}

const samePlace = (a: Place, b: Place): boolean => a.root === b.root && a.path === b.path;

/** Where the files of a role go with their clips, and how they come there; null where they cannot. */
interface Way {
  root: string;
  folder: string;
  kind: StepKind | null;
  /** Of the root and the folder, up to the name. */
  number: TextNumber | null;
}

/** The root of what Sort Shelf makes. */
const PROXIES = 'proxies';

/** Where files belong under their clips' new names. Files of a role mostly go where those before them went. */
export class Targets {
  readonly #last = new Map<FileRole, { folder: string; folderPlan: FolderPlan; from: string; way: Way }>();

  constructor(private readonly options: Pick<PlanOptions, 'shelf' | 'roots'>) {}

  /** The way of a file whose clip goes to a folder. */
  wayOf(
    folder: string,
    folderPlan: FolderPlan,
    { role, place, folder: fixed }: Pick<PlanFile, 'role' | 'place' | 'folder'>,
  ): Way {
    if (fixed !== undefined) return this.#wayTo(place.root, place.root, fixed, folderPlan);
    const last = this.#last.get(role);
    if (last?.folder === folder && last.folderPlan === folderPlan && last.from === place.root)
      return last.way;
    const rule = folderPlan.roles[role];
    const { shelf, roots } = this.options;
    const made = isMade(role) && roots.has(PROXIES) ? PROXIES : shelf;
    const own = roots.get(place.root)?.movable === true ? place.root : made;
    // What was made has a root of its own, and stays in it unless a rule says otherwise; what was adopted from elsewhere comes there.
    const root = rule?.root ?? (isMade(role) ? own : (folderPlan.root ?? own));
    const below = !rule ? folder : rule.at === 'clip' ? join(folder, rule.folder) : join(rule.folder, folder);
    const way = this.#wayTo(place.root, root, below, folderPlan);
    this.#last.set(role, { folder, folderPlan, from: place.root, way });
    return way;
  }

  #wayTo(from: string, root: string, folder: string, folderPlan: FolderPlan): Way {
    return {
      root,
      folder,
      number: textNumber(folder === '' ? `${root}/` : `${root}/${folder}/`),
      kind: this.#kind(from, root, folderPlan),
    };
  }

  of(clip: Pick<PlanClip, 'stem' | 'folder' | 'folderPlan'>, file: PlanFile): Place {
    const { root, folder } = this.wayOf(clip.folder, clip.folderPlan, file);
    const name = clip.stem + file.tail;
    return { root, path: folder === '' ? name : `${folder}/${name}` };
  }

  /** The number of the place (`placeNumber`), for most without making its path. */
  numberOf(way: Way, stem: TextNumber | null, clip: PlanClip, file: PlanFile): number {
    return way.number && stem && file.tailNumber
      ? spread(after(after(way.number.sum, stem), file.tailNumber))
      : placeNumber(this.of(clip, file));
  }

  #kind(from: string, to: string, { manner }: FolderPlan): StepKind | null {
    const [here, there] = [this.options.roots.get(from), this.options.roots.get(to)];
    if (!here || !there?.movable) return null;
    const sameVolume = from === to || here.volume === there.volume;
    if (manner === 'link') return sameVolume ? 'link' : null;
    if (!here.movable || manner === 'copy') return 'copy';
    return sameVolume ? 'move' : 'carry';
  }
}

/** A file that gets another name or place. */
interface Change {
  clip: PlanClip;
  file: PlanFile;
  kind: StepKind;
}

/** The complete list of file operations that gives every clip its name and place, checked against itself and the disk. */
export function planNames(clips: readonly PlanClip[], options: PlanOptions): Plan {
  const changes: Change[] = [];
  const numbers: number[] = [];
  const staying: PlanFile[] = [];
  const plan = { changes: new Array<number>(clips.length), copies: 0, copyBytes: 0, links: 0 };
  const problems: ClipProblem[] = [];
  const targets = new Targets(options);
  clips.forEach((clip, i) => {
    let long: Problem | null = null;
    let refused = false;
    const before = changes.length;
    const stem = textNumber(clip.stem);
    for (const file of clip.files) {
      const way = targets.wayOf(clip.folder, clip.folderPlan, file);
      const number = targets.numberOf(way, stem, clip, file);
      if (number === file.number && samePlace(file.place, targets.of(clip, file))) {
        staying.push(file);
        continue;
      }
      const { kind } = way;
      if (kind === null) {
        refused = true;
        continue;
      }
      changes.push({ clip, file, kind });
      numbers.push(number);
      if (kind === 'link') plan.links++;
      if (kind === 'copy' || kind === 'carry') {
        plan.copies++;
        plan.copyBytes += file.size;
      }
      if (way.folder.length + clip.stem.length + file.tail.length >= SHORT)
        long ??= checkPath(targets.of(clip, file).path, options.systems);
    }
    plan.changes[i] = changes.length - before;
    if (refused) problems.push({ clipId: clip.id, ...refusal(clip, options) });
    if (long) problems.push({ clipId: clip.id, ...long });
  });
  const targetOf = ({ clip, file }: Change): Place => targets.of(clip, file);
  const leavers = new PlaceIndex(
    changes.filter((c) => leaves(c.kind)),
    ({ file }) => file.place,
    ({ file }) => file.number,
  );
  for (const p of clashes(changes, Int32Array.from(numbers), { targetOf, leavers, staying }, options))
    problems.push(p);
  let steps: Step[] | null = null;
  return {
    ...plan,
    problems,
    get steps() {
      return (steps ??= orderSteps(changes.map((c) => stepOf(c, targetOf(c)))));
    },
  };
}

const stepOf = ({ clip, file, kind }: Change, to: Place): Step => ({
  clipId: clip.id,
  fileId: file.id,
  kind,
  from: file.place,
  to,
  size: file.size,
  modified: file.modified,
});

function refusal(clip: PlanClip, { roots, shelf }: PlanOptions): Problem {
  const root = roots.get(clip.folderPlan.root ?? shelf);
  return clip.folderPlan.manner === 'link' && root?.movable !== false
    ? {
        level: 'stop',
        code: 'otherVolume',
        text: 'a file cannot have a second name on another volume',
        mend: 'have files copied or moved, or choose a place on the same volume',
      }
    : {
        level: 'stop',
        code: 'root',
        text: `a file would go to ${root?.name ?? 'a place that is not there any longer'}, where nothing may be written`,
        mend: 'choose a shelf in the folder plan',
      };
}

const ANOTHER = 'add a block that tells them apart (a counter, the card), or leave one out';

/** Targets that two files would have, that another clip keeps, or at which something is on the disk. */
function clashes(
  changes: readonly Change[],
  numbers: Int32Array,
  among: {
    targetOf: (c: Change) => Place;
    leavers: PlaceIndex<Change>;
    staying: readonly PlanFile[];
  },
  options: PlanOptions,
): ClipProblem[] {
  const problems: ClipProblem[] = [];
  const told = new Set<string>();
  const clash = (clipId: string, code: string, text: string, mend: string): void => {
    if (told.has(`${clipId}\0${code}`)) return;
    told.add(`${clipId}\0${code}`);
    problems.push({ clipId, level: 'stop', code, text, mend });
  };
  const several = new Set<number>();
  for (const at of sameOnes(numbers, (i) => placeKey(among.targetOf(changes[i]!)))) {
    const owners = new Set(at.map((i) => changes[i]!.clip.id));
    for (const i of at) {
      several.add(i);
      const { id } = changes[i]!.clip;
      if (owners.size > 1) clash(id, 'clash', `${owners.size} clips would get this name`, ANOTHER);
      else
        clash(
          id,
          'clash',
          'two files of the family would get this name',
          'place their roles in different folders',
        );
    }
  }
  const stayers = new PlaceIndex(
    among.staying,
    (f) => f.place,
    (f) => f.number,
  );
  changes.forEach((change, i) => {
    if (several.has(i)) return;
    const number = numbers[i]!;
    const clipId = change.clip.id;
    const to = (): Place => among.targetOf(change);
    if (stayers.get(number, to)) clash(clipId, 'clash', 'another clip keeps this name', ANOTHER);
    else if (!among.leavers.get(number, to)) {
      const owner = options.ownerAt(number, to);
      if (owner !== null && owner !== clipId)
        clash(clipId, 'clash', 'a clip that is not in this plan has this name', ANOTHER);
      else if (options.occupied(number, to))
        clash(
          clipId,
          'exists',
          'this name is on the shelf already',
          'move that file away, add a block, or leave the clip out',
        );
    }
  });
  return problems;
}

/**
 * Orders steps so that each place is left before another file takes it. Names that change places in a ring (or differ
 * in case only) go by way of a temporary name beside the target.
 */
export function orderSteps(steps: readonly Step[]): Step[] {
  const leavers = new PlaceIndex(
    steps.filter((s) => leaves(s.kind)),
    (s) => s.from,
  );
  // Mostly nothing is in the way of anything.
  const blockerOf = ({ to }: Step): Step | undefined => leavers.get(placeNumber(to), () => to);
  if (!steps.some(blockerOf)) return [...steps];
  const ordered: Step[] = [];
  const after: Step[] = [];
  const state = new Map<Step, 'open' | 'done'>();
  // A chain may be as long as the job: it is followed without recursion, each step before those that wait for it.
  const settle = (s: Step, blocker: Step | undefined): void => {
    if (blocker && state.get(blocker) === 'open') {
      // A ring: this step's file waits beside its target until the ring has moved on.
      const cut = s.to.path.lastIndexOf('/') + 1;
      const waiting: Place = {
        root: s.to.root,
        path: `${s.to.path.slice(0, cut)}.${s.to.path.slice(cut)}.moving`,
      };
      ordered.push({ ...s, to: waiting });
      // Behind a copy to another volume the waiting name is on that volume already.
      after.push({ ...s, kind: 'move', from: waiting });
      state.set(s, 'done');
      return;
    }
    ordered.push(s);
    state.set(s, 'done');
  };
  for (const first of steps) {
    const chain: Step[] = [];
    let s: Step | undefined = first;
    while (s && !state.has(s)) {
      chain.push(s);
      state.set(s, 'open');
      s = blockerOf(s);
    }
    for (let blocker = s, last = chain.pop(); last; blocker = last, last = chain.pop()) settle(last, blocker);
  }
  return [...ordered, ...after];
}

/**
 * Files of steps that pass by a place of another that is as large and as old: which of them is there after a crash only the contents tell.
 * Times differ by what FAT cannot hold.
 */
export function alikeFiles(steps: readonly Step[]): Set<string> {
  const ofSize = new Map<number, Step[]>();
  for (const s of steps) {
    const list = ofSize.get(s.size);
    if (list) list.push(s);
    else ofSize.set(s.size, [s]);
  }
  const alike = new Set<string>();
  const at = new Map<string, Step[]>();
  for (const list of ofSize.values()) {
    if (list.length < 2) continue;
    at.clear();
    for (const s of list)
      for (const key of [placeKey(s.from), placeKey(s.to)]) {
        const there = at.get(key) ?? [];
        at.set(key, there);
        for (const other of there)
          if (other.fileId !== s.fileId && sameTime(other.modified, s.modified))
            alike.add(other.fileId).add(s.fileId);
        there.push(s);
      }
  }
  return alike;
}

const BACK: Record<StepKind, StepKind> = {
  move: 'move',
  carry: 'carry',
  copy: 'uncopy',
  uncopy: 'copy',
  link: 'unlink',
  unlink: 'link',
};

/** The steps that take back steps that were done, last first. */
export function undoSteps(done: readonly Step[]): Step[] {
  return [...done].reverse().map((s) => ({ ...s, kind: BACK[s.kind], from: s.to, to: s.from }));
}
