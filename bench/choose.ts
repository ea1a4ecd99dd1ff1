import { chromium, type Page } from '@playwright/test';
import { execFileSync } from 'node:child_process';
import { linkSync, mkdirSync, readFileSync } from 'node:fs';
import path from 'node:path';
import { takeInOffloaded } from '../e2e/offloaded';
import { TestServer } from '../e2e/server';
import { FindQuery, Found } from '../src/core/choose';
import { clipsOfJob } from '../src/server/choose/catalogue';
import { changeChoice, chooseView, findClips, undoChoice } from '../src/server/choose';
import { openRuntime } from '../src/server/runtime';
import { FFMPEG } from '../src/server/platform/media/tools';
import { TEST_JOB } from '../src/server/testing/media';

// What choosing costs with very many clips, 300 keywords, 200 bins and two ranges on each clip: twenty searches on the server and in the
// page, a keyword for ten thousand clips, the first screen, and how the sheet of frames scrolls.

const CLIPS = Number(process.env.BENCH_CLIPS ?? 50_000);
const SOME = Math.min(10_000, CLIPS / 2);

const SEARCHES = [
  'wheel',
  'gate',
  'gate wheel mill',
  '"no such words"',
  'rate over 50',
  'rate is 25 length under 10s',
  'length between 10s and 0:30',
  'recorded before noon',
  'recorded is 2026-05-06',
  'codec has 26',
  'keyword is "word 7"',
  'keyword has 12',
  'any(keyword is "word 1", keyword is "word 2", keyword is "word 3") none(gate)',
  'bin is "Bin 17"',
  'no proxy',
  'with select note has soft',
  'select over 0 rate from 50',
  'scene is 12 size over 1MB',
  'day is 3 camera is B none(rate is 100)',
  'any(rate over 50, all(length under 5s, keyword has 9)) none(scene is 4, note has soft)',
] as const;

const worst = (list: readonly number[]): number => Math.max(...list);
const timed = async <T>(work: () => Promise<T>): Promise<[number, T]> => {
  const begun = performance.now();
  const result = await work();
  return [performance.now() - begun, result];
};

/** Clips that each search finds, as the server alone answers. */
async function onTheServer(home: string): Promise<Map<string, number>> {
  const runtime = (
    await openRuntime({ home, databaseFolder: path.join(home, 'database'), work: false })
  ).inJob(TEST_JOB);
  const find = (query: string) => findClips(runtime, FindQuery.parse({ query, limit: 60 }));
  const [loaded] = await timed(() => chooseView(runtime));
  console.log(`${CLIPS} clips are loaded in ${(loaded / 1000).toFixed(1)} s`);
  const found = new Map<string, number>();
  const [first, again]: [number[], number[]] = [[], []];
  for (const query of SEARCHES) {
    const [cold, answer] = await timed(() => find(query));
    // With a blank behind it the same search is not known yet, and is worked out anew.
    const [warm] = await timed(() => find(`${query} `));
    first.push(cold);
    again.push(warm);
    found.set(query, answer.clips);
    console.log(`${cold.toFixed(0)} ms, again ${warm.toFixed(0)} ms, ${answer.clips} clips: ${query}`);
  }
  console.log(`the slowest first asking, which fetches a field of all clips: ${worst(first).toFixed(0)} ms`);
  console.log(`figure choose.search_ms ${worst(again).toFixed(0)} bound 100`);
  const ids = (await clipsOfJob(runtime)).slice(0, SOME).map((c) => c.id);
  const [given, { undo }] = await timed(() =>
    changeChoice(runtime, { do: 'addKeyword', clips: ids, range: null, name: 'given to many' }),
  );
  const [after] = await timed(() => find('keyword is "given to many"'));
  console.log(`a search right after it: ${after.toFixed(0)} ms`);
  console.log(`figure choose.keyword_for_${SOME}_s ${(given / 1000).toFixed(2)} bound 2`);
  await undoChoice(runtime, undo!);
  await runtime.close();
  return found;
}

/** One filmstrip for every clip, and its picture from the middle, under names of their own. */
function layFilmstrips(home: string): void {
  const list = execFileSync(process.execPath, ['--import', 'tsx', 'bench/workers/clipIds.ts', home], {
    encoding: 'utf8',
    maxBuffer: 1e8,
  });
  for (const [kind, width] of [
    ['filmstrips', 4800],
    ['middle', 240],
  ] as const) {
    const folder = path.join(home, 'cache', kind);
    mkdirSync(folder, { recursive: true });
    const one = path.join(folder, 'one.jpg');
    const args = ['-v', 'error', '-y', '-f', 'lavfi', '-i', `testsrc2=size=${width}x135`];
    execFileSync(FFMPEG(), [...args, '-frames:v', '1', one]);
    for (const id of list.trim().split('\n')) linkSync(one, path.join(folder, `${id}.jpg`));
  }
}

/** Kilobytes of memory that the browser's processes hold, shared pages counted once (Pss, proc(5)). */
function memoryOf(root: number): number {
  const parents = execFileSync('ps', ['-e', '-o', 'pid=,ppid='], { encoding: 'utf8' })
    .trim()
    .split('\n')
    .map((line) => line.trim().split(/\s+/).map(Number) as [number, number]);
  const mine = new Set([root]);
  // Processes are listed by their numbers, and a child may have a smaller one.
  for (let before = 0; before < mine.size;) {
    before = mine.size;
    for (const [pid, parent] of parents) if (mine.has(parent)) mine.add(pid);
  }
  return [...mine].reduce((n, pid) => n + heldBy(pid), 0);
}
function heldBy(pid: number): number {
  try {
    return Number(/^Pss:\s+(\d+)/m.exec(readFileSync(`/proc/${pid}/smaps_rollup`, 'utf8'))?.[1] ?? 0);
  } catch {
    return 0;
  }
}
/** Scrolls the sheet for four seconds; gives frames a second. As text: what is compiled here does not run there. */
const SCROLL = `new Promise((done) => {
  const holder = document.querySelector('[role=listbox][aria-label=Clips]');
  const begun = performance.now();
  let frames = 0;
  const step = () => {
    frames++;
    holder.scrollTop += 40;
    if (performance.now() - begun < 4000) requestAnimationFrame(step);
    else done((frames * 1000) / (performance.now() - begun));
  };
  requestAnimationFrame(step);
})`;

/** Measures milliseconds from the next input until the picture in which the line above the clips begins with a number of them. As text. */
const WATCH = `(words) => {
  const line = document.querySelector('main [aria-live="polite"]');
  const tells = () => line.textContent.replace(/[^0-9a-z ]/g, '').startsWith(words);
  if (tells()) throw new Error(words + 'clips are told of already');
  window.shownAfter = new Promise((done, fail) =>
    document.addEventListener('input', () => {
      const begun = performance.now();
      const look = () => {
        const now = performance.now() - begun;
        if (tells()) requestAnimationFrame(() => done(performance.now() - begun));
        else if (now > 20000) fail(new Error(words + 'clips are not told of'));
        else requestAnimationFrame(look);
      };
      look();
    }, { once: true, capture: true }),
  );
}`;

/** A browser for a page of its own; what it is done with, and its number among the processes. */
async function inBrowser(work: (page: Page, pid: number) => Promise<void>): Promise<void> {
  const launched = await chromium.launchServer({
    executablePath: process.env.CHROMIUM_PATH ?? '/usr/bin/chromium',
    // Without Chromium's own pages behind its address bar: they hold memory, too.
    args: [
      '--no-sandbox',
      '--disable-gpu',
      '--disable-dev-shm-usage',
      '--disable-features=WebUIOmniboxPopup,WebUIOmniboxAimPopup',
    ],
  });
  const browser = await chromium.connect(launched.wsEndpoint());
  try {
    await work(await browser.newPage({ viewport: { width: 1280, height: 800 } }), launched.process().pid!);
  } finally {
    await browser.close();
    await launched.close();
  }
}

async function inThePage(server: TestServer, found: ReadonlyMap<string, number>): Promise<void> {
  await inBrowser(async (page, pid) => {
    const clips = page.getByRole('listbox', { name: 'Clips' }).getByRole('option');
    const url = `${server.url}/jobs/SLW/choose`;
    // The server has read its clips once, as it has when a person comes from another screen.
    await page.goto(url);
    await clips.first().waitFor({ timeout: 120_000 });
    const [first] = await timed(async () => {
      await page.goto(url);
      await clips.first().waitFor();
    });
    console.log(`figure choose.first_screen_s ${(first / 1000).toFixed(2)} bound 2`);
    const input = page.getByRole('combobox', { name: 'Search' });
    // What a field states is fetched at the first asking, which was measured above.
    for (const query of SEARCHES)
      await page.request.post(`${server.url}/api/jobs/SLW/choose/find`, {
        data: { query: `${query}  `, limit: 0 },
        headers: { origin: server.url },
      });
    const times: number[] = [];
    for (const query of SEARCHES) {
      const clipsFound = found.get(query)!;
      // Before it another number stands there.
      await input.fill(clipsFound === 0 ? '' : '"nothing of this kind"');
      await page.waitForTimeout(800);
      await page.evaluate(`(${WATCH})('${clipsFound} ')`);
      await input.fill(query);
      times.push(await page.evaluate<number>('window.shownAfter'));
    }
    console.log(`searches shown after ${times.map((t) => `${t.toFixed(0)} ms`).join(', ')}`);
    console.log(`figure choose.shown_ms ${worst(times).toFixed(0)} bound 200`);
    await input.fill('');
    await page.waitForTimeout(1500);
    console.log(`figure choose.frames_a_second ${(await page.evaluate<number>(SCROLL)).toFixed(0)} floor 50`);
    const held = memoryOf(pid);
    const session = await page.context().newCDPSession(page);
    await session.send('HeapProfiler.collectGarbage');
    await page.waitForTimeout(1000);
    console.log(`once its garbage is collected the browser holds ${(memoryOf(pid) / 1024).toFixed(0)} MB`);
    await page.goto('about:blank');
    await page.waitForTimeout(2000);
    console.log(`with an empty page the browser holds ${(memoryOf(pid) / 1024).toFixed(0)} MB`);
    console.log(`figure choose.browser_mb ${(held / 1024).toFixed(0)} bound 500`);
  });
}

/** Plays for half a minute; gives milliseconds until the first frame, and of each join how long nothing moved, a frame taken off. As text. */
const PLAY = `new Promise((done) => {
  const shown = [];
  for (const [n, video] of [...document.querySelectorAll('main video')].entries()) {
    const look = (now) => {
      if (!video.paused && video.parentElement.style.visibility !== 'hidden') shown.push([now, n]);
      video.requestVideoFrameCallback(look);
    };
    video.requestVideoFrameCallback(look);
  }
  const begun = performance.now();
  document.querySelector('[aria-label="Play the string-out"]').click();
  setTimeout(() => {
    const joins = [];
    for (let i = 1; i < shown.length; i++)
      if (shown[i][1] !== shown[i - 1][1]) joins.push(shown[i][0] - shown[i - 1][0] - 40);
    done({ first: shown[0][0] - begun, joins });
  }, 30000);
})`;

/** A string-out of five hundred ranges of the demonstration's clips, played from their proxies. */
async function played(): Promise<void> {
  const server = new TestServer('demo');
  await server.start();
  try {
    await inBrowser(async (page) => {
      await takeInOffloaded(page, server.url);
      const post = async (path: string, data: object): Promise<unknown> =>
        (
          await page.request.post(`${server.url}/api/jobs/SLW/choose${path}`, {
            data,
            headers: { origin: server.url },
          })
        ).json();
      const { tiles } = Found.parse(await post('/find', { query: 'pair is proven rate is 25', limit: 100 }));
      const long = tiles.filter((t) => (t.frames ?? 0) >= 30);
      const items = Array.from({ length: 500 }, (_, i) => {
        const from = (i * 7) % 15;
        return { clip: long[i % long.length]!.id, from, to: from + 15 };
      });
      await post('', { do: 'addStringOut', name: 'Five hundred', items });
      await page.goto(`${server.url}/jobs/SLW/choose`);
      await page.getByRole('button', { name: 'Five hundred', exact: true }).click();
      await page.getByRole('list', { name: 'Parts' }).getByRole('listitem').nth(499).waitFor();
      await page.waitForTimeout(1500);
      const { first, joins } = await page.evaluate<{ first: number; joins: number[] }>(PLAY);
      console.log(
        `${joins.length} joins of ${long.length} clips: ${joins.map((j) => j.toFixed(0)).join(', ')} ms`,
      );
      console.log(`figure choose.string_out_starts_s ${(first / 1000).toFixed(2)} bound 1`);
      console.log(`figure choose.join_ms ${worst(joins).toFixed(0)} bound 80`);
    });
  } finally {
    await server.close();
  }
}

/** Searches on the server, and what of it is seen with so many clips. */
async function searched(): Promise<void> {
  const server = new TestServer('start');
  for (const worker of ['storeShelf', 'storeChoice'])
    execFileSync(
      process.execPath,
      ['--import', 'tsx', `bench/workers/${worker}.ts`, server.home, String(CLIPS)],
      { stdio: ['ignore', 'ignore', 'inherit'] },
    );
  const found = await onTheServer(server.home);
  layFilmstrips(server.home);
  await server.start();
  try {
    await inThePage(server, found);
  } finally {
    await server.close();
  }
}

const { BENCH_PART } = process.env;
if (BENCH_PART !== 'played') await searched();
if (BENCH_PART !== 'searched') await played();
