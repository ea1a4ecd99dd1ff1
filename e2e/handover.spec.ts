import { expect, type Page, test } from '@playwright/test';
import path from 'node:path';
import { takeInOffloaded } from './offloaded';
import { hashTree, TestServer } from './server';

// Handing over through the real interface, in order: the relink rehearsal, and mending what it finds.
test.describe.configure({ mode: 'serial' });

const server = new TestServer('demo');
let page: Page;

test.beforeAll(async ({ browser }) => {
  test.setTimeout(400_000);
  await server.start();
  page = await browser.newPage();
  await takeInOffloaded(page, server.url);
});
test.afterAll(() => server.close());

const lines = () => page.getByRole('table', { name: 'Clips of the rehearsal' }).locator('tbody tr');
const verdict = (words: string) => page.getByRole('button', { name: new RegExp(`^\\d+ ?${words}$`) });
const way = (name: string) => page.getByRole('button', { name });

test('before the edit: the clip that lost its timecode is named, with what each way finds', async () => {
  await page.keyboard.press('7');
  await page.waitForURL(/\/handover$/);
  await expect(verdict('connects')).toHaveText(/^24/);
  await expect(verdict('will not connect')).toHaveText(/^1/);
  // What asks for something to be done comes first.
  const first = lines().first();
  await expect(first).toContainText('B002');
  await expect(first).toContainText('will not connect: no original holds its timecode');
  await expect(first).toContainText(/The original says 00:00:00:00, though it was recorded from \d\d:/);
  await first.getByRole('button', { name: /Every way$/ }).click();
  await expect(lines().nth(1)).toContainText('reel and timecodethe camera’s proxy states no reel');
  await expect(page.getByText('By timecode alone 24 of 25 connect, which is the most.')).toBeVisible();
  // A count opens the clips behind it.
  await way('By full name, finds several: 4').click();
  await expect(lines()).toHaveCount(4);
  await expect(page.getByRole('heading', { name: 'By full name: finds several 4' })).toBeVisible();
  await page.getByLabel('Find by part of a name').fill('T0004');
  await expect(lines()).toHaveCount(2);
  await page.getByLabel('Find by part of a name').fill('');
  await page.getByRole('button', { name: 'Show all' }).click();
  await expect(lines()).toHaveCount(25);
});

test('it is mended from there: after that every clip connects, and no file of a camera is another', async () => {
  const footage = path.join(server.shelf, 'Offloaded');
  const before = hashTree(footage);
  await page.getByRole('button', { name: 'Rewrap with timecode' }).click();
  await expect(page.getByText('Begun for 1 clip')).toBeVisible();
  await expect(verdict('connects')).toHaveText(/^25/);
  await expect(page.getByRole('list', { name: 'What can be mended' })).toHaveCount(0);
  expect(hashTree(footage)).toEqual(before);
  await page.reload();
  await expect(verdict('connects')).toHaveText(/^25/);
  await expect(
    page.getByText('By timecode alone every clip connects: tell the editor to use that.'),
  ).toBeVisible();
});
