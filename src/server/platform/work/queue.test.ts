import { afterAll, beforeAll, beforeEach, describe, expect, test } from '@jest/globals';
import { asc, eq, inArray, sql } from 'drizzle-orm';
import { cameras, cards, clips, days } from '../../cards/tables';
import { work } from './tables';
import { beginJob } from '../../jobs/jobs';
import type { InJob } from '../../runtime';
import { kindsOf, worldOf } from '../../testing/kinds';
import { TEST_JOB, testShelf, type TestShelf } from '../../testing/media';
import { KINDS } from '../../handlers';
import type { SingleKind } from './kinds';
import { WorkQueue } from './queue';

let s: TestShelf;
let queue: WorkQueue<InJob>;
let seen: string[];
let handler: SingleKind<InJob>['run'];
const rows = () => s.runtime.db.select().from(work).orderBy(asc(work.queuedAt));
const states = async () => (await rows()).map((r) => `${r.clip}:${r.state}`);
/** Waits until `what` is true, at most half a minute. */
async function until(what: () => boolean | Promise<boolean>): Promise<void> {
  for (let i = 0; i < 1500; i++) {
    if (await what()) return;
    await new Promise((r) => setTimeout(r, 20));
  }
  throw new Error('it did not come to that');
}

beforeAll(async () => {
  s = await testShelf();
  const { db } = s.runtime;
  await beginJob(s.runtime, { name: 'Slack Water', code: 'SLW', zoneMinutes: 0 }, TEST_JOB);
  await db.insert(cameras).values({ job: TEST_JOB, label: 'B', model: null });
  await db.insert(days).values({ job: TEST_JOB, number: 1, date: null });
  await db.insert(cards).values({
    job: TEST_JOB,
    id: 'B001',
    camera: 'B',
    day: 1,
    shape: 'plain',
    root: 'shelf',
    folder: '',
    aside: [],
    proxySuffix: null,
    takenAt: new Date(),
  });
  for (const id of ['a', 'b', 'c', 'd'])
    await db
      .insert(clips)
      .values({ id, job: TEST_JOB, card: 'B001', original: id, state: 'read', audio: [] });
});
afterAll(() => s.close());
beforeEach(async () => {
  await s.runtime.db.delete(work);
  seen = [];
  handler = (_, c) => {
    seen.push(c.subject);
    return Promise.resolve();
  };
  queue = new WorkQueue(
    worldOf(s.runtime),
    kindsOf({
      proxy: (r, c) => handler(r, c),
    }),
  );
  await queue.recover();
});

describe('the queue', () => {
  test('does work in the order it was asked for, once', async () => {
    expect(await queue.add('proxy', ['c', 'a', 'b'])).toBe(3);
    expect(await queue.add('proxy', ['a', 'd', 'unknown'])).toBe(1);
    await queue.drain();
    expect(seen).toEqual(['c', 'a', 'b', 'd']);
    expect((await rows()).every((r) => r.state === 'done' && r.progress === 1 && r.attempts === 1)).toBe(
      true,
    );
    expect(await queue.add('proxy', ['a'])).toBe(1);
  });

  test('a database that does not answer is not taken for one in which nothing waits', async () => {
    await queue.add('proxy', ['a']);
    const { database } = s.runtime;
    const query = database.query.bind(database);
    database.query = () => Promise.reject(new Error('the connection broke'));
    try {
      await expect(queue.drainKind('proxy')).rejects.toThrow('the connection broke');
    } finally {
      database.query = query;
    }
    expect(await states()).toEqual(['a:queued']);
    await queue.drainKind('proxy');
    expect(seen).toEqual(['a']);
  });

  test('very many are taken off at once', async () => {
    await queue.add('proxy', ['a', 'b']);
    const unknown = Array.from({ length: 20_000 }, (_, i) => `unknown ${i}`);
    expect(await queue.cancel([...unknown, ...(await rows()).map((r) => r.id)])).toBe(2);
    expect(await states()).toEqual(['a:cancelled', 'b:cancelled']);
  });

  test('a clock that is set back by a day holds nothing up', async () => {
    await queue.add('proxy', ['a', 'b']);
    // As rows of a day later are there once the clock is back.
    await s.runtime.database.query(
      "update pgboss.job set start_after = now() + interval '1 day', created_on = now() + interval '1 day' where state < 'active'",
    );
    await queue.add('proxy', ['c']);
    await queue.drain();
    expect([...seen].sort()).toEqual(['a', 'b', 'c']);
  });

  test('weeks later what waits is done all the same, and nothing is left of what was done', async () => {
    const later = (table: string) =>
      s.runtime.database.query(
        `update pgboss.${table} set ${['created_on', 'keep_until', 'start_after', 'started_on', 'completed_on'].map((c) => `${c} = ${c} - interval '200 days'`).join(', ')}`,
      );
    const kept = async (table: string): Promise<number> =>
      (
        (await s.runtime.database.query(`select count(*)::int as n from pgboss.${table}`)).rows as {
          n: number;
        }[]
      )[0]!.n;
    await queue.add('proxy', ['a']);
    await queue.drain();
    await queue.add('proxy', ['b']);
    await later('job');
    await queue.tend();
    await queue.drain();
    expect(seen).toEqual(['a', 'b']);
    for (let n = 0; n < 2; n++) {
      await later('job');
      await s.runtime.database.query(
        "update pgboss.archive set archived_on = archived_on - interval '200 days'",
      );
      await queue.tend();
    }
    expect([await kept('job'), await kept('archive')]).toEqual([0, 0]);
  });

  test('a piece that takes longer than its lease is not begun a second time', async () => {
    const slow = new WorkQueue(
      worldOf(s.runtime),
      kindsOf({
        proxy: async (_, c) => {
          seen.push(c.subject);
          await new Promise((r) => setTimeout(r, 2500));
        },
      }),
      1,
    );
    await slow.recover();
    await slow.add('proxy', ['a']);
    const first = slow.drainKind('proxy');
    await until(() => seen.length === 1);
    await new Promise((r) => setTimeout(r, 1500));
    await slow.tend();
    await slow.drainKind('proxy');
    expect(seen).toEqual(['a']);
    await first;
    expect(seen).toEqual(['a']);
    expect(await states()).toEqual(['a:done']);
    // What was given out again meanwhile is over as well.
    await slow.tend();
    await slow.drain();
    expect(seen).toEqual(['a']);
  });

  test('what the server ends at again and again is done alone, and given up the third time; tried again by hand it is begun anew', async () => {
    for (let n = 1; n <= 3; n++) {
      await queue.add('proxy', n === 1 ? ['a', 'b'] : []);
      // The server ends while it works on the first.
      await s.runtime.db.update(work).set({ state: 'running', worker: null }).where(eq(work.clip, 'a'));
      await queue.recover();
    }
    expect(await states()).toEqual(['a:failed', 'b:queued']);
    expect((await rows())[0]!.fault).toMatch(
      /^The server ended 3 times while it worked on this: it was given up\./,
    );
    await queue.drain();
    expect(seen).toEqual(['b']);
    expect(await queue.retry([(await rows())[0]!.id])).toBe(1);
    await queue.drain();
    expect(seen).toEqual(['b', 'a']);
  });

  test('of a batch in which the server ended each piece is done alone, and those begun after it together', async () => {
    const batches: string[][] = [];
    const run = async (_: unknown, contexts: readonly { subject: string }[]) => {
      batches.push(contexts.map((c) => c.subject));
      return new Map<string, Error>();
    };
    queue = new WorkQueue(worldOf(s.runtime), kindsOf({ read: { most: 24, runAll: run } }));
    await queue.add('read', ['a', 'b']);
    await s.runtime.db.update(work).set({ state: 'running' });
    await queue.recover();
    await queue.add('read', ['c', 'd']);
    await queue.drain();
    expect(batches).toEqual([['c', 'd'], ['a'], ['b']]);
  });

  test('a clip whose reading fails does not wait for ever: it says why, and those read before stay read', async () => {
    const run = () => Promise.reject(new Error('no thread could be started'));
    queue = new WorkQueue<InJob>(worldOf(s.runtime), {
      ...kindsOf({}),
      read: { ...KINDS.read, most: 24, runAll: run },
    });
    await s.runtime.db.update(clips).set({ state: 'waiting' }).where(eq(clips.id, 'a'));
    await queue.add('read', ['a', 'b']);
    await queue.drain();
    expect(await states()).toEqual(['a:failed', 'b:failed']);
    const said = await s.runtime.db
      .select()
      .from(clips)
      .where(inArray(clips.id, ['a', 'b']))
      .orderBy(clips.id);
    expect(said.map((c) => [c.state, c.fault])).toEqual([
      ['unreadable', 'no thread could be started'],
      ['read', null],
    ]);
    await s.runtime.db.update(clips).set({ state: 'read', fault: null }).where(eq(clips.id, 'a'));
  });

  test('a failure is kept with its words and the rest goes on; again does it again', async () => {
    handler = (_, c) => {
      seen.push(c.subject);
      return c.subject === 'a' && c.attempt === 1
        ? Promise.reject(new Error('a is cut short'))
        : Promise.resolve({ speed: 3 });
    };
    await queue.add('proxy', ['a', 'b']);
    await queue.drain();
    expect((await rows()).map((r) => [r.clip, r.state, r.fault, r.speed])).toEqual([
      ['a', 'failed', 'a is cut short', null],
      ['b', 'done', null, 3],
    ]);
    const [failed] = await rows();
    expect(await queue.retry([failed!.id])).toBe(1);
    expect(await queue.retry([failed!.id])).toBe(0);
    await queue.drain();
    expect(seen).toEqual(['a', 'b', 'a']);
    expect((await rows()).map((r) => [r.clip, r.state, r.fault]).sort()).toEqual([
      ['a', 'done', null],
      ['b', 'done', null],
    ]);
  });

  test('waiting work is taken off, running work is ended', async () => {
    handler = (_, c) =>
      new Promise((resolve, reject) => {
        seen.push(c.subject);
        c.signal.addEventListener('abort', () => reject(c.signal.reason as Error));
        if (c.subject === 'c') resolve();
      });
    await queue.add('proxy', ['a', 'b', 'c']);
    const [a, b] = await rows();
    await queue.start();
    await until(() => seen.includes('a'));
    expect(await queue.cancel([b!.id, a!.id])).toBe(2);
    await until(async () => (await rows()).every((r) => r.state === 'cancelled' || r.state === 'done'));
    expect(await states()).toEqual(['a:cancelled', 'b:cancelled', 'c:done']);
    expect(seen).toEqual(['a', 'c']);
    await queue.stop();
  });

  test('stopping puts running work back, and the next server goes on with it', async () => {
    handler = (_, c) =>
      new Promise((_resolve, reject) => {
        seen.push(c.subject);
        c.signal.addEventListener('abort', () => reject(c.signal.reason as Error));
      });
    await queue.add('proxy', ['a', 'b']);
    await queue.start();
    await until(() => seen.includes('a'));
    await queue.stop();
    expect(await states()).toEqual(['a:queued', 'b:queued']);
    const next = new WorkQueue(
      worldOf(s.runtime),
      kindsOf({
        proxy: (_, c) => {
          seen.push(c.subject);
          return Promise.resolve();
        },
      }),
    );
    await next.recover();
    await next.drain();
    expect(seen).toEqual(['a', 'a', 'b']);
  });

  test('of several that were fetched together those not begun when it stopped are done by the next', async () => {
    let ended = () => undefined as void;
    const batch = (runs: (ids: readonly string[]) => Promise<void>) =>
      new WorkQueue(
        worldOf(s.runtime),
        kindsOf({
          read: {
            most: 5,
            runAll: async (_, contexts) => {
              seen.push(...contexts.map((c) => c.subject));
              await runs(contexts.map((c) => c.subject));
              return new Map();
            },
          },
        }),
      );
    const first = batch(() => new Promise((r) => (ended = r)));
    await first.recover();
    await first.add('read', ['a', 'b', 'c']);
    // Each is done alone, as after a server that ended at them.
    await s.runtime.db.update(work).set({ crashes: 1 });
    const draining = first.drainKind('read');
    await until(() => seen.length > 0);
    const stopping = first.stop();
    ended();
    await Promise.all([draining, stopping]);
    expect(seen).toEqual(['a']);
    const next = batch(() => Promise.resolve());
    await next.recover();
    await next.drain();
    expect(seen).toEqual(['a', 'b', 'c']);
    expect(await states()).toEqual(['a:done', 'b:done', 'c:done']);
  });

  test('what the database has no room for waits and fails for nobody, and is done once there is room', async () => {
    let full = true;
    const told: string[] = [];
    const tight = new WorkQueue(
      worldOf(s.runtime),
      kindsOf({
        read: {
          run: async (r, c) => {
            if (full)
              await r.db.execute(
                sql`do $$ begin raise exception 'No space left on device' using errcode = '53100'; end $$`,
              );
            seen.push(c.subject);
          },
          told: (_, { subject, state }) => {
            told.push(`${subject}:${state}`);
            return Promise.resolve();
          },
        },
        prove: () => Promise.reject(new Error('it is something else')),
      }),
      4,
    );
    await tight.recover();
    await tight.add('read', ['a', 'b']);
    const { task } = await tight.begin({ job: TEST_JOB, kind: 'prove' });
    await tight.start();
    await until(async () => (await states()).every((is) => !/queued|running/.test(is)));
    expect(await states()).toEqual(['a:waiting', 'b:waiting', 'null:failed']);
    expect((await rows()).map((r) => [r.fault, r.notes.length])).toEqual([
      ['The data folder’s volume is full.', 0],
      ['The data folder’s volume is full.', 0],
      ['it is something else', 1],
    ]);
    expect(told).not.toContain('a:failed');
    expect(seen).toEqual([]);
    full = false;
    await until(async () => (await tight.view(task)) !== null && seen.length === 2);
    await until(async () => (await states()).filter((is) => is.endsWith('done')).length === 2);
    await tight.stop();
  });

  test('what fails while its clip is out of reach waits, says for what, and is done when that is back', async () => {
    let offline: readonly string[] = ['a', 'b'];
    const gone = (): Promise<never> => Promise.reject(new Error('Input/output error'));
    const away = (_: unknown, subjects: readonly string[]) =>
      Promise.resolve(
        new Map(subjects.filter((x) => offline.includes(x)).map((x) => [x, `“Drive ${x}” is offline.`])),
      );
    const patient = new WorkQueue(
      worldOf(s.runtime),
      kindsOf({
        proxy: {
          run: (_, c) => (offline.includes(c.subject) || c.subject === 'c' ? gone() : handler(_, c)),
          away,
        },
        read: {
          most: 10,
          away,
          runAll: (_, contexts) =>
            Promise.resolve(
              new Map(
                contexts
                  .filter((c) => offline.includes(c.subject) || c.subject === 'c')
                  .map((c) => [c.id, new Error(`${c.subject} cannot be read`)]),
              ),
            ),
        },
      }),
    );
    await patient.recover();
    await patient.add('read', ['a', 'b', 'c', 'd']);
    await patient.add('proxy', ['a', 'b', 'c', 'd']);
    await patient.start();
    await until(async () => (await states()).every((is) => !/queued|running/.test(is)));
    const faults = async (kind: string) =>
      (await rows()).filter((r) => r.kind === kind).map((r) => `${r.clip} ${r.state}: ${r.fault ?? ''}`);
    const waiting = ['a waiting: “Drive a” is offline.', 'b waiting: “Drive b” is offline.'];
    expect(await faults('read')).toEqual([...waiting, 'c failed: c cannot be read', 'd done: ']);
    expect(await faults('proxy')).toEqual([...waiting, 'c failed: Input/output error', 'd done: ']);
    // One drive is back: the other is waited for still.
    offline = ['b'];
    await until(async () => (await states()).filter((is) => is === 'a:done').length === 2);
    expect((await faults('proxy'))[1]).toBe(waiting[1]);
    offline = [];
    await until(async () => (await states()).filter((is) => is === 'b:done').length === 2);
    expect(seen).toEqual(['d', 'a', 'b']);
    await patient.stop();
  });

  test('a piece of which nothing could be noted is given out again', async () => {
    const short = new WorkQueue(
      worldOf(s.runtime),
      kindsOf({
        proxy: (_, c) => {
          seen.push(c.subject);
          return Promise.resolve();
        },
      }),
      1,
    );
    await short.recover();
    await short.add('proxy', ['a']);
    // The database does not take that it is done.
    await s.runtime.database.query(`
      create function refuse_done() returns trigger language plpgsql as $$ begin raise exception 'not now'; end $$;
      create trigger refuse_done before update on work for each row when (new.state in ('done', 'failed')) execute function refuse_done();`);
    await expect(short.drainKind('proxy')).rejects.toThrow();
    expect((await rows())[0]).toMatchObject({ state: 'running' });
    await s.runtime.database.query('drop trigger refuse_done on work; drop function refuse_done();');
    await new Promise((r) => setTimeout(r, 1500));
    await short.tend();
    await short.drain();
    expect(seen).toEqual(['a', 'a']);
    expect(await states()).toEqual(['a:done']);
  });

  test('what a killed server left running is done again', async () => {
    await queue.add('proxy', ['a', 'b', 'c']);
    const [a] = await rows();
    await s.runtime.db.update(work).set({ state: 'running', progress: 0.4, attempts: 1 });
    const next = new WorkQueue(
      worldOf(s.runtime),
      kindsOf({
        proxy: (_, c) => {
          seen.push(`${c.subject}${c.attempt}`);
          return Promise.resolve();
        },
      }),
    );
    await next.recover();
    expect((await rows()).find((r) => r.id === a!.id)).toMatchObject({ state: 'queued', progress: 0 });
    await next.drain();
    expect(seen).toEqual(['a2', 'b2', 'c2']);
  });

  describe('several pieces in one go', () => {
    let batches: string[][];
    /** Does two at once; fails those named. */
    const batch = (failing: readonly string[], whole = false) =>
      new WorkQueue(
        worldOf(s.runtime),
        kindsOf({
          read: {
            most: 2,
            runAll: (_, works) => {
              batches.push(works.map((w) => w.subject));
              if (whole) return Promise.reject(new Error('the database is away'));
              return Promise.resolve(
                new Map(
                  works
                    .filter((w) => failing.includes(w.subject))
                    .map((w) => [w.id, new Error(`${w.subject} is not there`)]),
                ),
              );
            },
          },
        }),
      );
    const byClip = async () =>
      Object.fromEntries((await rows()).map((r) => [r.subject, [r.state, r.fault, r.attempts] as const]));
    beforeEach(() => {
      batches = [];
    });

    test('no more than are asked for, each piece once; one that fails takes nothing from the others', async () => {
      const q = batch(['b']);
      await q.recover();
      await q.add('read', ['a', 'b', 'c', 'd']);
      await q.drain();
      expect(batches.every((b) => b.length <= 2)).toBe(true);
      expect(batches.flat().sort()).toEqual(['a', 'b', 'c', 'd']);
      expect(await byClip()).toEqual({
        a: ['done', null, 1],
        b: ['failed', 'b is not there', 1],
        c: ['done', null, 1],
        d: ['done', null, 1],
      });
    });

    test('where the whole batch fails, every piece says so and can be done again', async () => {
      const q = batch([], true);
      await q.recover();
      await q.add('read', ['a', 'b']);
      await q.drain();
      expect(await byClip()).toEqual({
        a: ['failed', 'the database is away', 1],
        b: ['failed', 'the database is away', 1],
      });
      const next = batch([]);
      await next.recover();
      expect(await next.retry((await rows()).map((r) => r.id))).toBe(2);
      await next.drain();
      expect(await byClip()).toEqual({ a: ['done', null, 2], b: ['done', null, 2] });
    });

    test('a piece taken off while it waits is not done with the others', async () => {
      const q = batch([]);
      await q.recover();
      await q.add('read', ['a', 'b', 'c']);
      const b = (await rows()).find((r) => r.clip === 'b')!;
      expect(await q.cancel([b.id])).toBe(1);
      await q.drain();
      expect(batches.flat().sort()).toEqual(['a', 'c']);
      expect((await byClip()).b![0]).toBe('cancelled');
    });
  });
});

test('more ids than a statement takes values: queued, taken off and tried again', async () => {
  const many = [...Array.from({ length: 70_000 }, (_, i) => `unknown ${i}`), 'a'];
  expect(await queue.add('proxy', many)).toBe(1);
  const [row] = await rows();
  await queue.cancel([row!.id]);
  expect(await queue.retry([...Array.from({ length: 70_000 }, (_, i) => `none ${i}`), row!.id])).toBe(1);
});
