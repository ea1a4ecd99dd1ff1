import type { Events, Topic } from './events';

/** How many answers are kept. */
const MAX_ANSWERS = 64;

/**
 * Answers that took long and hold until something changes: the views of a job with very many clips, which several pages and
 * tabs ask for. Whatever changes the job says so through the events, and with it all of them are forgotten.
 */
export class ViewCache {
  readonly #answers = new Map<
    string,
    { at: number; of: readonly Topic[] | null; answer: Promise<unknown> }
  >();

  constructor(private readonly events: Pick<Events, 'revision' | 'revisionOf'>) {}

  /** The answer that is kept under a name and still holds; null where there is none. */
  peek<T>(name: string): Promise<T> | null {
    const known = this.#answers.get(name);
    return known && known.at === this.#now(known.of) ? (known.answer as Promise<T>) : null;
  }

  /** Keeps an answer that was found out otherwise. */
  put<T>(name: string, answer: Promise<T>, of: readonly Topic[] | null = null): void {
    this.#keep(name, answer, of);
  }

  #now = (of: readonly Topic[] | null): number =>
    of === null ? this.events.revision : this.events.revisionOf(of);

  /**
   * The answer that is kept under a name, or a new one. An answer begun before a change is not given after it; a failure is not kept.
   * `of` says which changes count, where not all do.
   */
  get<T>(name: string, answer: () => Promise<T>, of: readonly Topic[] | null = null): Promise<T> {
    const at = this.#now(of);
    const known = this.#answers.get(name);
    if (known?.at === at) return known.answer as Promise<T>;
    const fresh = answer();
    this.#keep(name, fresh, of, at);
    return fresh;
  }

  #keep(name: string, answer: Promise<unknown>, of: readonly Topic[] | null, at = this.#now(of)): void {
    this.#answers.delete(name);
    this.#answers.set(name, { at, of, answer });
    for (const [other, kept] of this.#answers)
      if (kept.at !== this.#now(kept.of) || this.#answers.size > MAX_ANSWERS) this.#answers.delete(other);
    answer.catch(() => this.#answers.get(name)?.answer === answer && this.#answers.delete(name));
  }
}
