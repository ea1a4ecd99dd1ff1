import { expect, type Page, test } from '@playwright/test';
import { execFileSync } from 'node:child_process';
import {
  copyFileSync,
  existsSync,
  mkdirSync,
  readFileSync,
  renameSync,
  truncateSync,
  writeFileSync,
} from 'node:fs';
import path from 'node:path';
import { startOffloaded } from './offloaded';
import { pick } from './pick';
import { hashTree, TestServer } from './server';

// Proxies through the real interface, in order: what needs one and why, recipes of one's own, several made files of a clip.
test.describe.configure({ mode: 'serial' });

const server = new TestServer('demo');
let page: Page;

test.beforeAll(async ({ browser }) => {
  test.setTimeout(400_000);
  await startOffloaded(server, browser);
  page = await browser.newPage();
  await page.goto(`${server.url}/jobs/SLW/proxies`);
});
test.afterAll(() => server.close());

const clips = () => page.getByRole('table', { name: 'Clips' }).getByRole('row');
const clip = (name: string) => clips().filter({ has: page.getByRole('link', { name, exact: true }) });
const pairs = () => page.getByRole('table', { name: 'Pairs' }).getByRole('row');
const queue = () => page.getByRole('region', { name: 'Queue' });
const choose = (label: string, option: string | RegExp) =>
  pick(page.getByRole('combobox', { name: label }), option);

test('what needs a proxy is said with the reason, and the rule can be changed', async () => {
  await expect(clips()).toHaveCount(7);
  await expect(clip('A001_C001')).toContainText(
    'long-GOP HEVC 4:2:2 10 bit, 1280×720, 25 fps: coded between frames, chroma 4:2:2',
  );
  await expect(pairs().filter({ hasText: 'A001_C003' })).toContainText('none needed: VC-3 4:2:2 10 bit');
  await page.getByRole('button', { name: 'Rules …' }).click();
  await page.getByLabel('coded between frames (long GOP)').uncheck();
  await page.getByLabel('coded between frames with chroma 4:2:2 or 4:4:4').uncheck();
  const said = page.getByRole('dialog').getByRole('status');
  await expect(said).toContainText('4 clips need a proxy');
  // A limit that makes no sense yet is not taken.
  await page.getByLabel('Frames a second').fill('');
  await expect(said).toContainText('4 clips need a proxy');
  await page.getByLabel('Frames a second').fill('120');
  await expect(said).toContainText('0 clips need a proxy');
  await page.getByLabel('Frames a second').fill('60');
  await page.getByRole('button', { name: 'Done' }).click();
  await page.reload();
  await expect(clips()).toHaveCount(4);
  await expect(clip('T0004').first()).toContainText('faster than 60 fps');
});

test('a recipe of one’s own: what cannot be followed is said, it is kept, given away, and taken back', async () => {
  await page.getByRole('button', { name: 'Recipes …' }).click();
  const dialog = page.getByRole('dialog', { name: 'Recipes' });
  await dialog.getByRole('button', { name: /^ProRes LT/ }).click();
  await expect(dialog.getByRole('alert')).toHaveCount(0);
  await choose('Container', 'MP4');
  await expect(dialog.getByRole('alert')).toContainText('MP4 is made with H.264 only.');
  await expect(dialog.getByRole('button', { name: 'Keep', exact: true })).toBeDisabled();
  await choose('Picture', 'H.264');
  await dialog.getByLabel('Words after its name').fill('_small');
  await expect(dialog.getByRole('alert')).toContainText('Give it a name of its own');
  await dialog.getByLabel('Name of the recipe').fill('Small');
  await choose('Frame size', 'a quarter as wide and high');
  await expect(dialog.getByText('gives SLW_D1_A001_small.mp4.')).toBeVisible();
  await dialog.getByRole('button', { name: 'Keep', exact: true }).click();
  await expect(dialog.getByRole('status')).toHaveText('“Small” is kept');
  const download = page.waitForEvent('download');
  await dialog.getByRole('link', { name: 'Export' }).click();
  const file = await (await download).path();
  await dialog.getByRole('button', { name: 'Remove' }).click();
  await expect(dialog.getByRole('status')).toHaveText('“Small” was removed');
  const given = async (text: string) => {
    const at = path.join(server.home, 'given.json');
    writeFileSync(at, text);
    await dialog.getByLabel('Recipe file').setInputFiles(at);
  };
  await given('{"format":"sort-shelf-rec');
  await expect(dialog).toContainText('given.json is not JSON: it may be cut short.');
  await given(readFileSync(file, 'utf8').replace('"_small"', '"../../small"'));
  await expect(dialog).toContainText('words of a name hold no');
  await given(readFileSync(file, 'utf8'));
  await expect(dialog.getByRole('status')).toHaveText('1 recipe added from given.json');
  await dialog.getByRole('button', { name: 'Done' }).click();
});

test('a recipe that is changed in the library counts as it is now; the rules of the job keep theirs until they are told', async () => {
  await page.getByRole('button', { name: 'Rules …' }).click();
  await choose('Every clip by', 'Small');
  await page.getByRole('button', { name: 'Done' }).click();
  await page.getByRole('button', { name: 'Recipes …' }).click();
  const dialog = page.getByRole('dialog', { name: 'Recipes' });
  await dialog.getByRole('button', { name: /^Small/ }).click();
  await choose('Frame size', 'half as wide and high');
  await dialog.getByRole('button', { name: 'Keep', exact: true }).click();
  await expect(dialog.getByRole('status')).toHaveText('“Small” is kept');
  await dialog.getByRole('button', { name: 'Done' }).click();
  await choose('Made by', 'Small');
  await expect(page.getByText('H.264, MP4, half size, AAC')).toBeVisible();
  await choose('Made by', 'the rules of the job');
  await expect(page.getByText('H.264, MP4, quarter size, AAC')).toBeVisible();
  await page.getByRole('button', { name: 'Rules …' }).click();
  await page.getByRole('button', { name: 'It was changed since: take it as it is now' }).click();
  await expect(page.getByRole('button', { name: /^It was changed since/ })).toHaveCount(0);
  await choose('Every clip by', /^H\.264 in MP4, fits in 960/);
  await page.getByRole('button', { name: 'Done' }).click();
});

test('a recipe is tried on a clip first: both pictures, size and speed, and nothing of it stays', async () => {
  const before = Object.keys(hashTree(server.proxies));
  await page.getByRole('button', { name: 'Recipes …' }).click();
  const dialog = page.getByRole('dialog', { name: 'Recipes' });
  await dialog.getByRole('button', { name: /^ProRes LT/ }).click();
  await choose('Try it on', /^T0004 · B001/);
  await dialog.getByRole('button', { name: 'Try', exact: true }).click();
  const tried = dialog.getByRole('region', { name: 'Try it' });
  await expect(tried.getByRole('status')).toContainText(
    /^\d\.\d s made at [\d.]+× real time, [\d.]+ [kM]B: about [\d.]+ [kM]B for the whole clip\./,
    { timeout: 240_000 },
  );
  for (const words of ['original', 'as made'])
    await expect
      .poll(() =>
        tried
          .getByRole('img', { name: new RegExp(`, ${words}$`) })
          .evaluate((i: HTMLImageElement) => i.naturalWidth),
      )
      .toBe(720);
  await page.getByRole('button', { name: 'Done' }).click();
  expect(Object.keys(hashTree(server.proxies))).toEqual(before);
});

test('several files of one clip, by recipes that were chosen; one is made to stand for it', async () => {
  await choose('Made by', 'Rewrap in MOV');
  await page.getByRole('button', { name: /^all \d+$/ }).click();
  await clip('A001_C001').getByRole('checkbox').check();
  await page.getByRole('button', { name: 'Make 1 rewrap' }).click();
  await expect(queue()).toContainText('1 made');
  await expect(clip('A001_C001')).toHaveCount(0);
  await choose('Made by', 'Small');
  await clip('A001_C001').getByRole('checkbox').check();
  await page.getByRole('button', { name: /^Make 1 transcode/ }).click();
  await expect(queue()).toContainText('2 made');
  const tree = Object.keys(hashTree(server.proxies)).sort();
  expect(tree).toEqual(['not-named/SLW/A001/A001_C001_rewrap.mov', 'not-named/SLW/A001/A001_C001_small.mp4']);
  await expect(pairs().filter({ hasText: 'rewrap by' })).toContainText('“Rewrap in MOV”');
  await page.getByRole('button', { name: /^What to do with the transcode by “Small” of A001_C001/ }).click();
  await page.getByRole('menuitem', { name: 'Let it stand for the clip in the edit' }).click();
  await expect(pairs().filter({ hasText: 'A001_C001' })).toContainText(
    'transcode by “Small”, stands for the clip',
  );
  await page.goto(`${server.url}/jobs/SLW/card/A001`);
  await expect(
    page
      .getByRole('link', { name: 'Card A001' })
      .or(page.getByRole('heading', { name: /A001/ }))
      .first(),
  ).toBeVisible();
});

test('one is removed, which is said with what it frees, and the original stays', async () => {
  const before = hashTree(server.shelf);
  await page.goto(`${server.url}/jobs/SLW/proxies`);
  const file = path.join(server.proxies, 'not-named/SLW/A001/A001_C001_rewrap.mov');
  expect(existsSync(file)).toBe(true);
  await page.getByRole('button', { name: /^What to do with the rewrap by/ }).click();
  await page.getByRole('menuitem', { name: 'Remove it …' }).click();
  await expect(page.getByRole('dialog')).toContainText(
    /It frees [\d.]+ [kM]B\. The original of A001_C001 is not touched/,
  );
  await page.getByRole('button', { name: 'Keep it' }).click();
  expect(existsSync(file)).toBe(true);
  await page.getByRole('button', { name: /^What to do with the rewrap by/ }).click();
  await page.getByRole('menuitem', { name: 'Remove it …' }).click();
  await page.getByRole('button', { name: 'Remove it' }).click();
  await expect(pairs().filter({ hasText: 'rewrap by' })).toHaveCount(0);
  expect(existsSync(file)).toBe(false);
  expect(hashTree(server.shelf)).toEqual(before);
});

test('proxies of elsewhere are found by their names, adopted, and one that is spoilt is found', async () => {
  const uploads = path.join(server.proxies, 'Uploads');
  mkdirSync(uploads);
  for (const n of ['T0001', 'T0002'])
    copyFileSync(
      path.join(server.shelf, `Offloaded/Day 1/B001/SUB/${n}_px.MP4`),
      path.join(uploads, `light ${n}.mp4`),
    );
  await page.getByRole('button', { name: 'Adopt …' }).click();
  const dialog = page.getByRole('dialog', { name: 'Adopt proxies' });
  await dialog.getByLabel('Folder').fill('Uploads');
  await dialog.getByRole('button', { name: 'Look', exact: true }).click();
  await expect(dialog.getByRole('status')).toHaveText('2 files looked at: 2 certain, names are light …');
  await expect(dialog.getByRole('table', { name: 'Certain' })).toContainText('T0001 B001');
  await dialog.getByRole('button', { name: 'Adopt 2 proxies' }).click();
  await expect(dialog).toHaveCount(0);
  await expect(pairs().filter({ hasText: 'adopted' })).toHaveCount(2);
  truncateSync(path.join(uploads, 'light T0002.mp4'), 20_000);
  await page.getByRole('button', { name: 'Prove again' }).click();
  await expect(pairs().filter({ hasText: /adopted file: frame count/ })).toHaveCount(1);
  await page.getByRole('button', { name: /^What to do with the adopted file of T0002/ }).click();
  await page.getByRole('menuitem', { name: /^Take it apart/ }).click();
  await expect(pairs().filter({ hasText: 'adopted' })).toHaveCount(1);
  expect(existsSync(path.join(uploads, 'light T0002.mp4'))).toBe(true);
});

test('what is found while a proxy is made is told with its place, and gone to from there', async () => {
  const odd = path.join(server.shelf, 'Odd');
  mkdirSync(odd);
  execFileSync(process.env.FFMPEG_PATH || 'ffmpeg', [
    ...['-v', 'error', '-f', 'lavfi', '-i', 'testsrc2=size=320x180:rate=25:duration=6'],
    ...['-f', 'lavfi', '-i', 'sine=r=48000:duration=6,volume=enable=gte(t\\,5):volume=40'],
    ...['-vf', "drawbox=c=black:t=fill:enable='between(t,1,3.96)'", '-pix_fmt', 'yuv420p'],
    ...['-timecode', '10:00:00:00', '-c:a', 'pcm_s24le', path.join(odd, 'T0900.MOV')],
  ]);
  await page.goto(`${server.url}/jobs/SLW/intake`);
  await page.getByRole('button', { name: /^Odd/ }).click();
  await page.getByRole('button', { name: 'Look in this folder' }).click();
  await page.getByRole('button', { name: /^Take in 1 card/ }).click();
  // Gone on before the answer, nothing would be taken in.
  await page.waitForURL(`${server.url}/jobs/SLW`);
  await expect(page.getByRole('status').filter({ hasText: /Reading|Making/ })).toHaveCount(0);
  await page.goto(`${server.url}/jobs/SLW/proxies`);
  await page.getByRole('button', { name: /^all \d+$/ }).click();
  await clip('T0900').getByRole('checkbox').check();
  await page.getByRole('button', { name: /^Make \d+ prox/ }).click();
  await expect(pairs().filter({ hasText: 'T0900' })).toContainText('proxy by');
  await pairs().filter({ hasText: 'T0900' }).getByRole('link').first().click();
  await page.getByRole('option', { name: /T0900/ }).click();
  const found = page.getByRole('list', { name: 'Found in picture and sound' }).getByRole('button');
  await expect(found).toHaveText([
    '10:00:01:00 – 10:00:03:24 black picture',
    /^10:00:05:\d\d – .* clipped sound, channel 1$/,
  ]);
  await found.first().click();
  await expect(page.getByTestId('here')).toHaveValue('10:00:01:00');
  await expect(page.getByRole('img', { name: 'Sound, 1 channel' })).toBeVisible();
});

test('a part of a clip is made between in and out, with handles', async () => {
  await page.getByRole('option', { name: /T0900/ }).click();
  const here = page.getByTestId('here');
  await here.fill('10:00:04:10');
  await here.press('Enter');
  await page.keyboard.press('i');
  await here.fill('10:00:04:19');
  await here.press('Enter');
  await page.keyboard.press('o');
  await page.getByRole('button', { name: 'Make it …' }).click();
  const dialog = page.getByRole('dialog', { name: 'Make a part of T0900' });
  await expect(dialog.getByRole('status')).toContainText('10:00:03:10 – 10:00:05:19, 60 frames');
  await dialog.getByLabel('Handles, frames').fill('5');
  await expect(dialog.getByRole('status')).toContainText('10:00:04:05 – 10:00:04:24, 20 frames');
  await dialog.getByRole('button', { name: 'Make it' }).click();
  await expect(dialog).toHaveCount(0);
  await page.goto(`${server.url}/jobs/SLW/proxies`);
  const part = pairs().filter({ hasText: 'frames 106 to 125' });
  await expect(part).toHaveCount(1);
  await expect(part.getByRole('img', { name: 'pair: proven' })).toBeVisible();
});

/** How many files there are, and how the pairs stand: by the words of the buttons over them. */
const states = async () => {
  await page.goto(`${server.url}/jobs/SLW/proxies`);
  await expect(pairs().first()).toBeVisible();
  return page.getByRole('group', { name: 'Pairs by state' }).getByRole('button').allInnerTexts();
};

test('picture and sound of clips that need no proxy are checked by themselves', async () => {
  await page.goto(`${server.url}/jobs/SLW/proxies`);
  const making = page.getByRole('region', { name: 'What to make' });
  const check = making.getByRole('button', { name: /^Check \d+ clips?$/ });
  const [, left] = /Check (\d+)/.exec((await check.textContent()) ?? '') ?? [];
  await check.click();
  await expect(making.getByRole('status')).toContainText(`${left} clip`, { timeout: 240_000 });
  await expect(making.getByRole('status')).toContainText('checked: ');
  await expect(check).toHaveCount(0);
  await page.reload();
  await expect(making).toBeVisible();
  await expect(check).toHaveCount(0);
});

test('an original and a proxy that were moved outside are lost, found by their contents, and proven as before', async () => {
  const before = await states();
  const odd = path.join(server.shelf, 'Odd/T0900.MOV');
  const moved = path.join(server.shelf, 'Tuesday/wheel.mov');
  mkdirSync(path.dirname(moved));
  renameSync(odd, moved);
  const uploads = path.join(server.proxies, 'Uploads');
  renameSync(path.join(uploads, 'light T0001.mp4'), path.join(uploads, 'else.mp4'));
  const footage = hashTree(server.shelf);
  await page.getByRole('button', { name: 'Prove again' }).click();
  const lost = page.getByRole('group', { name: 'Pairs by state' }).getByRole('button', { name: 'lost' });
  await expect(lost).toBeVisible({ timeout: 240_000 });
  await expect(pairs().filter({ hasText: 'the original is not at its place' }).first()).toBeVisible();
  await expect(pairs().filter({ hasText: 'the proxy is not at its place' })).toHaveCount(1);
  await page.getByRole('button', { name: 'Find lost …' }).click();
  const dialog = page.getByRole('dialog', { name: 'Find lost files' });
  await expect(dialog.getByRole('status')).toContainText('2 files lost: 2 found.');
  const found = dialog.getByRole('table', { name: 'Found' }).getByRole('row');
  await expect(found.filter({ hasText: 'T0900' })).toContainText('Tuesday/wheel.mov in Shelf');
  await expect(found.filter({ hasText: 'T0001' })).toContainText('Uploads/else.mp4 in Proxies');
  await dialog.getByRole('button', { name: 'Relink 2 files' }).click();
  await expect(dialog).toHaveCount(0);
  await expect(lost).toHaveCount(0);
  await expect(page.getByRole('button', { name: 'Prove again' })).toBeEnabled({ timeout: 240_000 });
  // The clip is called as its file is.
  await expect(pairs().filter({ hasText: 'wheel' }).first()).toBeVisible();
  expect(await states()).toEqual(before);
  expect(hashTree(server.shelf)).toEqual(footage);
});

test('originals are renamed, their proxies with them, and every pair is as proven as before', async () => {
  const before = await states();
  const shelf = hashTree(server.shelf);
  await page.goto(`${server.url}/jobs/SLW/naming`);
  await page.getByRole('button', { name: /^Rename \d+ files$/ }).click();
  await expect(page.getByText(/files renamed and placed\./)).toBeVisible();
  expect(Object.values(hashTree(server.shelf)).sort()).toEqual(Object.values(shelf).sort());
  expect(Object.keys(hashTree(server.proxies)).filter((p) => p.startsWith('SLW/'))).not.toEqual([]);
  expect(await states()).toEqual(before);
  await page.getByRole('button', { name: 'Prove again' }).click();
  await expect(page.getByRole('button', { name: 'Proving …' })).toBeVisible();
  await expect(page.getByRole('button', { name: 'Prove again' })).toBeEnabled({ timeout: 240_000 });
  expect(await states()).toEqual(before);
});
