import { and, eq, max, min, sql } from 'drizzle-orm';
import { randomUUID } from 'node:crypto';
import PgBoss from 'pg-boss';
import type { WorkKind } from '../../../core/platform/shapes';
import type { OpenDatabase } from '../db/client';
import { messageOf } from '../errors';
import { work, type WorkRow } from './tables';
import { Turns } from './turns';

/** What pg-boss keeps of a row: which. */
interface HandedOut {
  work: string;
}

/** Seconds after which pg-boss gives a piece of work out again that it has heard nothing of: whether its worker lives is asked then. */
export const LEASE = 60;
/** How often that may be: far more often than any work takes. */
const LEASES = 1_000_000;
/** Minutes a piece of work may wait: ten years. */
const WAIT = 5_256_000;
/** Rows of a statement. */
const PAGE = 500;

/** Hands rows of the queue out by pg-boss, which alone decides who does what and when; its tables are its own. */
export class HandOut {
  readonly #boss: PgBoss;
  #ready: Promise<void> | null = null;

  constructor(
    private readonly database: Pick<OpenDatabase, 'db' | 'query'>,
    private readonly kinds: readonly WorkKind[],
    private readonly lease: number,
  ) {
    this.#boss = new PgBoss({
      db: { executeSql: (text: string, values?: unknown[]) => database.query(text, values) },
      schedule: false,
      supervise: false,
    });
    this.#boss.on('error', (e) => console.error('queue:', messageOf(e)));
  }

  open(): Promise<void> {
    this.#ready ??= (async () => {
      await this.#boss.start();
      const options = {
        policy: 'standard' as const,
        retryLimit: LEASES,
        retentionMinutes: WAIT,
        expireInSeconds: this.lease,
      };
      const leases = new Map((await this.#boss.getQueues()).map((q) => [q.name, q.expireInSeconds]));
      for (const name of this.kinds) {
        if (!leases.has(name)) await this.#boss.createQueue(name, { name, ...options });
        else if (leases.get(name) !== this.lease) await this.#boss.updateQueue(name, { name, ...options });
      }
    })();
    return this.#ready;
  }

  /** Returns whether it had been opened. */
  async close(): Promise<boolean> {
    if (!this.#ready) return false;
    await this.#ready;
    await this.#boss.stop({ graceful: false, wait: true });
    return true;
  }

  /**
   * Gives rows out, to be fetched in this order, the jobs taking turns: by their turn, and where that is the same by their ids, which
   * count up. What had its turn before has it still.
   */
  async give(rows: readonly Pick<WorkRow, 'id' | 'job' | 'kind' | 'turn'>[]): Promise<void> {
    const { db } = this.database;
    for (const kind of new Set(rows.map((r) => r.kind))) {
      const open = await db
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
        await db.execute(sql`update ${work} set handed_out = true, turn = r.turn
          from jsonb_to_recordset(${JSON.stringify(some)}::jsonb) as r(id text, turn int) where ${work}.id = r.id`);
      }
    }
  }

  /** The next pieces of a kind: rows' ids, and by which they are `over`. Throws what the database does. */
  async fetch(kind: WorkKind, most: number): Promise<{ work: string; token: string }[]> {
    const faults: Error[] = [];
    const executeSql = (text: string, values?: unknown[]) =>
      this.database.query(text, values).catch((e: unknown) => {
        // pg-boss itself would say that nothing waits.
        faults.push(e instanceof Error ? e : new Error(messageOf(e)));
        throw e;
      });
    // Nothing here is to start later; a clock that is set back would make it seem so.
    const options = { batchSize: most, ignoreStartAfter: true, db: { executeSql } };
    const fetched = (await this.#boss.fetch<HandedOut>(kind, options)) ?? [];
    if (faults[0]) throw faults[0];
    return fetched.map((f) => ({ work: f.data.work, token: f.id }));
  }

  async over(kind: WorkKind, tokens: readonly string[]): Promise<void> {
    if (tokens.length > 0) await this.#boss.complete(kind, [...tokens]);
  }

  /** Gives out again what nothing was heard of, and clears away what was done long ago. */
  async tend(): Promise<void> {
    await this.open();
    await this.#boss.maintain();
  }
}
