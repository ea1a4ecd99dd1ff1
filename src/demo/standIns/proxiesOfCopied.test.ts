import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { appendFileSync, rmSync } from 'node:fs';
import path from 'node:path';
import { DEFAULT_PROXIES } from '../../core/proxies';
import { clipViews } from '../../server/cards';
import { files } from '../../server/cards/tables';
import { saveSettings } from '../../server/jobs';
import { actOnOffload } from '../../server/offload';
import { makeByItself, proxiesView, proxyKeeper } from '../../server/proxies';
import { makeClip } from '../../server/testing/media';
import { type CopyingShelf, copyingShelf, SLOW, until } from './copyingShelf';

let r: CopyingShelf;
beforeAll(async () => {
  r = await copyingShelf();
});
afterAll(() => r.shelf.close());

/** A clip with a box at its end that players pass over: copying it takes its time. */
function longClip(file: string, frames: number, bytes: number): void {
  makeClip(file, { frames });
  const free = Buffer.alloc(bytes);
  free.writeUInt32BE(bytes, 0);
  free.write('free', 4, 'latin1');
  appendFileSync(file, free);
}

test('of a card that is copied each clip gets its proxy as soon as it is verified, from its copy', async () => {
  const { runtime } = r.shelf;
  await saveSettings(runtime, { proxies: { ...DEFAULT_PROXIES, byItself: true } });
  const id = r.card({});
  longClip(r.reader(id, 'T0001.MP4'), 30, 6 << 20);
  longClip(r.reader(id, 'T0002.MP4'), 31, 20 << 20);
  makeClip(r.reader(id, 'T0003.MP4'), { frames: 32 });
  r.tell('Reader 1', SLOW);
  const offload = await r.begin(id, { shelf: true });
  const act = (action: 'pause' | 'resume') => actOnOffload(runtime, offload, { action });
  const verified = async () => (await r.view(offload)).verified;
  const begun = async () => {
    await makeByItself(runtime);
    return (await proxiesView(runtime)).work.map((w) => w.clipName).sort();
  };
  await act('pause');
  await runtime.queue.drainKind('read');
  await runtime.queue.drainKind('rest');
  expect((await clipViews(runtime)).map((v) => v.state)).toEqual(['read', 'read', 'read']);
  expect(await verified()).toBe(0);
  expect(await begun()).toEqual([]);
  await act('resume');
  await until(async () => (await verified()) === 1);
  await act('pause');
  expect(await begun()).toEqual(['T0001']);
  // The card is not asked once more.
  rmSync(r.reader(id, 'T0001.MP4'));
  await runtime.queue.drainKind('proxy');
  expect((await proxiesView(runtime)).work.map((w) => [w.clipName, w.state])).toEqual([['T0001', 'done']]);
  r.calm();
  await act('resume');
  await until(async () => (await r.view(offload)).state === 'done');
  const named = [1, 2, 3].map((n) => `SLW_D1_${id}_00${n}_25p`);
  expect(await begun()).toEqual(named);
  rmSync(r.reader(id), { recursive: true });
  await runtime.queue.drain();
  expect((await proxiesView(runtime)).pairs.map((p) => [p.name, p.state])).toEqual(
    named.map((name) => [name, 'proven']),
  );
  // The one that was made before its original had its name has gone along.
  const made = (await runtime.db.select().from(files)).filter((f) => f.role === 'proxy');
  expect(made.map((f) => path.basename(f.path)).sort()).toEqual(named.map((n) => `${n}.mp4`));
});

test('it is seen when a copy is verified, and when the rules say so', async () => {
  const { runtime } = r.shelf;
  const rules = (byItself: boolean) => saveSettings(runtime, { proxies: { ...DEFAULT_PROXIES, byItself } });
  const begun = async (card: string) =>
    (await proxiesView(runtime)).work.filter((w) => w.card === card && w.state === 'queued').length;
  const keeper = proxyKeeper(runtime);
  keeper.begin();
  try {
    const id = r.card({});
    makeClip(r.reader(id, 'T0001.MP4'), { frames: 33 });
    r.tell('Reader 1', { slow: 4e5 });
    await r.begin(id, { shelf: true });
    await runtime.queue.drainKind('read');
    await runtime.queue.drainKind('rest');
    await until(async () => (await begun(id)) === 1);
    r.calm();
    await rules(false);
    const other = r.card({});
    makeClip(r.reader(other, 'T0002.MP4'), { frames: 34 });
    await r.copy(other, { shelf: true });
    expect(await begun(other)).toBe(0);
    await rules(true);
    await until(async () => (await begun(other)) === 1);
  } finally {
    await keeper.end();
  }
});
