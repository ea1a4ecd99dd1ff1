import { OPEN_WORK } from '../../core/platform/shapes';
import { and, eq, inArray, isNotNull } from 'drizzle-orm';
import { type OffloadAction, type OffloadView } from '../../core/offload/shapes';
import { among } from '../platform/db/among';
import { files } from '../cards/tables';
import { offloadFiles, offloads } from './tables';
import { work } from '../platform/work/tables';
import { queueCopy } from './copyCard';
import { filesOf } from './fileList';
import { NotFound, Refused } from '../platform/errors';
import type { InJob } from './ports';
import { writeLog } from '../logbook';
import { forgetClips } from '../cards';

/** A copying of the job. Throws NotFound. */
export async function offloadOf(runtime: InJob, id: string): Promise<typeof offloads.$inferSelect> {
  const [row] = await runtime.db
    .select()
    .from(offloads)
    .where(and(eq(offloads.job, runtime.job), eq(offloads.id, id)));
  if (!row) throw new NotFound('There is no such copy.', { next: 'Go back to Intake.' });
  return row;
}

export async function actOnOffload(
  runtime: InJob,
  id: string,
  { action, destination }: OffloadAction,
): Promise<void> {
  const row = await offloadOf(runtime, id);
  const only = (...states: (typeof row.state)[]) => {
    if (!states.includes(row.state))
      throw new Refused(`The copy of ${row.card} is ${STATE_WORDS[row.state]}.`);
  };
  const piece = (await runtime.queue.openFor('copy', id)).map((w) => w.id);
  if (action === 'pause') {
    await runtime.queue.pause(piece);
    await runtime.queue.ended(piece);
  } else if (action === 'resume') await goOn(runtime, row);
  else if (action === 'cancel') {
    only('queued', 'running', 'paused', 'waiting');
    await runtime.queue.cancel(piece);
    await runtime.queue.ended(piece);
    await forgetUncopied(runtime, id);
    await writeLog(runtime, 'copy', `Cancelled the copy of ${row.card}: what was verified stays`);
  } else if (action === 'retry') {
    only('partly');
    await runtime.db
      .update(offloadFiles)
      .set({ state: 'waiting', fault: null })
      .where(and(eq(offloadFiles.offload, id), eq(offloadFiles.state, 'failed')));
    await runtime.db
      .update(offloads)
      .set({ state: 'queued', fault: null, endedAt: null })
      .where(eq(offloads.id, id));
    await queueCopy(runtime, row);
  } else {
    only('paused', 'waiting');
    const left = row.destinations.map((d, i) => (i === destination ? { ...d, dropped: true } : d));
    if (destination === undefined || !row.destinations[destination] || left.every((d) => d.dropped))
      throw new Refused('A copy needs at least one destination.', { next: 'Cancel it instead.' });
    await runtime.db.update(offloads).set({ destinations: left }).where(eq(offloads.id, id));
    // What goes nowhere any more is left on the card.
    for await (const page of filesOf(runtime, id, ['waiting'])) {
      const nowhere = page.filter((f) => f.to.every((i) => left[i]!.dropped)).map((f) => f.number);
      if (nowhere.length > 0)
        await runtime.db
          .update(offloadFiles)
          .set({ state: 'left' })
          .where(and(eq(offloadFiles.offload, id), inArray(offloadFiles.number, nowhere)));
    }
    await goOn(runtime, row);
  }
  runtime.events.changed('copies', 'log', 'clips', 'cards');
}

/** Goes on with a copying that rests; one that no work is there for begins anew. */
async function goOn(runtime: InJob, row: typeof offloads.$inferSelect): Promise<void> {
  if (row.state !== 'paused' && row.state !== 'waiting') return;
  const { task } = await queueCopy(runtime, row);
  await runtime.queue.resume([task]);
}

/** Clips of a cancelled copying whose files are not all in a copy leave the job: they are on the card as they were. */
async function forgetUncopied(runtime: InJob, id: string): Promise<void> {
  const waiting = await runtime.db
    .selectDistinct({ clip: files.clip })
    .from(offloadFiles)
    .innerJoin(files, eq(files.id, offloadFiles.file))
    .where(
      and(eq(offloadFiles.offload, id), eq(offloadFiles.state, 'waiting'), isNotNull(offloadFiles.file)),
    );
  const ids = waiting.map((w) => w.clip);
  if (ids.length === 0) return;
  const open = await runtime.db
    .select({ id: work.id })
    .from(work)
    .where(and(among(work.clip, ids), inArray(work.state, [...OPEN_WORK])));
  await runtime.queue.cancel(open.map((o) => o.id));
  await forgetClips(runtime.db, runtime.job, ids);
}

const STATE_WORDS: Record<OffloadView['state'], string> = {
  queued: 'queued',
  running: 'running',
  paused: 'paused',
  waiting: 'waiting',
  naming: 'being named',
  done: 'done',
  partly: 'done but for some files',
  cancelled: 'cancelled',
};
