import { join } from '../../core/platform/names';
import path from 'node:path';
import type { RecognisedCard } from '../../core/intake';
import type { DiskIdentity } from '../../core/platform/disks';
import type { Cannot, ManifestFile } from '../../core/custody/manifest';
import { OWN_FOLDER } from '../platform/files/journal';
import { joinPath } from '../platform/files/names';
import { baseOf, isWithin } from '../platform/files/paths';
import { type Walked, walkWhole } from '../platform/files/walk';
import type { InJob, Ports } from './ports';
import { samplesOf } from './samples';
import { type LookedAt } from '../cards';
import type { Root } from '../places';
import { namesIn } from '../platform/files/onDisk';

/** What a card is: everything on the volume, or in the folder, that was offered. */
export interface Offered {
  root: Root;
  /** Below the root; all paths of the card begin here. */
  folder: string;
  /** The same, absolute. */
  at: string;
  wholeVolume: boolean;
  /** What else is on the volume, outside of the folder; empty where that is not looked at (a folder of the system's volume). */
  outside: string[];
  /** Identity of the volume; `null` where the system does not say. */
  volume: string | null;
  /** The disk it is on; `null` where that is the system's own volume. */
  disk: DiskIdentity | null;
  walked: Walked;
  files: ManifestFile[];
  cannot: Cannot[];
  /** Clips recognised in it, with the folder each card was recognised in, below the offered folder. */
  cards: { folder: string; card: RecognisedCard }[];
}

const posix = (p: string): string => p.split(path.sep).join('/');
export const below = (folder: string, file: string): string | null =>
  folder === ''
    ? file
    : file === folder
      ? ''
      : file.startsWith(`${folder}/`)
        ? file.slice(folder.length + 1)
        : null;

/** The disk that is wiped with what is at a place; `null` on the system's own volume, which is not. */
export function diskWiped({ devices }: Pick<Ports, 'devices'>, at: string): DiskIdentity | null {
  const mount = devices.mountOf(at);
  return mount === path.parse(mount).root ? null : devices.diskOf(at);
}

/**
 * The card that a folder belongs to. Where the volume begins inside the root (a card in a reader), it is all of the volume,
 * however deep in it the person looked; else it is the folder the person looked at, with everything in it, whatever was
 * recognised in a part of it.
 */
export async function offeredPlace(
  runtime: Pick<Ports, 'devices'>,
  root: Root,
  looked: string,
  cardFolder: string,
): Promise<Pick<Offered, 'root' | 'folder' | 'at' | 'wholeVolume' | 'outside' | 'volume' | 'disk'>> {
  const rootAt = await baseOf(root);
  const lookedAt = joinPath(rootAt, looked);
  const mount = runtime.devices.mountOf(joinPath(lookedAt, cardFolder));
  const whole = isWithin(mount, lookedAt) || (mount !== rootAt && isWithin(mount, rootAt));
  const at = whole ? mount : lookedAt;
  return {
    root,
    at,
    folder: posix(path.relative(rootAt, at)),
    wholeVolume: whole || at === mount,
    outside: whole ? [] : await outsideOf(at, mount),
    volume: runtime.devices.volumeIdOf(at),
    disk: diskWiped(runtime, at),
  };
}

const SAID = 20;

/** Names beside a folder and beside the folders around it, the nearest first, up to where its volume begins. */
async function outsideOf(folder: string, mount: string): Promise<string[]> {
  const out: string[] = [];
  if (mount === path.parse(mount).root) return out;
  for (let at = folder; at !== mount && at !== path.dirname(at); at = path.dirname(at)) {
    const up = path.dirname(at);
    const names = (await namesIn(up).catch(() => [])).sort();
    for (const n of names)
      if (joinPath(up, n) !== at && !/^(?:\..*|lost\+found|System Volume Information)$/.test(n))
        out.push(posix(joinPath(path.relative(mount, up), n)));
  }
  return out.slice(0, SAID);
}

/** Everything that is on the card a looked-at folder belongs to. */
export async function offered(runtime: InJob, looked: LookedAt, cardFolder: string): Promise<Offered> {
  const place = await offeredPlace(runtime, looked.root, looked.folder, cardFolder);
  const inner = below(looked.folder, place.folder);
  const cut = <T extends { path: string }>(list: readonly T[]): T[] =>
    list.flatMap((e) => {
      const p = below(inner!, e.path);
      return p === null || p === '' ? [] : [{ ...e, path: p }];
    });
  const walked: Walked =
    inner === null
      ? await walkWhole(place.at)
      : {
          entries: cut(looked.walked.entries),
          empty: looked.walked.empty.flatMap((p) => below(inner, p) || []),
          whole: true,
        };
  const cards = looked.found.cards.flatMap((card) => {
    const folder = below(place.folder, join(looked.folder, card.folder));
    return folder === null ? [] : [{ folder, card }];
  });
  const samples = new Map<string, string>();
  for (const { folder, card } of cards) {
    for (const [p, s] of await samplesOf(card.families, joinPath(place.at, folder)))
      samples.set(join(folder, p), s);
  }
  const own = (p: string) => p === OWN_FOLDER || p.startsWith(`${OWN_FOLDER}/`);
  const files = walked.entries
    .filter((e) => e.kind === 'file' && !own(e.path))
    .map(({ path: p, size, modified }): ManifestFile => ({
      path: p,
      size,
      modified,
      sample: samples.get(p) ?? null,
    }));
  const cannot = walked.entries
    .filter((e) => e.kind !== 'file' && !own(e.path))
    .map((e): Cannot =>
      e.fault
        ? { path: e.path, reason: e.fault, unread: true }
        : { path: e.path, reason: e.kind === 'link' ? 'a link' : 'a pipe, socket or device' },
    );
  return { ...place, walked, files, cannot, cards };
}
