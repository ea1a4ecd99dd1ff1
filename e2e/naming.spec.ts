import { expect, type Locator, type Page, test } from '@playwright/test';
import { readdirSync, readFileSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { startOffloaded } from './offloaded';
import { hashTree, TestServer } from './server';

// Naming through the real interface, in order: a convention built by dragging, a clash met and mended, applied, half of it taken back,
// applied again, clips moved to another day by dragging.
test.describe.configure({ mode: 'serial' });

const server = new TestServer('demo');
let page: Page;
let before: Record<string, string>;

test.beforeAll(async ({ browser }) => {
  test.setTimeout(400_000);
  await startOffloaded(server, browser);
  before = hashTree(server.shelf);
  page = await browser.newPage();
  await page.goto(`${server.url}/jobs/SLW/naming`);
  await expect(example()).toHaveText('SLW_D1_A001_001_25p.MOV');
});
test.afterAll(() => server.close());

const example = () => page.getByTestId('example');
const block = (name: string | RegExp) =>
  page.getByRole('group', { name: 'Blocks of the name' }).getByRole('button', { name });
const row = (name: RegExp) => page.getByRole('table', { name: 'Names' }).getByRole('row', { name });
const names = (): string[] =>
  Object.keys(hashTree(server.shelf))
    .filter((p) => p.startsWith('SLW/') && !p.includes('/Proxy/') && /\.(?:MP4|MOV|MXF)$/u.test(p))
    .sort();

/** Drags by the pointer as a hand does: pressed, moved a little, moved there, let go. */
async function drag(from: Locator, to: Locator, at: { x: number; y: number } | null = null): Promise<void> {
  const [a, b] = [(await from.boundingBox())!, (await to.boundingBox())!];
  const start = at ?? { x: a.width / 2, y: a.height / 2 };
  await page.mouse.move(a.x + start.x, a.y + start.y);
  await page.mouse.down();
  await page.mouse.move(a.x + start.x + 12, a.y + start.y, { steps: 4 });
  await page.mouse.move(b.x + b.width / 2, b.y + b.height / 2, { steps: 12 });
  await page.mouse.move(b.x + b.width / 2 + 2, b.y + b.height / 2, { steps: 2 });
  await page.mouse.up();
}

test('a convention is built: blocks dragged, added, set and taken out', async () => {
  await drag(block('Rate: 25p'), block('Counter: 001'));
  await expect(example()).toHaveText('SLW_D1_A001_25p_001.MOV');
  await page.getByRole('button', { name: '+ block' }).click();
  await page.getByRole('menuitem', { name: /^Time/ }).click();
  await page.getByLabel('written').fill('hhmm');
  await expect(example()).toHaveText(/^SLW_D1_A001_25p_001_\d{4}\.MOV$/);
  await page.getByLabel('before it').fill(' at ');
  await expect(example()).toHaveText(/^SLW_D1_A001_25p_001 at \d{4}\.MOV$/);
  await page.getByRole('button', { name: 'Take out Time' }).click();
  // The tree shows it, too: folders without the job, the day by its date.
  await page.getByRole('button', { name: 'Folders', exact: true }).click();
  await page.getByRole('group', { name: 'Level D1_2026-05-05' }).getByRole('button', { name: 'Day' }).click();
  await page.getByRole('button', { name: 'Take out Day' }).click();
  await expect(page.getByRole('region', { name: 'On the shelf after this' })).toContainText('2026-05-05/');
  await page.getByRole('button', { name: 'Name', exact: true }).click();
});

test('a clash is met, says what would mend it, and is mended', async () => {
  await block('Counter: 001').click();
  await page.getByRole('button', { name: 'Take out Counter' }).click();
  await expect(page.getByRole('button', { name: 'Resolve the clash first' })).toBeDisabled();
  const tag = page.getByTitle(/would get this name: add a block that tells them apart/).first();
  await expect(tag).toBeVisible();
  await page.getByLabel('show').selectOption('problems');
  await expect(row(/clips would get this name/).first()).toBeVisible();
  await page.getByRole('button', { name: '+ block' }).click();
  await page.getByRole('menuitem', { name: /^Counter/ }).click();
  await page.getByLabel('show').selectOption('all');
  await expect(page.getByRole('button', { name: 'Rename 67 files' })).toBeEnabled();
  await expect(example()).toHaveText('SLW_D1_A001_25p_001.MOV');
});

test('what is composed is there after a reload, also one that follows at once', async () => {
  await page.getByLabel('Name of the convention').fill('Slack Water, first unit');
  await page.reload();
  await expect(page.getByLabel('Name of the convention')).toHaveValue('Slack Water, first unit');
  await expect(example()).toHaveText('SLW_D1_A001_25p_001.MOV');
});

test('applied, half of it taken back, and applied again', async () => {
  await page.getByRole('button', { name: 'Rename 67 files' }).click();
  await expect(page.getByText('67 files renamed and placed.')).toBeVisible();
  const all = names();
  expect(all).toContain('SLW/2026-05-05/A/A001/SLW_D1_A001_25p_001.MOV');
  await page.goto(`${server.url}/jobs/SLW/logbook`);
  await page.getByRole('button', { name: 'Show 67 files' }).click();
  for (const clip of ['A001_C001', 'A001_C002', 'A001_C003']) await page.getByLabel(`Choose ${clip}`).check();
  await page.getByRole('button', { name: 'Undo 3 chosen clips' }).click();
  await expect(page.getByText('in part')).toBeVisible();
  await expect(page.getByText('22 clips of 25 can still be undone')).toBeVisible();
  const half = hashTree(server.shelf);
  expect(Object.keys(half)).toContain('Offloaded/Day 1/A001/A001_C001/A001_C001.MOV');
  expect(names()).toHaveLength(22);
  // The list of it can be taken along.
  const [list] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('link', { name: 'List as CSV' }).click(),
  ]);
  expect(readFileSync(await list.path(), 'utf8')).toMatch(/A001_C001,moved,.*taken back/u);

  await page.goto(`${server.url}/jobs/SLW/naming`);
  // The others kept their numbers, so the three find theirs free; numbered anew, all have the same.
  await expect(row(/A001_C001/)).toContainText('SLW_D1_A001_25p_001');
  await page
    .getByRole('button', { name: /^Counter/ })
    .first()
    .click();
  await page.getByLabel('clips that come late').selectOption('number all anew');
  await expect(row(/A001_C001/)).toContainText('SLW_D1_A001_25p_001');
  await page.getByRole('button', { name: /^Rename \d+ files$/ }).click();
  await expect(page.getByText(/files renamed and placed\./)).toBeVisible();
  expect(names()).toEqual(all);
  expect(Object.values(hashTree(server.shelf)).sort()).toEqual(Object.values(before).sort());
});

test('two clips are dragged to another day; their names and places follow', async () => {
  await page.reload();
  await expect(row(/SLW_D1_B001_50p_002/)).toBeVisible();
  await row(/SLW_D1_B001_25p_001/).click({ position: { x: 120, y: 10 } });
  await row(/SLW_D1_B001_50p_002/).click({ position: { x: 120, y: 10 }, modifiers: ['Control'] });
  await expect(page.getByText('2 clips selected')).toBeVisible();
  const day = page.locator('[data-folder="SLW/2026-05-06"]');
  await drag(row(/SLW_D1_B001_50p_002/), day, { x: 120, y: 10 });
  const dialog = page.getByRole('dialog');
  await expect(dialog).toContainText('Move 2 clips');
  await expect(dialog.getByLabel('Day')).toHaveValue('2');
  await expect(dialog.getByLabel('Card')).toHaveValue('B002');
  // Another card: its name passes by that of one that is there while it is typed.
  await dialog.getByLabel('Card').selectOption('A new card');
  await dialog.getByLabel('Its name').fill('B002');
  await expect(dialog).toContainText('is there already');
  await dialog.getByLabel('Its name').press('End');
  await dialog.getByLabel('Its name').pressSequentially('-x');
  await expect(dialog.getByRole('button', { name: 'Make them day 2, B, B002-x' })).toBeEnabled();
  // Another day has other cards: what was typed for this one is gone.
  await dialog.getByLabel('Day').fill('1');
  await expect(dialog.getByLabel('Card')).toHaveValue('B001');
  await expect(dialog.getByLabel('Its name')).toHaveCount(0);
  await dialog.getByLabel('Day').fill('2');
  await expect(dialog.getByLabel('Card')).toHaveValue('B002');
  await dialog.getByRole('button', { name: 'Make them day 2, B, B002' }).click();
  await expect(dialog).toHaveCount(0);
  // Nothing has moved yet: the plan says what will.
  await expect(page.getByRole('button', { name: /^Rename \d+ files$/ })).toBeEnabled();
  const still = names();
  expect(still.filter((p) => p.includes('/B002/'))).toHaveLength(10);
  await page.getByRole('button', { name: /^Rename \d+ files$/ }).click();
  await expect(page.getByText(/files renamed and placed\./)).toBeVisible();
  expect(names().filter((p) => p.includes('2026-05-06/B/B002/'))).toHaveLength(12);
  expect(Object.values(hashTree(server.shelf)).sort()).toEqual(Object.values(before).sort());
});

test('what only a person knows is typed in columns, pasted from a sheet, and filled', async () => {
  await page.goto(`${server.url}/jobs/SLW/naming?card=A001`);
  await page.getByRole('button', { name: 'Columns …' }).click();
  await page.getByRole('menuitemcheckbox', { name: 'Place' }).click();
  await page.getByRole('menuitemcheckbox', { name: 'Scene' }).click();
  await page.keyboard.press('Escape');
  const cell = (term: string, name: string) => page.getByLabel(new RegExp(`^${term} of .*${name}$`));
  await cell('Place', 'A001_25p_001').fill('Weir');
  await page.keyboard.press('Enter');
  await expect(cell('Place', 'A001_25p_002')).toBeFocused();
  await page.evaluate(() => {
    const data = new DataTransfer();
    data.setData('text', 'Sluice\t12\r\nWheel\t13\r\n');
    document.activeElement!.dispatchEvent(
      new ClipboardEvent('paste', { clipboardData: data, bubbles: true, cancelable: true }),
    );
  });
  await expect(cell('Scene', 'A001_25p_003')).toHaveValue('13');
  await expect(cell('Place', 'A001_25p_002')).toHaveValue('Sluice');
  await row(/A001_25p_004/).click({ position: { x: 120, y: 10 } });
  await page.getByLabel('Field to fill').selectOption('Scene');
  await page.getByLabel('Value for the selected clips').fill('14');
  await page.getByRole('button', { name: 'Fill', exact: true }).click();
  await expect(cell('Scene', 'A001_25p_004')).toHaveValue('14');
  // It is taken back, and said again.
  await expect(page.getByText('Filled in scene of 1 clip')).toBeVisible();
  await page.getByRole('button', { name: 'Undo', exact: true }).click();
  await expect(cell('Scene', 'A001_25p_004')).toHaveValue('');
  await page.keyboard.press('Control+Shift+Z');
  await expect(cell('Scene', 'A001_25p_004')).toHaveValue('14');
  await page.getByRole('button', { name: 'Clear the selection' }).click();
  // By the keyboard: the row that was clicked last, and two on.
  await row(/A001_25p_004/).focus();
  await page.keyboard.press('Space');
  await page.keyboard.press('ArrowUp');
  await page.keyboard.press('ArrowUp');
  await expect(row(/A001_25p_002/)).toBeFocused();
  await page.keyboard.press('Shift+Space');
  await expect(page.getByText('3 clips selected')).toBeVisible();
  await page.getByRole('button', { name: 'Clear the selection' }).click();
  await page.getByRole('button', { name: '+ block' }).click();
  await page.getByRole('menuitem', { name: /^Place/ }).click();
  await expect(row(/A001_25p_003/)).toContainText('SLW_D1_A001_25p_003_Wheel');
});

test('some clips take another convention; it is kept in the library, given away and taken back', async () => {
  await page.goto(`${server.url}/jobs/SLW/naming`);
  await page.getByRole('button', { name: 'Other names for some clips …' }).click();
  await page.getByRole('group', { name: 'cameras' }).getByLabel('B', { exact: true }).check();
  await page.getByRole('button', { name: 'Done' }).click();
  await page.getByLabel('Name of the convention').fill('Second unit');
  await block(/^Job/).click();
  await page.getByRole('button', { name: 'Take out Job' }).click();
  await expect(row(/_B002_/).first()).toContainText(/(?<!SLW_)D2_B002/);
  await expect(row(/_A001_/).first()).toContainText('SLW_D1_A001');
  await page.getByRole('button', { name: 'Conventions …' }).click();
  await page.getByRole('menuitem', { name: 'Keep “Second unit” for all jobs' }).click();
  await expect(page.getByRole('status').filter({ hasText: '“Second unit” is kept' })).toBeVisible();
  await page.getByRole('button', { name: 'Conventions …' }).click();
  await page.getByRole('menuitem', { name: 'Remove “Second unit” from the library' }).click();
  await expect(page.getByRole('status').filter({ hasText: 'was removed' })).toBeVisible();
  // A file from elsewhere that is damaged, one that is hostile, and a good one.
  const give = async (text: string) => {
    const file = path.join(server.home, 'given.json');
    writeFileSync(file, text);
    await page.getByRole('button', { name: 'Conventions …' }).click();
    await page.getByLabel('Convention file').setInputFiles(file);
  };
  await give('{"format":"sort-shelf-conv');
  await expect(page.getByText('given.json is not JSON: it may be cut short.')).toBeVisible();
  await page.keyboard.press('Escape');
  await give(
    JSON.stringify({
      format: 'sort-shelf-conventions',
      version: 1,
      conventions: [{ convention: { name: 'x', blocks: [{ kind: '__proto__', id: 'a' }] }, folderPlan: {} }],
    }),
  );
  await expect(page.getByText(/conventions\.0\.convention\.blocks/)).toBeVisible();
  await page.keyboard.press('Escape');
  await give(
    JSON.stringify({
      format: 'sort-shelf-conventions',
      version: 1,
      conventions: [
        {
          // As a version before this one wrote it.
          convention: {
            name: 'Theirs',
            separator: '-',
            blocks: [{ id: 'a', kind: 'original', part: 'name' }],
          },
          folderPlan: { levels: [{ kind: 'card' }], proxyFolder: 'Light' },
        },
      ],
    }),
  );
  await expect(page.getByText('1 convention added from given.json')).toBeVisible();
  await page.getByRole('button', { name: 'Conventions …' }).click();
  await page.getByRole('menuitem', { name: 'Theirs · yours' }).click();
  await expect(page.getByLabel('Name of the convention')).toHaveValue('Theirs');
});

test('a convention is suggested from the names in use', async () => {
  await page.getByRole('button', { name: 'Conventions …' }).click();
  await page.getByRole('menuitem', { name: /^As the names in use/ }).click();
  await expect(page.getByLabel('Name of the convention')).toHaveValue('As the names in use');
  // The same names; the places are those of the folder plan that was on the bench.
  await expect(row(/SLW_D2_B002/).first()).toContainText(/(SLW_D2_B002_25p_\d+\.MP4)\1/);
});

test('further folders are shown, laid out on the shelf, and kept with the folder plan', async () => {
  await page.getByRole('button', { name: 'Folders', exact: true }).click();
  await page.getByRole('button', { name: 'Further folders …' }).click();
  const dialog = page.getByRole('dialog', { name: 'Further folders' });
  await dialog.getByLabel('One per line').fill('{job}/Papers\n{scene}');
  await expect(dialog).toContainText('{scene} is not known');
  await dialog.getByLabel('One per line').fill('{job}/Papers\n{job}/Exports/Day {day}');
  await expect(dialog.getByRole('list', { name: 'Folders they give' })).toContainText(
    'SLW/Exports/Day 1/ not there yet',
  );
  await dialog.getByRole('button', { name: /^Create \d folders$/ }).click();
  await expect(dialog.getByRole('button', { name: 'All are there' })).toBeDisabled();
  expect(readdirSync(path.join(server.shelf, 'SLW/Exports'))).toContain('Day 1');
  expect(readdirSync(path.join(server.shelf, 'SLW/Papers'))).toEqual([]);
  await dialog.getByRole('button', { name: 'Close' }).click();
  await page.reload();
  // They are of the rule that was on the bench.
  await page.getByRole('button', { name: 'camera B', exact: true }).click();
  await page.getByRole('button', { name: 'Folders', exact: true }).click();
  await expect(page.getByRole('button', { name: 'Further folders (2) …' })).toBeVisible();
});

test('columns are filled from a list, with what does not fit said before anything is kept', async () => {
  await page.goto(`${server.url}/jobs/SLW/naming?card=A001`);
  await page.getByRole('button', { name: 'Fill from …' }).click();
  const dialog = page.getByRole('dialog');
  const list = 'Name,Shooter\nA001_C001,É. Vale\nA001_C099,nobody\n';
  await dialog.getByLabel('A file with the list').setInputFiles({
    ...{ name: 'shooters.csv', mimeType: 'text/csv' },
    // As a spreadsheet of Windows saves it.
    buffer: Buffer.from(list, 'latin1'),
  });
  await expect(dialog.getByRole('textbox', { name: 'The list' })).toHaveValue(list);
  const said = dialog.getByRole('status');
  await expect(said).toHaveText('shooters.csv was read as Windows-1252: look at its accents.');
  await dialog.getByRole('button', { name: 'Look' }).click();
  await expect(said.last()).toContainText('Found for 1 clip: Shooter 1.');
  await expect(said.last()).toContainText('no clip is named “A001_C099”');
  await dialog.getByRole('button', { name: 'Keep 1 value' }).click();
  await expect(dialog).toHaveCount(0);
  await page.getByRole('button', { name: 'Columns …' }).click();
  await page.getByRole('menuitemcheckbox', { name: 'Shooter' }).click();
  await page.keyboard.press('Escape');
  await expect(page.getByLabel(/^Shooter of/).first()).toHaveValue('É. Vale');
});
