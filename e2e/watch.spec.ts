import { expect, type Page, test } from '@playwright/test';
import {
  copyFileSync,
  cpSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  realpathSync,
  renameSync,
  rmSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { pick } from './pick';
import { TestServer } from './server';

// A folder that is watched: footage dropped into it is in the job by itself, and once only, also after a power cut.
test.describe.configure({ mode: 'serial' });

const server = new TestServer('demo');
const dropped = realpathSync(mkdtempSync(path.join(tmpdir(), 'shelf-watched-')));
const own = realpathSync(mkdtempSync(path.join(tmpdir(), 'shelf-own-')));
let page: Page;

test.beforeAll(async ({ browser }) => {
  test.setTimeout(400_000);
  await server.start();
  page = await browser.newPage();
  // A window behind others, in which the person allowed notices.
  await page.addInitScript(() => {
    const told: string[] = [];
    class Told {
      static permission = 'granted';
      constructor(title: string, { body }: { body: string }) {
        told.push(`${title}: ${body}`);
      }
    }
    Object.assign(window, { told, Notification: Told });
    Object.defineProperty(document, 'hidden', { get: () => true });
  });
});
test.afterAll(async () => {
  await server.close();
  for (const folder of [dropped, own]) rmSync(folder, { recursive: true, force: true });
});
const drawer = (...p: string[]) => path.join(server.home, 'stand-ins', 'drawer', ...p);
const shots = () => drawer('B003', 'CLIP');
const watched = () => page.getByRole('region', { name: 'Watched folders' });
/** Proxies of a job that were made here and are proven. */
const provenIn = async (job: string): Promise<number> => {
  const { pairs } = (await (await fetch(`${server.url}/api/jobs/${job}/proxies`)).json()) as {
    pairs: { state: string; what: string }[];
  };
  return pairs.filter((p) => p.state === 'proven' && p.what.startsWith('proxy by')).length;
};
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
  await expect(page.getByRole('dialog')).toHaveAccessibleName(`Watch “${path.basename(dropped)}”`);
  await page.getByRole('button', { name: 'Watch it' }).click();
  await expect(watched().getByText(/the system tells of changes/)).toBeVisible();
  mkdirSync(path.join(dropped, 'Wheel'));
  copyFileSync(path.join(shots(), 'T0001.MP4'), path.join(dropped, 'Wheel', 'T0001.MP4'));
  await expect(watched().getByText(/^1 clip taken in as .*: T0001$/)).toBeVisible();
  await expect(page.getByRole('banner').getByRole('link', { name: '1 found' })).toBeVisible();
  const told = () => page.evaluate(() => (window as unknown as { told: string[] }).told);
  await expect.poll(told).toEqual([expect.stringMatching(/: 1 clip taken in as .*: T0001$/)]);
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
  await expect(page.getByRole('banner').getByRole('link', { name: /found/ })).toHaveCount(0);
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
  await watched()
    .getByRole('button', { name: /^Change how/ })
    .click();
  // The rules of this folder are at hand here, too.
  const rules = page.getByRole('dialog', { name: 'How cards are recognised' });
  const recognise = async (through: boolean) => {
    await page.getByRole('button', { name: 'How its cards are recognised …' }).click();
    const tick = rules.getByRole('checkbox', { name: 'Look through the folders a camera makes' });
    await expect(tick).toBeChecked({ checked: !through });
    await tick.setChecked(through);
    await rules.getByRole('button', { name: 'Save and look again' }).click();
    await expect(rules).toHaveCount(0);
  };
  await recognise(false);
  await recognise(true);
  await page.getByRole('checkbox', { name: /^Take new footage in by itself/ }).uncheck();
  await page.getByRole('button', { name: 'Keep', exact: true }).click();
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

test('a job by a template: what is dropped into its three folders arrives named, with proxies, in bins', async () => {
  const shelf = path.join(server.home, 'shelf');
  const headers = { 'content-type': 'application/json', origin: server.url };
  const watch = async (folder: string, next: object) => {
    mkdirSync(path.join(shelf, 'SLW', 'New', folder), { recursive: true });
    const answer = await fetch(`${server.url}/api/jobs/SLW/watch`, {
      ...{ method: 'POST', headers },
      body: JSON.stringify({ root: 'shelf', path: `SLW/New/${folder}`, options: { next } }),
    });
    expect(answer.status).toBe(200);
  };
  await watch('Wheel', { placing: 'name', proxies: true, keywords: ['Wheel turns'] });
  await watch('Boats', { placing: 'name', proxies: true, bin: ['Water', 'Boats'] });
  // The third is told by hand.
  mkdirSync(path.join(shelf, 'SLW', 'New', 'Loose'), { recursive: true });
  await page.goto(`${server.url}/jobs/SLW/intake?root=shelf&path=${encodeURIComponent('SLW/New/Loose')}`);
  await page.getByRole('button', { name: 'Watch this folder …' }).click();
  const dialog = page.getByRole('dialog');
  await dialog.getByRole('checkbox', { name: /^Put all clips into one card/ }).check();
  await dialog.getByLabel('Card', { exact: true }).fill('L001');
  await pick(dialog.getByLabel('Once read, clips'), 'go into their folders');
  await dialog.getByLabel('make proxies').check();
  await dialog.getByRole('button', { name: 'Watch it' }).click();
  await expect(
    watched().getByText('Then: into card L001 · put in their folders · with proxies'),
  ).toBeVisible();
  await page.goto(`${server.url}/jobs/SLW`);
  await page.getByRole('button', { name: /^Slack Water/ }).click();
  await page.getByRole('menuitem', { name: 'Templates …' }).click();
  await page.getByLabel('Name of the template').fill('River');
  await page.getByRole('button', { name: 'Keep', exact: true }).click();
  await expect(page.getByText(/3 watched folders/)).toBeVisible();

  const place = path.join(own, 'Ebb film');
  mkdirSync(place);
  await page.goto(`${server.url}/jobs`);
  await page.getByRole('button', { name: 'Begin a job' }).click();
  await page.getByLabel('Name of the job').fill('Ebb');
  await page.getByLabel('Code').fill('EBB');
  await page.getByLabel('Begin with').selectOption({ label: 'River' });
  await page.getByRole('button', { name: 'Choose its folder …' }).click();
  await page.getByLabel('Folder on this computer').fill(place);
  await page.getByRole('button', { name: 'Go', exact: true }).click();
  await page.getByRole('button', { name: 'Use this folder' }).click();
  await page.getByRole('button', { name: 'Begin', exact: true }).click();
  await page.waitForURL(`${server.url}/jobs/EBB`);
  const fresh = (...p: string[]) => path.join(place, 'EBB', 'New', ...p);
  copyFileSync(path.join(shots(), 'T0001.MP4'), fresh('Wheel', 'T0001.MP4'));
  copyFileSync(path.join(shots(), 'T0002.MP4'), fresh('Boats', 'T0002.MP4'));
  copyFileSync(path.join(shots(), 'T0003.MP4'), fresh('Loose', 'T0003.MP4'));
  const names = async () =>
    (readdirSync(path.join(place, 'EBB'), { recursive: true }) as string[])
      .filter((f) => /\.mp4$/i.test(f) && !f.includes('.sort-shelf'))
      .sort();
  await expect
    .poll(names, { timeout: 60_000 })
    .toEqual([
      expect.stringMatching(/^D1[^/]*\/[A-Z]+\/L001\/T0003\.MP4$/),
      expect.stringMatching(/^D1[^/]*\/[A-Z]+\/\w+\/EBB_D1_\w+_\d{3}_\d\dp\.MP4$/),
      expect.stringMatching(/^D1[^/]*\/[A-Z]+\/\w+\/EBB_D1_\w+_\d{3}_\d\dp\.MP4$/),
    ]);
  await page.goto(`${server.url}/jobs/EBB/proxies`);
  await expect(page.getByText(/proven/).first()).toBeVisible({ timeout: 60_000 });
  await expect.poll(() => provenIn('EBB'), { timeout: 90_000 }).toBe(3);
  await page.goto(`${server.url}/jobs/EBB/choose`);
  for (const bin of ['Wheel', 'Boats', 'Loose', 'Water'])
    await expect(page.getByRole('treeitem', { name: bin }).first()).toBeVisible();
  await page.getByRole('combobox', { name: 'Search' }).fill('keyword is "Wheel turns"');
  await expect(page.locator('main [aria-live="polite"]').first()).toContainText('1 of 3 clips');
  await page.goto(`${server.url}/jobs/EBB/intake`);
  await expect(page.getByText(/^1 clip taken in as /)).toHaveCount(3);
  // All of it was done: nothing waits.
  await expect(page.getByRole('region', { name: 'What happens next' })).toHaveCount(0);
});

test('a job’s folder that was copied whole is opened as another job, which watches its folders', async () => {
  const [place, copy] = [path.join(own, 'Ebb film'), path.join(own, 'Neap film')];
  const recorded = async () => {
    const answer = await fetch(`${server.url}/api/records/copied?folder=${encodeURIComponent(place)}`);
    return ((await answer.json()) as { jobs: { code: string }[] }).jobs.map((j) => j.code);
  };
  await expect.poll(recorded, { timeout: 240_000 }).toEqual(['EBB']);
  cpSync(place, copy, { recursive: true, preserveTimestamps: true });
  await page.goto(`${server.url}/jobs`);
  await page.getByRole('button', { name: 'Begin a job' }).click();
  await page.getByLabel('Name of the job').fill('Neap');
  await page.getByLabel('Code').fill('NEA');
  await page.getByLabel('Begin with').selectOption({ label: 'a copy of another job’s folder' });
  const begin = page.getByRole('button', { name: 'Begin', exact: true });
  const choose = async (folder: string) => {
    await page.getByRole('button', { name: /folder …$/ }).click();
    await page.getByLabel('Folder on this computer').fill(folder);
    await page.getByRole('button', { name: 'Go', exact: true }).click();
    await page.getByRole('button', { name: 'Use this folder' }).click();
  };
  mkdirSync(path.join(own, 'bare'));
  await choose(path.join(own, 'bare'));
  await expect(page.getByText(/^This folder holds no records of a job/)).toBeVisible();
  await expect(begin).toBeDisabled();
  await choose(copy);
  await expect(page.getByText('Copied from Ebb (EBB).')).toBeVisible();
  await begin.click();
  await page.waitForURL(/\/jobs\/NEA\/intake/);
  for (const folder of ['Wheel', 'Boats', 'Loose'])
    await expect(watched().getByText(`EBB/New/${folder}`)).toBeVisible();
  copyFileSync(path.join(shots(), 'T0001.MP4'), path.join(copy, 'EBB', 'New', 'Wheel', 'T0001.MP4'));
  await expect(watched().getByText(/^1 clip taken in as .*: T0001$/)).toBeVisible();
  // What was copied along is found by a look.
  await page.getByRole('button', { name: 'Look in this folder' }).click();
  await expect(page.getByRole('checkbox', { name: /^Take in EBB\/D1/ })).toHaveCount(3);
});

test('proxies by themselves: turned on, what needs one gets it without being asked for', async () => {
  await page.goto(`${server.url}/jobs/SLW/proxies`);
  await expect(page.getByText('no proxy', { exact: true }).first()).toBeVisible();
  await page.getByRole('button', { name: 'Rules …' }).click();
  await page.getByRole('checkbox', { name: /^make what needs one by itself/ }).check();
  await expect.poll(() => provenIn('SLW'), { timeout: 120_000 }).toBeGreaterThan(0);
});
