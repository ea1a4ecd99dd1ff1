import { afterAll, afterEach, beforeAll, describe, expect, test } from '@jest/globals';
import { eq, inArray } from 'drizzle-orm';
import {
  copyFileSync,
  existsSync,
  mkdtempSync,
  readdirSync,
  renameSync,
  rmSync,
  statSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { look } from '../intake/look';
import { scanClips } from '../intake/scanClips';
import { takeIn } from '../intake/takeIn';
import { beginJob } from '../jobs/jobs';
import { addRoot } from '../places';
import { work } from '../platform/work/tables';
import { comparedInWords } from '../../core/proxies';
import { provePairs, provePairsOf } from '../proxies';
import { pairs } from '../proxies/tables';
import { watchPairs } from '../proxies/watchPairs';
import { makeClip, put, TEST_JOB, type TestShelf, testShelf } from '../testing/media';
import { mayMount, RealMounts } from '../testing/realMounts';
import { LIGHT } from '../../core/proxies/recipe';
import { addWork } from './addWork';
import { cards, clips, files } from './tables';

// Drives and cards that go away while something is done for the clips on them.

let s: TestShelf;
let dir: string;
const drives = new RealMounts();
let number = 0;
const programs = { FFMPEG_PATH: process.env.FFMPEG_PATH, FFPROBE_PATH: process.env.FFPROBE_PATH };

beforeAll(async () => {
  s = await testShelf();
  await beginJob(s.runtime, { name: 'Slack Water', code: 'SLW', zoneMinutes: 0 }, TEST_JOB);
  dir = mkdtempSync(path.join(tmpdir(), 'shelf-away-'));
});
afterEach(async () => {
  ownPrograms();
  await s.runtime.db.delete(work);
});
afterAll(async () => {
  await s.close();
  drives.end();
  rmSync(dir, { recursive: true, force: true });
});

async function until(what: () => Promise<boolean>): Promise<void> {
  for (let i = 0; i < 1500; i++) {
    if (await what()) return;
    await new Promise((r) => setTimeout(r, 20));
  }
  throw new Error(`it did not come to that: ${(await standing()).join(', ')}`);
}
let works = false;
/** Has the queue work, from now on. */
async function go(): Promise<void> {
  if (!works) await s.runtime.queue.start();
  works = true;
}
const ownPrograms = (): void => {
  for (const [name, was] of Object.entries(programs))
    if (was === undefined) delete process.env[name];
    else process.env[name] = was;
};
const standing = async () =>
  (await s.runtime.db.select().from(work).orderBy(work.queuedAt)).map(
    (w) => `${w.kind} ${w.state}${w.fault === null ? '' : `: ${w.fault}`}`,
  );
const still = async (): Promise<boolean> => (await standing()).every((w) => !/queued|running/.test(w));
const idsOf = async (card: string): Promise<string[]> =>
  (await s.runtime.db.select({ id: clips.id }).from(clips).where(eq(clips.card, card))).map((c) => c.id);
const statesOf = async (card: string) =>
  (await s.runtime.db.select().from(clips).where(eq(clips.card, card))).map((c) => [c.state, c.fault]);

/** Takes in a folder with clips, which are read where the queue works. Returns their card. */
async function begin(at: string, some: number, kind: 'source' | 'shelf' = 'source'): Promise<string> {
  const card = `B00${++number}`;
  for (let i = 1; i <= some; i++)
    makeClip(path.join(at, 'In', `T000${i}.MP4`), { frames: 20 + i, audio: [] });
  const root = await addRoot(s.runtime, { kind, path: at });
  const [found] = (await look(s.runtime, root.id, 'In')).cards;
  await takeIn(s.runtime, {
    root: root.id,
    path: 'In',
    cards: [{ folder: found!.folder, camera: 'B', cardId: card, day: 1, date: null }],
  });
  return card;
}

(mayMount ? describe : describe.skip)('a drive that is pulled', () => {
  test('before its clips are read: none of them is called unreadable, and all are read once it is back', async () => {
    const image = drives.image('first', 'FIRST');
    const at = drives.mount('drive 1', image);
    const card = await begin(at, 3);
    // The empty folder that it was mounted at stays.
    drives.unmount(at);
    await go();
    await until(still);
    expect(await statesOf(card)).toEqual(Array(3).fill(['waiting', null]));
    expect(await standing()).toEqual(Array(3).fill('read waiting: “drive 1” is offline.'));
    drives.mount('drive 1', image);
    await until(async () => (await statesOf(card)).every(([state]) => state === 'read'));
    await until(still);
    expect(new Set((await standing()).map((w) => w.split(' ')[1]))).toEqual(new Set(['done']));
  });

  test('while a proxy is made: it waits, nothing half made stays, and it is made once the drive is back', async () => {
    const image = drives.image('second', 'SECOND');
    const at = drives.mount('drive 2', image);
    await go();
    const card = await begin(at, 2);
    await until(still);
    await s.runtime.db.delete(work);
    const [begun, gone] = ['begun', 'gone'].map((f) => path.join(dir, f)) as [string, string];
    const stub = `#!/bin/sh
case "$*" in *progress*) ;; *) exec '${programs.FFMPEG_PATH ?? 'ffmpeg'}' "$@";; esac
echo frame=5
touch '${begun}'
until [ -e '${gone}' ]; do sleep 0.05; done
echo 'Input/output error' >&2
exit 1
`;
    process.env.FFMPEG_PATH = path.join(dir, 'pulled');
    writeFileSync(process.env.FFMPEG_PATH, stub, { mode: 0o755 });
    await s.runtime.queue.add('proxy', await idsOf(card));
    await until(() => Promise.resolve(existsSync(begun)));
    drives.unmount(at);
    writeFileSync(gone, '');
    await until(still);
    expect(await standing()).toEqual(Array(2).fill('proxy waiting: “drive 2” is offline.'));
    ownPrograms();
    drives.mount('drive 2', image);
    await until(async () => (await standing()).every((w) => w.endsWith(' done')));
    const made = await s.runtime.db
      .select()
      .from(pairs)
      .where(inArray(pairs.clip, await idsOf(card)));
    expect(made.map((p) => p.state)).toEqual(['proven', 'proven']);
  });

  test('before a proxy is made beside the original: nothing is made in the folder it was mounted at', async () => {
    await go();
    const image = drives.image('beside', 'BESIDE');
    const at = drives.mount('drive of the shelf', image);
    const card = await begin(at, 1, 'shelf');
    await until(still);
    await s.runtime.db.delete(work);
    const [clip] = (await idsOf(card)) as [string];
    // As if it had been named.
    await s.runtime.db.update(files).set({ takenPath: 'Card/T0001.MP4' }).where(eq(files.clip, clip));
    drives.unmount(at);
    await addWork(s.runtime, 'proxy', [clip], { recipe: { ...LIGHT, place: { at: 'beside' } } });
    await until(still);
    expect(await standing()).toEqual(['proxy waiting: “drive of the shelf” is offline.']);
    expect(readdirSync(at)).toEqual([]);
    drives.mount('drive of the shelf', image);
    await until(async () => (await standing()).every((w) => w.endsWith(' done')));
    expect(readdirSync(path.join(at, 'In')).length).toBe(2);
  });

  test('while changes are looked for: nothing is missing on it', async () => {
    const image = drives.image('scanned', 'SCANNED');
    const at = drives.mount('drive that is looked at', image);
    const card = await begin(at, 2);
    await go();
    await until(still);
    const { devices } = s.runtime;
    // It is there when the look begins.
    const { mountOf } = devices;
    devices.mountOf = (of) => {
      const mount = mountOf.call(devices, of);
      if (of === at && existsSync(path.join(at, 'In'))) drives.unmount(at);
      return mount;
    };
    const scanned = await scanClips(s.runtime, card);
    devices.mountOf = mountOf;
    expect(existsSync(path.join(at, 'In'))).toBe(false);
    expect(scanned).toMatchObject({
      ...{ same: 0, again: 0, missing: [], unseen: 2, offline: ['drive that is looked at'] },
    });
    drives.mount('drive that is looked at', image);
    expect(await scanClips(s.runtime, card)).toMatchObject({ same: 2, missing: [], unseen: 0 });
  });

  test('its pairs are neither called lost nor said not to match, also where it goes in the middle of a proof', async () => {
    await go();
    const image = drives.image('third', 'THIRD');
    const at = drives.mount('drive 3', image);
    const card = await begin(at, 1);
    await until(still);
    const [clip] = (await idsOf(card)) as [string];
    const [row] = await s.runtime.db.select().from(files).where(eq(files.clip, clip));
    copyFileSync(path.join(at, row!.path), path.join(at, 'In', 'T0001_px.MP4'));
    const { size, mtimeMs } = statSync(path.join(at, 'In', 'T0001_px.MP4'));
    const proxy = {
      role: 'cameraProxy' as const,
      suffix: '_px',
      path: 'In/T0001_px.MP4',
      size,
      modified: Math.round(mtimeMs),
    };
    await s.runtime.db.insert(files).values({ ...row!, ...proxy, id: 'proxy', takenPath: null });
    const pair = async () =>
      (await s.runtime.db.select().from(pairs).where(eq(pairs.clip, clip))).map((p) => p.state);

    const left = { compared: false, offline: { why: '“drive 3” is offline.', ofClip: true } };
    // Never compared yet: it is not, and the clip waits to be.
    drives.unmount(at);
    expect(await provePairsOf(s.runtime, clip)).toEqual(left);
    expect(await pair()).toEqual([]);
    drives.mount('drive 3', image);
    await s.runtime.queue.add('read', [clip]);
    await until(still);
    expect(await pair()).toEqual(['proven']);

    drives.unmount(at);
    expect(await watchPairs(s.runtime)).toEqual({ lost: 0, found: 0, changed: 0 });
    const compared = await provePairs(s.runtime, [clip]);
    expect(comparedInWords(compared)).toBe('0 clips compared. 1 clip left as before: “drive 3” is offline.');
    expect(await scanClips(s.runtime, card)).toMatchObject({
      again: 0,
      missing: [],
      unseen: 1,
      offline: ['drive 3'],
    });
    expect(await pair()).toEqual(['proven']);

    drives.mount('drive 3', image);
    const [begun, gone] = ['begun 3', 'gone 3'].map((f) => path.join(dir, f)) as [string, string];
    process.env.FFPROBE_PATH = path.join(dir, 'pulled probe');
    const stub = `touch '${begun}'\nuntil [ -e '${gone}' ]; do sleep 0.05; done\necho 'Input/output error' >&2\nexit 1\n`;
    writeFileSync(process.env.FFPROBE_PATH, `#!/bin/sh\n${stub}`, { mode: 0o755 });
    const proving = provePairsOf(s.runtime, clip);
    await until(() => Promise.resolve(existsSync(begun)));
    drives.unmount(at);
    writeFileSync(gone, '');
    expect(await proving).toEqual(left);
    expect(await pair()).toEqual(['proven']);
  });
});

test('a clip that stands on its card only waits for that card, not for another in the same reader', async () => {
  const at = path.join(s.dir, 'reader');
  await go();
  const card = await begin(at, 1);
  await until(still);
  await s.runtime.db.delete(work);
  const [clip] = await idsOf(card);
  const [row] = await s.runtime.db.select({ physical: cards.physical }).from(cards).where(eq(cards.id, card));
  await s.runtime.db
    .update(files)
    .set({ onCard: row!.physical ?? 'it' })
    .where(eq(files.clip, clip!));
  const [file, other] = ['T0001.MP4', 'away.MP4'].map((f) => path.join(at, 'In', f)) as [string, string];
  renameSync(file, other);
  put(file, Buffer.alloc(500));
  await s.runtime.queue.add('read', [clip!]);
  await until(still);
  expect(await statesOf(card)).toEqual([['read', null]]);
  expect(await standing()).toEqual([`read waiting: Card ${card} is not in “reader”.`]);
  renameSync(other, file);
  await until(async () => (await standing())[0] === 'read done');
});

test('a clip that is damaged is not waited for: its drive is there', async () => {
  const at = path.join(s.dir, 'there');
  await go();
  const card = await begin(at, 1);
  await until(still);
  put(path.join(at, 'In', 'T0001.MP4'), Buffer.alloc(500));
  await s.runtime.queue.add('read', await idsOf(card));
  await until(still);
  expect((await statesOf(card))[0]![0]).toBe('unreadable');
});
