// Takes the pictures of docs/screenshots from a fresh demo, by driving it through the whole job.
import { chromium } from '@playwright/test';
import { spawn } from 'node:child_process';
import { copyFileSync, mkdirSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { prepare, ROOT } from './setup.mjs';

await prepare({ build: true, footage: true, tests: true, browser: true });
// Some pictures show where things stand: a folder of a plain name.
const home = path.join(tmpdir(), 'slack-water');
mkdirSync(home);
const to = path.join(ROOT, 'docs', 'screenshots');
mkdirSync(to, { recursive: true });
const base = 'http://127.0.0.1:4199';
let server;
const start = () =>
  new Promise((resolve, reject) => {
    server = spawn(process.execPath, ['scripts/demo.mjs'], {
      cwd: ROOT,
      env: { ...process.env, PORT: '4199', SORT_SHELF_HOME: home },
      stdio: ['ignore', 'pipe', 'inherit'],
    });
    server.stdout.on('data', (c) => String(c).includes('is ready at') && resolve());
    server.once('exit', () => reject(new Error('the demo did not start')));
  });
await start();
const stop = async () => {
  // It writes its last snapshot before it is gone.
  const gone = new Promise((resolve) => server.once('exit', resolve));
  server.kill('SIGTERM');
  await gone;
};
// Whatever happens, nothing is left running.
const end = async () => {
  await stop();
  rmSync(home, { recursive: true, force: true, maxRetries: 5 });
};
process.on('uncaughtException', (e) => {
  console.error(e);
  void end().finally(() => process.exit(1));
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
  ],
});
const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
const idle = async () => {
  for (let quiet = 0; quiet < 3;) {
    const { read, rest, filmstrip, proxies } = await (
      await fetch(`${base}/api/jobs/SLW/proxies/work`)
    ).json();
    quiet = read + rest + filmstrip + proxies.length === 0 ? quiet + 1 : 0;
    await page.waitForTimeout(700);
  }
};
/** An edit of the demonstration's clips as it comes back: one cut from a clip without timecode, one beyond its end, one nobody knows. */
const TIDE_MILL = [
  ['07:48:10:05 07:48:12:05', 'A001_C001.MOV', '01:00:00:00 01:00:02:00'],
  ['08:02:16:00 08:02:18:10', 'T0001_px.MP4', '01:00:02:00 01:00:04:10'],
  ['08:40:51:10 08:40:52:10', 'T0002_px.MP4', '01:00:04:10 01:00:05:10'],
  ['00:00:00:10 00:00:02:10', 'T0009.MP4', '01:00:05:10 01:00:07:10'],
  ['09:33:09:10 09:33:12:00', 'T0003_px.MP4', '01:00:07:10 01:00:10:00'],
  ['21:00:00:00 21:00:02:00', 'SLUICE.MOV', '01:00:10:00 01:00:12:00'],
  ['11:04:05:00 11:04:07:00', 'T0005_px.MP4', '01:00:12:00 01:00:14:00'],
].reduce(
  (text, [source, name, at], i) =>
    `${text}00${i + 1}  AX       V     C        ${source} ${at}\n* FROM CLIP NAME: ${name}\n`,
  'TITLE: Tide mill v3\nFCM: NON-DROP FRAME\n',
);

const shot = async (name) => {
  // Every picture and film in sight is there before it is taken.
  await page
    .waitForFunction(
      '[...document.images].every((i) => i.complete) && [...document.querySelectorAll("video")].every((v) => v.readyState >= 2 || v.error)',
      null,
      { timeout: 60_000 },
    )
    .catch(() => undefined);
  await page.waitForTimeout(1200);
  await page.screenshot({ path: path.join(to, `${name}.png`) });
};
await page.goto(`${base}/jobs/SLW/intake?root=shelf&path=Offloaded&look=1`);
await page.getByRole('article').nth(2).waitFor();
await page.getByRole('button', { name: /^Take in/ }).click();
await page.waitForURL(`${base}/jobs/SLW`);
await idle();
const post = (to, body) =>
  fetch(`${base}/api/${to}`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify(body),
  });
const faults = (change) =>
  post('offload/stand-ins', {
    action: 'faults',
    of: 'Reader 1',
    faults: { slow: null, failRead: null, flip: null, capacity: null, ...change },
  });
const settled = async () => {
  for (;;) {
    const copies = await (await fetch(`${base}/api/jobs/SLW/offload`)).json();
    if (copies.every((c) => ['done', 'partly', 'cancelled'].includes(c.state))) return;
    await page.waitForTimeout(400);
  }
};
/** Plugs a card in and opens the look at it. */
const offer = async (card) => {
  await post('offload/stand-ins', { action: 'pull', slot: 'Reader 1' });
  await post('offload/stand-ins', { action: 'plug', slot: 'Reader 1', card });
  await page.goto(`${base}/jobs/SLW/intake`);
  await page.getByRole('button', { name: 'Look', exact: true }).first().click();
  await page.getByRole('option').first().waitFor();
};
const copy = async () => {
  await page.getByRole('button', { name: /^Copy \d/ }).click();
  await page.waitForURL(/\/copy\//);
};
await offer('D001');
await page.waitForTimeout(6000);
await page.getByRole('option').nth(1).hover();
await shot('intake-looking');
await faults({ slow: 2.5e5 });
await offer('A002');
await copy();
await page.getByRole('img', { name: /^Rate/ }).waitFor();
await page.waitForTimeout(5500);
await page.screenshot({ path: path.join(to, 'intake-copying.png') });
await faults({});
await settled();
await page.getByRole('link', { name: 'May this card be wiped?' }).waitFor();
await page.getByRole('link', { name: 'May this card be wiped?' }).click();
await shot('wipe');
for (const card of ['C001', 'D001', 'S001', 'S002', 'B003']) {
  await offer(card);
  await copy();
  await settled();
}
// A folder that is watched, and a clip that was dropped into it.
const dropped = path.join(home, 'shelf', 'Dropped');
mkdirSync(dropped);
await post('jobs/SLW/watch', {
  ...{ root: 'shelf', path: 'Dropped' },
  options: { next: { proxies: true, keywords: ['late'] }, into: { cardId: 'L001', camera: 'L', day: 3 } },
});
copyFileSync(path.join(home, 'stand-ins/drawer/S003/260507-T01.WAV'), path.join(dropped, 'late tide.WAV'));
await page.goto(`${base}/jobs/SLW/intake`);
await page.getByText(/^1 clip taken in as/).waitFor();
await idle();
await shot('intake-idle');
await page.goto(`${base}/jobs/SLW/naming`);
await page.getByRole('button', { name: 'Counter: 001' }).click();
await shot('naming');
await page.getByRole('button', { name: /^Rename/ }).click();
await page.getByText(/renamed and placed/).waitFor();
await page.goto(`${base}/jobs/SLW/proxies`);
await page.getByRole('button', { name: /^Make/ }).click();
await page.getByText(/\b([4-9]|1\d) made/).waitFor({ timeout: 240_000 });
await shot('proxies');
await page.goto(`${base}/jobs/SLW`);
await page.getByRole('link', { name: 'Card A001' }).waitFor();
await shot('wall');
await idle();
await page.goto(`${base}/jobs/SLW/card/B002`);
await page.getByRole('option', { name: /T0009|_008_/ }).click();
await page.waitForTimeout(800);
await page
  .getByRole('option')
  .nth(1)
  .hover({ position: { x: 20, y: 90 } });
await shot('card');
await page.mouse.move(5, 790);
await page.goto(`${base}/jobs/SLW/facts`);
await page.getByRole('grid').waitFor();
await page.getByLabel('Grouped by').selectOption('camera');
await shot('facts');
await page.goto(`${base}/jobs/SLW/facts?view=charts`);
await shot('facts-charts');
const found = async (query) =>
  (await (await post('jobs/SLW/choose/find', { query, limit: 100 })).json()).tiles;
const choose = (change) => post('jobs/SLW/choose', change);
const ids = (tiles) => tiles.map((t) => t.id);
const wheel = (await found('card is B001')).slice(0, 7);
await choose({ do: 'addKeyword', clips: ids(wheel), name: 'wheel' });
await choose({ do: 'addKeyword', clips: ids(await found('camera is A')), name: 'wide' });
await choose({ do: 'addKeyword', clips: ids(wheel.slice(2, 4)), name: 'low water' });
await choose({ do: 'makeBins', by: 'day' });
await choose({ do: 'addBin', name: 'First turn', clips: ids(wheel.slice(1, 4)) });
await choose({ do: 'saveSearch', name: 'Slow motion', query: 'rate over 30' });
await choose({ do: 'saveSearch', name: 'To be made', query: 'pair is missing' });
for (const { id, frames } of wheel.slice(0, 3))
  await choose({ do: 'addRange', clip: id, from: 6, to: Math.floor(frames / 2), kind: 'select' });
const noted = { do: 'addRange', clip: wheel[1].id, kind: 'note', note: 'splash on the lens' };
await choose({ ...noted, from: wheel[1].frames - 12, to: wheel[1].frames - 8 });
await choose({
  do: 'addStringOut',
  name: 'The wheel turns',
  found: { wanted: { query: 'with select' }, what: 'selects' },
});
await page.goto(`${base}/jobs/SLW/choose?clip=${wheel[1].id}`);
await page.getByRole('list', { name: 'Ranges' }).waitFor();
await shot('choose');
await page.getByRole('button', { name: 'The wheel turns', exact: true }).click();
await page.getByRole('list', { name: 'Parts' }).waitFor();
await shot('string-out');
await page.goto(`${base}/jobs/SLW/handover`);
await page.getByRole('heading', { name: 'Relink rehearsal' }).waitFor();
await shot('rehearsal');
await page.goto(`${base}/jobs/SLW/handover?packages`);
await page.getByLabel('Clips', { exact: true }).click();
await page.getByRole('option', { name: 'A string-out' }).click();
await page.getByLabel('To (a name, or nothing)').fill('the editor');
await page.getByRole('region', { name: 'What would be done' }).waitFor();
await page.getByRole('button', { name: 'Hand over', exact: true }).click();
await page.getByRole('button', { name: 'Check it at its place' }).click();
await page.getByText('the hash list agrees').waitFor();
await shot('package');
await page.goto(`${base}/jobs/SLW/handover?reports=sheet&of=card&which=B001`);
await page.frameLocator('iframe').locator('figure img').last().waitFor();
await shot('report');
await page.goto(`${base}/jobs/SLW/handover?timelines`);
await page.getByLabel('A timeline: OpenTimelineIO').setInputFiles({
  name: 'Tide mill v3.edl',
  mimeType: 'text/plain',
  buffer: Buffer.from(TIDE_MILL),
});
await page.getByRole('table', { name: 'Events' }).locator('tbody tr').first().waitFor();
await shot('timeline');
await page.goto(`${base}/jobs/SLW/logbook`);
await page.getByRole('button', { name: /^Show/ }).first().click();
await shot('logbook');
await post('jobs', { name: 'Ebb Tide', code: 'EBB' });
await post('jobs', { name: 'Lantern Row', code: 'LAN' });
await post('jobs/EBB', { action: 'putAway' });
await page.goto(`${base}/jobs`);
await page.getByRole('link', { name: 'Open Slack Water' }).waitFor();
await shot('jobs');
await page.goto(`${base}/jobs/SLW/places`);
await page.getByRole('heading', { name: 'Places' }).waitFor();
await shot('places');
await browser.close();
await end();
