import { createHash, randomBytes } from 'node:crypto';
import { existsSync, mkdirSync, mkdtempSync, realpathSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { setTimeout as wait } from 'node:timers/promises';
import { hashTree } from '../src/server/testing/media';
import { forkWorker } from './workers/fork';
import type { Said } from './workers/places';

// A server that moves a place from folder to folder, on its volume and to another one, is killed (SIGKILL) at random moments and started
// again. After each kill all files of the place are whole in one of the folders; when a move has ended they are where the place is, and no
// others.

const kills = Number(process.argv[2] ?? 100);
const CLIPS = 40;
const home = realpathSync(mkdtempSync(path.join(tmpdir(), 'shelf-soak-')));
// Memory is another volume, where a system has some.
const elsewhere = realpathSync(
  mkdtempSync(path.join(existsSync('/dev/shm') ? '/dev/shm' : tmpdir(), 'shelf-soak-')),
);
const folders = [path.join(home, 'one'), path.join(home, 'two'), path.join(elsewhere, 'three')];
mkdirSync(path.join(home, 'home'));
for (const folder of folders) mkdirSync(folder);
let at = folders[0]!;
const hashes = new Map<string, string>();
const write = (name: string, bytes: Buffer): void => {
  const file = path.join('Card', name);
  mkdirSync(path.join(at, 'Card'), { recursive: true });
  writeFileSync(path.join(at, file), bytes);
  hashes.set(file, createHash('sha256').update(bytes).digest('hex'));
};
for (let i = 1; i <= CLIPS; i++) {
  // Large files alone and small ones together go different ways.
  const bytes = randomBytes(i % 4 === 0 ? 9_300_000 + i : 19_000 * i);
  bytes.write('\0\0\0\x08ftyp', 0, 'latin1');
  write(`T${String(i).padStart(4, '0')}.MP4`, bytes);
}

const tally = { kills: 0, moves: 0, wrong: 0 };
const wrong = (what: string): void => {
  tally.wrong++;
  console.error(what);
};
const isWhole = (folder: string): boolean => {
  const there = existsSync(folder) ? hashTree(folder) : {};
  return [...hashes].every(([file, hash]) => there[file] === hash);
};

/** Looks at what a finished move left, and empties the folder that it left behind. */
function finished(told: Said, to: string): void {
  if (told.fault !== null || told.at !== to) wrong(`not moved to ${to}: ${JSON.stringify(told)}`);
  else if (!isWhole(to)) wrong(`not all is in ${to}`);
  else if (Object.keys(hashTree(to)).length > hashes.size) wrong(`more files than there were are in ${to}`);
  if (told.paths.length < CLIPS || told.paths.some((p) => !existsSync(path.join(told.at, p))))
    wrong(`a file that is known is not in ${told.at}`);
  at = told.at;
  for (const folder of folders) {
    if (folder === at) continue;
    rmSync(folder, { recursive: true, force: true });
    mkdirSync(folder);
  }
}

let to = folders[1]!;
// A slow machine may have ended no move between the kills: the last one is left alone until it has.
while (tally.kills < kills || tally.moves === 0) {
  const worker = await forkWorker<Said>('places', [home, folders[0]!, to]);
  await worker.ready;
  const itEnds = worker.ended.then(() => true);
  const ended =
    tally.kills === kills ? await itEnds : await Promise.race([itEnds, wait(Math.random() * 900, false)]);
  if (ended) {
    if (!worker.told) {
      wrong(`the worker ended by itself with ${await worker.ended}`);
      break;
    }
    finished(worker.told, to);
    tally.moves++;
    const others = folders.filter((f) => f !== at);
    to = others[Math.floor(Math.random() * others.length)]!;
    write(`NOTE${tally.moves}.TXT`, randomBytes(3000));
    continue;
  }
  worker.kill();
  await worker.ended;
  tally.kills++;
  if (!folders.some(isWhole)) wrong(`after kill ${tally.kills} no folder has all of it`);
  if (tally.kills % 10 === 0) console.log(`${tally.kills} of ${kills} kills`);
}
for (const folder of [home, elsewhere]) rmSync(folder, { recursive: true, force: true });
console.log(`${tally.kills} kills, ${tally.moves} moves finished`);
console.log(`figure places.kills ${tally.kills} floor ${kills}`);
console.log(`figure places.moves ${tally.moves} floor 1`);
console.log(`figure places.wrong_or_lost ${tally.wrong} bound 0`);
process.exit(tally.wrong === 0 ? 0 : 1);
