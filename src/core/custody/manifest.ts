/** What was on a card and could not be copied: no plain file, or `unread` where it could not even be looked at. */
export interface Cannot {
  path: string;
  reason: string;
  unread?: boolean;
}

/** One file of a card. Size in bytes, time in milliseconds since 1970. */
export interface ManifestFile {
  path: string;
  size: number;
  modified: number;
  /** Fingerprint of the contents (`sampleOf`); `null` where none was taken: only recordings have one. */
  sample: string | null;
}

/** A file a card was known to hold, by its number in the card's manifest. */
export interface KnownFile extends ManifestFile {
  number: number;
  /** Whether it was no longer there when the card was offered last. */
  gone: boolean;
}

/**
 * FAT keeps times in steps of two seconds (Microsoft FAT specification), so that a copy there does not have its original's
 * time to the millisecond.
 */
const TIME_STEP = 2000;
export const sameTime = (a: number, b: number): boolean => Math.abs(a - b) <= TIME_STEP;

const QUARTER_HOUR = 900_000;
/** No two places are further apart: from UTC-12 to UTC+14. */
const FURTHEST = 26 * 3_600_000;

/**
 * Whether two times are one moment, or one that was read in two time zones: FAT keeps local time, so that all times of a card move
 * by whole quarter hours. Any other difference is a file that was written anew.
 */
function sameMoment(a: number, b: number): boolean {
  const apart = Math.abs(a - b);
  const beside = apart % QUARTER_HOUR;
  return apart <= FURTHEST + TIME_STEP && Math.min(beside, QUARTER_HOUR - beside) <= TIME_STEP;
}

/**
 * By how much the times of a card have moved with the time zone, in milliseconds. All of them move together: where one file has its
 * time as before, none has moved, and what seems so was written anew.
 */
function shiftOf(known: readonly KnownFile[], there: ReadonlyMap<string, ManifestFile>): number {
  let shift: number | null = null;
  for (const k of known) {
    const now = there.get(k.path);
    if (!now || now.size !== k.size) continue;
    if (sameTime(k.modified, now.modified)) return 0;
    if (k.sample !== null && k.sample === now.sample && sameMoment(k.modified, now.modified))
      shift ??= now.modified - k.modified;
  }
  return shift ?? 0;
}

/**
 * Whether a listing is of a known file: same size and time. A time that moved with the time zone, as all of the card's have, will do
 * where both have a fingerprint. The fingerprint alone does not: it looks at three places only, and what lies between may be other bytes.
 */
function sameFile(known: ManifestFile, now: ManifestFile, shift: number): boolean {
  if (known.path !== now.path || known.size !== now.size) return false;
  if (known.sample === null || now.sample === null) return sameTime(known.modified, now.modified);
  return known.sample === now.sample && sameTime(known.modified + shift, now.modified);
}

/** How a card that is offered relates to one that is known. */
export interface Relation {
  /** Whether it is the same physical card, as it was or with something added or deleted since. */
  same: boolean;
  /** Numbers of the known files that are there unchanged. */
  kept: number[];
  /** Files that are new, or another version of a known one (an index the camera wrote anew). */
  fresh: ManifestFile[];
  /** Numbers of known files that no longer exist. */
  gone: number[];
}

/**
 * Compares what is offered with a known card. It is the same card where no recording contradicts another of the same path, and
 * at least half of the known recordings are still there: a card that was wiped and filled again has none of them, or others
 * under their names. A card without recordings must have kept all of its files. Index files may differ: cameras rewrite them.
 */
export function relate(known: readonly KnownFile[], found: readonly ManifestFile[]): Relation {
  const there = new Map(found.map((f) => [f.path, f]));
  const shift = shiftOf(known, there);
  const matched = new Set<string>();
  const relation: Relation = { same: false, kept: [], fresh: [], gone: [] };
  let recordings = 0;
  let shared = 0;
  let contradicted = false;
  for (const k of known) {
    const now = there.get(k.path);
    const isSame = now !== undefined && sameFile(k, now, shift);
    if (isSame && !matched.has(k.path)) {
      relation.kept.push(k.number);
      matched.add(k.path);
    } else if (!k.gone) relation.gone.push(k.number);
    if (k.gone || k.sample === null) continue;
    recordings++;
    if (isSame) shared++;
    else if (now) contradicted = true;
  }
  relation.fresh = found.filter((f) => !matched.has(f.path));
  const present = known.filter((k) => !k.gone).length;
  relation.same =
    recordings > 0
      ? !contradicted && shared * 2 >= recordings && shared > 0
      : present > 0 && relation.gone.length === 0;
  return relation;
}

/** What became of a known file when the card in the reader is asked for it; `grown` may still be being written. */
export type Glance = 'match' | 'grown' | 'other';

/**
 * Whether the card in a reader is the one that is expected, told from a few of its files: at least one must be as it was, and
 * no more may be missing or others than are as they were. Another card at the same place has other files, or others under
 * their names; a camera that still writes makes one grow.
 */
export function isExpectedCard(glances: readonly Glance[]): boolean {
  const matches = glances.filter((g) => g === 'match').length;
  return matches > 0 && matches >= glances.filter((g) => g === 'other').length;
}
