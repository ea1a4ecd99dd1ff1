import { shownPath, type ShownPath } from '../../core/platform/names';

/** A path's folder, its name without the extension, and the extension with its dot. */
export const splitPath = (p: string): { folder: string; stem: string; extension: string } => {
  const slash = p.lastIndexOf('/');
  const name = p.slice(slash + 1);
  const dot = name.lastIndexOf('.');
  return {
    folder: slash < 0 ? '' : p.slice(0, slash),
    stem: dot > 0 ? name.slice(0, dot) : name,
    extension: dot > 0 ? name.slice(dot) : '',
  };
};

/** A clip's name: its original's, without the number of a first segment or still; the camera's where it has no original. */
export function clipName(
  original: { path: string | null; suffix: string | null } | undefined,
  cameraName: string,
): ShownPath {
  const { stem } = splitPath(original?.path ?? cameraName);
  return shownPath(
    original?.suffix && stem.endsWith(original.suffix) ? stem.slice(0, -original.suffix.length) : stem,
  );
}
