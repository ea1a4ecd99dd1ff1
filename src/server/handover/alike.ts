import { and, eq, isNull } from 'drizzle-orm';
import { type Alike, cutAlike, type Laid, rewrapThatStarts, type Shelved, stemOf } from '../../core/handover';
import { sameAddress } from '../../core/platform/timecode/timecode';
import { statedByProxy } from '../../core/proxies';
import { addWork, grouped, splitPath } from '../cards';
import { files } from '../cards/tables';
import { among } from '../platform/db/among';
import { Refused } from '../platform/errors';
import { pairs } from '../proxies/tables';
import type { InJob } from './ports';
import { nameOf, type Placed } from './sides';

/** Files that count as an edit does, made of the originals: how many it takes for the edit to connect as it is, and which of them are missing. */
export async function alikeOf(
  runtime: InJob,
  { laid, shelved }: { laid: readonly (readonly Laid[])[]; shelved: Shelved },
): Promise<{ files: number; missing: Alike[] }> {
  const wanted = cutAlike(laid, shelved);
  if (wanted.length === 0) return { files: 0, missing: [] };
  const rows = await runtime.db
    .select({ clip: files.clip, path: files.path, checks: pairs.checks })
    .from(pairs)
    .innerJoin(files, and(eq(files.id, pairs.file), eq(files.role, 'rewrap')))
    .where(
      and(
        among(
          pairs.clip,
          wanted.map((w) => w.clip),
        ),
        eq(pairs.state, 'proven'),
        isNull(pairs.part),
      ),
    );
  const made = grouped(
    rows,
    (r) => r.clip,
    (r) => ({ stem: stemOf(nameOf(r)), start: statedByProxy(r.checks).start }),
  );
  const isMade = ({ clip, stem, startsAt }: Alike): boolean =>
    (made.get(clip) ?? []).some((m) => m.stem === stem && m.start !== null && sameAddress(m.start, startsAt));
  return { files: wanted.length, missing: wanted.filter((w) => !isMade(w)) };
}

/** Queues those that are missing: rewraps of the originals with the timecode that the edit uses, named as what it was cut from. Resolves with how many. */
export async function beginAlike(
  runtime: InJob,
  missing: readonly Alike[],
  placed: ReadonlyMap<string, Placed>,
): Promise<{ begun: number }> {
  if (missing.length === 0)
    throw new Refused('Every file that this edit counts in is there.', { next: 'Look at it again.' });
  const asked = missing.map(({ clip, words, startsAt }) => {
    const { extension } = splitPath(placed.get(clip)!.original.name);
    return { clip, recipe: rewrapThatStarts(extension, startsAt, words) };
  });
  let begun = 0;
  for (const some of grouped(
    asked,
    ({ recipe }) => recipe.name + recipe.words,
    (a) => a,
  ).values())
    begun += (
      await addWork(
        runtime,
        'proxy',
        some.map((a) => a.clip),
        { recipe: some[0]!.recipe },
      )
    ).added;
  return { begun };
}
