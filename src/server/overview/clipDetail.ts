import { and, eq, inArray } from 'drizzle-orm';
import { shownPath } from '../../core/platform/names';
import { fieldOf, formatValue, SOURCE_WORDS, contradicts, factsOf } from '../../core/facts';
import type { ClipDetail } from '../../core/cards';
import { clips } from '../cards/tables';
import { shown } from '../facts/tables';
import { NotFound } from '../platform/errors';
import type { InJob } from './ports';
import { requireJob } from '../jobs';
import { clipView, everything, LISTED, placesOf, statementsOf } from '../cards';
import { physicalCards } from '../custody/tables';
import { analysisOf, stateOf } from '../analysis';
import { contextsOf } from '../facts';
import { listRoots, type Root } from '../places';

export async function clipDetail(runtime: InJob, id: string): Promise<ClipDetail> {
  const [row] = await runtime.db
    .select(LISTED)
    .from(clips)
    .innerJoin(shown, eq(shown.clip, clips.id))
    .where(and(eq(clips.job, runtime.job), eq(clips.id, id)));
  if (!row) throw new NotFound('This clip is no longer in the job.');
  const stated = await statementsOf(runtime.db, [id]);
  const all = await everything(runtime, row.card);
  const context = (await contextsOf(runtime, await requireJob(runtime))).get(row.card);
  const roots = new Map((await listRoots(runtime)).map((r) => [r.id, r]));
  const family = all.families.get(id) ?? [];
  const original = family.find((f) => f.role === 'original');
  const show = (v: Parameters<typeof formatValue>[0], field: string) =>
    formatValue(v, field as Parameters<typeof formatValue>[1]);
  return {
    ...clipView(all, row),
    seen: original ? await analysisOf(runtime, id, stateOf(original)) : null,
    facts: [...factsOf(stated.get(id) ?? [], context)].map(([field, { chosen, others }]) => ({
      field,
      group: fieldOf(field).group,
      term: fieldOf(field).term,
      value: show(chosen.value, field),
      source: SOURCE_WORDS[chosen.source],
      others: others
        .map((o) => ({
          value: show(o.value, field),
          source: SOURCE_WORDS[o.source],
          contradicts: contradicts(field, chosen, o),
        }))
        .filter((o) => o.value !== show(chosen.value, field)),
    })),
    family: family.map((f) => ({
      id: f.id,
      role: f.role,
      place: { root: f.root, path: shownPath(f.path) },
      rootName: roots.get(f.root)?.name ?? f.root,
      size: f.size,
    })),
    places: original ? await placesOfFile(runtime, original.id, roots) : [],
  };
}

/** Where a file is, where it was, and where it was taken from, as a person reads it. */
async function placesOfFile(
  { db }: Pick<InJob, 'db'>,
  file: string,
  roots: ReadonlyMap<string, Root>,
): Promise<ClipDetail['places']> {
  const rows = await placesOf(db, file);
  const onCards = rows.flatMap((r) => r.onCard ?? []);
  const labels = new Map(
    (
      await db
        .select({ id: physicalCards.id, label: physicalCards.label })
        .from(physicalCards)
        .where(inArray(physicalCards.id, onCards))
    ).map((c) => [c.id, c.label]),
  );
  return rows.map((r) => ({
    what: r.onCard !== null ? 'card' : r.copy !== null ? 'copy' : 'place',
    name: (r.onCard !== null ? labels.get(r.onCard) : roots.get(r.root ?? '')?.name) ?? null,
    path: shownPath(r.path),
    since: r.since.toISOString(),
    until: r.until?.toISOString() ?? null,
  }));
}
