import { and, desc, eq, ne } from 'drizzle-orm';
import { type KnownFile, relate, type ManifestFile } from '../../core/custody/manifest';
import { type FileTypes, isAttributes, isOfSystem } from '../../core/intake';
import { requireJob } from '../jobs';
import { physicalCards } from './tables';
import { OWN_FOLDER } from '../platform/files/journal';
import { sampleOf } from '../platform/files/hash';
import { joinPath } from '../platform/files/names';
import { lstat } from '../platform/files/onDisk';
import { resolveIn } from '../platform/files/paths';
import { readPlain } from '../platform/files/plainFile';
import { walk } from '../platform/files/walk';
import type { InJob } from './ports';
import { listRoots } from '../places';
import { cardInReader, type PhysicalCard } from './physicalCards';

/** What is in the readers where a card is looked for. */
export interface InReader {
  /** Files that are on the card and that its manifest does not have, but for `ofSystem`; `null` where the card is not there. */
  fresh: string[] | null;
  /** What computers have written there for themselves since: it does not count. */
  ofSystem: string[];
  /** What is at the card's place instead: another card that is known, by its label, or something that is not. */
  other: { label: string } | 'unknown' | null;
}

/**
 * Looks for a card where it was offered, and at the same place in other readers. It is there where any of its recordings is, or its
 * volume where it is one: what was shot on it since must not be taken for another card's.
 */
export async function lookInReaders(
  runtime: InJob,
  card: PhysicalCard,
  manifest: readonly KnownFile[],
): Promise<InReader> {
  const roots = (await listRoots(runtime)).filter((r) => r.id === card.root || r.kind === 'source');
  let other: InReader['other'] = null;
  for (const root of roots.sort((a, b) => Number(b.id === card.root) - Number(a.id === card.root))) {
    const at = await resolveIn(root, card.folder).catch(() => null);
    if (
      at === null ||
      !(await lstat(at).then(
        (s) => s.isDirectory(),
        () => false,
      ))
    )
      continue;
    const own = root.id === card.root;
    const there =
      (await cardInReader(runtime, card.id, at)) === 'there' ||
      (own && card.wholeVolume && card.volume !== null && runtime.devices.volumeIdOf(at) === card.volume);
    // Elsewhere only a card that is it as a whole is looked at file by file: another root may be a disk of many.
    if (!there && !own) continue;
    const { entries } = await walk(at, Infinity);
    const files = entries
      .filter((e) => e.kind === 'file' && !e.path.startsWith(`${OWN_FOLDER}/`))
      .map(({ path, size, modified }): ManifestFile => ({ path, size, modified, sample: null }));
    const fresh = await freshOf(at, manifest, files, there);
    if (fresh === null) {
      if (files.length > 0) other = await knownAt(runtime, card, at);
      continue;
    }
    // What cannot be looked at now, and could before, may be new footage as well.
    const said = new Set(card.cannot.map((c) => c.path));
    const { types } = (await requireJob(runtime)).intake;
    const ofSystem = new Set<string>();
    for (const file of fresh) if (await isTheSystems(at, file, types)) ofSystem.add(file);
    const counted = fresh.filter((f) => !ofSystem.has(f));
    return {
      fresh: [...counted, ...entries.filter((e) => e.fault && !said.has(e.path)).map((e) => e.path)],
      ofSystem: [...ofSystem],
      other: null,
    };
  }
  return { fresh: null, ofSystem: [], other };
}

/** Whether a file of a card is a computer's own; one that cannot be read is none. */
export async function isTheSystems(at: string, file: string, types: FileTypes): Promise<boolean> {
  const isIts = isOfSystem(file, types);
  return isIts ?? readPlain(joinPath(at, file), 4).then(isAttributes, () => false);
}

/** The card that is at another one's place, where it is one that is known: its own page answers for it. */
async function knownAt(
  runtime: InJob,
  card: PhysicalCard,
  at: string,
): Promise<{ label: string } | 'unknown'> {
  const here = and(
    eq(physicalCards.root, card.root),
    eq(physicalCards.folder, card.folder),
    ne(physicalCards.id, card.id),
  );
  for (const { id, label } of await runtime.db
    .select({ id: physicalCards.id, label: physicalCards.label })
    .from(physicalCards)
    .where(here)
    .orderBy(desc(physicalCards.lastSeen))) {
    if ((await cardInReader(runtime, id, at)) === 'there') return { label };
  }
  return 'unknown';
}

/** What a listing has and the card's manifest has not; `null` where nothing of the card is in it and it is not known to be `there`. */
async function freshOf(
  at: string,
  manifest: readonly KnownFile[],
  files: readonly ManifestFile[],
  there: boolean,
): Promise<string[] | null> {
  const recordings = new Map(manifest.filter((f) => f.sample !== null).map((f) => [f.path, f]));
  const numbers = new Set([...recordings.values()].map((f) => f.number));
  const isHere = (kept: readonly number[]) =>
    numbers.size === 0 ? kept.length > 0 : kept.some((n) => numbers.has(n));
  let relation = relate(manifest, files);
  // Times move with the time zone; fingerprints do not.
  if (!isHere(relation.kept)) {
    const sampled: ManifestFile[] = [];
    for (const f of files) {
      const sample =
        recordings.get(f.path)?.size === f.size
          ? await sampleOf(joinPath(at, f.path), f.size).catch(() => null)
          : null;
      sampled.push({ ...f, sample });
    }
    relation = relate(manifest, sampled);
  }
  return there || isHere(relation.kept) ? relation.fresh.map((f) => f.path) : null;
}
