import { execFileSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, realpathSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { NewOffload } from '../src/core/offload/shapes';
import { openRuntime } from '../src/server/runtime';
import { TEST_JOB } from '../src/server/testing/media';
import { beginJob } from '../src/server/jobs/jobs';
import { beginOffload } from '../src/server/offload/begin';
import { offloadViews } from '../src/server/offload/views';
import { addRoot } from '../src/server/places/roots';
import { checkAgain } from '../src/server/custody/checks';
import { wipeView } from '../src/server/custody/wipe';

// A card of very many small files, to two copies, verified by contents, and one of them checked again.

const count = Number(process.argv[2] ?? 100_000);
const dir = realpathSync(mkdtempSync(path.join(tmpdir(), 'shelf-small-')));
const card = path.join(dir, 'card');
for (let i = 0; i < count; i++) {
  const folder = path.join(card, `part ${String(Math.floor(i / 1000)).padStart(3, '0')}`);
  if (i % 1000 === 0) mkdirSync(folder, { recursive: true });
  writeFileSync(path.join(folder, `note ${i}.txt`), `file ${i} of a card with many\n`.repeat(1 + (i % 40)));
}
// One clip, so that the folder is a card.
writeFileSync(path.join(card, 'clip.mp4'), Buffer.from('\0\0\0\x08ftyp\0\0\0\x08mdat', 'latin1'));
const runtime = (await openRuntime({ home: path.join(dir, 'home'), work: ['copy'] })).inJob(TEST_JOB);
await beginJob(runtime, { name: 'Slack Water', code: 'SLW', zoneMinutes: 0 }, TEST_JOB);
const drives = ['North', 'South'].map((d) => path.join(dir, d));
for (const d of drives) mkdirSync(d);
const reader = await addRoot(runtime, { kind: 'source', path: card });
const safe = await Promise.all(
  drives.map(async (d) => (await addRoot(runtime, { kind: 'safe', path: d })).id),
);
// Two gets as far as a card with few files does: what is measured is what the number of files adds.
const idle = process.memoryUsage().rss;
let most = 0;
let stutter = 0;
let beat = performance.now();
const timer = setInterval(() => {
  const now = performance.now();
  stutter = Math.max(stutter, now - beat - 50);
  beat = now;
  most = Math.max(most, process.memoryUsage().rss);
}, 50);
const begun = performance.now();
await beginOffload(
  runtime,
  NewOffload.parse({
    root: reader.id,
    path: '',
    folder: '',
    camera: 'B',
    cardId: 'B001',
    day: 1,
    date: null,
    clips: null,
    wholeCard: true,
    safe,
    shelf: false,
    pattern: '{card}',
    verification: 'contents',
    hash: 'xxh128',
  }),
);
await runtime.queue.idle('copy');
const seconds = (performance.now() - begun) / 1000;
const copying = { most, stutter };
const [view] = await offloadViews(runtime);
let differences = 0;
for (const d of drives) {
  try {
    execFileSync('diff', ['-rq', '--exclude=ascmhl', card, path.join(d, 'B001')]);
  } catch (e) {
    differences++;
    console.error(String((e as { stdout: Buffer }).stdout).slice(0, 2000));
  }
}
// The comparison held this process up.
[most, stutter, beat] = [0, 0, performance.now()];
const [copy] = (await wipeView(runtime, 'B001')).copies;
const report = await checkAgain(runtime, copy!.id);
clearInterval(timer);
await runtime.close();
rmSync(dir, { recursive: true, force: true });
console.log(
  `${count} small files to two copies in ${seconds.toFixed(0)} s (${Math.round(count / seconds)} a second)`,
);
console.log(
  `the longest the server did not answer: copying ${Math.round(copying.stutter)} ms, checking again ${Math.round(stutter)} ms; checking took ${Math.round((most - idle) / 1e6)} MB`,
);
console.log(`figure small.files_verified ${view!.verified} floor ${count + 1}`);
console.log(`figure small.trees_that_differ ${differences} bound 0`);
console.log(`figure small.found_the_same_again ${report.same} floor ${count + 1}`);
console.log(`figure small.memory_mb ${Math.round((copying.most - idle) / 1e6)} bound 250`);
