import { expect, type Page, test } from '@playwright/test';
import { cpSync, existsSync, readFileSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { mayMount, RealMounts } from '../src/server/testing/realMounts';
import { TestServer } from './server';

// Cards and drives that are mounted for real while the application runs.
test.describe.configure({ mode: 'serial' });
test.skip(!mayMount, 'mounting needs the right to mount');

const server = new TestServer('demo');
const real = new RealMounts();
let page: Page;
let card: string;

test.beforeAll(async ({ browser }) => {
  test.setTimeout(400_000);
  await server.start();
  page = await browser.newPage();
});
test.afterAll(async () => {
  await server.close();
  real.end();
});
const drawer = () => path.join(server.home, 'stand-ins', 'drawer');
const place = (name: string) =>
  page
    .getByRole('region', { name: 'Folders in use' })
    .getByRole('listitem')
    .filter({ has: page.getByText(name, { exact: true }) });

test('a card shows by itself with what it looks like, and is looked at without a path being typed', async () => {
  const image = real.image('card', 'CARD_D');
  cpSync(path.join(drawer(), 'D001'), real.mount('filled', image), { recursive: true });
  real.unmount(real.at('filled'));
  await page.goto(`${server.url}/jobs/SLW/intake`);
  await page.getByText('Card not there?').click();
  await expect(page.getByText(/^Beside its own disk this computer sees .* right now/)).toBeVisible();
  card = real.mount('CARD_D', image);
  const plugged = page.getByRole('region', { name: 'Plugged in' });
  await expect(plugged.getByText('CARD_D', { exact: true })).toBeVisible();
  await expect(plugged.getByText('DCIM folders (DCF): 4 clips, not seen before')).toBeVisible();
  await expect(plugged.getByText(/Last change .*CARD_D came/)).toBeVisible();
  await plugged.getByRole('button', { name: 'Look in CARD_D' }).click();
  await expect(page.getByRole('group', { name: 'What it is' })).toBeVisible();
  await expect(page.getByText(/of 4 clips/)).toBeVisible();
});

test('copied, it says what is new on it; pulled out, its place is not here, and nothing is an error', async () => {
  await page.getByRole('button', { name: /^Copy 29 files/ }).click();
  await expect(page.getByRole('link', { name: 'Open the card' })).toBeVisible({ timeout: 120_000 });
  await page.goto(`${server.url}/jobs/SLW/places`);
  const volumes = page.getByRole('list', { name: 'Volumes this computer sees' });
  await expect(
    volumes.getByText(/DCIM folders \(DCF\): 4 clips; it is card \S+, nothing new since it was last seen/),
  ).toBeVisible();
  real.unmount(card);
  await expect(place('CARD_D').getByText('not here')).toBeVisible();
  await expect(page.getByRole('main').getByRole('alert')).toHaveCount(0);
});

test('a folder on a drive is chosen by walking to it, made there, and found again where the drive is mounted next', async () => {
  const image = real.image('drive', 'EAST');
  const first = real.mount('east', image);
  await page.getByRole('button', { name: 'Add a place …' }).click();
  const dialog = page.getByRole('dialog', { name: 'Add a place' });
  await dialog.getByRole('navigation', { name: 'Volumes' }).getByRole('button', { name: /^east/ }).click();
  await dialog.getByRole('button', { name: 'New folder here …' }).click();
  await dialog.getByLabel('Name of the new folder').fill('Copies');
  await dialog.getByRole('button', { name: 'Make it' }).click();
  await expect(dialog.getByLabel('Folder on this computer')).toHaveValue(path.join(first, 'Copies'));
  await dialog.getByRole('radio', { name: /^Safe copies/ }).check();
  await dialog.getByRole('button', { name: 'Use this folder' }).click();
  await expect(dialog).toHaveCount(0);
  await expect(place('Copies').getByText(path.join(first, 'Copies'))).toBeVisible();
  await place('Copies').getByRole('button', { name: 'Rename …' }).click();
  await page.getByLabel('Name of the place').fill('East');
  await page.getByRole('button', { name: 'Rename', exact: true }).click();
  writeFileSync(path.join(first, 'Copies', 'a.txt'), 'a');
  real.unmount(first);
  await expect(place('East').getByText('not here')).toBeVisible();
  const second = real.mount('elsewhere', image);
  await expect(place('East').getByText(path.join(second, 'Copies'))).toBeVisible();
  await expect(place('East').getByText('not here')).toHaveCount(0);
});

test('a place is moved to another drive after what that does was shown, and within it', async () => {
  const west = real.mount('west', real.image('drive2', 'WEST'));
  const dialog = page.getByRole('dialog', { name: 'Move “East” to another folder' });
  const go = async (at: string) => {
    await dialog.getByLabel('Folder on this computer').fill(at);
    await dialog.getByRole('button', { name: 'Go', exact: true }).click();
  };
  const make = async (name: string) => {
    await dialog.getByRole('button', { name: 'New folder here …' }).click();
    await dialog.getByLabel('Name of the new folder').fill(name);
    await dialog.getByRole('button', { name: 'Make it' }).click();
  };
  const here = dialog.getByRole('button', { name: 'Move it here' });
  await place('East').getByRole('button', { name: 'Move …' }).click();
  await go(west);
  await expect(dialog.getByText('The folder is not empty.')).toBeVisible();
  await expect(here).toBeDisabled();
  await make('First');
  await expect(dialog.getByText(/ to another volume with .* free: every file is copied/)).toBeVisible();
  await here.click();
  await expect(
    dialog.getByText(/^“East” is in .*First now\. The folder it was in is as it was/),
  ).toBeVisible();
  await dialog.getByRole('button', { name: 'Close' }).click();
  await expect(place('East').getByText(path.join(west, 'First'))).toBeVisible();
  expect(readFileSync(path.join(west, 'First', 'a.txt'), 'utf8')).toBe('a');
  expect(readFileSync(path.join(real.at('elsewhere'), 'Copies', 'a.txt'), 'utf8')).toBe('a');
  await place('East').getByRole('button', { name: 'Move …' }).click();
  await go(west);
  await make('Second');
  await expect(dialog.getByText(/on the same volume: the folder is renamed/)).toBeVisible();
  await here.click();
  await expect(dialog.getByText(/^“East” is in .*Second now\.$/)).toBeVisible();
  await dialog.getByRole('button', { name: 'Close' }).click();
  expect([existsSync(path.join(west, 'First')), existsSync(path.join(west, 'Second', 'a.txt'))]).toEqual([
    false,
    true,
  ]);
});

test('what cannot be a place is refused where it is chosen, and a place that is used stays', async () => {
  await page.getByRole('button', { name: 'Add a place …' }).click();
  const dialog = page.getByRole('dialog', { name: 'Add a place' });
  for (const [at, why] of [
    ['/', 'It is a folder of the system, or holds all volumes at once.'],
    [server.home, 'It holds Sort Shelf’s own data, or is part of it.'],
  ] as const) {
    await dialog.getByLabel('Folder on this computer').fill(at);
    await dialog.getByRole('button', { name: 'Go', exact: true }).click();
    await expect(dialog.getByText(why)).toBeVisible();
    await expect(dialog.getByRole('button', { name: 'Use this folder' })).toBeDisabled();
  }
  await dialog.getByLabel('Folder on this computer').fill('/etc');
  await dialog.getByRole('button', { name: 'Go', exact: true }).click();
  await expect(dialog.getByText('/etc is a folder of the system.')).toBeVisible();
  await page.keyboard.press('Escape');
  await expect(place('CARD_D').getByRole('button', { name: 'Let go' })).toBeDisabled();
  await place('East').getByRole('button', { name: 'Let go' }).click();
  await expect(place('East')).toHaveCount(0);
});
