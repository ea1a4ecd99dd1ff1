import { and, eq } from 'drizzle-orm';
import type { OffloadState } from '../../core/offload/shapes';
import { VERIFICATION_WORDS } from '../../core/offload/verification';
import { HASH_WORDS, MHL_FOLDER } from '../../core/hashLists';
import { clips, files } from '../cards/tables';
import { offloadFiles, offloads } from './tables';
import { safeCopies } from '../custody/tables';
import { inWords } from '../platform/files/faults';
import { resolveIn } from '../platform/files/paths';
import type { InJob } from './ports';
import { writeLog } from '../logbook';
import { rootById } from '../places';
import { version } from '../platform/version';
import { plural } from '../../core/platform/words';
import { ListedEntries, addGeneration } from '../transfer';
import { filesOf, tallies } from './fileList';
import { keepListed } from '../custody';

type OffloadRow = typeof offloads.$inferSelect;

/** Names what was copied to the shelf; resolves with what kept it from doing so. `halted` tells whether it is to stop. */
export type NameCopied = (
  row: Pick<OffloadRow, 'id' | 'job' | 'card' | 'destinations'>,
  halted: () => boolean,
) => Promise<{ fault: string | null }>;

/**
 * Ends a copying whose files are all verified or given up: writes the hash list of each safe copy, has clips read again that
 * could not be read from the card, and names the shelf's clips. `halted` tells whether it is to stop meanwhile; `requirePlace` throws where
 * a destination's volume was taken away.
 */
export async function finishOffload(
  runtime: InJob,
  row: OffloadRow,
  {
    halted,
    requirePlace,
    nameCopied,
  }: {
    halted: () => boolean;
    requirePlace: (destination: number) => Promise<void>;
    nameCopied: NameCopied;
  },
): Promise<{ state: OffloadState; fault: string | null }> {
  const { verified, failed } = (await tallies(runtime)).get(row.id) ?? { verified: 0, failed: 0 };
  const faults: string[] = [];
  if (failed > 0) faults.push(`${plural(failed, 'file')} could not be copied.`);
  const made: string[] = [];
  for (const [i, d] of row.destinations.entries()) {
    if (d.dropped) continue;
    await requirePlace(i);
    if (d.kind !== 'safe') continue;
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
    } catch (e) {
      faults.push(`The hash list of the copy on ${root.name} could not be written: ${inWords(e)}`);
      continue;
    } finally {
      await requirePlace(i);
    }
    await keepListed(runtime.db, copy.id, held);
  }
  await readAgain(runtime, row.id);
  const shelf = row.destinations.some((d) => d.kind === 'shelf' && !d.dropped);
  await runtime.db.update(offloads).set({ state: 'naming' }).where(eq(offloads.id, row.id));
  const named = shelf ? await nameCopied(row, halted) : null;
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
async function readAgain(runtime: InJob, offload: string): Promise<void> {
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
