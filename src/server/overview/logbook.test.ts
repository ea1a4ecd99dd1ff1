import { afterAll, beforeAll, expect, test } from '@jest/globals';
import path from 'node:path';
import { namingRequest } from '../../core/naming/shapes';
import type { LogEntry, LogQuery } from '../../core/logbook';
import type { z } from 'zod';
import { beginJob } from '../jobs/jobs';
import { log } from '../logbook/tables';
import { applyNaming, undoPlan } from '../naming';
import { planNaming } from '../naming/naming';
import { makeClip, TEST_JOB, type TestShelf, testShelf } from '../testing/media';
import { takeInCard } from '../testing/takeInCard';
import { logView } from './logbook';

// A long job's logbook, a page at a time.

let s: TestShelf;
const MANY = 450;

/** All entries, page by page, and how many pages that were. */
async function readAll(query: z.infer<typeof LogQuery> = {}): Promise<{ all: LogEntry[]; pages: number }> {
  const all: LogEntry[] = [];
  for (let pages = 1, before: string | undefined; ; pages++) {
    const page = await logView(s.runtime, { ...query, ...(before && { before }) });
    all.push(...page.entries);
    if (page.older === null) return { all, pages };
    before = page.older;
  }
}

beforeAll(async () => {
  s = await testShelf();
  await beginJob(s.runtime, { name: 'Slack Water', code: 'SLW', zoneMinutes: 0 }, TEST_JOB);
  makeClip(path.join(s.shelf, 'In', 'T0001.MP4'), { frames: 5, start: '10:00:00:00' });
  await takeInCard(s);
  const { preview } = await planNaming(s.runtime, namingRequest());
  await applyNaming(s.runtime, { ...namingRequest(), fingerprint: preview.fingerprint });
  // Three of each moment, as a watched folder writes them.
  const from = Date.now() + 60_000;
  await s.runtime.db.insert(log).values(
    Array.from({ length: MANY }, (_, n) => ({
      ...{ id: `later ${n}`, job: TEST_JOB, at: new Date(from + 1000 * Math.floor(n / 3)), who: 'us' },
      ...{ kind: n % 10 === 0 ? ('check' as const) : ('proxy' as const), text: `Entry 100% ${n}_` },
    })),
  );
});
afterAll(() => s.close());

test('every entry is on one page, the newest first, and what was named before all of them can still be taken back', async () => {
  const { all, pages } = await readAll();
  expect(pages).toBe(3);
  expect(new Set(all.map((e) => e.id)).size).toBe(all.length);
  expect(all.filter((e) => e.id.startsWith('later ')).length).toBe(MANY);
  expect(all.map((e) => e.at)).toEqual(
    all
      .map((e) => e.at)
      .sort()
      .reverse(),
  );
  const named = all.filter((e) => e.kind === 'name');
  expect(named.map((e) => [e.undoable, e.steps])).toEqual([[true, 1]]);
  expect(await undoPlan(s.runtime, named[0]!.planId!)).toMatchObject({ state: 'done' });
  expect((await readAll({ kind: 'name' })).all.map((e) => e.undoable)).toEqual([false]);
});

test('a kind and words are looked for in all of it, whatever signs they have', async () => {
  expect((await readAll({ kind: 'check' })).all.length).toBe(MANY / 10);
  expect((await readAll({ words: 'ENTRY 100% 7_' })).all.map((e) => e.id)).toEqual(['later 7']);
  expect((await readAll({ words: '%' })).all.length).toBe(MANY);
  const nothing = await logView(s.runtime, { kind: 'check', words: 'Entry 100% 7_' });
  expect(nothing).toMatchObject({ entries: [], older: null });
  // Which kinds there are is said of all.
  expect(nothing.kinds).toEqual(expect.arrayContaining(['job', 'takeIn', 'name', 'check', 'proxy']));
});
