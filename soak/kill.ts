import { createHash, randomBytes } from 'node:crypto';
import { lstatSync, mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { forkWorker } from './workers/fork';

// A server that names and takes back without end is killed (SIGKILL) at random moments and started again. After each kill
// every byte must still be on the disk under some name; at the end every file is where the database says.

const rounds = Number(process.argv[2] ?? 40);
const CLIPS = 30;
const home = mkdtempSync(path.join(tmpdir(), 'shelf-kill-'));
const shelf = path.join(home, 'shelf');
mkdirSync(path.join(shelf, 'Card'), { recursive: true });
for (let i = 1; i <= CLIPS; i++) {
  const stem = `T${String(i).padStart(4, '0')}`;
  writeFileSync(path.join(shelf, 'Card', `${stem}.MP4`), randomBytes(20_000 + i));
  writeFileSync(path.join(shelf, 'Card', `${stem}.XML`), `<clip n="${i}"/>`);
}

/** Hash of every file that holds anything; two names on one file, as a kill between link and unlink leaves, count once. */
function contents(): string[] {
  const seen = new Map<number, string>();
  const walk = (folder: string) => {
    for (const e of readdirSync(folder, { withFileTypes: true })) {
      const p = path.join(folder, e.name);
      if (e.isDirectory()) {
        if (e.name !== '.sort-shelf') walk(p);
        // On a volume without links a kill may leave a name that was only claimed: an empty file, as no file here is.
      } else if (lstatSync(p).size > 0)
        seen.set(lstatSync(p).ino, createHash('sha256').update(readFileSync(p)).digest('hex'));
    }
  };
  walk(shelf);
  return [...seen.values()].sort();
}

const work = (...args: string[]) => forkWorker<{ places: string[] }>('naming', [home, ...args]);

let wrong = 0;
const before = contents();
for (let round = 1; round <= rounds; round++) {
  const run = await work();
  await run.ready;
  await new Promise((r) => setTimeout(r, Math.random() * 1500));
  run.kill();
  await run.ended;
  if (JSON.stringify(contents()) !== JSON.stringify(before)) {
    wrong++;
    console.error(`round ${round}: the shelf does not hold the same files`);
  }
  if (round % 10 === 0) console.log(`${round} of ${rounds} kills`);
}
const last = await work('rest');
const code = await last.ended;
const places = last.told?.places ?? [];
const standing = places.filter((p) => {
  try {
    return lstatSync(path.join(shelf, p)).isFile();
  } catch {
    return false;
  }
}).length;
const whole =
  code === 0 &&
  standing === CLIPS * 2 &&
  JSON.stringify(contents()) === JSON.stringify(before) &&
  places.every((p) => p.startsWith('SLW/'));
const journal = readFileSync(path.join(shelf, '.sort-shelf', 'journal.jsonl'), 'utf8')
  .trim()
  .split('\n').length;
rmSync(home, { recursive: true, force: true });
console.log(`${journal} journal lines`);
console.log(`figure kill.rounds ${rounds} floor ${rounds}`);
console.log(`figure kill.rounds_with_loss ${wrong} bound 0`);
console.log(`figure kill.files_out_of_place ${CLIPS * 2 - standing} bound 0`);
process.exit(wrong === 0 && whole ? 0 : 1);
