import { expect, type Page, test } from '@playwright/test';
import { parse } from 'csv-parse/sync';
import { execFileSync } from 'node:child_process';
import { existsSync, readdirSync, readFileSync } from 'node:fs';
import path from 'node:path';
import { hashTree, TestServer } from './server';

// What clips say of themselves, through the real interface: the table, field sets, extraction, clocks, charts, corrections.
test.describe.configure({ mode: 'serial' });

const server = new TestServer('demo');
let page: Page;
let before: Record<string, string>;

const post = async (to: string, body: unknown): Promise<unknown> => {
  const r = await fetch(`${server.url}/api/${to}`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify(body),
  });
  expect(r.ok, `${to}: ${r.status}`).toBe(true);
  return r.json();
};

test.beforeAll(async ({ browser }) => {
  test.setTimeout(300_000);
  await server.start();
  before = hashTree(server.shelf);
  page = await browser.newPage();
  // What was offloaded, and camera C's card, used in place.
  interface Looked {
    cards: { folder: string; suggestion: Record<'camera' | 'cardId' | 'day' | 'date', { value: unknown }> }[];
  }
  const { roots } = (await (await fetch(`${server.url}/api/jobs/SLW`)).json()) as {
    roots: { id: string; name: string }[];
  };
  const reader = roots.find((r) => r.name === 'Reader 1')!.id;
  for (const [root, folder, card] of [
    ['shelf', 'Offloaded', null],
    [reader, 'C001', 'C001'],
    [reader, 'S002', 'S002'],
  ] as const) {
    if (card) await post('offload/stand-ins', { action: 'plug', slot: 'Reader 1', card });
    const { cards } = (await post('jobs/SLW/intake/look', { root, path: folder, singles: [] })) as Looked;
    await post('jobs/SLW/intake', {
      root,
      path: folder,
      cards: cards.map(({ folder: f, suggestion: s }) => ({
        folder: f,
        camera: s.camera.value,
        cardId: s.cardId.value,
        day: s.day.value,
        date: s.date.value,
      })),
    });
    await expect
      .poll(
        async () => {
          const w = (await (await fetch(`${server.url}/api/jobs/SLW/proxies/work`)).json()) as {
            read: number;
            rest: number;
            proxies: unknown[];
          };
          return w.read + w.rest + w.proxies.length;
        },
        { timeout: 120_000 },
      )
      .toBe(0);
    if (card) await post('offload/stand-ins', { action: 'pull', slot: 'Reader 1' });
  }
});
test.afterAll(() => server.close());

const grid = () => page.getByRole('grid', { name: 'Clips by fields' });
const row = (name: string) => grid().getByRole('row', { name: new RegExp(`^${name} `) });

test('the table: every clip with its facts, found by words, grouped and sorted', async () => {
  await page.goto(`${server.url}/jobs/SLW/facts`);
  await expect(page.getByText('29 clips')).toBeVisible();
  await expect(row('A001_C003')).toContainText('VC-3');
  await page.getByRole('searchbox', { name: 'Find in the table' }).fill('HEVC b001');
  await expect(page.getByText('2 clips', { exact: true })).toBeVisible();
  await page.getByRole('searchbox', { name: 'Find in the table' }).fill('no such words');
  await page.getByRole('button', { name: 'Show all clips' }).click();
  await page.getByLabel('Grouped by').selectOption('camera');
  await expect(grid()).toContainText('Camera A4 clips');
  await page.getByLabel('Grouped by').selectOption('none');
  await grid().getByRole('button', { name: 'Duration' }).click();
  await grid().getByRole('button', { name: 'Duration' }).click();
  await expect(grid().getByRole('row').nth(1)).toContainText('150 frames');
});

test('a field set is made, and a card extracted by it: the CSV holds what ffprobe says of the files', async () => {
  await page.goto(`${server.url}/jobs/SLW/facts?card=B002`);
  await expect(page.getByText('10 clips')).toBeVisible();
  await page.getByRole('button', { name: 'Choose fields …' }).click();
  const chooser = page.getByRole('dialog', { name: 'Choose fields' });
  // A group at once, and one by one.
  const leaveOut = chooser.getByRole('button', { name: /^leave out / });
  for (let n = await leaveOut.count(); n > 0; n--) await leaveOut.first().click();
  await expect(chooser.getByRole('button', { name: 'Show these fields' })).toBeDisabled();
  await chooser.getByRole('checkbox', { name: 'Lens', exact: true }).first().check();
  await chooser.getByRole('checkbox', { name: 'Lens', exact: true }).first().uncheck();
  for (const f of [
    'File name',
    'Start timecode',
    'Frame rate',
    'Duration',
    'Codec',
    'Width',
    'Serial number',
    'ISO',
    'Speed',
  ])
    await chooser
      .getByRole('checkbox', { name: new RegExp(`^${f}(?: |$|fr|px|%)`) })
      .first()
      .check();
  await chooser.getByRole('button', { name: 'Start timecode earlier' }).click();
  await chooser.getByLabel('Name of the set').fill('For the edit');
  await chooser.getByRole('button', { name: 'Save' }).click();
  await expect(chooser).toHaveCount(0);
  await expect(page.getByLabel('Field set')).toHaveValue(/.+/);
  await page.reload();
  await expect(page.getByLabel('Field set').locator('option:checked')).toHaveText('For the edit');
  await expect(row('T0004')).toContainText('25%');

  await page.getByRole('button', { name: 'Extract …' }).click();
  const dialog = page.getByRole('dialog', { name: 'Extract facts' });
  await dialog.getByRole('radio', { name: 'card B002' }).check();
  await dialog.getByRole('button', { name: 'Extract', exact: true }).click();
  await expect(dialog).toContainText('10 clips written to');
  await page.keyboard.press('Escape');
  const folder = readdirSync(path.join(server.home, 'handover')).find((f) => !f.startsWith('.'))!;
  const [head, ...rows] = parse(readFileSync(path.join(server.home, 'handover', folder, 'facts.csv')), {
    bom: true,
  });
  expect(head).toEqual([
    'Clip',
    'Card',
    'Start timecode',
    'File name',
    'Frame rate',
    'Duration (frames)',
    'Codec',
    'Width (px)',
    'Serial number',
    'ISO',
    'Speed (%)',
  ]);
  expect(rows).toHaveLength(10);
  const ffprobe = process.env.FFPROBE_PATH ?? 'ffprobe';
  for (const r of rows) {
    const file = path.join(server.shelf, 'Offloaded', 'Day 2', 'B002', 'CLIP', r[3]!);
    const said = execFileSync(
      ffprobe,
      [
        '-v',
        'error',
        '-select_streams',
        'v:0',
        '-show_entries',
        'stream=codec_name,width,avg_frame_rate,nb_frames:stream_tags=timecode',
        '-of',
        'default=nw=1',
        file,
      ],
      { encoding: 'utf8' },
    );
    const of = (k: string) => new RegExp(`^${k}=(.*)$`, 'm').exec(said)![1]!;
    expect([r[5], r[7], { h264: 'H.264', hevc: 'HEVC' }[of('codec_name')]]).toEqual([
      of('nb_frames'),
      of('width'),
      r[6],
    ]);
    expect(`${r[4]}/1`).toBe(of('avg_frame_rate'));
    // The clip whose timecode was lost in a rewrap has its sidecar's.
    expect(r[2]).toBe(r[0] === 'T0009' ? '14:22:05:00' : of('TAG:timecode'));
    expect(r[8]).toBe('T5-00417');
  }
  expect(existsSync(path.join(server.home, 'handover', folder, 'facts.json'))).toBe(true);
});

test('looks are collected beside the facts, named after their clips; one clip shows its result at once', async () => {
  await page.goto(`${server.url}/jobs/SLW/facts?card=A001`);
  await row('A001_C001').click();
  await page.getByRole('button', { name: 'Extract …' }).click();
  const dialog = page.getByRole('dialog', { name: 'Extract facts' });
  await dialog.getByLabel('Fields').selectOption('all');
  await dialog.getByRole('button', { name: 'Extract', exact: true }).click();
  await expect(dialog.getByRole('table', { name: 'Result' })).toContainText('Slope1.02 1 0.93look file');
  await page.keyboard.press('Escape');
  const folder = readdirSync(path.join(server.home, 'handover')).find((f) => f.includes('A001_C001'))!;
  expect(readdirSync(path.join(server.home, 'handover', folder, 'Looks'))).toEqual(['A001_C001.cdl']);
});

test('a folder that was never taken in is extracted from Intake', async () => {
  await page.goto(`${server.url}/jobs/SLW/intake?root=shelf&path=Offloaded%2FDay+1`);
  await page.getByRole('button', { name: 'Extract facts …' }).click();
  const dialog = page.getByRole('dialog', { name: 'Extract facts' });
  await dialog.getByRole('button', { name: 'Extract', exact: true }).click();
  await expect(dialog).toContainText('15 clips written to');
  await page.keyboard.press('Escape');
});

test('side by side, and who states what', async () => {
  await page.goto(`${server.url}/jobs/SLW/facts`);
  await page.getByRole('searchbox', { name: 'Find in the table' }).fill('B002');
  await expect(page.locator('footer strong')).toHaveText('10 clips');
  await row('T0001').first().click();
  await row('T0009')
    .first()
    .click({ modifiers: ['Control'] });
  await page.getByRole('button', { name: 'Side by side' }).click();
  const side = page.getByRole('table', { name: 'Side by side' });
  await expect(side.getByRole('row', { name: /Start timecode/ })).toContainText('00:00:00:00 timecode track');
  await page.getByRole('checkbox', { name: 'only what differs' }).check();
  await expect(side.getByRole('row', { name: /Model/ })).toHaveCount(0);
  await page.goBack();
  await expect(grid()).toBeVisible();
  await page.getByRole('tab', { name: 'Who states what' }).click();
  await expect(
    page.getByRole('table', { name: 'Who states what' }).getByRole('row', { name: /^Track names/ }),
  ).toContainText('all');
});

test('the slow clock is found with its evidence, set right, and taken back; no file is touched', async () => {
  await page.goto(`${server.url}/jobs/SLW/facts`);
  await page.getByRole('tab', { name: /^Clocks \? 1/ }).click();
  const finding = page.getByRole('region', { name: 'Clock of camera C' });
  await expect(finding).toContainText('the clock looks 1 h slow');
  await expect(finding).toContainText('2 of 2 clips begin with another camera’s');
  await expect(finding.getByRole('img', { name: 'Camera C beside the others on day 2' })).toBeVisible();
  await finding.getByRole('button', { name: 'Set it 1 h later' }).click();
  await expect(page.getByText('Camera C, day 2: set 1 h later.')).toBeVisible();
  await page.getByRole('tab', { name: 'Table' }).click();
  await page.getByLabel('Field set').selectOption({ label: 'At a glance' });
  await page.getByRole('searchbox', { name: 'Find in the table' }).fill('C001');
  await expect(row('SKRY0001')).toContainText('2026-05-06 10:44:38');
  await page.getByRole('tab', { name: 'Clocks' }).click();
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(finding).toBeVisible();
  expect(hashTree(server.shelf)).toEqual(before);
});

test('a bar of a chart opens the clips behind it', async () => {
  await page.getByRole('tab', { name: 'Charts' }).click();
  await expect(page.getByRole('img', { name: 'When each camera rolled on day 1' })).toBeVisible();
  const codecs = page.getByRole('img', { name: 'Codecs' });
  await codecs.scrollIntoViewIfNeeded();
  const box = (await codecs.boundingBox())!;
  // The first bar is the longest, and begins behind the names.
  await codecs.click({ position: { x: box.width * 0.45, y: 22 } });
  await expect(page.getByRole('button', { name: 'H.264 ×' })).toBeVisible();
  await expect(page.getByText(/^\d+ clips$/)).toBeVisible();
  await page.getByRole('button', { name: 'H.264 ×' }).click();
  await expect(page.getByText('29 clips')).toBeVisible();
});

test('many clips are corrected at once; nonsense is said where the person is; an order of trust is turned', async () => {
  await page.getByRole('searchbox', { name: 'Find in the table' }).fill('B001');
  // The table is drawn a moment after the words: a click before that would hit another row.
  await expect(page.locator('footer strong')).toHaveText(/^11 clips$|of 11 chosen$/);
  await row('T0001').first().click();
  await row('T0004')
    .first()
    .click({ modifiers: ['Shift'] });
  await page.getByRole('button', { name: 'Correct …' }).click();
  const dialog = page.getByRole('dialog', { name: /^Correct 4 clips/ });
  await dialog.getByLabel('Field', { exact: true }).selectOption({ label: 'ISO' });
  await dialog.getByLabel('Value').fill('very much');
  await dialog.getByRole('button', { name: 'Correct', exact: true }).click();
  await expect(dialog).toContainText('“very much” is not a valid ISO for');
  await dialog.getByLabel('Value').fill('1600');
  await dialog.getByRole('button', { name: 'Correct', exact: true }).click();
  await expect(page.getByText('Corrected 4 clips: ISO 1600')).toBeVisible();
  await page.getByLabel('Field set').selectOption({ label: 'Camera and lens' });
  await expect(row('T0001').first()).toContainText('1600');
  // Undone and done again by the buttons beside what is said.
  await page.getByRole('button', { name: 'Undo', exact: true }).click();
  await expect(page.getByText('Undone: Corrected 4 clips: ISO 1600')).toBeVisible();
  await expect(row('T0001').first()).not.toContainText('1600');
  await page.getByRole('button', { name: 'Redo', exact: true }).click();
  await expect(row('T0001').first()).toContainText('1600');
  // What has no way back is offered none, though the correction before it has one.
  await page.getByRole('button', { name: 'Correct …' }).click();
  await dialog.getByLabel('Card, camera and day').check();
  // Where they are is proposed, also after a correction.
  await expect(dialog.getByLabel('Card', { exact: true })).toHaveValue('B001');
  await expect(dialog.getByLabel('Camera', { exact: true })).toHaveValue('B');
  await dialog.getByRole('button', { name: 'Correct', exact: true }).click();
  const last = page.getByText(/^Corrected 4 clips: card B001/);
  await expect(last).toBeVisible();
  await expect(last.getByRole('button')).toHaveCount(0);
  // By the keys, whatever is shown meanwhile.
  await page.getByRole('tab', { name: 'Clocks' }).click();
  await page.getByRole('tab', { name: 'Table' }).click();
  await page.keyboard.press('Control+Z');
  await expect(row('T0001').first()).not.toContainText('1600');
  await page.keyboard.press('Control+Shift+Z');
  await expect(row('T0001').first()).toContainText('1600');
  await page.keyboard.press('Control+Z');
  await expect(row('T0001').first()).not.toContainText('1600');
  await page.keyboard.press('Control+Y');
  await expect(row('T0001').first()).toContainText('1600');
  await page.getByRole('tab', { name: 'Trust' }).click();
  await page.getByRole('button', { name: 'Model: believe camera tags earlier' }).click();
  await expect(page.getByRole('row', { name: /^Model / })).toContainText('2 camera tags');
  await page.getByRole('button', { name: 'As shipped' }).click();
  await expect(page.getByRole('button', { name: 'As shipped' })).toHaveCount(0);
});

test('look for changes: nothing is read again where nothing has changed', async () => {
  await page.getByRole('tab', { name: 'Table' }).click();
  await page.getByRole('button', { name: 'Look for changes' }).click();
  await expect(page.getByText(/clips? as they were read|missing/)).toBeVisible();
});
