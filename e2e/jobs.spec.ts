import { expect, type Page, test } from '@playwright/test';
import { mkdtempSync, readdirSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { Replay } from '../src/core/records/replay';
import { TABLES } from '../src/server/records/recorded';
import { hashTree, TestServer } from './server';

// A second job beside the first, through the real interface: cards of one name in both, and neither shows what is the other's.
test.describe.configure({ mode: 'serial' });

const server = new TestServer('demo');
let page: Page;
/** The shelf before the second job’s clips were named. */
let unnamed: ReturnType<typeof hashTree>;

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
  unnamed = hashTree(server.shelf);
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

test('a job is kept as a template, and the next one begins with it: name, code and folder are all that is asked', async () => {
  await page.goto(`${server.url}/jobs/SLW`);
  await page.getByRole('button', { name: /Slack Water/ }).click();
  await page.getByRole('menuitem', { name: 'Templates …' }).click();
  const dialog = page.getByRole('dialog', { name: 'Templates' });
  await dialog.getByLabel('Name of the template').fill('Mill film');
  await dialog.getByRole('button', { name: 'Keep', exact: true }).click();
  await expect(dialog.getByText('Kept as Mill film.')).toBeVisible();
  await dialog.getByLabel('Name of the template').fill('Mill film');
  await dialog.getByRole('button', { name: 'Keep', exact: true }).click();
  await expect(dialog.getByRole('alert')).toContainText('There is a template “Mill film” already.');
  await dialog.getByRole('button', { name: 'Replace “Mill film”' }).click();
  await expect(dialog.getByRole('alert')).toHaveCount(0);
  await expect(dialog.getByText('Kept as Mill film.')).toBeVisible();
  // Parts of one that ships, for the job that is open.
  await dialog
    .getByRole('listitem')
    .filter({ hasText: 'Small documentary' })
    .getByRole('button', { name: 'Take over …' })
    .click();
  const parts = page.getByRole('dialog', { name: 'Take over from “Small documentary”' });
  await expect(parts.getByText(/^8 keywords added: Interview, /)).toBeVisible();
  await parts.getByRole('checkbox', { name: /^Keywords, bins/ }).check();
  await parts.getByRole('button', { name: 'Take over 1 part' }).click();
  await page
    .getByRole('dialog', { name: /^Taken over/ })
    .getByRole('button', { name: 'Close' })
    .click();
  await dialog.getByRole('button', { name: 'Close' }).click();
  // A folder of its own for the next job.
  const parent = mkdtempSync(path.join(tmpdir(), 'shelf-template-'));
  await page.goto(`${server.url}/jobs`);
  await page.getByRole('button', { name: 'Begin a job' }).click();
  await page.getByLabel('Name of the job').fill('Flood');
  await page.getByLabel('Code').fill('FLD');
  await page.getByLabel('Begin with').selectOption({ label: 'Small documentary' });
  await page.getByRole('button', { name: 'Choose its folder …' }).click();
  await page.getByLabel('Folder on this computer').fill(parent);
  await page.getByRole('button', { name: 'Go', exact: true }).click();
  await page.getByRole('button', { name: 'New folder here …' }).click();
  await page.getByLabel('Name of the new folder').fill('Flood');
  await page.getByRole('button', { name: 'Make it' }).click();
  await expect(page.getByLabel('Folder on this computer')).toHaveValue(path.join(parent, 'Flood'));
  await page.getByRole('button', { name: 'Use this folder' }).click();
  await page.getByRole('button', { name: 'Begin', exact: true }).click();
  await page.waitForURL(`${server.url}/jobs/FLD`);
  expect(readdirSync(path.join(parent, 'Flood', 'FLD')).sort()).toEqual([
    'Documents',
    'Exports',
    'Graphics',
    'Music',
    'Stills',
  ]);
  await page.goto(`${server.url}/jobs/FLD/choose`);
  await expect(page.getByText('Interviews').first()).toBeVisible();
  rmSync(parent, { recursive: true });
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

test('the names that a removed job gave are undone from the list of jobs, which the journal on the shelf knows', async () => {
  await page.goto(`${server.url}/jobs`);
  await page.getByRole('button', { name: 'Undo names of a lost job …' }).click();
  const dialog = page.getByRole('dialog', { name: 'Names that no job here knows of' });
  await expect(dialog).toContainText('10 clips');
  await dialog.getByRole('button', { name: 'Undo 10 clips' }).click();
  await expect(dialog.getByRole('status')).toContainText(/\d+ files went back to where they were before\./);
  await expect(dialog.getByRole('status')).toContainText('Nothing more can be undone from the journal.');
  expect(hashTree(server.shelf)).toEqual(unnamed);
  await dialog.getByRole('button', { name: 'Close' }).click();
  await page.goto(`${server.url}/jobs/SLW`);
  await expect(page.getByText('11 clips').first()).toBeVisible();
});

test('of many jobs one is found by its words', async () => {
  for (let n = 1; n <= 8; n++)
    await fetch(`${server.url}/api/jobs`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ name: `Écluse ${n}`, code: `LOCK${n}`, zoneMinutes: 0 }),
    });
  await page.goto(`${server.url}/jobs`);
  const jobs = page.getByRole('list', { name: 'Open jobs' }).getByRole('listitem');
  await expect(jobs).toHaveCount(10);
  await page.getByLabel('Find a job').fill('ecluse');
  await expect(jobs).toHaveCount(8);
  await page.getByLabel('Find a job').fill('lock7');
  await expect(jobs).toHaveCount(1);
  // The field stays while it narrows the list, however few are left.
  await page.getByLabel('Find a job').fill('lock');
  await expect(jobs).toHaveCount(8);
  for (const code of ['LOCK1', 'LOCK2', 'LOCK3']) {
    await jobs.filter({ hasText: code }).getByRole('button', { name: 'Remove …' }).click();
    await page.getByLabel(`Type ${code} to remove it`).fill(code);
    await page.getByRole('button', { name: 'Remove', exact: true }).click();
    await expect(jobs.filter({ hasText: code })).toHaveCount(0);
  }
  await expect(jobs).toHaveCount(5);
  await page.getByLabel('Find a job').fill('nowhere');
  await expect(page.getByText('No open job is called so.')).toBeVisible();
});
