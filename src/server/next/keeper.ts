import { AfterChanges } from '../platform/afterChanges';
import { type Doers, doNext, jobsWithNext } from './doNext';
import type { Topic } from '../platform/events';
import type { InJob, Ports } from './ports';

/** Changes after which the time of a step may have come. */
const TOPICS: readonly Topic[] = ['clips', 'cards', 'work', 'copies', 'job', 'places', 'tasks', 'next'];

/** Does in all open jobs what is to happen with clips that were taken in, as soon as its time has come. */
export const nextKeeper = <R extends InJob>(runtime: Ports & { inJob(job: string): R }, doers: Doers<R>) =>
  new AfterChanges('what happens next', runtime.events, TOPICS, async (ended) => {
    for (const job of await jobsWithNext(runtime)) {
      if (ended()) return;
      await doNext(runtime.inJob(job), doers);
    }
  });
