import { join } from '../platform/names';
import { adopt, folderOf, type Grouping, groupFamilies, NO_CLIP, type Sorted, stemOf } from './families';
import { DEFAULT_INTAKE, type FolderRule, type IntakeRules } from './rules';
import {
  type CardShape,
  type ClipKind,
  expandPattern,
  extensionOf,
  type FileRole,
  type FileTypes,
  PROXY_FOLDER,
  SHAPES,
  typeOf,
} from './shape';
import type { TakeEvidence } from './segments';

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
  /** What its contents are where its type is not on the list; absent where nobody looked, or they are nothing of the kind. */
  holds?: keyof FileTypes;
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
  shape: Pick<CardShape, 'id' | 'name' | 'because'> & { /** Ids of further shapes on it. */ with: string[] };
  families: Family[];
  aside: AsideFile[];
  /** The suffix of camera-made proxies; `null` where the card has none. */
  proxySuffix: string | null;
  /** Files of which the second may belong to the first's clip, as its next or as a track: reading both tells (`evidence`). Paths below the card. */
  mayFollow: [string, string][];
  /** What a person should look at: footage that may not be what it was taken for. In sentences. */
  doubts: string[];
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

/** Folders of a card's own by published layouts (DCIM: DCF; PRIVATE, AVCHD, BDMV: AVCHD) and common practice (CONTENTS): what is below is on the card they are on. */
const TRUNK = /^(?:dcim|private|avchd|bdmv|contents)$/i;
/** Folders that say what kind of file is in them, not which card: those beside one another are one card. Common practice. */
const KIND_FOLDER =
  /^(?:clips?|videos?|movies?|films?|photos?|pictures?|images?|stills?|audio|sounds?|voice|misc|thmbnl|prox(?:y|ies)|sub)$/i;
/** Shapes of a folder that need not be a card of its own. */
const LOOSE = new Set(['plain', 'numbered-stills', 'sound-folder']);

/** What one shape takes of a card, with paths below the card. */
interface Part {
  shape: Compiled;
  sorted: Sorted[];
}
/** A card before its clips are put together. */
interface Find {
  folder: string;
  parts: Part[];
}

/**
 * Finds the cards in a folder by structure alone. A folder is tried against every shape before its subfolders are. What a
 * shape does not take is looked at again: beside folders of fixed names, or where most is of the shape, it is on the same
 * card. A folder with footage directly in it and no shape is a plain card; where recognised cards are below it, it is
 * plain for its own files only.
 */
export function recognise(entries: readonly FoundEntry[], options: RecogniseOptions = {}): Recognised {
  const { types, leaveOut, shapes: own } = options.rules ?? DEFAULT_INTAKE;
  const rule = options.folder ?? { skipCardFolders: true, off: [] };
  const left = new Set(leaveOut.map((n) => n.toLowerCase()));
  const { usable, refused } = sift(entries, (e) => leftAside(e, types, left));
  const tried = (rule.skipCardFolders ? [...own, ...SHAPES] : SHAPES).filter(
    (s) => s.id === 'plain' || (rule.skipCardFolders && !rule.off.includes(s.id)),
  );
  const compiled = tried.map((s) => compile(s, types));
  const plain = compiled.find((c) => c.of.id === 'plain')!;
  const isFootage = (f: FoundEntry): boolean => typeOf(f.path, types) !== null;
  const isVideo = (f: FoundEntry): boolean => typeOf(f.path, types) === 'video';

  const finds = descend('', usable, []);
  const cards = finds.map((find) =>
    assemble(find, { types, evidence: options.evidence, singles: options.singles }),
  );
  const aside = layAside(cards, leftOf(finds, usable), refused);
  cards.sort((a, b) => (a.folder < b.folder ? -1 : 1));
  return { cards, aside };

  /** The cards of a folder and of those below it. `taken` are shapes that have had their share of these files. */
  function descend(folder: string, files: FoundEntry[], taken: readonly Compiled[]): Find[] {
    if (!files.some(isFootage)) return [];
    for (const shape of compiled) {
      if (shape === plain || taken.includes(shape)) continue;
      const part = match(shape, files);
      if (!part) continue;
      const mine = new Set(part.sorted.map((s) => s.entry));
      const rest = files.filter((f) => !mine.has(f));
      if (!fits(part, rest)) continue;
      return gather(folder, files, [{ folder, parts: [part] }], descend(folder, rest, [...taken, shape]));
    }
    const here = files.filter((f) => !f.path.includes('/'));
    const own: Find[] = [];
    const below: Find[] = [];
    const ofKind: Find[] = [];
    for (const [name, list] of subfolders(files)) {
      const at = join(folder, name);
      for (const find of descend(at, list, [])) {
        const through = rule.skipCardFolders;
        if (through && TRUNK.test(name)) own.push(find);
        else if (through && find.folder === at && KIND_FOLDER.test(name)) ofKind.push(find);
        else below.push(find);
      }
    }
    const hasFootage = here.some(isFootage);
    const alone = hasFootage ? [{ folder, parts: [match(plain, here)!] }] : [];
    if (own.length > 0) return gather(folder, files, [...own, ...ofKind, ...alone], below);
    if (hasFootage && below.every(isPlain))
      // No card is below: the folder and all in it are one.
      return gather(folder, files, [...alone, ...ofKind, ...below], []);
    if (below.length === 0 && ofKind.length > 0) return gather(folder, files, [...ofKind, ...alone], []);
    return [...alone, ...ofKind, ...below];
  }

  /** One card of the finds of a folder, with those below that need not be cards of their own; the others behind it. */
  function gather(
    folder: string,
    files: readonly FoundEntry[],
    own: readonly Find[],
    below: readonly Find[],
  ): Find[] {
    const shapes = own.flatMap((f) => f.parts.map((p) => p.shape));
    // A camera that lays out folders of its own may number further ones by DCF, below a folder that is not DCIM.
    const further = (find: Find): boolean =>
      shapes.some((s) => s.of.fixedFolders) &&
      pathBelow(folder, find.folder).split('/').length === 1 &&
      find.parts.every((p) => p.shape.of.id === 'dcf' && !shapes.includes(p.shape));
    // Beside cards of their own, a folder of sound or stills is one too.
    const alone = below.every((f) => f.folder === folder || isLoose(f) || further(f));
    const isOn = (find: Find): boolean => find.folder === folder || further(find) || (alone && isLoose(find));
    const joined = [...own, ...below.filter(isOn)];
    const parts: Part[] = [];
    for (const find of joined) {
      const within = pathBelow(folder, find.folder);
      for (const { shape, sorted } of find.parts) {
        const moved = sorted.map((s) => ({ ...s, entry: { ...s.entry, path: join(within, s.entry.path) } }));
        const same = parts.find((p) => p.shape === shape);
        if (same) same.sorted = [...same.sorted, ...moved];
        else parts.push({ shape, sorted: moved });
      }
    }
    // Plain rules look at all of the folder, so that what is apart from its clip is found.
    if (joined.every(isPlain)) return [{ folder, parts: [match(plain, files)!] }];
    parts.sort((a, b) => compiled.indexOf(a.shape) - compiled.indexOf(b.shape));
    return [{ folder, parts }, ...below.filter((f) => !isOn(f))];
  }

  /** Whether files are of a shape although it does not take `rest`. */
  function fits({ shape, sorted }: Part, rest: readonly FoundEntry[]): boolean {
    const videos = rest.filter(isVideo).length;
    if (videos === 0 || shape.of.fixedFolders) return true;
    const taken = sorted.filter((s) => s.role === 'original' && isVideo(s.entry));
    return new Set(taken.map((s) => s.stem)).size >= 2 && taken.length > videos;
  }
}

/** Entries that are looked at, and those that are left aside for a reason. */
function sift(
  entries: readonly FoundEntry[],
  reasonOf: (e: FoundEntry) => string | null,
): { usable: FoundEntry[]; refused: AsideFile[] } {
  const usable: FoundEntry[] = [];
  const refused: AsideFile[] = [];
  for (const e of entries) {
    const reason = reasonOf(e);
    if (reason === null) usable.push(e);
    else refused.push({ path: e.path, size: e.size, reason });
  }
  return { usable, refused };
}

const isPlain = (find: Find): boolean => find.parts.every((p) => p.shape.of.id === 'plain');
const isLoose = (find: Find): boolean => find.parts.every((p) => LOOSE.has(p.shape.of.id));

/** The files of each subfolder, with paths below it. */
function subfolders(files: readonly FoundEntry[]): Map<string, FoundEntry[]> {
  const below = new Map<string, FoundEntry[]>();
  for (const f of files) {
    const cut = f.path.indexOf('/');
    if (cut < 0) continue;
    const name = f.path.slice(0, cut);
    const list = below.get(name) ?? [];
    list.push({ ...f, path: f.path.slice(cut + 1) });
    below.set(name, list);
  }
  return below;
}

/** What a shape takes of files; `null` where one of its marks is missing. */
function match(shape: Compiled, files: readonly FoundEntry[]): Part | null {
  if (!shape.marks.every((m) => files.some((f) => m.test(f.path)))) return null;
  const sorted: Sorted[] = [];
  for (const entry of files) {
    for (const { re, role } of shape.rules) {
      const groups = re.exec(entry.path)?.groups;
      if (!groups && !re.test(entry.path)) continue;
      const { stem = '', part = '', suffix = '' } = groups ?? {};
      sorted.push({ entry, role, stem, part, suffix });
      break;
    }
  }
  return { shape, sorted };
}

/** A card of its parts: clips put together, its shape named by every part that has a layout. */
function assemble({ folder, parts }: Find, how: Grouping): RecognisedCard {
  const layouts = parts.filter((p) => p.shape.of.id !== 'plain');
  const shapes = (layouts.length > 0 ? layouts : parts).map((p) => p.shape.of);
  const beside = parts.find((p) => p.shape.of.id === 'plain' && layouts.length > 0);
  const loose = beside?.sorted.filter((s) => s.role === 'original').length ?? 0;
  const card: RecognisedCard = {
    folder,
    aside: [],
    proxySuffix: null,
    families: [],
    mayFollow: [],
    doubts: [],
    shape: {
      id: shapes[0]!.id,
      with: shapes.slice(1).map((s) => s.id),
      name: shapes.map((s) => s.name).join(' and '),
      because: [
        ...shapes.map((s) => s.because),
        ...(loose > 0 ? [`${loose} ${loose === 1 ? 'file is' : 'files are'} not of that layout`] : []),
      ].join('; '),
    },
  };
  const shares = parts.map((p) => ({ follows: p.shape.of.follows, sorted: p.sorted }));
  groupFamilies(card, shares, how);
  if (card.families.length > 0 || !shares.some((s) => s.sorted.some((f) => f.role === 'cameraProxy')))
    return card;
  // Proxies alone are all the footage there is.
  const asClips = shares.map((s) => ({
    ...s,
    sorted: s.sorted.map((f) => (f.role === 'cameraProxy' ? { ...f, role: 'original' as const } : f)),
  }));
  const anew = { ...card, aside: [], mayFollow: [], proxySuffix: null };
  groupFamilies(anew, asClips, how);
  return anew;
}

/** Files that no part of a card takes, with their paths from above. */
function leftOf(finds: readonly Find[], files: readonly FoundEntry[]): FoundEntry[] {
  const taken = new Set(
    finds.flatMap((f) => f.parts.flatMap((p) => p.sorted.map((s) => join(f.folder, s.entry.path)))),
  );
  return files.filter((f) => !taken.has(f.path));
}

/** Puts what is no clip with the card it is on, or returns it where it is on none. A file below two cards is on the inner one. */
function layAside(
  cards: readonly RecognisedCard[],
  left: readonly FoundEntry[],
  refused: readonly AsideFile[],
): AsideFile[] {
  const innermost = [...cards].sort((a, b) => b.folder.length - a.folder.length);
  const outside: AsideFile[] = [];
  const onCard = new Map(cards.map((c) => [c, [] as FoundEntry[]]));
  const place = <T extends { path: string }>(e: T): { card: RecognisedCard; e: T } | null => {
    const card = innermost.find((c) => c.folder === '' || e.path.startsWith(`${c.folder}/`));
    return card ? { card, e: { ...e, path: pathBelow(card.folder, e.path) } } : null;
  };
  for (const e of left) {
    const on = place(e);
    if (on) onCard.get(on.card)!.push(on.e);
    else outside.push(noClip(e));
  }
  for (const a of refused) {
    const on = place(a);
    if (on) on.card.aside.push(on.e);
    else outside.push(a);
  }
  for (const [card, found] of onCard) {
    const unknown = adopt(card, found, isIndex);
    sayUnlisted(card, unknown);
    for (const e of unknown) card.aside.push(noClip(e));
    card.aside.sort((a, b) => (a.path < b.path ? -1 : 1));
  }
  return outside;
}

/** A file of an unlisted type that is as large as footage is at least so large. Bytes. */
const FOOTAGE = 1 << 20;
const IN_PROXY_FOLDER = new RegExp(`(?:^|/)(?:${PROXY_FOLDER})/[^/]+$`, 'i');

/** Says of proxies and sidecars without their clip which file of an unlisted type they are of, and of proxies that were taken for clips that they may be none. */
function sayUnlisted(card: RecognisedCard, unknown: readonly FoundEntry[]): void {
  const large = unknown
    .filter((e) => e.size >= FOOTAGE && !isIndex(e.path))
    .map(({ path }) => ({ path, stem: stemOf(path).toLowerCase() }));
  const owner = (path: string) => {
    const stem = stemOf(path).toLowerCase();
    return large.find((e) => stem.startsWith(e.stem));
  };
  card.aside = card.aside.map((a) => {
    const of = a.reason === NO_CLIP ? owner(a.path) : undefined;
    return of
      ? {
          ...a,
          reason: `belongs to ${of.path}, whose type (${extensionOf(of.path)}) is not on the list of file types`,
        }
      : a;
  });
  const alone = card.families.map((f) => f.files[0]!.path).filter((p) => IN_PROXY_FOLDER.test(p));
  for (const [folder, paths] of byFolder(alone)) {
    const of = paths.map(owner).find((o) => o !== undefined);
    card.doubts.push(
      `${paths.length === 1 ? '1 clip is' : `${paths.length} clips are`} in ${folder}, a folder for proxies: ${
        of
          ? `${of.path} may be an original of theirs, but its type (${extensionOf(of.path)}) is not on the list of file types`
          : 'no originals of theirs are here'
      }`,
    );
  }
}

function byFolder(paths: readonly string[]): Map<string, string[]> {
  const folders = new Map<string, string[]>();
  for (const p of paths) {
    const mine = folders.get(folderOf(p));
    if (mine) mine.push(p);
    else folders.set(folderOf(p), [p]);
  }
  return folders;
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
  if (out !== undefined) return `is in a folder that is left out (${out})`;
  if (e.size === 0)
    return typeOf(e.path, types) === 'video'
      ? 'has no bytes: the copy was cut short or never begun'
      : 'has no bytes';
  return e.fault ?? null;
}

const isIndex = (path: string): boolean => INDEX.test(path);
const noClip = ({ path, size, holds }: FoundEntry): AsideFile => ({
  path,
  size,
  reason: isIndex(path)
    ? 'an index file of the camera: nobody needs it for editing'
    : holds
      ? `holds ${HOLDS[holds]}, but its type (${extensionOf(path) || 'no extension'}) is not on the list: add it to the file types to take it in`
      : `not part of a clip (${extensionOf(path) || 'no extension'})`,
});
const HOLDS: Record<keyof FileTypes, string> = {
  video: 'video',
  still: 'a picture',
  raw: 'a picture',
  sound: 'sound',
};

const pathBelow = (folder: string, path: string): string =>
  folder === '' ? path : path.slice(folder.length + 1);

interface Compiled {
  of: CardShape;
  marks: RegExp[];
  rules: { re: RegExp; role: FileRole }[];
}
function compile(of: CardShape, types: FileTypes): Compiled {
  return {
    of,
    marks: of.marks.map((m) => new RegExp(expandPattern(m, types), 'iu')),
    rules: of.rules.map((r) => ({ re: new RegExp(expandPattern(r.pattern, types), 'iu'), role: r.role })),
  };
}
