import { z } from 'zod';
import { extensionOf, type FileRole } from '../intake';
import type { Problem } from './check';

/** A file's place: a root by its id, and the path below it with "/" between the parts. */
export const Place = z.object({ root: z.string(), path: z.string() });
export type Place = z.infer<typeof Place>;

/**
 * What a step does. `move` renames within a root; `copy` makes a verified copy and leaves the source alone; `uncopy`
 * removes a copy that an earlier step made, after proving that its source still holds the same bytes.
 */
export const StepKind = z.enum(['move', 'copy', 'uncopy']);
export type StepKind = z.infer<typeof StepKind>;

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
  files: readonly PlanFile[];
}

export interface PlanOptions {
  /** Root that clips are copied to when they are in a root that may only be read. */
  shelf: string;
  proxyFolder: string;
  /** Whether files of a root may be moved. */
  movable: (root: string) => boolean;
  /** Whether something is at a place on disk now. Asked once per target. */
  occupied: (place: Place) => boolean;
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
export const placeKey = (p: Place): string => `${p.root}\0${p.path.normalize('NFC').toLowerCase()}`;

const samePlace = (a: Place, b: Place): boolean => a.root === b.root && a.path === b.path;

const DOUBLED = /\.(?:mp4|mov|mxf|m4v)(?=\.[^./]+$)/i;

/** Where a file of a clip's family belongs under the clip's new name. */
export function targetOf(
  clip: PlanClip,
  file: PlanFile,
  options: Pick<PlanOptions, 'shelf' | 'proxyFolder' | 'movable'>,
): Place {
  const name = file.place.path.slice(file.place.path.lastIndexOf('/') + 1).replace(DOUBLED, '');
  const extension = extensionOf(name) === '' ? '' : name.slice(name.lastIndexOf('.'));
  const folder = file.role === 'cameraProxy' ? [clip.folder, options.proxyFolder] : [clip.folder];
  const path = [...folder, clip.stem + file.suffix + extension].filter((p) => p !== '').join('/');
  return { root: options.movable(file.place.root) ? file.place.root : options.shelf, path };
}

/** The complete list of file operations that gives every clip its name and place, checked against itself and the disk. */
export function planNames(clips: readonly PlanClip[], options: PlanOptions): Plan {
  const wanted: Step[] = [];
  const staying = new Map<string, string>();
  const problems: ClipProblem[] = [];
  for (const clip of clips) {
    for (const file of clip.files) {
      const to = targetOf(clip, file, options);
      if (samePlace(file.place, to)) {
        staying.set(placeKey(to), clip.id);
        continue;
      }
      const kind = options.movable(file.place.root) ? 'move' : 'copy';
      wanted.push({
        clipId: clip.id,
        fileId: file.id,
        kind,
        from: file.place,
        to,
        size: file.size,
        modified: file.modified,
      });
      if (to.path.length > 250) {
        problems.push({
          clipId: clip.id,
          level: 'look',
          code: 'longPath',
          text: `the path is ${to.path.length} characters long: some systems stop at 260`,
        });
      }
    }
  }
  const leaving = new Set(wanted.filter((s) => s.kind === 'move').map((s) => placeKey(s.from)));
  const byTarget = groupBy(wanted, (s) => placeKey(s.to));
  const clashing = new Set<string>();
  const clash = (clipId: string, code: string, text: string) => {
    if (clashing.has(`${clipId}\0${code}`)) return;
    clashing.add(`${clipId}\0${code}`);
    problems.push({ clipId, level: 'stop', code, text });
  };
  for (const [key, steps] of byTarget) {
    const owners = new Set(steps.map((s) => s.clipId));
    if (steps.length > 1) {
      for (const s of steps)
        clash(
          s.clipId,
          'clash',
          owners.size > 1
            ? `${owners.size} clips would get this name`
            : 'two files of the family would get this name',
        );
    } else if (staying.has(key)) clash(steps[0]!.clipId, 'clash', 'another clip keeps this name');
    else if (!leaving.has(key) && options.occupied(steps[0]!.to))
      clash(steps[0]!.clipId, 'exists', 'this name is on the shelf already');
  }
  return { steps: orderSteps(wanted), problems };
}

function groupBy<T>(list: readonly T[], key: (t: T) => string): Map<string, T[]> {
  const groups = new Map<string, T[]>();
  for (const item of list) {
    const k = key(item);
    const group = groups.get(k);
    if (group) group.push(item);
    else groups.set(k, [item]);
  }
  return groups;
}

/**
 * Orders steps so that each place is left before another file takes it. Names that change places in a ring (or differ
 * in case only) go by way of a temporary name beside the target.
 */
export function orderSteps(steps: readonly Step[]): Step[] {
  const leaver = new Map(steps.filter((s) => s.kind === 'move').map((s) => [placeKey(s.from), s]));
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
      after.push({ ...s, from: waiting });
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

/** The steps that take back steps that were done, last first. */
export function undoSteps(done: readonly Step[]): Step[] {
  return [...done]
    .reverse()
    .map((s) => ({ ...s, kind: s.kind === 'move' ? 'move' : 'uncopy', from: s.to, to: s.from }));
}
