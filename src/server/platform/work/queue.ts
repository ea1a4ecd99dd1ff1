import { and, asc, eq, inArray, isNull, max, min, notInArray, or, sql } from 'drizzle-orm';
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
}

/** Seconds after which pg-boss gives a piece of work out again that it has heard nothing of: whether its worker lives is asked then. */
const LEASE = 60;
/** How often that may be: far more often than any work takes. */
const LEASES = 1_000_000;
/** Minutes a piece of work may wait: ten years. */
const WAIT = 5_256_000;

/** Rows of a statement. */
const PAGE = 500;

type WorkRow = typeof work.$inferSelect;

const lockOf = (worker: string): string => `worker ${worker}`;
/** Rows of workers that have died. */
const notAlive = (dead: readonly (string | null)[]) =>
  among(
    work.worker,
    dead.filter((w) => w !== null),
  );

/** How often the server may end in the middle of a piece of work before it is given up. */
const MOST_CRASHES = 3;

/** Milliseconds between two looks for work that nobody announced. */
const IDLE = 5000;

/** Thrown into a running handler by `cancel` and by `stop`; the first ends the work, the second puts it back. */
class Cancelled extends Error {}
class Stopping extends Error {}

/**
 * The queue of long work. A row of the `work` table is what the person sees and what survives; pg-boss, in the same database, hands
 * the rows out, to whichever worker asks. A worker holds a lock as long as it lives; what one that has died was working on is done by
 * another. A row is claimed before it is worked on, so that a piece that was handed out twice is done once.
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
  /** Among the workers that share the queue. */
  readonly worker = randomUUID();
  #leases: NodeJS.Timeout | null = null;
  #stopped = false;
  #ready: Promise<void> | null = null;

  constructor(
    private readonly runtime: Pick<Runtime, 'db' | 'database' | 'events' | 'inJob'>,
    private readonly handlers: Handlers,
    private readonly lease = LEASE,
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
      const options = {
        policy: 'standard' as const,
        retryLimit: LEASES,
        retentionMinutes: WAIT,
        expireInSeconds: this.lease,
      };
      for (const name of Object.keys(WORKERS)) {
        await this.#boss.createQueue(name, { name, ...options });
        await this.#boss.updateQueue(name, { name, ...options });
      }
    })();
    return this.#ready;
  }

  /** Puts back what dead workers left, and what was queued by one that died before the queue was told. Call before `start`. */
  async recover(): Promise<void> {
    await this.#open();
    await this.runtime.database.locks.take(lockOf(this.worker));
    await this.#putBack(await this.runtime.db.select().from(work).where(eq(work.state, 'running')));
    const untold = await this.runtime.db
      .select()
      .from(work)
      .where(and(eq(work.state, 'queued'), eq(work.handedOut, false)))
      .orderBy(asc(work.queuedAt));
    await this.#handOut(untold);
  }

  /** Whether a worker is there no more: its lock is free. */
  async #isDead(worker: string | null): Promise<boolean> {
    if (worker === null) return true;
    const { locks } = this.runtime.database;
    const free = await locks.take(lockOf(worker));
    if (free) await locks.leave(lockOf(worker));
    return free;
  }

  /** Of rows that are being worked on puts those back whose worker has died; what ends each worker is given up. Returns what was put back. */
  async #putBack(running: readonly WorkRow[]): Promise<WorkRow[]> {
    const dead: (string | null)[] = [];
    for (const worker of new Set(running.map((r) => r.worker)))
      if (worker === this.worker || (await this.#isDead(worker))) dead.push(worker);
    // Of one's own it is what something was thrown at, so that nothing could be noted of it.
    const isOwn = (r: WorkRow): boolean =>
      this.#running.has(r.id) || Date.now() - (r.startedAt?.getTime() ?? 0) < this.lease * 1000;
    const left = running
      .filter((r) => (r.worker === this.worker ? !isOwn(r) : dead.includes(r.worker)))
      .map((r) => r.id);
    if (left.length === 0) return [];
    const back = await this.runtime.db
      .update(work)
      .set({
        state: 'queued',
        worker: null,
        handedOut: false,
        progress: 0,
        crashes: sql`${work.crashes} + 1`,
      })
      // Another may have put it back meanwhile, and work on it.
      .where(and(among(work.id, left), eq(work.state, 'running'), or(isNull(work.worker), notAlive(dead))))
      .returning();
    // What ends the server each time would do so for ever.
    const fault = `The server ended ${MOST_CRASHES} times while it worked on this: it was given up. Try it again if something else ended it.`;
    await this.#fail(
      back.filter((r) => r.crashes >= MOST_CRASHES),
      fault,
    );
    const again = back.filter((r) => r.crashes < MOST_CRASHES);
    await this.#handOut(again);
    return again;
  }

  /**
   * Gives rows to pg-boss, to be fetched in this order, the jobs taking turns: by their turn, and where that is the same by their
   * ids, which count up. What had its turn before has it still.
   */
  async #handOut(rows: readonly Pick<WorkRow, 'id' | 'job' | 'kind' | 'turn'>[]): Promise<void> {
    for (const kind of new Set(rows.map((r) => r.kind))) {
      const open = await this.runtime.db
        .select({ job: work.job, last: max(work.turn), first: min(work.turn) })
        .from(work)
        .where(and(eq(work.kind, kind), eq(work.state, 'queued'), eq(work.handedOut, true)))
        .groupBy(work.job);
      const turns = new Turns(
        open.length === 0 ? 1 : Math.min(...open.map((o) => o.first!)),
        open.map((o) => [o.job, o.last!] as const),
      );
      const told = rows
        .filter((r) => r.kind === kind)
        .map((r) => ({ id: r.id, turn: r.turn || turns.next(r.job) }));
      for (let at = 0; at < told.length; at += PAGE) {
        const some = told.slice(at, at + PAGE);
        await this.#boss.insert(
          some.map(({ id, turn }, i) => ({
            id: (at + i).toString(16).padStart(8, '0') + randomUUID().slice(8),
            name: kind,
            priority: -turn,
            data: { work: id } satisfies HandedOut,
          })),
        );
        await this.runtime.db.execute(sql`update ${work} set handed_out = true, turn = r.turn
          from jsonb_to_recordset(${JSON.stringify(some)}::jsonb) as r(id text, turn int) where ${work}.id = r.id`);
      }
    }
  }

  /** Has pg-boss give out again what it has heard nothing of, and clear away what was done long ago. Done by itself from time to time. */
  async tend(): Promise<void> {
    await this.#open();
    await this.#boss.maintain();
  }

  async start(): Promise<void> {
    await this.#open();
    this.#leases = setInterval(
      () => void this.tend().catch((e: unknown) => console.error('queue:', messageOf(e))),
      (this.lease * 1000) / 2,
    );
    this.#leases.unref();
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
        turn: 0,
        state: 'queued' as const,
        queuedAt: new Date(now + i),
      }));
    if (rows.length === 0) return 0;
    for (let i = 0; i < rows.length; i += PAGE)
      await this.runtime.db.insert(work).values(rows.slice(i, i + PAGE));
    await this.#handOut(rows);
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
      .set({
        state: 'queued',
        fault: null,
        progress: 0,
        crashes: 0,
        turn: 0,
        handedOut: false,
        queuedAt: new Date(),
        endedAt: null,
      })
      .where(and(among(work.id, ids), inArray(work.state, ['failed', 'cancelled'])))
      .returning();
    await this.#handOut(rows);
    for (const row of rows) this.#sleepers[row.kind].wake();
    this.runtime.events.changed('work');
    return rows.length;
  }

  /** Ends running work, which goes back to the queue, and stops handing out. */
  async stop(): Promise<void> {
    this.#stopped = true;
    if (this.#leases) clearInterval(this.#leases);
    for (const kind of Object.keys(WORKERS) as WorkKind[]) this.#sleepers[kind].wake();
    for (const controller of this.#running.values()) controller.abort(new Stopping('stopping'));
    await Promise.all(this.#loops);
    if (this.#ready) {
      await this.#ready;
      await this.#boss.stop({ graceful: false, wait: true });
      await this.runtime.database.locks
        .leave(lockOf(this.worker))
        .catch((e: unknown) => console.error('queue:', messageOf(e)));
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
    const ids = fetched.map((f) => f.data.work);
    const known = await this.runtime.db.select().from(work).where(inArray(work.id, ids));
    // Given out again because nothing was heard of it: what a dead worker left is put back, and comes again.
    const running = known.filter((r) => r.state === 'running');
    const left = new Set((await this.#putBack(running)).map((r) => r.id));
    const busy = new Set(running.map((r) => r.id).filter((id) => !left.has(id)));
    const rows = known
      .filter((r) => r.state === 'queued')
      .sort((a, b) => a.queuedAt.getTime() - b.queuedAt.getTime());
    const whole = rows.filter((r) => r.crashes === 0);
    const undone: string[] = [];
    // What the server ended at is done alone: what is given up in the end is not what stood beside it.
    for (const some of [
      ...[...new Set(whole.map((r) => r.job))].map((job) => whole.filter((r) => r.job === job)),
      ...rows.filter((r) => r.crashes > 0).map((r) => [r]),
    ]) {
      if (this.#stopped) undone.push(...some.map((r) => r.id));
      else await this.#do(handler, some);
    }
    // The next start tells the queue of it.
    if (undone.length > 0)
      await this.runtime.db
        .update(work)
        .set({ handedOut: false })
        .where(and(among(work.id, undone), eq(work.state, 'queued')));
    // What a living worker is busy with stays with pg-boss, and so does all of it where something was thrown: it is given out again.
    const over = fetched.filter((f) => !busy.has(f.data.work)).map((f) => f.id);
    if (over.length > 0) await this.#boss.complete(kind, over);
    return true;
  }

  /** Does work of one job. */
  async #do(handler: Handler | BatchHandler, wanted: readonly WorkRow[]): Promise<void> {
    const { db, events } = this.runtime;
    const rows = await this.#claim(wanted);
    if (rows.length === 0) return;
    const inJob = this.runtime.inJob(rows[0]!.job);
    const contexts = rows.map((row): WorkContext => {
      const controller = new AbortController();
      this.#running.set(row.id, controller);
      return {
        id: row.id,
        job: row.job,
        clip: row.clip,
        attempt: row.attempts,
        signal: controller.signal,
        progress: (share, speed) => events.progress(row.id, share, speed),
      };
    });
    const these = and(
      inArray(
        work.id,
        rows.map((r) => r.id),
      ),
      eq(work.worker, this.worker),
    );
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
      if (e instanceof Stopping) {
        await db
          .update(work)
          .set({ state: 'queued', worker: null, handedOut: false, endedAt: null, progress: 0 })
          .where(these);
        await this.#handOut(rows);
      } else if (e instanceof Cancelled)
        await db.update(work).set({ state: 'cancelled', endedAt: new Date() }).where(these);
      else await this.#fail(rows, messageOf(e));
    } finally {
      for (const row of rows) this.#running.delete(row.id);
      events.changed('work', 'clips', 'cards');
    }
  }

  /** Takes rows that wait for oneself, in their order: those that nobody else has taken meanwhile. */
  async #claim(wanted: readonly WorkRow[]): Promise<WorkRow[]> {
    const mine = await this.runtime.db
      .update(work)
      .set({
        state: 'running',
        worker: this.worker,
        startedAt: new Date(),
        attempts: sql`${work.attempts} + 1`,
        progress: 0,
        fault: null,
      })
      .where(
        and(
          inArray(
            work.id,
            wanted.map((r) => r.id),
          ),
          eq(work.state, 'queued'),
        ),
      )
      .returning();
    const byId = new Map(mine.map((r) => [r.id, r]));
    return wanted.flatMap((r) => byId.get(r.id) ?? []);
  }

  /** Notes work that failed, and why. A clip whose reading failed waits for it no longer: it says so itself. */
  async #fail(rows: readonly WorkRow[], fault: string): Promise<void> {
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
