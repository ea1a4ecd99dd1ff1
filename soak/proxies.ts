import { execFileSync, spawnSync } from 'node:child_process';
import { existsSync, lstatSync, mkdirSync, mkdtempSync, readdirSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { makeClip } from '../src/server/testing/media';
import { forkWorker } from './workers/fork';

// Proxies, long: every recipe that is always there of every camera's clip (`recipes.test.ts`; left out of a short run, which the unit
// tests have), and a server that makes proxies and rewraps which is killed (SIGKILL) at random moments and started again: nothing half-made
// may be under a final name. The first argument is how many kills.

const kills = Number(process.argv[2] ?? 100);
const FRAMES = 60;
let proven = true;
if (kills >= 100) {
  const args = ['--experimental-vm-modules', 'node_modules/jest/bin/jest.js', 'src/demo/standIns/recipes'];
  const env = { ...process.env, SORT_SHELF_RECIPES: 'all' };
  proven = spawnSync(process.execPath, args, { stdio: ['ignore', 'inherit', 'inherit'], env }).status === 0;
}

const home = mkdtempSync(path.join(tmpdir(), 'shelf-kill-'));
const proxies = path.join(home, 'proxies');
mkdirSync(path.join(home, 'shelf', 'Card'), { recursive: true });
const size = '1280x720';
for (const n of ['1', '2', '3', '4'])
  makeClip(path.join(home, 'shelf', 'Card', `T000${n}.MP4`), { frames: FRAMES, size });

/** Every file below, but what is Sort Shelf's own, by its path. */
function filesIn(folder: string, at = ''): string[] {
  if (!existsSync(folder)) return [];
  return readdirSync(path.join(folder, at), { withFileTypes: true }).flatMap((e) => {
    const p = path.join(at, e.name);
    return e.name === '.sort-shelf' ? [] : e.isDirectory() ? filesIn(folder, p) : [p];
  });
}

/** Whether a file decodes to all its frames, as ffprobe counts them. */
const isWhole = (file: string): boolean => {
  const args = [
    '-v',
    'error',
    '-count_frames',
    '-select_streams',
    'v:0',
    '-show_entries',
    'stream=nb_read_frames',
  ];
  try {
    const said = execFileSync('ffprobe', [...args, '-of', 'csv=p=0', file], {
      encoding: 'utf8',
      stdio: 'pipe',
    });
    return Number.parseInt(said, 10) === FRAMES;
  } catch {
    return false;
  }
};

interface Told {
  made: { path: string; size: number }[];
}
const work = (...args: string[]) => forkWorker<Told>('proxies', [home, ...args]);

let [halfMade, lost, sawFiles] = [0, 0, 0];
for (let round = 1; round <= kills; round++) {
  const run = await work();
  await run.ready;
  // What the database knew of when it was started stands there as it was made.
  for (const f of run.told!.made) {
    const at = path.join(proxies, f.path);
    if (existsSync(at) && lstatSync(at).size !== f.size) lost++;
  }
  await new Promise((r) => setTimeout(r, Math.random() * 4000));
  run.kill();
  await run.ended;
  for (const p of filesIn(proxies)) {
    sawFiles++;
    if (!isWhole(path.join(proxies, p))) {
      halfMade++;
      console.error(`round ${round}: ${p} is half-made`);
    }
  }
  if (round % 10 === 0) console.log(`${round} of ${kills} kills`);
}
const last = await work('rest');
const code = await last.ended;
const known = (last.told?.made ?? []).map((f) => f.path).sort();
const there = filesIn(proxies).sort();
const left = existsSync(path.join(proxies, '.sort-shelf', 'making'))
  ? readdirSync(path.join(proxies, '.sort-shelf', 'making')).length
  : 0;
rmSync(home, { recursive: true, force: true });
console.log(`${sawFiles} named files were looked at after kills`);
console.log(`figure proxies.kills ${kills} floor ${kills}`);
console.log(`figure proxies.half_made_under_a_name ${halfMade} bound 0`);
console.log(`figure proxies.changed_after_they_were_made ${lost} bound 0`);
console.log(`figure proxies.not_made_in_the_end ${8 - known.length} bound 0`);
console.log(
  `figure proxies.unknown_or_left_over ${left + there.filter((p) => !known.includes(p)).length} bound 0`,
);
process.exit(proven && code === 0 && halfMade + lost + left === 0 && known.length === 8 ? 0 : 1);
