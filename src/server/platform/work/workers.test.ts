import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { type ChildProcess, spawn } from 'node:child_process';
import { bundled } from '../../../../soak/workers/fork';
import { beginJob } from '../../jobs/jobs';
import { TEST_JOB, testShelf, type TestShelf } from '../../testing/media';

// Two worker processes share a queue on a PostgreSQL server, and one of them is killed (where there is a server for tests).

const onServer = process.env.SORT_SHELF_TEST_SERVER ? test : test.skip;
const [PIECES, LEASE] = [300, 2];
let s: TestShelf;
const workers: ChildProcess[] = [];
beforeAll(async () => {
  s = await testShelf();
});
afterAll(async () => {
  for (const w of workers) w.kill('SIGKILL');
  await s.close();
});

const query = async <T>(text: string): Promise<T[]> => (await s.runtime.database.query(text)).rows as T[];

/** Starts a worker; resolves once it works. */
async function worker(url: string): Promise<ChildProcess> {
  const child = spawn(process.execPath, [await bundled('queue'), url, String(LEASE)], {
    stdio: ['ignore', 'pipe', 'inherit'],
  });
  workers.push(child);
  await new Promise<void>((resolve, reject) => {
    child.stdout.once('data', () => resolve());
    child.once('exit', (code) => reject(new Error(`the worker ended with ${code}`)));
  });
  return child;
}
async function until(what: () => Promise<boolean>): Promise<void> {
  for (const end = Date.now() + 60_000; !(await what());) {
    if (Date.now() > end) throw new Error('it did not come to pass in a minute');
    await new Promise((r) => setTimeout(r, 50));
  }
}

onServer(
  'every piece is done, and none twice but what the killed one was at',
  async () => {
    await beginJob(s.runtime, { name: 'Slack Water', code: 'SLW', zoneMinutes: 0 }, TEST_JOB);
    await query(`
      insert into cameras (job, label) values ('${TEST_JOB}', 'B');
      insert into days (job, number) values ('${TEST_JOB}', 1);
      insert into cards (job, id, camera, day, shape, root, folder, aside, taken_at) values ('${TEST_JOB}', 'B001', 'B', 1, 'plain', 'shelf', '', '[]', now());
      insert into clips (id, job, card, original, state, audio) select 'c' || n, '${TEST_JOB}', 'B001', 'T' || n, 'read', '[]' from generate_series(1, ${PIECES}) n;
      create table tried (work text not null, worker text not null, ended boolean not null default false);
      create table held (work text not null, worker text not null, began timestamptz not null, ended timestamptz);`);
    const [{ url }] = (await query<{ name: string }>('select current_database() as name')).map(
      ({ name }) => ({
        url: Object.assign(new URL(process.env.SORT_SHELF_TEST_SERVER!), { pathname: `/${name}` }).href,
      }),
    ) as [{ url: string }];
    const [first] = await Promise.all([worker(url), worker(url)] as const);
    // What needs the same is done by one at a time, whichever of them does it.
    const { queue } = s.runtime;
    for (let n = 0; n < 40; n++)
      await queue.begin({ job: TEST_JOB, kind: 'check', subject: `copy ${n}`, needs: ['root x'] });
    await until(
      async () =>
        (await query<{ n: number }>('select count(*)::int as n from held where ended is not null'))[0]!.n ===
        40,
    );
    const overlapping = await query(
      'select a.work from held a join held b on a.work < b.work and a.began < b.ended and b.began < a.ended',
    );
    expect(overlapping).toEqual([]);
    // What another process works on is ended by asking this one.
    const { task } = await queue.begin({ job: TEST_JOB, kind: 'prove' });
    const state = async () => (await queue.view(task))!.state;
    await until(async () => (await state()) === 'running');
    expect(await queue.cancel([task])).toBe(1);
    await until(async () => (await state()) === 'cancelled');
    await query('delete from work');
    const clips = Array.from({ length: PIECES }, (_, i) => `c${i + 1}`);
    await s.runtime.queue.add('read', clips);
    await s.runtime.queue.add('proxy', clips);
    const ended = async (): Promise<number> =>
      (await query<{ n: number }>('select count(*)::int as n from tried where ended'))[0]!.n;
    // In the middle of it, with something in its hands.
    const killed = String(first.pid);
    const inHand = async (): Promise<number> =>
      (
        await query<{ n: number }>(
          `select count(*)::int as n from tried t join work w on w.id = t.work
             where t.worker = '${killed}' and not t.ended and w.state = 'running'`,
        )
      )[0]!.n;
    // It is held still, so that what it has in its hands is still there when it is killed.
    await until(async () => {
      if ((await ended()) <= 60) return false;
      first.kill('SIGSTOP');
      await new Promise((r) => setTimeout(r, 20));
      if ((await inHand()) > 0) return true;
      first.kill('SIGCONT');
      return false;
    });
    first.removeAllListeners('exit');
    first.kill('SIGKILL');
    await until(
      async () =>
        (await query<{ n: number }>("select count(*)::int as n from work where state <> 'done'"))[0]!.n === 0,
    );
    const tries = await query<{ work: string; worker: string; ended: boolean }>('select * from tried');
    const by = new Map<string, typeof tries>();
    for (const t of tries) by.set(t.work, [...(by.get(t.work) ?? []), t]);
    expect(by.size).toBe(2 * PIECES);
    expect(new Set(tries.map((t) => t.worker)).size).toBe(2);
    for (const all of by.values()) {
      expect(all.some((t) => t.ended)).toBe(true);
      // Only what the killed one had begun was begun once more, by the other.
      if (all.length > 1) expect(all.filter((t) => t.worker === killed).length).toBe(1);
    }
    // At most what a worker has in its hands: two batches of four, and one piece alone.
    expect([...by.values()].filter((all) => all.length > 1).length).toBeLessThanOrEqual(9);
    expect([...by.values()].filter((all) => all.length > 2)).toEqual([]);
    const crashed = await query<{ n: number }>('select count(*)::int as n from work where crashes > 0');
    expect(crashed[0]!.n).toBeLessThanOrEqual(9);
    expect(crashed[0]!.n).toBeGreaterThan(0);
  },
  120_000,
);
