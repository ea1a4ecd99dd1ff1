import { randomBytes } from 'node:crypto';
import {
  mkdirSync,
  mkdtempSync,
  readFileSync,
  realpathSync,
  renameSync,
  rmSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { and, eq } from 'drizzle-orm';
import { clips, files } from '../src/server/cards/tables';
import { firstLook, glance, look, stripOf, takeIn } from '../src/server/intake';
import { beginJob } from '../src/server/jobs/jobs';
import { addRoot } from '../src/server/places';
import { type InJob, openRuntime } from '../src/server/runtime';
import { makeClip, TEST_JOB, withWords } from '../src/server/testing/media';
import { RealMounts } from '../src/server/testing/realMounts';
import { dropWatch, watchFolder } from '../src/server/watch';

// How soon a file that is whole is in the job, by how many files are watched; what watching costs while nothing happens; a thousand files
// dropped at once, against taking their folder in; and how soon a card that is plugged in is noticed, and the first picture of a large one is there, by the names on it: what its files say follows. Everything on the disk of the
// temporary folder. `BENCH_FILES` is the large number of files.

const MANY = Number(process.env.BENCH_FILES ?? 100_000);
const IDLE_SECONDS = 130;
const DROPPED = 1000;
const CARD = 2000;

const home = realpathSync(mkdtempSync(path.join(tmpdir(), 'shelf-bench-watch-')));
const source = readFileSync(makeClip(path.join(home, 'source.mp4'), { frames: 5, audio: [], size: '64x36' }));
let made = 0;
function clipAt(file: string): void {
  const words = Buffer.concat([randomBytes(16), Buffer.from(String(++made).padStart(8, '0'))]);
  mkdirSync(path.dirname(file), { recursive: true });
  writeFileSync(file, withWords(source, words));
}
const seconds = (since: number): number => (performance.now() - since) / 1000;
const pause = (ms: number) => new Promise((r) => setTimeout(r, ms));

const base = await openRuntime({ home: path.join(home, 'home') });
await beginJob(base, { name: 'Slack Water', code: 'SLW', zoneMinutes: 0 }, TEST_JOB);
const runtime: InJob = base.inJob(TEST_JOB);

/** A place with `n` files that are no footage, two hundred to a folder. */
async function placeOf(name: string, n: number): Promise<{ at: string; root: string }> {
  const at = path.join(home, name);
  mkdirSync(at);
  for (let i = 0; i < n; i++) {
    const folder = path.join(at, `Notes ${Math.floor(i / 200)}`);
    if (i % 200 === 0) mkdirSync(folder);
    writeFileSync(path.join(folder, `note ${i}.txt`), 'x');
  }
  return { at, root: (await addRoot(runtime, { kind: 'source', path: at })).id };
}
/** Waits until a watched folder was looked at and nothing in it moves. */
async function settled(id: string): Promise<void> {
  for (;;) {
    const eyes = runtime.watching.state(id)?.eyes;
    if (eyes?.looked && eyes.moving === 0) return;
    await pause(50);
  }
}
const isIn = async (root: string, p: string): Promise<boolean> =>
  (await runtime.db.$count(files, and(eq(files.root, root), eq(files.path, p)))) > 0;
const allRead = async (n: number): Promise<boolean> =>
  (await runtime.db.$count(clips, eq(clips.state, 'read'))) >= n;

/** Seconds from the moment a whole file is there until it is in the job: the slowest of three. */
async function latency({ at, root }: { at: string; root: string }): Promise<number> {
  let slowest = 0;
  for (let n = 0; n < 3; n++) {
    clipAt(path.join(home, 'next.mp4'));
    const begun = performance.now();
    renameSync(path.join(home, 'next.mp4'), path.join(at, `clip ${n}.mp4`));
    while (!(await isIn(root, `clip ${n}.mp4`))) await pause(20);
    slowest = Math.max(slowest, seconds(begun));
    await pause(4000);
  }
  return slowest;
}

/** Seconds from the moment a card is mounted until the server has noticed it by itself and says what it looks like: the slowest of five. */
async function appears(): Promise<number> {
  const drives = new RealMounts();
  let slowest = 0;
  try {
    for (let n = 0; n < 5; n++) {
      const name = `CARD_${n}`;
      const image = drives.image(name, name);
      const filled = path.join(drives.mount('filled', image), 'DCIM', '100WHIMB');
      mkdirSync(filled, { recursive: true });
      for (let i = 1; i <= 200; i++) writeFileSync(path.join(filled, `WHIM0${i + 100}.MP4`), 'x');
      drives.unmount(drives.at('filled'));
      await pause(2500);
      const begun = performance.now();
      const at = drives.mount(name, image);
      while (!base.volumes.changed?.came.includes(name)) await pause(20);
      const seen = await glance(runtime, at);
      if (seen.clips !== 200) throw new Error(`not seen for what it is: ${JSON.stringify(seen)}`);
      slowest = Math.max(slowest, seconds(begun));
    }
  } finally {
    drives.end();
  }
  return slowest;
}

const appeared = await appears();
console.log(`a card: noticed, and said what it looks like, ${appeared.toFixed(2)} s after it was mounted`);

const few = await placeOf('Few', 10);
const watchedFew = await watchFolder(runtime, { root: few.root, path: '' });
await settled(watchedFew.id);
const soonFew = await latency(few);
console.log(`10 files watched: in the job after ${soonFew.toFixed(2)} s`);
await dropWatch(runtime, watchedFew.id);

const many = await placeOf('Many', MANY);
globalThis.gc?.();
const before = process.memoryUsage().rss;
const watchedMany = await watchFolder(runtime, { root: many.root, path: '' });
await settled(watchedMany.id);
await pause(5000);
const cpu = process.cpuUsage();
const idleSince = performance.now();
let most = 0;
while (seconds(idleSince) < IDLE_SECONDS) {
  most = Math.max(most, process.memoryUsage().rss - before);
  await pause(500);
}
const used = process.cpuUsage(cpu);
const share = ((used.user + used.system) / 1e6 / seconds(idleSince)) * 100;
console.log(
  `${MANY} files watched, nothing happens: ${share.toFixed(1)} % of a core, ${Math.round(most / 1e6)} MB more`,
);
const soonMany = await latency(many);
console.log(`${MANY} files watched: in the job after ${soonMany.toFixed(2)} s`);
await dropWatch(runtime, watchedMany.id);

/** Seconds until a thousand clips are taken in and read: dropped into a watched folder at once, or by hand. */
async function thousand(name: string): Promise<{ at: string; prepared: string; root: string }> {
  const prepared = path.join(home, `${name} prepared`);
  for (let i = 0; i < DROPPED; i++) clipAt(path.join(prepared, `c${String(i).padStart(4, '0')}.mp4`));
  const at = path.join(home, name);
  mkdirSync(at);
  return { at, prepared, root: (await addRoot(runtime, { kind: 'source', path: at })).id };
}
const byHand = await thousand('By hand');
let there = await runtime.db.$count(clips);
renameSync(byHand.prepared, path.join(byHand.at, 'Drop'));
let begun = performance.now();
const { cards } = await look(runtime, byHand.root, 'Drop');
await takeIn(runtime, {
  root: byHand.root,
  path: 'Drop',
  cards: [{ folder: cards[0]!.folder, camera: 'H', cardId: 'H001', day: 1, date: null }],
});
while (!(await allRead(there + DROPPED))) await pause(50);
const hand = seconds(begun);
const dropped = await thousand('Dropped');
const watchedDrop = await watchFolder(runtime, { root: dropped.root, path: '' });
await settled(watchedDrop.id);
there = await runtime.db.$count(clips);
begun = performance.now();
renameSync(dropped.prepared, path.join(dropped.at, 'Drop'));
while (!(await allRead(there + DROPPED))) await pause(50);
const drop = seconds(begun);
await dropWatch(runtime, watchedDrop.id);
console.log(
  `${DROPPED} files: by hand ${hand.toFixed(1)} s, dropped ${drop.toFixed(1)} s, each until all are read`,
);

const card = path.join(home, 'Card');
for (let i = 0; i < CARD; i++)
  clipAt(path.join(card, 'DCIM', '100WHIMB', `WHIM${String(i + 1).padStart(4, '0')}.MP4`));
const { id: cardRoot } = await addRoot(runtime, { kind: 'source', path: card });
begun = performance.now();
const looked = await firstLook(runtime, cardRoot, '');
const [first] = looked.cards[0]!.clips;
await stripOf(runtime, {
  root: cardRoot,
  path: `${looked.cards[0]!.folder}/${first!.path}`.replace(/^\//, ''),
});
const picture = seconds(begun);
console.log(
  `a card of ${CARD} clips: recognised by its names and its first picture made in ${picture.toFixed(2)} s`,
);

await base.close();
rmSync(home, { recursive: true, force: true });
console.log(`figure watch.card_appears_s ${appeared.toFixed(2)} bound 2`);
console.log(`figure watch.in_job_s_10 ${soonFew.toFixed(2)} bound 3`);
console.log(`figure watch.in_job_s_many ${soonMany.toFixed(2)} bound 3`);
console.log(`figure watch.idle_percent_of_a_core ${share.toFixed(1)} bound 2`);
console.log(`figure watch.idle_megabytes ${Math.round(most / 1e6)} bound 100`);
console.log(`figure watch.dropped_ratio ${(drop / hand).toFixed(2)} bound 1.2`);
console.log(`figure watch.first_picture_s ${picture.toFixed(2)} bound 2`);
