import { firstNotBefore } from '../platform/sorted';
import { folderOf, stemOf } from './families';
import type { FoundEntry } from './recognise';
import type { IntakeRules } from './rules';
import { expandPattern, extensionOf, SHAPES, typeOf } from './shape';

/** What the shipped shapes want of an extension: each rule's pattern ends in it. */
const ENDS = SHAPES.flatMap((s) => s.rules.map((r) => r.pattern.slice(r.pattern.lastIndexOf('\\.') + 2)));

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
  const byShape = new RegExp(`^(?:${ENDS.map((e) => expandPattern(e, types)).join('|')})`, 'iu');
  // Of very many files there are few extensions.
  const known = new Map<string, { typed: boolean; wanted: boolean }>();
  const judge = (path: string): { typed: boolean; wanted: boolean } => {
    const extension = extensionOf(path);
    const before = known.get(extension);
    if (before) return before;
    const typed = typeOf(path, types) !== null;
    const judged = { typed, wanted: typed || byShape.test(extension) };
    known.set(extension, judged);
    return judged;
  };
  const names = new Set<string>();
  for (const { path } of entries) {
    if (!judge(path).typed) continue;
    names.add(stemOf(path).toLowerCase());
    for (const folder of folderOf(path).toLowerCase().split('/')) names.add(folder);
  }
  const sorted = [...names].sort();
  const begins = (stem: string): boolean =>
    sorted[firstNotBefore(sorted.length, (i) => sorted[i]! < stem)]?.startsWith(stem) ?? false;
  return entries.filter(
    ({ path }) => judge(path).wanted || (sorted.length > 0 && begins(stemOf(path).toLowerCase())),
  );
}
