import { messageOf } from './errors';
import type { PlatformEvent } from '../../core/platform/shapes';
import type { Events, Topic } from './events';

/** Milliseconds after a change until it is heeded; how many times as long as that took it rests after it, and how long at most. */
const [SOON, REST, MOST_REST] = [700, 4, 300_000];

type Change = Extract<PlatformEvent, { type: 'changed' }>;
const isChange = (e: { type: string }): e is Change => e.type === 'changed';

/** Does work some time after the views that it looks at have changed: one at a time, and with a rest after it, whatever the clock is set to. */
export class AfterChanges<E extends { type: string } = never> {
  #stop: () => void = () => undefined;
  #timer: NodeJS.Timeout | null = null;
  #running: Promise<void> = Promise.resolve();
  #free = 0;
  #ended = false;

  /** `work` asks by a function whether it is to end; what it throws is said under the name, and it is done again at the next change. */
  constructor(
    private readonly name: string,
    private readonly events: Pick<Events<E>, 'listen'>,
    private readonly topics: readonly Topic[],
    private readonly work: (ended: () => boolean) => Promise<void>,
  ) {}

  begin(): void {
    this.#stop = this.events.listen((e: PlatformEvent | E) => {
      if (isChange(e) && e.what.some((w) => this.topics.includes(w))) this.#soon();
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
    const wait = Math.max(SOON, this.#free - performance.now());
    this.#timer = setTimeout(() => {
      this.#timer = null;
      this.#running = this.#running.then(() => this.#do());
    }, wait).unref();
  }

  async #do(): Promise<void> {
    const begun = performance.now();
    try {
      await this.work(() => this.#ended);
    } catch (e) {
      if (!this.#ended) console.error(`${this.name}:`, messageOf(e));
    }
    const now = performance.now();
    this.#free = now + Math.min(MOST_REST, REST * (now - begun));
  }
}
