import { expect, type Page, test } from '@playwright/test';
import { execFileSync } from 'node:child_process';
import { existsSync, readdirSync } from 'node:fs';
import path from 'node:path';
import { hashTree, TestServer } from './server';

// The whole job on the demo footage through the real interface, in order; each test goes on where the last one ended.
test.describe.configure({ mode: 'serial' });

const server = new TestServer('demo');
let page: Page;
let before: Record<string, string>;

test.beforeAll(async ({ browser }) => {
  test.setTimeout(400_000);
  await server.start();
  before = hashTree(server.shelf);
  page = await browser.newPage();
});
test.afterAll(() => server.close());

const ffprobe = (args: string[]): string =>
  execFileSync(process.env.FFPROBE_PATH ?? 'ffprobe', ['-v', 'error', ...args], { encoding: 'utf8' }).trim();
const quiet = () =>
  expect(page.getByRole('status').filter({ hasText: /Reading|Making|Renaming/ })).toHaveCount(0, {
    timeout: 240_000,
  });

test('take in all three cards at once', async () => {
  await page.goto(server.url);
  await page.getByRole('main').getByRole('link', { name: 'Bring in footage' }).click();
  await page.getByRole('button', { name: /^Offloaded/ }).click();
  await expect(page.getByRole('button', { name: /^Day 1/ })).toBeVisible();
  await page.getByRole('button', { name: 'Look in this folder' }).click();
  const cards = page.getByRole('article');
  await expect(cards).toHaveCount(3);
  await expect(cards.nth(0)).toContainText('a folder per clip');
  await expect(cards.nth(1)).toContainText('CLIP and SUB folders');
  await expect(cards.nth(1)).toContainText('11 sidecars, 9 camera-made proxies');
  await expect(cards.nth(1)).toContainText('_px');
  await expect(cards.nth(2)).toContainText('T0006 is missing');
  await expect(cards.nth(2).getByLabel('Card', { exact: true })).toHaveValue('B002');
  await expect(cards.nth(2).getByLabel('Day', { exact: true })).toHaveValue('2');
  await cards
    .nth(1)
    .getByRole('button', { name: /Clips and files/ })
    .click();
  await expect(cards.nth(1)).toContainText('CARD.IDX');
  // Looking stores nothing: a reload shows the same look again.
  await page.reload();
  await expect(cards).toHaveCount(3);
  await page.getByRole('button', { name: 'Take in 3 cards, 25 clips' }).click();
  await expect(page.getByRole('link', { name: 'Card B002' })).toBeVisible();
  await quiet();
  expect(hashTree(server.shelf)).toEqual(before);
});

test('every fact of a card is read, with its source', async () => {
  await page.getByRole('link', { name: 'Card B002' }).click();
  await expect(page.getByRole('option')).toHaveCount(10);
  await page.getByRole('option', { name: /T0009/ }).click();
  const drawer = page.getByRole('complementary', { name: 'Clip' });
  await expect(drawer).toContainText(
    'The timecode track says 00:00:00:00, the sidecar 14:22:05:00. The sidecar is used.',
  );
  await expect(drawer.getByRole('table', { name: 'Facts' })).toContainText(/Codec\s*HEVC/);
  await page.getByRole('button', { name: 'Table' }).click();
  await expect(page.getByRole('row', { name: /T0010/ })).toContainText('16:10:54:00');
  await page.getByRole('button', { name: 'Spines' }).click();
});

test('original and proxy are turned at the same frame', async () => {
  const drawer = page.getByRole('complementary', { name: 'Clip' });
  await page.getByRole('option', { name: /T0001/ }).click();
  await page.keyboard.press('Shift+Period');
  await page.keyboard.press('Period');
  await expect(drawer.getByTestId('here')).toHaveValue('06:51:20:11');
  const time = () =>
    drawer.locator('video').evaluate((v: HTMLVideoElement) => Math.floor(v.currentTime * 25));
  await expect.poll(time).toBe(11);
  await page.keyboard.press('p');
  await expect(drawer.getByRole('button', { name: 'Original' })).toHaveAttribute('aria-pressed', 'true');
  await expect.poll(time).toBe(11);
  await expect(drawer.getByTestId('here')).toHaveValue('06:51:20:11');

  // A timecode that is typed is gone to; one outside the clip is refused, and nothing moves.
  const here = drawer.getByTestId('here');
  await here.fill('06:51:20:05');
  await here.press('Enter');
  await expect(drawer.getByTestId('frame')).toHaveText(/^6 of /);
  await here.fill('07:00:00:00');
  await expect(here).toHaveAttribute('aria-invalid', 'true');
  await here.press('Escape');
  await expect(here).toHaveValue('06:51:20:05');
  await here.fill('+4');
  await here.press('Enter');
  await expect(here).toHaveValue('06:51:20:09');

  // In and out, and both files at once.
  await page.keyboard.press('o');
  await page.keyboard.press('Comma');
  await page.keyboard.press('i');
  await expect(drawer).toContainText('Part 06:51:20:08 – 06:51:20:09, 0.1 s');
  await page.keyboard.press('x');
  await expect(drawer).not.toContainText('Part 06:51');
  await page.keyboard.press('b');
  const both = drawer.getByRole('img', { name: /^Frame 8 of .*, (original|proxy)$/ });
  await expect(both).toHaveCount(2);
  for (const image of await both.all())
    await expect.poll(() => image.evaluate((i: HTMLImageElement) => i.naturalWidth)).toBeGreaterThan(300);
  await page.keyboard.press('d');
  await expect(drawer).toContainText('black where they are the same');
  await page.keyboard.press('p');
  await expect(drawer.getByRole('button', { name: 'Proxy', exact: true })).toHaveAttribute(
    'aria-pressed',
    'true',
  );

  // HEVC 4:2:2 10 bit: the browser cannot play it, so the server decodes the frame.
  await page.getByRole('option', { name: /T0003/ }).click();
  await expect(drawer.locator('video')).toBeVisible();
  await page.keyboard.press('p');
  await expect(drawer).toContainText('Decoded by the server');
  await expect
    .poll(() => drawer.getByRole('img').evaluate((i: HTMLImageElement) => i.naturalWidth))
    .toBe(960);

  // 100 fps, no proxy: the original is shown, and said to be.
  await page.getByRole('option', { name: /T0004/ }).click();
  await expect(drawer).toContainText('No proxy yet: this is the original.');
  await expect(drawer.getByRole('button', { name: 'Proxy', exact: true })).toBeDisabled();
});

async function rename(): Promise<void> {
  await page.goto(`${server.url}/jobs/SLW/naming`);
  await page.getByRole('button', { name: /^Rename \d+ files$/ }).click();
  await expect(page.getByText(/files renamed and placed\./)).toBeVisible();
}

/** Lifts a block by keyboard, moves it over its neighbour, lays it down; each move is announced. */
async function moveBlock(name: string, key: 'ArrowLeft' | 'ArrowRight', over: string): Promise<void> {
  const said = page.locator('[id^=DndLiveRegion]').first();
  await page.getByRole('button', { name }).focus();
  await page.keyboard.press('Space');
  await expect(said).toContainText(/Picked up|was moved over/);
  await expect(async () => {
    await page.keyboard.press(key);
    await expect(said).toContainText(`over droppable area ${over}`, { timeout: 700 });
  }).toPass({ timeout: 10_000 });
  await page.keyboard.press('Space');
  await expect(said).toContainText('was dropped');
}

test('name by blocks: move one, set one, apply; every byte stands where the plan said', async () => {
  await page.goto(`${server.url}/jobs/SLW/naming`);
  await expect(page.getByTestId('example')).toHaveText('SLW_D1_A001_001_25p.MOV');
  await moveBlock('Rate: 25p', 'ArrowLeft', 'counter');
  await expect(page.getByTestId('example')).toHaveText('SLW_D1_A001_25p_001.MOV');
  await page.getByRole('button', { name: 'Counter: 001' }).click();
  await page.getByLabel('starts at').fill('11');
  await expect(page.getByTestId('example')).toHaveText('SLW_D1_A001_25p_011.MOV');
  await page.getByLabel('starts at').fill('1');
  await moveBlock('Rate: 25p', 'ArrowRight', 'counter');
  await expect(page.getByTestId('example')).toHaveText('SLW_D1_A001_001_25p.MOV');

  const plan = page.waitForRequest(/naming\/apply/);
  await page.getByRole('button', { name: 'Rename 67 files' }).click();
  await plan;
  await expect(page.getByText('67 files renamed and placed.')).toBeVisible();
  const after = hashTree(server.shelf);
  expect(Object.values(after).sort()).toEqual(Object.values(before).sort());
  const { entries } = (await (await fetch(`${server.url}/api/jobs/SLW/logbook`)).json()) as {
    entries: { planId: string }[];
  };
  const { steps } = (await (
    await fetch(`${server.url}/api/jobs/SLW/naming/plans/${entries[0]!.planId}`)
  ).json()) as {
    steps: { from: { path: string }; to: { path: string }; state: string }[];
  };
  expect(steps.every((s) => s.state === 'done')).toBe(true);
  const moved = new Map(steps.map((s) => [s.from.path, s.to.path]));
  expect(after).toEqual(Object.fromEntries(Object.entries(before).map(([p, h]) => [moved.get(p) ?? p, h])));
  // The family of the clip whose camera-made proxy had a doubled extension is together.
  for (const p of ['SLW_D2_B002_003_25p.MP4', 'SLW_D2_B002_003_25p.XML', 'Proxy/SLW_D2_B002_003_25p_px.MP4'])
    expect(Object.keys(after)).toContain(`SLW/D2_2026-05-06/B/B002/${p}`);
});

test('undo in the logbook puts every file back; naming again places it again', async () => {
  await page.goto(`${server.url}/jobs/SLW/logbook`);
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(page.getByText('undone', { exact: true })).toBeVisible();
  expect(hashTree(server.shelf)).toEqual(before);
  await rename();
  expect(Object.keys(hashTree(server.shelf)).filter((p) => p.startsWith('SLW/'))).toHaveLength(67);
});

test('make the missing proxies, pause, go on, cancel, try again; the server is killed in the middle; nothing is lost and the queue goes on', async () => {
  test.setTimeout(400_000);
  const named = hashTree(server.shelf);
  await page.goto(`${server.url}/jobs/SLW/proxies`);
  // One of the eight without a proxy is light enough to be cut as it is, until the rule says otherwise.
  await expect(page.getByRole('button', { name: 'Make 7 proxies' })).toBeVisible();
  await page.getByRole('button', { name: 'Rules …' }).click();
  await page.getByLabel('every clip, whatever it is').check();
  await expect(page.getByRole('dialog').getByRole('status')).toHaveText(
    'By this rule 8 clips need a proxy that have none proven.',
  );
  await page.getByRole('button', { name: 'Done' }).click();
  await page.getByRole('button', { name: 'Make 8 proxies' }).click();
  const queue = page.getByRole('region', { name: 'Queue' });
  await queue.getByRole('button', { name: 'Pause all' }).click();
  await expect(queue).toContainText('8 paused');
  // What rests is not offered a second time, and the server has ended what it was at.
  await expect(page.getByText('No clip is waiting for a proxy.')).toBeVisible();
  await expect(page.getByRole('status').filter({ hasText: 'Paused' })).toContainText('8 proxies');
  expect(readdirSync(path.join(server.proxies, '.sort-shelf', 'making'))).toEqual([]);
  await queue.getByRole('button', { name: 'Resume all' }).click();
  await expect(queue).toContainText(/[12] being made, [67] queued/);
  await queue.getByRole('button', { name: 'Cancel all' }).click();
  await expect(queue).toContainText('nothing is being made');
  expect(readdirSync(path.join(server.proxies, '.sort-shelf', 'making'))).toEqual([]);
  await queue.getByRole('button', { name: /^Retry (?:all \d+|it)/ }).click();
  await expect(queue).toContainText(/[1-3] made/);
  await server.kill();
  const left = Object.keys(hashTree(server.proxies));
  expect(left.length).toBeLessThan(8);
  await server.start();
  // The page that stayed open catches up by itself.
  await expect(queue).toContainText('8 made', { timeout: 240_000 });
  await expect(page.getByRole('main')).toContainText('Every clip has a proven proxy.');
  const making = path.join(server.proxies, '.sort-shelf', 'making');
  expect(existsSync(making) ? readdirSync(making) : []).toEqual([]);
  expect(hashTree(server.shelf)).toEqual(named);

  // Each made proxy counted frame by frame, its rate and timecode read, by ffprobe.
  const clips = (
    await Promise.all(
      ['A001', 'B001', 'B002'].map(
        async (c) =>
          (
            (await (await fetch(`${server.url}/api/jobs/SLW/overview/cards/${c}`)).json()) as {
              views: {
                name: string;
                frames: number;
                start: string;
                pair: { made: boolean; state: string };
              }[];
            }
          ).views,
      ),
    )
  ).flat();
  expect(clips).toHaveLength(25);
  expect(clips.every((c) => c.pair.state === 'proven')).toBe(true);
  const made = Object.keys(hashTree(server.proxies));
  expect(made).toHaveLength(8);
  for (const p of made) {
    const file = path.join(server.proxies, p);
    const clip = clips.find((c) => c.name === path.basename(p, '.mp4'))!;
    expect(
      ffprobe([
        '-count_frames',
        '-select_streams',
        'v:0',
        '-show_entries',
        'stream=nb_read_frames',
        '-of',
        'csv=p=0',
        file,
      ]),
    ).toBe(String(clip.frames));
    expect(
      ffprobe(['-select_streams', 'd:0', '-show_entries', 'stream_tags=timecode', '-of', 'csv=p=0', file]),
    ).toBe(clip.start);
  }
});

test('pairs are proven again on request', async () => {
  await page.goto(`${server.url}/jobs/SLW/proxies`);
  const pairs = page.getByRole('region', { name: 'Pairs' });
  const ended = page.waitForResponse(
    async (r) =>
      /platform\/tasks\/./.test(r.url()) && ((await r.json()) as { state: string }).state === 'done',
    { timeout: 240_000 },
  );
  await pairs.getByRole('button', { name: 'Prove again' }).click();
  expect(await (await ended).json()).toMatchObject({ title: 'Proving pairs', result: { checked: 25 } });
  await expect(pairs.getByRole('button', { name: '25 proven' })).toBeVisible();
});

test('undo after the proxies were made takes them along', async () => {
  await page.goto(`${server.url}/jobs/SLW/logbook`);
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(page.getByText('undone', { exact: true })).toHaveCount(2);
  expect(hashTree(server.shelf)).toEqual(before);
  expect(Object.keys(hashTree(server.proxies)).sort()[0]).toBe('not-named/SLW/A001/A001_C001.mp4');
  await rename();
  expect(Object.keys(hashTree(server.proxies)).sort()[0]).toBe(
    'SLW/D1_2026-05-05/A/A001/SLW_D1_A001_001_25p.mp4',
  );
});

test('a second server on the same folder says so and ends', async () => {
  const child = new TestServer('start');
  await expect(child.start({ SORT_SHELF_HOME: server.home })).rejects.toThrow(
    /Another Sort Shelf \(process \d+/,
  );
  await child.close();
});

test('a taken port is said', async () => {
  const child = new TestServer('start');
  child.port = server.port;
  await expect(child.start()).rejects.toThrow(`port ${server.port} is taken by another program`);
  await child.close();
});

test('health, and requests from other sites', async () => {
  const health = (await (await fetch(`${server.url}/api/platform/health`)).json()) as Record<string, unknown>;
  expect(health).toMatchObject({
    ready: true,
    version: expect.stringMatching(/^\d+\.\d+\.\d+$/),
    ffmpeg: expect.stringContaining('ffmpeg'),
    database: expect.stringContaining('PostgreSQL'),
  });
  const foreign = await fetch(`${server.url}/api/jobs/SLW/proxies`, {
    method: 'POST',
    headers: { origin: 'http://elsewhere.example', 'content-type': 'application/json' },
    body: '{"clips":[]}',
  });
  expect(foreign.status).toBe(403);
  const wrong = await fetch(`${server.url}/api/jobs/SLW/proxies`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: 'nonsense',
  });
  expect(wrong.status).toBe(400);
});
