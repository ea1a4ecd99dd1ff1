import { expect, type Page, test } from '@playwright/test';
import { execFileSync } from 'node:child_process';
import { TestServer } from './server';

// A job of thousands of clips: the lists stay usable.
test.describe.configure({ mode: 'serial' });

const CLIPS = 4000;
const server = new TestServer('start');
let page: Page;

test.beforeAll(async ({ browser }) => {
  test.setTimeout(400_000);
  execFileSync(process.execPath, ['--import', 'tsx', 'e2e/manyClips.ts', server.home, String(CLIPS)], {
    stdio: ['ignore', 'ignore', 'inherit'],
  });
  await server.start();
  page = await browser.newPage();
});
test.afterAll(() => server.close());

const grid = () => page.getByRole('grid', { name: 'Clips by fields' });
const foot = () => page.locator('footer strong');

test('the table draws the lines in sight only, finds among all, and reaches the last', async () => {
  await page.goto(`${server.url}/jobs/SLW/facts`);
  await expect(foot()).toHaveText('4,000 clips');
  expect(await grid().getByRole('row').count()).toBeLessThan(60);
  await page.getByRole('searchbox', { name: 'Find in the table' }).fill('m003999');
  await expect(foot()).toHaveText('1 clip');
  await expect(grid().getByRole('row', { name: /M003999/ })).toBeVisible();
  await page.getByRole('searchbox', { name: 'Find in the table' }).fill('');
  await expect(foot()).toHaveText('4,000 clips');
  await grid().focus();
  await page.keyboard.press('End');
  await expect(grid().getByRole('row', { name: /M003999/ })).toBeVisible();
  await page.keyboard.press('Control+a');
  await expect(foot()).toHaveText('4,000 of 4,000 chosen');
  await page.keyboard.press('Escape');
});

test('grouped by card, sorted by rate: heads with their counts, the fastest last', async () => {
  await page.getByLabel('Grouped by').selectOption({ label: 'card' });
  await page.keyboard.press('Home');
  await expect(grid().getByText('B001', { exact: true }).first()).toBeVisible();
  await grid().getByRole('button', { name: 'Frame rate' }).click();
  await grid().getByRole('button', { name: 'Frame rate' }).click();
  await expect(grid().getByRole('row').filter({ hasText: 'fps' }).first()).toContainText('50 fps');
  await page.getByLabel('Grouped by').selectOption({ label: 'nothing' });
});

test('a card of five hundred clips has every one of them in its table', async () => {
  await page.goto(`${server.url}/jobs/SLW/card/X002`);
  await page.getByRole('button', { name: 'Table', exact: true }).click();
  await expect(page.getByRole('grid', { name: 'Clips' }).getByRole('row', { name: /M000503/ })).toBeVisible();
  for (let n = 0; n < 4; n++) await page.getByRole('button', { name: 'Go to next page' }).click();
  await expect(page.getByRole('grid', { name: 'Clips' }).getByRole('row', { name: /M000903/ })).toBeVisible();
  await expect(page.getByRole('button', { name: 'Go to next page' })).toBeDisabled();
});

test('the wall stands, and a card opens from it', async () => {
  await page.goto(server.url);
  await expect(page.getByRole('main')).toContainText('X008');
  await page.getByRole('link', { name: /X008/ }).first().click();
  await expect(page).toHaveURL(/card\/X008/);
  await page.reload();
  await expect(page.locator('footer')).toContainText('of 497 chosen');
});

test('a long logbook is read a page at a time, and words are looked for in all of it', async () => {
  await page.goto(`${server.url}/jobs/SLW/logbook`);
  const entries = page.getByRole('main').getByRole('listitem').filter({ hasText: 'Entry number' });
  await expect(entries.filter({ hasText: 'number 450' })).toBeVisible();
  await expect(entries).toHaveCount(200);
  await page.getByRole('searchbox', { name: 'Find in the logbook' }).fill('number 12');
  await expect(entries).toHaveCount(11);
  await page.getByRole('searchbox', { name: 'Find in the logbook' }).fill('');
  await expect(entries).toHaveCount(200);
  await page.getByRole('button', { name: 'Older entries' }).click();
  await expect(entries).toHaveCount(400);
  await page.getByRole('button', { name: 'Older entries' }).click();
  await expect(entries).toHaveCount(450);
  await expect(page.getByRole('button', { name: 'Older entries' })).toHaveCount(0);
  await page.getByRole('button', { name: 'Checked', exact: true }).click();
  await expect(entries).toHaveText([/Entry number 1$/]);
});
