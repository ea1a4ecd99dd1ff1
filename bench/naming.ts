import { chromium, type Page } from '@playwright/test';
import { execFileSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, realpathSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { TestServer } from '../e2e/server';
import { newBlock } from '../src/core/naming/blocks';
import { DEFAULT_FOLDER_PLAN } from '../src/core/naming/convention';
import { namingRequest } from '../src/core/naming/shapes';
import { beginJob } from '../src/server/jobs';
import { applyNaming, planNaming, undoPlan } from '../src/server/naming';
import { openRuntime } from '../src/server/runtime';
import { TEST_JOB } from '../src/server/testing/media';
import { storeShelved } from '../src/server/testing/shelve';

// What naming costs: the plan for very many clips in the page, with the longest time for which the page stood still; and the applying of
// ten thousand renames with their journal, against a shell loop of `mv -n` over files of the same names on the same disk.

const CLIPS = Number(process.env.BENCH_CLIPS ?? 100_000);
const RENAMES = Number(process.env.BENCH_RENAMES ?? 10_000);
const middle = (list: readonly number[]): number =>
  [...list].sort((a, b) => a - b)[Math.floor(list.length / 2)]!;

/** Milliseconds of every plan the page's worker made. */
const plansOf = async (page: Page): Promise<number[]> =>
  await page.workers()[0]!.evaluate(() => performance.getEntriesByName('plan').map((e) => e.duration));

async function inThePage(): Promise<void> {
  const server = new TestServer('start');
  execFileSync(
    process.execPath,
    ['--import', 'tsx', 'bench/workers/storeShelf.ts', server.home, String(CLIPS)],
    {
      stdio: ['ignore', 'ignore', 'inherit'],
    },
  );
  await server.start();
  const browser = await chromium.launch({
    executablePath: process.env.CHROMIUM_PATH ?? '/usr/bin/chromium',
    args: ['--no-sandbox', '--disable-gpu', '--disable-dev-shm-usage'],
  });
  try {
    const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
    await page.addInitScript(() => {
      const tasks: [at: number, duration: number][] = [];
      (globalThis as { tasks?: typeof tasks }).tasks = tasks;
      new PerformanceObserver((list) => {
        for (const e of list.getEntries()) tasks.push([e.startTime, e.duration]);
      }).observe({ type: 'longtask' });
    });
    const begun = performance.now();
    await page.goto(`${server.url}/jobs/SLW/naming`);
    await page.getByTestId('example').waitFor({ timeout: 120_000 });
    await page.getByRole('button', { name: /^Rename [\d,]+ files$/ }).waitFor({ timeout: 120_000 });
    console.log(
      `the first list of ${CLIPS} clips stood after ${((performance.now() - begun) / 1000).toFixed(1)} s`,
    );
    // From here on the page is used: what it cost to open it is another matter.
    const from = await page.evaluate(() => performance.now());
    const before = (await plansOf(page)).length;
    await page.getByRole('button', { name: /^Day/ }).click();
    for (const prefix of ['T', 'Day', 'X', 'D']) {
      await page.getByLabel('begins with').fill(prefix);
      await page
        .getByTestId('example')
        .filter({ hasText: `_${prefix}1_` })
        .waitFor();
      await page.locator('section[aria-busy=false]').waitFor();
    }
    for (const down of [4000, 400_000, 3_000_000, 0]) {
      await page.getByRole('table', { name: 'Names' }).evaluate((t, top) => t.scrollTo({ top }), down);
      await page.waitForTimeout(250);
    }
    const plans = (await plansOf(page)).slice(before);
    const tasks = await page.evaluate(
      (since) =>
        (globalThis as { tasks?: [at: number, duration: number][] }).tasks!.filter(([at]) => at >= since),
      from,
    );
    const pause = Math.max(0, ...tasks.map(([, duration]) => duration));
    console.log(`${plans.length} plans: ${plans.map((p) => `${Math.round(p)} ms`).join(', ')}`);
    const told = tasks.map(([at, ms]) => `${Math.round(ms)} ms at ${((at - from) / 1000).toFixed(1)} s`);
    console.log(`tasks of the page of 50 ms or more: ${told.join(', ') || 'none'}`);
    console.log(`figure naming.plan_${CLIPS}_s ${(middle(plans) / 1000).toFixed(2)} bound 1`);
    console.log(`figure naming.longest_pause_ms ${Math.round(pause)} bound 50`);
  } finally {
    await browser.close();
    await server.close();
  }
}

async function onTheDisk(): Promise<void> {
  const dir = realpathSync(mkdtempSync(path.join(tmpdir(), 'shelf-naming-')));
  const home = path.join(dir, 'home');
  const runtime = (
    await openRuntime({ home, databaseFolder: path.join(home, 'database'), work: false })
  ).inJob(TEST_JOB);
  await beginJob(runtime, { name: 'Slack Water', code: 'SLW', zoneMinutes: 0 }, TEST_JOB);
  const names = Array.from({ length: RENAMES }, (_, i) => `T${String(i).padStart(5, '0')}.MP4`);
  const lay = (folder: string): void => {
    mkdirSync(folder, { recursive: true });
    for (const name of names) writeFileSync(path.join(folder, name), name);
  };
  lay(path.join(home, 'shelf', 'In'));
  await storeShelved(runtime, 'In');
  const request = namingRequest({
    convention: { name: 'Bench', blocks: [newBlock('card'), newBlock('original')], changes: [] },
    folderPlan: { ...DEFAULT_FOLDER_PLAN, levels: [[newBlock('card')]] },
  });
  const times: { ours: number; theirs: number }[] = [];
  for (let run = 0; run < 3; run++) {
    lay(path.join(dir, `In ${run}`));
    mkdirSync(path.join(dir, `Out ${run}`));
    let begun = performance.now();
    execFileSync(
      'sh',
      [
        '-c',
        'for f in In*/*.MP4; do n=${f##*/}; mv -n "$f" "$1/B001_${n#T}"; done',
        'sh',
        path.join(dir, `Out ${run}`),
      ],
      {
        cwd: dir,
      },
    );
    const theirs = performance.now() - begun;
    const { preview } = await planNaming(runtime, request);
    begun = performance.now();
    const { planId, failed, done } = await applyNaming(runtime, {
      ...request,
      fingerprint: preview.fingerprint,
    });
    const ours = performance.now() - begun;
    if (failed.length > 0 || done !== RENAMES) throw new Error(`${done} of ${RENAMES} were renamed`);
    await undoPlan(runtime, planId);
    times.push({ ours, theirs });
    console.log(
      `${RENAMES} renames: ${(ours / 1000).toFixed(1)} s here, ${(theirs / 1000).toFixed(1)} s by mv -n`,
    );
  }
  await runtime.close();
  rmSync(dir, { recursive: true, force: true });
  console.log(
    `figure naming.apply_time_ratio ${middle(times.map((t) => t.ours / t.theirs)).toFixed(2)} bound 3`,
  );
}

if (process.env.BENCH_PART !== 'page') await onTheDisk();
await inThePage();
process.exit(0);
