import { EventEmitter } from 'node:events';
import type { PlatformEvent } from '../../core/platform/shapes';

/** What may have changed. */
export type Topic = Extract<PlatformEvent, { type: 'changed' }>['what'][number];

/**
 * What the interfaces are told; `Other` is what features tell beside the platform's own. Changes are gathered for a
 * moment, so that a hundred clips read make a few messages, not a hundred.
 */
export class Events<Other extends { type: string } = never> {
  readonly #emitter = new EventEmitter().setMaxListeners(0);
  readonly #changed = new Set<Topic>();
  readonly #progress = new Map<string, { id: string; progress: number; speed: number | null }>();
  #timer: NodeJS.Timeout | null = null;

  /** Counts up with every change to the job: what was worked out at another count may not hold any more. */
  revision = 0;
  readonly #last = new Map<Topic, number>();

  #changedAt = performance.now();

  changed(...what: Topic[]): void {
    this.revision++;
    this.#changedAt = performance.now();
    for (const w of what) {
      this.#changed.add(w);
      this.#last.set(w, this.revision);
    }
    this.#schedule();
  }

  /** The same of some topics only: it counts up with every change of one of them. */
  revisionOf(what: readonly Topic[]): number {
    return Math.max(0, ...what.map((w) => this.#last.get(w) ?? 0));
  }

  /** Milliseconds since the last change, or since the server began. */
  get quiet(): number {
    return performance.now() - this.#changedAt;
  }

  progress(id: string, progress: number, speed: number | null): void {
    this.#progress.set(id, { id, progress, speed });
    this.#schedule();
  }

  send(event: PlatformEvent | Other): void {
    this.#emitter.emit('event', event);
  }

  /** Returns the way to stop listening. */
  listen(listener: (event: PlatformEvent | Other) => void): () => void {
    this.#emitter.on('event', listener);
    return () => this.#emitter.off('event', listener);
  }

  #schedule(): void {
    if (this.#timer) return;
    this.#timer = setTimeout(() => {
      this.#timer = null;
      if (this.#progress.size > 0) this.send({ type: 'progress', work: [...this.#progress.values()] });
      this.#progress.clear();
      if (this.#changed.size > 0) this.send({ type: 'changed', what: [...this.#changed] });
      this.#changed.clear();
    }, 250);
  }
}
