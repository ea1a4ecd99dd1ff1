import { and, asc, eq, gte, inArray, notInArray, sql } from 'drizzle-orm';
import { randomUUID } from 'node:crypto';
import PgBoss from 'pg-boss';
import type { WorkKind } from '../../../core/platform/shapes';
import { among } from '../db/among';
import { clips, work } from '../db/schema';
import { messageOf } from '../errors';
import type { InJob, Runtime } from '../../runtime';
import { Sleepers } from './sleepers';
import { Turns } from './turns';

/** What a handler is given: which clip, how to say how far it is, and when to stop. */
export interface WorkContext {
  id: string;
  job: string;
  clip: string;
  attempt: number;
  signal: AbortSignal;
  progress: (share: number, speed: number | null) => void;
}

/** Does one piece of work. Throws where it fails; may return the speed it ran at. */
export type Handler = (runtime: InJob, context: WorkContext) => Promise<{ speed: number } | void>;

/** Does several pieces of work of one job in one go, where that is cheaper than one by one: `most` of them. Returns why those failed that did, by their ids. */
export interface BatchHandler {
  most: number;
  run(runtime: InJob, contexts: readonly WorkContext[]): Promise<ReadonlyMap<string, Error>>;
}

export type Handlers = Record<WorkKind, Handler | BatchHandler>;

/** How many pieces of a kind run at once. One proxy uses all cores by itself. */
const WORKERS: Record<WorkKind, number> = { read: 2, rest: 2, filmstrip: 1, proxy: 1 };

/** What pg-boss keeps of a row: which, and its turn. */
interface HandedOut {
  work: string;
  turn: number;
}

/** How often the server may end in the middle of a piece of work before it is given up. */
const MOST_CRASHES = 3;

/** Milliseconds between two looks for work that nobody announced. */
const IDLE = 5000;

/** Thrown into a running handler by `cancel` and by `stop`; the first ends the work, the second puts it back. */
class Cancelled extends Error {}
class Stopping extends Error {}

/**
 * The queue of long work. A row of the `work` table is what the person sees and what survives; pg-boss, in the same
 * database, hands the rows out. After a restart whatever was queued or running is handed out again.
 */
export class WorkQueue {
  readonly #boss: PgBoss;
  readonly #running = new Map<string, AbortController>();
  readonly #loops: Promise<void>[] = [];
  /** Who sleeps until there is work, by kind. */
  readonly #sleepers: Record<WorkKind, Sleepers> = {
    read: new Sleepers(),
    rest: new Sleepers(),
    filmstrip: new Sleepers(),
    proxy: new Sleepers(),
  };
  /** Which job's turn it is, by kind. */
  readonly #turns: Record<WorkKind, Turns> = {
    read: new Turns(),
    rest: new Turns(),
    filmstrip: new Turns(),
    proxy: new Turns(),
  };
  #stopped = false;
  #ready: Promise<void> | null = null;

  constructor(
    private readonly runtime: Runtime,
    private readonly handlers: Handlers,
  ) {
    this.#boss = new PgBoss({
      db: { executeSql: (text: string, values?: unknown[]) => runtime.database.query(text, values) },
      schedule: false,
      supervise: false,
    });
    this.#boss.on('error', (e) => console.error('queue:', messageOf(e)));
  }

  #open(): Promise<void> {
    this.#ready ??= (async () => {
      await this.#boss.start();
      for (const kind of Object.keys(WORKERS))
        await this.#boss.createQueue(kind, {
          name: kind,
          policy: 'standard',
          retryLimit: 0,
          expireInSeconds: 82_800,
        });
    })();
    return this.#ready;
  }

  /** Puts back what a dead server left, in its old order. Call before `start`. */
  async recover(): Promise<void> {
    await this.#open();
    for (const kind of Object.keys(WORKERS))
      await this.runtime.database.query('delete from pgboss.job where name = $1', [kind]);
    await this.runtime.db
      .update(work)
      .set({ state: 'queued', progress: 0, crashes: sql`${work.crashes} + 1` })
      .where(eq(work.state, 'running'));
    // What ends the server each time would do so for ever.
    const fault = `The server ended ${MOST_CRASHES} times while it worked on this: it was given up. Try it again if something else ended it.`;
    const given = await this.runtime.db
      .select()
      .from(work)
      .where(and(eq(work.state, 'queued'), gte(work.crashes, MOST_CRASHES)));
    await this.#fail(given, fault);
    const rows = await this.runtime.db
      .select()
      .from(work)
      .where(eq(work.state, 'queued'))
      .orderBy(asc(work.queuedAt));
    for (let i = 0; i < rows.length; i += 500) await this.#handOut(rows.slice(i, i + 500));
  }

  /**
   * Gives rows to pg-boss, to be fetched in this order, the jobs taking turns: by their turn, and where that is the same by their
   * ids, which count up.
   */
  async #handOut(rows: readonly { id: string; job: string; kind: WorkKind }[]): Promise<void> {
    await this.#boss.insert(
      rows.map((row, i) => {
        const turn = this.#turns[row.kind].next(row.job);
        return {
          id: i.toString(16).padStart(8, '0') + randomUUID().slice(8),
          name: row.kind,
          priority: -turn,
          data: { work: row.id, turn } satisfies HandedOut,
        };
      }),
    );
  }

  async start(): Promise<void> {
    await this.#open();
    for (const kind of Object.keys(WORKERS) as WorkKind[]) {
      for (let i = 0; i < WORKERS[kind]; i++) this.#loops.push(this.#loop(kind));
    }
  }

  /** Queues work for clips; a clip that has work of this kind open already is left as it is. Returns how many were added. */
  async add(kind: WorkKind, clipIds: readonly string[]): Promise<number> {
    if (clipIds.length === 0) return 0;
    const open = await this.runtime.db
      .select({ clip: work.clip })
      .from(work)
      .where(and(eq(work.kind, kind), inArray(work.state, ['queued', 'running']), among(work.clip, clipIds)));
    const busy = new Set(open.map((o) => o.clip));
    const known = await this.runtime.db
      .select({ id: clips.id, job: clips.job })
      .from(clips)
      .where(among(clips.id, clipIds));
    const jobOf = new Map(known.map((k) => [k.id, k.job]));
    const now = Date.now();
    const rows = clipIds
      .filter((c) => jobOf.has(c) && !busy.has(c))
      // Rows of one call keep their order by a millisecond each.
      .map((clip, i) => ({
        id: randomUUID(),
        job: jobOf.get(clip)!,
        kind,
        clip,
        state: 'queued' as const,
        queuedAt: new Date(now + i),
      }));
    if (rows.length === 0) return 0;
    for (let i = 0; i < rows.length; i += 500) {
      const some = rows.slice(i, i + 500);
      await this.runtime.db.insert(work).values(some);
      await this.#handOut(some);
    }
    this.#sleepers[kind].wake();
    this.runtime.events.changed('work');
    return rows.length;
  }

  /** Takes queued work off, and ends running work. Returns how many. */
  async cancel(ids: readonly string[]): Promise<number> {
    const running = ids.filter((id) => this.#running.has(id));
    for (const id of running) this.#running.get(id)!.abort(new Cancelled('cancelled'));
    const taken =
      ids.length === 0
        ? []
        : await this.runtime.db
            .update(work)
            .set({ state: 'cancelled', endedAt: new Date() })
            .where(and(among(work.id, ids), eq(work.state, 'queued')))
            .returning({ id: work.id });
    this.runtime.events.changed('work');
    return running.length + taken.length;
  }

  /** Queues failed or cancelled work again. */
  async retry(ids: readonly string[]): Promise<number> {
    if (ids.length === 0) return 0;
    const rows = await this.runtime.db
      .update(work)
      .set({ state: 'queued', fault: null, progress: 0, crashes: 0, queuedAt: new Date(), endedAt: null })
      .where(and(among(work.id, ids), inArray(work.state, ['failed', 'cancelled'])))
      .returning({ id: work.id, job: work.job, kind: work.kind });
    await this.#handOut(rows);
    for (const row of rows) this.#sleepers[row.kind].wake();
    this.runtime.events.changed('work');
    return rows.length;
  }

  /** Ends running work, which goes back to the queue, and stops handing out. */
  async stop(): Promise<void> {
    this.#stopped = true;
    for (const kind of Object.keys(WORKERS) as WorkKind[]) this.#sleepers[kind].wake();
    for (const controller of this.#running.values()) controller.abort(new Stopping('stopping'));
    await Promise.all(this.#loops);
    if (this.#ready) {
      await this.#ready;
      await this.#boss.stop({ graceful: false, wait: true });
    }
  }

  /** Works the queue off and returns when nothing is left: for tests, in place of `start`. */
  async drain(): Promise<void> {
    for (let any = true; any;) {
      any = false;
      for (const kind of Object.keys(WORKERS) as WorkKind[]) any = (await this.drainKind(kind)) > 0 || any;
    }
  }

  /** Works off what is queued of one kind, as many at once as there are workers for it. Returns how many were done. */
  async drainKind(kind: WorkKind): Promise<number> {
    let done = 0;
    await Promise.all(
      Array.from({ length: WORKERS[kind] }, async () => {
        while (await this.#next(kind)) done++;
      }),
    );
    return done;
  }

  async #loop(kind: WorkKind): Promise<void> {
    while (!this.#stopped) {
      const did = await this.#next(kind).catch((e: unknown) => {
        console.error(`queue ${kind}:`, messageOf(e));
        return false;
      });
      if (did || this.#stopped) continue;
      await this.#sleepers[kind].sleep(IDLE);
    }
  }

  async #next(kind: WorkKind): Promise<boolean> {
    const handler = this.handlers[kind];
    // Nothing here is to start later; a clock that is set back would make it seem so.
    const fetched =
      (await this.#boss.fetch<HandedOut>(kind, {
        batchSize: typeof handler === 'function' ? 1 : handler.most,
        ignoreStartAfter: true,
      })) ?? [];
    if (fetched.length === 0) return false;
    this.#turns[kind].reached(Math.max(...fetched.map((f) => f.data.turn)));
    try {
      const ids = fetched.map((job) => job.data.work);
      const rows = await this.runtime.db
        .select()
        .from(work)
        .where(and(inArray(work.id, ids), eq(work.state, 'queued')))
        .orderBy(asc(work.queuedAt));
      const whole = rows.filter((r) => r.crashes === 0);
      // What the server ended at is done alone: what is given up in the end is not what stood beside it.
      for (const some of [
        ...[...new Set(whole.map((r) => r.job))].map((job) => whole.filter((r) => r.job === job)),
        ...rows.filter((r) => r.crashes > 0).map((r) => [r]),
      ]) {
        if (some.length > 0 && !this.#stopped) await this.#do(handler, some);
      }
    } finally {
      await this.#boss.complete(
        kind,
        fetched.map((job) => job.id),
      );
    }
    return true;
  }

  /** Does work of one job. */
  async #do(handler: Handler | BatchHandler, rows: readonly (typeof work.$inferSelect)[]): Promise<void> {
    const { db, events } = this.runtime;
    const inJob = this.runtime.inJob(rows[0]!.job);
    const contexts = rows.map((row): WorkContext => {
      const controller = new AbortController();
      this.#running.set(row.id, controller);
      return {
        id: row.id,
        job: row.job,
        clip: row.clip,
        attempt: row.attempts + 1,
        signal: controller.signal,
        progress: (share, speed) => events.progress(row.id, share, speed),
      };
    });
    const these = inArray(
      work.id,
      rows.map((r) => r.id),
    );
    await db
      .update(work)
      .set({
        state: 'running',
        startedAt: new Date(),
        attempts: sql`${work.attempts} + 1`,
        progress: 0,
        fault: null,
      })
      .where(these);
    events.changed('work');
    try {
      const speed = typeof handler === 'function' ? (await handler(inJob, contexts[0]!))?.speed : undefined;
      const failed =
        typeof handler === 'function' ? new Map<string, Error>() : await handler.run(inJob, contexts);
      await db
        .update(work)
        .set({ state: 'done', endedAt: new Date(), progress: 1, ...(speed !== undefined ? { speed } : {}) })
        .where(and(these, notInArray(work.id, [...failed.keys()])));
      for (const [id, e] of failed)
        await this.#fail(
          rows.filter((r) => r.id === id),
          messageOf(e),
        );
    } catch (e) {
      if (e instanceof Stopping)
        await db.update(work).set({ state: 'queued', endedAt: null, progress: 0 }).where(these);
      else if (e instanceof Cancelled)
        await db.update(work).set({ state: 'cancelled', endedAt: new Date() }).where(these);
      else await this.#fail(rows, messageOf(e));
    } finally {
      for (const row of rows) this.#running.delete(row.id);
      events.changed('work', 'clips', 'cards');
    }
  }

  /** Notes work that failed, and why. A clip whose reading failed waits for it no longer: it says so itself. */
  async #fail(rows: readonly (typeof work.$inferSelect)[], fault: string): Promise<void> {
    const { db } = this.runtime;
    await db
      .update(work)
      .set({ state: 'failed', endedAt: new Date(), fault })
      .where(
        among(
          work.id,
          rows.map((r) => r.id),
        ),
      );
    const unread = rows.filter((r) => r.kind === 'read' || r.kind === 'rest').map((r) => r.clip);
    await db
      .update(clips)
      .set({ state: 'unreadable', fault })
      .where(and(among(clips.id, unread), eq(clips.state, 'waiting')))
      .catch((e: unknown) => console.error('queue:', messageOf(e)));
  }
}
