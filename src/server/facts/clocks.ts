import { and, eq, gte, inArray, lte } from 'drizzle-orm';
import { randomUUID } from 'node:crypto';
import { spanWords, suspectClocks, type Roll } from '../../core/facts/clocks';
import type { Clock, ClocksView } from '../../core/facts/shapes';
import { cards, clips, clocks, files } from '../platform/db/schema';
import { Clash, NotFound } from '../platform/errors';
import type { Runtime } from '../runtime';
import { findJob, theJob } from '../jobs';
import { writeLog } from '../logbook';
import { clipName } from '../cards';
import { contextsOf, showAgain } from './readClips';

/** Every clip that says when it was recorded, as far as its clock can be judged. */
async function rollsOf(runtime: Runtime): Promise<Roll[]> {
  const job = await theJob(runtime);
  const contexts = await contextsOf(runtime, job);
  const originals = new Map(
    (
      await runtime.db
        .select({ clip: files.clip, path: files.path, suffix: files.suffix, modified: files.modified })
        .from(files)
        .where(eq(files.role, 'original'))
    ).map((f) => [f.clip, f]),
  );
  const rows = await runtime.db
    .select({
      id: clips.id,
      card: clips.card,
      camera: cards.camera,
      day: cards.day,
      brief: clips.brief,
      original: clips.original,
    })
    .from(clips)
    .innerJoin(cards, eq(cards.id, clips.card));
  return rows.flatMap(({ id, card, camera, day, brief, original }): Roll[] => {
    if (!brief?.recordedAt) return [];
    const file = originals.get(id);
    return [
      {
        clip: id,
        name: clipName(file, original),
        camera,
        day,
        from: Date.parse(`${brief.recordedAt}Z`) / 1000,
        seconds: brief.seconds ?? 0,
        timecode: brief.timecode,
        // A time that comes from the file itself cannot be compared with the file; a clock that was put right is compared as it was.
        written:
          file && brief.recordedBy !== 'fileTime'
            ? Math.round(file.modified / 1000) +
              job.zoneMinutes * 60 +
              (contexts.get(card)?.clockSeconds ?? 0)
            : null,
      },
    ];
  });
}

export const clocksView = (runtime: Runtime): Promise<ClocksView> =>
  runtime.memory.of('clocks', async () => {
    const rolls = await rollsOf(runtime);
    const set = await runtime.db.select().from(clocks).orderBy(clocks.camera, clocks.fromDay);
    // What the person has decided about is not suggested again.
    const suspicions = suspectClocks(rolls).filter(
      (s) => !set.some((c) => c.camera === s.camera && c.fromDay <= s.toDay && c.toDay >= s.fromDay),
    );
    return { clocks: set, suspicions, rolls };
  });

/** Clocks that look wrong and about which nobody has decided; none before a job was begun. */
export async function openSuspicions(runtime: Runtime): Promise<ClocksView['suspicions']> {
  return (await findJob(runtime)) ? (await clocksView(runtime)).suspicions : [];
}

/** Sets a camera's clock right for a span of days. Nothing that was read is changed; names follow when they are made anew. */
export async function setClock(runtime: Runtime, wanted: Clock): Promise<{ id: string }> {
  const [other] = await runtime.db
    .select()
    .from(clocks)
    .where(
      and(
        eq(clocks.camera, wanted.camera),
        lte(clocks.fromDay, wanted.toDay),
        gte(clocks.toDay, wanted.fromDay),
      ),
    );
  if (other)
    throw new Clash(
      `Camera ${wanted.camera} has a correction for day ${other.fromDay}${other.toDay > other.fromDay ? ` to ${other.toDay}` : ''} already.`,
      { next: 'Take that one back first.' },
    );
  const id = randomUUID();
  await runtime.db.insert(clocks).values({ id, ...wanted });
  await changed(
    runtime,
    wanted,
    `Set the clock of camera ${wanted.camera} ${spanWords(wanted.seconds)} ${wanted.seconds >= 0 ? 'later' : 'earlier'} for day ${wanted.fromDay}${wanted.toDay > wanted.fromDay ? ` to ${wanted.toDay}` : ''}`,
  );
  return { id };
}

export async function dropClock(runtime: Runtime, id: string): Promise<void> {
  const [gone] = await runtime.db.delete(clocks).where(eq(clocks.id, id)).returning();
  if (!gone) throw new NotFound('This correction is gone already.');
  await changed(
    runtime,
    gone,
    `Took back the clock correction of camera ${gone.camera} for day ${gone.fromDay}${gone.toDay > gone.fromDay ? ` to ${gone.toDay}` : ''}`,
  );
}

async function changed(
  runtime: Runtime,
  { camera, fromDay, toDay }: Pick<Clock, 'camera' | 'fromDay' | 'toDay'>,
  words: string,
): Promise<void> {
  const touched = runtime.db
    .select({ id: cards.id })
    .from(cards)
    .where(and(eq(cards.camera, camera), gte(cards.day, fromDay), lte(cards.day, toDay)));
  await showAgain(
    runtime,
    (await runtime.db.select({ id: clips.id }).from(clips).where(inArray(clips.card, touched))).map(
      (c) => c.id,
    ),
  );
  await writeLog(runtime, 'facts', words);
  runtime.events.changed('clips', 'cards', 'log', 'job');
}
