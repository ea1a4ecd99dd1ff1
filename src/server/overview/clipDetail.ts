import { and, desc, eq } from 'drizzle-orm';
import { shownPath } from '../../core/platform/names';
import { fieldOf, formatValue, SOURCE_WORDS, contradicts, factsOf } from '../../core/facts';
import type { ClipDetail } from '../../core/cards';
import { clips, plans, shown, steps } from '../platform/db/schema';
import { NotFound } from '../platform/errors';
import type { InJob } from '../runtime';
import { theJob } from '../jobs';
import { splitPath, clipView, everything, LISTED, statementsOf } from '../cards';
import { contextsOf } from '../facts';
import { listRoots } from '../places';

export async function clipDetail(runtime: InJob, id: string): Promise<ClipDetail> {
  const [row] = await runtime.db
    .select(LISTED)
    .from(clips)
    .innerJoin(shown, eq(shown.clip, clips.id))
    .where(and(eq(clips.job, runtime.job), eq(clips.id, id)));
  if (!row) throw new NotFound('This clip is not in the job any more.');
  const stated = await statementsOf(runtime.db, [id]);
  const all = await everything(runtime, row.card);
  const context = (await contextsOf(runtime, await theJob(runtime))).get(row.card);
  const roots = new Map((await listRoots(runtime)).map((r) => [r.id, r]));
  const moved = await runtime.db
    .select({ at: plans.madeAt, kind: plans.kind, state: steps.state, to: steps.toPath, file: steps.file })
    .from(steps)
    .innerJoin(plans, eq(steps.plan, plans.id))
    .where(eq(steps.clip, id))
    .orderBy(desc(plans.madeAt));
  const family = all.families.get(id) ?? [];
  const original = family.find((f) => f.role === 'original');
  const show = (v: Parameters<typeof formatValue>[0], field: string) =>
    formatValue(v, field as Parameters<typeof formatValue>[1]);
  return {
    ...clipView(all, row),
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
    history: moved
      .filter((m) => m.file === original?.id && m.state === 'done')
      .map((m) => ({
        at: m.at.toISOString(),
        text: `${m.kind === 'name' ? 'Named' : 'Taken back to'} ${splitPath(m.to).stem}`,
      })),
  };
}
