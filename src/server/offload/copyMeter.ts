import { shownPath } from '../../core/platform/names';
import type { OffloadProgress } from '../../core/offload/shapes';
import type { ServerEvent } from '../../core/overview';
import type { Events } from '../platform/events';

/** Seconds of which rates are kept. */
const SECONDS_KEPT = 600;
/** Milliseconds between two tellings. */
const TELLING = 500;
/** Milliseconds of which the rate that is told is the mean. */
const SPAN = 8000;

/** A copying that runs, as the meter reads it. */
export interface Metered {
  id: string;
  job: string;
  /** Bytes and files in all. */
  total: number;
  of: number;
  /** Those that were verified before it ran. */
  before: { bytes: number; files: number };
  /** Bytes read, and files verified, since. */
  read(): number;
  files: number;
  current: string | null;
  /** The state it comes to, once it is to end. */
  ending: OffloadProgress['state'] | null;
}

/** How the copyings that run here stand: told to the interfaces twice a second, and kept as rates for a while. */
export class CopyMeter {
  readonly #running = new Map<string, { copy: Metered; samples: { at: number; bytes: number }[] }>();
  readonly #rates = new Map<string, number[]>();
  #timer: NodeJS.Timeout | null = null;

  constructor(private readonly events: Pick<Events<ServerEvent>, 'send'>) {}

  /** Reads a copying's progress from now on. Returns how it is ended: with the seconds in which bytes came, and the bytes. */
  begin(copy: Metered): () => { seconds: number; bytes: number } {
    const samples: { at: number; bytes: number }[] = [];
    this.#running.set(copy.id, { copy, samples });
    this.#rates.set(copy.id, this.#rates.get(copy.id) ?? []);
    this.#timer ??= setInterval(() => this.#tell(), TELLING);
    return () => {
      const moving = samples.filter((s, i, all) => i > 0 && s.bytes > all[i - 1]!.bytes).length;
      this.#tell();
      this.#running.delete(copy.id);
      this.#tell();
      if (this.#running.size === 0 && this.#timer) {
        clearInterval(this.#timer);
        this.#timer = null;
      }
      return { seconds: (moving * TELLING) / 1000, bytes: copy.read() };
    };
  }

  /** Bytes a second of the last minutes, one for each second. */
  ratesOf(id: string): number[] {
    return this.#rates.get(id) ?? [];
  }

  #tell(): void {
    const now = performance.now();
    const copies = [...this.#running.values()].map(({ copy, samples }): OffloadProgress => {
      const bytes = copy.read();
      samples.push({ at: now, bytes });
      this.#keepRate(copy.id, samples, now);
      const past = samples.find((s) => s.at >= now - SPAN)!;
      const rate = now - past.at > 900 ? Math.max(0, ((bytes - past.bytes) * 1000) / (now - past.at)) : null;
      const done = Math.min(copy.total, copy.before.bytes + bytes);
      return {
        id: copy.id,
        job: copy.job,
        state: copy.ending ?? 'running',
        bytes: done,
        total: copy.total,
        files: copy.before.files + copy.files,
        of: copy.of,
        current: copy.current === null ? null : shownPath(copy.current),
        rate,
        left: rate && rate > 0 ? (copy.total - done) / rate : null,
      };
    });
    this.events.send({ type: 'copying', copies });
  }

  /** Keeps the rate of the last second, once a second. */
  #keepRate(id: string, samples: { at: number; bytes: number }[], now: number): void {
    const rates = this.#rates.get(id)!;
    const second = samples.findLast((s) => s.at <= now - 950);
    if (second && samples.length % 2 === 0) {
      rates.push(Math.max(0, ((samples.at(-1)!.bytes - second.bytes) * 1000) / (now - second.at)));
      if (rates.length > SECONDS_KEPT) rates.shift();
    }
    if (samples.length > 2 * SECONDS_KEPT) samples.shift();
  }
}
