import { and, eq, ne } from 'drizzle-orm';
import { isMade } from '../../core/intake';
import { shownPath } from '../../core/platform/names';
import type { PairAction } from '../../core/proxies/shapes';
import { clipName, forgetFile, presenceOf } from '../cards';
import { clips, files } from '../cards/tables';
import { writeLog } from '../logbook';
import { NotFound, Refused } from '../platform/errors';
import { resolveIn } from '../platform/files/paths';
import { rm } from '../platform/files/onDisk';
import { isMovable, isStanding, rootById } from '../places';
import type { InJob } from './ports';
import { pairs } from './tables';

interface Row {
  file: typeof files.$inferSelect;
  clip: typeof clips.$inferSelect;
}

/** Marks the file that stands for its clip in the edit, takes the mark back, or removes a file that was made here. */
export async function actOnPair(
  runtime: InJob,
  { action, file: id }: PairAction,
): Promise<{ freed: number }> {
  const [row] = await runtime.db
    .select({ file: files, clip: clips })
    .from(files)
    .innerJoin(clips, and(eq(clips.id, files.clip), eq(clips.job, runtime.job)))
    .where(eq(files.id, id));
  if (!row || (!isMade(row.file.role) && row.file.role !== 'cameraProxy'))
    throw new NotFound('This file is no longer beside an original of the job.', { next: 'Look again.' });
  let freed = 0;
  if (action === 'remove') freed = await runtime.exclusively(() => removeMade(runtime, row));
  else if (action === 'apart') await takeApart(runtime, row);
  else await mark(runtime, row.file, action === 'stands');
  runtime.events.changed('clips', 'cards');
  return { freed };
}

async function mark(runtime: InJob, file: typeof files.$inferSelect, stands: boolean): Promise<void> {
  await runtime.db.transaction(async (tx) => {
    await tx
      .update(pairs)
      .set({ stands: false })
      .where(and(eq(pairs.clip, file.clip), ne(pairs.file, file.id)));
    const changed = await tx.update(pairs).set({ stands }).where(eq(pairs.file, file.id)).returning();
    if (stands && changed.some((p) => p.part !== null))
      throw new Refused('This is a part of its clip and does not stand for all of it.', { file: file.path });
    if (changed.length === 0)
      throw new Refused('This file has not been compared with its original yet.', {
        file: file.path,
        next: 'Prove the pair first.',
      });
  });
}

/** Takes an adopted file apart from its clip: it stays on the disk as it is. */
async function takeApart(runtime: InJob, { file, clip }: Row): Promise<void> {
  if (file.role !== 'proxy' || file.takenPath === null)
    throw new Refused(`${shownPath(file.path)} was not adopted: it belongs to its clip.`, {
      file: file.path,
    });
  await forgetFile(runtime.db, file.id);
  const name = clipName(undefined, clip.original);
  await writeLog(runtime, 'pair', `Took ${shownPath(file.path)} apart from ${name}; it stays where it is`);
}

/** Removes a file that was made here and is as it was made; returns its bytes. What is not, or was altered, is not touched. */
async function removeMade(runtime: InJob, { file, clip }: Row): Promise<number> {
  if (!isMade(file.role) || file.takenPath !== null)
    throw new Refused(`${shownPath(file.path)} was not made here: Sort Shelf removes only what it made.`, {
      file: file.path,
    });
  const root = await rootById(runtime, file.root);
  if (!isMovable(root.kind))
    throw new Refused(`“${root.name}” is only read: nothing is removed there.`, { file: file.path });
  const at = await resolveIn(root, file.path);
  const now = await presenceOf(root, file);
  // What its drive was mounted at may still be there, empty.
  if (now.is === 'offline' || (now.is === 'gone' && !(await isStanding(runtime, root))))
    throw new NotFound(`“${root.name}” is not here: whether ${shownPath(file.path)} is there is not known.`, {
      file: file.path,
      next: 'Connect its drive.',
    });
  const isThere = now.is === 'there';
  if (isThere && (now.size !== file.size || now.modified !== Math.round(file.modified)))
    throw new Refused(`${shownPath(file.path)} has changed since it was made, and was left as it is.`, {
      file: file.path,
      next: 'Look at it. Where it is not wanted, remove it in the file manager.',
    });
  // Where it cannot be removed it stays known.
  if (isThere) await rm(at);
  await forgetFile(runtime.db, file.id);
  await writeLog(
    runtime,
    'proxy',
    `Removed the ${file.role} ${shownPath(file.path)} of ${clipName(undefined, clip.original)}${isThere ? '' : ', which was gone already'}`,
  );
  return isThere ? now.size : 0;
}
