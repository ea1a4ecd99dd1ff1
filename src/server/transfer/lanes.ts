import { THREADS } from './pool';

/** Small files are handed out together, up to so many, or so many bytes. */
const BATCH = { files: 128, bytes: 16 << 20 };

/** Large files alone, small ones together. */
export function batches<F extends { size: number }>(rows: readonly F[]): F[][] {
  const out: F[][] = [];
  let open: F[] = [];
  let bytes = 0;
  for (const r of rows) {
    if (r.size > 1 << 20) {
      out.push([r]);
      continue;
    }
    if (open.length === 0) out.push(open);
    open.push(r);
    bytes += r.size;
    if (open.length >= BATCH.files || bytes >= BATCH.bytes) [open, bytes] = [[], 0];
  }
  return out;
}

/**
 * Runs a lane for each thread, side by side until nothing is left. One that fails stops the others (`stop`), and all are waited for: nobody
 * may go on writing when the copying is resumed.
 */
export async function inLanes(lane: () => Promise<void>, stop: (e: unknown) => void): Promise<void> {
  const ended = await Promise.allSettled(
    Array.from({ length: THREADS }, () =>
      lane().catch((e: unknown) => {
        stop(e);
        throw e;
      }),
    ),
  );
  const failed = ended.find((e) => e.status === 'rejected');
  if (failed) throw failed.reason;
}

const DOWN: Record<string, string> = {
  ENOSPC: 'is full',
  EDQUOT: 'is full (quota)',
  EROFS: 'is read only',
  EACCES: 'is not writable by this user',
  EPERM: 'is not writable by this user',
  ENOENT: 'is no longer there',
  ENODEV: 'is no longer there',
  ENOTDIR: 'has a file where a folder has to be',
  EIO: 'cannot be written to (I/O error)',
  ENXIO: 'is no longer there',
  ENOTCONN: 'is not connected',
  ESTALE: 'is not connected',
};
/** Why a destination takes no more at all, by the file system's word; `null` where it is about one file. */
export const destinationDown = (code: string | undefined): string | null => DOWN[code ?? ''] ?? null;
