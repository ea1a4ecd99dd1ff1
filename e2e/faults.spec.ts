import { expect, type Page, test } from '@playwright/test';
import { execFileSync } from 'node:child_process';
import {
  mkdirSync,
  mkdtempSync,
  renameSync,
  rmSync,
  statSync,
  symlinkSync,
  truncateSync,
  utimesSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { hashTree, TestServer } from './server';

// The application on a person's own folders, which hold every kind of fault.
test.describe.configure({ mode: 'serial' });

const server = new TestServer('start', true);
const outside = mkdtempSync(path.join(tmpdir(), 'shelf-outside-'));
let page: Page;

function clip(...parts: string[]): string {
  const file = path.join(...parts);
  mkdirSync(path.dirname(file), { recursive: true });
  execFileSync(process.env.FFMPEG_PATH ?? 'ffmpeg', [
    '-v',
    'error',
    '-y',
    '-f',
    'lavfi',
    '-i',
    'testsrc2=size=320x180:rate=25:duration=1',
    '-c:v',
    'libx264',
    '-preset',
    'ultrafast',
    '-pix_fmt',
    'yuv420p',
    '-timecode',
    '10:00:00:00',
    '-metadata',
    'creation_time=2026-05-05T10:00:00Z',
    '-f',
    'mp4',
    `file:${file}`,
  ]);
  return file;
}

test.beforeAll(async ({ browser }) => {
  await server.start();
  page = await (await browser.newContext()).newPage();
  const odd = path.join(server.shelf, 'Odd');
  for (const name of [`it's "one".mp4`, '-rf.mp4', 'wheel 🌊.mp4', 'two\nlines.mp4']) clip(odd, name);
  writeFileSync(path.join(odd, 'empty.MP4'), '');
  writeFileSync(path.join(odd, 'text.MP4'), 'dear diary');
  const cut = clip(odd, 'cut.mp4');
  truncateSync(cut, 30_000);
  writeFileSync(path.join(outside, 'secret.mp4'), 'not yours');
  symlinkSync(path.join(outside, 'secret.mp4'), path.join(odd, 'link.mp4'));
  symlinkSync(outside, path.join(server.shelf, 'way-out'));
  mkdirSync(path.join(server.shelf, 'Nothing'));
});
test.afterAll(async () => {
  await server.close();
  rmSync(outside, { recursive: true, force: true });
});

test('a new folder asks for the job first, and says what a code is', async () => {
  await page.goto(server.url);
  await expect(page.getByRole('heading', { name: 'Begin a job' })).toBeVisible();
  await page.getByLabel('Name of the job').fill('Odd ends');
  await page.getByLabel('Code').fill('no spaces');
  await expect(page.getByText('a job code is one to twelve letters, digits or dashes')).toBeVisible();
  await expect(page.getByRole('button', { name: 'Begin' })).toBeDisabled();
  await page.getByLabel('Code').fill('ODD');
  await page.getByRole('button', { name: 'Begin' }).click();
  await expect(page.getByRole('heading', { name: 'Nothing is on the shelf yet' })).toBeVisible();
});

test('each fault of a folder is said where the person is; the rest is taken in', async () => {
  await page.goto(`${server.url}/jobs/ODD/intake?root=shelf&path=Odd&look=1`);
  const card = page.getByRole('article');
  await expect(card).toContainText('5 clips');
  await card.getByRole('button', { name: /Clips and files/ }).click();
  const told = card.getByRole('table', { name: 'Left aside or marked' });
  await expect(told.getByRole('row', { name: /empty\.MP4/ })).toContainText('has no bytes');
  await expect(told.getByRole('row', { name: /text\.MP4/ })).toContainText('is text, not video');
  await expect(told.getByRole('row', { name: /cut\.mp4/ })).toContainText('cut short');
  await expect(told.getByRole('row', { name: /link\.mp4/ })).toContainText('does not follow links');
  await card.getByLabel('Camera').fill('x');
  await card.getByLabel('Card', { exact: true }).fill('X 1');
  await expect(card.getByText('a card id is one to sixteen letters, digits or dashes')).toBeVisible();
  await expect(page.getByRole('button', { name: /^Take in/ })).toBeDisabled();
  await card.getByLabel('Card', { exact: true }).fill('X001');
  await page.getByRole('button', { name: 'Take in 1 card, 5 clips' }).click();
  await expect(page.getByRole('link', { name: /to look at/ })).toBeVisible();
  await page.getByRole('link', { name: /to look at/ }).click();
  await expect(page.getByRole('option', { name: /^cut/ })).toBeVisible();
  await page.getByRole('option', { name: /^cut/ }).click();
  await expect(page.getByRole('complementary', { name: 'Clip' })).toContainText('cut.mp4 is cut short');
  await expect(page.getByRole('complementary', { name: 'Clip' })).toContainText('cannot be shown');
});

test('names of all kinds are renamed and come back; the clip that cannot be read stays', async () => {
  const before = hashTree(server.shelf);
  await page.goto(`${server.url}/jobs/ODD/naming`);
  await expect(page.getByRole('row', { name: /cut\.mp4/ })).toContainText('cannot be read: left where it is');
  await page.getByRole('button', { name: 'Rename 4 files' }).click();
  await expect(page.getByText('4 files renamed and placed.')).toBeVisible();
  const after = hashTree(server.shelf);
  expect(Object.keys(after).filter((p) => p.startsWith('ODD/'))).toHaveLength(4);
  expect(after['Odd/cut.mp4']).toBe(before['Odd/cut.mp4']);
  await expect(page.getByRole('button', { name: 'Nothing to rename' })).toBeVisible();
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(page.getByRole('button', { name: 'Rename 4 files' })).toBeEnabled();
  expect(hashTree(server.shelf)).toEqual(before);
});

test('a name that is taken stops the plan until it is mended or the clip left out', async () => {
  const stranger = path.join(server.shelf, 'ODD/D1_2026-05-05/X/X001/ODD_D1_X001_001_25p.mp4');
  mkdirSync(path.dirname(stranger), { recursive: true });
  writeFileSync(stranger, 'somebody else');
  await page.reload();
  await expect(page.getByText('this name is on the shelf already')).toBeVisible();
  await expect(page.getByRole('button', { name: 'Resolve the clash first' })).toBeDisabled();
  await page.getByLabel('show').selectOption('problems');
  await expect(page.getByRole('row', { name: /on the shelf already/ })).toContainText('-rf');
  await page.getByLabel('Rename -rf').uncheck();
  await expect(page.getByRole('button', { name: 'Rename 3 files' })).toBeEnabled();
  rmSync(path.join(server.shelf, 'ODD'), { recursive: true });
});

test('an illegal word in a name is said at every clip', async () => {
  await page.reload();
  await page.getByRole('button', { name: '+ block' }).click();
  await page.getByRole('menuitem', { name: /^Words/ }).click();
  await page.getByLabel('text').fill('a:b');
  await expect(page.getByText(': cannot stand in a file name').first()).toBeVisible();
  await page.getByRole('button', { name: 'Take out Words' }).click();
  await expect(page.getByRole('button', { name: 'Rename 4 files' })).toBeEnabled();
});

test('a file that another program changed is said in the list, before anything is renamed', async () => {
  const file = path.join(server.shelf, 'Odd/-rf.mp4');
  const { atime, mtime } = statSync(file);
  utimesSync(file, atime, new Date(mtime.getTime() + 60_000));
  await page.reload();
  const row = page.getByRole('row', { name: /-rf\.mp4/ });
  await expect(row).toContainText('changed since it was read: -rf.mp4');
  await expect(page.getByRole('button', { name: 'Rename 4 files' })).toBeEnabled();
  utimesSync(file, atime, mtime);
  await page.reload();
  await expect(page.getByRole('button', { name: 'Rename 4 files' })).toBeEnabled();
  await expect(row).not.toContainText('changed');
});

test('two tabs: what one does the other shows; a plan that is out of date is not applied', async () => {
  const other = await page.context().newPage();
  await other.goto(`${server.url}/jobs/ODD/naming`);
  await expect(other.getByRole('button', { name: 'Rename 4 files' })).toBeEnabled();
  await page.getByRole('button', { name: '+ block' }).click();
  await page.getByRole('menuitem', { name: /^Words/ }).click();
  await expect(other.getByRole('button', { name: /^Words/ })).toBeVisible();
  await page.getByRole('button', { name: 'Take out Words' }).click();
  await expect(other.getByRole('button', { name: /^Words/ })).toHaveCount(0);
  await expect(other.getByRole('button', { name: 'Rename 4 files' })).toBeEnabled();
  await page.getByRole('button', { name: 'Rename 4 files' }).click();
  await expect(page.getByText('4 files renamed and placed.')).toBeVisible();
  await expect(other.getByRole('button', { name: 'Nothing to rename' })).toBeVisible();
  await other.goto(`${server.url}/jobs/ODD/logbook`);
  await other.getByRole('button', { name: 'Undo' }).first().click();
  await expect(other.getByText('undone')).toHaveCount(2);
  await expect(page.getByRole('button', { name: 'Rename 4 files' })).toBeVisible();
  await other.close();
});

test('what changes before a tab hears the server is shown in it all the same', async ({ browser }) => {
  const other = await (await browser.newContext()).newPage();
  let letThrough = (): void => undefined;
  const changed = new Promise<void>((resolve) => (letThrough = resolve));
  await other.route('**/api/platform/events', async (route) => {
    await changed;
    await route.continue();
  });
  await other.goto(`${server.url}/jobs/ODD/naming`);
  await expect(other.getByRole('button', { name: 'Rename 4 files' })).toBeEnabled();
  await page.goto(`${server.url}/jobs/ODD/naming`);
  const told = (await fetch(`${server.url}/api/platform/events`)).body!.getReader();
  await page.getByRole('button', { name: '+ block' }).click();
  await page.getByRole('menuitem', { name: /^Words/ }).click();
  // The server has told of it to all who listen.
  for (let text = ''; !text.includes('"job"');) text += Buffer.from((await told.read()).value!).toString();
  await told.cancel();
  await expect(page.getByRole('button', { name: /^Words/ })).toBeVisible();
  letThrough();
  await expect(other.getByRole('button', { name: /^Words/ })).toBeVisible();
  await other.context().close();
});

test('a tab that was opened while the server could not be reached shows what there is once it can be', async ({
  browser,
}) => {
  // Nothing has changed for long, so that nothing but the line that comes back can bring it to ask again.
  const quiet = async (): Promise<number> => {
    const told = (await fetch(`${server.url}/api/platform/events`)).body!.getReader();
    let text = '';
    while (!text.includes('"opened"')) text += Buffer.from((await told.read()).value!).toString();
    await told.cancel();
    return Number(/"quiet":(\d+)/.exec(text)![1]);
  };
  await expect.poll(quiet).toBeGreaterThan(5000);
  const other = await (await browser.newContext()).newPage();
  await other.route('**/api/**', (route) => route.abort());
  await other.goto(`${server.url}/jobs/ODD/naming`);
  await expect(other.getByText('Sort Shelf does not answer.').first()).toBeVisible();
  await other.unroute('**/api/**');
  await expect(other.getByRole('button', { name: 'Rename 4 files' })).toBeVisible();
  await other.context().close();
});

test('nine tabs at once: each opens and hears of changes, also after the first is closed', async ({
  browser,
}) => {
  const context = await browser.newContext();
  const tabs: Page[] = [];
  for (let i = 0; i < 9; i++) {
    const tab = await context.newPage();
    tabs.push(tab);
    await tab.goto(`${server.url}/jobs/ODD/naming`);
    await expect(tab.getByRole('button', { name: /^Words/ })).toBeVisible();
  }
  await page.getByRole('button', { name: 'Take out Words' }).click();
  for (const tab of tabs) await expect(tab.getByRole('button', { name: /^Words/ })).toHaveCount(0);
  await tabs.shift()!.close();
  await page.getByRole('button', { name: '+ block' }).click();
  await page.getByRole('menuitem', { name: /^Words/ }).click();
  for (const tab of tabs) await expect(tab.getByRole('button', { name: /^Words/ })).toBeVisible();
  await page.getByRole('button', { name: 'Take out Words' }).click();
  for (const tab of tabs) await expect(tab.getByRole('button', { name: 'Rename 4 files' })).toBeEnabled();
  await context.close();
});

test('folders that are empty, gone, or lead out', async () => {
  await page.goto(`${server.url}/jobs/ODD/intake?root=shelf&path=Nothing&look=1`);
  await expect(page.getByText('No footage was recognised here')).toBeVisible();
  await page.goto(`${server.url}/jobs/ODD/intake?root=shelf&path=Gone&look=1`);
  await expect(page.getByText('The folder “Gone” is no longer there.').first()).toBeVisible();
  for (const way of ['../..', '/etc', 'way-out', 'Odd/../..']) {
    await page.goto(`${server.url}/jobs/ODD/intake?root=shelf&path=${encodeURIComponent(way)}&look=1`);
    await expect(page.getByText(/leads out of|goes through a link/).first()).toBeVisible();
    await expect(page.getByText('secret')).toHaveCount(0);
  }
});

test("a folder of one's own is added to read from: its clips are copied, itself left alone", async () => {
  const stick = mkdtempSync(path.join(tmpdir(), 'shelf-stick-'));
  clip(stick, 'Y001', 'one.mp4');
  const source = hashTree(stick);
  await page.goto(`${server.url}/jobs/ODD/intake`);
  await page.getByRole('button', { name: 'Add a place …' }).click();
  // The server is on this computer: that there is no network is nothing to it.
  await page.evaluate(() => window.dispatchEvent(new Event('offline')));
  await page.getByLabel('Folder on this computer').fill(path.join(stick, 'none'));
  await page.getByRole('button', { name: 'Go', exact: true }).click();
  await expect(page.getByText(/There is no folder/)).toBeVisible();
  await expect(page.getByRole('button', { name: 'Use this folder' })).toBeDisabled();
  // Not the folder that was in sight before, while the field says another one.
  await page.getByLabel('Folder on this computer').fill(path.join(stick, 'Y001'));
  await page.getByRole('button', { name: 'Go', exact: true }).click();
  await expect(page.getByRole('button', { name: 'Use this folder' })).toBeEnabled();
  await page.getByLabel('Folder on this computer').fill(stick);
  await expect(page.getByText('Press Go to see the folder that was typed.')).toBeVisible();
  await expect(page.getByRole('button', { name: 'Use this folder' })).toBeDisabled();
  await page.getByRole('button', { name: 'Go', exact: true }).click();
  await page.getByRole('button', { name: 'Use this folder' }).click();
  await expect(page.getByRole('button', { name: /^shelf-stick.*read only/, pressed: true })).toBeVisible();
  await page.getByRole('button', { name: 'Look in this folder' }).click();
  await page.getByRole('button', { name: 'Use in place' }).click();
  await page.getByRole('button', { name: 'Take in 1 card, 1 clip' }).click();
  await page.getByRole('link', { name: 'Card Y001' }).click();
  await page.getByRole('link', { name: 'Name this card' }).click();
  await expect(page.getByText(/1 file, .* will be copied and verified/)).toBeVisible();
  await page.getByRole('button', { name: 'Rename 1 file' }).click();
  await expect(page.getByText('1 file renamed and placed.')).toBeVisible();
  expect(hashTree(stick)).toEqual(source);
  expect(Object.values(hashTree(server.shelf))).toContain(source['Y001/one.mp4']);
  // The stick is pulled out: its place says so, the copy on the shelf is there.
  renameSync(stick, `${stick}-gone`);
  await page.goto(server.url);
  await expect(page.getByText('offline')).toBeVisible();
  rmSync(`${stick}-gone`, { recursive: true });
});

test('the player gets byte ranges', async () => {
  const { cards } = (await (await fetch(`${server.url}/api/jobs/ODD/overview/wall`)).json()) as {
    cards: { id: string }[];
  };
  const card = (await (
    await fetch(`${server.url}/api/jobs/ODD/overview/cards/${cards.find((c) => c.id === 'X001')!.id}`)
  ).json()) as { views: { id: string; state: string; bytes: number }[] };
  const view = card.views.find((v) => v.state === 'read')!;
  const get = (range?: string) =>
    fetch(`${server.url}/api/jobs/ODD/viewing/${view.id}/media`, range ? { headers: { range } } : {});
  const whole = new Uint8Array(await (await get()).arrayBuffer());
  expect(whole).toHaveLength(view.bytes);
  for (const [range, from, to] of [
    ['bytes=0-99', 0, 100],
    ['bytes=1000-', 1000, view.bytes],
    ['bytes=-50', view.bytes - 50, view.bytes],
    ['bytes=10-999999999', 10, view.bytes],
  ] as const) {
    const part = await get(range);
    expect(part.status).toBe(206);
    expect(part.headers.get('content-range')).toBe(`bytes ${from}-${to - 1}/${view.bytes}`);
    expect(Buffer.from(await part.arrayBuffer()).equals(Buffer.from(whole.subarray(from, to)))).toBe(true);
  }
  expect((await get(`bytes=${view.bytes}-`)).status).toBe(416);
});

test('by keyboard: steps, clips, leaves, keys', async () => {
  await page.goto(`${server.url}/jobs/ODD/card/X001`);
  const chosen = () => page.getByRole('option', { selected: true });
  await expect(chosen()).toHaveCount(1);
  await page.keyboard.press('ArrowRight');
  await page.keyboard.press('Shift+ArrowRight');
  await expect(chosen()).toHaveCount(2);
  await page.keyboard.press('Control+a');
  await expect(chosen()).toHaveCount(5);
  await page.keyboard.press('Home');
  await expect(chosen()).toHaveCount(1);
  await page.keyboard.press('Period');
  await expect(page.getByTestId('frame')).toHaveText('2 of 25');
  await page.keyboard.press('?');
  await expect(page.getByRole('dialog')).toContainText('Switch between original and proxy');
  await page.keyboard.press('Escape');
  await page.keyboard.press('5');
  await expect(page).toHaveURL(/proxies$/);
  await page.keyboard.press('3');
  await expect(page).toHaveURL(/facts$/);
  await page.keyboard.press('g');
  await expect(page).toHaveURL(/logbook$/);
  await page.keyboard.press('1');
  await expect(page.getByRole('link', { name: 'Card X001' })).toBeVisible();
  await page.goBack();
  await expect(page).toHaveURL(/logbook$/);
});

test('the logbook is filtered by kind and words', async () => {
  await page.goto(`${server.url}/jobs/ODD/logbook`);
  const entries = page.getByRole('listitem');
  await expect(entries.filter({ hasText: 'Took in X001' })).toBeVisible();
  await page.getByRole('button', { name: 'Taken in' }).click();
  await expect(entries).toHaveCount(2);
  await page.getByLabel('Find in the logbook').fill('x001');
  await expect(entries).toHaveCount(1);
  await page.getByLabel('Find in the logbook').fill('nowhere');
  await expect(page.getByText('No entries of this kind')).toBeVisible();
});

test('a card taken in by mistake is forgotten, its files are not', async () => {
  const before = hashTree(server.shelf);
  await page.goto(`${server.url}/jobs/ODD/card/Y001`);
  await page.getByRole('button', { name: 'Forget card …' }).click();
  await page.getByRole('button', { name: 'Forget card', exact: true }).click();
  await expect(page.getByText('Clips of Y001 have been named.')).toBeVisible();
  await page.goto(`${server.url}/jobs/ODD/card/X001`);
  await page.getByRole('button', { name: 'Forget card …' }).click();
  await page.getByRole('button', { name: 'Cancel' }).click();
  await page.getByRole('button', { name: 'Forget card …' }).click();
  await page.getByRole('button', { name: 'Forget card', exact: true }).click();
  await expect(page.getByRole('link', { name: 'Card Y001' })).toBeVisible();
  await expect(page.getByRole('link', { name: 'Card X001' })).toHaveCount(0);
  expect(hashTree(server.shelf)).toEqual(before);
  await page.goto(`${server.url}/jobs/ODD/intake?root=shelf&path=Odd&look=1`);
  await page.getByRole('button', { name: 'Take in 1 card, 5 clips' }).click();
  // What is in the job twice is said of the other card as well.
  await expect(page.getByRole('link', { name: '5 to look at' })).toBeVisible();
});

test('clips that could not be read are listed with the reason; put right, they are read when tried again', async () => {
  await page.goto(`${server.url}/jobs/ODD/facts`);
  await page.getByRole('tab', { name: /^Not read/ }).click();
  const list = page.getByRole('table', { name: 'Clips that could not be read' });
  const cut = list.getByRole('row').filter({ hasText: 'cut.mp4 is cut short' });
  await expect(cut).toHaveCount(1);
  await list.getByRole('button', { name: /^Try cut.* again$/ }).click();
  await expect(cut).toHaveCount(1);
  clip(server.shelf, 'Odd', 'cut.mp4');
  const unread = async (): Promise<number> => {
    const ask = async (what: string) =>
      (await fetch(`${server.url}/api/jobs/ODD/${what}`)).json() as Promise<unknown>;
    const { cards } = (await ask('overview/wall')) as { cards: { clips: number; done: { read: number } }[] };
    const faulty = (await ask('facts/unread')) as unknown[];
    return cards.reduce((n, c) => n + c.clips - c.done.read, faulty.length);
  };
  // Where it was still being read as it was before, it is tried once more.
  await expect(async () => {
    await page
      .getByRole('button', { name: 'Try all again' })
      .click({ timeout: 5000 })
      .catch(() => undefined);
    await expect.poll(unread, { timeout: 10_000 }).toBe(0);
  }).toPass();
  await expect(list.getByRole('row')).toHaveCount(0);
});

test('footage that is away is waited for: the strip says so, and it is read once it is back', async () => {
  await page.goto(`${server.url}/jobs/ODD/card/Y001`);
  await expect(page.getByRole('option').first()).toBeVisible();
  const away = `${server.shelf} away`;
  renameSync(server.shelf, away);
  await page.getByRole('button', { name: 'Read again' }).click();
  const strip = page.getByRole('status').filter({ hasText: '“Shelf” is offline' });
  await expect(strip).toContainText(/\d+ waiting/);
  renameSync(away, server.shelf);
  await expect(strip).toHaveCount(0);
  await page.goto(`${server.url}/jobs/ODD/facts`);
  await page.getByRole('tab', { name: /^Not read/ }).click();
  await expect(
    page.getByRole('table', { name: 'Clips that could not be read' }).getByRole('row'),
  ).toHaveCount(0);
});

test('the server away: the page says so, and goes on when it is back', async () => {
  const { cards } = (await (await fetch(`${server.url}/api/jobs/ODD/overview/wall`)).json()) as {
    cards: { id: string }[];
  };
  await page.goto(`${server.url}/jobs/ODD/card/${cards.find((c) => c.id !== 'Y001')!.id}`);
  await expect(page.getByRole('option').first()).toBeVisible();
  await server.kill();
  await page.getByRole('button', { name: 'Read again' }).click();
  // The drawer may say so as well, of the clip it was just asking for.
  await expect(page.getByText('Sort Shelf does not answer.').first()).toBeVisible();
  await server.start();
  await page.getByRole('button', { name: 'Read again' }).click();
  await expect(page.getByText('1 clip being read again')).toBeVisible();
});

test('a screen that fails says so in its place: the others are there, and it is drawn again when asked', async () => {
  const other = await page.context().newPage();
  await other.addInitScript(() => {
    const before = Object.getOwnPropertyDescriptor(Date.prototype, 'getDate')!;
    Object.assign(window, { mend: () => Object.defineProperty(Date.prototype, 'getDate', before) });
    Date.prototype.getDate = () => {
      throw new Error('no days today');
    };
  });
  await other.goto(`${server.url}/jobs/ODD/logbook`);
  await expect(other.getByRole('heading', { name: 'This screen has stopped' })).toBeVisible();
  await expect(other.getByRole('main').getByRole('alert')).toHaveText('no days today');
  await other.getByRole('link', { name: /Naming/ }).click();
  await expect(other.getByRole('button', { name: /^Counter/ })).toBeVisible();
  await other.goBack();
  await expect(other.getByRole('heading', { name: 'This screen has stopped' })).toBeVisible();
  await other.evaluate(() => (window as unknown as { mend: () => void }).mend());
  await other.getByRole('button', { name: 'Try again' }).click();
  await expect(other.getByRole('button', { name: /^Show/ }).first()).toBeVisible();
  await other.close();
});

test('a name that is markup is a name on every page, in the receipt and in the logbook', async () => {
  const name = `<img src=x onerror="document.title='hit'">`;
  clip(server.shelf, 'Markup', `${name}.mp4`);
  const post = (to: string, body: unknown) =>
    fetch(`${server.url}/api/${to}`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify(body),
    });
  await page.goto(`${server.url}/jobs/ODD/intake?root=shelf&path=Markup&look=1`);
  await page
    .getByRole('article')
    .getByRole('button', { name: /Clips and files/ })
    .click();
  await expect(page.getByRole('article').getByText(name).first()).toBeVisible();
  expect(
    (
      await post('jobs/ODD/intake', {
        root: 'shelf',
        path: 'Markup',
        cards: [{ folder: '', camera: 'M', cardId: 'M001', day: 1, date: null }],
      })
    ).status,
  ).toBe(200);
  for (const at of [
    '/jobs',
    '/jobs/ODD',
    '/jobs/ODD/card/M001',
    '/jobs/ODD/card/M001?view=table',
    '/jobs/ODD/facts',
    '/jobs/ODD/naming',
    '/jobs/ODD/proxies',
    '/jobs/ODD/logbook',
    '/jobs/ODD/card/M001/wipe',
    '/api/jobs/ODD/custody/cards/M001/receipt',
  ]) {
    await page.goto(server.url + at);
    await page.waitForLoadState('networkidle').catch(() => undefined);
    expect([
      at,
      await page.locator('img[src="x"]').count(),
      await page.evaluate(() => document.title !== 'hit'),
    ]).toEqual([at, 0, true]);
  }
  // The receipt is printed: its policy lets it keep its looks.
  await page.goto(`${server.url}/api/jobs/ODD/custody/cards/M001/receipt`);
  expect(await page.evaluate(() => document.styleSheets.length)).toBeGreaterThan(0);
  await page.goto(`${server.url}/jobs/ODD/card/M001`);
  await expect(page.getByText(name).first()).toBeVisible();
});
