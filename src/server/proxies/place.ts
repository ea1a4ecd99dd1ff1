import path from 'node:path';
import { splitPath } from '../cards';

/** Where a made proxy of a clip is, below the proxies root: beside its namesakes once the clip is named, by job and card until then. */
export function proxyPlace(
  code: string,
  clip: { card: string; original: string },
  original: { path: string; takenRoot: string | null; takenPath: string | null; root: string },
): string {
  const named = original.path !== original.takenPath || original.root !== original.takenRoot;
  if (!named) return `not-named/${code}/${clip.card}/${clip.original}.mp4`;
  const { folder, stem } = splitPath(original.path);
  return path.posix.join(folder, `${stem}.mp4`);
}
