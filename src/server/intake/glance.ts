import type { PlaceGlance } from '../../core/intake/shapes';
import { join } from '../../core/platform/names';
import { isSystemFolder } from '../../core/platform/places';
import { recogniseCard } from '../custody';
import { requireJob } from '../jobs';
import { Refused } from '../platform/errors';
import { sampleOf } from '../platform/files/hash';
import { OWN_FOLDER } from '../platform/files/journal';
import { joinPath } from '../platform/files/names';
import { walk } from '../platform/files/walk';
import { walkable } from '../places';
import { recogniseInThread } from '../reading';
import type { InJob } from './ports';

/** Most entries that are looked at: a disk of a whole archive is told by its beginning. */
const MOST = 20_000;
/** Recordings whose contents are looked at to tell a known card. */
const SAMPLES = 12;

/** Says what a volume or folder looks like, before it is a place: the cards in it, their clips, and how many of them are new. Stores nothing. */
export async function glance(runtime: InJob, said: string): Promise<PlaceGlance> {
  const at = await walkable(said);
  if (isSystemFolder(at))
    throw new Refused(`${said} is a folder of the system, or holds all volumes at once.`, {
      file: said,
      next: 'Choose one of the volumes or folders in it.',
    });
  const { intake } = await requireJob(runtime);
  const walked = await walk(at, MOST);
  const entries = walked.entries.filter((e) => !e.path.split('/').includes(OWN_FOLDER));
  const { cards } = await recogniseInThread(entries, { rules: intake, singles: new Set() });
  const clips = cards.flatMap((c) =>
    c.families.map((f) => ({ original: f.files[0]!, paths: f.files.map((x) => join(c.folder, x.path)) })),
  );
  const samples = new Map<string, string | null>();
  const step = Math.max(1, Math.floor(clips.length / SAMPLES));
  for (const { original, paths } of clips.filter((_, i) => i % step === 0).slice(0, SAMPLES))
    samples.set(paths[0]!, await sampleOf(joinPath(at, paths[0]!), original.size).catch(() => null));
  const files = entries
    .filter((e) => e.kind === 'file')
    .map(({ path, size, modified }) => ({ path, size, modified, sample: samples.get(path) ?? null }));
  const known = clips.length === 0 ? null : await recogniseCard(runtime, { files });
  const fresh = new Set(known?.relation.fresh.map((f) => f.path));
  return {
    shapes: [...new Set(cards.map((c) => c.shape.name))],
    cards: cards.length,
    clips: clips.length,
    fresh: known === null ? null : clips.filter((c) => fresh.has(c.paths[0]!)).length,
    known: known && known.card.label,
    whole: walked.whole,
  };
}
