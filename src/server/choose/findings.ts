import { and, eq, sql } from 'drizzle-orm';
import { Finding, findingWords } from '../../core/analysis';
import type { RangeView } from '../../core/choose';
import { stateOf } from '../analysis';
import { analyses } from '../analysis/tables';
import { clips, files } from '../cards/tables';
import { CLIPS } from './catalogue';
import type { InJob } from './ports';

/**
 * What the checks of picture and sound found, by clip, as ranges of their own kind: they follow from what was decoded, and nobody keeps
 * or changes them. Those of an original that is another by now do not count.
 */
export const findingsOf = (runtime: InJob): Promise<ReadonlyMap<string, RangeView[]>> =>
  runtime.viewCache.get(
    `findings of ${runtime.job}`,
    async () => {
      const { db, database, job } = runtime;
      const rows = await database.texts(
        db
          .select({
            clip: analyses.clip,
            of: analyses.of,
            found: sql`${analyses.seen} -> 'findings'`,
            size: files.size,
            modified: files.modified,
          })
          .from(analyses)
          .innerJoin(clips, and(eq(clips.id, analyses.clip), eq(clips.job, job)))
          .innerJoin(files, and(eq(files.clip, analyses.clip), eq(files.role, 'original')))
          .where(sql`jsonb_array_length(coalesce(${analyses.seen} -> 'findings', '[]')) > 0`)
          .getSQL(),
      );
      const found = new Map<string, RangeView[]>();
      for (const [clip, of, list, size, modified] of rows) {
        if (of !== stateOf({ size: Number(size), modified: Number(modified) })) continue;
        const ranges = Finding.array()
          .parse(JSON.parse(list!))
          .map((f) => ({
            id: `${clip} ${f.what} ${f.from}`,
            clip: clip!,
            kind: 'found' as const,
            ...{ from: f.from, to: f.to },
            name: findingWords(f),
            note: '',
            keywords: [],
          }));
        found.set(clip!, ranges);
      }
      return found;
    },
    CLIPS,
  );
