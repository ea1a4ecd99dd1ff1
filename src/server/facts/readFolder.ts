import { join } from '../../core/platform/names';
import { inArray, sql } from 'drizzle-orm';
import type { Family } from '../../core/intake';
import type { Statement } from '../../core/facts/catalogue';
import { readings } from './tables';
import { type ClipOnDisk, type FileOnDisk, type Reading, readRest, READERS, readFirst } from '../reading';
import type { InJob } from './ports';
import { type Job, requireJob } from '../jobs';
import { stateOf } from './readClips';
import { recogniseFolder } from '../cards';
import { joinPath } from '../platform/files/names';

/** A clip of a folder that need not be in the job. Paths are absolute. */
export interface FolderClip {
  name: string;
  place: string;
  family: Family;
  disk: ClipOnDisk;
  statements: Statement[];
  fault: string | null;
  notes: string[];
}

/** Clips whose containers one thread reads in a row. */
const BATCH = 16;

/**
 * Reads everything the clips of a folder say, whether they are in the job or not. What was read before and has not changed
 * is not read again. `passes` of 1 leaves ffprobe and ExifTool unasked.
 */
export async function readFolder(
  runtime: InJob,
  rootId: string,
  folder: string,
  passes: 1 | 2 = 2,
): Promise<FolderClip[]> {
  const { root, at, found } = await recogniseFolder(runtime, rootId, folder);
  const clips = found.cards.flatMap((card) =>
    card.families.map((family): FolderClip => {
      const files = family.files.map((f): FileOnDisk => ({
        role: f.role,
        file: joinPath(at, card.folder, f.path),
        size: f.size,
        modified: f.modified,
      }));
      const below = join(folder, card.folder, family.files[0]!.path);
      return {
        name: family.stem,
        place: `${root.id}/${below}`,
        family,
        disk: { kind: family.kind, files, cameraPath: below },
        statements: [],
        fault: null,
        notes: [],
      };
    }),
  );
  const job = await requireJob(runtime);
  const known = await knownReadings(runtime, clips);
  const fresh: FolderClip[] = [];
  for (const c of clips) {
    const k = known.get(c.place);
    if (k && k.state === readingOf(job, c.disk.files))
      Object.assign(c, { statements: k.statements, fault: k.fault, notes: k.notes });
    else fresh.push(c);
  }
  await readAll(runtime, job, fresh, passes);
  return clips;
}

/** What a reading is of: the files as they are, and what the job says of its clocks and rates. */
const readingOf = ({ zoneMinutes, intake, rate }: Job, files: readonly FileOnDisk[]): string =>
  JSON.stringify([stateOf(files), zoneMinutes, intake.stillsRate, rate]);

async function knownReadings(
  runtime: InJob,
  clips: readonly FolderClip[],
): Promise<Map<string, typeof readings.$inferSelect>> {
  const out = new Map<string, typeof readings.$inferSelect>();
  for (let i = 0; i < clips.length; i += 500) {
    for (const r of await runtime.db
      .select()
      .from(readings)
      .where(
        inArray(
          readings.place,
          clips.slice(i, i + 500).map((c) => c.place),
        ),
      ))
      out.set(r.place, r);
  }
  return out;
}

/** Reads clips, several threads at a time, and keeps what was found of those that were read to the end. */
async function readAll(runtime: InJob, job: Job, clips: readonly FolderClip[], passes: 1 | 2): Promise<void> {
  const options = { zoneMinutes: job.zoneMinutes, stillsRate: job.intake.stillsRate, jobRate: job.rate };
  let next = 0;
  const lane = async (): Promise<void> => {
    while (next < clips.length) {
      const some = clips.slice(next, (next += BATCH));
      const first = await readFirst(
        some.map((c) => c.disk),
        options,
      );
      const done = await Promise.all(
        first.map(async (r, i): Promise<Reading> =>
          passes === 2 && (r.rest.probe || r.rest.tags) ? readRest(some[i]!.disk, options, r) : r,
        ),
      );
      const rows = some
        .map((c, i) => {
          Object.assign(c, { statements: done[i]!.statements, fault: done[i]!.fault, notes: done[i]!.notes });
          return {
            place: c.place,
            state: readingOf(job, c.disk.files),
            statements: c.statements,
            fault: c.fault,
            notes: c.notes,
            whole: !done[i]!.rest.probe && !done[i]!.rest.tags,
          };
        })
        .filter((r) => r.whole);
      if (rows.length > 0) {
        await runtime.db
          .insert(readings)
          .values(rows.map(({ whole: _, ...r }) => r))
          .onConflictDoUpdate({
            target: readings.place,
            set: {
              state: sql`excluded.state`,
              statements: sql`excluded.statements`,
              fault: sql`excluded.fault`,
              notes: sql`excluded.notes`,
            },
          });
      }
    }
  };
  await Promise.all(Array.from({ length: READERS * 2 }, lane));
}
