import { and, eq, sql } from 'drizzle-orm';
import { Finding, findingWords } from '../../core/analysis';
import { countOf, type RangeView } from '../../core/choose';
import { stateOf } from '../analysis';
import { analyses } from '../analysis/tables';
import { grouped } from '../cards';
import { clips, files } from '../cards/tables';
import { edits, editUses } from '../handover/tables';
import { CLIPS, clipsOfJob, columnOf, MARKS } from './catalogue';
import type { InJob } from './ports';

/**
 * What a sound recorder, the checks of picture and sound, and edits say, by clip, as ranges of their own kinds, circled takes first: they follow
 * from files, and nobody keeps or changes them.
 */
export const findingsOf = (runtime: InJob): Promise<ReadonlyMap<string, RangeView[]>> =>
  runtime.viewCache.get(
    `found and circled of ${runtime.job}`,
    async () => {
      const found = new Map(await checkedOf(runtime));
      for (const [clip, used] of await usedOf(runtime))
        found.set(clip, [...(found.get(clip) ?? []), ...used]);
      const circled = await columnOf(runtime, 'circled');
      if (circled.size === 0) return found;
      for (const { id, number, kind, brief } of await clipsOfJob(runtime)) {
        const frames = countOf({ ...brief, kind })?.frames;
        if (frames === undefined || circled.get(number)?.words !== 'yes') continue;
        const range = { id: `${id} circled`, clip: id, kind: 'circled' as const, from: 0, to: frames };
        found.set(id, [{ ...range, name: '', note: '', keywords: [] }, ...(found.get(id) ?? [])]);
      }
      return found;
    },
    [...CLIPS, ...MARKS],
  );

/** What edits that came back use of clips; each stretch is named as its edit is. */
export const usedOf = (runtime: InJob): Promise<ReadonlyMap<string, RangeView[]>> =>
  runtime.viewCache.get(
    `used of ${runtime.job}`,
    async () => {
      const rows = await runtime.db
        .select({
          edit: edits.id,
          name: edits.name,
          clip: editUses.clip,
          from: editUses.from,
          to: editUses.to,
        })
        .from(editUses)
        .innerJoin(edits, and(eq(edits.id, editUses.edit), eq(edits.job, runtime.job)))
        .orderBy(editUses.clip, edits.name, editUses.from);
      return grouped(
        rows,
        (r) => r.clip,
        ({ edit, clip, from, to, name }): RangeView => ({
          ...{ id: `${edit} ${clip} ${from}`, clip, kind: 'used', from, to, name },
          ...{ note: '', keywords: [] },
        }),
      );
    },
    [...CLIPS, ...MARKS],
  );

/** What the checks found. Of an original that is another by now nothing counts. */
export const checkedOf = (runtime: InJob): Promise<ReadonlyMap<string, RangeView[]>> =>
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
