import { z } from 'zod';
import { extensionOf, type FileRole } from '../intake';
import { join } from '../platform/names';
import { checkPath, type Problem, type System } from './check';
import type { FolderPlan } from './convention';

/** A file's place: a root by its id, and the path below it with "/" between the parts. */
export const Place = z.object({ root: z.string(), path: z.string() });
export type Place = z.infer<typeof Place>;

/**
 * What a step does. `move` renames within a volume; `carry` makes a verified copy on another volume and then removes the file; `copy`
 * makes a verified copy and leaves the source alone; `link` gives the file a second name. `uncopy` and `unlink` take the last two back,
 * the first after proving that the source still holds the same bytes, the second while both names are of one file.
 */
export const StepKind = z.enum(['move', 'copy', 'uncopy', 'carry', 'link', 'unlink']);
export type StepKind = z.infer<typeof StepKind>;

/** Whether a step takes its file away from where it was. */
const leaves = (kind: StepKind): boolean => kind === 'move' || kind === 'carry';

export const Step = z.object({
  clipId: z.string(),
  fileId: z.string(),
  kind: StepKind,
  from: Place,
  to: Place,
  /** Bytes and milliseconds since 1970, as they were when the plan was made; a file that differs is not touched. */
  size: z.int().nonnegative(),
  modified: z.number(),
});
export type Step = z.infer<typeof Step>;

export interface PlanFile {
  id: string;
  role: FileRole;
  place: Place;
  suffix: string;
  size: number;
  modified: number;
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
  /** Whether something is at a place on disk now. Asked once per target. */
  occupied: (place: Place) => boolean;
  /** Whose file of the job is at a place, also of clips that are not in the plan; null for nobody's. */
  ownerAt: (place: Place) => string | null;
  systems: readonly System[];
}

export interface ClipProblem extends Problem {
  clipId: string;
}

export interface Plan {
  /** In an order in which each can be done: a place is left before it is taken. */
  steps: Step[];
  problems: ClipProblem[];
}

/**
 * How a place compares with others: volumes that ignore case or Unicode form hold only one of two names that differ in
 * nothing else.
 */
export const placeKey = (p: Place): string => `${p.root}\0${nameKey(p.path)}`;

/** The same of a name. Most are of plain letters, which have one form. */
export const nameKey = (name: string): string =>
  (/^[\u0000-\u007f]*$/u.test(name) ? name : name.normalize('NFC')).toLowerCase();

const samePlace = (a: Place, b: Place): boolean => a.root === b.root && a.path === b.path;

const DOUBLED = /\.(?:mp4|mov|mxf|m4v)(?=\.[^./]+$)/i;

/** Where a file of a clip's family belongs under the clip's new name. */
export function targetOf(
  clip: Pick<PlanClip, 'stem' | 'folder' | 'folderPlan'>,
  file: Pick<PlanFile, 'role' | 'place' | 'suffix'>,
  options: Pick<PlanOptions, 'shelf' | 'roots'>,
): Place {
  const name = file.place.path.slice(file.place.path.lastIndexOf('/') + 1).replace(DOUBLED, '');
  const extension = extensionOf(name) === '' ? '' : name.slice(name.lastIndexOf('.'));
  const rule = clip.folderPlan.roles[file.role];
  const folders = !rule
    ? [clip.folder]
    : rule.at === 'clip'
      ? [clip.folder, rule.folder]
      : [rule.folder, clip.folder];
  const own = options.roots.get(file.place.root)?.movable === true ? file.place.root : options.shelf;
  // Made proxies have a root of their own, and stay in it unless a rule says otherwise.
  const root = rule?.root ?? (file.role === 'proxy' ? own : (clip.folderPlan.root ?? own));
  return { root, path: join(...folders, clip.stem + file.suffix + extension) };
}

/** How a file comes from one root to another; null where it cannot. */
function kindOf(from: Place, to: Place, clip: PlanClip, roots: PlanOptions['roots']): StepKind | null {
  const [here, there] = [roots.get(from.root), roots.get(to.root)];
  if (!here || !there?.movable) return null;
  const sameVolume = from.root === to.root || here.volume === there.volume;
  if (clip.folderPlan.manner === 'link') return sameVolume ? 'link' : null;
  if (!here.movable || clip.folderPlan.manner === 'copy') return 'copy';
  return sameVolume ? 'move' : 'carry';
}

/** The complete list of file operations that gives every clip its name and place, checked against itself and the disk. */
export function planNames(clips: readonly PlanClip[], options: PlanOptions): Plan {
  const wanted: Step[] = [];
  const staying = new Map<string, string>();
  const problems: ClipProblem[] = [];
  for (const clip of clips) {
    let long: Problem | null = null;
    let refused = false;
    for (const file of clip.files) {
      const to = targetOf(clip, file, options);
      if (samePlace(file.place, to)) {
        staying.set(placeKey(to), clip.id);
        continue;
      }
      const kind = kindOf(file.place, to, clip, options.roots);
      if (kind === null) {
        refused = true;
        continue;
      }
      wanted.push({
        clipId: clip.id,
        fileId: file.id,
        kind,
        from: file.place,
        to,
        size: file.size,
        modified: file.modified,
      });
      long ??= checkPath(to.path, options.systems);
    }
    if (refused) problems.push({ clipId: clip.id, ...refusal(clip, options) });
    if (long) problems.push({ clipId: clip.id, ...long });
  }
  problems.push(...clashes(wanted, staying, options));
  return { steps: orderSteps(wanted), problems };
}

function refusal(clip: PlanClip, { roots, shelf }: PlanOptions): Problem {
  const root = roots.get(clip.folderPlan.root ?? shelf);
  return clip.folderPlan.manner === 'link' && root?.movable !== false
    ? {
        level: 'stop',
        code: 'otherVolume',
        text: 'a file cannot have a second name on another volume',
        mend: 'have files copied or moved, or choose a root on the same volume',
      }
    : {
        level: 'stop',
        code: 'root',
        text: `a file would go to ${root?.name ?? 'a root that is not there any longer'}, where nothing may be written`,
        mend: 'choose a shelf in the folder plan',
      };
}

/** Targets that two files would have, that another clip keeps, or at which something is on the disk. */
function clashes(
  wanted: readonly Step[],
  staying: ReadonlyMap<string, string>,
  options: PlanOptions,
): ClipProblem[] {
  const problems: ClipProblem[] = [];
  const leaving = new Set<string>();
  for (const s of wanted) if (leaves(s.kind)) leaving.add(placeKey(s.from));
  const told = new Set<string>();
  const clash = (clipId: string, code: string, text: string, mend: string): void => {
    if (told.has(`${clipId}\0${code}`)) return;
    told.add(`${clipId}\0${code}`);
    problems.push({ clipId, level: 'stop', code, text, mend });
  };
  const ANOTHER = 'add a block that tells them apart (a counter, the card), or leave one out';
  const first = new Map<string, Step>();
  const several = new Map<string, Step[]>();
  for (const s of wanted) {
    const key = placeKey(s.to);
    const other = first.get(key);
    if (!other) first.set(key, s);
    else if (several.has(key)) several.get(key)!.push(s);
    else several.set(key, [other, s]);
  }
  for (const [key, { clipId, to }] of first) {
    const steps = several.get(key);
    if (steps) {
      const owners = new Set(steps.map((s) => s.clipId));
      for (const s of steps)
        clash(
          s.clipId,
          'clash',
          owners.size > 1
            ? `${owners.size} clips would get this name`
            : 'two files of the family would get this name',
          owners.size > 1 ? ANOTHER : 'place their roles in different folders',
        );
    } else if (staying.has(key)) clash(clipId, 'clash', 'another clip keeps this name', ANOTHER);
    else if (!leaving.has(key)) {
      const owner = options.ownerAt(to);
      if (owner !== null && owner !== clipId)
        clash(clipId, 'clash', 'a clip that is not in this plan has this name', ANOTHER);
      else if (options.occupied(to))
        clash(
          clipId,
          'exists',
          'this name is on the shelf already',
          'move that file away, add a block, or leave the clip out',
        );
    }
  }
  return problems;
}

/**
 * Orders steps so that each place is left before another file takes it. Names that change places in a ring (or differ
 * in case only) go by way of a temporary name beside the target.
 */
export function orderSteps(steps: readonly Step[]): Step[] {
  const leaver = new Map<string, Step>();
  for (const s of steps) if (leaves(s.kind)) leaver.set(placeKey(s.from), s);
  // Mostly nothing is in the way of anything.
  if (!steps.some((s) => leaver.has(placeKey(s.to)))) return [...steps];
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
      s = leaver.get(placeKey(s.to));
    }
    for (let blocker = s, last = chain.pop(); last; blocker = last, last = chain.pop()) settle(last, blocker);
  }
  return [...ordered, ...after];
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
