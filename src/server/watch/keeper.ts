import { isDeepStrictEqual } from 'node:util';
import { and, eq, isNull } from 'drizzle-orm';
import { jobs } from '../jobs/tables';
import { rootById } from '../places';
import { messageOf } from '../platform/errors';
import { joinPath } from '../platform/files/names';
import type { OfJob } from '../services';
import { Listening } from './listening';
import { Eyes, lookOnce } from './pass';
import type { Ports } from './ports';
import { watches } from './tables';

type Watch = typeof watches.$inferSelect;

/** Milliseconds: from a change to a look, between looks while something grows, where nothing tells of changes, and in which all of it is looked at again to be sure. */
const [SOON, GROWING, POLL, SURE] = [250, 400, 5000, 60_000];
/** How many files and the like are looked at again at a time, to be sure. */
const SURE_OF = 2000;
/** How many times as long as a look took comes before the next: after what was told, where nothing tells, and before one that is only to be sure. */
const [REST, REST_POLL, REST_SURE] = [1, 3, 150];

/** One watched folder while the server runs. */
interface Kept {
  watch: Watch;
  eyes: Eyes;
  listening: Listening | null;
  timer: NodeJS.Timeout | null;
  /** When the next look is due, by the clock that only goes forward. */
  due: number;
  /** Folders in which something changed since the last look; null where all of it has to be looked at. */
  changed: Set<string> | null;
  /** When the next part of it is looked at, to be sure. */
  sure: number;
  /** Until when it rests after a look that took long. */
  free: number;
  running: Promise<void>;
}

/** How a watched folder is, for its view. */
export interface WatchState {
  eyes: Eyes;
  listening: Listening | null;
}

/** Looks at the watched folders of all open jobs, by what the system tells of them or again and again. */
export class WatchKeeper {
  readonly #kept = new Map<string, Kept>();
  #stop: () => void = () => undefined;
  #ended = false;
  #settling: Promise<void> = Promise.resolve();

  constructor(private readonly runtime: Ports & { inJob(job: string): Ports & OfJob }) {}

  begin(): void {
    this.#stop = this.runtime.events.listen((e) => {
      if (e.type !== 'changed') return;
      if (e.what.includes('watches') || e.what.includes('job')) void this.settle();
      // What counts as footage may be another now.
      if (e.what.includes('job'))
        for (const k of this.#kept.values()) if (k.watch.options.byItself) this.#lookIn(k, SOON);
      // A place that came back, or went.
      if (e.what.includes('places'))
        for (const k of this.#kept.values()) {
          k.changed = null;
          this.#lookIn(k, SOON);
        }
    });
    void this.settle();
  }

  /** Begins to watch what is not watched yet, and stops with what was let go of. */
  settle(): Promise<void> {
    this.#settling = this.#settling
      .then(() => this.#settle())
      .catch((e: unknown) => {
        if (!this.#ended) console.error('watched folders:', messageOf(e));
      });
    return this.#settling;
  }

  async #settle(): Promise<void> {
    if (this.#ended) return;
    const rows = await this.runtime.db
      .select({ watch: watches })
      .from(watches)
      .innerJoin(jobs, and(eq(jobs.id, watches.job), isNull(jobs.putAwayAt)));
    const wanted = new Map(rows.map((r) => [r.watch.id, r.watch]));
    for (const [id, k] of this.#kept)
      if (!wanted.has(id)) {
        this.#end(k);
        this.#kept.delete(id);
      }
    for (const [id, watch] of wanted) {
      const before = this.#kept.get(id);
      if (before) {
        const same = isDeepStrictEqual(before.watch, watch);
        before.watch = watch;
        if (same) continue;
        before.changed = null;
        this.#lookIn(before, 0);
        continue;
      }
      const kept: Kept = {
        ...{ watch, eyes: new Eyes(), listening: null, timer: null, due: Infinity, free: 0 },
        ...{ changed: null, sure: 0 },
        running: Promise.resolve(),
      };
      this.#kept.set(id, kept);
      this.#lookIn(kept, 0);
    }
  }

  state(id: string): WatchState | null {
    return this.#kept.get(id) ?? null;
  }

  /** Looks at a folder now because somebody asked, until nothing in it is growing or `patience` milliseconds have passed. */
  async lookNow(id: string, patience = 10_000): Promise<void> {
    await this.settle();
    const kept = this.#kept.get(id);
    if (!kept) return;
    const until = performance.now() + patience;
    for (;;) {
      await this.#look(kept, true);
      if (kept.eyes.moving === 0 || performance.now() >= until || this.#ended) return;
      await new Promise((r) => setTimeout(r, GROWING));
    }
  }

  async end(): Promise<void> {
    this.#ended = true;
    this.#stop();
    await this.#settling;
    for (const k of this.#kept.values()) this.#end(k);
    await Promise.all([...this.#kept.values()].map((k) => k.running));
  }

  #end(k: Kept): void {
    if (k.timer) clearTimeout(k.timer);
    k.listening?.end();
  }

  #lookIn(k: Kept, wait: number): void {
    const now = performance.now();
    const due = Math.max(now + wait, k.free);
    if (this.#ended || due >= k.due) return;
    if (k.timer) clearTimeout(k.timer);
    k.due = due;
    k.timer = setTimeout(() => void this.#look(k), due - now).unref();
  }

  #look(k: Kept, asked = false): Promise<void> {
    k.due = Infinity;
    k.running = k.running.then(() => this.#lookAt(k, asked));
    return k.running;
  }

  async #lookAt(k: Kept, asked: boolean): Promise<void> {
    if (this.#ended || !this.#kept.has(k.watch.id)) return;
    const begun = performance.now();
    const before = JSON.stringify([k.eyes.here, k.eyes.moving, k.eyes.fault]);
    let wait: number | null = null;
    // All of it is looked at where nothing tells of changes; else what is told, and by and by the rest to be sure.
    const whole = asked || k.listening?.by !== 'events';
    const sure = whole || begun >= k.sure;
    const { listing } = k.eyes;
    const changed =
      whole || k.changed === null
        ? null
        : new Set([...k.changed, ...(sure ? listing.nextOfRound(SURE_OF) : [])]);
    k.changed = new Set();
    try {
      const runtime = this.runtime.inJob(k.watch.job);
      wait = await lookOnce(runtime, k.watch, k.eyes, begun, asked, changed);
      if (sure)
        k.sure =
          begun +
          (changed === null
            ? SURE
            : Math.max(
                SURE / Math.ceil(listing.size / SURE_OF || 1),
                REST_SURE * (performance.now() - begun),
              ));
      k.eyes.fault = null;
      await this.#listen(k);
    } catch (e) {
      k.eyes.fault = messageOf(e);
      k.changed = null;
      if (!this.#ended) console.error(`watched folder ${k.watch.path}:`, k.eyes.fault);
    }
    if (JSON.stringify([k.eyes.here, k.eyes.moving, k.eyes.fault]) !== before)
      this.runtime.events.changed('watches');
    const now = performance.now();
    // What took long because all of it was looked at once does not hold up what is told next.
    const rest = k.listening?.by !== 'events' ? REST_POLL : changed !== null ? REST : 0;
    k.free = now + rest * (now - begun);
    // Growth is seen by looking now and then; what is not growing is taken the moment it counts as still.
    const next =
      wait !== null
        ? Math.min(GROWING, Math.max(0, begun + wait - now))
        : k.listening?.by === 'polling'
          ? POLL
          : Math.max(0, k.sure - now);
    if (k.watch.options.byItself || wait !== null) this.#lookIn(k, next);
  }

  async #listen(k: Kept): Promise<void> {
    if (!k.watch.options.byItself || !k.eyes.here) {
      k.listening?.end();
      k.listening = null;
      return;
    }
    const at = joinPath((await rootById(this.runtime, k.watch.root)).path, k.watch.path);
    if (k.listening?.at !== at) {
      // The place is another folder than it was, which may be there still.
      k.listening?.end();
      k.listening = new Listening(at, (folder) => {
        k.changed?.add(folder);
        this.#lookIn(k, SOON);
      });
    }
    // What came between the look and the listening was neither seen nor heard.
    const added = k.listening.listenTo(k.eyes.folders());
    for (const folder of added) k.changed?.add(folder);
    if (added.length > 0) this.#lookIn(k, SOON);
  }
}
