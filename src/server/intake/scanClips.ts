import pMap from 'p-map';
import { isMade } from '../../core/intake';
import { plural } from '../../core/platform/words';
import { and, eq, inArray, type SQL } from 'drizzle-orm';
import { clips, files } from '../cards/tables';
import { among } from '../platform/db/among';
import { baseOf } from '../platform/files/paths';
import type { InJob } from './ports';
import { addWork, byClip, changedOnDisk, presenceIn } from '../cards';
import { writeLog } from '../logbook';
import { stateOf } from '../facts';
import { isAway, listRoots, type Root } from '../places';

/**
 * What a scan found: clips as they were read, clips that changed or were never read to the end, and files that are gone. `unseen` are clips of
 * which a file could not be looked at, and `offline` the places of those.
 */
export interface Scanned {
  same: number;
  again: number;
  missing: string[];
  unseen: number;
  offline: string[];
}

/** How many files are looked at at once. */
const CONCURRENCY = 64;

/** Looks at every file of the job (or of one card) and has those clips read again that are not as they were read. */
export async function scanClips(runtime: InJob, card: string | null): Promise<Scanned> {
  const mine = and(eq(clips.job, runtime.job), card === null ? undefined : eq(clips.card, card));
  const { of, again, missing, unseen, offline } = await lookAtFiles(runtime, mine);
  await runtime.queue.add('read', again);
  if (again.length > 0) runtime.events.changed('clips', 'cards');
  return {
    same: of - again.length - unseen,
    again: again.length,
    missing: missing.slice(0, 100),
    ...{ unseen, offline },
  };
}

/** Has clips read again as their files are now, whether those changed or not. */
export async function readAgain(runtime: InJob, ids: readonly string[]): Promise<{ added: number }> {
  await lookAtFiles(runtime, and(eq(clips.job, runtime.job), among(clips.id, ids)));
  return addWork(runtime, 'read', ids);
}

/** Looks at the files of clips and keeps what changed. `again` are clips that are not as they were read. What is offline is left as it was. */
async function lookAtFiles(
  runtime: InJob,
  which: SQL | undefined,
): Promise<Omit<Scanned, 'same' | 'again'> & { of: number; again: string[] }> {
  const rows = await runtime.db.select({ id: clips.id, readAs: clips.readAs }).from(clips).where(which);
  const roots = new Map<string, { root: Root; base: string | null }>();
  for (const root of await listRoots(runtime))
    roots.set(root.id, {
      root,
      base: (await isAway(runtime, root)) ? null : await baseOf(root).catch(() => null),
    });
  const families = byClip(
    await runtime.db
      .select()
      .from(files)
      .where(inArray(files.clip, runtime.db.select({ id: clips.id }).from(clips).where(which))),
  );
  const changed: { id: string; size: number; modified: number }[] = [];
  const gone: (typeof files.$inferSelect)[] = [];
  const again: string[] = [];
  const offline = new Set<string>();
  const unseen = new Set<string>();
  await pMap(
    rows,
    async (row) => {
      let away = false;
      const now = await Promise.all(
        (families.get(row.id) ?? []).map(async (f) => {
          const { root, base } = roots.get(f.root) ?? {};
          const s = await presenceIn(base ?? null, root, f);
          if (s.is === 'gone') gone.push(f);
          if (s.is === 'offline') {
            away = true;
            offline.add(root?.name ?? f.root);
          }
          // What was made here is known as it was made: one that was altered since is not removed.
          if (s.is !== 'there' || (isMade(f.role) && f.takenPath === null))
            return { role: f.role, size: f.size, modified: f.modified };
          if (s.size !== f.size || s.modified !== Math.round(f.modified))
            changed.push({ id: f.id, size: s.size, modified: s.modified });
          return { role: f.role, size: s.size, modified: s.modified };
        }),
      );
      if (away) unseen.add(row.id);
      else if (row.readAs !== stateOf(now)) again.push(row.id);
    },
    { concurrency: CONCURRENCY },
  );
  // Of a drive that was pulled meanwhile nothing is missing.
  const pulled = new Set<string>();
  for (const id of new Set(gone.map((f) => f.root))) {
    const root = roots.get(id)?.root;
    if (root && (await isAway(runtime, root))) pulled.add(id);
  }
  for (const f of gone.filter((g) => pulled.has(g.root))) {
    offline.add(roots.get(f.root)!.root.name);
    unseen.add(f.clip);
  }
  const missing = gone.filter((f) => !pulled.has(f.root)).map((f) => f.path);
  for (const c of changed) await changedOnDisk(runtime.db, c);
  if (changed.length > 0 || missing.length > 0) {
    await writeLog(
      runtime,
      'facts',
      `Looked for changes: ${plural(changed.length, 'file')} changed, ${missing.length} missing`,
    );
    runtime.events.changed('log');
  }
  return {
    ...{ of: rows.length, missing, unseen: unseen.size, offline: [...offline].sort() },
    again: again.filter((id) => !unseen.has(id)),
  };
}
