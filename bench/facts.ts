import { chromium } from '@playwright/test';
import { execFileSync, spawn } from 'node:child_process';
import { copyFileSync, linkSync, mkdirSync, mkdtempSync, readdirSync, realpathSync, rmSync } from 'node:fs';
import { createRequire } from 'node:module';
import { createServer } from 'node:net';
import { tmpdir } from 'node:os';
import path from 'node:path';
import type { Statement } from '../src/core/facts/catalogue';
import { statementsFromProbe } from '../src/core/facts/probe';
import { statementsFromTags, TagOutput } from '../src/core/facts/tags';
import { readings } from '../src/server/facts/tables';
import { probe } from '../src/server/platform/media/probe';
import { warmReaders } from '../src/server/reading/readPool';
import { FFPROBE } from '../src/server/platform/media/tools';
import { openRuntime } from '../src/server/runtime';
import { TEST_JOB } from '../src/server/testing/media';
import { storeManyClips } from '../src/server/testing/manyClips';
import { makeMatrix, matrixOf } from '../src/server/testing/matrix';
import { beginJob } from '../src/server/jobs/jobs';
import { readFolder } from '../src/server/facts/readFolder';
import { addRoot } from '../src/server/places/roots';
import { scanClips } from '../src/server/intake/scanClips';
import { takeIn } from '../src/server/intake/takeIn';

// What clips say of themselves, read by Sort Shelf, by one `exiftool -j -r` over the folder, and by a loop of ffprobe, in one
// run over the same generated clips; a second scan of very many; and the table of very many in a real browser.

const CLIPS = Number(process.env.BENCH_CLIPS ?? 1000);
const SCANNED = Number(process.env.BENCH_SCANNED ?? 10_000);
const SHOWN = Number(process.env.BENCH_SHOWN ?? 50_000);
const dir = realpathSync(mkdtempSync(path.join(tmpdir(), 'shelf-facts-')));
const figures: string[] = [];
const figure = (name: string, value: number, bound: number, digits = 2) =>
  figures.push(`figure facts.${name} ${value.toFixed(digits)} bound ${bound}`);
const timed = async (work: () => unknown): Promise<number> => {
  const begun = performance.now();
  await work();
  return (performance.now() - begun) / 1000;
};

/** The ExifTool that npm installed: the very program that the second pass keeps running. */
const exiftool = createRequire(import.meta.url)
  .resolve('exiftool-vendored.pl')
  .replace(/index\.js$/, 'bin/exiftool');

// VC-3 in MOV is read by ffprobe in the second pass, so its facts are no matter of the first.
const distinct = matrixOf(3).filter(
  (c) => (c.container === 'mp4' || c.container === 'mov') && !c.codec.startsWith('vc3'),
);
const made = path.join(dir, 'made');
await makeMatrix(made, distinct);
const folder = path.join(dir, 'clips');
mkdirSync(folder);
for (let i = 0; i < CLIPS; i++) {
  const c = distinct[i % distinct.length]!;
  copyFileSync(
    path.join(made, c.name),
    path.join(folder, `T${String(i).padStart(5, '0')}.${c.container.toUpperCase()}`),
  );
}
const runtime = (await openRuntime({ home: path.join(dir, 'home'), work: false })).inJob(TEST_JOB);
await beginJob(runtime, { name: 'Slack Water', code: 'SLW', zoneMinutes: 0 }, TEST_JOB);
const root = await addRoot(runtime, { kind: 'source', path: folder });
await warmReaders();
// Each reads the folder once before it is measured, so that all find it in the system's cache.
execFileSync('sh', ['-c', 'cat "$0"/* > /dev/null', folder]);
await readFolder(runtime, root.id, '', 2);

const first: number[] = [];
const both: number[] = [];
for (let n = 0; n < 2; n++) {
  await runtime.db.delete(readings);
  first.push(await timed(() => readFolder(runtime, root.id, '', 1)));
  await runtime.db.delete(readings);
  both.push(await timed(() => readFolder(runtime, root.id, '', 2)));
}
const byTags = await timed(() =>
  execFileSync(exiftool, ['-j', '-r', folder], { stdio: ['ignore', 'ignore', 'ignore'], maxBuffer: 1 << 28 }),
);
const byProbe = await timed(() =>
  execFileSync('sh', [
    '-c',
    'for f in "$0"/*; do "$1" -v error -show_format -show_streams -of json "$f" > /dev/null || exit 1; done',
    folder,
    FFPROBE(),
  ]),
);
const mean = (list: readonly number[]) => list.reduce((a, b) => a + b, 0) / list.length;
console.log(
  `${CLIPS} clips: first pass ${first.map((s) => s.toFixed(2)).join(' and ')} s, both passes ${both.map((s) => s.toFixed(2)).join(' and ')} s, exiftool -j -r ${byTags.toFixed(1)} s, ffprobe in a loop ${byProbe.toFixed(1)} s`,
);
figure('first_pass_to_exiftool', mean(first) / byTags, 0.2, 3);
figure('first_pass_to_ffprobe', mean(first) / byProbe, 0.033, 4);
figure('both_passes_to_exiftool', mean(both) / byTags, 1.2, 3);

// Every field that the two programs state of such files is stated by the first pass alone.
const missing = new Set<string>();
const tagList = TagOutput.array().parse(
  JSON.parse(
    execFileSync(exiftool, ['-j', '-n', '-r', made], {
      encoding: 'utf8',
      maxBuffer: 1 << 28,
      stdio: ['ignore', 'pipe', 'ignore'],
    }),
  ),
);
const madeRoot = await addRoot(runtime, { kind: 'source', path: made });
for (const clip of await readFolder(runtime, madeRoot.id, '', 1)) {
  const file = clip.disk.files[0]!.file;
  const have = new Set(clip.statements.map((s) => s.field));
  const theirs: Statement[] = [
    ...statementsFromProbe(await probe(file), { zoneMinutes: 0 }),
    ...statementsFromTags(
      tagList.find((t) => t.SourceFile === file)!,
      { zoneMinutes: 0, kind: 'other' },
    ),
  ];
  for (const s of theirs) if (!have.has(s.field)) missing.add(`${path.extname(file)} ${s.field}`);
}
if (missing.size > 0) console.log(`fields the first pass does not state: ${[...missing].join(', ')}`);
figure('fields_only_others_state', missing.size, 0, 0);

// A second scan of very many clips of the job.
const many = path.join(dir, 'many');
for (let i = 0; i < SCANNED; i++) {
  const c = distinct[i % distinct.length]!;
  const at = path.join(many, `B${String(1 + Math.floor(i / 1000)).padStart(3, '0')}`);
  if (i % 1000 === 0) mkdirSync(at, { recursive: true });
  linkSync(
    path.join(made, c.name),
    path.join(at, `T${String(i).padStart(5, '0')}.${c.container.toUpperCase()}`),
  );
}
const manyRoot = await addRoot(runtime, { kind: 'source', path: many });
const cards = readdirSync(many).sort();
const taken = await timed(() =>
  takeIn(runtime, {
    root: manyRoot.id,
    path: '',
    cards: cards.map((f, i) => ({ folder: f, camera: 'B', cardId: f, day: i + 1, date: null })),
  }),
);
// The work as it is done for the person: every clip a row of work, its facts kept in the database.
const read = await timed(async () => {
  while ((await runtime.queue.drainKind('read')) > 0);
});
let report = { same: 0, again: 0, missing: [] as string[] };
const scan = await timed(async () => {
  report = await scanClips(runtime, null);
});
console.log(
  `${SCANNED} clips: taken in ${taken.toFixed(1)} s, read by the queue ${read.toFixed(1)} s, scanned again ${scan.toFixed(2)} s (${report.same} as they were)`,
);
figure('job_reading_to_exiftool', read / SCANNED / (byTags / CLIPS), 0.5, 3);
figure('second_scan_s', scan, 3);
figure('second_scan_read_again', report.again + report.missing.length, 0, 0);
await runtime.close();

// The table of very many clips in a browser, with the facts of the clips above.
const home = path.join(dir, 'shown');
const big = (await openRuntime({ home, databaseFolder: path.join(home, 'database'), work: false })).inJob(
  TEST_JOB,
);
await beginJob(big, { name: 'Slack Water', code: 'SLW', zoneMinutes: 0 }, TEST_JOB);
const source = await addRoot(big, { kind: 'source', path: made });
await takeIn(big, {
  root: source.id,
  path: '',
  cards: [{ folder: '', camera: 'A', cardId: 'A001', day: 1, date: null }],
});
while ((await big.queue.drainKind('read')) > 0);
await storeManyClips(big, SHOWN);
await big.close();
const port = await new Promise<number>((resolve) => {
  const probeServer = createServer().listen(0, '127.0.0.1', () => {
    const a = probeServer.address();
    probeServer.close(() => resolve(typeof a === 'object' && a ? a.port : 0));
  });
});
const server = spawn(process.execPath, ['scripts/start.mjs'], {
  env: { ...process.env, PORT: String(port), SORT_SHELF_HOME: home },
  stdio: ['ignore', 'pipe', 'inherit'],
});
try {
  await new Promise<void>((resolve, reject) => {
    server.stdout.on('data', (c) => String(c).includes('is ready at') && resolve());
    server.once('exit', () => reject(new Error('the application did not start')));
  });
  const browser = await chromium.launch({
    executablePath: process.env.CHROMIUM_PATH ?? '/usr/bin/chromium',
    args: [
      '--headless',
      '--no-sandbox',
      '--disable-gpu',
      '--disable-quic',
      '--no-first-run',
      '--disable-background-networking',
      '--disable-component-update',
      '--disable-sync',
      '--enable-precise-memory-info',
    ],
  });
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  // The loader of this file names functions by a helper that a page does not have.
  await page.addInitScript({ content: 'globalThis.__name = (f) => f;' });
  const opened = await timed(async () => {
    await page.goto(`http://127.0.0.1:${port}/jobs/SLW/facts`);
    await page.getByText(`${SHOWN.toLocaleString('en-GB')} clips`).waitFor({ timeout: 600_000 });
  });
  const times: number[] = [];
  for (const words of ['hevc', 'hevc 25', 'm0499', '', 'prores', '']) {
    times.push(
      await page.evaluate(
        (typed) =>
          new Promise<number>((resolve) => {
            const input = document.querySelector<HTMLInputElement>('input[type=search]')!;
            const before = document.querySelector('footer strong')!.textContent;
            const begun = performance.now();
            Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, 'value')!.set!.call(input, typed);
            input.dispatchEvent(new Event('input', { bubbles: true }));
            const look = () =>
              document.querySelector('footer strong')?.textContent !== before ||
              performance.now() - begun > 5000
                ? resolve(performance.now() - begun)
                : requestAnimationFrame(look);
            requestAnimationFrame(look);
          }),
        words,
      ),
    );
  }
  // A long scroll, frame by frame: what is counted is the longest the page did not draw.
  const longest = await page.evaluate(
    () =>
      new Promise<number>((resolve) => {
        const box = document.querySelector('[data-testid=facts]')!;
        let [last, worst, n] = [performance.now(), 0, 0];
        const step = () => {
          const now = performance.now();
          worst = Math.max(worst, now - last);
          last = now;
          box.scrollTop += 3000;
          if (++n < 120) requestAnimationFrame(step);
          else resolve(worst);
        };
        requestAnimationFrame(step);
      }),
  );
  const memory = await page.evaluate(
    () => (performance as unknown as { memory: { usedJSHeapSize: number } }).memory.usedJSHeapSize / 1e6,
  );
  console.log(
    `${SHOWN} clips in the table: opened in ${opened.toFixed(1)} s; filtered in ${times.map((t) => Math.round(t)).join(', ')} ms; longest frame of a scroll ${Math.round(longest)} ms`,
  );
  figure('filter_ms', Math.max(...times), 150, 0);
  figure('browser_mb', memory, 400, 0);
  await browser.close();
} finally {
  server.kill('SIGTERM');
  await new Promise((r) => server.once('exit', r));
}
rmSync(dir, { recursive: true, force: true, maxRetries: 5 });
for (const line of figures) console.log(line);
