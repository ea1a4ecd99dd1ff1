import { join } from '../platform/names';
import { type ClipKind, extensionOf, type FileRole, type FileTypes, typeOf } from './shape';
import type { FoundEntry, Family, FamilyMember, RecognisedCard, RecogniseOptions } from './recognise';
import { areOneTake, chapters, followsOn, mayFollow, type TakeEvidence } from './segments';
import { stillRows } from './stills';
import { matchBySuffix } from './suffix';
import { tracks } from './tracks';

/** A file that a shape takes, as what its rule says it is. */
export interface Sorted {
  entry: FoundEntry;
  role: FileRole;
  stem: string;
  part: string;
  suffix: string;
}

/** What one shape takes of a card; `follows` where its takes go on under the next number. */
export interface Share {
  follows: boolean;
  sorted: readonly Sorted[];
}

export interface Grouping {
  types: FileTypes;
  evidence: RecogniseOptions['evidence'];
  singles: RecogniseOptions['singles'];
}

type Original = Sorted & { type: keyof FileTypes };
/** Families by name or, where a name is there twice, by the original's path. */
type Families = Map<string, Family>;

const RANK = { video: 0, raw: 1, sound: 2, still: 3 } as const;
const LOOKS = ['cdl', 'cc', 'ccc', 'cube'];
const SIDECARS = ['xml', 'srt', 'xmp'];

export const folderOf = (p: string): string => p.slice(0, p.lastIndexOf('/') + 1);
export const stemOf = (p: string): string => p.slice(p.lastIndexOf('/') + 1).replace(/\.[^.]*$/, '');
const placeOf = (path: string, stem: string): string => `${folderOf(path)}${stem}`.toLowerCase();

const memberOf = (s: Pick<Sorted, 'entry'>, role: FileRole, suffix: string): FamilyMember => ({
  path: s.entry.path,
  role,
  size: s.entry.size,
  modified: s.entry.modified,
  suffix,
});

/** Makes families of the originals, then joins what is beside them by stem; what joins nothing is left aside. */
export function groupFamilies(card: RecognisedCard, shares: readonly Share[], how: Grouping): void {
  const families: Families = new Map();
  const beside: Sorted[] = [];
  const at = (p: string) => how.evidence?.get(join(card.folder, p));
  for (const share of shares) {
    const mine: Families = new Map();
    const segments = new Map<string, Original[]>();
    const places = new Map<string, Original[]>();
    for (const s of share.sorted.filter((x) => x.role === 'original')) {
      const of = s.part === '' ? places : segments;
      const place = placeOf(s.entry.path, s.stem);
      of.set(place, [...(of.get(place) ?? []), { ...s, type: typeOf(s.entry.path, how.types) ?? 'video' }]);
    }
    for (const list of places.values()) beside.push(...addClips(mine, list));
    for (const list of segments.values()) addSegments(mine, list);
    joinChapters(card, mine, at);
    if (share.follows) joinFollowing(card, mine, at);
    joinTracks(card, mine, at);
    joinStills(card, mine, how.singles);
    for (const [key, family] of mine) families.set(families.has(key) ? family.files[0]!.path : key, family);
    beside.push(...share.sorted.filter((x) => x.role !== 'original'));
  }
  for (const role of ['sound', 'motion', 'sidecar', 'look', 'thumbnail', 'cameraProxy'] as const) {
    const those = beside.filter((s) => s.role === role);
    if (those.length > 0) joinBeside(card, families, role, those);
  }
  card.families = [...families.values()].sort((a, b) =>
    a.files[0]!.path.localeCompare(b.files[0]!.path, 'en', { numeric: true }),
  );
}

/** How much larger than a phone's still the film of a few seconds may be that was recorded with it, how large at all, and how small such a still can be. Bytes. */
const FILM = { times: 8, most: 16_000_000, still: 200_000 };
/** How much smaller than the clip of its name a video is that the camera made of it. */
const TWIN = 1 / 3;

/** Makes clips of the originals of one name in one folder; returns what belongs to them without being one. */
function addClips(families: Families, list: readonly Original[]): Sorted[] {
  const sorted = [...list].sort((a, b) => RANK[a.type] - RANK[b.type] || b.entry.size - a.entry.size);
  const videos = sorted.filter((s) => s.type === 'video');
  const picture = sorted.find((s) => s.type === 'raw') ?? sorted.find((s) => s.type === 'still');
  const [video] = videos;
  // A phone records a short film with a still; a camera makes a small picture of a video.
  const film =
    videos.length === 1 &&
    picture !== undefined &&
    picture.entry.size >= FILM.still &&
    video!.entry.size <= FILM.most &&
    video!.entry.size <= FILM.times * picture.entry.size;
  const clips: Original[] = [];
  const beside: Sorted[] = [];
  for (const s of sorted) {
    if (film && s === video) beside.push({ ...s, role: 'motion' });
    else if (s.type === 'still' && s !== picture && picture) beside.push({ ...s, role: 'thumbnail' });
    // A picture beside a video of its name is not a clip of its own (DCF: one number, one thing).
    else if (s.type === 'still' && video && !film) beside.push({ ...s, role: 'thumbnail' });
    else if (s.type === 'video' && s !== video && s.entry.size <= TWIN * video!.entry.size)
      beside.push({ ...s, role: 'cameraProxy' });
    else clips.push(s);
  }
  for (const s of clips) {
    const kind: ClipKind = s.type === 'sound' ? 'sound' : s.type === 'video' ? 'video' : 'still';
    // Two originals of one stem (T0001.MP4 and T0001.MOV, or one name in two folders) are two clips.
    families.set(families.has(s.stem) ? s.entry.path : s.stem, {
      stem: s.stem,
      kind,
      files: [memberOf(s, 'original', '')],
      missing: [],
    });
  }
  return beside;
}

/** Numbered segments of one take: one clip, and the numbers that are missing inside it said. */
function addSegments(families: Families, list: Sorted[]): void {
  const number = (s: Sorted): number => Number(s.part.replace(/\D/g, ''));
  list.sort((a, b) => number(a) - number(b));
  const [first] = list as [Sorted];
  const missing: string[] = [];
  const there = new Set(list.map(number));
  for (let n = Math.min(1, number(first)); n < number(list.at(-1)!); n++) {
    if (!there.has(n))
      missing.push(first.stem + first.part[0] + String(n).padStart(first.part.length - 1, '0'));
  }
  families.set(families.has(first.stem) ? first.entry.path : first.stem, {
    stem: first.stem,
    kind: 'video',
    missing,
    files: list.map((s, i) => memberOf(s, i === 0 ? 'original' : 'segment', s.part)),
  });
}

type Evidence = (path: string) => TakeEvidence | undefined;

/** Clips in one file, in order of their paths. */
const inOneFile = (families: Families, kind: ClipKind) =>
  [...families]
    .filter(([, f]) => f.kind === kind && f.files.length === 1)
    .map(([key, f]) => ({ key, path: f.files[0]!.path, stem: f.stem, size: f.files[0]!.size }))
    .sort((a, b) => (a.path < b.path ? -1 : 1));

/** Makes one clip of each take whose chapters are numbered in their names. */
function joinChapters(card: RecognisedCard, families: Families, at: Evidence): void {
  for (const take of chapters(inOneFile(families, 'video'))) {
    const { files, missing } = take;
    files.slice(1).forEach((f, i) => card.mayFollow.push([files[i]!.path, f.path]));
    if (!areOneTake(take, at)) continue;
    const [head, ...rest] = files as [(typeof files)[number], ...typeof files];
    const family = families.get(head.key)!;
    family.missing = missing;
    family.files = files.map((f, i) => ({
      ...families.get(f.key)!.files[0]!,
      role: i === 0 ? 'original' : 'segment',
      suffix: `_${i + 1}`,
    }));
    for (const f of rest) families.delete(f.key);
  }
}

/** Joins takes that go on under the next number, as far as what was read of them proves it. */
function joinFollowing(card: RecognisedCard, families: Families, at: Evidence): void {
  const pairs = mayFollow(inOneFile(families, 'video'));
  for (const [a, b] of pairs) card.mayFollow.push([a.path, b.path]);
  const head = new Map<string, string>();
  for (const [a, b] of pairs) {
    const [x, y] = [at(a.path), at(b.path)];
    if (!x || !y || !followsOn(x, y)) continue;
    const first = head.get(a.key) ?? a.key;
    const family = families.get(first)!;
    const joined = families.get(b.key)!.files[0]!;
    if (family.files.length === 1) family.files[0] = { ...family.files[0]!, suffix: '_1' };
    family.files.push({ ...joined, role: 'segment', suffix: `_${family.files.length + 1}` });
    families.delete(b.key);
    head.set(b.key, first);
  }
}

/** Makes one clip of each sound recording that has a file a track. */
function joinTracks(card: RecognisedCard, families: Families, at: Evidence): void {
  const { found, ask } = tracks(inOneFile(families, 'sound'), at);
  for (const [a, b] of ask) card.mayFollow.push([a.path, b.path]);
  for (const { stem, files } of found) {
    const members = files.map(({ file, suffix }, i): FamilyMember => ({
      ...families.get(file.key)!.files[0]!,
      role: i === 0 ? 'original' : 'sound',
      suffix,
    }));
    for (const { file } of files) families.delete(file.key);
    families.set(families.has(stem) ? members[0]!.path : stem, {
      stem,
      kind: 'sound',
      files: members,
      missing: [],
    });
  }
}

/** Makes one clip of each row of numbered stills. A row in a folder of its own name bears that name. */
function joinStills(card: RecognisedCard, families: Families, singles: RecogniseOptions['singles']): void {
  const stills = [...families]
    .filter(([, f]) => f.kind === 'still' && f.files.length === 1)
    .map(([key, f]) => ({
      key,
      path: f.files[0]!.path,
      stem: f.stem,
      modified: f.files[0]!.modified,
      member: f.files[0]!,
    }));
  for (const row of stillRows(stills)) {
    const first = row.stills[0]!;
    if (singles?.has(join(card.folder, first.path))) continue;
    for (const s of row.stills) families.delete(s.key);
    families.set(first.key, {
      stem: row.clip ?? first.stem,
      kind: 'stills',
      missing: row.missing,
      files: row.stills.map((s, i) => ({
        ...s.member,
        role: i === 0 ? 'original' : 'still',
        suffix: `_${row.digits[i]}`,
      })),
    });
  }
}

/** Which clip a name belongs to: each segment and still answers to its own, one of the folder that is nearest. */
class Owners {
  private readonly byName = new Map<
    string,
    { name: string; folder: string; family: Family; own: string }[]
  >();

  constructor(families: Iterable<Family>) {
    for (const family of families) {
      const first = family.files[0]!;
      this.add(family.stem, first, family, '');
      for (const f of family.files) {
        const name = stemOf(f.path);
        if (['original', 'segment', 'still'].includes(f.role) && (f !== first || name !== family.stem))
          // What belongs to a segment keeps that segment's number in its name; what bears the clip's own name belongs to all of it.
          this.add(name, f, family, f.suffix);
      }
    }
  }

  private add(name: string, of: FamilyMember, family: Family, own: string): void {
    const key = name.toLowerCase();
    const list = this.byName.get(key) ?? [];
    list.push({ name, folder: folderOf(of.path).toLowerCase(), family, own });
    this.byName.set(key, list);
  }

  /** Every name there is, as it is written. */
  names(): string[] {
    return [...this.byName.values()].map((list) => list[0]!.name);
  }

  has(name: string): boolean {
    return this.byName.has(name.toLowerCase());
  }

  /** The clip of a name, seen from a file: the one with most of its folders in common. */
  of(name: string, path: string): { family: Family; own: string } | undefined {
    const folder = folderOf(path).toLowerCase();
    const shared = (other: string): number => {
      let n = 0;
      while (n < folder.length && folder[n] === other[n]) n++;
      return n + (other === folder ? 1 : 0);
    };
    return this.byName
      .get(name.toLowerCase())
      ?.reduce((best, o) => (shared(o.folder) > shared(best.folder) ? o : best));
  }
}

function joinBeside(
  card: RecognisedCard,
  families: Families,
  role: FileRole,
  those: readonly Sorted[],
): void {
  const owners = new Owners(families.values());
  // A suffix the shape knows counts where the whole name is no clip's.
  const split = those.map((s) => {
    const whole = s.stem + s.suffix;
    return { s, name: whole, known: s.suffix !== '' && !owners.has(whole) && owners.has(s.stem) };
  });
  const { matches, rule } = matchBySuffix(owners.names(), [
    ...new Set(split.filter((x) => !x.known).map((x) => x.name)),
  ]);
  if (role === 'cameraProxy') card.proxySuffix = rule;
  for (const { s, name, known } of split) {
    const match = known ? s : matches.get(name);
    const owner = match && owners.of(match.stem, s.entry.path);
    if (!owner) card.aside.push({ path: s.entry.path, size: s.entry.size, reason: NO_CLIP });
    else owner.family.files.push(memberOf(s, role, owner.own + match.suffix));
  }
}

export const NO_CLIP = 'no clip of this name is on the card';

/** What a file beside a clip can be by its extension alone. */
const roleBeside = (path: string): FileRole | null => {
  const extension = extensionOf(path);
  return LOOKS.includes(extension)
    ? 'look'
    : SIDECARS.includes(extension)
      ? 'sidecar'
      : extension === 'thm'
        ? 'thumbnail'
        : null;
};

/** The largest file of an unknown kind that is taken for a sidecar. Bytes. */
const SIDECAR_LIMIT = 16 << 20;

/**
 * Gives files that no shape takes to the clip whose very name they have: video of a type that is not listed as its camera-made
 * proxy, anything small as a sidecar; from other folders only what is a sidecar by its extension. Returns the others.
 */
export function adopt(
  card: RecognisedCard,
  found: readonly FoundEntry[],
  isIndex: (path: string) => boolean,
): FoundEntry[] {
  const owners = new Owners(card.families);
  return found.filter((e) => {
    const owner = isIndex(e.path) ? undefined : owners.of(stemOf(e.path), e.path);
    if (!owner) return true;
    const near = owner.family.files.some((f) => folderOf(f.path) === folderOf(e.path));
    const role =
      e.holds === 'video' && near && e.size <= TWIN * owner.family.files[0]!.size
        ? 'cameraProxy'
        : (roleBeside(e.path) ?? (near && !e.holds && e.size <= SIDECAR_LIMIT ? 'sidecar' : null));
    if (role === null) return true;
    if (role === 'cameraProxy') card.proxySuffix ??= '';
    owner.family.files.push(memberOf({ entry: e }, role, owner.own));
    return false;
  });
}
