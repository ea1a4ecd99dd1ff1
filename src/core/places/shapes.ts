import * as z from 'zod';
import { ShownPath, PathBelow } from '../platform/names';
import { DiskIdentity, VolumeKind } from '../platform/disks';

/** An absolute path on the server’s computer. */
export const FullPath = z.string().min(1).max(4096);

export const RootKind = z.enum(['source', 'safe', 'shelf', 'proxies', 'handover']);
export type RootKind = z.infer<typeof RootKind>;

/** A place as a person reads it. */
export const ShownPlace = z.object({ root: z.string(), path: ShownPath });

export const RootView = z.object({
  id: z.string(),
  kind: RootKind,
  name: z.string(),
  path: z.string(),
  present: z.boolean(),
  /** Bytes of its volume; null where the root is not there. */
  free: z.number().nullable(),
  total: z.number().nullable(),
  /** What tells its volume from others, and its name; null where the root is not there. */
  volume: z.string().nullable(),
  volumeName: z.string().nullable(),
  /** The physical disks under it, which tell whether two copies can be lost by one fault; null where the root is not there. */
  disk: DiskIdentity.nullable(),
});
export type RootView = z.infer<typeof RootView>;

/** A root as the screen of places has it. */
export const PlaceView = RootView.extend({
  /** What of any job names it, so that it stays; null where nothing does. */
  use: z.string().nullable(),
  /** Whether it is one of the three in the data folder. */
  own: z.boolean(),
  /** By what it is found again where its drive is mounted elsewhere. `place` only where it is now. */
  knownBy: z.enum(['mark', 'volume', 'place']),
  /** Folders that may be it, which only a person can say. */
  doubts: z.array(z.object({ path: z.string(), why: z.string() })),
});
export type PlaceView = z.infer<typeof PlaceView>;

/** A volume this computer sees. */
export const VolumeView = z.object({
  /** The folder it begins at. */
  at: z.string(),
  name: z.string(),
  /** Its file system, as the system calls it; "" where it does not say. */
  type: z.string(),
  kind: VolumeKind,
  /** Null where the system does not say. */
  removable: z.boolean().nullable(),
  readOnly: z.boolean(),
  /** Bytes; null where the volume does not answer. */
  free: z.number().nullable(),
  total: z.number().nullable(),
  /** Ids of the roots on it. */
  roots: z.array(z.string()),
});
export type VolumeView = z.infer<typeof VolumeView>;

export const PlacesView = z.object({
  places: z.array(PlaceView),
  volumes: z.array(VolumeView),
  /** When a volume last came or went since the start, and which. */
  changed: z.object({ at: z.string(), came: z.array(z.string()), went: z.array(z.string()) }).nullable(),
  /** False on a system on which the listing of volumes has not been tried. */
  tried: z.boolean(),
});
export type PlacesView = z.infer<typeof PlacesView>;

/** A folder anywhere on this computer, to choose one in. */
export const OutsideFolder = z.object({
  path: z.string(),
  /** The folder around it; null at the top. */
  up: z.string().nullable(),
  /** The folders in it, those of the system left out. */
  folders: z.array(z.object({ name: ShownPath, path: z.string(), root: z.string().nullable() })),
  files: z.int(),
  /** Why it cannot be used as a place; null where it can. */
  refused: z.string().nullable(),
  /** Whether files can be written in it. */
  writable: z.boolean(),
});
export type OutsideFolder = z.infer<typeof OutsideFolder>;

/** What is changed of a root: its name, its part, or where it is now. */
export const RootChange = z.union([
  z.strictObject({ name: z.string().trim().min(1).max(80) }),
  z.strictObject({ kind: z.enum(['source', 'safe', 'shelf', 'handover']) }),
  z.strictObject({ path: FullPath }),
]);
export type RootChange = z.infer<typeof RootChange>;

/** Where a place is to be moved to: an empty folder. */
export const MovePlace = z.object({ to: FullPath });
export type MovePlace = z.infer<typeof MovePlace>;

/** What moving a place there would do. */
export const MovePlan = z.object({
  /** The folder it goes to, absolute. */
  to: z.string(),
  files: z.int(),
  bytes: z.number(),
  /** Whether the folder is renamed as it is; else its files are copied to another volume. */
  sameVolume: z.boolean(),
  /** Bytes free there. */
  free: z.number(),
  /** What keeps it from being done, in sentences. */
  against: z.array(z.string()),
});
export type MovePlan = z.infer<typeof MovePlan>;

export const MovedPlace = z.object({
  to: z.string(),
  /** The folder it was in, where that is still there with all that is in it; null where it was renamed. */
  left: z.string().nullable(),
});
export type MovedPlace = z.infer<typeof MovedPlace>;

export const NewFolder = z.object({ path: FullPath, name: z.string().trim().min(1).max(200) });
export type NewFolder = z.infer<typeof NewFolder>;

export const NewRoot = z.object({
  kind: z.enum(['source', 'safe', 'shelf', 'handover']),
  path: FullPath,
});
export type NewRoot = z.infer<typeof NewRoot>;

export const FolderQuery = z.object({ root: z.string().min(1), path: PathBelow.default('') });

/** One file below a root. */
export const FileQuery = z.object({
  root: z.string().min(1),
  path: PathBelow.refine((p) => p !== '', 'a file is needed'),
});
export type FileQuery = z.infer<typeof FileQuery>;
