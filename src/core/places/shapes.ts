import { z } from 'zod';
import { ShownPath, PathBelow } from '../platform/names';
import { DiskIdentity } from '../platform/disks';

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

export const NewRoot = z.object({
  kind: z.enum(['source', 'safe', 'shelf', 'handover']),
  path: z.string().min(1).max(4096),
});
export type NewRoot = z.infer<typeof NewRoot>;

export const FolderQuery = z.object({ root: z.string().min(1), path: PathBelow.default('') });

/** One file below a root. */
export const FileQuery = z.object({
  root: z.string().min(1),
  path: PathBelow.refine((p) => p !== '', 'a file is needed'),
});
export type FileQuery = z.infer<typeof FileQuery>;
