import { and, asc, eq, inArray, isNotNull, isNull, notInArray, or, type SQL, sql } from 'drizzle-orm';
import type { PgUpdateSetSource } from 'drizzle-orm/pg-core';
import { randomUUID } from 'node:crypto';
import { OPEN_WORK, type TaskView, WORK_WORDS, type WorkKind } from '../../../core/platform/shapes';
import { among } from '../db/among';
import type { OpenDatabase } from '../db/client';
import { isDatabaseFault } from '../db/keeper';
import type { Events } from '../events';
import { clips } from '../../cards/tables';
import { work, type WorkRow } from './tables';
import { Interrupted, isFull, messageOf, NO_ROOM } from '../errors';
import { problemOf, stoppedBefore } from '../problems';
import { closeGate } from './context';
import { HandOut, LEASE } from './handOut';
import {
  type BatchKind,
  Halted,
  type Kind,
  type Kinds,
  NotNow,
  type Outcome,
  type WorkContext,
} from './kinds';
import { Resources } from './resources';
import { Sleepers } from './sleepers';

/** Rows of a statement. */
const PAGE = 500;

const lockOf = (worker: string): string => `worker ${worker}`;
/** Rows of workers that have died. */
const notAlive = (dead: readonly (string | null)[]) =>
  among(
    work.worker,
    dead.filter((w) => w !== null),
  );

/** How often the server may end in the middle of a piece of work before it is given up. */
const MAX_CRASHES = 3;

/** Milliseconds between two looks for work that nobody announced: where others share the database, and where none can. */
const [SHARED, ALONE] = [5000, 60_000];
/** Milliseconds until what another server had to itself is asked for again, at first; then longer and longer. */
const AGAIN = 200;
/** Milliseconds between two looks whether what is waited for is there. */
const WAITING = 1500;
/** Days that the outcome of what was asked for is kept. */
const KEEP_DAYS = 7;

/** What the queue works with: `given` is what work of a job is given. */
export interface World<Given> {
  database: Pick<OpenDatabase, 'db' | 'query' | 'locks' | 'embedded'>;
  events: Pick<Events, 'changed' | 'progress'>;
  given(job: string): Given;
}

/** What use cases do with the queue. */
export type Work = Pick<
  WorkQueue<unknown>,
  'add' | 'begin' | 'openFor' | 'view' | 'views' | 'cancel' | 'pause' | 'ended' | 'resume' | 'retry' | 'first'
>;

/** What changes with the state of a piece. */
type Change = PgUpdateSetSource<typeof work> & { state: WorkRow['state'] };

/** A piece of work while it runs here. */
interface Running {
  controller: AbortController;
  gate: SharedArrayBuffer;
  done: number;
  total: number;
  ended: Promise<void>;
}

/** What is to be done, and what it has to itself meanwhile. */
export interface Asked {
  job: string;
  kind: WorkKind;
  subject?: string;
  wanted?: unknown;
  needs?: readonly string[];
  /** In which it begins. */
  state?: 'queued' | 'paused' | 'waiting';
}

const isBatch = <Given>(kind: Kind<Given>): kind is BatchKind<Given> => 'runAll' in kind;
const idsOf = (rows: readonly Pick<WorkRow, 'id'>[]): string[] => rows.map((r) => r.id);

/** Of what nobody works on any more it is not asked what is away. */
const NONE_AWAY: ReadonlyMap<string, string> = new Map();

/** Adds to what is noted of a piece of work. */
const noted = (text: string): SQL =>
  sql`${work.notes} || jsonb_build_array(jsonb_build_object('at', ${new Date().toISOString()}::text, 'text', ${text}::text))`;

/**
 * The one engine of long work. A row of the `work` table is what the person sees and what survives; pg-boss, in the same database,
 * hands the rows out, to whichever worker asks. A worker holds a lock as long as it lives; what one that has died was working on is
 * done by another. A row is claimed before it is worked on, so that a piece that was handed out twice is done once.
 */
export class WorkQueue<Given> {
  readonly #hands: HandOut;
  readonly #resources: Resources;
  readonly #kinds: readonly WorkKind[];
  readonly #running = new Map<string, Running>();
  readonly #loops = new Map<WorkKind, Promise<void>[]>();
  /** Who sleeps until there is work, by kind. */
  readonly #sleepers: Record<WorkKind, Sleepers>;
  /** Among the workers that share the queue. */
  readonly worker = randomUUID();
  readonly #timers: NodeJS.Timeout[] = [];
  /** Whether something may wait for what it needs, or for something that comes by itself. */
  #held = false;
  #waiting = true;
  /** Until then nothing is tried again that the database had no room for (ms, of the steady clock). */
  #fullUntil = 0;
  #stopped = false;

  constructor(
    private readonly world: World<Given>,
    private readonly kinds: Kinds<Given>,
    private readonly lease = LEASE,
  ) {
    this.#kinds = Object.keys(kinds) as WorkKind[];
    this.#sleepers = Object.fromEntries(this.#kinds.map((k) => [k, new Sleepers()])) as Record<
      WorkKind,
      Sleepers
    >;
    this.#hands = new HandOut(world.database, this.#kinds, lease);
    this.#resources = new Resources(world.database.locks);
  }

  /** Puts back what dead workers left, and what was queued by one that died before the queue was told. Call before `start`. */
  async recover(): Promise<void> {
    await this.#hands.open();
    await this.world.database.locks.take(lockOf(this.worker));
    await this.#putBack(await this.world.database.db.select().from(work).where(eq(work.state, 'running')));
    await this.#giveHeld();
  }

  /** Whether a worker is there no more: its lock is free. */
  async #isDead(worker: string | null): Promise<boolean> {
    if (worker === null) return true;
    const { locks } = this.world.database;
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
    const back = await this.#move(
      {
        state: 'queued',
        worker: null,
        handedOut: false,
        progress: 0,
        crashes: sql`${work.crashes} + 1`,
        notes: noted('The server ended while it worked on this.'),
      },
      // Another may have put it back meanwhile, and work on it.
      and(among(work.id, left), eq(work.state, 'running'), or(isNull(work.worker), notAlive(dead))),
    );
    const after = (r: WorkRow) => this.kinds[r.kind].afterDeath;
    // What ends the server each time would do so for ever.
    const often = back.filter((r) => after(r) === 'thrice' && r.crashes >= MAX_CRASHES);
    const never = back.filter((r) => after(r) === 'never');
    await this.#fail(
      often,
      new Interrupted(
        `The server ended ${MAX_CRASHES} times while it worked on this: it was given up. Try it again if something else ended it.`,
      ),
      NONE_AWAY,
    );
    await this.#fail(
      never,
      new Interrupted('The server ended while it worked on this.', {
        next: 'The logbook says what was done.',
      }),
      NONE_AWAY,
    );
    const again = back.filter((r) => !often.includes(r) && !never.includes(r));
    await this.#hands.give(again);
    return again;
  }

  /** Gives out again what waits for what it needs, and what the queue was not told of before its server died. */
  async #giveHeld(): Promise<void> {
    this.#held = false;
    const rows = await this.world.database.db
      .select()
      .from(work)
      .where(and(eq(work.state, 'queued'), eq(work.handedOut, false)))
      .orderBy(asc(work.queuedAt));
    await this.#hands.give(rows);
    for (const kind of new Set(rows.map((r) => r.kind))) this.#sleepers[kind].wake();
  }

  /** Has pg-boss give out again what it has heard nothing of, and clears away what was done long ago. Done by itself from time to time. */
  async tend(): Promise<void> {
    await this.#hands.tend();
    // What a worker that has died had waiting is another's to go on with.
    this.#waiting ||= !this.world.database.embedded;
    await this.world.database.db
      .delete(work)
      .where(
        and(
          isNull(work.clip),
          notInArray(work.state, [...OPEN_WORK]),
          sql`${work.endedAt} < now() - make_interval(days => ${KEEP_DAYS})`,
        ),
      );
  }

  /** Begins to work: on all kinds, or on these only. */
  async start(kinds: readonly WorkKind[] = this.#kinds): Promise<void> {
    await this.#hands.open();
    const every = (milliseconds: number, what: () => Promise<void>) => {
      const timer = setInterval(
        () => void what().catch((e: unknown) => console.error('queue:', messageOf(e))),
        milliseconds,
      );
      timer.unref();
      this.#timers.push(timer);
    };
    every((this.lease * 1000) / 2, () => this.tend());
    every(WAITING, () => this.#lookForWaiting());
    every(WAITING, () => this.#heedWishes());
    for (const kind of kinds)
      this.#loops.set(
        kind,
        Array.from({ length: this.kinds[kind].workers }, () => this.#loop(kind)),
      );
  }

  /** Queues work for clips; a clip that has work of this kind open already is left as it is. Returns how many were added. */
  async add(kind: WorkKind, clipIds: readonly string[], wanted: unknown = null): Promise<number> {
    if (clipIds.length === 0) return 0;
    const open = await this.world.database.db
      .select({ clip: work.clip, wanted: work.wanted })
      .from(work)
      .where(and(eq(work.kind, kind), inArray(work.state, [...OPEN_WORK]), among(work.clip, clipIds)));
    const same = JSON.stringify(wanted);
    const busy = new Set(open.filter((o) => JSON.stringify(o.wanted) === same).map((o) => o.clip));
    const known = await this.world.database.db
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
        subject: clip,
        clip,
        wanted,
        turn: 0,
        state: 'queued' as const,
        queuedAt: new Date(now + i),
      }));
    if (rows.length === 0) return 0;
    for (let i = 0; i < rows.length; i += PAGE)
      await this.world.database.db.insert(work).values(rows.slice(i, i + PAGE));
    await this.#hands.give(rows);
    this.#sleepers[kind].wake();
    this.#changed();
    return rows.length;
  }

  /** Begins what a person asked for and answers with its id at once; what is open already for the same subject is not begun a second time. */
  async begin({ job, kind, subject = '', wanted = null, needs = [], state = 'queued' }: Asked): Promise<{
    task: string;
  }> {
    const [open] = subject === '' ? [] : await this.openFor(kind, subject);
    if (open) return { task: open.id };
    const row = { id: randomUUID(), job, kind, subject, wanted, needs: [...needs], state, turn: 0 };
    await this.world.database.db.insert(work).values({ ...row, queuedAt: new Date() });
    if (state === 'queued') await this.#hands.give([row]);
    this.#waiting ||= state === 'waiting';
    this.#sleepers[kind].wake();
    this.#changed();
    return { task: row.id };
  }

  /** What is open of a kind for a subject that is no clip: at most one piece. */
  openFor(kind: WorkKind, subject: string): Promise<WorkRow[]> {
    return this.world.database.db
      .select()
      .from(work)
      .where(
        and(
          eq(work.kind, kind),
          eq(work.subject, subject),
          isNull(work.clip),
          inArray(work.state, [...OPEN_WORK]),
        ),
      );
  }

  /** A piece of work that a person asked for: how it stands, and its outcome once it has ended. */
  async view(id: string): Promise<TaskView | null> {
    const [row] = await this.world.database.db.select().from(work).where(eq(work.id, id));
    return row ? this.#viewOf(row) : null;
  }

  /** What is open of all that no clip is the subject of. */
  async views(): Promise<TaskView[]> {
    const rows = await this.world.database.db
      .select()
      .from(work)
      .where(and(isNull(work.clip), inArray(work.state, [...OPEN_WORK])))
      .orderBy(asc(work.queuedAt));
    return rows.map((r) => this.#viewOf(r));
  }

  #viewOf(row: WorkRow): TaskView {
    const { id, kind, job, state } = row;
    const running = this.#running.get(id);
    return {
      id,
      kind,
      title: WORK_WORDS[kind],
      job,
      subject: row.subject || null,
      state,
      done: running?.done ?? 0,
      total: running?.total ?? 0,
      result: row.result,
      problem: row.problem ?? (state === 'cancelled' ? stoppedBefore : null),
    };
  }

  /** Takes work off: what waits at once, what runs as soon as nothing of it is half done (`ended`). Returns how many. */
  cancel(ids: readonly string[]): Promise<number> {
    return this.#halt(ids, 'cancelled', ['queued', 'paused', 'waiting']);
  }

  /** Lets work rest until it is resumed; what runs is put back to where it can go on. Returns how many. */
  pause(ids: readonly string[]): Promise<number> {
    return this.#halt(ids, 'paused', ['queued', 'waiting']);
  }

  async #halt(
    ids: readonly string[],
    to: 'cancelled' | 'paused',
    from: readonly WorkRow['state'][],
  ): Promise<number> {
    if (ids.length === 0) return 0;
    const taken = await this.#move(
      { state: to, fault: null, ...(to === 'cancelled' ? { endedAt: new Date() } : {}) },
      and(among(work.id, ids), inArray(work.state, [...from])),
    );
    // What runs elsewhere is ended where it runs, which looks for what is wished of it.
    const running = await this.world.database.db
      .update(work)
      .set({ wish: to })
      .where(and(among(work.id, ids), eq(work.state, 'running')))
      .returning({ id: work.id });
    for (const { id } of running) this.#abort(id, new Halted(to));
    this.#changed();
    return running.length + taken.length;
  }

  #abort(id: string, reason: Halted): void {
    const running = this.#running.get(id);
    if (!running) return;
    running.controller.abort(reason);
    closeGate(running.gate);
  }

  /** Waits until none of these runs here any more. */
  async ended(ids: readonly string[]): Promise<void> {
    await Promise.all(ids.flatMap((id) => this.#running.get(id)?.ended ?? []));
  }

  /** Goes on with what was paused, or waits for something. Returns how many. */
  resume(ids: readonly string[]): Promise<number> {
    return this.#again(ids, ['paused', 'waiting'], {});
  }

  /** Queues failed or cancelled work again. */
  retry(ids: readonly string[]): Promise<number> {
    return this.#again(ids, ['failed', 'cancelled'], {
      crashes: 0,
      queuedAt: new Date(),
      turn: 0,
      notes: noted('Tried again.'),
    });
  }

  async #again(
    ids: readonly string[],
    from: readonly WorkRow['state'][],
    also: Omit<Change, 'state'>,
  ): Promise<number> {
    if (ids.length === 0) return 0;
    const rows = await this.#move(
      {
        state: 'queued',
        fault: null,
        problem: null,
        progress: 0,
        handedOut: false,
        endedAt: null,
        ...also,
      },
      and(among(work.id, ids), inArray(work.state, [...from])),
    );
    await this.#hands.give(rows);
    for (const row of rows) this.#sleepers[row.kind].wake();
    this.#changed();
    return rows.length;
  }

  /** Has queued work done before all other of its kind, in its order. Returns how many. */
  async first(ids: readonly string[]): Promise<number> {
    if (ids.length === 0) return 0;
    const rows = await this.world.database.db
      .select()
      .from(work)
      .where(and(among(work.id, ids), eq(work.state, 'queued')))
      .orderBy(asc(work.queuedAt));
    const [{ least } = { least: 0 }] = await this.world.database.db
      .select({ least: sql<number>`coalesce(min(${work.turn}), 0)::int` })
      .from(work)
      .where(eq(work.state, 'queued'));
    // A turn of nought is none.
    await this.#hands.give(rows.map((r) => ({ ...r, turn: Math.min(least, 0) - 1 })));
    this.#changed();
    return rows.length;
  }

  /** Ends running work, which goes back to the queue, and stops handing out. */
  async stop(): Promise<void> {
    this.#stopped = true;
    for (const timer of this.#timers) clearInterval(timer);
    for (const kind of this.#kinds) this.#sleepers[kind].wake();
    for (const id of this.#running.keys()) this.#abort(id, new Halted('queued'));
    await Promise.all([...this.#loops.values()].flat());
    await this.ended([...this.#running.keys()]);
    if (await this.#hands.close())
      await this.world.database.locks
        .leave(lockOf(this.worker))
        .catch((e: unknown) => console.error('queue:', messageOf(e)));
  }

  /** Works off what nobody here works on, and returns when nothing is left: for tests, in place of `start`. */
  async drain(): Promise<void> {
    const nobodys = this.#kinds.filter((kind) => !this.#loops.has(kind));
    for (let any = true; any;) {
      any = false;
      const rows = await this.world.database.db
        .selectDistinct({ kind: work.kind })
        .from(work)
        .where(and(inArray(work.state, ['queued', 'running']), inArray(work.kind, nobodys)));
      const open = new Set(rows.map((r) => r.kind));
      for (const kind of nobodys) if (open.has(kind)) any = (await this.drainKind(kind)) > 0 || any;
    }
  }

  /** Works off what is queued of one kind, as many at once as there are workers for it. Returns how many were done. */
  async drainKind(kind: WorkKind): Promise<number> {
    let done = 0;
    await Promise.all(
      Array.from({ length: this.kinds[kind].workers }, async () => {
        while ((await this.#next(kind)) === 'did') done++;
      }),
    );
    return done;
  }

  /** Waits until nothing of a kind is queued or runs: for tests. */
  async idle(kind: WorkKind): Promise<void> {
    if (!this.#loops.has(kind)) throw new Error(`Nobody works on ${kind}: it would wait for ever.`);
    const open = and(eq(work.kind, kind), inArray(work.state, ['queued', 'running']));
    while ((await this.world.database.db.$count(work, open)) > 0) await new Promise((r) => setTimeout(r, 40));
  }

  async #loop(kind: WorkKind): Promise<void> {
    const idle = this.world.database.embedded ? ALONE : SHARED;
    let again = AGAIN;
    while (!this.#stopped) {
      const did = await this.#next(kind).catch((e: unknown) => {
        console.error(`queue ${kind}:`, messageOf(e));
        return 'none' as const;
      });
      if (did === 'did') again = AGAIN;
      if (did === 'did' || this.#stopped) continue;
      await this.#sleepers[kind].sleep(did === 'none' ? idle : again);
      if (did === 'later') again = Math.min(SHARED, 2 * again);
    }
  }

  /** Goes on with what waits for something that has come. */
  async #lookForWaiting(): Promise<void> {
    if (!this.#waiting) return;
    // What comes to wait during the look sets it again.
    this.#waiting = false;
    try {
      if (await this.#goOn()) this.#waiting = true;
    } catch (e) {
      this.#waiting = true;
      throw e;
    }
  }

  /** The same; returns whether anything waited. */
  async #goOn(): Promise<boolean> {
    const full = performance.now() < this.#fullUntil;
    const { db } = this.world.database;
    const waiting = and(inArray(work.kind, [...this.#kinds]), eq(work.state, 'waiting'));
    const rows = await db
      .select()
      .from(work)
      .where(and(waiting, isNull(work.clip)))
      .orderBy(asc(work.queuedAt));
    // Of very many clips that wait for one thing, one stands for all of them.
    const firsts = await db
      .selectDistinctOn([work.job, work.kind, work.fault])
      .from(work)
      .where(and(waiting, isNotNull(work.clip)))
      .orderBy(work.job, work.kind, work.fault);
    for (const row of rows) if (await this.#mayGoOn(row)) await this.resume([row.id]);
    const room = firsts.filter((r) => r.fault === NO_ROOM);
    const away = await this.#awayOf(firsts.filter((r) => r.fault !== NO_ROOM));
    const goOn = firsts.filter((r) => (r.fault === NO_ROOM ? !full : !away.has(r.id)));
    // There may be no room for that they go on, either.
    if (!full && room.length > 0) this.#restForRoom();
    for (const { job, kind, fault } of goOn) {
      const same = await db
        .select({ id: work.id })
        .from(work)
        .where(
          and(
            waiting,
            eq(work.job, job),
            eq(work.kind, kind),
            sql`${work.fault} is not distinct from ${fault}`,
          ),
        )
        .orderBy(asc(work.queuedAt));
      for (let i = 0; i < same.length; i += PAGE) await this.resume(idsOf(same.slice(i, i + PAGE)));
    }
    return rows.length > 0 || firsts.length > 0;
  }

  /** Whether what a piece waits for is there. Where that cannot be told it waits on, and the others do not wait with it. */
  async #mayGoOn({ job, kind, subject }: WorkRow): Promise<boolean> {
    try {
      return (await this.kinds[kind].mayGoOn?.(this.world.given(job), subject)) === true;
    } catch (e) {
      console.error(`queue ${kind}:`, messageOf(e));
      return false;
    }
  }

  /** Which pieces for clips cannot be done now, and why: by their ids. */
  async #awayOf(rows: readonly WorkRow[], failed = false): Promise<Map<string, string>> {
    const away = new Map<string, string>();
    for (const kind of new Set(rows.map((r) => r.kind)))
      for (const job of new Set(rows.map((r) => r.job))) {
        const some = rows.filter((r) => r.clip !== null && r.kind === kind && r.job === job);
        const subjects = some.map((r) => r.subject);
        const why =
          some.length > 0 && (await this.kinds[kind].away?.(this.world.given(job), subjects, failed));
        for (const r of some) if (why && why.has(r.subject)) away.set(r.id, why.get(r.subject)!);
      }
    return away;
  }

  /** Ends what a person wants ended who asked another server. */
  async #heedWishes(): Promise<void> {
    if (this.world.database.embedded || this.#running.size === 0) return;
    const wishes = await this.world.database.db
      .select({ id: work.id, wish: work.wish })
      .from(work)
      .where(and(eq(work.worker, this.worker), eq(work.state, 'running'), isNotNull(work.wish)));
    for (const { id, wish } of wishes) this.#abort(id, new Halted(wish!));
  }

  /** Works on what comes next. `later` where another server has what that needs: it was given back. */
  async #next(name: WorkKind): Promise<'did' | 'later' | 'none'> {
    const kind = this.kinds[name];
    const fetched = await this.#hands.fetch(name, isBatch(kind) ? kind.most : 1);
    if (fetched.length === 0) return 'none';
    const known = await this.world.database.db
      .select()
      .from(work)
      .where(
        inArray(
          work.id,
          fetched.map((f) => f.work),
        ),
      );
    // Given out again because nothing was heard of it: what a dead worker left is put back, and comes again.
    const running = known.filter((r) => r.state === 'running');
    const left = new Set(idsOf(await this.#putBack(running)));
    const busy = new Set(idsOf(running).filter((id) => !left.has(id)));
    const rows = known
      .filter((r) => r.state === 'queued')
      .sort((a, b) => a.queuedAt.getTime() - b.queuedAt.getTime());
    const whole = rows.filter((r) => r.crashes === 0);
    const undone: string[] = [];
    const held: string[][] = [];
    const later: WorkRow[] = [];
    // What the server ended at is done alone: what is given up in the end is not what was beside it.
    for (const some of [
      ...[...new Set(whole.map((r) => r.job))].map((job) => whole.filter((r) => r.job === job)),
      ...rows.filter((r) => r.crashes > 0).map((r) => [r]),
    ]) {
      const needs = some.flatMap((r) => r.needs);
      const taken = this.#stopped ? null : await this.#resources.take(needs);
      if (taken === 'taken') {
        await this.#do(kind, some).finally(() => this.#resources.leave(needs));
        if (this.#held && needs.length > 0) await this.#giveHeld();
        continue;
      }
      undone.push(...idsOf(some));
      if (taken === 'here') held.push(needs);
      if (taken === 'elsewhere') later.push(...some);
    }
    // It is given out again when what it needs is free, or at the next start.
    if (undone.length > 0)
      await this.world.database.db
        .update(work)
        .set({ handedOut: false })
        .where(and(among(work.id, undone), eq(work.state, 'queued')));
    this.#held ||= held.length > 0;
    // What had it may have ended meanwhile.
    if (held.some((needs) => this.#resources.areFree(needs))) await this.#giveHeld();
    await this.#hands.give(later);
    // What a living worker is busy with stays with pg-boss, and so does all of it where something was thrown: it is given out again.
    await this.#hands.over(
      name,
      fetched.filter((f) => !busy.has(f.work)).map((f) => f.token),
    );
    return later.length > 0 ? 'later' : 'did';
  }

  #contextOf(row: WorkRow, ended: Promise<void>): WorkContext {
    const controller = new AbortController();
    const running: Running = { controller, gate: new SharedArrayBuffer(8), done: 0, total: 0, ended };
    this.#running.set(row.id, running);
    // It was claimed while the queue was being stopped.
    if (this.#stopped) this.#abort(row.id, new Halted('queued'));
    return {
      id: row.id,
      subject: row.subject,
      wanted: row.wanted,
      attempt: row.attempts,
      signal: controller.signal,
      gate: running.gate,
      stopped: () => Atomics.load(new Int32Array(running.gate), 1) !== 0,
      progress: (done, total, speed = null) => {
        Object.assign(running, { done, total });
        if (row.clip) this.world.events.progress(row.id, total > 0 ? done / total : 0, speed);
        else this.world.events.changed('tasks');
      },
    };
  }

  /** Does work of one job. */
  async #do(kind: Kind<Given>, wanted: readonly WorkRow[]): Promise<void> {
    const rows = await this.#claim(wanted);
    if (rows.length === 0) return;
    let end = () => undefined as void;
    const ended = new Promise<void>((resolve) => {
      end = resolve;
    });
    const inJob = this.world.given(rows[0]!.job);
    const contexts = rows.map((row) => this.#contextOf(row, ended));
    this.#changed();
    try {
      if (isBatch(kind)) {
        const failed = await kind.runAll(inJob, contexts);
        await this.#done(
          rows.filter((r) => !failed.has(r.id)),
          {},
        );
        const left = rows.filter((r) => failed.has(r.id));
        const away = await this.#awayJustNow(left);
        for (const r of left) await this.#fail([r], failed.get(r.id)!, away);
      } else await this.#done(rows, (await kind.run(inJob, contexts[0]!)) ?? {});
    } catch (e) {
      const { signal } = this.#running.get(rows[0]!.id)!.controller;
      if (e instanceof Halted) await this.#halted(rows, e);
      else if (signal.aborted && signal.reason instanceof Halted) await this.#halted(rows, signal.reason, e);
      else await this.#fail(rows, e);
    } finally {
      for (const row of rows) this.#running.delete(row.id);
      end();
      this.world.events.changed('work', 'tasks', 'clips', 'cards');
    }
  }

  /** Takes rows that wait for oneself, in their order: those that nobody else has taken meanwhile. */
  async #claim(wanted: readonly WorkRow[]): Promise<WorkRow[]> {
    const mine = await this.#move(
      {
        state: 'running',
        worker: this.worker,
        wish: null,
        startedAt: new Date(),
        attempts: sql`${work.attempts} + 1`,
        progress: 0,
        fault: null,
        problem: null,
      },
      and(inArray(work.id, idsOf(wanted)), eq(work.state, 'queued')),
    );
    const byId = new Map(mine.map((r) => [r.id, r]));
    return wanted.flatMap((r) => byId.get(r.id) ?? []);
  }

  async #done(rows: readonly WorkRow[], { speed, result }: Outcome): Promise<void> {
    if (rows.length === 0) return;
    await this.#move(
      {
        state: 'done',
        endedAt: new Date(),
        progress: 1,
        ...(speed !== undefined ? { speed } : {}),
        ...(result !== undefined ? { result } : {}),
      },
      and(inArray(work.id, idsOf(rows)), eq(work.worker, this.worker)),
    );
  }

  /** Puts running work where it was halted to; what cannot be done a second time is over with that. `e` is what it ended with. */
  async #halted(rows: readonly WorkRow[], { to: wanted, why }: Halted, e?: unknown): Promise<void> {
    const once = rows.some((r) => this.kinds[r.kind].afterDeath === 'never');
    const to = once && wanted !== 'waiting' ? 'cancelled' : wanted;
    await this.#move(
      {
        state: to,
        worker: null,
        handedOut: false,
        progress: 0,
        fault: why,
        endedAt: to === 'cancelled' ? new Date() : null,
        ...(e !== undefined && rows.some((r) => r.clip === null) ? { problem: problemOf(e) } : {}),
        ...(why !== null ? { notes: noted(why) } : {}),
      },
      and(inArray(work.id, idsOf(rows)), eq(work.worker, this.worker)),
    );
    if (to === 'queued') await this.#hands.give(rows);
  }

  /** What there was no room for is tried again after half a lease, and not before. */
  #restForRoom(): void {
    this.#fullUntil = performance.now() + this.lease * 500;
  }

  /** What is done for clips waits where its footage is away, or the data folder has no room for what came of it: that is no fault of the clips. */
  async #hold(rows: readonly WorkRow[], why: string): Promise<void> {
    if (why === NO_ROOM) this.#restForRoom();
    await this.#move(
      { state: 'waiting', worker: null, handedOut: false, progress: 0, fault: why },
      and(inArray(work.id, idsOf(rows)), eq(work.worker, this.worker)),
    );
  }

  /** The same of pieces that failed. Where it cannot be told none is away: they failed. */
  #awayJustNow(rows: readonly WorkRow[]): Promise<Map<string, string>> {
    return this.#awayOf(rows, true).catch((e: unknown) => {
      console.error('queue:', messageOf(e));
      return new Map();
    });
  }

  /** Notes work that failed, and why; what is for clips that are `away` waits. */
  async #fail(all: readonly WorkRow[], e: unknown, away?: ReadonlyMap<string, string>): Promise<void> {
    if (all.length === 0) return;
    const room = isDatabaseFault(e) && isFull(e) ? NO_ROOM : null;
    const notNow = e instanceof NotNow ? e.message : room;
    if (notNow !== null && all.every((r) => r.clip !== null)) return this.#hold(all, notNow);
    const known = away ?? (await this.#awayJustNow(all));
    for (const why of new Set(known.values()))
      await this.#hold(
        all.filter((r) => known.get(r.id) === why),
        why,
      );
    const rows = all.filter((r) => !known.has(r.id));
    if (rows.length === 0) return;
    const fault = messageOf(e);
    await this.#move(
      {
        state: 'failed',
        endedAt: new Date(),
        fault,
        ...(rows.some((r) => r.clip === null) ? { problem: problemOf(e) } : {}),
        notes: noted(fault),
      },
      among(work.id, idsOf(rows)),
    );
  }

  /**
   * Brings pieces to another state and tells their kinds, both or neither: what a kind keeps of the state is never behind it, not
   * even after a power cut. Returns the pieces.
   */
  async #move(change: Change, which: SQL | undefined): Promise<WorkRow[]> {
    const moved = await this.world.database.db.transaction(async (tx) => {
      const rows = await tx.update(work).set(change).where(which).returning();
      for (const { kind, subject, state, fault } of rows)
        await this.kinds[kind].told?.(tx, { subject, state, fault });
      return rows;
    });
    if (change.state === 'waiting') this.#waiting = true;
    this.world.events.changed(...new Set(moved.flatMap(({ kind }) => this.kinds[kind].shownAs ?? [])));
    return moved;
  }

  #changed(): void {
    this.world.events.changed('work', 'tasks');
  }
}
