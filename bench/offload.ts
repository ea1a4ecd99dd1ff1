import { execFileSync } from 'node:child_process';
import { existsSync, mkdirSync, mkdtempSync, rmSync, statfsSync } from 'node:fs';
import { freemem, tmpdir } from 'node:os';
import path from 'node:path';
import { copying, makeCard } from './workers/card';

// One card to two safe copies, verified by contents (each file flushed, read back, listed), against the chain a person would
// type: cp twice, xxhsum of the source and of both copies. Both are measured in memory first, where no disk's mood is
// measured, then on the disk, which sets the pace of both, and where the chain ends with `sync`, for a copy that is not flushed
// is not there yet. Memory that was never touched, or not for seconds, is slow the first time, so both run once unmeasured;
// then both run twice, in turns, and the sums count.

const FILES = 40;
const BYTES = Number(process.env.BENCH_BYTES ?? 4 * 2 ** 30);
const room = (dir: string): number => {
  const { bavail, bsize } = statfsSync(dir);
  return bavail * bsize;
};
const onDisk = process.env.BENCH_DIR ?? tmpdir();
const inMemory =
  existsSync('/dev/shm') && room('/dev/shm') > BYTES * 4 && freemem() > BYTES * 4.2 ? '/dev/shm' : null;
const total = (list: number[]) => list.reduce((n, s) => n + s, 0);
const say = (list: number[]) => list.map((s) => s.toFixed(1)).join(' and ');
let most = 0;

async function measure(base: string, flushed: boolean): Promise<{ typed: number[]; ours: number[] }> {
  const dir = mkdtempSync(path.join(base, 'shelf-bench-'));
  if (room(dir) < BYTES * 4)
    throw new Error(`the bench needs ${Math.ceil((BYTES * 4) / 1e9)} GB free in ${dir}: set BENCH_DIR`);
  const source = path.join(dir, 'card');
  makeCard(source, FILES, BYTES);

  const typed = (n: number): number => {
    const [a, b] = ['a', 'b'].map((d) => path.join(dir, `typed-${n}-${d}`));
    for (const d of [a!, b!]) mkdirSync(d);
    const begun = performance.now();
    execFileSync('sh', [
      '-c',
      'cp -r "$0" "$1" && cp -r "$0" "$2" && for d in "$0" "$1/card" "$2/card"; do (cd "$d" && find . -type f -print0 | sort -z | xargs -0 xxhsum -q -H2) > "$d.sums" || exit 1; done && cmp "$1/card.sums" "$2/card.sums"' +
        (flushed ? ' && sync' : ''),
      source,
      a!,
      b!,
    ]);
    const seconds = (performance.now() - begun) / 1000;
    for (const d of [a!, b!, `${source}.sums`]) rmSync(d, { recursive: true, force: true });
    execFileSync('sync');
    return seconds;
  };

  const { copy, close } = await copying(dir, source);
  const idle = process.memoryUsage().rss;
  const timer = setInterval(() => {
    most = Math.max(most, process.memoryUsage().rss - idle);
  }, 100);
  typed(0);
  await copy();
  const [o, t] = [[] as number[], [] as number[]];
  for (const n of [1, 2]) {
    t.push(typed(n));
    o.push(await copy());
  }
  clearInterval(timer);
  await close();
  rmSync(dir, { recursive: true, force: true });
  return { typed: t, ours: o };
}

const what = `${(BYTES / 2 ** 30).toFixed(1)} GiB in ${FILES} files to two copies`;
const memory = inMemory && (await measure(inMemory, false));
const disk = await measure(onDisk, true);
if (memory) console.log(`${what}, in memory: typed ${say(memory.typed)} s, ours ${say(memory.ours)} s`);
console.log(`${what}, on disk, both flushed: typed ${say(disk.typed)} s, ours ${say(disk.ours)} s`);
const { typed: t, ours: o } = memory ?? disk;
console.log(`figure offload.time_ratio ${(total(o) / total(t)).toFixed(2)} bound 0.75`);
console.log(`figure offload.disk_time_ratio ${(total(disk.ours) / total(disk.typed)).toFixed(2)} bound 1.30`);
console.log(`figure offload.memory_mb ${Math.round(most / 1e6)} bound 250`);
