import { expect, type Page, test } from '@playwright/test';
import { execFileSync } from 'node:child_process';
import { randomUUID } from 'node:crypto';
import {
  existsSync,
  mkdirSync,
  readFileSync,
  readdirSync,
  renameSync,
  rmSync,
  truncateSync,
  writeFileSync,
} from 'node:fs';
import path from 'node:path';
import { laterRecords } from '../src/server/testing/laterRecords';
import { TestServer } from './server';

// From the plugged card to the wipe answer through the real interface, with the stand-ins for reader and drives.
test.describe.configure({ mode: 'serial' });

const server = new TestServer('demo');
const standIns = (...p: string[]) => path.join(server.home, 'stand-ins', ...p);
let page: Page;

test.beforeAll(async ({ browser }) => {
  test.setTimeout(400_000);
  await server.start();
  page = await browser.newPage();
});
test.afterAll(() => server.close());

const intake = () => page.goto(`${server.url}/jobs/SLW/intake`);
async function plug(card: string, slot = 0): Promise<void> {
  const row = page.getByRole('region', { name: 'Card reader' });
  await row.getByRole('button', { name: 'Plug in …' }).nth(slot).click();
  await page.getByRole('menuitem', { name: card, exact: true }).click();
  await expect(row).toContainText(card);
}
async function tell(what: string, to: string): Promise<void> {
  await page.getByRole('button', { name: `Simulate a fault in ${what}` }).click();
  await page.getByRole('menuitem', { name: to }).click();
  await expect(page.getByRole('menu')).toHaveCount(0);
}
const look = () =>
  page
    .getByRole('region', { name: 'Card reader' })
    .getByRole('button', { name: 'Look', exact: true })
    .first()
    .click();
const ticked = () => page.getByRole('option', { selected: true });
const pull = async () => {
  const out = page.getByRole('region', { name: 'Card reader' }).getByRole('button', { name: 'Pull out' });
  await out.first().click();
  await expect(out).toHaveCount(0);
};

test('look before copying: what it is, ticks by click, shift, rectangle and keys, what will not be copied', async () => {
  await intake();
  await tell('Reader 1', 'be slow');
  await plug('A002');
  // However long its files are looked into, its pictures are there; nothing can be ticked or copied yet.
  let goOn = () => undefined as void;
  const held = new Promise<void>((r) => (goOn = r));
  await page.route('**/intake/look', (route) => held.then(() => route.continue()));
  await look();
  await expect(page.getByText('a folder per clip')).toBeVisible();
  const tiles = page.getByRole('option');
  await expect(tiles).toHaveCount(3);
  await expect(page.getByText('Looking into the files …')).toBeVisible();
  await expect(tiles.nth(0).locator('img')).toBeVisible();
  await tiles.nth(0).click();
  await expect(ticked()).toHaveCount(0);
  await expect(page.getByRole('button', { name: 'All', exact: true })).toBeDisabled();
  await expect(page.getByRole('button', { name: /^Copy \d/ })).toHaveCount(0);
  goOn();
  await expect(ticked()).toHaveCount(3);
  await expect(tiles.nth(0)).toContainText('3 segments');
  await expect(tiles.nth(0)).toContainText('25 fps');
  await expect(tiles.nth(2)).toContainText('cut short');
  await expect
    .poll(() =>
      tiles
        .nth(0)
        .locator('img')
        .evaluate((i: HTMLImageElement) => i.naturalWidth),
    )
    .toBe(4800);
  await expect(ticked()).toHaveCount(3);
  await page.getByRole('button', { name: 'None', exact: true }).click();
  await expect(ticked()).toHaveCount(0);
  await tiles.nth(0).click();
  await tiles.nth(2).click({ modifiers: ['Shift'] });
  await expect(ticked()).toHaveCount(3);
  await page.getByRole('button', { name: 'Invert' }).click();
  await expect(ticked()).toHaveCount(0);
  // A rectangle over the first two, from beside them.
  const [a, b] = [(await tiles.nth(0).boundingBox())!, (await tiles.nth(1).boundingBox())!];
  await page.mouse.move(a.x + 20, a.y + a.height + 40);
  await page.mouse.down();
  await page.mouse.move(b.x + 30, b.y + 30, { steps: 6 });
  await page.mouse.up();
  await expect(ticked()).toHaveCount(2);
  await tiles.nth(2).focus();
  await tiles.nth(0).click();
  await expect(ticked()).toHaveCount(1);
  await page.keyboard.press('Space');
  await page.keyboard.press('ArrowRight');
  await page.keyboard.press('ArrowRight');
  await expect(tiles.nth(2)).toBeFocused();
  await expect(page.getByRole('list', { name: 'What will not be copied' })).toContainText(
    '1 clip not ticked',
  );
  await page.getByRole('button', { name: 'All', exact: true }).click();
  await page.getByRole('button', { name: 'large pictures' }).click();
  await expect.poll(async () => (await tiles.nth(0).boundingBox())!.width).toBe(280);
});

test('a clip is played from the card, with sound', async () => {
  await page.getByRole('option').nth(1).focus();
  await page.getByRole('option').nth(1).dblclick();
  const film = page.locator('video');
  await expect.poll(() => film.evaluate((v: HTMLVideoElement) => v.readyState)).toBeGreaterThanOrEqual(2);
  expect(await film.evaluate((v: HTMLVideoElement) => v.videoWidth)).toBe(640);
  await page.keyboard.press('Escape');
  await page.getByRole('button', { name: 'All', exact: true }).click();
});

test('copied to two drives and the shelf; pulled out in the middle, put back, it goes on by itself', async () => {
  // What the clips will be called is shown on the bench, and may be changed there, before anything is copied.
  await page.getByRole('button', { name: 'Their names and places …' }).click();
  const names = page.getByRole('dialog', { name: 'Names and places after the copy' });
  const row = (name: string) => names.getByRole('row').filter({ hasText: name });
  await expect(row('A002_C001')).toContainText('SLW_D1_A002_001_25p.MOV');
  await expect(row('A002_C003')).toContainText('cannot be read: it will keep its name');
  await names.getByRole('button', { name: /^Rate/ }).click();
  await names.getByRole('button', { name: 'Take out Rate' }).click();
  await expect(row('A002_C001')).toContainText('SLW_D1_A002_001.MOV');
  await expect(names.getByRole('group', { name: 'Folders' })).toContainText('A002');
  await expect(names.getByRole('button', { name: /^Rename/ })).toHaveCount(0);
  await names.getByRole('button', { name: 'Done' }).click();
  // So slow that it is still being copied when it is pulled out, however busy the machine is.
  await slow(120_000);
  await page.getByRole('button', { name: /^Copy 8 files/ }).click();
  await page.waitForURL(/\/copy\//);
  const copy = page.url();
  await expect(page.getByRole('region', { name: 'Progress' })).toContainText(/\d of 8 files verified/);
  await expect
    .poll(async () =>
      Number(await page.getByRole('progressbar', { name: 'Copied' }).getAttribute('aria-valuenow')),
    )
    .toBeGreaterThan(5);
  // Usable at once: the clips are in the job while they are copied.
  await page.goto(`${server.url}/jobs/SLW/card/A002`);
  await expect(page.getByRole('option')).toHaveCount(3);
  await intake();
  await pull();
  await page.goto(copy);
  await expect(page.getByRole('alert').filter({ hasText: 'pulled out of Reader 1' })).toBeVisible();
  await page.reload();
  await expect(page.getByText(/^\? waiting$/)).toBeVisible();
  await intake();
  await expect(page.getByText(/^\? waiting$/)).toBeVisible();
  await tell('Reader 1', 'work normally');
  await plug('A002');
  await page.goto(copy);
  await expect(page.getByRole('region', { name: 'Progress' })).toContainText('8 of 8 files verified');
  await expect(
    page
      .getByRole('alert')
      .filter({ hasText: 'A002_C003 was copied as it is on the card, but cannot be read' }),
  ).toBeVisible();
  for (const drive of ['North', 'South']) {
    execFileSync('diff', [
      '-r',
      '--exclude=ascmhl',
      standIns('readers/Reader 1/A002'),
      standIns('drives', drive, 'SLW/Day 1/A002'),
    ]);
  }
  const shelved = readdirSync(server.shelf, { recursive: true, encoding: 'utf8' });
  expect(shelved.filter((f) => f.endsWith('/SLW_D1_A002_002.MOV'))).toHaveLength(1);
  expect(shelved.filter((f) => f.includes('_25p'))).toEqual([]);
});

test('may this card be wiped: yes, with a receipt whose hashes xxhsum finds too', async () => {
  await page.getByRole('link', { name: 'May this card be wiped?' }).click();
  await expect(page.getByRole('region', { name: 'Answer' })).toContainText(
    'YesAll 8 files of the card are in 2 copies on 2 disks, verified by contents (XXH3-128).',
  );
  const receipt = (await (
    await fetch(`${server.url}/api/jobs/SLW/custody/cards/A002/receipt?as=json`)
  ).json()) as {
    may: boolean;
    list: { path: string; hash: string; copies: number }[];
  };
  expect(receipt.may).toBe(true);
  expect(receipt.list).toHaveLength(8);
  for (const f of receipt.list) {
    expect(f.copies).toBe(2);
    expect(
      execFileSync('xxhsum', ['-q', '-H2', standIns('drives/South/SLW/Day 1/A002', f.path)], {
        encoding: 'utf8',
      }).split(/\s/)[0],
    ).toBe(f.hash);
  }
  const print = await page.context().browser()!.newPage();
  await print.goto(`${server.url}/api/jobs/SLW/custody/cards/A002/receipt`);
  await expect(print.getByText('May this card be wiped? Yes.')).toBeVisible();
  await expect(print.getByRole('row', { name: /A002_C001_002\.MOV/ })).toContainText(
    receipt.list.find((f) => f.path.includes('C001_002'))!.hash,
  );
  await print.close();
});

test('a byte that flips on a drive is found by check again, and the answer turns', async () => {
  const file = standIns('drives/South/SLW/Day 1/A002/A002_C002/A002_C002.MOV');
  const bytes = readFileSync(file);
  bytes[bytes.length >> 1]! ^= 4;
  writeFileSync(file, bytes);
  const south = page.getByRole('article', { name: 'Copy on South' });
  await south.getByRole('button', { name: 'Check again' }).click();
  await expect(south).toContainText('7 the same');
  await expect(south).toContainText('1 changed');
  await expect(south).toContainText('A002_C002/A002_C002.MOV');
  await expect(south).toContainText('the hash list agrees');
  await expect(page.getByRole('region', { name: 'Answer' })).toContainText(
    'No1 file of 8 is in one verified copy only',
  );
  await expect(page.getByRole('region', { name: 'What is missing for a yes' })).toContainText(
    'does not hold the same bytes as the card',
  );
  expect(
    readdirSync(standIns('drives/South/SLW/Day 1/A002/ascmhl')).filter((n) => n.endsWith('.mhl')),
  ).toHaveLength(2);
});

test('files removed in the file manager are seen when it is asked; a drive that is away is offline, and counts only where the job allows it', async () => {
  await page.reload();
  rmSync(standIns('drives/North/SLW/Day 1/A002/A002_C001'), { recursive: true });
  await page.getByRole('button', { name: 'Look again' }).click();
  await expect(page.getByRole('region', { name: 'What is missing for a yes' })).toContainText(
    /files on North: .* no longer there/,
  );
  await expect(page.getByRole('article', { name: 'Copy on North' })).toContainText('not as copied');
  renameSync(standIns('drives/South'), standIns('drives-South'));
  await page.getByRole('button', { name: 'Look again' }).click();
  await expect(page.getByRole('article', { name: 'Copy on South' })).toContainText('offline');
  const counts = page.getByRole('checkbox', { name: /offline count as they were last seen/ });
  await counts.click();
  await expect(counts).toBeChecked();
  await expect(page.getByRole('region', { name: 'Answer' })).toContainText(/^No/);
  await counts.click();
  await expect(counts).not.toBeChecked();
  renameSync(standIns('drives-South'), standIns('drives/South'));
});

test('a file the reader never gives is named, the rest is copied; tried again, it comes', async () => {
  await intake();
  await pull();
  await tell('Reader 1', 'never give the second file');
  await plug('C001');
  await look();
  await expect(page.getByRole('option')).toHaveCount(2);
  await page.getByRole('button', { name: /^Copy \d+ files/ }).click();
  await expect(page.getByText('not all copied')).toBeVisible();
  await expect(page.getByRole('row', { name: /SKRY0002\.MP4/ })).toContainText(
    'cannot be read (EIO), tried 3 times',
  );
  await page.getByRole('link', { name: 'May this card be wiped?' }).click();
  await expect(page.getByRole('region', { name: 'Answer' })).toContainText('SKRY0002.MP4');
  await expect(page.getByRole('region', { name: 'Answer' })).toContainText(/^No/);
  await intake();
  await tell('Reader 1', 'work normally');
  await page.getByRole('link', { name: 'Copy of C001' }).click();
  await page.getByRole('button', { name: /^Retry \d files/ }).click();
  await expect(page.getByRole('region', { name: 'Progress' })).toContainText('8 of 8 files verified');
  await expect(page.getByRole('link', { name: 'Open the card' })).toBeVisible();
  // The family that was not whole was named only now, all of it.
  await expect(page.getByRole('main').getByRole('alert')).toHaveCount(0);
  expect(
    readdirSync(path.join(server.shelf, 'SLW'), { recursive: true, encoding: 'utf8' })
      .filter((n) => n.includes('C001_'))
      .map((n) => path.basename(n))
      .sort(),
  ).toEqual([
    'SLW_D1_C001_001.THM',
    'SLW_D1_C001_001_1.MP4',
    'SLW_D1_C001_001_2.MP4',
    'SLW_D1_C001_001_2.THM',
    'SLW_D1_C001_001_3.MP4',
    'SLW_D1_C001_001_3.THM',
    'SLW_D1_C001_002.MP4',
    'SLW_D1_C001_002.THM',
  ]);
});

const slow = (bytes: number | null) =>
  fetch(`${server.url}/api/offload/stand-ins`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({
      action: 'faults',
      of: 'Reader 1',
      faults: { slow: bytes, failRead: null, flip: null, capacity: null },
    }),
  });

test('a drive that is pulled is waited for; one that fills up: the copy pauses, and goes on without it', async () => {
  await intake();
  await pull();
  // So slow that the drive is full long before the copy could be finished, however busy the machine is.
  await slow(60_000);
  await plug('B003');
  await look();
  await page.getByRole('button', { name: /^Copy \d+ files/ }).click();
  await page.waitForURL(/\/copy\//);
  renameSync(standIns('drives/South'), standIns('drives-South'));
  await slow(null);
  const offline = page.getByRole('alert').filter({ hasText: 'South is offline. Connect it' });
  await expect(offline).toBeVisible();
  // What is there is not offered to be left out.
  await expect(page.getByRole('button', { name: /^Continue without/ })).toHaveText([
    'Continue without South',
  ]);
  await slow(60_000);
  renameSync(standIns('drives-South'), standIns('drives/South'));
  await expect(offline).toHaveCount(0);
  // Full at once, whatever it held before.
  await fetch(`${server.url}/api/offload/stand-ins`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({
      action: 'faults',
      of: 'South',
      faults: { slow: null, failRead: null, flip: null, capacity: 1 },
    }),
  });
  await expect(page.getByRole('alert').filter({ hasText: 'South is full' })).toBeVisible();
  await slow(null);
  await page.getByRole('button', { name: 'Continue without South' }).click();
  await expect(page.getByRole('link', { name: 'May this card be wiped?' })).toBeVisible();
  await page.getByRole('link', { name: 'May this card be wiped?' }).click();
  await expect(page.getByRole('region', { name: 'Answer' })).toContainText('in one verified copy only');
  await fetch(`${server.url}/api/offload/stand-ins`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ action: 'faults', of: 'South', faults: {} }),
  });
});

test('the server is killed in the middle; the next start goes on from the last verified file', async () => {
  test.setTimeout(400_000);
  await intake();
  await pull();
  await slow(200_000);
  await plug('D001');
  await look();
  // Numbered stills are one clip, and can be single ones.
  await expect(page.getByRole('option')).toHaveCount(4);
  await expect(page.getByText('1 still missing in WHIM0101: WHIM0112')).toBeVisible();
  const singles = page.getByText('3 of 26 clips').or(page.getByText('26 of 26 clips'));
  const again = page.getByRole('button', { name: 'group numbered stills again' });
  await page.getByText('as single stills').click();
  await expect(singles).toBeVisible();
  await again.click();
  await expect(page.getByRole('option')).toHaveCount(4);
  // By keyboard as well.
  await page.getByRole('option', { name: /^WHIM0101/ }).press('s');
  await expect(singles).toBeVisible();
  await again.click();
  await expect(page.getByRole('option')).toHaveCount(4);
  // What is played stays ticked.
  const video = page.getByRole('option', { name: /, ticked$/ }).filter({ has: page.getByTitle('Play') });
  await expect(video).toHaveCount(3);
  await video.first().hover();
  await video.first().getByTitle('Play').click();
  await page.getByRole('dialog').locator('video').waitFor();
  await page.keyboard.press('Escape');
  await expect(page.getByRole('dialog')).toHaveCount(0);
  await expect(video).toHaveCount(3);
  await page.getByRole('button', { name: /^Copy \d+ files/ }).click();
  await page.waitForURL(/\/copy\//);
  await expect
    .poll(async () =>
      Number(await page.getByRole('progressbar', { name: 'Copied' }).getAttribute('aria-valuenow')),
    )
    .toBeGreaterThan(20);
  await server.kill();
  await server.start();
  await slow(null);
  await page.reload();
  await expect(page.getByRole('region', { name: 'Progress' })).toContainText('29 of 29 files verified');
  for (const drive of ['North', 'South']) {
    execFileSync('diff', [
      '-r',
      '--exclude=ascmhl',
      standIns('readers/Reader 1/D001'),
      standIns(
        'drives',
        drive,
        readdirSync(standIns('drives', drive, 'SLW'))
          .find((d) => existsSync(standIns('drives', drive, 'SLW', d, 'D001')))!
          .replace(/^/, 'SLW/'),
        'D001',
      ),
    ]);
  }
});

test('a database that is lost is rebuilt from the records on the drives, chosen on the screen: the answers are the same, and two windows do not choose twice', async ({
  browser,
}) => {
  test.setTimeout(400_000);
  await expect
    .poll(async () => JSON.stringify(await (await fetch(`${server.url}/api/jobs/SLW/proxies/work`)).json()))
    .toContain('"read":0,"rest":0');
  const answers = async () => {
    const { cards } = (await (await fetch(`${server.url}/api/jobs/SLW/overview/wall`)).json()) as {
      cards: { id: string }[];
    };
    return Promise.all(
      cards.map(async ({ id }) => {
        const { verdict, copies, because } = (await (
          await fetch(`${server.url}/api/jobs/SLW/custody/cards/${id}/wipe`)
        ).json()) as { verdict: string; because: string; copies: unknown[] };
        return { id, verdict, because, copies: copies.length };
      }),
    );
  };
  const before = await answers();
  // Its records are some seconds behind at most.
  await page.waitForTimeout(4500);
  await server.kill();
  truncateSync(path.join(server.home, 'database/global/pg_control'), 100);
  // On a drive lie newer records of somebody else's job, which is called the same.
  const own = path.join(server.home, 'records');
  const others = new Map<string, string>();
  const strange = laterRecords(
    readFileSync(
      path.join(
        own,
        readdirSync(own).find((n) => n.startsWith('records-'))!,
      ),
      'utf8',
    ),
    (id) => others.get(id) ?? others.set(id, randomUUID()).get(id)!,
  );
  writeFileSync(standIns('drives/South/.sort-shelf', strange.name), strange.text);
  await server.start();
  expect(server.output).toContain('is damaged: PostgreSQL cannot open it. No footage is touched by this.');
  await page.goto(`${server.url}/jobs/SLW/copy/none`);
  const other = await browser.newPage();
  await other.goto(server.url);
  await expect(other.getByRole('heading', { name: 'The database is lost' })).toBeVisible();
  // Both are there to choose from; its own are proposed.
  await expect(page.getByRole('radio').first()).toBeChecked();
  await expect(page.getByText('This data folder’s own.')).toHaveCount(1);
  await page.getByRole('button', { name: 'Rebuild', exact: true }).click();
  await expect(page.getByRole('heading', { name: 'Rebuilt' })).toBeVisible();
  await expect(page.getByText('What was proven of the safe copies counts as before.')).toBeVisible();
  await page.getByRole('button', { name: 'Go on' }).click();
  // The other window goes on by itself; what it might have chosen before is refused.
  await expect(other.getByRole('button', { name: 'Begin with an empty database' })).toHaveCount(0);
  await expect(other.getByRole('navigation', { name: 'Steps' })).toBeVisible();
  expect(
    (
      await fetch(`${server.url}/api/records/rescue`, {
        method: 'POST',
        headers: { 'content-type': 'application/json' },
        body: JSON.stringify({ how: 'empty' }),
      })
    ).status,
  ).toBe(409);
  await other.close();
  expect(await answers()).toEqual(before);
  await page.goto(`${server.url}/jobs/SLW/logbook`);
  await expect(page.getByText(/Rebuilt from the record of .* files stand as recorded/)).toBeVisible();
});

test('a card offered twice is known under another name; folders left out and a shape of one’s own', async () => {
  await page.goto(`${server.url}/jobs/SLW/intake?root=shelf&path=Offloaded%2FDay+1%2FB001&look=1`);
  await page.getByRole('button', { name: /^Take in 1 card/ }).click();
  await page.waitForURL(`${server.url}/jobs/SLW`);
  await intake();
  await pull();
  await tell('Reader 1', 'work normally');
  await plug('UNTITLED');
  await look();
  await expect(page.getByText('these are the recordings of B001, all 11: nothing is new')).toBeVisible();
  await expect(ticked()).toHaveCount(0);
  await page.getByRole('button', { name: 'How it is recognised …' }).click();
  await page.getByRole('button', { name: 'Add a shape …' }).click();
  await page.getByLabel('A card shape, as JSON').fill('{"id": "x"');
  await page.getByRole('button', { name: 'Add this shape' }).click();
  await expect(page.getByText(/JSON/).nth(1)).toBeVisible();
  await page.getByLabel('A card shape, as JSON').fill(
    JSON.stringify({
      id: 'clips-only',
      name: 'only its clips',
      because: 'a shape made for this',
      marks: ['^clip/.+\\.mp4$'],
      rules: [
        { pattern: '^clip/(?<stem>[^/]+)\\.mp4$', role: 'original' },
        { pattern: '^sub/(?<stem>[^/]+)\\..*$', role: 'cameraProxy' },
      ],
    }),
  );
  await page.getByRole('button', { name: 'Add this shape' }).click();
  await page.getByLabel('Folders left out').fill('SUB');
  await page.getByRole('button', { name: 'Save and look again' }).click();
  await expect(page.getByText('a shape made for this')).toBeVisible();
  await page.getByRole('button', { name: /^\d+ notes?$/ }).click();
  await expect(page.getByRole('list', { name: 'Left aside or marked' })).toContainText(
    'is in a folder that is left out (SUB)',
  );
});

test('of very many drives eight are ticked; one more is said to be too many', async () => {
  for (let n = 1; n <= 7; n++) {
    const at = standIns('more', `Drive ${n}`);
    mkdirSync(at, { recursive: true });
    await fetch(`${server.url}/api/places/roots`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ name: `Drive ${n}`, path: at, kind: 'safe' }),
    });
  }
  await intake();
  await pull();
  await plug('C001');
  await look();
  const drives = page.getByRole('checkbox', { name: /^(Drive \d|North|South)/ });
  await expect(drives).toHaveCount(9);
  await expect(drives.and(page.locator(':checked'))).toHaveCount(8);
  const copy = page.getByRole('button', { name: /^Copy \d+ files/ });
  await expect(copy).toBeEnabled();
  await drives.and(page.locator(':not(:checked)')).check();
  await expect(page.getByText('at most 8 safe copies at once: untick some')).toBeVisible();
  await expect(copy).toBeDisabled();
  await page.getByRole('checkbox', { name: /^Drive 7/ }).uncheck();
  await expect(copy).toBeEnabled();
});

test('a drive is added where it is missing: it is ticked, and what was said of the card stays', async () => {
  const west = standIns('more', 'West');
  mkdirSync(west);
  for (const drive of ['Drive 6', 'North'])
    await page.getByRole('checkbox', { name: new RegExp(`^${drive}`) }).uncheck();
  await page.getByLabel('Day', { exact: true }).fill('7');
  const clips = await ticked().count();
  await page.getByRole('button', { name: 'Add a drive …' }).click();
  const dialog = page.getByRole('dialog', { name: 'Add a place' });
  await expect(dialog.getByText('Whole cards are copied to it, and stay as they are.')).toBeVisible();
  await dialog.getByLabel('Folder on this computer').fill(standIns('drives', 'South'));
  await page.keyboard.press('Enter');
  await expect(
    dialog.getByText(
      'It is a place already: “South”, safe copies. Choose another folder, or give the place another part on Places.',
    ),
  ).toBeVisible();
  await dialog.getByLabel('Folder on this computer').fill(west);
  await page.keyboard.press('Enter');
  await dialog.getByRole('button', { name: 'Use this folder' }).click();
  await expect(page.getByRole('checkbox', { name: /^West/ })).toBeChecked();
  await expect(page.getByRole('checkbox', { name: /^North/ })).not.toBeChecked();
  await expect(page.getByLabel('Day', { exact: true })).toHaveValue('7');
  await expect(ticked()).toHaveCount(clips);
  await expect(page.getByRole('button', { name: /^Copy \d+ files/ })).toBeEnabled();
});
