import { expect, type Locator, type Page, test } from '@playwright/test';
import { execFileSync } from 'node:child_process';
import {
  existsSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  rmSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { startOffloaded } from './offloaded';
import { pick } from './pick';
import { hashTree, TestServer } from './server';

// Handing over through the real interface, in order: the relink rehearsal, mending what it finds, a string-out as a timeline, timelines that
// come back, and packages.
test.describe.configure({ mode: 'serial' });

const server = new TestServer('demo');
/** The recipient's. */
const drive = mkdtempSync(path.join(tmpdir(), 'shelf-e2e-courier-'));
let page: Page;

test.beforeAll(async ({ browser }) => {
  test.setTimeout(400_000);
  await startOffloaded(server, browser);
  page = await browser.newPage();
  await page.goto(`${server.url}/jobs/SLW`);
  await page.getByRole('link', { name: 'Card B002' }).waitFor();
});
test.afterAll(async () => {
  await server.close();
  rmSync(drive, { recursive: true, force: true });
});

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

const plan = () => page.getByRole('region', { name: 'What would be done' });
const choose = (label: string, option: string) => pick(page.getByLabel(label, { exact: true }), option, true);

test('a package says before it goes which clip would not connect', async () => {
  await page.getByRole('link', { name: 'Packages' }).click();
  await expect(plan()).toContainText('of 25 clips');
  await expect(plan()).toContainText(
    '1 clip: an edit made with it will not connect to the original: mend it in the relink rehearsal first',
  );
  await expect(plan()).toContainText('T0009 (B002)');
  await page.getByRole('link', { name: 'Relink rehearsal' }).click();
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
  // A list has one track: of two, the one that is wanted is chosen.
  const picture = line(1, '00:00:00:10 00:00:01:10', 'T0009.MP4', '01:00:00:00 01:00:01:00');
  await read('tide v4.edl', `TITLE: Tide mill v4\r\n${picture}${picture.replace(' V ', ' A ')}`);
  await expect(page.getByRole('heading', { name: 'Tide mill v4', level: 1 })).toBeVisible();
  await page.getByRole('button', { name: 'Save EDL …' }).click();
  const sound = await saved(page.getByRole('menuitem', { name: /^A1/ }));
  expect(sound).toMatch(/^TITLE: Tide mill v4 A1\r\n[^]* A +C +14:22:05:10 14:22:06:10 /);
  // The camera's own file counts as these do: none has to be made.
  await expect(page.getByText('Or keep the edit as it is:')).toHaveCount(0);
  await page.getByRole('button', { name: 'Remove the edit Tide mill v4' }).click();
  await page.getByRole('link', { name: /tide v3\.edl/ }).click();
  await expect(page.getByRole('heading', { name: 'Tide mill v3', level: 1 })).toBeVisible();
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

test('a package for the edit: planned, copied to a drive, and the timeline in it comes back with every clip found', async () => {
  await page.getByRole('link', { name: 'Packages' }).click();
  await choose('Clips', 'A string-out');
  await expect(page.getByLabel('Which one', { exact: true })).toContainText('Wheel turns');
  await page.getByRole('button', { name: 'Add a drive …' }).click();
  await page.getByLabel('Folder on this computer').fill(drive);
  await page.getByRole('button', { name: 'Go', exact: true }).click();
  await page.getByRole('button', { name: 'Use this folder' }).click();
  await page.getByLabel('To (a name, or nothing)').fill('the editor');
  await expect(page.getByLabel('Folder there')).toHaveValue('SLW Edit Wheel turns');
  await expect(plan()).toContainText(path.join(drive, 'SLW Edit Wheel turns'));
  await expect(plan().getByRole('heading', { name: /^4 files, / })).toBeVisible();
  await page.getByRole('button', { name: 'Hand over' }).click();
  const opened = page.getByRole('region', { name: 'The package Wheel turns' });
  await expect(opened.getByText('handed over', { exact: true }).first()).toBeVisible();
  await expect(opened.getByRole('table', { name: 'Files of the package' }).getByText('verified')).toHaveCount(
    10,
  );
  const folder = path.join(drive, 'SLW Edit Wheel turns');
  expect(Object.keys(hashTree(path.join(folder, 'Edit')))).toHaveLength(4);
  expect(
    execFileSync('pdftotext', [path.join(folder, 'Camera report.pdf'), '-'], { encoding: 'utf8' }),
  ).toContain('A001_C001');
  const text = readFileSync(path.join(folder, 'Wheel turns.otio'), 'utf8');
  for (const [, url] of text.matchAll(/"target_url": "([^"]*)"/g))
    expect(existsSync(path.join(folder, decodeURIComponent(url!)))).toBe(true);
  await page.getByRole('link', { name: 'Timelines' }).click();
  await read('from the editor.otio', text);
  await expect(page.getByRole('link', { name: /from the editor\.otio/ })).toHaveAttribute(
    'aria-current',
    'true',
  );
  await expect(count('found')).toHaveText(/^ ?4/);
});

test('sent again only what is new goes; a byte that turned there is found; its address leads back to it', async () => {
  await page.getByRole('link', { name: 'Packages' }).click();
  await page
    .getByRole('region', { name: 'Packages' })
    .getByRole('link', { name: /Wheel turns/ })
    .click();
  const opened = page.getByRole('region', { name: 'The package Wheel turns' });
  await page.getByRole('button', { name: 'Send what is new' }).click();
  await expect(opened.getByRole('region', { name: 'When it was sent' }).getByRole('row')).toHaveCount(2);
  await expect(opened.getByRole('row', { name: /4 as before/ })).toContainText('handed over');
  const file = path.join(drive, 'SLW Edit Wheel turns', 'Edit', 'A001', 'A001_C001.MOV');
  const bytes = readFileSync(file);
  bytes[1000]! ^= 1;
  writeFileSync(file, bytes);
  await page.getByRole('button', { name: 'Check it at its place' }).click();
  await expect(opened.getByText('1 changed')).toBeVisible();
  await expect(opened).toContainText('A001_C001.MOV');
  await page.reload();
  await expect(opened.getByText('1 changed')).toBeVisible();
  await page.goto(`${server.url}/jobs/SLW/logbook`);
  await expect(page.getByText(/^Handed over Wheel turns to the editor: /).first()).toBeVisible();
});

/** MD5 of each picture as it is stored, of so many from the first. */
const pictures = (file: string, most: number): string[] =>
  execFileSync(
    'ffmpeg',
    [
      '-v',
      'error',
      '-i',
      file,
      '-map',
      '0:v:0',
      '-c',
      'copy',
      '-frames:v',
      String(most),
      '-f',
      'framemd5',
      '-',
    ],
    { encoding: 'utf8' },
  )
    .split('\n')
    .filter((l) => l !== '' && !l.startsWith('#'))
    .map((l) => l.split(',').at(-1)!.trim());

test('the frames that an edit uses go with handles for finishing: made from the plan, cut bit for bit', async () => {
  await page.goto(`${server.url}/jobs/SLW/handover?timelines`);
  const from = (n: number, name: string, times: string) =>
    `00${n}  AX V C ${times} 01:00:0${n}:00 01:00:0${n + 1}:00\n* FROM CLIP NAME: ${name}\n`;
  await read(
    'effects.edl',
    `TITLE: Mill effects\n${from(1, 'A001_C001.MOV', '07:48:10:05 07:48:11:05')}${from(2, 'A001_C003.MXF', '12:05:03:00 12:05:04:00')}`,
  );
  await expect(count('found')).toHaveText(/^ ?2/);
  await page.goto(`${server.url}/jobs/SLW/handover?packages`);
  await choose('Clips', 'The clips of an edit');
  await choose('Which one', 'Mill effects');
  await choose('Form', 'Effects');
  await expect(plan()).toContainText('frames 1 to 42 are still to be made');
  await expect(plan()).toContainText('frames 14 to 62 are still to be made');
  await expect(plan()).toContainText('1 clip: transcoded by “ProRes LT in MOV, same size”');
  await plan().getByRole('button', { name: 'Make them' }).click();
  await expect(plan()).not.toContainText('still to be made');
  await expect(plan().getByRole('row', { name: /^Used frames, with handles/ })).toContainText('2 files');
  await page.getByRole('button', { name: 'Hand over', exact: true }).click();
  const opened = page.getByRole('region', { name: 'The package Mill effects' });
  await expect(opened.getByText('handed over', { exact: true }).first()).toBeVisible();
  const folder = path.join(server.home, 'handover', 'SLW Effects Mill effects', 'Used frames');
  const made = Object.keys(hashTree(folder)).sort();
  expect(made).toHaveLength(2);
  const [original] = Object.keys(hashTree(server.shelf)).filter((f) => f.endsWith('A001_C003.MXF'));
  const of = (stem: string) =>
    path.join(
      folder,
      made.find((f) => f.includes(stem))!,
    );
  expect(pictures(of('A001_C001'), 1000)).toHaveLength(42);
  // Of the one that is cut, each picture is stored as the camera stored it.
  const cut = pictures(of('A001_C003'), 1000);
  expect(cut).toHaveLength(49);
  expect(cut).toEqual(pictures(path.join(server.shelf, original!), 62).slice(13));
});

test('by a form of one’s own they go as numbered images, each with the timecode of its frame', async () => {
  await page.goto(`${server.url}/jobs/SLW/handover?packages`);
  await choose('Clips', 'The clips of an edit');
  await choose('Which one', 'Mill effects');
  await choose('Form', 'Effects');
  await page.getByRole('button', { name: 'Forms …' }).click();
  const dialog = page.getByRole('dialog', { name: 'Forms' });
  await expect(dialog.getByLabel('Transcoded by, where they cannot be cut')).toBeVisible();
  await dialog.getByLabel('Used frames go as').click();
  await page.getByRole('option', { name: 'DPX image sequence, RGB, 10 bit' }).click();
  await expect(dialog.getByLabel('Transcoded by, where they cannot be cut')).toBeHidden();
  await dialog.getByLabel('Name', { exact: true }).fill('Frames');
  await dialog.getByRole('button', { name: 'Keep', exact: true }).click();
  await expect(dialog.getByRole('status')).toHaveText('“Frames” is kept');
  await dialog.getByRole('button', { name: 'Done' }).click();
  await expect(plan()).toContainText('2 clips: as RGB images, full range, 10 bit');
  await expect(plan().getByRole('row', { name: /^Used frames, with handles/ })).toContainText('91 files');
  await page.getByRole('button', { name: 'Hand over', exact: true }).click();
  const opened = page.getByRole('region', { name: 'The package Mill effects' });
  await expect(opened.getByText('handed over', { exact: true }).first()).toBeVisible();
  const folder = path.join(server.home, 'handover', 'SLW Frames Mill effects', 'Used frames');
  const images = Object.keys(hashTree(folder)).sort();
  expect(images).toHaveLength(91);
  const timecode = (image: string): string =>
    execFileSync(
      'ffprobe',
      ['-v', 'error', '-of', 'default=nw=1:nk=1', '-show_entries', 'frame_tags=timecode', image],
      { cwd: folder, encoding: 'utf8' },
    ).trim();
  // The first and the last of each: twelve frames beside 07:48:10:05 to 11:05, and 12:05:03:00 to 04:00.
  const [c1, c3] = ['A001_C001', 'A001_C003'].map((stem) => images.filter((f) => f.includes(stem)));
  expect([c1, c3].map((of) => [of!.at(0)!, of!.at(-1)!].map(timecode))).toEqual([
    ['07:48:10:00', '07:48:11:16'],
    ['12:05:02:13', '12:05:04:11'],
  ]);
});

test('a form of one’s own is kept and used; a place that is taken is refused with what to do', async () => {
  await page.goto(`${server.url}/jobs/SLW/handover?packages`);
  await page.getByRole('button', { name: 'Forms …' }).click();
  const dialog = page.getByRole('dialog', { name: 'Forms' });
  await dialog.getByLabel('Looks', { exact: true }).check();
  await expect(dialog.getByRole('alert')).toContainText('Give it a name of its own');
  await dialog.getByLabel('Name', { exact: true }).fill('Colour');
  await dialog.getByLabel('Folders', { exact: true }).click();
  await page.getByRole('option', { name: 'By a pattern of your own' }).click();
  const pattern = dialog.getByLabel('Folders below each kind of file');
  await expect(pattern).toHaveValue('Day {day}/{camera}/{card}');
  await pattern.fill('{job}/{lens}');
  await expect(dialog.getByRole('alert')).toContainText('{lens} is not known');
  await expect(dialog.getByRole('button', { name: 'Keep', exact: true })).toBeDisabled();
  await pattern.fill('{job}/{date}');
  await dialog.getByLabel('File names', { exact: true }).click();
  await page.getByRole('option', { name: 'By a pattern of your own' }).click();
  const names = dialog.getByLabel('Names of proxies, used frames and viewing copies');
  await expect(names).toHaveValue('{job}_{name}');
  await names.fill('{card}/{name}');
  await expect(dialog.getByRole('alert')).toContainText('A file name cannot hold a /');
  await expect(dialog.getByRole('button', { name: 'Keep', exact: true })).toBeDisabled();
  await names.fill('{camera}_{name}');
  await dialog.getByRole('button', { name: 'Keep', exact: true }).click();
  await expect(dialog.getByRole('status')).toHaveText('“Colour” is kept');
  await dialog.getByRole('button', { name: 'Done' }).click();
  await expect(page.getByLabel('Form', { exact: true })).toContainText('Colour');
  await expect(plan()).toContainText('Looks');
  const taken = path.join(server.home, 'handover', 'SLW Colour Slack Water');
  mkdirSync(taken, { recursive: true });
  writeFileSync(path.join(taken, 'theirs.txt'), 'x');
  await page.reload();
  await choose('Form', 'Colour');
  await expect(plan().getByRole('alert')).toContainText(
    'There is something in SLW Colour Slack Water already',
  );
  await expect(page.getByRole('button', { name: 'Hand over' })).toBeDisabled();
  await page.getByLabel('Folder there').fill('SLW Colour 2');
  await expect(page.getByRole('button', { name: 'Hand over' })).toBeEnabled();
});

test('reports are looked at, of which clips is kept in the address, and saved as PDF and as a page', async () => {
  await page.getByRole('link', { name: 'Reports' }).click();
  const shown = page.frameLocator('iframe');
  await expect(shown.getByRole('heading', { name: 'Camera report' })).toBeVisible();
  await expect(shown.getByRole('heading', { name: 'Day 1, Tue 5 May' })).toBeVisible();
  const kinds = page.getByRole('list', { name: 'Kinds of reports' });
  await kinds.getByRole('button', { name: /^Contact sheet/ }).click();
  await choose('Clips', 'A card');
  await choose('Which one', 'B001');
  await expect(shown.locator('figure')).toHaveCount(11);
  // Pictures of the files themselves are in it.
  await expect
    .poll(() =>
      shown
        .locator('figure img')
        .first()
        .evaluate((i: HTMLImageElement) => i.naturalWidth),
    )
    .toBe(240);
  await page.reload();
  await expect(shown.locator('figure')).toHaveCount(11);
  const saved = async (button: string): Promise<{ name: string; file: string }> => {
    const [download] = await Promise.all([
      page.waitForEvent('download'),
      page.getByRole('button', { name: button }).click(),
    ]);
    return { name: download.suggestedFilename(), file: await download.path() };
  };
  const pdf = await saved('Save as PDF');
  expect(pdf.name).toBe('SLW Contact sheet B001.pdf');
  const text = execFileSync('pdftotext', ['-layout', pdf.file, '-'], { encoding: 'utf8' });
  expect(text.match(/SLW_D1_B001_\d{3}|\bT\d{4}\b/g)).toHaveLength(11);
  expect(text).toContain('1 of 1');
  const html = await saved('Save as HTML');
  expect(html.name).toBe('SLW Contact sheet B001.html');
  expect(readFileSync(html.file, 'utf8').match(/data:image\/jpeg/g)).toHaveLength(11);
  await kinds.getByRole('button', { name: /^Proxies and their proof/ }).click();
  await expect(shown.getByText(/clips?: proven/)).toBeVisible();
  await kinds.getByRole('button', { name: /^What is missing/ }).click();
  await choose('Clips', 'The whole job');
  await expect(shown.getByRole('heading', { name: 'Gaps in clip numbers' })).toBeVisible();
  await kinds.getByRole('button', { name: /^May these cards be wiped/ }).click();
  await expect(shown.getByText(/nothing is known of the card itself: A001/)).toBeVisible();
  // A search that cannot be read is said, and nothing is saved.
  await choose('Clips', 'What a search finds');
  await page.getByLabel('Search, as in Choose').fill('card is (');
  await expect(page.getByRole('region', { name: 'The report' }).getByRole('alert')).toBeVisible();
});

test('a list is matched to clips before anything is taken; what its columns hold is said by hand; it is undone', async () => {
  await page.goto(`${server.url}/jobs/SLW/handover?lists`);
  await page.getByLabel('A list as CSV').setInputFiles({
    name: 'script notes.csv',
    mimeType: 'text/csv',
    buffer: Buffer.from(
      'Shot,Words,Scene\nA001_C001,weather vane,12\nA001_C002,weather vane,\nA009_C001,lost,\n',
    ),
  });
  const says = page.getByRole('region', { name: 'What the list says' });
  await expect(says).toContainText('No column is known to name the clips');
  await page.getByLabel('Shot', { exact: true }).selectOption('Name of the clip or its file');
  await expect(says.getByRole('heading')).toHaveText('2 lines for 2 clips; 1 means no clip');
  await expect(says.getByRole('row', { name: /A009_C001/ })).toContainText('no clip is named “A009_C001”');
  await page.getByLabel('Words', { exact: true }).selectOption('Keywords');
  await expect(says.getByRole('row', { name: /^2 A001_C001/ })).toContainText('scene 12 · “weather vane”');
  await says.getByRole('button', { name: 'Take in 2 lines' }).click();
  await expect(says.getByRole('status')).toContainText('From a list: 0 ranges and 2 keywords of clips added');
  await expect(says.getByRole('status')).toContainText('of 1 clip said');
  await page.keyboard.press('6');
  await page.getByRole('combobox', { name: 'Search' }).fill('keyword is "weather vane"');
  await expect(page.locator('main [aria-live="polite"]').first()).toContainText('2 of 25 clips');
  await page.goBack();
  await page.getByLabel('A list as CSV').setInputFiles({
    name: 'again.csv',
    mimeType: 'text/csv',
    // As some programs write it still: Latin letters of one byte each.
    buffer: Buffer.from('Clip,Keywords,Scene\nA001_C003,mühle,99\n', 'latin1'),
  });
  await expect(page.getByText('was read as Windows-1252')).toBeVisible();
  await expect(says.getByRole('row', { name: /^2 A001_C003/ })).toContainText('“mühle”');
  await says.getByRole('button', { name: 'Take in 1 line' }).click();
  await says.getByRole('button', { name: 'Undo' }).click();
  await expect(says.getByRole('status')).toContainText('Undone: From a list');
  await expect(says.getByRole('status')).toContainText('Undone: Filled in scene of 1 clip');
});

test('an edit cut from proxies without the timecode is kept as it is: files that count as it does are made', async () => {
  const footage = readdirSync(server.shelf, { recursive: true, encoding: 'utf8' });
  const original = path.join(
    server.shelf,
    footage.find((f) => f.endsWith('A001_C001.MOV'))!,
  );
  const low = path.join(server.home, 'proxies', 'A001_C001_low.mov');
  const bare = ['-map', '0:v:0', '-c', 'copy', '-timecode', '00:00:00:00', low];
  execFileSync('ffmpeg', ['-v', 'error', '-i', original, ...bare]);
  const post = async (to: string, body: object): Promise<unknown> => {
    const answer = await fetch(`${server.url}/api/jobs/SLW/${to}`, {
      method: 'POST',
      headers: { 'content-type': 'application/json', origin: server.url },
      body: JSON.stringify(body),
    });
    return answer.json();
  };
  const [clip] = (await post('choose/ids', { query: 'name is A001_C001' })) as string[];
  await post('proxies/adopt', { root: 'proxies', pairs: [{ path: path.basename(low), clip }] });
  await page.goto(`${server.url}/jobs/SLW/handover?timelines`);
  await read(
    'low.edl',
    '001  AX V C 00:00:00:05 00:00:01:05 01:00:00:00 01:00:01:00\n* FROM CLIP NAME: A001_C001_low.mov\n',
  );
  await expect(page.getByText('1 event uses timecode that is not the original’s:')).toBeVisible();
  await page.getByRole('button', { name: 'Make 1 file with its timecode' }).click();
  await expect(
    page.getByText('For the edit as it is: 1 file with its timecode is among the proxies'),
  ).toBeVisible();
  const made = path.join(server.home, 'proxies', 'Starts at 00.00.00.00');
  const names = readdirSync(made, { recursive: true, encoding: 'utf8' }).map((f) => path.basename(f));
  expect(names).toContain('A001_C001_low.mov');
});
