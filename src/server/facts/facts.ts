import { and, asc, eq, inArray, notInArray, sql } from 'drizzle-orm';
import { FIELDS, formatValue, type Source, type Statement } from '../../core/facts/catalogue';
import { contradicts, type Facts, factsOf } from '../../core/facts/facts';
import { WORKED_OUT } from '../../core/facts/rows';
import type { SideBySide, Stated } from '../../core/facts/shapes';
import { showFact, statedRows } from '../../core/facts/table';
import { cameras, cards, clips, files } from '../cards/tables';
import { facts, shown } from './tables';
import { NotFound } from '../platform/errors';
import { alone, endIfStopped, type TaskContext } from '../platform/work/context';
import type { InJob } from './ports';
import { cardOfClip, byClip, type FileRow, clipName, statementsOf } from '../cards';
import { requireJob } from '../jobs';
import { contextsOf, ofFiles, upToDate } from './workOut';

/** A clip of the job with everything that is known of it. */
export interface KnownClip {
  id: string;
  name: string;
  card: string;
  statements: Statement[];
  facts: Facts;
  notes: string[];
  fault: string | null;
  family: FileRow[];
}

/** Those of these clips that are in the job, in their order. Throws where the task is stopped. */
export async function factsOfClips(
  runtime: InJob,
  ids: readonly string[],
  task: TaskContext = alone(),
): Promise<KnownClip[]> {
  const job = await requireJob(runtime);
  const contexts = await contextsOf(runtime, job);
  const found = new Map<string, KnownClip>();
  for (let i = 0; i < ids.length; i += 500) {
    endIfStopped(task);
    task.progress(i, ids.length);
    const some = ids.slice(i, i + 500);
    const families = byClip(await runtime.db.select().from(files).where(inArray(files.clip, some)));
    const stated = await statementsOf(runtime.db, some);
    for (const row of await runtime.db
      .select()
      .from(clips)
      .where(and(eq(clips.job, runtime.job), inArray(clips.id, some)))) {
      const family = families.get(row.id) ?? [];
      const statements = [...(stated.get(row.id) ?? []), ...ofFiles(family, row.original, job.zoneMinutes)];
      const original = family.find((f) => f.role === 'original');
      found.set(row.id, {
        id: row.id,
        name: clipName(original, row.original),
        card: row.card,
        statements,
        facts: factsOf(statements, contexts.get(row.card)),
        notes: row.notes,
        fault: row.fault,
        family,
      });
    }
  }
  return ids.flatMap((id) => found.get(id) ?? []);
}

/** Some clips side by side, with what differs marked. */
export async function sideBySide(runtime: InJob, ids: readonly string[]): Promise<SideBySide> {
  const found = await factsOfClips(runtime, ids);
  if (found.length < 1)
    throw new NotFound('None of these clips is in the job any longer.', {
      next: 'Choose others in the table.',
    });
  return {
    clips: found.map(({ id, name, card }) => ({ id, name, card })),
    rows: FIELDS.flatMap(({ id }) => {
      const stated = found.map((c) => c.facts.get(id) ?? null);
      if (stated.every((f) => f === null)) return [];
      const cells = stated.map(
        (f) =>
          f && {
            shown: showFact(f),
            others: f.others
              .map((o) => ({
                value: formatValue(o.value, id),
                source: o.source,
                contradicts: contradicts(id, f.chosen, o),
              }))
              .filter((o) => o.value !== showFact(f)[0]),
          },
      );
      return [{ field: id, differs: new Set(cells.map((c) => c?.shown[0] ?? null)).size > 1, cells }];
    }),
  };
}

/** Which camera states which field. A time of day that stands in for a timecode is nobody's statement. */
export const statedView = async (runtime: InJob): Promise<Stated> => {
  await upToDate(runtime);
  return runtime.viewCache.get(`stated of ${runtime.job}`, async () => {
    const mine = and(eq(clips.job, runtime.job), eq(clips.state, 'read'));
    const known = await runtime.db
      .select({ label: cameras.label, model: cameras.model, clips: sql<number>`count(*)::int` })
      .from(clips)
      .innerJoin(cards, cardOfClip)
      .innerJoin(cameras, and(eq(cameras.job, cards.job), eq(cameras.label, cards.camera)))
      .where(mine)
      .groupBy(cameras.label, cameras.model)
      .orderBy(asc(cameras.label));
    const stated = await runtime.db
      .select({
        camera: cards.camera,
        field: facts.field,
        stated: sql<number>`count(distinct ${facts.clip})::int`,
        sources: sql<Source[]>`jsonb_agg(distinct ${facts.source})`,
      })
      .from(facts)
      .innerJoin(shown, eq(shown.number, facts.clip))
      .innerJoin(clips, eq(clips.id, shown.clip))
      .innerJoin(cards, cardOfClip)
      .where(and(mine, notInArray(facts.source, [...WORKED_OUT, 'clock'])))
      .groupBy(cards.camera, facts.field);
    return { cameras: known, rows: statedRows(known, stated) };
  });
};
