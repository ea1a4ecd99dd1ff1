import { eq } from 'drizzle-orm';
import { grouped } from '../cards';
import { keyworded, keywords, ranges } from '../choose/tables';
import { among } from '../platform/db/among';
import type { InJob } from './ports';

/** What was marked on clips: their ranges in order, and their keywords, each of all of the clip (range "") or of one of those. */
export async function marksOf({ db }: InJob, ids: readonly string[]) {
  return {
    ranges: grouped(
      await db.select().from(ranges).where(among(ranges.clip, ids)).orderBy(ranges.from),
      (r) => r.clip,
      (r) => r,
    ),
    words: grouped(
      await db
        .select({ clip: keyworded.clip, range: keyworded.range, name: keywords.name })
        .from(keyworded)
        .innerJoin(keywords, eq(keywords.id, keyworded.keyword))
        .where(among(keyworded.clip, ids)),
      (k) => k.clip,
      (k) => k,
    ),
  };
}
