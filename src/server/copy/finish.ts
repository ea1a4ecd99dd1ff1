import { and, eq, inArray, isNotNull, sql } from 'drizzle-orm';
import path from 'node:path';
import type { OffloadState } from '../../core/copying/shapes';
import { VERIFICATION_WORDS } from '../../core/copying/verification';
import { HASH_WORDS } from '../../core/exchange/hashes';
import { MHL_FOLDER } from '../../core/exchange/mhl';
import { clips, files, offloadFiles, offloads, safeCopies, work } from '../db/schema';
import { messageOf } from '../errors';
import { resolveIn } from '../files/paths';
import type { Runtime } from '../runtime';
import { applyNaming } from '../usecases/applyPlan';
import { theJob } from '../usecases/theJob';
import { writeLog } from '../usecases/log';
import { planNaming } from '../usecases/naming';
import { rootById } from '../usecases/roots';
import { version } from '../version';
import { ListedEntries } from './entries';
import { filesOf, tallies } from './fileList';
import { addGeneration } from './pool';

type OffloadRow = typeof offloads.$inferSelect;

const plural = (n: number, one: string): string => `${n} ${one}${n === 1 ? '' : 's'}`;

/**
 * Ends a copying whose files are all verified or given up: writes the hash list of each safe copy, has clips read again that
 * could not be read from the card, and names the shelf's clips. `halted` tells whether it is to stop meanwhile.
 */
export async function finishOffload(
  runtime: Runtime,
  row: OffloadRow,
  halted: () => boolean,
): Promise<{ state: OffloadState; fault: string | null }> {
  const { verified, failed } = (await tallies(runtime)).get(row.id) ?? { verified: 0, failed: 0 };
  const faults: string[] = [];
  if (failed > 0) faults.push(`${plural(failed, 'file')} could not be copied.`);
  const made: string[] = [];
  for (const [i, d] of row.destinations.entries()) {
    if (d.kind !== 'safe' || d.dropped) continue;
    const root = await rootById(runtime, d.root);
    made.push(root.name);
    const [copy] = await runtime.db
      .select({ id: safeCopies.id, listed: safeCopies.listed })
      .from(safeCopies)
      .where(and(eq(safeCopies.offload, row.id), eq(safeCopies.destination, i)));
    const listed = new ListedEntries();
    let held = 0;
    for await (const page of filesOf(runtime, row.id, ['verified'])) {
      for (const r of page.filter((f) => f.to.includes(i))) {
        held++;
        if (!r.path.startsWith(`${MHL_FOLDER}/`))
          listed.add({
            path: r.path,
            size: r.size,
            modified: r.modified,
            kind: row.hash,
            value: r.hash!,
            action: 'original',
          });
      }
    }
    // Files that were copied at a second try make another generation, which names all.
    if (!copy || held === copy.listed) continue;
    try {
      await addGeneration(await resolveIn(root, d.folder), {
        process: 'transfer',
        kind: row.hash,
        emptyFolders: row.emptyFolders,
        version,
        entries: listed.pages(),
      });
      await runtime.db
        .update(safeCopies)
        .set({ listed: held, seenAt: new Date() })
        .where(eq(safeCopies.id, copy.id));
    } catch (e) {
      faults.push(`The hash list of the copy on ${root.name} could not be written: ${messageOf(e)}`);
    }
  }
  await readAgain(runtime, row.id);
  const shelf = row.destinations.some((d) => d.kind === 'shelf' && !d.dropped);
  await runtime.db.update(offloads).set({ state: 'naming' }).where(eq(offloads.id, row.id));
  const named = shelf ? await nameOnShelf(runtime, row, halted) : null;
  if (named?.fault) faults.push(named.fault);
  if (halted()) return { state: 'queued', fault: null };
  const where = [...made, ...(shelf ? ['the shelf'] : [])].join(', ');
  await writeLog(
    runtime,
    'copy',
    `Copied ${row.card} to ${where}: ${plural(verified, 'file')} verified (${VERIFICATION_WORDS[row.verification].name.toLowerCase()}, ${HASH_WORDS[row.hash]})${failed > 0 ? `, ${failed} not` : ''}`,
  );
  return { state: failed > 0 ? 'partly' : 'done', fault: faults.length > 0 ? faults.join(' ') : null };
}

/** Clips that could not be read from the card are read from the copy. */
async function readAgain(runtime: Runtime, offload: string): Promise<void> {
  const unread = await runtime.db
    .selectDistinct({ id: clips.id })
    .from(clips)
    .innerJoin(files, eq(files.clip, clips.id))
    .innerJoin(offloadFiles, eq(offloadFiles.file, files.id))
    .where(
      and(
        eq(offloadFiles.offload, offload),
        eq(offloadFiles.state, 'verified'),
        eq(files.role, 'original'),
        eq(clips.state, 'unreadable'),
      ),
    );
  await runtime.queue.add(
    'read',
    unread.map((c) => c.id),
  );
}

/** Names the clips of this copying that stand on the shelf, once all of them are read. Those that clash stay where they were copied to, and are said. */
async function nameOnShelf(
  runtime: Runtime,
  row: OffloadRow,
  halted: () => boolean,
): Promise<{ fault: string | null }> {
  const withState = async (states: (typeof offloadFiles.$inferSelect)['state'][]): Promise<string[]> =>
    (
      await runtime.db
        .selectDistinct({ clip: files.clip })
        .from(offloadFiles)
        .innerJoin(files, eq(files.id, offloadFiles.file))
        .where(
          and(
            eq(offloadFiles.offload, row.id),
            inArray(offloadFiles.state, states),
            isNotNull(offloadFiles.file),
          ),
        )
    ).map((r) => r.clip);
  // A family is named whole or not at all: one of which a file is missing waits for it.
  const broken = new Set(await withState(['failed', 'waiting']));
  const mine = (await withState(['verified'])).filter((clip) => !broken.has(clip));
  if (mine.length === 0) return { fault: null };
  for (;;) {
    const [open] = await runtime.db
      .select({ n: sql<number>`count(*)::int` })
      .from(work)
      .where(
        and(
          inArray(work.kind, ['read', 'rest']),
          inArray(work.state, ['queued', 'running']),
          inArray(work.clip, runtime.db.select({ id: clips.id }).from(clips).where(eq(clips.card, row.card))),
        ),
      );
    if (!open || open.n === 0) break;
    if (halted()) return { fault: null };
    await new Promise((r) => setTimeout(r, 300));
  }
  const job = await theJob(runtime);
  const others = (await runtime.db.select({ id: clips.id }).from(clips).where(eq(clips.card, row.card)))
    .map((c) => c.id)
    .filter((id) => !mine.includes(id));
  const request = {
    convention: job.convention,
    folderPlan: job.folderPlan,
    cards: [row.card],
    without: others,
  };
  let { preview } = await planNaming(runtime, request);
  const stopped = preview.rows.filter((r) => r.problems.some((p) => p.level === 'stop'));
  if (stopped.length > 0) {
    request.without = [...others, ...stopped.map((r) => r.clipId)];
    ({ preview } = await planNaming(runtime, request));
  }
  const [unreadable] = await runtime.db
    .select({ original: clips.original, fault: clips.fault })
    .from(clips)
    .where(
      and(eq(clips.card, row.card), eq(clips.state, 'unreadable'), inArray(clips.id, mine.slice(0, 10_000))),
    );
  const unread = unreadable
    ? `${unreadable.original} was copied as it is on the card, but cannot be read: ${unreadable.fault}.`
    : null;
  const fault =
    stopped.length > 0
      ? `${plural(stopped.length, 'clip')} kept the camera’s name in ${path.posix.join('Incoming', row.card)} (${stopped[0]!.original}: ${stopped[0]!.problems.find((p) => p.level === 'stop')!.text}). Name them on the naming bench.`
      : unread;
  if (preview.stops > 0 || preview.steps === 0) return { fault };
  const result = await applyNaming(runtime, { ...request, fingerprint: preview.fingerprint }).catch(
    (e: unknown) => ({ failed: [{ file: '', fault: messageOf(e) }] }),
  );
  return {
    fault: result.failed.length > 0 ? `${fault ?? ''} Naming: ${result.failed[0]!.fault}`.trim() : fault,
  };
}
