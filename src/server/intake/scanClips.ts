import pMap from 'p-map';
import { isMade } from '../../core/intake';
import { and, eq, inArray, type SQL } from 'drizzle-orm';
import { clips, files } from '../cards/tables';
import { among } from '../platform/db/among';
import { isCode } from '../platform/errors';
import { joinPath } from '../platform/files/names';
import type { InJob } from './ports';
import { addWork, byClip, changedOnDisk } from '../cards';
import { writeLog } from '../logbook';
import { stateOf } from '../facts';
import { listRoots } from '../places';
import { lstat } from '../platform/files/onDisk';

/** What a scan found: clips as they were read, clips that changed or were never read to the end, and files that are gone. */
export interface Scanned {
  same: number;
  again: number;
  missing: string[];
}

/** How many files are looked at at once. */
const CONCURRENCY = 64;

/** Looks at every file of the job (or of one card) and has those clips read again that are not as they were read. */
export async function scanClips(runtime: InJob, card: string | null): Promise<Scanned> {
  const mine = and(eq(clips.job, runtime.job), card === null ? undefined : eq(clips.card, card));
  const { of, again, missing } = await lookAtFiles(runtime, mine);
  await runtime.queue.add('read', again);
  if (again.length > 0) runtime.events.changed('clips', 'cards');
  return { same: of - again.length, again: again.length, missing: missing.slice(0, 100) };
}

/** Has clips read again as their files are now, whether those changed or not. */
export async function readAgain(runtime: InJob, ids: readonly string[]): Promise<{ added: number }> {
  await lookAtFiles(runtime, and(eq(clips.job, runtime.job), among(clips.id, ids)));
  return addWork(runtime, 'read', ids);
}

/** Looks at the files of clips and keeps what changed. `again` are clips that are not as they were read. */
async function lookAtFiles(
  runtime: InJob,
  which: SQL | undefined,
): Promise<{ of: number; again: string[]; missing: string[] }> {
  const rows = await runtime.db.select({ id: clips.id, readAs: clips.readAs }).from(clips).where(which);
  const roots = new Map((await listRoots(runtime)).map((r) => [r.id, r.path]));
  const families = byClip(
    await runtime.db
      .select()
      .from(files)
      .where(inArray(files.clip, runtime.db.select({ id: clips.id }).from(clips).where(which))),
  );
  const changed: { id: string; size: number; modified: number }[] = [];
  const missing: string[] = [];
  const again: string[] = [];
  await pMap(
    rows,
    async (row) => {
      const now = await Promise.all(
        (families.get(row.id) ?? []).map(async (f) => {
          const s = await lstat(joinPath(roots.get(f.root) ?? '', f.path)).catch((e: unknown) => {
            if (isCode(e, 'ENOENT', 'ENOTDIR')) return null;
            throw e;
          });
          if (!s) missing.push(f.path);
          // What was made here is known as it was made: one that was altered since is not removed.
          else if (isMade(f.role) && f.takenPath === null)
            return { role: f.role, size: f.size, modified: f.modified };
          else if (s.size !== f.size || Math.round(s.mtimeMs) !== Math.round(f.modified))
            changed.push({ id: f.id, size: s.size, modified: Math.round(s.mtimeMs) });
          return s
            ? { role: f.role, size: s.size, modified: s.mtimeMs }
            : { role: f.role, size: f.size, modified: f.modified };
        }),
      );
      if (row.readAs !== stateOf(now)) again.push(row.id);
    },
    { concurrency: CONCURRENCY },
  );
  for (const c of changed) await changedOnDisk(runtime.db, c);
  if (changed.length > 0 || missing.length > 0) {
    await writeLog(
      runtime,
      'facts',
      `Looked for changes: ${changed.length} files changed, ${missing.length} missing`,
    );
    runtime.events.changed('log');
  }
  return { of: rows.length, again, missing };
}
