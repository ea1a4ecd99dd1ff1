import * as z from 'zod';
import { JournalPlan } from '../../core/naming/journal';
import type { Root } from '../places';
import { JOURNAL, OWN_FOLDER } from '../platform/files/journal';
import { linesIn } from '../platform/files/lines';
import { joinPath } from '../platform/files/names';
import { openPlain } from '../platform/files/plainFile';

const Ended = z.object({ plan: z.uuid(), ended: z.literal(true) });

/** A plan as the journal tells of it, and whether it came to its end. */
export interface ToldPlan {
  plan: JournalPlan;
  ended: boolean;
}

/** A plan's line in the journal: all of its intent, and where the places of its steps are on the disk. */
export function intentOf(
  roots: readonly Root[],
  { id, ...plan }: Pick<JournalPlan, 'kind' | 'undoes' | 'steps'> & { id: string },
): Record<string, unknown> {
  const used = new Set(plan.steps.flatMap((s) => [s.from.root, s.to.root]));
  const where = roots.filter((r) => used.has(r.id)).map((r) => ({ id: r.id, path: r.path }));
  return { plan: id, ...plan, roots: where };
}

/**
 * The plans that the journal of the shelf tells of, in the order they were begun; those only whose id is `wanted`. Lines that cannot be read
 * are passed over: a power cut may have torn them.
 */
export async function journalPlans(shelf: Root, wanted: (plan: string) => boolean): Promise<ToldPlan[]> {
  const out = new Map<string, ToldPlan>();
  try {
    const handle = await openPlain(joinPath(shelf.path, OWN_FOLDER, JOURNAL));
    for await (const line of linesIn(handle)) {
      const value: unknown = await Promise.resolve(line)
        .then(JSON.parse)
        .catch(() => null);
      const begun = JournalPlan.safeParse(value);
      if (begun.success && wanted(begun.data.plan))
        out.set(begun.data.plan, { plan: begun.data, ended: false });
      const ended = Ended.safeParse(value);
      const known = ended.success ? out.get(ended.data.plan) : undefined;
      if (known) known.ended = true;
    }
  } catch (e) {
    if ((e as { code?: string }).code !== 'ENOENT') throw e;
  }
  return [...out.values()];
}
