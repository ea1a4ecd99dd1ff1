import { and, eq, inArray } from 'drizzle-orm';
import { type FieldId, FIELDS } from '../../core/facts';
import { jobs } from '../jobs/tables';
import type { InJob } from './ports';
import { facts, shown } from './tables';

const KNOWN = new Set<string>(FIELDS.map((f) => f.id));

/** What is chosen of some fields for every clip of the job, as a person reads it. Fields that are not known are left out. */
export async function chosenWords(
  { db, database, job }: Pick<InJob, 'db' | 'database' | 'job'>,
  fields: readonly string[],
): Promise<Map<string, Record<string, string>>> {
  const known = fields.filter((f) => KNOWN.has(f)) as FieldId[];
  const out = new Map<string, Record<string, string>>();
  if (known.length === 0) return out;
  const rows = await database.texts(
    db
      .select({ clip: shown.clip, field: facts.field, words: facts.words })
      .from(facts)
      .innerJoin(jobs, eq(jobs.number, facts.job))
      .innerJoin(shown, eq(shown.number, facts.clip))
      .where(and(eq(jobs.id, job), eq(facts.chosen, true), inArray(facts.field, known)))
      .getSQL(),
  );
  for (const [clip, field, words] of rows as [string, string, string][]) {
    const of = out.get(clip);
    if (of) of[field] = words;
    else out.set(clip, { [field]: words });
  }
  return out;
}
