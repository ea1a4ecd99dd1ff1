import { createHash, randomBytes } from 'node:crypto';
import {
  appendFileSync,
  existsSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  rmSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { makeClip, withWords } from '../src/server/testing/media';
import { forkWorker } from './workers/fork';

// Files are dropped into a watched folder, some of them growing for a while, and the server that takes them in and names them is killed
// (SIGKILL) at random moments and started again. In the end every file is in the job once, under its name, and on the disk as it was dropped.
// The first argument is how many kills.

const kills = Number(process.argv[2] ?? 100);
const home = mkdtempSync(path.join(tmpdir(), 'shelf-kill-'));
const shelf = path.join(home, 'shelf');
const into = path.join(shelf, 'In');
mkdirSync(into, { recursive: true });
const source = readFileSync(makeClip(path.join(home, 'source.MP4'), { frames: 8, audio: [] }));

const hashOf = (bytes: Buffer): string => createHash('sha256').update(bytes).digest('hex');
const dropped = new Set<string>();

const pause = (most: number) => new Promise((r) => setTimeout(r, Math.random() * most));

/** Drops a file: at once, or in two parts with some time between. */
async function drop(number: number): Promise<void> {
  const bytes = withWords(source, randomBytes(64 + number));
  dropped.add(hashOf(bytes));
  const folder = path.join(into, ...(number % 3 === 0 ? [] : [`Folder ${number % 3}`]));
  mkdirSync(folder, { recursive: true });
  const file = path.join(folder, `T${String(number).padStart(4, '0')}.MP4`);
  if (number % 2 === 0) return writeFileSync(file, bytes);
  const half = Math.floor(bytes.length / 2);
  writeFileSync(file, bytes.subarray(0, half));
  await pause(900);
  appendFileSync(file, bytes.subarray(half));
}

interface Told {
  originals: string[];
  clips: number;
  marked: number;
  waiting: number;
  /** Clips that were given up after three deaths, and asked for again. */
  asked: number;
}
const work = (...args: string[]) => forkWorker<Told>('watch', [home, ...args]);

for (let round = 1; round <= kills; round++) {
  const run = await work();
  await run.ready;
  const drops = drop(round);
  await pause(3500);
  run.kill();
  await Promise.all([run.ended, drops]);
  if (round % 10 === 0) console.log(`${round} of ${kills} kills`);
}
const last = await work(String(dropped.size));
const code = await last.ended;
const none: Told = { originals: [], clips: 0, marked: 0, waiting: -1, asked: 0 };
const { originals, clips, marked, waiting, asked } = last.told ?? none;
const held = originals.filter((p) => existsSync(path.join(shelf, p)));
const inJob = held.map((p) => hashOf(readFileSync(path.join(shelf, p))));
const onDisk = (readdirSync(shelf, { recursive: true }) as string[]).filter(
  (p) => p.endsWith('.MP4') && !p.split(path.sep).includes('.sort-shelf'),
);
const bytes = onDisk.map((p) => hashOf(readFileSync(path.join(shelf, p))));
const missed = [...dropped].filter((h) => !inJob.includes(h)).length;
const spoilt = [...dropped].filter((h) => bytes.filter((b) => b === h).length !== 1).length;
const twice = clips - new Set(inJob).size;
const unnamed = originals.filter((p) => !p.startsWith('SLW/')).length;
rmSync(home, { recursive: true, force: true });
console.log(
  `${dropped.size} files were dropped; ${clips} clips, ${waiting} steps left; ${asked} given up after three deaths and asked for again`,
);
console.log(`figure watch.kills ${kills} floor ${kills}`);
console.log(`figure watch.missed ${missed} bound 0`);
console.log(`figure watch.taken_in_twice ${twice} bound 0`);
console.log(`figure watch.lost_or_changed_on_disk ${spoilt} bound 0`);
console.log(`figure watch.not_named ${unnamed} bound 0`);
console.log(`figure watch.without_their_keyword ${Math.abs(clips - marked)} bound 0`);
process.exit(code === 0 && missed + twice + spoilt + unnamed === 0 && waiting === 0 ? 0 : 1);
