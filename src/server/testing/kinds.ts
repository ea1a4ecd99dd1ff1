import { WorkKind } from '../../core/platform/shapes';
import type { InJob } from '../runtime';
import type { World } from '../platform/work/queue';
import type { BatchKind, Kind, Kinds, SingleKind } from '../platform/work/kinds';

type Doing =
  | SingleKind<InJob>['run']
  | (Partial<SingleKind<InJob>> & Pick<SingleKind<InJob>, 'run'>)
  | (Partial<BatchKind<InJob>> & Pick<BatchKind<InJob>, 'most' | 'runAll'>);

/** Kinds of work of which these do something; one piece at a time, but of what is done in batches two batches. */
export const kindsOf = (of: Partial<Record<WorkKind, Doing>>): Kinds<InJob> =>
  Object.fromEntries(
    WorkKind.options.map((name): [WorkKind, Kind<InJob>] => {
      const doing = of[name] ?? (() => Promise.resolve());
      if (typeof doing === 'function') return [name, { workers: 1, afterDeath: 'thrice', run: doing }];
      return [name, { workers: 'most' in doing ? 2 : 1, afterDeath: 'thrice', ...doing }];
    }),
  ) as Kinds<InJob>;

/** What a queue of tests works with: a runtime's. */
export const worldOf = (runtime: InJob): World<InJob> => ({
  database: runtime.database,
  events: runtime.events,
  given: (job) => runtime.inJob(job),
});
