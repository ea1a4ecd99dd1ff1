import { type CardShape, extensionOf, type FileRole, isVideo, SHAPES } from './shape';
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
  /** What stands behind the clip's stem in this file's name, extension left out: "_px", "" for the original. */
  suffix: string;
}

export interface Family {
  /** The clip's name on the card, without extension. */
  stem: string;
  /** The original first. */
  files: FamilyMember[];
}

export interface AsideFile { path: string; size: number; reason: string }

/** A card as it was recognised: nothing of it is stored yet. */
export interface RecognisedCard {
  /** The card's folder below the folder that was looked at; "" for that folder itself. */
  folder: string;
  shape: Pick<CardShape, 'id' | 'name' | 'because'>;
  families: Family[];
  aside: AsideFile[];
  /** The suffix of camera-made proxies; `null` where the card has none. */
  proxySuffix: string | null;
}

export interface Recognised {
  cards: RecognisedCard[];
  /** Files outside every card. */
  aside: AsideFile[];
}

const SYSTEM = /(?:^|\/)(?:\.[^/]+|System Volume Information|\$RECYCLE\.BIN|lost\+found|Thumbs\.db|desktop\.ini|ascmhl)(?:\/|$)/i;

/** Why a file is left aside before any shape is asked; `null` where it may belong to a clip. */
function leftAside(e: FoundEntry): string | null {
  if (SYSTEM.test(e.path)) return 'dot file or system folder';
  if (e.kind === 'link') return 'a link: Sort Shelf does not follow links on cards';
  if (e.kind === 'other') return 'not a file (pipe, socket or device)';
  if (e.size === 0) return isVideo(e.path) ? 'has no bytes: the copy was cut short or never begun' : 'has no bytes';
  return e.fault ?? null;
}

/**
 * Finds the cards in a folder by structure alone. A folder is tried against every shape before its subfolders are; what
 * a shape takes is not looked at again. A folder with video directly in it and no shape is a plain card.
 */
export function recognise(entries: readonly FoundEntry[], shapes: readonly CardShape[] = SHAPES): Recognised {
  const aside: AsideFile[] = [];
  const usable: FoundEntry[] = [];
  const refused: (AsideFile & { inCard?: boolean })[] = [];
  for (const e of entries) {
    const reason = leftAside(e);
    if (reason === null) usable.push(e);
    else refused.push({ path: e.path, size: e.size, reason });
  }
  const cards: RecognisedCard[] = [];
  const compiled = shapes.map(compile);
  descend('', usable);
  for (const r of refused) {
    const card = cards.find((c) => c.folder === '' || r.path.startsWith(`${c.folder}/`));
    if (card) card.aside.push({ ...r, path: card.folder === '' ? r.path : r.path.slice(card.folder.length + 1) });
    else aside.push(r);
  }
  for (const c of cards) c.aside.sort((a, b) => (a.path < b.path ? -1 : 1));
  cards.sort((a, b) => (a.folder < b.folder ? -1 : 1));
  return { cards, aside };

  function descend(folder: string, files: FoundEntry[]): void {
    if (!files.some((f) => isVideo(f.path))) {
      for (const f of files) aside.push({ path: join(folder, f.path), size: f.size, reason: 'no clip stands beside it' });
      return;
    }
    const here = files.some((f) => isVideo(f.path) && !f.path.includes('/'));
    for (const shape of compiled) {
      if (shape.of.id === 'plain' && !here) continue;
      const card = tryShape(shape, folder, files);
      if (card) {
        cards.push(card);
        return;
      }
    }
    const below = new Map<string, FoundEntry[]>();
    for (const f of files) {
      const cut = f.path.indexOf('/');
      if (cut < 0) aside.push({ path: join(folder, f.path), size: f.size, reason: 'no clip stands beside it' });
      else {
        const name = f.path.slice(0, cut);
        const list = below.get(name) ?? [];
        list.push({ ...f, path: f.path.slice(cut + 1) });
        below.set(name, list);
      }
    }
    for (const [name, list] of below) descend(join(folder, name), list);
  }
}

const join = (a: string, b: string): string => (a === '' ? b : `${a}/${b}`);

interface Compiled { of: CardShape; marks: RegExp[]; rules: { re: RegExp; role: FileRole }[] }

function compile(of: CardShape): Compiled {
  return {
    of,
    marks: of.marks.map((m) => new RegExp(m, 'iu')),
    rules: of.rules.map((r) => ({ re: new RegExp(r.pattern, 'iu'), role: r.role })),
  };
}

function tryShape(shape: Compiled, folder: string, files: FoundEntry[]): RecognisedCard | null {
  if (!shape.marks.every((m) => files.some((f) => m.test(f.path)))) return null;
  const sorted: { entry: FoundEntry; role: FileRole; stem: string }[] = [];
  const aside: AsideFile[] = [];
  for (const entry of files) {
    let taken = false;
    for (const { re, role } of shape.rules) {
      const m = re.exec(entry.path);
      if (!m) continue;
      sorted.push({ entry, role, stem: m.groups?.stem ?? '' });
      taken = true;
      break;
    }
    if (taken) continue;
    if (isVideo(entry.path)) return null;
    aside.push({ path: entry.path, size: entry.size, reason: `not part of a clip (${extensionOf(entry.path) || 'no extension'})` });
  }
  const card: RecognisedCard = {
    folder, aside, proxySuffix: null, families: [],
    shape: { id: shape.of.id, name: shape.of.name, because: shape.of.because },
  };
  groupFamilies(card, sorted);
  return card;
}

/** Joins what stands beside the originals to them by stem, also with a suffix; what joins nothing is left aside. */
function groupFamilies(card: RecognisedCard, sorted: { entry: FoundEntry; role: FileRole; stem: string }[]): void {
  const member = (s: { entry: FoundEntry; role: FileRole }, suffix: string): FamilyMember =>
    ({ path: s.entry.path, role: s.role, size: s.entry.size, modified: s.entry.modified, suffix });
  const families = new Map<string, Family>();
  for (const s of sorted.filter((x) => x.role === 'original')) {
    // Two originals of one stem (T0001.MP4 and T0001.MOV, or one name in two folders) are two clips.
    const key = families.has(s.stem) ? s.entry.path : s.stem;
    families.set(key, { stem: s.stem, files: [member(s, '')] });
  }
  for (const role of ['sidecar', 'look', 'thumbnail', 'cameraProxy'] as const) {
    const those = sorted.filter((s) => s.role === role);
    if (those.length === 0) continue;
    const { matches, rule } = matchBySuffix([...families.keys()], [...new Set(those.map((s) => s.stem))]);
    if (role === 'cameraProxy') card.proxySuffix = rule;
    for (const s of those) {
      const m = matches.get(s.stem);
      if (m) families.get(m.stem)!.files.push(member(s, m.suffix));
      else card.aside.push({ path: s.entry.path, size: s.entry.size, reason: 'no clip of this name is on the card' });
    }
  }
  card.families = [...families.values()].sort((a, b) => a.files[0]!.path.localeCompare(b.files[0]!.path, 'en', { numeric: true }));
}
