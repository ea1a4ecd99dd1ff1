import type { Events } from './events';

/** How many answers are kept. */
const MAX_ANSWERS = 24;

/**
 * Answers that took long and hold until something changes: the views of a job with very many clips, which several pages and
 * tabs ask for. Whatever changes the job says so through the events, and with it all of them are forgotten.
 */
export class ViewCache {
  readonly #answers = new Map<string, { at: number; answer: Promise<unknown> }>();

  constructor(private readonly events: Pick<Events, 'revision'>) {}

  /** The answer that is kept under a name, or a new one. An answer begun before a change is not given after it; a failure is not kept. */
  get<T>(name: string, answer: () => Promise<T>): Promise<T> {
    const at = this.events.revision;
    const known = this.#answers.get(name);
    if (known?.at === at) return known.answer as Promise<T>;
    const fresh = answer();
    this.#answers.delete(name);
    this.#answers.set(name, { at, answer: fresh });
    for (const [other, { at: then }] of this.#answers)
      if (then !== at || this.#answers.size > MAX_ANSWERS) this.#answers.delete(other);
    fresh.catch(() => this.#answers.get(name)?.answer === fresh && this.#answers.delete(name));
    return fresh;
  }
}
