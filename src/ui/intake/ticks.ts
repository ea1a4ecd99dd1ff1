import type { LookedCard } from '../../core/intake/shapes';
import { shownPath } from '../../core/platform/names';
import { formatBytes, plural } from '../platform/format';

export type LookedClip = LookedCard['clips'][number];

/** A rectangle in any two opposite corners. */
export interface Rectangle {
  x: number;
  y: number;
  x2: number;
  y2: number;
}

/** Sets every clip from one to another, both with it, to ticked or not; order is the order on the screen. */
export function tickRange(
  ticked: ReadonlySet<string>,
  order: readonly string[],
  from: string,
  to: string,
  on: boolean,
): Set<string> {
  const [a, b] = [order.indexOf(from), order.indexOf(to)].sort((x, y) => x - y) as [number, number];
  const out = new Set(ticked);
  for (const path of order.slice(Math.max(0, a), b + 1)) {
    if (on) out.add(path);
    else out.delete(path);
  }
  return out;
}

export const invert = (ticked: ReadonlySet<string>, order: readonly string[]): Set<string> =>
  new Set(order.filter((p) => !ticked.has(p)));

/** How tiles are laid out: the first at 0, 0; pixels. */
export interface Layout {
  columns: number;
  width: number;
  height: number;
  gap: number;
}

/** Numbers of the tiles that a rectangle touches. */
export function touched(r: Rectangle, count: number, { columns, width, height, gap }: Layout): number[] {
  const [left, right] = [Math.min(r.x, r.x2), Math.max(r.x, r.x2)];
  const [top, bottom] = [Math.min(r.y, r.y2), Math.max(r.y, r.y2)];
  return Array.from({ length: count }, (_, i) => i).filter((i) => {
    const [x, y] = [(i % columns) * (width + gap), Math.floor(i / columns) * (height + gap)];
    return x < right && x + width > left && y < bottom && y + height > top;
  });
}

/** What a choice comes to. Bytes. */
export interface Sum {
  clips: number;
  bytes: number;
  files: number;
}
export function sumOf(clips: readonly LookedClip[], ticked: ReadonlySet<string>): Sum {
  const list = clips.filter((c) => ticked.has(c.path));
  return {
    clips: list.length,
    bytes: list.reduce((n, c) => n + c.bytes, 0),
    files: list.reduce((n, c) => n + c.files.length, 0),
  };
}

const isBelow = (path: string, folder: string): boolean =>
  path !== folder && (folder === '' || path.startsWith(`${folder}/`));

/** A card that was recognised in the same folder. */
export interface OtherCard {
  folder: string;
  clips: readonly { files: readonly unknown[] }[];
}
/** Names of other cards that are told. */
const NAMED = 3;

/** In plain words, what stays behind. `others` are the cards that were offered together with it; `looked` is the folder that was looked at, below the root. */
export function notCopied(
  card: LookedCard,
  others: readonly OtherCard[],
  looked: string,
  ticked: ReadonlySet<string>,
  to: { safe: number; shelf: boolean; wholeCard: boolean },
): string[] {
  const out: string[] = [];
  const filesOf = (of: OtherCard) => of.clips.reduce((n, c) => n + c.files.length, 0);
  const left = card.clips.filter((c) => !ticked.has(c.path));
  const theirs = others.reduce((n, o) => n + filesOf(o), 0);
  const apart = card.all.files - filesOf(card) - theirs;
  const whole = to.safe > 0 && to.wholeCard;
  const copies = `the safe ${to.safe === 1 ? 'copy' : 'copies'}`;
  const size = formatBytes(left.reduce((n, c) => n + c.bytes, 0));
  if (left.length > 0 && !whole)
    out.push(`${plural(left.length, 'clip')} not ticked (${size}) will be on the card only.`);
  if (left.length > 0 && whole && to.shelf)
    out.push(`${plural(left.length, 'clip')} not ticked (${size}) will be in ${copies}, not on the shelf.`);
  const names = others.slice(0, NAMED).map((o) => shownPath(o.folder) || 'this folder');
  const more = others.length > NAMED ? ' …' : '';
  const be = (n: number, what: string) =>
    n > 0 && (!whole || to.shelf)
      ? [`${plural(n, 'file')} ${what} will be ${whole ? `in ${copies}` : 'on the card'} only.`]
      : [];
  out.push(
    ...be(theirs, `of the other cards in this folder (${names.join(', ')}${more})`),
    // A card in a reader is all of its volume, of which only this folder may have been looked at.
    ...be(
      apart,
      isBelow(shownPath(looked), card.all.folder) ? 'outside this folder, or of no clip,' : 'of no clip',
    ),
  );
  return out;
}
