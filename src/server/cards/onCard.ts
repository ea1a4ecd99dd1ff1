import path from 'node:path';
import { sameTime } from '../../core/custody';
import { NotFound } from '../platform/errors';
import { resolveIn, type RootPlace } from '../platform/files/paths';
import { lstat } from '../platform/files/onDisk';

/** A file of a clip: where it was last, and whether that is on a card. */
export interface ClipFile {
  path: string;
  size: number;
  modified: number;
  onCard: string | null;
}

/**
 * The absolute path of a clip's file. One that is still on a card is looked at first: readers mount every card at one
 * place, and another card's file of the same name is not the clip's. Throws NotFound where the card is not there.
 */
export async function placeOf(root: RootPlace, file: ClipFile): Promise<string> {
  const at = await resolveIn(root, file.path);
  if (file.onCard === null) return at;
  const now = await lstat(at).catch(() => null);
  if (now && now.size === file.size && sameTime(now.mtimeMs, file.modified)) return at;
  const why = now ? `Another card is in ${root.name}` : `Its card is not in ${root.name}`;
  throw new NotFound(`${why}: ${path.basename(file.path)} was not copied and stands on its card only.`, {
    file: at,
    next: 'Put that card back.',
  });
}
