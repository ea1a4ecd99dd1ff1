import path from 'node:path';
import { splitPath } from '../cards';

/**
 * Where what was made of a clip is, below its root: in the folder that the original has in its own once the clip is named, by job and card until
 * then; or in the one folder of its recipe. `tail` is what follows the original's stem in its name.
 */
export function proxyPlace(
  code: string,
  clip: { card: string; original: string },
  original: { path: string; takenRoot: string | null; takenPath: string | null; root: string },
  { tail, folder: fixed }: { tail: string; folder: string | null },
): string {
  if (!isNamed(original))
    return path.posix.join(fixed ?? '', 'not-named', code, clip.card, `${clip.original}${tail}`);
  const { folder, stem } = splitPath(original.path);
  return path.posix.join(fixed ?? folder, `${stem}${tail}`);
}

/** Whether a clip has a name and place that are not the camera's. */
export const isNamed = (original: {
  path: string;
  takenRoot: string | null;
  takenPath: string | null;
  root: string;
}): boolean => original.path !== original.takenPath || original.root !== original.takenRoot;
