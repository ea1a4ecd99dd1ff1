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

type Original = { path: string | null; suffix: string | null } | undefined;

/** The stem a clip is under: its original's, without the number of a first segment or still; the camera's where it has no original. */
export function clipStem(original: Original, cameraName: string): string {
  const { stem } = splitPath(original?.path ?? cameraName);
  return original?.suffix && stem.endsWith(original.suffix) ? stem.slice(0, -original.suffix.length) : stem;
}

/** The same, to be shown. */
export const clipName = (original: Original, cameraName: string): ShownPath =>
  shownPath(clipStem(original, cameraName));
