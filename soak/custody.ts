import { spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import {
  existsSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  realpathSync,
  renameSync,
  rmSync,
  statSync,
  truncateSync,
  utimesSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { randomFrom } from '../src/core/platform/random';
import { copyVerified } from '../src/server/transfer/copyOne';
import { endThreads } from '../src/server/transfer/pool';
import { checkAgain } from '../src/server/custody/checks';
import { wipeView } from '../src/server/custody/wipe';
import { modifiedOf, moveFile } from '../src/server/platform/files/move';
import { forgetCard } from '../src/server/intake/takeIn';
import { saveSettings } from '../src/server/jobs/job';
import { type CopyingShelf, copyingShelf, footage } from '../src/demo/standIns/copyingShelf';

// The answer about safety, long: random histories on real files through the real server, each answer compared with one that reads
// every byte; the pure histories and the power cuts (of footage, and of the database) of the unit tests, many more of them; renames and copies on real exFAT,
// FAT32 and NTFS volumes where the machine can mount them.

const histories = Number(process.argv[2] ?? 60);
const long = histories >= 20;
const say = (line: string): void => console.log(line);

// ---- random histories on real files

const digest = (file: string): string => createHash('sha256').update(readFileSync(file)).digest('hex');
const below = (folder: string): string[] => {
  const entries = existsSync(folder) ? readdirSync(folder, { recursive: true, withFileTypes: true }) : [];
  return entries.filter((e) => e.isFile()).map((e) => path.join(e.parentPath, e.name));
};
const DRIVES = ['North', 'South'];

/** Every file of the card in the reader, on how many connected drives of different disks its very bytes stand. */
function naive(r: CopyingShelf, card: string): { path: string; disks: number }[] {
  const onDrives = DRIVES.map((d) => new Set(below(r.drive(d)).map(digest)));
  return below(r.reader(card)).map((f) => ({
    path: f,
    disks: onDrives.filter((set) => set.has(digest(f))).length,
  }));
}

async function history(
  r: CopyingShelf,
  seed: number,
): Promise<{ asked: number; yes: number; wrong: number }> {
  const random = randomFrom(seed);
  const int = (n: number): number => Math.floor(random() * n);
  const tally = { asked: 0, yes: 0, wrong: 0 };
  const told: string[] = [];
  let filled = 0;
  // One label and one place for every card of this history, and the same file names: only what they are tells them apart.
  const label = `K${String(seed).padStart(4, '0')}`;
  const fill = (): void => {
    rmSync(r.reader(), { recursive: true, force: true });
    filled++;
    for (let n = 1; n <= 1 + int(3); n++) {
      mkdirSync(r.reader(label, 'CLIP'), { recursive: true });
      writeFileSync(
        r.reader(label, 'CLIP', `T000${n}.MP4`),
        footage(`${seed} ${filled} ${n}`, 2000 + 100 * int(2)),
      );
    }
    writeFileSync(r.reader(label, 'INDEX.XML'), `<index n="${filled}"/>`);
  };
  fill();
  let physical: string | null = null;
  for (let turn = 0; turn < 9; turn++) {
    const what = int(12);
    const victims = DRIVES.flatMap((d) =>
      below(r.drive(d)).filter((f) => f.includes(label) && !f.includes('ascmhl')),
    );
    const victim = victims[int(Math.max(1, victims.length))];
    try {
      if (what < 4) {
        const drives = int(3) === 0 ? [DRIVES[int(2)]!] : DRIVES;
        told.push(`copy to ${drives.join(', ')}`);
        const done = await r.copy(label, {
          safe: drives.map((d) => r.roots[d]!),
          verification: int(4) === 0 ? 'sizes' : 'contents',
          ...(int(4) === 0 ? { wholeCard: false, clips: ['CLIP/T0001.MP4'] } : {}),
        });
        physical = done.physical;
      } else if (what === 4 && victim) {
        told.push(`spoil ${victim}`);
        const bytes = readFileSync(victim);
        bytes[bytes.length >> 1]! ^= 1;
        const later = Date.now() / 1000 + 100;
        writeFileSync(victim, bytes);
        utimesSync(victim, later, later);
      } else if (what === 5 && victim) {
        told.push(`remove ${victim}`);
        rmSync(victim);
      } else if (what === 6 && victim) {
        told.push(`empty ${victim}`);
        truncateSync(victim, 0);
      } else if (what === 7) {
        told.push('the card is filled anew');
        if (physical) await forgetCard(r.shelf.runtime, label).catch(() => undefined);
        fill();
        physical = null;
      } else if (what === 8) {
        told.push('a clip more');
        writeFileSync(r.reader(label, 'CLIP', `T000${4 + turn}.MP4`), footage(`${seed} more ${turn}`, 3000));
      } else if (what === 9 && victim) {
        const list = below(path.dirname(path.dirname(victim))).find((f) => f.endsWith('.mhl'));
        told.push(`alter ${list}`);
        if (list) writeFileSync(list, readFileSync(list, 'utf8').replace(/[0-9a-f]{32}/g, '0'.repeat(32)));
      } else if (physical) {
        const { copies } = await wipeView(r.shelf.runtime, physical);
        const copy = copies[int(Math.max(1, copies.length))];
        told.push(`check ${copy?.place}`);
        if (copy) await checkAgain(r.shelf.runtime, copy.id);
      }
    } catch (e) {
      // What is refused changes nothing; the next turn goes on.
      told.push(`  refused: ${e instanceof Error ? e.message : String(e)}`);
    }
    if (!physical) continue;
    const away = int(6) === 0;
    if (away) renameSync(r.drive('South'), `${r.drive('South')}-away`);
    const answer = await wipeView(r.shelf.runtime, physical);
    tally.asked++;
    if (answer.may) {
      tally.yes++;
      const missing = naive(r, label).filter((f) => f.disks < 2);
      if (missing.length > 0) {
        tally.wrong++;
        console.error(
          `history ${seed}: a wrong yes (${answer.because}): ${missing.map((m) => `${m.path} on ${m.disks}`).join(', ')}\n${told.join('\n')}`,
        );
      }
    }
    if (away) renameSync(`${r.drive('South')}-away`, r.drive('South'));
  }
  for (const d of DRIVES) {
    rmSync(r.drive(d), { recursive: true, force: true });
    mkdirSync(r.drive(d));
  }
  return tally;
}

// In memory where there is some: the flushes are counted, not the disk's patience with them.
if (existsSync('/dev/shm')) process.env.TMPDIR = '/dev/shm';
const r = await copyingShelf();
await saveSettings(r.shelf.runtime, { offlineCounts: false });
const sum = { asked: 0, yes: 0, wrong: 0 };
for (let seed = 1; seed <= histories; seed++) {
  const t = await history(r, seed);
  sum.asked += t.asked;
  sum.yes += t.yes;
  sum.wrong += t.wrong;
  if (seed % 20 === 0) say(`${seed} of ${histories} histories on real files`);
}
await r.shelf.close();
say(`${sum.asked} answers on real files, ${sum.yes} of them yes`);
say(`figure custody.histories_on_real_files ${histories} floor ${histories}`);
say(`figure custody.wrong_yes ${sum.wrong} bound 0`);
say(`figure custody.right_yes ${sum.yes} floor 1`);

// ---- real volumes

/** `files` where its driver here is too simple to hold a data folder: it gives files no mode. */
interface Kind {
  name: string;
  make: [string, string[]];
  mount: (image: string, at: string) => 'all' | 'files' | null;
}
const run = (program: string, ...args: string[]): boolean =>
  spawnSync(program, args, { stdio: 'ignore' }).status === 0;
const loops: string[] = [];
const loop = (image: string): string => {
  const device = spawnSync('losetup', ['-f', '--show', image], { encoding: 'utf8' }).stdout.trim();
  if (device !== '') loops.push(device);
  return device;
};
const KINDS: Kind[] = [
  {
    name: 'exFAT',
    make: ['mkfs.exfat', []],
    mount: (image, at) =>
      run('mount', '-t', 'exfat', '-o', 'loop', image, at) || run('mount.exfat-fuse', loop(image), at)
        ? 'all'
        : null,
  },
  {
    name: 'FAT32',
    make: ['mkfs.vfat', ['-F', '32']],
    mount: (image, at) =>
      run('mount', '-t', 'vfat', '-o', 'loop', image, at)
        ? 'all'
        : run('fusefat', '-o', 'rw+', image, at)
          ? 'files'
          : null,
  },
  {
    name: 'NTFS',
    make: ['mkfs.ntfs', ['-F', '-Q']],
    mount: (image, at) =>
      run('mount', '-t', 'ntfs3', '-o', 'loop', image, at) || run('ntfs-3g', loop(image), at) ? 'all' : null,
  },
];
const tried: string[] = [];
/** Servers killed on each of them, while they name and while they copy. */
const ON_VOLUME = 8;
const killing = (name: string, times: number, env: Record<string, string>): boolean =>
  spawnSync(process.execPath, ['--import', 'tsx', `soak/${name}.ts`, String(times)], {
    stdio: ['ignore', 'inherit', 'inherit'],
    env: { ...process.env, ...env },
  }).status === 0;
let volumeFaults = 0;

async function onVolume(at: string): Promise<void> {
  const card = path.join(at, '..', 'card');
  mkdirSync(card, { recursive: true });
  for (let n = 0; n < 12; n++) {
    const from = path.join(card, `T${n}.MP4`);
    writeFileSync(from, footage(`${at} ${n}`, n === 0 ? 0 : 40_000 * n));
    const to = path.join(at, 'SLW', `Day ${n % 3}`, `T${n}.MP4`);
    await copyVerified(from, to, await modifiedOf(from));
    if (digest(to) !== digest(from) || Math.abs(statSync(to).mtimeMs - statSync(from).mtimeMs) > 2000)
      throw new Error(`${to} is not the card's`);
    const named = path.join(at, 'Named', `N${n}.MP4`);
    await moveFile(to, named, await modifiedOf(to));
    if (digest(named) !== digest(from) || existsSync(to)) throw new Error(`${named} was not renamed`);
    writeFileSync(to, 'somebody else');
    const refused = await moveFile(named, to, await modifiedOf(named)).then(
      () => false,
      () => true,
    );
    if (!refused || readFileSync(to, 'utf8') !== 'somebody else') throw new Error(`${to} was overwritten`);
  }
  const left = below(at).filter((f) => /\.(?:part|claim)$/.test(f));
  if (left.length > 0) throw new Error(`left behind: ${left.join(', ')}`);
}

if (long) {
  const dir = realpathSync(mkdtempSync(path.join(tmpdir(), 'shelf-volumes-')));
  for (const kind of KINDS) {
    const [image, at] = [path.join(dir, `${kind.name}.img`), path.join(dir, kind.name)];
    mkdirSync(at);
    writeFileSync(image, '');
    truncateSync(image, 900 << 20);
    const holds = run(kind.make[0], ...kind.make[1], image) ? kind.mount(image, at) : null;
    if (!holds) {
      say(`${kind.name}: not tried, this machine has no ${kind.make[0]} or cannot mount it`);
      continue;
    }
    try {
      await onVolume(at);
      // All of the data folder is on it: the database, the shelf, the drives.
      if (holds === 'files')
        say(`no server is killed on ${kind.name}: its driver on this machine cannot hold a data folder`);
      else
        for (const name of ['kill', 'offload']) {
          say(`${name}, ${ON_VOLUME} kills, on ${kind.name}`);
          if (!killing(name, ON_VOLUME, { TMPDIR: at })) throw new Error(`${name} did not end well on it`);
        }
      tried.push(kind.name);
    } catch (e) {
      volumeFaults++;
      console.error(`${kind.name}: ${e instanceof Error ? e.message : String(e)}`);
    } finally {
      if (!run('umount', at)) run('fusermount', '-u', at);
    }
  }
  for (const device of loops) run('losetup', '-d', device);
  rmSync(dir, { recursive: true, force: true });
  await endThreads();
  say(`copied, renamed and refused to overwrite on: ${tried.join(', ') || 'none'}`);
  say(`figure custody.volumes_tried ${tried.length} floor ${KINDS.length}`);
  say(`figure custody.volume_faults ${volumeFaults} bound 0`);
}

// ---- the unit tests' histories and power cuts, many more

let longer = true;
if (long) {
  const jest = (file: string, env: Record<string, string>): boolean =>
    spawnSync(
      process.execPath,
      ['--experimental-vm-modules', 'node_modules/jest/bin/jest.js', file, '--testTimeout', '3000000'],
      { stdio: ['ignore', 'inherit', 'inherit'], env: { ...process.env, NODE_NO_WARNINGS: '1', ...env } },
    ).status === 0;
  longer = jest('src/core/custody/histories.test.ts', { SORT_SHELF_HISTORIES: '100000' });
  longer = jest('src/server/custody/powerCut.test.ts', { SORT_SHELF_CUTS: '12' }) && longer;
  longer = jest('src/server/platform/db/databaseCut.test.ts', { SORT_SHELF_DATABASE_CUTS: '40' }) && longer;
}

// ---- servers that are killed while they name and copy, with links and without; their figures are their own

let killed = 0;
if (long) {
  for (const refuse of ['0', '1']) {
    for (const [name, times] of [
      ['kill', 40],
      ['offload', 200],
    ] as const) {
      say(`${name}, ${times} kills, ${refuse === '1' ? 'without' : 'with'} links`);
      if (!killing(name, times, { SORT_SHELF_REFUSE_LINKS: refuse })) killed++;
    }
  }
  say(`figure custody.kill_soaks_failed ${killed} bound 0`);
}

if (long) say(`figure custody.long_histories_and_cuts_failed ${longer ? 0 : 1} bound 0`);
process.exit(sum.wrong === 0 && volumeFaults === 0 && longer && killed === 0 ? 0 : 1);
