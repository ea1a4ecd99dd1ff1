import { and, eq, isNull } from 'drizzle-orm';
import { jobs } from '../jobs/tables';
import { AfterChanges } from '../platform/afterChanges';
import type { OfJob } from '../services';
import { ANY } from './catalogue';
import { followRules } from './followRules';
import type { Ports } from './ports';
import { keywordRules } from './tables';

/** Follows the rules of all open jobs whenever something has changed that they may look at. */
export const ruleKeeper = (runtime: Ports & { inJob(job: string): Ports & OfJob }) =>
  new AfterChanges('rules of keywords', runtime.events, ANY, async (ended) => {
    const ruled = runtime.db
      .selectDistinct({ job: keywordRules.job })
      .from(keywordRules)
      .innerJoin(jobs, and(eq(jobs.id, keywordRules.job), isNull(jobs.putAwayAt)));
    for (const { job } of await ruled) {
      if (ended()) return;
      await followRules(runtime.inJob(job));
    }
  });
