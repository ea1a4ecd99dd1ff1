import { afterAll, afterEach, beforeAll, beforeEach, describe, expect, test } from '@jest/globals';
import { eq } from 'drizzle-orm';
import { beginJob } from '../../jobs/jobs';
import type { InJob } from '../../runtime';
import { kindsOf, worldOf } from '../../testing/kinds';
import { TEST_JOB, testShelf, type TestShelf } from '../../testing/media';
import { work } from './tables';
import { Refused } from '../errors';
import { Halted, type Kind, type WorkContext } from './kinds';
import { WorkQueue } from './queue';

// Work that is asked for, is about no clip, needs something to itself, or waits for something.

let s: TestShelf;
let queue: WorkQueue<InJob>;
const queues: WorkQueue<InJob>[] = [];
let seen: string[];
/** How a piece ends, by its subject. */
let ends: Record<string, (context: WorkContext) => Promise<unknown>>;
let told: string[];
let there: boolean;
/** Of which it cannot be told whether what they wait for is there. */
let untold: string | null;

const one: Partial<Kind<InJob>> = {
  told: (_, p) => {
    told.push(`${p.subject} ${p.state}${p.fault === null ? '' : `: ${p.fault}`}`);
    return Promise.resolve();
  },
  mayGoOn: (_, subject) => (subject === untold ? Promise.reject(new Error('EIO')) : Promise.resolve(there)),
};
const run = async (_: unknown, c: WorkContext): Promise<{ result: unknown }> => {
  seen.push(c.subject);
  return { result: await ends[c.subject]?.(c) };
};
const open = async (): Promise<WorkQueue<InJob>> => {
  const kinds = kindsOf({ check: run, name: run, extract: run });
  const made = new WorkQueue(worldOf(s.runtime), {
    ...kinds,
    check: { ...kinds.check, workers: 3 },
    name: { ...kinds.name, afterDeath: 'never' },
    extract: { ...kinds.extract, ...one, workers: 3, afterDeath: 'again' },
  });
  queues.push(made);
  await made.recover();
  return made;
};
const rowOf = async (id: string) => (await s.runtime.db.select().from(work).where(eq(work.id, id)))[0]!;
const begin = async (kind: 'check' | 'name' | 'extract', subject: string, needs: string[] = []) =>
  (await queue.begin({ job: TEST_JOB, kind, subject, needs, wanted: { of: subject } })).task;
async function until(what: () => boolean | Promise<boolean>): Promise<void> {
  for (let i = 0; i < 3000; i++) {
    if (await what()) return;
    await new Promise((r) => setTimeout(r, 10));
  }
  throw new Error('it did not come to that');
}
/** Runs until it is aborted. */
const forever = (c: WorkContext): Promise<never> =>
  new Promise((_, reject) => c.signal.addEventListener('abort', () => reject(c.signal.reason as Error)));

beforeAll(async () => {
  s = await testShelf();
  await beginJob(s.runtime, { name: 'Slack Water', code: 'SLW', zoneMinutes: 0 }, TEST_JOB);
});
afterAll(() => s.close());
beforeEach(async () => {
  await s.runtime.db.delete(work);
  [seen, told, ends, there, untold] = [[], [], {}, false, null];
  queue = await open();
});
afterEach(async () => {
  await Promise.all(queues.splice(0).map((q) => q.stop()));
});

describe('what a person asked for', () => {
  test('is told how it stands, and gives its outcome, what was asked for, or what went wrong with what to do', async () => {
    ends = {
      good: (c) => {
        c.progress(3, 4);
        return Promise.resolve({ same: 7, wanted: c.wanted });
      },
      bad: () => Promise.reject(new Refused('Nothing is there.', { next: 'Connect the drive.' })),
    };
    const [good, bad] = [await begin('check', 'good'), await begin('check', 'bad')];
    expect(await queue.view(good)).toMatchObject({ state: 'queued', title: 'Checking a copy', result: null });
    expect((await queue.views()).map((v) => v.id)).toEqual([good, bad]);
    await queue.drain();
    expect(await queue.view(good)).toMatchObject({
      state: 'done',
      result: { same: 7, wanted: { of: 'good' } },
      problem: null,
    });
    expect(await queue.view(bad)).toMatchObject({
      state: 'failed',
      problem: { detail: 'Nothing is there.', next: 'Connect the drive.', status: 422 },
    });
    expect(await queue.views()).toEqual([]);
    expect((await rowOf(bad)).notes.map((n) => n.text)).toEqual(['Nothing is there.']);
    expect(await queue.view('unknown')).toBeNull();
  });

  test('is not begun a second time while it is open', async () => {
    const first = await begin('check', 'x');
    expect(await begin('check', 'x')).toBe(first);
    await queue.drain();
    expect(await begin('check', 'x')).not.toBe(first);
    await queue.drain();
    expect(seen).toEqual(['x', 'x']);
  });

  test('is stopped where it runs, with what it says of that; where it waits it is taken off', async () => {
    ends = {
      run: async (c) => {
        while (!c.stopped()) await new Promise((r) => setTimeout(r, 5));
        throw new Refused('Nothing of it counts.');
      },
      part: async (c) => {
        while (!c.stopped()) await new Promise((r) => setTimeout(r, 5));
        return { done: 2 };
      },
    };
    await queue.start(['check']);
    const [id, part] = [await begin('check', 'run'), await begin('check', 'part')];
    await until(() => seen.length === 2);
    const later = await begin('name', 'later');
    expect(await queue.cancel([id, part, later])).toBe(3);
    await queue.ended([id, part]);
    expect(await queue.view(id)).toMatchObject({
      state: 'cancelled',
      problem: { detail: 'Nothing of it counts.' },
    });
    // What it could still say of itself counts.
    expect(await queue.view(part)).toMatchObject({ state: 'done', result: { done: 2 } });
    expect(await queue.view(later)).toMatchObject({ state: 'cancelled', problem: { title: 'Stopped' } });
    await queue.drain();
    expect(seen).not.toContain('later');
  });

  test('is done again when the server ended in the middle, or not, as its kind is; weeks later its outcome is forgotten', async () => {
    const [check, name] = [await begin('check', 'c'), await begin('name', 'n')];
    await s.runtime.db.update(work).set({ state: 'running' });
    const next = await open();
    await next.drain();
    expect(seen).toEqual(['c']);
    expect(await next.view(check)).toMatchObject({ state: 'done' });
    expect((await rowOf(check)).notes.map((n) => n.text)).toEqual([
      'The server ended while it worked on this.',
    ]);
    expect(await next.view(name)).toMatchObject({
      state: 'failed',
      problem: {
        detail: 'The server ended while it worked on this.',
        next: 'The logbook says what was done.',
      },
    });
    await s.runtime.database.query(
      "update work set ended_at = now() - interval '3 weeks' where subject = 'c'",
    );
    await next.tend();
    expect(await next.view(check)).toBeNull();
    expect(await next.view(name)).not.toBeNull();
  });
});

describe('what a piece has to itself', () => {
  test('no two that need the same run beside one another, those that need other things do; none is forgotten', async () => {
    const now = new Set<string>();
    let most = 0;
    const use = (what: string) => async () => {
      expect(now.has(what)).toBe(false);
      now.add(what);
      most = Math.max(most, now.size);
      await new Promise((r) => setTimeout(r, 120));
      now.delete(what);
    };
    for (const n of [1, 2, 3, 4]) {
      ends[`a${n}`] = use('a');
      ends[`b${n}`] = use('b');
    }
    for (const n of [1, 2, 3, 4]) {
      await begin('check', `a${n}`, ['root a']);
      await begin('check', `b${n}`, ['root b', `other ${n}`]);
    }
    await queue.start(['check']);
    await queue.idle('check');
    expect([...seen].sort()).toEqual(['a1', 'a2', 'a3', 'a4', 'b1', 'b2', 'b3', 'b4']);
    expect(most).toBe(2);
  });

  test('all or none is taken, and left again', async () => {
    ends = { both: () => Promise.reject(new Error('no')) };
    await begin('check', 'both', ['a', 'b']);
    await begin('check', 'after', ['b', 'a']);
    await queue.drain();
    // Which of two workers takes what it needs first is not said: they may have asked on connections of their own.
    expect([...seen].sort()).toEqual(['after', 'both']);
  });
});

describe('what rests or waits', () => {
  test('paused in the middle it goes on when it is told to, and its kind hears of each state', async () => {
    let first = true;
    ends = {
      x: async (c) => {
        if (first) await forever(c);
      },
    };
    await queue.start(['extract']);
    const id = await begin('extract', 'x');
    await until(() => seen.length === 1);
    expect(await queue.pause([id])).toBe(1);
    await queue.ended([id]);
    expect(await rowOf(id)).toMatchObject({ state: 'paused', fault: null, worker: null });
    first = false;
    expect(await queue.retry([id])).toBe(0);
    expect(await queue.resume([id])).toBe(1);
    await queue.idle('extract');
    expect(await rowOf(id)).toMatchObject({ state: 'done', attempts: 2 });
    expect(told).toEqual(['x running', 'x paused', 'x queued', 'x running', 'x done']);
  });

  test('paused while it is queued it is left out', async () => {
    const [a, b] = [await begin('extract', 'a'), await begin('extract', 'b')];
    await queue.pause([a]);
    await queue.drain();
    expect(seen).toEqual(['b']);
    await queue.resume([a, b]);
    await queue.drain();
    expect(seen).toEqual(['b', 'a']);
  });

  test('what waits for something goes on by itself when it has come, and says why it waited', async () => {
    ends = { x: () => (there ? Promise.resolve() : Promise.reject(new Halted('waiting', 'Put it back.'))) };
    await queue.start(['extract']);
    const id = await begin('extract', 'x');
    await until(async () => (await rowOf(id)).state === 'waiting');
    expect(await rowOf(id)).toMatchObject({ fault: 'Put it back.' });
    there = true;
    await until(async () => (await rowOf(id)).state === 'done');
    expect(told).toEqual(['x running', 'x waiting: Put it back.', 'x queued', 'x running', 'x done']);
    expect((await rowOf(id)).notes.map((n) => n.text)).toEqual(['Put it back.']);
  });

  test('what cannot be asked of one piece that waits does not keep others waiting', async () => {
    const waits = () => (there ? Promise.resolve() : Promise.reject(new Halted('waiting', 'Put it back.')));
    ends = { stuck: waits, a: waits, b: waits, c: waits };
    untold = 'stuck';
    await queue.start(['extract']);
    const ids: string[] = [];
    const states = async () => (await Promise.all(ids.map(async (id) => (await rowOf(id)).state))).join(' ');
    for (const subject of Object.keys(ends)) {
      ids.push(await begin('extract', subject));
      await until(async () => (await states()).endsWith('waiting'));
    }
    there = true;
    await until(async () => (await states()) === 'waiting done done done');
    untold = null;
    await until(async () => (await states()) === 'done done done done');
  });

  test('what is open when the server is stopped is there for the next one', async () => {
    ends = { x: forever };
    await queue.start(['extract']);
    const id = await begin('extract', 'x');
    await until(() => seen.length === 1);
    await queue.stop();
    expect(await rowOf(id)).toMatchObject({ state: 'queued', worker: null });
    ends = {};
    const next = await open();
    await next.drain();
    expect(await rowOf(id)).toMatchObject({ state: 'done' });
  });
});

test('what is to be first is done before all other of its kind, in its order', async () => {
  const ids: string[] = [];
  for (const name of ['a', 'b', 'c', 'd']) ids.push(await begin('name', name));
  expect(await queue.first([ids[2]!])).toBe(1);
  expect(await queue.first([ids[3]!])).toBe(1);
  await queue.drain();
  expect(seen).toEqual(['d', 'c', 'a', 'b']);
  expect(await queue.first([ids[0]!])).toBe(0);
});

test('a piece comes to no state that its kind could not keep, and is done later', async () => {
  const kinds = kindsOf({ extract: run });
  let full = true;
  const loud = new WorkQueue(
    worldOf(s.runtime),
    {
      ...kinds,
      extract: {
        ...kinds.extract,
        told: () => (full ? Promise.reject(new Error('no room')) : Promise.resolve()),
      },
    },
    1,
  );
  queues.push(loud);
  await loud.recover();
  const { task } = await loud.begin({ job: TEST_JOB, kind: 'extract', subject: 'x' });
  await expect(loud.drainKind('extract')).rejects.toThrow('no room');
  expect([(await loud.view(task))!.state, seen]).toEqual(['queued', []]);
  await expect(loud.pause([task])).rejects.toThrow('no room');
  expect((await loud.view(task))!.state).toBe('queued');
  full = false;
  await until(async () => {
    await loud.tend();
    await loud.drainKind('extract');
    return (await loud.view(task))!.state === 'done';
  });
  expect(seen).toEqual(['x']);
});
