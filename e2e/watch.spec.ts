import { expect, type Page, test } from '@playwright/test';
import { copyFileSync, cpSync, mkdirSync, mkdtempSync, realpathSync, renameSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { TestServer } from './server';

// A folder that is watched: footage dropped into it is in the job by itself, and once only, also after a power cut.
test.describe.configure({ mode: 'serial' });

const server = new TestServer('demo');
const dropped = realpathSync(mkdtempSync(path.join(tmpdir(), 'shelf-watched-')));
let page: Page;

test.beforeAll(async ({ browser }) => {
  test.setTimeout(400_000);
  await server.start();
  page = await browser.newPage();
});
test.afterAll(async () => {
  await server.close();
  rmSync(dropped, { recursive: true, force: true });
});
const drawer = (...p: string[]) => path.join(server.home, 'stand-ins', 'drawer', ...p);
const shots = () => drawer('B003', 'CLIP');
const watched = () => page.getByRole('region', { name: 'Watched folders' });
const clipsInJob = async (): Promise<string[]> => {
  const { cards } = (await (await fetch(`${server.url}/api/jobs/SLW/overview/wall`)).json()) as {
    cards: { id: string }[];
  };
  const names: string[] = [];
  for (const { id } of cards) {
    const card = (await (await fetch(`${server.url}/api/jobs/SLW/overview/cards/${id}`)).json()) as {
      views: { name: string }[];
    };
    names.push(...card.views.map((v) => v.name));
  }
  return names.sort();
};

test('a folder is watched, and what is dropped into it comes into the job and its bins', async () => {
  await page.goto(`${server.url}/jobs/SLW/intake`);
  await page.getByRole('button', { name: 'Add a place …' }).click();
  await page.getByLabel('Folder on this computer').fill(dropped);
  await page.getByRole('button', { name: 'Go', exact: true }).click();
  await page.getByRole('button', { name: 'Use this folder' }).click();
  await page.getByRole('button', { name: 'Watch this folder …' }).click();
  await page.getByRole('button', { name: 'Watch it' }).click();
  await expect(watched().getByText(/the system tells of changes/)).toBeVisible();
  mkdirSync(path.join(dropped, 'Wheel'));
  copyFileSync(path.join(shots(), 'T0001.MP4'), path.join(dropped, 'Wheel', 'T0001.MP4'));
  await expect(watched().getByText(/^1 clip taken in as .*: T0001$/)).toBeVisible();
  await page.goto(`${server.url}/jobs/SLW/choose`);
  await expect(page.getByText('Wheel', { exact: true }).first()).toBeVisible();
});

test('the same recording again is said, and not taken in twice; a card is taken as a whole', async () => {
  await page.goto(`${server.url}/jobs/SLW/intake`);
  copyFileSync(path.join(shots(), 'T0001.MP4'), path.join(dropped, 'again.mp4'));
  await expect(watched().getByText(/^again\.mp4 is in the job already: T0001\.MP4 of /)).toBeVisible();
  cpSync(drawer('D001'), path.join(dropped, 'Card'), { recursive: true });
  await expect(watched().getByText(/^4 clips taken in as /)).toBeVisible();
  expect((await clipsInJob()).length).toBe(5);
  await watched().getByRole('button', { name: 'Mark as read' }).click();
  await expect(watched().getByText(/taken in as/)).toHaveCount(0);
});

test('what comes while the server is away, or is moved meanwhile, is found at the next start, once', async () => {
  await server.kill();
  rmSync(path.join(dropped, 'again.mp4'));
  renameSync(path.join(dropped, 'Wheel', 'T0001.MP4'), path.join(dropped, 'Wheel', 'wheel turns.MP4'));
  copyFileSync(path.join(shots(), 'T0002.MP4'), path.join(dropped, 'Wheel', 'T0002.MP4'));
  await server.start();
  await page.goto(`${server.url}/jobs/SLW/intake`);
  await expect(watched().getByText(/was moved outside: it is Wheel\/wheel turns\.MP4 now$/)).toBeVisible();
  await expect(watched().getByText(/^1 clip taken in as .*: T0002$/)).toBeVisible();
  expect((await clipsInJob()).length).toBe(6);
});

test('only when asked, and no more', async () => {
  await watched().getByRole('button', { name: 'Only when asked' }).click();
  await expect(watched().getByText(/looked at when you ask/)).toBeVisible();
  copyFileSync(path.join(shots(), 'T0003.MP4'), path.join(dropped, 'T0003.MP4'));
  await page.waitForTimeout(3000);
  expect((await clipsInJob()).length).toBe(6);
  await watched()
    .getByRole('button', { name: /^Look now/ })
    .click();
  await expect(watched().getByText(/^1 clip taken in as .*: T0003$/)).toBeVisible();
  await watched()
    .getByRole('button', { name: /^Stop watching/ })
    .click();
  await expect(watched()).toHaveCount(0);
  expect((await clipsInJob()).length).toBe(7);
});
