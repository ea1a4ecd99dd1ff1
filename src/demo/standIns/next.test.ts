import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { and, eq } from 'drizzle-orm';
import { NextSteps } from '../../core/next';
import { clips, files } from '../../server/cards/tables';
import { placeNext } from '../../server/naming';
import { doNext } from '../../server/next/doNext';
import { nextView } from '../../server/next';
import { proxiesNext, proxiesView } from '../../server/proxies';
import { makeClip } from '../../server/testing/media';
import { type CopyingShelf, copyingShelf, until } from './copyingShelf';
import { actOnStandIn } from './standIns';

let r: CopyingShelf;
beforeAll(async () => {
  r = await copyingShelf();
});
afterAll(() => r.shelf.close());

/** Lays clips on a card that is put into the reader. */
function cardWith(frames: readonly number[]): string {
  const id = r.card({});
  for (const [n, count] of frames.entries())
    makeClip(r.reader(id, 'CLIP', `T000${n + 1}.MP4`), {
      start: `1${n}:00:00:00`,
      created: `2026-05-05T1${n}:00:00Z`,
      frames: count,
      codec: ['-c:v', 'libx264', '-qp', '0', '-pix_fmt', 'yuv422p'],
      size: '640x360',
    });
  return id;
}
const wanted = (next: Partial<NextSteps>) => ({
  shelf: true,
  date: '2026-05-05',
  next: NextSteps.parse(next),
});
const begin = (id: string, next: Partial<NextSteps>) => r.begin(id, wanted(next));
const pass = async () => {
  await doNext(r.shelf.runtime, { place: placeNext, proxies: proxiesNext });
  await r.shelf.runtime.queue.drain();
};
const pairsOf = async (id: string) => {
  const { runtime } = r.shelf;
  const rows = await runtime.db.select({ id: clips.id }).from(clips).where(eq(clips.card, id));
  return (await proxiesView(runtime)).pairs.filter((p) => rows.some((c) => c.id === p.clip));
};
const placesOf = async (id: string, role: 'original' | 'proxy') =>
  (
    await r.shelf.runtime.db
      .select({ root: files.root, onCard: files.onCard })
      .from(files)
      .innerJoin(clips, eq(clips.id, files.clip))
      .where(and(eq(clips.card, id), eq(files.role, role)))
  ).map((f) => (f.onCard === null ? f.root : 'on the card'));
const pull = () => actOnStandIn({ action: 'pull', slot: 'Reader 1' });
const copied = async (offload: string) => {
  r.calm();
  await until(async () => (await r.view(offload)).state === 'done');
};

test('steps are done from the card while it copies, and names follow from the copy, without the card', async () => {
  const id = cardWith([41, 42, 43]);
  // However busy the machine is, the copying takes longer than the proxies.
  r.tell('Reader 1', { slow: 4000 });
  const offload = await begin(id, { placing: 'name', proxies: true });
  await r.shelf.runtime.queue.drain();
  await pass();
  expect((await r.view(offload)).state).toBe('running');
  expect(await placesOf(id, 'original')).toEqual(Array(3).fill('on the card'));
  expect((await pairsOf(id)).map((p) => p.state)).toEqual(Array(3).fill('proven'));
  expect((await nextView(r.shelf.runtime)).waiting).toEqual([{ step: 'name', clips: 3 }]);
  await copied(offload);
  pull();
  await pass();
  expect(await nextView(r.shelf.runtime)).toEqual({ waiting: [], stopped: [], stops: 0 });
  expect(await placesOf(id, 'original')).toEqual(Array(3).fill('shelf'));
  expect((await pairsOf(id)).map((p) => p.state)).toEqual(Array(3).fill('proven'));
});

test('a step whose time comes when the card is gone is done from the copy', async () => {
  const id = cardWith([51, 52]);
  await r.copy(id, wanted({ proxies: true }));
  pull();
  await pass();
  expect(await nextView(r.shelf.runtime)).toEqual({ waiting: [], stopped: [], stops: 0 });
  expect((await pairsOf(id)).map((p) => p.state)).toEqual(['proven', 'proven']);
});
