import { and, eq, gte, lte, sql } from 'drizzle-orm';
import { randomUUID } from 'node:crypto';
import { NO_BRIEF } from '../../core/facts';
import { spanWords, suspectClocks, type Roll } from '../../core/facts/clocks';
import type { Clock, ClocksView } from '../../core/facts/shapes';
import { cards, files } from '../cards/tables';
import { clocks, shown } from './tables';
import { bulk } from '../platform/db/bulk';
import { Clash, NotFound } from '../platform/errors';
import type { InJob } from './ports';
import { requireJob } from '../jobs';
import { writeLog } from '../logbook';
import { contextsOf, upToDate } from './workOut';

/** Every clip that says when it was recorded, as far as its clock can be judged. */
async function rollsOf(runtime: InJob): Promise<Roll[]> {
  const job = await requireJob(runtime);
  const contexts = await contextsOf(runtime, job);
  const columns = {
    clip: shown.clip,
    name: shown.name,
    card: cards.id,
    camera: cards.camera,
    day: cards.day,
    from: shown.recorded,
    brief: shown.brief,
    modified: files.modified,
  };
  const rows = await bulk(
    runtime.database,
    columns,
    runtime.db
      .select(columns)
      .from(shown)
      .innerJoin(cards, and(eq(cards.job, shown.job), eq(cards.id, shown.card)))
      .innerJoin(files, and(eq(files.clip, shown.clip), eq(files.role, 'original')))
      .where(and(eq(shown.job, runtime.job), sql`${shown.recorded} < 'infinity'`)),
  );
  return rows.map(({ clip, name, card, camera, day, from, brief, modified }): Roll => {
    const { seconds, timecode, recordedBy } = brief ?? NO_BRIEF;
    return {
      ...{ clip, name, camera, day, from, timecode, seconds: seconds ?? 0 },
      // A time that comes from the file itself cannot be compared with the file; a clock that was put right is compared as it was.
      written:
        recordedBy === 'fileTime'
          ? null
          : Math.round(modified / 1000) + job.zoneMinutes * 60 + (contexts.get(card)?.clockSeconds ?? 0),
    };
  });
}

export const clocksView = async (runtime: InJob): Promise<ClocksView> => {
  await upToDate(runtime);
  return runtime.viewCache.get(`clocks of ${runtime.job}`, async () => {
    const rolls = await rollsOf(runtime);
    const set = await runtime.db
      .select({
        id: clocks.id,
        camera: clocks.camera,
        fromDay: clocks.fromDay,
        toDay: clocks.toDay,
        seconds: clocks.seconds,
        note: clocks.note,
      })
      .from(clocks)
      .where(eq(clocks.job, runtime.job))
      .orderBy(clocks.camera, clocks.fromDay);
    // What the person has decided about is not suggested again.
    const suspicions = suspectClocks(rolls).filter(
      (s) => !set.some((c) => c.camera === s.camera && c.fromDay <= s.toDay && c.toDay >= s.fromDay),
    );
    return { clocks: set, suspicions, rolls };
  });
};

/** Clocks that look wrong and about which nobody has decided. */
export async function openSuspicions(runtime: InJob): Promise<ClocksView['suspicions']> {
  return (await clocksView(runtime)).suspicions;
}

/** Sets a camera's clock right for a span of days. Nothing that was read is changed; names follow when they are made anew. */
export async function setClock(runtime: InJob, wanted: Clock): Promise<{ id: string }> {
  const [other] = await runtime.db
    .select()
    .from(clocks)
    .where(
      and(
        eq(clocks.job, runtime.job),
        eq(clocks.camera, wanted.camera),
        lte(clocks.fromDay, wanted.toDay),
        gte(clocks.toDay, wanted.fromDay),
      ),
    );
  if (other)
    throw new Clash(
      `Camera ${wanted.camera} has a correction for day ${other.fromDay}${other.toDay > other.fromDay ? ` to ${other.toDay}` : ''} already.`,
      { next: 'Undo that one first.' },
    );
  const id = randomUUID();
  await runtime.db.insert(clocks).values({ id, job: runtime.job, ...wanted });
  await changed(
    runtime,
    `Set the clock of camera ${wanted.camera} ${spanWords(wanted.seconds)} ${wanted.seconds >= 0 ? 'later' : 'earlier'} for day ${wanted.fromDay}${wanted.toDay > wanted.fromDay ? ` to ${wanted.toDay}` : ''}`,
  );
  return { id };
}

export async function dropClock(runtime: InJob, id: string): Promise<void> {
  const [gone] = await runtime.db
    .delete(clocks)
    .where(and(eq(clocks.job, runtime.job), eq(clocks.id, id)))
    .returning();
  if (!gone) throw new NotFound('This correction has already been removed.');
  await changed(
    runtime,
    `Removed the clock correction of camera ${gone.camera} for day ${gone.fromDay}${gone.toDay > gone.fromDay ? ` to ${gone.toDay}` : ''}`,
  );
}

async function changed(runtime: InJob, words: string): Promise<void> {
  await upToDate(runtime);
  await writeLog(runtime, 'facts', words);
  runtime.events.changed('clips', 'cards', 'log', 'job');
}
