import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { wipeView } from '../../server/custody/wipe';
import { forgetCard } from '../../server/intake/takeIn';
import { look } from '../../server/intake/look';
import { beginJob } from '../../server/jobs/jobs';
import { removeJob } from '../../server/removal';
import { physicalCards } from '../../server/custody/tables';
import { beginOffload } from '../../server/offload/begin';
import { offloadDetail, offloadViews } from '../../server/offload/views';
import { wallView } from '../../server/overview/wall';
import type { InJob } from '../../server/runtime';
import { type CopyingShelf, copyingShelf } from './copyingShelf';

// A physical card is one thing, whichever job copied it: its copies are known in all of them, and it is a card of one at a time.

let r: CopyingShelf;
let slw: InJob;
let ebb: InJob;
beforeAll(async () => {
  r = await copyingShelf();
  slw = r.shelf.runtime;
  await beginJob(slw, { name: 'Ebb', code: 'EBB', zoneMinutes: 0 }, 'ebb');
  ebb = slw.inJob('ebb');
});
afterAll(() => r.shelf.close());

const copyIn = async (job: InJob, id: string) => {
  const { id: offload } = await beginOffload(job, r.wanted('X001', { folder: id }));
  await job.queue.idle('copy');
  return (await offloadViews(job)).find((o) => o.id === offload)!;
};

test('a card of another job is said to be, and is not copied under a second one', async () => {
  const id = r.card({ 'CLIP/T0001.MP4': 5000, 'CLIP/T0002.MP4': 6000 });
  const copied = await r.copy(id);
  expect((await look(ebb, r.roots['Reader 1']!, '')).cards[0]!.known).toMatchObject({
    labels: [],
    elsewhere: [{ job: 'Slack Water', label: id }],
  });
  await expect(copyIn(ebb, id)).rejects.toThrow(`This card is ${id} of the job “Slack Water”.`);
  expect(await offloadViews(ebb)).toEqual([]);
  await expect(offloadDetail(ebb, copied.id)).rejects.toMatchObject({ title: 'Not found' });
  expect((await wallView(ebb)).cards).toEqual([]);
  await expect(wipeView(ebb, id)).rejects.toMatchObject({ title: 'Not found' });
  expect((await wipeView(slw, id)).verdict).toBe('yes');
});

test('forgotten there it is copied here; its earlier copies count, and stay when the first job is removed', async () => {
  const id = r.card({ 'CLIP/T0001.MP4': 7000, 'CLIP/T0002.MP4': 8000 });
  await r.copy(id, { safe: [r.roots.North!] });
  await forgetCard(slw, id);
  const here = await copyIn(ebb, id);
  expect(here).toMatchObject({ state: 'done', card: 'X001' });
  const before = await wipeView(ebb, 'X001');
  expect(before.verdict).toBe('yes');
  expect(before.copies.map((c) => [c.rootName, c.proven])).toEqual([
    ['North', 2],
    ['South', 2],
  ]);
  await removeJob(slw);
  expect((await wipeView(ebb, 'X001')).copies.map((c) => [c.rootName, c.proven])).toEqual([
    ['North', 2],
    ['South', 2],
  ]);
  expect((await wipeView(ebb, 'X001')).verdict).toBe('yes');
  // What was of the removed job alone is not known any more.
  expect(await slw.db.$count(physicalCards)).toBe(1);
});
