import { expect, type Page, test } from '@playwright/test';
import { readFileSync } from 'node:fs';
import { Replay } from '../src/core/records/replay';
import { TABLES } from '../src/server/records/recorded';
import { hashTree, TestServer } from './server';

// A second job beside the first, through the real interface: cards of one name in both, and neither shows what is the other's.
test.describe.configure({ mode: 'serial' });

const server = new TestServer('demo');
let page: Page;

test.beforeAll(async ({ browser }) => {
  test.setTimeout(400_000);
  await server.start();
  page = await browser.newPage();
});
test.afterAll(() => server.close());

const quiet = (p: Page) =>
  expect(p.getByRole('status').filter({ hasText: /Reading|Making|Renaming/ })).toHaveCount(0, {
    timeout: 240_000,
  });
const takeIn = async (code: string, folder: string, cards: string) => {
  await page.goto(`${server.url}/jobs/${code}/intake?root=shelf&path=${encodeURIComponent(folder)}&look=1`);
  await page.getByRole('button', { name: new RegExp(`^Take in ${cards}`) }).click();
  await page.waitForURL(`${server.url}/jobs/${code}`);
  await quiet(page);
};

test('the only job is opened at once; a second is begun from the list, and opened', async () => {
  await page.goto(server.url);
  await page.waitForURL(`${server.url}/jobs/SLW`);
  await takeIn('SLW', 'Offloaded/Day 1/B001', '1 card');
  await page.getByRole('button', { name: /Slack Water/ }).click();
  await page.getByRole('menuitem', { name: 'All jobs' }).click();
  await expect(page.getByRole('list', { name: 'Open jobs' }).getByRole('listitem')).toHaveCount(1);
  await page.getByRole('button', { name: 'Begin a job' }).click();
  await page.getByLabel('Name of the job').fill('Ebb');
  await page.getByLabel('Code').fill('slw');
  await page.getByRole('button', { name: 'Begin', exact: true }).click();
  await expect(page.getByRole('main').getByRole('alert')).toContainText('There is a job slw already.');
  await page.getByLabel('Code').fill('EBB');
  await page.getByRole('button', { name: 'Begin', exact: true }).click();
  await page.waitForURL(`${server.url}/jobs/EBB`);
  await expect(page.getByRole('banner')).toContainText('Ebb');
  await expect(page.getByRole('main').getByRole('link', { name: 'Bring in footage' })).toBeVisible();
});

test('a card of the same name stands in both, and each shows its own', async ({ browser }) => {
  // The card that the first job has is not taken in twice: it is said whose it is.
  await page.goto(`${server.url}/jobs/EBB/intake?root=shelf&path=Offloaded%2FDay+1%2FB001&look=1`);
  await expect(page.getByRole('article')).toContainText('B001 of the job “Slack Water”');
  await page.goto(`${server.url}/jobs/EBB/intake?root=shelf&path=Offloaded%2FDay+2%2FB002&look=1`);
  await page.getByLabel('Card', { exact: true }).fill('B001');
  await page.getByLabel('Day', { exact: true }).fill('1');
  await page.getByRole('button', { name: /^Take in 1 card/ }).click();
  await page.waitForURL(`${server.url}/jobs/EBB`);
  await quiet(page);
  await page.getByRole('link', { name: 'Card B001' }).click();
  await expect(page.getByRole('option')).toHaveCount(10);
  const other = await browser.newPage();
  await other.goto(`${server.url}/jobs/SLW/card/B001`);
  await expect(other.getByRole('option')).toHaveCount(11);
  // Two tabs, each in its job: what is named in one leaves the other as it is.
  await page.goto(`${server.url}/jobs/EBB/naming`);
  await page.getByRole('button', { name: /^Rename/ }).click();
  await expect(page.getByText(/files? renamed and placed/).first()).toBeVisible();
  expect(Object.keys(hashTree(server.shelf)).filter((p) => p.startsWith('EBB/')).length).toBeGreaterThan(9);
  expect(Object.keys(hashTree(server.shelf)).filter((p) => p.startsWith('SLW/'))).toEqual([]);
  await other.reload();
  await expect(other.getByRole('option').first()).toContainText('T0001');
  await other.goto(`${server.url}/jobs/SLW/logbook`);
  await expect(other.getByText('Created the job Slack Water (SLW)')).toBeVisible();
  await expect(other.getByText(/renamed and placed/)).toHaveCount(0);
  await other.close();
});

test('the menu and the back button lead from job to job', async () => {
  await page.goto(`${server.url}/jobs/EBB/proxies`);
  await page.getByRole('button', { name: /^Ebb/ }).click();
  await page.getByRole('menuitem', { name: /Slack Water/ }).click();
  await page.waitForURL(`${server.url}/jobs/SLW`);
  await expect(page.getByText('11 clips').first()).toBeVisible();
  await page.goBack();
  await expect(page).toHaveURL(`${server.url}/jobs/EBB/proxies`);
  await expect(page.getByRole('banner')).toContainText('EBB');
  // In any case, as somebody types it.
  await page.goto(`${server.url}/jobs/ebb`);
  await expect(page.getByText('10 clips').first()).toBeVisible();
  await page.goto(`${server.url}/jobs/NOPE`);
  await expect(page.getByRole('main').getByRole('alert')).toContainText('There is no job NOPE here.');
  await page.getByRole('link', { name: 'All jobs' }).click();
  await expect(page.getByRole('heading', { name: 'Jobs' })).toBeVisible();
});

test('an archived job can be looked at and not changed, and it is reopened', async () => {
  const row = page.getByRole('listitem').filter({ hasText: 'EBB' });
  await row.getByRole('button', { name: 'Archive' }).click();
  await expect(page.getByRole('list', { name: 'Archived jobs' })).toContainText('Ebb');
  await page.getByRole('link', { name: 'Open Ebb' }).click();
  await expect(page.getByText(/This job was archived on/)).toBeVisible();
  await expect(page.getByRole('link', { name: 'Card B001' })).toBeVisible();
  const refused = await fetch(`${server.url}/api/jobs/EBB/intake/scan`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ card: null }),
  });
  expect([refused.status, ((await refused.json()) as { detail: string }).detail]).toEqual([
    422,
    'Ebb is archived: it cannot be changed.',
  ]);
  await page.getByRole('button', { name: 'Reopen it' }).click();
  await expect(page.getByText(/This job was archived on/)).toHaveCount(0);
});

test('a job is exported as one file, and removed; its files stay', async () => {
  await page.goto(`${server.url}/jobs`);
  const row = page.getByRole('listitem').filter({ hasText: 'EBB' });
  const [download] = await Promise.all([
    page.waitForEvent('download'),
    row.getByRole('link', { name: 'Export' }).click(),
  ]);
  expect(download.suggestedFilename()).toBe('EBB.job.jsonl');
  const replay = new Replay(TABLES);
  for (const line of readFileSync(await download.path(), 'utf8')
    .trim()
    .split('\n'))
    replay.line(line);
  expect(replay.tables().get('jobs')).toMatchObject([{ code: 'EBB' }]);
  expect(replay.tables().get('clips')!.length).toBe(10);
  const files = hashTree(server.shelf);
  await row.getByRole('button', { name: 'Remove …' }).click();
  const remove = page.getByRole('button', { name: 'Remove', exact: true });
  await expect(remove).toBeDisabled();
  await page.getByLabel('Type EBB to remove it').fill('ebb');
  await remove.click();
  await expect(page.getByRole('listitem').filter({ hasText: 'EBB' })).toHaveCount(0);
  expect(hashTree(server.shelf)).toEqual(files);
  await page.getByRole('link', { name: 'Open Slack Water' }).click();
  await expect(page.getByText('11 clips').first()).toBeVisible();
});
