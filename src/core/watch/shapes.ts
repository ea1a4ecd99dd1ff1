import * as z from 'zod';
import { CardChoice } from '../intake';
import { NextSteps } from '../next';
import { PathBelow, ShownPath } from '../platform/names';

/** How a folder is watched: by what the system tells of it, by looking again and again, or only when somebody asks. */
export const WatchedBy = z.enum(['events', 'polling', 'asking']);
export type WatchedBy = z.infer<typeof WatchedBy>;

export const WatchOptions = z.object({
  /** Whether new footage is taken in by itself, or only when it is asked for. */
  byItself: z.boolean().default(true),
  /** Whether clips are put into bins called like the folders they are in. */
  bins: z.boolean().default(true),
  /** The card that all clips go into; null for cards like the folders. */
  into: CardChoice.pick({ cardId: true, camera: true, day: true }).nullable().default(null),
  /** Folders are left out whose name has one of these words in it, whatever the case. */
  leaveOut: z.array(z.string().trim().min(1).max(80)).max(50).default(['proxies', 'proxy', 'cache']),
  next: NextSteps.prefault({}),
});
export type WatchOptions = z.infer<typeof WatchOptions>;

export const NewWatch = z.object({
  root: z.string().min(1),
  path: PathBelow,
  options: WatchOptions.prefault({}),
});
export type NewWatch = z.input<typeof NewWatch>;

export const WatchFind = z.object({
  id: z.string(),
  at: z.string(),
  /** What was found: taken in, in the job already, gone, changed, moved, or what could not be taken. */
  kind: z.enum(['taken', 'twice', 'gone', 'back', 'moved', 'changed', 'wrong']),
  text: z.string(),
});
export type WatchFind = z.infer<typeof WatchFind>;

export const WatchView = z.object({
  id: z.string(),
  root: z.string(),
  rootName: z.string(),
  path: ShownPath,
  options: WatchOptions,
  by: WatchedBy,
  /** Why it is looked at again and again though the system could tell; empty where there is no reason to say. */
  why: z.string(),
  /** False where the folder is not here now. */
  here: z.boolean(),
  /** Files that are still growing, or were a moment ago. */
  moving: z.int(),
  /** When it was looked at last; null before the first look since the start. */
  looked: z.string().nullable(),
  /** What went wrong with the last look; null where nothing did. */
  fault: z.string().nullable(),
  /** What was found and is not read yet, the newest first. */
  finds: z.array(WatchFind),
});
export type WatchView = z.infer<typeof WatchView>;
export const WatchViews = z.array(WatchView);

export const ReadFinds = z.object({ watch: z.string().min(1) });
export type ReadFinds = z.infer<typeof ReadFinds>;

/** Whether a path is in a folder that is left out, or in a hidden one. */
export function isLeftOut(path: string, leaveOut: readonly string[]): boolean {
  const folders = path.split('/').slice(0, -1);
  const words = leaveOut.map((w) => w.toLowerCase());
  return folders.some((f) => f.startsWith('.') || words.some((w) => f.toLowerCase().includes(w)));
}
