import { and, desc, eq, ne } from 'drizzle-orm';
import { type Cannot, type KnownFile, relate, type ManifestFile } from '../../core/custody/manifest';
import { type FileTypes, type FoundEntry, isAttributes, isOfSystem } from '../../core/intake';
import type { DiskPath } from '../../core/platform/names';
import { requireJob } from '../jobs';
import { isCode, ShelfError } from '../platform/errors';
import { physicalCards } from './tables';
import { OWN_FOLDER } from '../platform/files/journal';
import { sampleOf } from '../platform/files/hash';
import { inWords } from '../platform/files/faults';
import { joinPath } from '../platform/files/names';
import { lstat } from '../platform/files/onDisk';
import { resolveIn, type RootPlace } from '../platform/files/paths';
import { readPlain } from '../platform/files/plainFile';
import { walk } from '../platform/files/walk';
import type { InJob } from './ports';
import { listRoots } from '../places';
import { cardInReader, type PhysicalCard } from './physicalCards';

/** What is in the readers where a card is looked for. */
export interface InReader {
  /** Files that are on the card and that its manifest does not have, but for `ofSystem`; `null` where the card is not there. */
  fresh: string[] | null;
  /** What cannot be looked at there now, and could when the card was offered, with what the system says. */
  unseen: Cannot[];
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
  let unseen: Cannot[] = [];
  for (const root of roots.sort((a, b) => Number(b.id === card.root) - Number(a.id === card.root))) {
    const own = root.id === card.root;
    const at = await folderIn(root, card.folder).catch((e: unknown) => {
      if (own) unseen = [{ path: card.folder, reason: inWords(e) }];
      return null;
    });
    if (at === null) continue;
    const there =
      (await cardInReader(runtime, card.id, at)) === 'there' ||
      (own && card.wholeVolume && card.volume !== null && runtime.devices.volumeIdOf(at) === card.volume);
    // Elsewhere only a card that is it as a whole is looked at file by file: another root may be a disk of many.
    if (!there && !own) continue;
    const entries = await walk(at, Infinity).then(
      (walked) => walked.entries,
      (e: unknown): FoundEntry[] => [{ path: '', kind: 'other', size: 0, modified: 0, fault: inWords(e) }],
    );
    const said = new Set(card.cannot.map((c) => c.path));
    const faulty = entries.flatMap((e) =>
      e.fault && !said.has(e.path) ? [{ path: joinPath(card.folder, e.path), reason: e.fault }] : [],
    );
    const files = entries
      .filter((e) => e.kind === 'file' && !e.path.startsWith(`${OWN_FOLDER}/`))
      .map(({ path, size, modified }): ManifestFile => ({ path, size, modified, sample: null }));
    const fresh = await freshOf(at, manifest, files, there);
    if (fresh === null) {
      if (files.length > 0) other = await knownAt(runtime, card, at);
      // What is wrong with another card is for its own answer.
      if (other === null || other === 'unknown') unseen = faulty;
      continue;
    }
    const { types } = (await requireJob(runtime)).intake;
    const ofSystem = new Set<string>();
    for (const file of fresh) if (await isTheSystems(at, file, types)) ofSystem.add(file);
    const counted = fresh.filter((f) => !ofSystem.has(f));
    return { fresh: counted, unseen: faulty, ofSystem: [...ofSystem], other: null };
  }
  return { fresh: null, unseen, ofSystem: [], other };
}

/** A card's folder in a root; `null` where there is none. Throws where that cannot be told. */
async function folderIn(root: RootPlace, folder: DiskPath): Promise<DiskPath | null> {
  try {
    // A root that answers with a fault is not one that is not there.
    await lstat(root.path);
    const at = await resolveIn(root, folder);
    return (await lstat(at)).isDirectory() ? at : null;
  } catch (e) {
    if (e instanceof ShelfError || isCode(e, 'ENOENT', 'ENOTDIR')) return null;
    throw e;
  }
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
