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
import { randomFrom } from '../src/core/platform/random';
import { hiddenName } from '../src/server/platform/files/partName';
import { forkWorker } from './workers/fork';
import type { Said } from './workers/offload';

// A server copies a card to two drives while one call to the system fails, by strace's fault injection: a read, a write, a flush, a new name;
// or a drive says that it has written what it has not. Whatever fails, every file under a final name is whole and the card's, byte by byte,
// and the answer is yes only where both copies are. Tried again, the copy is finished.

const failures = Number(process.argv[2] ?? 200);
const seed = Number(process.argv[3] ?? 1);
/** The first copy, where one is to be looked at once more. */
const first = Number(process.argv[4] ?? 0);
const home = realpathSync(mkdtempSync(path.join(tmpdir(), 'shelf-soak-')));
process.env.SORT_SHELF_HOME = path.join(home, 'home');
const at = (...p: string[]) => path.join(home, 'stand-ins', ...p);
const card = at('readers/Reader 1/CARD');
const DRIVES = ['North', 'South'];
mkdirSync(path.join(card, 'CLIP'), { recursive: true });
const sizes = new Map<string, number>();
for (let i = 1; i <= 12; i++) {
  // Large files alone and small ones together go different ways.
  const bytes = randomBytes(i % 4 === 0 ? 9_300_000 + i : 9_000 * i);
  bytes.write('\0\0\0\x08ftyp', 0, 'latin1');
  const name = `T${String(i).padStart(4, '0')}.MP4`;
  writeFileSync(path.join(card, 'CLIP', name), bytes);
  sizes.set(name, bytes.length);
}
const freshDrives = (): void => {
  for (const d of DRIVES) {
    rmSync(at('drives', d), { recursive: true, force: true });
    mkdirSync(at('drives', d), { recursive: true });
  }
};
freshDrives();

const tally = { failed: 0, told: 0, wrong: 0 };
const wrong = (what: string): void => {
  tally.wrong++;
  console.error(what);
};
type Random = () => number;
const pick = <T>(random: Random, list: readonly T[]): T => list[Math.floor(random() * list.length)]!;

/** What strace is told: which call fails, how, which of each thread's calls, and of which paths. */
function faultOf(random: Random): string[] {
  const name = pick(random, [...sizes.keys()]);
  const drive = pick(random, DRIVES);
  const folder = at('drives', drive, 'B001', 'CLIP');
  const final = path.join(folder, name);
  const written = [hiddenName(final, 'part'), hiddenName(final, 'claim'), final];
  const lists = path.join(path.dirname(folder), 'ascmhl');
  const around = [folder, path.dirname(folder), lists, path.join(lists, 'ascmhl_chain.xml')];
  const [calls, errors, paths] = pick(random, [
    ['read,pread64', ['EIO', 'ENODEV'], [path.join(card, 'CLIP', name)]],
    ['openat', ['EIO', 'EMFILE', 'ENOENT'], [path.join(card, 'CLIP', name)]],
    ['statx', ['EIO', 'ENOENT'], [path.join(card, 'CLIP', name)]],
    ['write,pwrite64,writev,pwritev', ['EIO', 'ENOSPC', 'EDQUOT'], written],
    ['read,pread64', ['EIO'], written],
    ['openat', ['EIO', 'EMFILE', 'EROFS', 'EACCES'], written],
    ['statx', ['EIO', 'EACCES'], written],
    ['fsync,fdatasync', ['EIO', 'ENOSPC'], [...written, ...around]],
    ['utimensat', ['EPERM', 'EIO'], written],
    ['link,linkat', ['EIO', 'EPERM', 'EMLINK'], written],
    ['rename,renameat,renameat2', ['EIO', 'EACCES'], [...written, ...around]],
    ['unlink,unlinkat', ['EIO', 'EPERM'], written],
    ['mkdir,mkdirat', ['EIO', 'ENOSPC'], around],
    ['openat', ['EIO', 'EACCES'], around],
    // A drive that lies: it has written all, it has flushed.
    ['write,pwrite64', [sizes.get(name)!, 1 << 20, 4096], written],
    ['link,linkat', [0], written],
    ['rename,renameat,renameat2', [0], written],
    ['fsync,fdatasync', [0], written],
  ] as [string, (string | number)[], string[]][]);
  const answer = pick(random, errors);
  const how = typeof answer === 'number' ? `retval=${answer}` : `error=${answer}`;
  const when = pick(random, ['1', '1', '2', '3', '1+']);
  return [
    ...['-e', `trace=${calls}`, '-e', `inject=${calls}:${how}:when=${when}`],
    ...paths.flatMap((p) => ['-P', p]),
  ];
}

/** Looks at every file under a final name. Returns whether all of the card is on both drives: what it is copied again for is in a folder beside the first. */
function look(what: string): boolean {
  return DRIVES.every((d) => {
    const whole = new Set<string>();
    for (const copy of readdirSync(at('drives', d)).filter((n) => n.startsWith('B001'))) {
      const folder = at('drives', d, copy, 'CLIP');
      for (const name of existsSync(folder) ? readdirSync(folder) : []) {
        // A temporary name that could not be removed is no part of the copy.
        if (/^\..+\.(?:part|claim)$/.test(name)) continue;
        const file = path.join(folder, name);
        if (!sizes.has(name)) wrong(`${what}: ${name} is in the copy on ${d}`);
        else if (readFileSync(file).equals(readFileSync(path.join(card, 'CLIP', name)))) whole.add(name);
        else wrong(`${what}: ${name} on ${d} is not the card's`);
      }
    }
    return whole.size === sizes.size;
  });
}
async function run(under: string[], ...how: 'anew'[]): Promise<Said['done'][number] | undefined> {
  const worker = await forkWorker<Said>('offload', [home, ...how], { SORT_SHELF_STAND_INS: at() }, under);
  await worker.ready;
  await worker.ended;
  return worker.told?.done[0];
}

let n = first;
// Not every fault is met: a call may never be made, or not so often.
for (; tally.failed < failures && n < first + 4 * failures; n++) {
  const fault = faultOf(randomFrom(seed * 100_000 + n));
  const what = `copy ${n}, ${fault.filter((a) => a.startsWith('inject') || a.startsWith('/')).join(' ')}`;
  const log = path.join(home, 'trace');
  let said = await run(['strace', '-f', '--seccomp-bpf', '-qq', '-o', log, ...fault]);
  if (readFileSync(log, 'utf8').includes('(INJECTED)')) tally.failed++;
  let isWhole = look(what);
  if (said?.state !== 'done') tally.told++;
  if (said?.may && !isWhole) wrong(`${what}: it may be wiped, it says, but not both copies are whole`);
  for (let tries = 0; !(said?.state === 'done' && said.may) && tries < 3; tries++) {
    // A call may have failed while the question was asked: it is asked once more. What could not be looked at on the card is in no copy: that
    // is what the answer says, and the card is copied again.
    said = await (said?.state === 'done' && tries > 0 ? run([], 'anew') : run([]));
    isWhole = look(what);
  }
  if (said?.state !== 'done' || !said.may || !isWhole)
    wrong(`${what}: not finished when tried again: ${isWhole} ${JSON.stringify(said)}`);
  freshDrives();
  if ((n + 1) % 25 === 0) console.log(`${n + 1} copies, in ${tally.failed} of them a call failed`);
}
rmSync(home, { recursive: true, force: true });
console.log(
  `${n - first} copies, in ${tally.failed} of them a call failed; ${tally.told} were not finished at first`,
);
console.log(`figure calls.failed ${tally.failed} floor ${failures}`);
console.log(`figure calls.wrong_or_lost ${tally.wrong} bound 0`);
process.exit(tally.wrong === 0 ? 0 : 1);
