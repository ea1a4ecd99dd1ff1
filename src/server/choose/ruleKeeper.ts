import { and, eq, isNull } from 'drizzle-orm';
import { jobs } from '../jobs/tables';
import { messageOf } from '../platform/errors';
import type { OfJob } from '../services';
import { ANY } from './catalogue';
import { followRules } from './followRules';
import type { Ports } from './ports';
import { keywordRules } from './tables';

/** Milliseconds after a change until rules are followed, and how many times as long as it took they rest after it. */
const [SOON, REST] = [700, 4];

/** Follows the rules of all open jobs whenever something has changed that they may look at. */
export class RuleKeeper {
  #stop: () => void = () => undefined;
  #timer: NodeJS.Timeout | null = null;
  #running: Promise<void> = Promise.resolve();
  #free = 0;
  #ended = false;

  constructor(private readonly runtime: Ports & { inJob(job: string): Ports & OfJob }) {}

  begin(): void {
    const topics: readonly string[] = ANY;
    this.#stop = this.runtime.events.listen((e) => {
      if (e.type === 'changed' && e.what.some((w) => topics.includes(w))) this.#soon();
    });
    this.#soon();
  }

  /** Waits for what is under way. */
  async end(): Promise<void> {
    this.#ended = true;
    this.#stop();
    if (this.#timer) clearTimeout(this.#timer);
    await this.#running;
  }

  #soon(): void {
    if (this.#timer || this.#ended) return;
    const wait = Math.max(SOON, this.#free - Date.now());
    this.#timer = setTimeout(() => {
      this.#timer = null;
      this.#running = this.#running.then(() => this.#follow());
    }, wait).unref();
  }

  async #follow(): Promise<void> {
    const begun = Date.now();
    try {
      const { db } = this.runtime;
      const ruled = db
        .selectDistinct({ job: keywordRules.job })
        .from(keywordRules)
        .innerJoin(jobs, and(eq(jobs.id, keywordRules.job), isNull(jobs.putAwayAt)));
      for (const { job } of await ruled) {
        if (this.#ended) return;
        await followRules(this.runtime.inJob(job));
      }
    } catch (e) {
      // It is followed again at the next change.
      if (!this.#ended) console.error('rules of keywords:', messageOf(e));
    }
    this.#free = Date.now() + REST * (Date.now() - begun);
  }
}
