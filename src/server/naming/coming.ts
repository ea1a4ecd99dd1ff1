import { briefOf, factRows, factsOf, NO_BRIEF, type Statement } from '../../core/facts';
import type { Family } from '../../core/intake';
import type { Coming, ComingClips } from '../../core/naming/shapes';
import { incomingFolder } from '../../core/offload';
import { join } from '../../core/platform/names';
import { recogniseFolder } from '../cards';
import { contextOf, ofFiles } from '../facts';
import { requireJob } from '../jobs';
import { NotFound } from '../platform/errors';
import { joinPath } from '../platform/files/names';
import { readStatements } from '../reading';
import { cameraModel, namingClip } from './load';
import type { InJob } from './ports';

/** Milliseconds after which an answer says what is read so far. */
const PATIENCE = 2000;
/** Clips whose statements are kept, those read last. */
const MOST_KEPT = 5000;

interface Read {
  statements: readonly Statement[];
  fault: string | null;
}
/** What was read on cards, by the files as they are. Nothing of it is stored: after the copy the clips are read for good. */
const kept = new Map<string, Read>();

/**
 * Clips of a card that is not copied yet, as the bench takes them. Of a large card they are read for a while only: asked again, it goes on.
 * Stores nothing. Throws NotFound where the card is not there any longer.
 */
export async function comingClips(
  runtime: InJob,
  wanted: Coming,
  fields: readonly string[],
): Promise<ComingClips> {
  const job = await requireJob(runtime);
  const { found, at } = await recogniseFolder(runtime, wanted.root, wanted.path, wanted.singles);
  const card = found.cards.find((c) => c.folder === wanted.folder);
  if (!card)
    throw new NotFound(`There is no card in “${join(wanted.path, wanted.folder)}” now.`, {
      file: wanted.folder,
      next: 'Look at the folder again.',
    });
  const ticked = wanted.clips && new Set(wanted.clips);
  const families = card.families.filter((f) => !ticked || ticked.has(f.files[0]!.path));
  const context = (await contextOf(runtime, job))(wanted);
  const model = await cameraModel(runtime, wanted.camera);
  const until = performance.now() + PATIENCE;
  let read = 0;
  const clips: ComingClips['clips'] = [];
  for (const [i, family] of families.entries()) {
    const said = await readOf(joinPath(at, wanted.folder), family, until, job);
    if (said) read++;
    const files = family.files.map((f, n) => ({
      id: `coming ${i}.${n}`,
      role: f.role,
      place: { root: 'shelf', path: join(incomingFolder(wanted.cardId), wanted.folder, f.path) },
      suffix: f.suffix,
      size: f.size,
      modified: f.modified,
    }));
    const facts = factsOf(
      [
        ...(said?.statements ?? []),
        ...ofFiles(
          family.files.map((f) => ({ ...f, path: join(wanted.folder, f.path) })),
          family.stem,
          job.zoneMinutes,
        ),
      ],
      context,
    );
    const rows = factRows(facts).filter((r) => r.chosen);
    clips.push(
      namingClip({
        id: `coming ${i}`,
        job: job.code,
        kind: family.kind,
        original: family.stem,
        card: { id: wanted.cardId, camera: wanted.camera, day: wanted.day },
        date: wanted.date,
        model: model ?? rows.find((r) => r.field === 'model')?.words ?? null,
        brief: said ? briefOf(facts, context) : NO_BRIEF,
        words: Object.fromEntries(
          rows.filter((r) => fields.includes(r.field)).map((r) => [r.field, r.words]),
        ),
        held: said?.fault ? ['cannot be read: it will keep its name'] : [],
        beside: [],
        files,
      }),
    );
  }
  return { clips, read, of: families.length };
}

/** What a clip on a card states; null where it is not read yet and the time is up. */
async function readOf(
  folder: string,
  family: Family,
  until: number,
  job: {
    zoneMinutes: number;
    rate: Parameters<typeof readStatements>[1]['jobRate'];
    intake: { stillsRate: number };
  },
): Promise<Read | null> {
  const files = family.files.map((f) => ({
    role: f.role,
    file: joinPath(folder, f.path),
    size: f.size,
    modified: f.modified,
  }));
  const key = JSON.stringify([
    files.map((f) => [f.file, f.size, f.modified]),
    job.zoneMinutes,
    job.rate,
    job.intake.stillsRate,
  ]);
  let read = kept.get(key);
  if (!read) {
    if (performance.now() > until) return null;
    const { statements, fault } = await readStatements(
      { kind: family.kind, files },
      { zoneMinutes: job.zoneMinutes, stillsRate: job.intake.stillsRate, jobRate: job.rate ?? null },
    );
    read = { statements, fault };
    kept.set(key, read);
    for (const [old] of kept) if (kept.size > MOST_KEPT) kept.delete(old);
  }
  return read;
}
