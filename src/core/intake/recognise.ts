import { DEFAULT_INTAKE, type FolderRule, type IntakeRules } from './rules';
import {
  type CardShape,
  type ClipKind,
  expandPattern,
  extensionOf,
  type FileRole,
  type FileTypes,
  SHAPES,
  typeOf,
} from './shape';
import { followsOn, mayFollow, type TakeEvidence } from './segments';
import { stillRows } from './stills';
import { matchBySuffix } from './suffix';

/** One thing found under a folder. Paths are relative to that folder, "/" between the parts. */
export interface FoundEntry {
  path: string;
  kind: 'file' | 'link' | 'other';
  /** Bytes. */
  size: number;
  /** Milliseconds since 1970. */
  modified: number;
  /** Why the file cannot be footage although its name says so ("is text, not video"); absent where nothing is known against it. */
  fault?: string;
}

export interface FamilyMember {
  path: string;
  role: FileRole;
  size: number;
  modified: number;
  /** What is behind the clip's stem in this file's name, extension left out: "_px"; "" for an original in one file. */
  suffix: string;
}

export interface Family {
  /** The clip's name on the card, without extension. */
  stem: string;
  kind: ClipKind;
  /** The original first, what goes on from it in order behind it. */
  files: FamilyMember[];
  /** Names of segments or stills that are missing inside it. */
  missing: string[];
}

export interface AsideFile {
  path: string;
  size: number;
  reason: string;
}

/** A card as it was recognised: nothing of it is stored yet. */
export interface RecognisedCard {
  /** The card's folder below the folder that was looked at; "" for that folder itself. */
  folder: string;
  shape: Pick<CardShape, 'id' | 'name' | 'because'>;
  families: Family[];
  aside: AsideFile[];
  /** The suffix of camera-made proxies; `null` where the card has none. */
  proxySuffix: string | null;
  /** Files of which the second may go on from the first: reading both tells (`evidence`). Paths below the card. */
  mayFollow: [string, string][];
}

export interface Recognised {
  cards: RecognisedCard[];
  /** Files outside every card. */
  aside: AsideFile[];
}

export interface RecogniseOptions {
  rules?: Pick<IntakeRules, 'leaveOut' | 'types' | 'shapes'>;
  folder?: FolderRule;
  /** What was read of files that may follow on from one another, by path below the folder that was looked at. */
  evidence?: ReadonlyMap<string, TakeEvidence>;
  /** Rows of numbered stills to be left single, by the path of the first below the folder that was looked at. */
  singles?: ReadonlySet<string>;
}

const SYSTEM =
  /(?:^|\/)(?:\.[^/]+|System Volume Information|\$RECYCLE\.BIN|lost\+found|Thumbs\.db|desktop\.ini|ascmhl)(?:\/|$)/i;
const INDEX =
  /(?:^|\/)(?:[^/]+\.(?:idx|bdm|mpl|bup|ifo|cif|ppn|tid|ctg|dat|bin)|(?:MEDIAPRO|INDEX|CUEUP)\.xml)$/i;

/**
 * Finds the cards in a folder by structure alone. A folder is tried against every shape before its subfolders are; what
 * a shape takes is not looked at again. A folder with footage directly in it and no shape is a plain card; where
 * recognised cards are below it, it is plain for its own files only.
 */
export function recognise(entries: readonly FoundEntry[], options: RecogniseOptions = {}): Recognised {
  const { types, leaveOut, shapes: own } = options.rules ?? DEFAULT_INTAKE;
  const rule = options.folder ?? { skipCardFolders: true, off: [] };
  const left = new Set(leaveOut.map((n) => n.toLowerCase()));
  const aside: AsideFile[] = [];
  const usable: FoundEntry[] = [];
  const refused: AsideFile[] = [];
  for (const e of entries) {
    const reason = leftAside(e, types, left);
    if (reason === null) usable.push(e);
    else refused.push({ path: e.path, size: e.size, reason });
  }
  const tried = (rule.skipCardFolders ? [...own, ...SHAPES] : SHAPES).filter(
    (s) => s.id === 'plain' || (rule.skipCardFolders && !rule.off.includes(s.id)),
  );
  const compiled = tried.map((s) => compile(s, types));
  const plain = compiled.find((c) => c.of.id === 'plain')!;
  const cards = descend('', usable);
  for (const r of refused) {
    const card = cards.find((c) => c.folder === '' || r.path.startsWith(`${c.folder}/`));
    if (card)
      card.aside.push({ ...r, path: card.folder === '' ? r.path : r.path.slice(card.folder.length + 1) });
    else aside.push(r);
  }
  for (const c of cards) c.aside.sort((a, b) => (a.path < b.path ? -1 : 1));
  cards.sort((a, b) => (a.folder < b.folder ? -1 : 1));
  return { cards, aside };

  function descend(folder: string, files: FoundEntry[]): RecognisedCard[] {
    const nothing = (list: readonly FoundEntry[]) =>
      list.forEach((f) => aside.push({ path: join(folder, f.path), size: f.size, reason: noClip(f.path) }));
    if (!files.some((f) => typeOf(f.path, types) !== null)) {
      nothing(files);
      return [];
    }
    for (const shape of compiled) {
      if (shape === plain) continue;
      const card = tryShape(shape, folder, files);
      if (card) return [card];
    }
    const here = files.filter((f) => !f.path.includes('/'));
    const hasFootage = here.some((f) => typeOf(f.path, types) !== null);
    const below = new Map<string, FoundEntry[]>();
    for (const f of files) {
      const cut = f.path.indexOf('/');
      if (cut < 0) continue;
      const name = f.path.slice(0, cut);
      const list = below.get(name) ?? [];
      list.push({ ...f, path: f.path.slice(cut + 1) });
      below.set(name, list);
    }
    const known = aside.length;
    const inner = [...below].flatMap(([name, list]) => descend(join(folder, name), list));
    if (hasFootage && inner.every((c) => c.shape.id === 'plain')) {
      // No card is below: the folder and all in it are one plain card.
      aside.length = known;
      return [tryShape(plain, folder, files)!];
    }
    if (hasFootage) return [tryShape(plain, folder, here)!, ...inner];
    nothing(here);
    return inner;
  }

  function tryShape(shape: Compiled, folder: string, files: FoundEntry[]): RecognisedCard | null {
    if (!shape.marks.every((m) => files.some((f) => m.test(f.path)))) return null;
    const sorted: Sorted[] = [];
    const apart: AsideFile[] = [];
    for (const entry of files) {
      const match = shape.rules
        .map(({ re, role }) => ({ role, m: re.exec(entry.path) }))
        .find((r) => r.m !== null);
      if (match)
        sorted.push({
          entry,
          role: match.role,
          stem: match.m!.groups?.stem ?? '',
          part: match.m!.groups?.part ?? '',
          suffix: match.m!.groups?.suffix ?? '',
        });
      else if (typeOf(entry.path, types) === 'video') return null;
      else apart.push({ path: entry.path, size: entry.size, reason: noClip(entry.path) });
    }
    const card: RecognisedCard = {
      folder,
      aside: apart,
      proxySuffix: null,
      families: [],
      mayFollow: [],
      shape: { id: shape.of.id, name: shape.of.name, because: shape.of.because },
    };
    groupFamilies(card, sorted, {
      follows: shape.of.follows,
      types,
      evidence: options.evidence,
      singles: options.singles,
    });
    return card;
  }
}

/** Why a file is left aside before any shape is asked; `null` where it may belong to a clip. */
function leftAside(e: FoundEntry, types: FileTypes, leaveOut: ReadonlySet<string>): string | null {
  if (SYSTEM.test(e.path)) return 'dot file or system folder';
  if (e.kind === 'link') return 'a link: Sort Shelf does not follow links on cards';
  if (e.kind === 'other') return 'not a file (pipe, socket or device)';
  const out = e.path
    .split('/')
    .slice(0, -1)
    .find((p) => leaveOut.has(p.toLowerCase()));
  if (out !== undefined) return `stands in a folder that is left out (${out})`;
  if (e.size === 0)
    return typeOf(e.path, types) === 'video'
      ? 'has no bytes: the copy was cut short or never begun'
      : 'has no bytes';
  return e.fault ?? null;
}

const noClip = (path: string): string =>
  INDEX.test(path)
    ? 'an index file of the camera: nobody needs it for editing'
    : `not part of a clip (${extensionOf(path) || 'no extension'})`;

const join = (a: string, b: string): string => (a === '' ? b : `${a}/${b}`);

interface Compiled {
  of: CardShape;
  marks: RegExp[];
  rules: { re: RegExp; role: FileRole }[];
}
interface Sorted {
  entry: FoundEntry;
  role: FileRole;
  stem: string;
  part: string;
  suffix: string;
}

function compile(of: CardShape, types: FileTypes): Compiled {
  return {
    of,
    marks: of.marks.map((m) => new RegExp(expandPattern(m, types), 'iu')),
    rules: of.rules.map((r) => ({ re: new RegExp(expandPattern(r.pattern, types), 'iu'), role: r.role })),
  };
}

const RANK = { video: 0, raw: 1, sound: 2, still: 3 } as const;
const memberOf = (s: Pick<Sorted, 'entry'>, role: FileRole, suffix: string): FamilyMember => ({
  path: s.entry.path,
  role,
  size: s.entry.size,
  modified: s.entry.modified,
  suffix,
});

interface Grouping {
  follows: boolean;
  types: FileTypes;
  evidence: RecogniseOptions['evidence'];
  singles: RecogniseOptions['singles'];
}

/** Makes families of the originals, then joins what is beside them by stem; what joins nothing is left aside. */
function groupFamilies(card: RecognisedCard, sorted: Sorted[], how: Grouping): void {
  const families = new Map<string, Family>();
  const folderOf = (p: string) => p.slice(0, p.lastIndexOf('/') + 1);
  const originals = sorted
    .filter((x) => x.role === 'original')
    .map((s) => ({ ...s, type: typeOf(s.entry.path, how.types) ?? 'video' }))
    .sort((a, b) => RANK[a.type] - RANK[b.type]);
  const segments = new Map<string, typeof originals>();
  const beside: Sorted[] = [];
  const standing = new Map<string, (typeof originals)[number]>();
  for (const s of originals) {
    const place = `${folderOf(s.entry.path)}${s.stem}`.toLowerCase();
    const main = standing.get(place);
    if (s.part !== '') {
      const take = segments.get(place) ?? [];
      take.push(s);
      segments.set(place, take);
    }
    // A picture beside a video or a raw picture of its name is not a clip of its own (DCF: one number, one thing).
    else if (main && s.type === 'still' && main.type !== 'still' && main.type !== 'sound')
      beside.push({ ...s, role: 'thumbnail' });
    else {
      standing.set(place, s);
      // Two originals of one stem (T0001.MP4 and T0001.MOV, or one name in two folders) are two clips.
      const kind: ClipKind = s.type === 'sound' ? 'sound' : s.type === 'video' ? 'video' : 'still';
      families.set(families.has(s.stem) ? s.entry.path : s.stem, {
        stem: s.stem,
        kind,
        files: [memberOf(s, 'original', '')],
        missing: [],
      });
    }
  }
  for (const list of segments.values()) addSegments(families, list);
  if (how.follows) joinFollowing(card, families, how.evidence);
  joinStills(card, families, how.singles);
  for (const role of ['sound', 'sidecar', 'look', 'thumbnail', 'cameraProxy'] as const) {
    const those = [...sorted, ...beside].filter(
      (s) => s.role === role && !(role !== 'thumbnail' && beside.includes(s)),
    );
    if (those.length > 0) joinBeside(card, families, role, those);
  }
  card.families = [...families.values()].sort((a, b) =>
    a.files[0]!.path.localeCompare(b.files[0]!.path, 'en', { numeric: true }),
  );
}

/** Numbered segments of one take: one clip, and the numbers that are missing inside it said. */
function addSegments(families: Map<string, Family>, list: Sorted[]): void {
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

/** Joins takes that go on under the next number, as far as what was read of them proves it. */
function joinFollowing(
  card: RecognisedCard,
  families: Map<string, Family>,
  evidence: RecogniseOptions['evidence'],
): void {
  const videos = [...families]
    .filter(([, f]) => f.kind === 'video' && f.files.length === 1)
    .map(([key, f]) => ({ key, path: f.files[0]!.path, stem: f.stem, size: f.files[0]!.size }))
    .sort((a, b) => (a.path < b.path ? -1 : 1));
  const pairs = mayFollow(videos);
  card.mayFollow = pairs.map(([a, b]) => [a.path, b.path]);
  const at = (p: string) => evidence?.get(join(card.folder, p));
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

/** Makes one clip of each row of numbered stills. */
function joinStills(
  card: RecognisedCard,
  families: Map<string, Family>,
  singles: RecogniseOptions['singles'],
): void {
  const stills = [...families]
    .filter(([, f]) => f.kind === 'still')
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
      stem: first.stem,
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

function joinBeside(
  card: RecognisedCard,
  families: Map<string, Family>,
  role: FileRole,
  those: Sorted[],
): void {
  // Each segment and still answers to its own name on the card.
  const owner = new Map<string, Family>();
  const bearers = new Map<Family, Map<string, FamilyMember>>();
  for (const family of families.values()) {
    owner.set(family.stem, owner.get(family.stem) ?? family);
    const mine = new Map<string, FamilyMember>();
    bearers.set(family, mine);
    for (const f of family.files) {
      if (f.role !== 'original' && f.role !== 'segment' && f.role !== 'still') continue;
      const name = f.path.slice(f.path.lastIndexOf('/') + 1).replace(/\.[^.]*$/, '');
      if (!owner.has(name)) owner.set(name, family);
      if (!mine.has(name) && (f.role !== 'original' || name !== family.stem)) mine.set(name, f);
    }
  }
  const lower = new Map([...owner.keys()].map((k) => [k.toLowerCase(), k]));
  // A suffix the shape knows counts where the whole name is no clip's.
  const split = those.map((s) => {
    const whole = s.stem + s.suffix;
    return {
      s,
      name: whole,
      known: s.suffix !== '' && !lower.has(whole.toLowerCase()) ? lower.get(s.stem.toLowerCase()) : undefined,
    };
  });
  const { matches, rule } = matchBySuffix(
    [...owner.keys()],
    [...new Set(split.filter((x) => x.known === undefined).map((x) => x.name))],
  );
  if (role === 'cameraProxy') card.proxySuffix = rule;
  for (const { s, name, known } of split) {
    const match = known !== undefined ? { stem: known, suffix: s.suffix } : matches.get(name);
    const family = match && owner.get(match.stem);
    if (!family) {
      card.aside.push({
        path: s.entry.path,
        size: s.entry.size,
        reason: 'no clip of this name is on the card',
      });
      continue;
    }
    // What belongs to a segment keeps that segment's number in its name; what bears the clip's own name belongs to all of it.
    const of = bearers.get(family)!.get(match.stem);
    family.files.push(memberOf(s, role, (of ? of.suffix : '') + match.suffix));
  }
}
