import { execFileSync } from 'node:child_process';
import { randomBytes } from 'node:crypto';
import {
  existsSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  realpathSync,
  rmSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { forkWorker } from './workers/fork';
import type { Said } from './workers/offload';

// A server that copies a card to two drives is killed (SIGKILL) at random moments and started again. After each kill every
// file under a final name must be whole and equal to the card's, byte by byte; when a copy is finished, both trees must be
// the card's (diff -r). Two servers at a time, each on a folder of its own.

const kills = Number(process.argv[2] ?? 200);
const LANES = 2;
/** Bytes a second the card gives, so that the kills fall into the copying. */
const SLOW = 12e6;

interface Tally {
  kills: number;
  copies: number;
  wrong: number;
  half: number;
  parts: number;
  resumed: number;
}

async function lane(rounds: number): Promise<Tally> {
  const home = realpathSync(mkdtempSync(path.join(tmpdir(), 'shelf-soak-')));
  const at = (...p: string[]) => path.join(home, 'stand-ins', ...p);
  const card = at('readers/Reader 1/CARD');
  mkdirSync(path.join(card, 'CLIP'), { recursive: true });
  for (const d of ['North', 'South']) mkdirSync(at('drives', d), { recursive: true });
  mkdirSync(at('faults'));
  writeFileSync(at('faults', 'Reader 1.json'), JSON.stringify({ slow: SLOW }));
  for (let i = 1; i <= 40; i++) {
    // Large files alone and small ones together go different ways.
    const bytes = randomBytes(i % 4 === 0 ? 2_300_000 + i : 9_000 * i);
    bytes.write('\0\0\0\x08ftyp', 0, 'latin1');
    writeFileSync(path.join(card, 'CLIP', `T${String(i).padStart(4, '0')}.MP4`), bytes);
  }
  const names = readdirSync(path.join(card, 'CLIP'));
  const tally: Tally = { kills: 0, copies: 0, wrong: 0, half: 0, parts: 0, resumed: 0 };
  const wrong = (what: string): void => {
    tally.wrong++;
    console.error(what);
  };
  const look = (): number => {
    let there = 0;
    for (const d of ['North', 'South']) {
      for (const id of readdirSync(at('drives', d))) {
        const folder = at('drives', d, id, 'CLIP');
        if (!existsSync(folder)) continue;
        for (const name of readdirSync(folder)) {
          // Half written, or on a volume without links a name that is claimed.
          if (/\.(?:part|claim)$/.test(name)) tally.parts++;
          else if (!names.includes(name)) wrong(`${name} stands in the copy on ${d}`);
          else {
            there++;
            const [copy, original] = [
              readFileSync(path.join(folder, name)),
              readFileSync(path.join(card, 'CLIP', name)),
            ];
            // Without links a name that was claimed is an empty file until the copy takes its place.
            if (copy.length === 0 && process.env.SORT_SHELF_REFUSE_LINKS === '1') tally.parts++;
            else if (copy.length !== original.length) tally.half++;
            else if (!copy.equals(original)) wrong(`${name} on ${d} has other bytes`);
          }
        }
      }
    }
    return there;
  };
  while (tally.kills < rounds) {
    const worker = await forkWorker<Said>('offload', [home], { SORT_SHELF_STAND_INS: at() });
    await worker.ready;
    const ended = await Promise.race([
      worker.ended.then(() => true),
      new Promise<false>((r) => setTimeout(() => r(false), Math.random() * 6500)),
    ]);
    if (!ended) {
      worker.kill();
      await worker.ended;
      tally.kills++;
      if (look() > 0) tally.resumed++;
      continue;
    }
    // Finished: everything is there, nothing else is, and the database knows it.
    tally.copies++;
    const last = worker.told?.done[0];
    if (!last || last.state !== 'done' || !last.may)
      wrong(`finished, but ${JSON.stringify(last ?? worker.told)}, code ${await worker.ended}`);
    for (const d of ['North', 'South']) {
      try {
        execFileSync('diff', ['-r', '--exclude=ascmhl', card, at('drives', d, last!.card)]);
      } catch (e) {
        wrong(String((e as { stdout: Buffer }).stdout));
      }
      rmSync(at('drives', d), { recursive: true });
      mkdirSync(at('drives', d));
    }
  }
  rmSync(home, { recursive: true, force: true });
  return tally;
}

const tallies = await Promise.all(
  Array.from({ length: LANES }, (_, i) => lane(Math.ceil((kills - i) / LANES))),
);
const sum = (k: keyof Tally): number => tallies.reduce((n, t) => n + t[k], 0);
console.log(
  `${sum('kills')} kills, ${sum('resumed')} of them with files verified already, ${sum('parts')} parts left by kills and redone, ${sum('copies')} copies finished`,
);
console.log(`figure offload.kills ${sum('kills')} floor ${kills}`);
console.log(`figure offload.half_files_under_final_names ${sum('half')} bound 0`);
console.log(`figure offload.wrong_or_lost_files ${sum('wrong')} bound 0`);
process.exit(sum('wrong') + sum('half') === 0 ? 0 : 1);
