import { firstNotBefore } from '../platform/sorted';
import { folderOf, stemOf } from './families';
import type { FoundEntry } from './recognise';
import { type IntakeRules } from './rules';
import { extensionOf, typeOf } from './shape';

/** Extensions of what the shipped shapes take beside footage, or whatever the list of file types says. */
const BY_SHAPE = new Set(
  'xml srt xmp cdl cc ccc cube thm bmp cpi bin mxf mts m2ts mp4 mov wav jpg'.split(' '),
);

/**
 * Those entries that may be of a clip: `recognise` makes the same clips of them as of all. Left out is what has neither a type that counts
 * nor a name that a clip of these could have; in a folder of documents that is nearly everything.
 */
export function ofClips(
  entries: readonly FoundEntry[],
  { types, shapes }: Pick<IntakeRules, 'types' | 'shapes'>,
): FoundEntry[] {
  // A shape of somebody's own may take anything.
  if (shapes.length > 0) return [...entries];
  const typed = new Map<string, boolean>();
  const isTyped = (path: string): boolean => {
    const extension = extensionOf(path);
    const known = typed.get(extension) ?? typeOf(path, types) !== null;
    typed.set(extension, known);
    return known;
  };
  const names = new Set<string>();
  for (const { path } of entries) {
    if (!isTyped(path)) continue;
    names.add(stemOf(path).toLowerCase());
    for (const folder of folderOf(path).toLowerCase().split('/')) names.add(folder);
  }
  const sorted = [...names].sort();
  const begins = (stem: string): boolean =>
    sorted[firstNotBefore(sorted.length, (i) => sorted[i]! < stem)]?.startsWith(stem) ?? false;
  return entries.filter(
    ({ path }) =>
      isTyped(path) ||
      BY_SHAPE.has(extensionOf(path)) ||
      (sorted.length > 0 && begins(stemOf(path).toLowerCase())),
  );
}
