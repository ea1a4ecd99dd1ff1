import { expect, type Locator, type Page, test } from '@playwright/test';
import { readFileSync } from 'node:fs';
import path from 'node:path';
import { takeInOffloaded } from './offloaded';
import { hashTree, TestServer } from './server';

// Handing over through the real interface, in order: the relink rehearsal, mending what it finds, a string-out as a timeline, and timelines that
// come back.
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

const events = () => page.getByRole('table', { name: 'Events' }).locator('tbody tr');
const read = async (name: string, text: string) => {
  await page
    .getByLabel('A timeline: OpenTimelineIO')
    .setInputFiles({ name, mimeType: 'application/octet-stream', buffer: Buffer.from(text) });
};
const count = (words: string) => page.getByRole('button', { name: new RegExp(`^\\d+ ?${words}$`) });
const saved = async (button: Locator): Promise<string> => {
  const coming = page.waitForEvent('download');
  await button.click();
  return readFileSync(await (await coming).path(), 'utf8');
};

test('a string-out is saved as a timeline, and found whole when it comes back', async () => {
  await page.keyboard.press('6');
  await page.getByRole('combobox', { name: 'Search' }).fill('card is A001');
  await expect(page.getByRole('listbox', { name: 'Clips' }).getByRole('option')).toHaveCount(4);
  await page.getByRole('button', { name: 'String out …' }).click();
  await page.getByRole('menuitem', { name: 'All that is shown' }).click();
  await page.getByRole('dialog').getByRole('textbox').fill('Wheel turns');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('button', { name: 'Wheel turns', exact: true })).toBeVisible();
  await page.goto(`${server.url}/jobs/SLW/handover?timelines`);
  for (const as of ['OTIO', 'EDL'] as const) {
    const text = await saved(page.getByRole('link', { name: `Save Wheel turns as ${as}` }));
    await read(`wheel.${as.toLowerCase()}`, text);
    await expect(page.getByRole('link', { name: new RegExp(`wheel\\.${as.toLowerCase()}`) })).toHaveAttribute(
      'aria-current',
      'true',
    );
    await expect(page.getByRole('heading', { name: 'Wheel turns', level: 1 })).toBeVisible();
    await expect(count('found')).toHaveText(/^ ?4/);
    await expect(page.getByText('made no sense')).toHaveCount(0);
  }
});

test('of two that are given at once, the one given last is open in the end', async () => {
  const cut = (title: string) =>
    `TITLE: ${title}\n001  AX V C 07:48:10:05 07:48:11:05 01:00:00:00 01:00:01:00\n* FROM CLIP NAME: A001_C001.MOV\n`;
  // The first answer is slow to come.
  const slow = (url: URL) => url.pathname.endsWith('/handover/edits');
  await page.route(slow, async (route) => {
    if (route.request().postData()?.includes('one.edl')) await new Promise((r) => setTimeout(r, 1500));
    await route.continue();
  });
  await read('one.edl', cut('One'));
  await read('two.edl', cut('Two'));
  const list = page.getByRole('region', { name: 'Edits that came back' }).getByRole('listitem');
  await expect(list).toHaveCount(4);
  await expect(page.getByRole('link', { name: /two\.edl/ })).toHaveAttribute('aria-current', 'true');
  await expect(page.getByRole('heading', { name: 'Two', level: 1 })).toBeVisible();
  await page.unroute(slow);
});

test('a timeline that was cut from files without timecode: what is found, what is not and why, and it is corrected', async () => {
  const line = (n: number, times: string, name: string, at: string) =>
    `00${n}  AX       V     C        ${times} ${at}\r\n* FROM CLIP NAME: ${name}\r\n`;
  await read(
    'tide v3.edl',
    [
      'TITLE: Tide mill v3\r\nFCM: NON-DROP FRAME\r\n',
      // The clip that lost its timecode, as the edit had it before it was mended.
      line(1, '00:00:00:10 00:00:01:10', 'T0009.MP4', '01:00:00:00 01:00:01:00'),
      line(2, '07:48:10:05 07:48:11:05', 'A001_C001.MOV', '01:00:01:00 01:00:02:00'),
      line(3, '07:48:12:20 07:48:13:20', 'A001_C001.MOV', '01:00:02:00 01:00:03:00'),
      line(4, '21:00:00:00 21:00:01:00', 'STRANGER.MOV', '01:00:03:00 01:00:04:00'),
    ].join(''),
  );
  await expect(page.getByRole('heading', { name: 'Tide mill v3', level: 1 })).toBeVisible();
  await expect(events()).toHaveCount(4);
  await expect(count('found')).toHaveText(/^ ?2/);
  await expect(count('outside its clip')).toHaveText(/^ ?1/);
  await expect(count('missing')).toHaveText(/^ ?1/);
  await expect(events().nth(0)).toContainText('cut from the original T0009.MP4, which starts at 00:00:00:00');
  await expect(events().nth(2)).toContainText('it uses 20 frames after its last');
  await count('missing').click();
  await expect(events()).toHaveCount(1);
  await expect(events()).toContainText('no clip of the job is named STRANGER.MOV');
  await page.getByRole('button', { name: 'Show all' }).click();
  const right = await saved(page.getByRole('link', { name: 'Save EDL' }));
  expect(right).toMatch(/14:22:05:10 14:22:06:10 01:00:00:00 01:00:01:00\r\n\* FROM CLIP NAME: T0009/);
  await read('tide v3 corrected.edl', right);
  await expect(page.getByRole('link', { name: /tide v3 corrected\.edl/ })).toHaveAttribute(
    'aria-current',
    'true',
  );
  await expect(events().nth(0)).toContainText('found by its file');
  await expect(page.getByText('not the original’s')).toHaveCount(0);
  // Back to the one before, and by the address.
  await page.goBack();
  await expect(page.getByText('1 event uses timecode that is not the original’s:')).toBeVisible();
  await page.reload();
  await expect(events()).toHaveCount(4);
});

test('what is no timeline is said with its name; what an edit uses is seen on the clips; an edit is removed', async () => {
  await read('notes.txt', 'buy tea');
  const said = page.getByRole('region', { name: 'Edits that came back' }).getByRole('alert');
  await expect(said).toContainText('notes.txt cannot be read as a timeline');
  await expect(said).toContainText('Export it again');
  await page.goto(`${server.url}/jobs/SLW/choose`);
  await page.getByRole('combobox', { name: 'Search' }).fill('used is "Tide mill v3"');
  await expect(page.getByRole('listbox', { name: 'Clips' }).getByRole('option')).toHaveCount(2);
  await page.goto(`${server.url}/jobs/SLW/handover?timelines`);
  const list = page.getByRole('region', { name: 'Edits that came back' }).getByRole('listitem');
  await expect(list).toHaveCount(6);
  await list
    .first()
    .getByRole('button', { name: /^Remove the edit/ })
    .click();
  await expect(list).toHaveCount(5);
});
