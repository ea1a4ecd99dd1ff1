import type { DiskPath } from '../../platform/names';
import { join, shownPath } from '../../platform/names';
import { cardFolder } from '../../offload';
import { imageTail } from '../../proxies';
import { type Form, type Media, MEDIA_FOLDERS } from './form';
import { nameBy, type NameWords } from './names';

/** A file of a clip, where it stands. Bytes, and milliseconds since 1970. */
export interface Source {
  /** Its id: the same file is sent to the same place again, whatever it is called by then. */
  file: string;
  root: string;
  path: DiskPath;
  size: number;
  modified: number;
  /** The physical card it is still on; null elsewhere. */
  onCard: string | null;
  /** The frame of it that goes as an image, whose bytes are foreseen then; null where the file goes as it is. */
  image: ImageOf | null;
}

/** An image that is made when it goes. */
export interface ImageOf {
  /** From 0. */
  frame: number;
  /** Tells what it is made from, and how. */
  of: string;
}

/** A file of a clip that may go. */
export interface Packable extends Source {
  what: Media;
  name: DiskPath;
  /** Whether a form may call it otherwise: what a camera or recorder wrote is found by its name. */
  renamed: boolean;
  /** Why it cannot be had now, in words; null where it can. */
  away: string | null;
}

/** A clip of a set, with the files of it that a form may ask for. */
export interface PackClip {
  clip: string;
  /** Its name, with no extension. */
  stem: DiskPath;
  /** What folders and files may be called by. */
  words: NameWords;
  /** Whether an edit made with it finds its original by nothing but its name. */
  byName: boolean;
  files: readonly Packable[];
  /** What the recipient should know of it, by the kind of file it is about. */
  notes: readonly { what: Media; why: string }[];
}

/** A file as it goes, below the package's folder. */
export interface Item extends Source {
  place: DiskPath;
  what: Media;
  clip: string;
}

/** What does not go, or goes in place of something else, and why. */
export interface Remark {
  clip: string;
  what: Media;
  why: string;
}

/** Volumes tell names apart by neither case nor the form that their letters are written in (common practice). */
export const placeKey = (place: DiskPath): string => place.normalize('NFC').toLowerCase();

const extensionOf = (name: DiskPath): DiskPath => /\.[^./]*$/.exec(name)?.[0] ?? '';

/** What the names of a form are for. */
const isNamed = ({ names }: Form, what: Media): boolean =>
  names === 'original' ? what === 'edit' : names === 'pattern';

/** The name that a file goes by; and why it is not the one that the form asks for, in words. */
function nameIn(
  form: Form,
  { stem, words }: PackClip,
  f: Packable,
): { name: DiskPath; fault: string | null } {
  if (!f.renamed || !isNamed(form, f.what)) return { name: f.name, fault: null };
  const extension = extensionOf(f.name);
  if (form.names === 'original') return { name: `${stem}${extension}`, fault: null };
  const { name, fault } = nameBy(form.namePattern, words, f.name.slice(0, f.name.length - extension.length));
  return { name: `${name}${extension}`, fault };
}

const IMAGE_TAIL = imageTail(0).length;
const folderOf = (place: DiskPath): DiskPath => place.slice(0, Math.max(0, place.lastIndexOf('/')));

const folderIn = ({ folders, pattern }: Form, { words }: PackClip, what: Media): string => {
  const { card, day } = words;
  const below = {
    one: '',
    card,
    day: join(`Day ${String(day).padStart(2, '0')}`, card),
    own: folders === 'own' ? cardFolder(pattern, words) : '',
  };
  return join(MEDIA_FOLDERS[what], below[folders]);
};

/** Places that are not taken: the plain one, one in a folder of the card, and further ones. */
function* placesFor(folder: string, card: string, name: DiskPath): Generator<DiskPath> {
  yield join(folder, name);
  const own = folder.endsWith(`/${card}`) ? folder : join(folder, card);
  if (own !== folder) yield join(own, name);
  for (let n = 2; ; n++) yield join(own, String(n), name);
}

/** The first place that is not taken, which is then. */
function freePlace(form: Form, of: PackClip, what: Media, name: DiskPath, taken: Set<string>): DiskPath {
  let place: DiskPath;
  for (place of placesFor(folderIn(form, of, what), of.words.card, name))
    if (!taken.has(placeKey(place))) break;
  taken.add(placeKey(place!));
  return place!;
}

const NOT_FOUND =
  'an edit made with it finds its original by its name alone, and will not by its new one: let editing media keep their names';

/** What is said of a file in a folder of its own, for a name that was given to it and that another has; null where it is in its plain place. */
const besideNote = (place: DiskPath, folder: string): string | null =>
  folderOf(place) === folder
    ? null
    : `another file has its new name, so that it goes to ${shownPath(folderOf(place))}: {name} in the pattern tells them apart`;

/**
 * Where each file goes. What was sent before keeps its place (`before`, by file and kind); of two that would have one name the later goes to a
 * folder beside, for a name that was changed would no longer be found. A file that two clips have goes once.
 */
export function planItems(
  form: Form,
  clips: readonly PackClip[],
  before: ReadonlyMap<string, DiskPath> = new Map(),
): { items: Item[]; remarks: Remark[] } {
  const taken = new Set([...before.values()].map(placeKey));
  for (const [key, place] of before) if (isImageKey(key)) taken.add(placeKey(folderOf(place)));
  const items: Item[] = [];
  const remarks: Remark[] = [];
  const gone = new Set<string>();
  for (const of of clips) {
    const say = (what: Media, why: string | null): void => {
      if (why !== null) remarks.push({ clip: of.clip, what, why });
    };
    const row = rowOf(form, of, before, taken, say);
    for (const { what, why } of of.notes) if (form.media.includes(what)) say(what, why);
    for (const f of of.files) {
      const { what, file, image } = f;
      if (!form.media.includes(what) || gone.has(sentKey(f))) continue;
      gone.add(sentKey(f));
      if (f.away !== null) {
        say(what, f.away);
        continue;
      }
      const { root, path, size, modified, onCard } = f;
      let place = before.get(sentKey(f)) ?? (image && `${row}${imageTail(image.frame)}`);
      if (place === null) {
        const { name, fault } = nameIn(form, of, f);
        say(what, fault);
        place = freePlace(form, of, what, name, taken);
        if (form.names === 'pattern' && name !== f.name) {
          say(what, besideNote(place, folderIn(form, of, what)));
          if (what === 'edit' && of.byName) say(what, NOT_FOUND);
        }
      }
      items.push({ clip: of.clip, file, what, root, path, size, modified, onCard, image, place });
    }
  }
  return { items, remarks };
}

/**
 * What the images of a clip are called before their numbers, in a folder that no other clip has: as those that were sent before, whatever the
 * clip is called by now, for a row of images has one name. Empty where none of it goes as images.
 */
function rowOf(
  form: Form,
  of: PackClip,
  before: ReadonlyMap<string, DiskPath>,
  taken: Set<string>,
  say: (what: Media, why: string | null) => void,
): DiskPath {
  const images = of.files.filter((f) => f.image !== null);
  if (images.length === 0) return '';
  const known = images.map((f) => before.get(sentKey(f))).find((place) => place !== undefined);
  if (known !== undefined) return known.slice(0, -IMAGE_TAIL);
  const { name, fault } =
    form.names === 'pattern' ? nameBy(form.namePattern, of.words, of.stem) : { name: of.stem, fault: null };
  say('used', fault);
  const folder = freePlace(form, of, 'used', name, taken);
  if (name !== of.stem) say('used', besideNote(folder, folderIn(form, of, 'used')));
  return join(folder, name);
}

/** What tells what was sent: a file may go as what is cut with and as an original, too, and some of its frames as images. */
export const sentKey = ({ file, what, image }: Pick<Item, 'file' | 'what' | 'image'>): string =>
  image === null ? `${what} ${file}` : `image ${image.frame} ${file}`;
const isImageKey = (key: string): boolean => key.startsWith('image ');

/** A file that was sent, as its source was then; and how it stands at the recipient's. */
export interface Sent {
  file: string;
  what: Media;
  place: DiskPath;
  size: number;
  modified: number;
  image: ImageOf | null;
  state: 'waiting' | 'verified' | 'failed';
}

export interface Compared {
  fresh: Item[];
  /** Sent before, and another since. */
  changed: Item[];
  same: Item[];
  /** Sent before, and no more part of the set: they stay at their place. */
  left: Sent[];
}

/** Whether what was sent was another. How many bytes an image has is known when it is made. */
const isAnother = (sent: Sent, now: Item): boolean =>
  sent.modified !== now.modified ||
  (now.image === null ? sent.size !== now.size : sent.image?.of !== now.image.of);

/** What of a plan was sent before as it is now. What was never verified there is still to come. */
export function comparePlans(items: readonly Item[], before: readonly Sent[]): Compared {
  const known = new Map(before.map((s) => [sentKey(s), s]));
  const out: Compared = { fresh: [], changed: [], same: [], left: [] };
  const wanted = new Set<string>();
  for (const i of items) {
    wanted.add(sentKey(i));
    const s = known.get(sentKey(i));
    if (!s || s.state !== 'verified') out.fresh.push(i);
    else if (isAnother(s, i)) out.changed.push(i);
    else out.same.push(i);
  }
  out.left = before.filter((s) => !wanted.has(sentKey(s)));
  return out;
}
