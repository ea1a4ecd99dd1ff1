import { and, eq, inArray, isNull } from 'drizzle-orm';
import type { WorkView } from '../../core/platform/shapes';
import type { Makeable } from '../../core/proxies/shapes';
import { beingCopied } from '../cards';
import { requireJob } from '../jobs';
import { jobs } from '../jobs/tables';
import { AfterChanges } from '../platform/afterChanges';
import type { Topic } from '../platform/events';
import { work } from '../platform/work/tables';
import type { InJob, Ports } from './ports';
import { proxiesView } from './views';

const TOPICS: readonly Topic[] = ['copies', 'job'];

/**
 * Tells clips that need a proxy and have none, by the work of the job: what was begun by the recipe of its rules, and failed or was
 * cancelled, is not begun again by itself. What was made by another recipe, as a rewrap, stands for none.
 */
export function lacksProxy(known: readonly Pick<WorkView, 'clip' | 'recipe'>[]): (clip: Makeable) => boolean {
  const begun = new Set(known.map((w) => `${w.clip} ${w.recipe ?? ''}`));
  return ({ clip, needed, has, recipe }) =>
    needed && !has.includes(recipe) && !begun.has(`${clip} `) && !begun.has(`${clip} ${recipe}`);
}

/**
 * Begins the proxies of what needs one and has none, where the job makes them by itself and no clip waits to be read. Of a card that is
 * being copied each clip's turn comes when all its files are verified: its card is read once, and what is decoded is the copy.
 */
export async function makeByItself(runtime: InJob): Promise<void> {
  if (!(await requireJob(runtime)).proxies.byItself) return;
  const [unread] = await runtime.db
    .select({ id: work.id })
    .from(work)
    .where(and(eq(work.job, runtime.job), inArray(work.kind, ['read', 'rest']), eq(work.state, 'queued')))
    .limit(1);
  if (unread) return;
  const onCard = await beingCopied(runtime);
  const { clips, work: known } = await proxiesView(runtime);
  const lacks = lacksProxy(known);
  await runtime.queue.add(
    'proxy',
    clips.filter((c) => lacks(c) && !onCard.has(c.clip)).map((c) => c.clip),
  );
}

/** Begins them in all open jobs where a clip's copy was verified, or the rules have changed; what was read begins its own. */
export function proxyKeeper(
  runtime: Ports & { inJob(job: string): InJob },
): Pick<AfterChanges, 'begin' | 'end'> {
  const looked = new Map<string, string>();
  return new AfterChanges('proxies by themselves', runtime.events, TOPICS, async (ended) => {
    const open = await runtime.db
      .select({ id: jobs.id, rules: jobs.proxies })
      .from(jobs)
      .where(isNull(jobs.putAwayAt));
    for (const { id, rules } of open) {
      if (ended()) return;
      if (rules.byItself !== true) {
        looked.delete(id);
        continue;
      }
      const inJob = runtime.inJob(id);
      // Of very many clips it takes a while to see which need one: only where that may be others than it was.
      const now = JSON.stringify([rules, [...(await beingCopied(inJob))].sort()]);
      if (looked.get(id) === now) continue;
      await makeByItself(inJob);
      looked.set(id, now);
    }
  });
}
