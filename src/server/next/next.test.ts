import { afterAll, beforeAll, beforeEach, expect, test } from '@jest/globals';
import { mkdirSync, readdirSync, readFileSync, rmSync } from 'node:fs';
import path from 'node:path';
import { and, eq } from 'drizzle-orm';
import { namingRequest } from '../../core/naming/shapes';
import { NextSteps } from '../../core/next';
import { clips, files } from '../cards/tables';
import { binned, bins, keyworded, keywords } from '../choose/tables';
import { readAgain, takeIn } from '../intake';
import { beginJob } from '../jobs/jobs';
import { requireJob } from '../jobs';
import { placeNext, undoPlan } from '../naming';
import { planNaming } from '../naming/naming';
import { plans } from '../naming/tables';
import { proxiesNext } from '../proxies';
import { among } from '../platform/db/among';
import { work } from '../platform/work/tables';
import { hashTree, makeClip, put, TEST_JOB, testShelf, type TestShelf } from '../testing/media';
import { doNext } from './doNext';
import { nextSteps } from './tables';
import { answerNext, nextView } from './views';

let s: TestShelf;
let made = 0;
/** The card of a test, and the folder of the shelf it is in. */
let card: string;
const inIt = (...p: string[]): string => path.join(s.shelf, `In ${made}`, ...p);

beforeAll(async () => {
  s = await testShelf();
  await beginJob(s.runtime, { name: 'Slack Water', code: 'SLW', zoneMinutes: 0 }, TEST_JOB);
});
afterAll(() => s.close());
beforeEach(() => {
  card = `N${String(++made).padStart(3, '0')}`;
  mkdirSync(inIt(), { recursive: true });
});

const take = (next: Partial<NextSteps>) =>
  takeIn(s.runtime, {
    root: 'shelf',
    path: `In ${made}`,
    cards: [{ folder: '', camera: 'B', cardId: card, day: 1, date: null }],
    next: NextSteps.parse(next),
  });
const doers = { place: placeNext, proxies: proxiesNext };
const pass = () => doNext(s.runtime, doers);
const ids = async () =>
  (await s.runtime.db.select().from(clips).where(eq(clips.card, card)).orderBy(clips.original)).map(
    (c) => c.id,
  );
const originals = async () =>
  (
    await s.runtime.db
      .select({ path: files.path })
      .from(files)
      .innerJoin(clips, eq(clips.id, files.clip))
      .where(and(eq(clips.card, card), eq(files.role, 'original')))
      .orderBy(files.path)
  ).map((f) => f.path);
const waiting = async () => (await nextView(s.runtime)).waiting;
const proxiesOf = async () =>
  s.runtime.db
    .select()
    .from(work)
    .where(and(eq(work.kind, 'proxy'), among(work.clip, await ids())));

test('marks are given with the taking in; names and proxies wait until all of the card is read', async () => {
  makeClip(inIt('T0001.MP4'), { frames: 30 });
  makeClip(inIt('T0002.MP4'), { frames: 31 });
  await take({
    placing: 'name',
    proxies: true,
    keywords: ['Interview', ' fresh  in '],
    bin: ['Days', 'First'],
  });
  const given = await s.runtime.db
    .select({ clip: keyworded.clip, name: keywords.name })
    .from(keyworded)
    .innerJoin(keywords, eq(keywords.id, keyworded.keyword));
  expect(given.map((g) => g.name).sort()).toEqual(['Interview', 'Interview', 'fresh in', 'fresh in']);
  const inBins = await s.runtime.db
    .select({ name: bins.name })
    .from(binned)
    .innerJoin(bins, eq(bins.id, binned.bin));
  expect(inBins.map((b) => b.name)).toEqual(['First', 'First']);
  await pass();
  expect(await waiting()).toEqual([
    { step: 'name', clips: 2 },
    { step: 'proxy', clips: 2 },
  ]);
  expect(await originals()).toEqual(['In 1/T0001.MP4', 'In 1/T0002.MP4']);
  const before = Object.values(hashTree(s.shelf)).sort();
  await s.runtime.queue.drain();
  await pass();
  expect(await originals()).toEqual([
    `SLW/D1/B/${card}/SLW_D1_${card}_001_25p.MP4`,
    `SLW/D1/B/${card}/SLW_D1_${card}_002_25p.MP4`,
  ]);
  expect(Object.values(hashTree(s.shelf)).sort()).toEqual(before);
  expect((await proxiesOf()).map((w) => w.state)).toEqual(['queued', 'queued']);
  expect(await nextView(s.runtime)).toEqual({ waiting: [], stopped: [], stops: 0 });
  // Undone by the person, they are not named once more.
  const [plan] = await s.runtime.db.select().from(plans);
  await undoPlan(s.runtime, plan!.id);
  await pass();
  expect(await originals()).toEqual(['In 1/T0001.MP4', 'In 1/T0002.MP4']);
  // It is offered with the next card.
  expect((await requireJob(s.runtime)).intake.next).toMatchObject({
    placing: 'name',
    proxies: true,
    keywords: [],
    bin: [],
  });
});

test('in place under the name they have, and the convention of the job stays', async () => {
  const { convention } = await requireJob(s.runtime);
  makeClip(inIt('T0007.MP4'), { frames: 32 });
  await take({ placing: 'place' });
  await s.runtime.queue.drain();
  await pass();
  expect(await originals()).toEqual([`SLW/D1/B/${card}/T0007.MP4`]);
  expect((await requireJob(s.runtime)).convention).toEqual(convention);
});

test('what a problem stops waits for the person with the reason, and holds nothing else up', async () => {
  makeClip(inIt('T0001.MP4'), { frames: 33 });
  put(inIt('T0002.MP4'), readFileSync(makeClip(inIt('T0002.MP4'), { frames: 40 })).subarray(0, 9000));
  makeClip(inIt('T0003.MP4'), { frames: 34 });
  await take({ placing: 'name', proxies: true });
  await s.runtime.queue.drain();
  // The place of the third is taken by something else.
  const [, , third] = await ids();
  const own = await requireJob(s.runtime);
  const { preview } = await planNaming(
    s.runtime,
    namingRequest({ convention: own.convention, cards: [card] }),
  );
  const row = preview.rows.find((r) => r.clipId === third)!;
  const taken = path.join(s.shelf, row.folder, `${row.stem}.MP4`);
  put(taken, 'somebody’s');
  await pass();
  const { stopped, stops, waiting: left } = await nextView(s.runtime);
  expect(left).toEqual([]);
  expect(stops).toBe(stopped.length);
  expect(stopped.map((x) => [x.name, x.step, x.why])).toEqual([
    ['T0002', 'name', expect.stringContaining('cannot be read')],
    ['T0002', 'proxy', 'It gets no proxy: the original cannot be read'],
    ['T0003', 'name', 'this name is on the shelf already'],
  ]);
  expect((await originals()).filter((p) => p.startsWith('SLW/'))).toHaveLength(1);
  expect((await proxiesOf()).length).toBe(2);
  // Asked again it stops again; the way once free, it goes on.
  await answerNext(s.runtime, { answer: 'again', clip: third! }, readAgain);
  await pass();
  expect((await nextView(s.runtime)).stops).toBe(3);
  rmSync(taken);
  await answerNext(s.runtime, { answer: 'again', clip: third! }, readAgain);
  await pass();
  expect(readdirSync(path.dirname(taken))).toContain(path.basename(taken));
  expect((await nextView(s.runtime)).stopped.map((x) => x.name)).toEqual(['T0002', 'T0002']);
  // The one that could not be read is read again when it is asked for: whole by now, it goes on.
  makeClip(inIt('T0002.MP4'), { frames: 40 });
  await answerNext(s.runtime, { answer: 'again', clip: null }, readAgain);
  await pass();
  expect((await nextView(s.runtime)).stops).toBe(0);
  await s.runtime.queue.drain();
  await pass();
  expect(await nextView(s.runtime)).toEqual({ waiting: [], stopped: [], stops: 0 });
  expect((await originals()).every((p) => p.startsWith('SLW/'))).toBe(true);
});

test('steps that stopped are left to the person, who is not asked again', async () => {
  put(inIt('T0001.MP4'), readFileSync(makeClip(inIt('T0001.MP4'), { frames: 41 })).subarray(0, 9000));
  await take({ placing: 'name', proxies: true });
  await s.runtime.queue.drain();
  await pass();
  expect((await nextView(s.runtime)).stops).toBe(2);
  await answerNext(s.runtime, { answer: 'leave', clip: null }, readAgain);
  await pass();
  expect((await nextView(s.runtime)).stops).toBe(0);
});

test('a clip that the person named meanwhile is no longer told of', async () => {
  makeClip(inIt('T0001.MP4'), { frames: 35 });
  await take({ placing: 'leave' });
  await s.runtime.queue.drain();
  const [clip] = await ids();
  await s.runtime.db
    .insert(nextSteps)
    .values({ clip: clip!, step: 'name', state: 'stopped', why: 'no rate' });
  expect((await nextView(s.runtime)).stops).toBe(1);
  await placeNext(s.runtime, [clip!], 'name');
  await pass();
  expect((await nextView(s.runtime)).stops).toBe(0);
});

test('what a kill leaves half done is done once more, and nothing twice', async () => {
  makeClip(inIt('T0001.MP4'), { frames: 36 });
  await take({ placing: 'name', proxies: true });
  await s.runtime.queue.drain();
  const [clip] = await ids();
  // Named, and its proxy begun, but the end of neither was noted.
  await placeNext(s.runtime, [clip!], 'name');
  await proxiesNext(s.runtime, [clip!]);
  const there = hashTree(s.shelf);
  await pass();
  expect(hashTree(s.shelf)).toEqual(there);
  expect(await proxiesOf()).toHaveLength(1);
  expect((await nextView(s.runtime)).waiting).toEqual([]);
});
