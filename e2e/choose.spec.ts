import { expect, type Locator, type Page, test } from '@playwright/test';
import { cpSync, readFileSync } from 'node:fs';
import path from 'node:path';
import { startOffloaded } from './offloaded';
import { hashTree, TestServer } from './server';

// Choosing through the real interface, in order: a clip watched and marked by keyboard alone, bins made by dragging, a search typed and
// built of rows, saved; and all of it there after a restart and after the clips were renamed.
test.describe.configure({ mode: 'serial' });

const server = new TestServer('demo');
let page: Page;
let before: Record<string, string>;

test.beforeAll(async ({ browser }) => {
  test.setTimeout(400_000);
  await startOffloaded(server, browser);
  before = hashTree(server.shelf);
  page = await browser.newPage();
  await page.goto(`${server.url}/jobs/SLW`);
  await page.getByRole('link', { name: 'Card B002' }).waitFor();
  await page.keyboard.press('6');
  await expect(clips().first()).toBeVisible();
});
test.afterAll(() => server.close());

const clips = (): Locator => page.getByRole('listbox', { name: 'Clips' }).getByRole('option');
const clip = (name: string): Locator => clips().filter({ hasText: name }).first();
/** What was done last is said, with the way back behind it. */
const said = (words: string | RegExp) =>
  expect(
    page
      .getByRole('status')
      .filter({ hasText: typeof words === 'string' ? new RegExp(`^${words}(Undo|Redo)?$`) : words }),
  ).toBeVisible();
const search = () => page.getByRole('combobox', { name: 'Search' });
const bin = (name: string): Locator => page.getByRole('treeitem', { name });
const amount = () => page.locator('main [aria-live="polite"]').first();
const ranges = () => page.getByRole('list', { name: 'Ranges' }).getByRole('listitem');

async function drag(from: Locator, to: Locator): Promise<void> {
  const [a, b] = [(await from.boundingBox())!, (await to.boundingBox())!];
  await page.mouse.move(a.x + 40, a.y + 14);
  await page.mouse.down();
  await page.mouse.move(a.x + 60, a.y + 20, { steps: 4 });
  // It is drawn under the pointer once it is taken up.
  await expect(page.locator('[data-dragged]')).toBeVisible();
  await page.mouse.move(b.x + b.width / 2, b.y + b.height / 2, { steps: 12 });
  await page.mouse.up();
}

/** A drag of which the last move and the letting go come before anything could be drawn anew. */
async function dragUndrawn(from: Locator, to: Locator): Promise<void> {
  const [a, b] = [(await from.boundingBox())!, (await to.boundingBox())!];
  await page.mouse.move(a.x + 40, a.y + 14);
  await page.mouse.down();
  await page.mouse.move(a.x + 60, a.y + 20, { steps: 4 });
  await expect(page.locator('[data-over]')).toHaveCount(1);
  await page.evaluate(
    ({ x, y }) => {
      const at = { clientX: x, clientY: y, bubbles: true };
      const under = document.elementFromPoint(x, y)!;
      under.dispatchEvent(new MouseEvent('mousemove', { ...at, buttons: 1 }));
      under.dispatchEvent(new PointerEvent('pointerup', at));
      under.dispatchEvent(new MouseEvent('mouseup', at));
    },
    { x: b.x + b.width / 2, y: b.y + b.height / 2 },
  );
  await page.mouse.up();
}

test('a card is watched through by keyboard alone: ranges, keywords and a note are given', async () => {
  await search().focus();
  await page.keyboard.type('card is A001');
  await expect(amount()).toContainText('4 of 25 clips');
  await page.keyboard.press('Escape');
  await page.keyboard.press('Escape');
  await page.keyboard.press('Tab');
  await clips().first().focus();
  await page.keyboard.press('Home');
  await expect(page.getByRole('complementary', { name: 'Clip' })).toContainText('A001_C001');
  // The first clip: a part of it is a select, and a frame behind it has a note.
  await page.keyboard.press('.');
  await page.keyboard.press('.');
  await page.keyboard.press('i');
  await page.keyboard.press('>');
  await page.keyboard.press('o');
  await page.keyboard.press('s');
  await said(/A001_C001\.?\w*: select of 11 frames added/);
  await page.keyboard.press('x');
  await page.keyboard.press('>');
  await page.keyboard.press('n');
  await page.keyboard.type('splash on the lens');
  await page.keyboard.press('Enter');
  await said(/note of 1 frame added/);
  await expect(ranges()).toHaveCount(2);
  // Frame 2 to 12 of a clip that begins at 07:48:10:00, 25 frames a second: worked by hand.
  await expect(ranges().first()).toContainText('07:48:10:02');
  await expect(ranges().first()).toContainText('07:48:10:12');
  await expect(ranges().first()).toContainText('0.4 s');
  // All of the card get a keyword; it is put on a key, by which another clip gets it.
  await clips().first().focus();
  await page.keyboard.press('Control+a');
  await expect(page.getByText('4 chosen')).toBeVisible();
  await page.keyboard.press('w');
  await page.keyboard.type('wheel');
  await page.keyboard.press('Enter');
  await said('4 clips: keyword wheel added');
  await page.keyboard.press('Escape');
  await page.keyboard.press('Control+z');
  await said('Undone: 4 clips: keyword wheel added');
  await page.keyboard.press('Control+Shift+z');
  await said('4 clips: keyword wheel added');
});

test('the same by pointer alone, but for words: a part, its note kept by a click elsewhere, the selects played', async () => {
  await clips().nth(1).click();
  const drawer = page.getByRole('complementary', { name: 'Clip' });
  await expect(drawer).toContainText('A001_C002');
  await expect(drawer.getByRole('button', { name: /^Play selects/ })).toHaveCount(0);
  const press = (name: string) => drawer.getByRole('button', { name, exact: true }).click();
  await press('One frame on');
  await press('In');
  await press('One frame on');
  await press('One frame on');
  await press('Out');
  await drawer.getByRole('button', { name: /^Select/ }).click();
  await said(/A001_C002\.?\w*: select of 3 frames added/);
  // An out point before the in point takes that away, as by the keys.
  const slider = drawer.getByRole('slider', { name: 'Frame' });
  const box = (await slider.boundingBox())!;
  await page.mouse.click(box.x + 1, box.y + box.height / 2);
  await expect(slider).toHaveValue('0');
  await press('Out');
  await expect(drawer.getByText(/^Part/)).toContainText('09:31:44:00 – 09:31:44:00');
  await drawer.getByRole('button', { name: /^Note/ }).click();
  await page.keyboard.type('soft at the start');
  await clips().nth(2).click();
  await said(/A001_C002\.?\w*: note of 1 frame added/);
  await expect(drawer).toContainText('A001_C003');
  await clips().nth(1).click();
  await expect(ranges()).toHaveCount(2);
  await expect(ranges().first()).toContainText('soft at the start');
  // Who thinks better of it drops the words.
  await drawer.getByRole('button', { name: /^Note/ }).click();
  await page.keyboard.type('never mind');
  await page.keyboard.press('Escape');
  await expect(drawer.getByLabel('Note', { exact: true })).toHaveCount(0);
  await drawer.getByRole('button', { name: /^Play selects/ }).click();
  // It stops by itself behind the last frame of the only one, long before the end of the clip.
  const frame = async () => Number(await slider.inputValue());
  await expect.poll(frame).toBeGreaterThanOrEqual(3);
  await expect(drawer.getByRole('button', { name: 'Play', exact: true })).toBeVisible();
  expect(await frame()).toBeLessThan(40);
  await expect(ranges()).toHaveCount(2);
  for (const words of ['note of 1 frame', 'select of 3 frames']) {
    await page.getByRole('button', { name: 'Undo' }).first().click();
    await said(new RegExp(`Undone: A001_C002\\.?\\w*: ${words} added`));
  }
  await clips().first().click();
});

test('a keyword on a key of its own, completed while it is typed, merged', async () => {
  await page.getByRole('button', { name: 'More about the keyword wheel' }).click();
  await page.getByRole('menuitem', { name: 'Key …' }).click();
  await page.getByLabel('Shift with').selectOption('3');
  await page.getByRole('button', { name: 'Set it' }).click();
  await said('Keyword wheel on key 3');
  await expect(page.getByTitle('Shift 3 gives it')).toBeVisible();
  await search().fill('card is B001');
  // What was chosen before is not in sight: nothing is given to it.
  await expect(page.getByText('1 chosen')).toBeVisible();
  await clip('T0002').click();
  await page.keyboard.press('Shift+Digit3');
  await said('1 clip: keyword wheel added');
  await clip('T0003').click();
  await page.keyboard.press('w');
  await page.keyboard.type('whe');
  await expect(page.getByRole('option', { name: /^wheel/ })).toBeVisible();
  await page.keyboard.press('Tab');
  await said('1 clip: keyword wheel added');
  await page.keyboard.type('WHEEL');
  await page.keyboard.press('Enter');
  await said('All of them have the keyword wheel already');
  await page.keyboard.type('gate');
  await page.keyboard.press('Enter');
  await said('1 clip: keyword gate added');
  await page.keyboard.press('Escape');
  await page.getByRole('button', { name: 'More about the keyword gate' }).click();
  await page.getByRole('menuitem', { name: 'Merge into …' }).click();
  await page.getByRole('button', { name: 'Merge', exact: true }).click();
  await said('Keyword gate merged into wheel, 1 clip');
  const word = (name: string) => page.getByRole('button', { name, exact: true });
  // The list follows what is said: it is drawn twice, and what is dragged has to lie where it will stay.
  await expect(word('gate')).toHaveCount(0);
  await page.getByRole('button', { name: 'Undo' }).first().click();
  await expect(word('gate')).toBeVisible();
  // They stand in an order of one's own, by dragging or by the menu.
  await drag(word('wheel'), word('gate'));
  await said('Keyword wheel listed before gate');
  const listed = page.getByRole('region', { name: 'Keywords', exact: true }).getByRole('listitem');
  await expect(listed.first()).toContainText('wheel');
  await page.getByRole('button', { name: 'More about the keyword wheel' }).click();
  await page.getByRole('menuitem', { name: 'Move down' }).click();
  await said('Keyword wheel listed last');
  await expect(listed.first()).toContainText('gate');
  // What counts is where the pointer is let go, also where the screen is behind with drawing.
  await dragUndrawn(word('wheel'), word('gate'));
  await expect(listed.first()).toContainText('wheel');
});

test('a tree of bins is made by dragging; no file moves', async () => {
  await search().fill('');
  for (const name of ['Day one', 'Wheel turns']) {
    await page.getByRole('button', { name: 'New bin', exact: true }).click();
    await page.getByRole('dialog').getByLabel('Name').fill(name);
    await page.keyboard.press('Enter');
    await said(`Bin ${name} made`);
  }
  await clips().nth(0).click();
  await clips()
    .nth(2)
    .click({ modifiers: ['Control'] });
  await drag(clips().nth(2), bin('Wheel turns'));
  await said('2 clips put in bin Wheel turns');
  await drag(bin('Wheel turns'), bin('Day one'));
  await said('1 bin moved into Day one');
  await expect(bin('Wheel turns')).toHaveAttribute('aria-level', '2');
  // Into itself it does not go.
  await drag(bin('Day one'), bin('Wheel turns'));
  await expect(
    page.getByText('Day one cannot be moved: A bin cannot stand in one that stands in it.'),
  ).toBeVisible();
  await page.getByRole('button', { name: 'Close' }).click();
  await bin('Day one').click();
  await expect(amount()).toContainText('2 of 25 clips');
  await page.getByRole('button', { name: 'In no bin' }).click();
  await expect(amount()).toContainText('23 of 25 clips');
  await page.goBack();
  await expect(page.getByRole('heading', { name: 'Day one' })).toBeVisible();
  // A keyword is dragged on a clip.
  await page.getByRole('button', { name: /^All clips/ }).click();
  await drag(page.getByRole('button', { name: 'gate', exact: true }), clips().nth(1));
  await said(/keyword gate added/);
  expect(hashTree(server.shelf)).toEqual(before);
});

test('a search is typed with what could come next, built of rows, and saved', async () => {
  await search().click();
  await search().pressSequentially('rate ov');
  await page.keyboard.press('Tab');
  await page.keyboard.type('40');
  await expect(search()).toHaveValue('rate over 40');
  await expect(amount()).toContainText(/\d+ of 25 clips/);
  await expect.poll(() => clips().count()).toBeGreaterThan(3);
  await page.getByRole('button', { name: 'Rows' }).click();
  const rows = page.getByRole('group', { name: 'Search by rows' });
  await rows.getByRole('button', { name: '+ condition' }).click();
  await rows.getByLabel('Field').nth(1).selectOption({ label: 'Keyword' });
  await rows.getByLabel('Value').nth(1).fill('wheel');
  await expect(search()).toHaveValue('rate over 40 keyword is wheel');
  await expect(amount()).toContainText('1 of 25 clips');
  // How it is written is told, with examples that can be tried.
  await page.getByRole('button', { name: 'How a search is written' }).click();
  await page.getByRole('button', { name: 'rate over 50', exact: true }).click();
  await expect(search()).toHaveValue('rate over 50');
  // What is not understood says where, and what was found before stays.
  await search().fill('rate over fast');
  await search().blur();
  await expect(
    page.getByText('“fast” is not a rate, as 25, or “edit” for that of the edit, for Frame rate.'),
  ).toBeVisible();
  await search().fill('keyword is wheel none(rate is 25)');
  await page.getByRole('button', { name: 'Save this search' }).click();
  await page.getByRole('dialog').getByLabel('Name').fill('Slow wheel');
  await page.keyboard.press('Enter');
  await said('Search Slow wheel saved');
  const saved = page
    .getByRole('region', { name: 'Searches' })
    .getByRole('listitem')
    .filter({ hasText: 'Slow wheel' });
  await expect(saved).toContainText('1');
  // It stays true: another clip with the keyword counts.
  await search().fill('card is B002 rate over 40');
  await expect(amount()).not.toContainText('1 of 25');
  await clips().first().click();
  await page.keyboard.press('Shift+Digit3');
  await expect(saved).toContainText('2');
  await page.getByRole('button', { name: 'More about searches' }).click();
  const [file] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('menuitem', { name: 'Export all as a file' }).click(),
  ]);
  expect(JSON.parse(readFileSync(await file.path(), 'utf8'))).toEqual({
    format: 'sort-shelf-searches',
    version: 1,
    searches: [{ name: 'Slow wheel', query: 'keyword is wheel none(rate is 25)' }],
  });
});

test('keywords by rule come and go by themselves, and what a person took stays taken', async () => {
  await search().fill('rate over edit');
  const text = expect.stringMatching(/^\d+ of 25 clips/);
  await expect.poll(async () => (await amount().textContent()) ?? '').toEqual(text);
  await page.getByRole('button', { name: 'Rules …' }).click();
  const dialog = page.getByRole('dialog', { name: 'Keywords by rule' });
  await expect(dialog.getByRole('button', { name: 'Add the rule' })).toBeDisabled();
  await dialog.getByRole('button', { name: 'Use it' }).click();
  await dialog.getByRole('button', { name: 'Add the rule' }).click();
  const rules = dialog.getByRole('list', { name: 'Rules' }).getByRole('listitem');
  await expect(rules).toContainText('slow motion where rate over edit');
  await dialog.getByRole('button', { name: 'New rule …' }).click();
  await dialog
    .getByRole('combobox', { name: 'From', exact: true })
    .selectOption({ label: 'Names of folders' });
  await expect(dialog.getByRole('checkbox').first()).toBeChecked();
  await dialog
    .getByRole('combobox', { name: 'From', exact: true })
    .selectOption({ label: 'What a field says' });
  await dialog.getByRole('combobox', { name: 'Field', exact: true }).selectOption({ label: 'Reel' });
  await dialog.getByLabel('Put before it').fill('Reel');
  await dialog.getByRole('button', { name: 'Add the rule' }).click();
  await expect(rules.filter({ hasText: 'Reel of the clip' })).toContainText(
    /[1-9]\d* clips?, [1-9]\d* keywords?/,
  );
  await dialog.getByRole('button', { name: 'Close' }).last().click();
  // All that are faster have it; one is taken away by hand, and no rule gives it again.
  await search().fill('keyword is "slow motion"');
  const slow = /^(\d+) of 25 clips/;
  await expect(amount()).toContainText(slow);
  const many = Number(slow.exec((await amount().textContent())!)![1]);
  await clips().first().click();
  await expect(page.getByRole('region', { name: 'Keywords of the clip' })).toContainText('(rule)');
  await page.getByRole('button', { name: 'Take slow motion away' }).click();
  await said('1 clip: keyword slow motion taken away');
  await expect(amount()).toContainText(`${many - 1} of 25 clips`);
  await search().fill('');
  await page.getByRole('button', { name: 'Rules …' }).click();
  await dialog.getByRole('button', { name: 'Remove the rule slow motion where rate over edit' }).click();
  await expect(rules).toHaveCount(1);
  await dialog.getByRole('button', { name: 'Remove the rule Reel of the clip, behind “Reel”' }).click();
  await expect(rules).toHaveCount(0);
  await dialog.getByRole('button', { name: 'Close' }).last().click();
  await expect(page.getByRole('button', { name: /^Reel \w/ })).toHaveCount(0);
});

test('a string-out is made of selects, put in order, trimmed, split and played', async () => {
  await search().fill('card is B001');
  await expect(amount()).toContainText('11 of 25 clips');
  for (const name of ['T0001', 'T0003']) {
    await clip(name).click();
    await expect(page.getByRole('complementary', { name: 'Clip' })).toContainText(name);
    await page.keyboard.press('i');
    await page.keyboard.press('>');
    await page.keyboard.press('>');
    await page.keyboard.press('o');
    await page.keyboard.press('s');
    await said(/select of 21 frames added/);
  }
  // All of them in one list, gone to and played one after another.
  await page.getByRole('button', { name: 'Ranges', exact: true }).click();
  const all = page.getByRole('list', { name: 'Ranges of these clips' }).getByRole('listitem');
  await expect(all).toHaveCount(2);
  await expect(all.nth(1)).toContainText('T0003');
  await all.first().getByRole('button').click();
  await expect(page.getByRole('complementary', { name: 'Clip' })).toContainText('T0001');
  await expect(page.getByTestId('frame')).toHaveText(/^1 of /);
  await page.getByRole('combobox', { name: 'Kind of ranges' }).selectOption({ label: 'rejects' });
  await expect(page.getByText('No such range')).toBeVisible();
  await page.getByRole('combobox', { name: 'Kind of ranges' }).selectOption({ label: 'selects' });
  await page.getByRole('button', { name: 'Play them' }).click();
  await page.getByRole('button', { name: 'Play the ranges' }).click();
  await expect(page.getByText('part 2 of 2')).toBeVisible();
  await page.getByRole('button', { name: 'Frames', exact: true }).click();
  await page.getByRole('button', { name: 'String out …' }).click();
  await page.getByRole('menuitem', { name: 'The selects of what is shown' }).click();
  await page.getByRole('dialog').getByLabel('Name').fill('First look');
  await page.keyboard.press('Enter');
  await said('String-out First look made of 2 parts');
  await page.getByRole('button', { name: 'First look', exact: true }).click();
  const parts = page.getByRole('list', { name: 'Parts' }).getByRole('listitem');
  await expect(parts).toHaveCount(2);
  await expect(parts.first()).toContainText('T0001');
  // By keyboard to the place behind the other, and back by undoing.
  await parts.first().focus();
  await page.keyboard.press('Alt+ArrowDown');
  await expect(parts.first()).toContainText('T0003');
  await page.keyboard.press('Control+z');
  await expect(parts.first()).toContainText('T0001');
  await page.getByRole('button', { name: 'Out point of part 1 one frame earlier' }).click();
  await said('A part of the string-out First look trimmed');
  await expect(page.getByTestId('string-time')).toContainText('of 0:02');
  // Played through: both parts are of 25 frames a second, 20 and 21 frames.
  await page.getByRole('button', { name: 'Play the string-out' }).click();
  await expect(parts.nth(1)).toHaveAttribute('aria-current', 'true');
  await expect(page.getByRole('button', { name: 'Play the string-out' })).toBeVisible();
  await expect(page.getByText('part 2 of 2')).toBeVisible();
  await page.getByRole('button', { name: 'Take part 2 out' }).click();
  await said(/1 part taken out of the string-out First look; the clips stay in the job/);
  await page.keyboard.press('Control+z');
  await expect(parts).toHaveCount(2);
  await page.getByRole('button', { name: 'Back to the clips' }).click();
});

test('by keyboard: to the search, from it to what it finds, and to what can be done with what stands in the lists', async () => {
  await search().fill('');
  await expect(amount()).toContainText(/^25 clips/);
  await search().blur();
  // Where a keyboard has it on a digit, the keyword on that key comes first.
  await page.evaluate(() =>
    window.dispatchEvent(new KeyboardEvent('keydown', { key: '/', code: 'Digit7', shiftKey: true })),
  );
  await expect(search()).not.toBeFocused();
  await page.keyboard.press('/');
  await expect(search()).toBeFocused();
  await page.keyboard.type('card is B001');
  await page.keyboard.press('Enter');
  await expect(amount()).toContainText('11 of 25 clips');
  await expect(page.getByRole('listbox', { name: 'Clips' })).toBeFocused();
  await page.keyboard.press('ArrowRight');
  await expect(clips().first()).toBeFocused();
  await page.keyboard.press('ArrowRight');
  await expect(clips().nth(1)).toBeFocused();
  await expect(page.getByRole('complementary', { name: 'Clip' })).toContainText('T0002');
  // After a reload it goes on from the clip that is open, and not from the first.
  await expect(page).toHaveURL(new RegExp((await clips().nth(1).getAttribute('data-clip'))!));
  await page.reload();
  await clips().nth(1).focus();
  await page.keyboard.press('ArrowRight');
  await expect(clips().nth(2)).toBeFocused();
  await expect(page.getByRole('complementary', { name: 'Clip' })).toContainText('T0003');
  // Where nothing is found anew it is gone to at once; the slash is a letter while it is typed.
  await page.keyboard.press('/');
  await expect(search()).toBeFocused();
  await page.keyboard.press('End');
  await page.keyboard.type('/');
  await expect(search()).toHaveValue('card is B001/');
  await page.keyboard.press('Backspace');
  await page.keyboard.press('Escape');
  await page.keyboard.press('/');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('listbox', { name: 'Clips' })).toBeFocused();
  for (const name of ['Wheel turns', 'Day one']) {
    await bin(name).focus();
    await page.keyboard.press('Shift+F10');
    await expect(page.getByRole('menuitem', { name: 'Rename …' })).toBeVisible();
    await page.keyboard.press('Escape');
    await expect(page.getByRole('menu')).toHaveCount(0);
  }
  await page.getByRole('button', { name: 'First look', exact: true }).focus();
  await page.keyboard.press('Tab');
  await expect(page.getByRole('button', { name: 'More about the string-out First look' })).toBeFocused();
  await page.keyboard.press('Enter');
  await expect(page.getByRole('menuitem', { name: 'Remove it; no clip goes' })).toBeVisible();
  await page.keyboard.press('Escape');
  // The other button of a mouse does the same.
  await page.getByRole('button', { name: 'First look', exact: true }).click({ button: 'right' });
  await expect(page.getByRole('menuitem', { name: 'Rename …' })).toBeVisible();
  await page.keyboard.press('Escape');
});

test('the same set as spines and as a table, in groups; it is in the address, for a colleague', async () => {
  await search().fill('keyword is wheel');
  await expect(amount()).toContainText(/\d of 25 clips/);
  await clip('T0002').click();
  await page.getByRole('button', { name: 'Spines' }).click();
  await expect(clips().first()).toBeVisible();
  await expect(
    page.getByRole('listbox', { name: 'Clips' }).getByRole('option', { selected: true }),
  ).toHaveCount(1);
  await page.getByLabel('Groups').selectOption('card');
  await page.getByRole('button', { name: 'Table' }).click();
  await expect(page.getByRole('listbox', { name: 'Clips' })).toContainText('A001 4 clips');
  // In a browser that knows nothing but the address.
  const other = await page.context().browser()!.newPage();
  await other.goto(page.url());
  await expect(other.getByRole('listbox', { name: 'Clips' })).toContainText('A001 4 clips');
  await expect(other.getByRole('combobox', { name: 'Search' })).toHaveValue('keyword is wheel');
  await expect(other.getByRole('complementary', { name: 'Clip' })).toContainText('T0002');
  await other.close();
});

test('a picture that cannot be shown is left blank, and shown once it can be', async ({ browser }) => {
  const other = await browser.newPage();
  await other.route('**/viewing/**', (route) => route.fulfill({ status: 404 }));
  await other.goto(`${server.url}/jobs/SLW/choose`);
  const picture = other.getByRole('listbox', { name: 'Clips' }).locator('img').first();
  await expect(picture).toBeHidden();
  await other.unroute('**/viewing/**');
  await picture.evaluate((img: HTMLImageElement) => {
    img.src = `${img.src}?again`;
  });
  await expect(picture).toBeVisible();
  await other.close();
});

test('a keyword that is composed by an input method is entered when it is whole', async () => {
  await search().fill('A001_C002');
  await expect(clips()).toHaveCount(1);
  await clips().first().click();
  await page.keyboard.press('w');
  const field = page.locator('input:focus');
  const browser = await page.context().newCDPSession(page);
  await browser.send('Input.imeSetComposition', { text: 'すいしゃ', selectionStart: 4, selectionEnd: 4 });
  await expect(field).toHaveValue('すいしゃ');
  // The Enter that ends the composing, as browsers tell of it.
  await field.evaluate((it) =>
    it.dispatchEvent(new KeyboardEvent('keydown', { key: 'Enter', isComposing: true, bubbles: true })),
  );
  await browser.send('Input.insertText', { text: '水車' });
  await expect(field).toHaveValue('水車');
  await page.keyboard.press('Enter');
  await said(/keyword 水車 added/);
  await page.keyboard.press('Escape');
  await page.keyboard.press('Control+z');
  await said(/Undone: .*keyword 水車 added/);
});

test('in a browser that keeps nothing, as its person may have it, everything works', async ({ browser }) => {
  const other = await browser.newPage();
  await other.addInitScript(() => {
    const denied = () => {
      throw new DOMException('Access is denied for this document.', 'SecurityError');
    };
    for (const name of ['localStorage', 'sessionStorage'])
      Object.defineProperty(window, name, { get: denied });
    LockManager.prototype.request = () => Promise.reject(new DOMException('Denied', 'SecurityError'));
  });
  await other.goto(`${server.url}/jobs/SLW/choose`);
  const shown = other.getByRole('listbox', { name: 'Clips' }).getByRole('option');
  await shown.filter({ hasText: 'A001_C002' }).click();
  await expect(other.getByRole('complementary', { name: 'Clip' })).toContainText('A001_C002');
  const bar = other.getByRole('separator').first();
  const width = Number(await bar.getAttribute('aria-valuenow'));
  await bar.press('ArrowRight');
  await expect(bar).toHaveAttribute('aria-valuenow', String(width + 20));
  // It hears of what another does, and hands on what is chosen.
  await other.getByRole('combobox', { name: 'Search' }).fill('heard');
  await expect(shown).toHaveCount(0);
  await search().fill('A001_C002');
  await expect(clips()).toHaveCount(1);
  await clips().first().click();
  await page.keyboard.press('w');
  await page.keyboard.type('heard');
  await page.keyboard.press('Enter');
  await said(/keyword heard added/);
  await page.keyboard.press('Escape');
  await expect(shown).toHaveCount(1);
  await shown.first().click();
  await other.getByRole('button', { name: 'Hand on …' }).click();
  await other.getByRole('menuitem', { name: 'Name them' }).click();
  await expect(other.getByText('1 chosen clip only')).toBeVisible();
  await other.close();
  await search().fill('keyword is wheel');
  await expect(clips()).toHaveCount(7);
});

test('keywords stand in names', async () => {
  await page.goto(`${server.url}/jobs/SLW/naming`);
  await page.getByRole('button', { name: '+ block' }).click();
  await page.getByRole('menuitem', { name: /^Keyword/ }).click();
  const row = page.getByRole('row', { name: /A001_C002/ }).first();
  await expect(row).toContainText('_wheel');
  await page.getByLabel('group or keyword').fill('heard');
  await expect(row).toContainText('_heard');
  // What is said of the clip elsewhere meanwhile is in its name.
  await page.getByLabel('group or keyword').fill('late');
  await expect(row).not.toContainText('heard');
  const ask = async (what: string, body: object): Promise<unknown> =>
    (
      await fetch(`${server.url}/api/jobs/SLW/${what}`, {
        method: 'POST',
        headers: { 'content-type': 'application/json' },
        body: JSON.stringify(body),
      })
    ).json();
  const named = await ask('choose/ids', { query: 'A001_C002' });
  await ask('choose', { do: 'addKeyword', clips: named, name: 'late' });
  await expect(row).toContainText('_late');
  await page.getByRole('button', { name: 'Take out Keyword' }).click();
  await expect(row).not.toContainText('late');
});

test('everything is there after a restart, and after the clips were renamed', async () => {
  await page.goto(`${server.url}/jobs/SLW/naming`);
  await page.getByRole('button', { name: /^Rename \d+ files$/ }).click();
  await expect(page.getByText(/files renamed and placed\./)).toBeVisible();
  await server.kill();
  await server.start();
  await page.goto(`${server.url}/jobs/SLW/choose`);
  // It is as it was left.
  await expect(search()).toHaveValue('keyword is wheel');
  await search().fill('note has splash');
  await expect(clips()).toHaveCount(1);
  await clips().first().click();
  await expect(page.getByRole('complementary', { name: 'Clip' })).toContainText('SLW_D1_A001_001_25p');
  await expect(ranges().first()).toContainText('07:48:10:02');
  await expect(bin('Wheel turns')).toHaveAttribute('aria-level', '2');
  await expect(page.getByRole('button', { name: 'Slow wheel', exact: true })).toBeVisible();
  await page.getByRole('button', { name: 'First look', exact: true }).click();
  await expect(page.getByRole('list', { name: 'Parts' }).getByRole('listitem').first()).toContainText(
    'SLW_D1_B001',
  );
  // Of all that is chosen only what needs a proxy and has none is made.
  await page.getByRole('button', { name: /^All clips/ }).click();
  await search().fill('card is B001 pair is missing');
  await expect(amount()).toContainText('2 of 25 clips');
  await search().fill('card is B001');
  await expect(amount()).toContainText('11 of 25 clips');
  await clips().first().click();
  await page.keyboard.press('Control+a');
  await expect(page.getByText('11 chosen')).toBeVisible();
  const handOn = async (words: string): Promise<void> => {
    await page.getByRole('button', { name: 'Hand on …' }).click();
    await page.getByRole('menuitem', { name: words }).click();
  };
  await handOn('Make the proxies they need');
  await said(/^2 proxies queued/);
  await handOn('Show their facts');
  await expect(page.getByText('11 of 25 chosen')).toBeVisible();
  // What a saved search finds now is named; back is where it was.
  await page.goBack();
  await page.getByRole('button', { name: 'More about the search Slow wheel' }).click();
  await page.getByRole('menuitem', { name: 'All it finds: name them' }).click();
  await expect(page.getByText(/^\d+ chosen clips? only$/)).toBeVisible();
  await page.goto(`${server.url}/jobs/SLW/logbook`);
  await expect(page.getByText('4 clips: keyword wheel added').first()).toBeVisible();
});

test('sound that was recorded at the same time is tied to its pictures, confirmed, taken apart and found', async () => {
  cpSync(path.join(server.home, 'stand-ins/drawer/S001'), path.join(server.shelf, 'Sound/S001'), {
    recursive: true,
  });
  await page.goto(`${server.url}/jobs/SLW/intake`);
  await page.getByRole('button', { name: /^Sound/ }).click();
  await page.getByRole('button', { name: 'Look in this folder' }).click();
  await page.getByRole('button', { name: /^Take in 1 card/ }).click();
  await expect(page.getByRole('link', { name: 'Card S001' })).toBeVisible();
  await page.goto(`${server.url}/jobs/SLW/choose`);
  await search().fill('with rolling');
  await expect(amount()).toContainText('4 of 27 clips');
  await page.getByLabel('Groups').selectOption({ label: 'rolling together' });
  // The clips change their places as the groups arrive.
  await expect(page.getByRole('listbox', { name: 'Clips' })).toContainText(/260505-T01 with|with 260505-T01/);
  await clip('260505-T01').click();
  await expect(page.getByRole('complementary', { name: 'Clip' })).toContainText('260505-T01');
  // Sound alone is marked like a picture, from its own beginning on.
  for (const key of ['Shift+.', 'i', 'Shift+.', 'o', 's']) await page.keyboard.press(key);
  await expect(ranges().first()).toContainText('00:00:00:10');
  await expect(ranges().first()).toContainText('00:00:00:20');
  await expect(page.getByRole('img', { name: 'Sound, 4 channels' })).toBeVisible();
  const rolling = page.getByRole('region', { name: 'Rolling together' });
  // The recorder began at 08:02:13, the camera at 08:02:15.
  await expect(rolling).toContainText('camera B+0:02:00by timecode');
  const confirm = rolling.getByRole('button', { name: 'Confirm' });
  const stood = await confirm.boundingBox();
  await rolling.getByRole('button', { name: 'Compare sound' }).click();
  // Both are tones that are the same at any moment.
  await expect(rolling).toContainText('the sound does not tell');
  await expect(rolling.getByRole('button', { name: 'Compare again' })).toBeVisible();
  // It stands where it stood: a click that was begun before meets no other button.
  expect((await confirm.boundingBox())!.x).toBe(stood!.x);
  await confirm.click();
  await said('2 clips roll together');
  await expect(rolling).toContainText('confirmed');
  await search().fill('rolling is sound day is 1 camera is B');
  await expect(amount()).toContainText('2 of 27 clips');
  await search().fill('with rolling');
  await expect(amount()).toContainText('4 of 27 clips');
  await clips().first().click();
  await rolling.getByRole('button', { name: 'Not together' }).click();
  await said('2 clips told apart: they do not roll together');
  await expect(amount()).toContainText('2 of 27 clips');
  await page.keyboard.press('Control+z');
  await expect(amount()).toContainText('4 of 27 clips');
  // Circled takes of the recorder and what was selected of one stand in a string-out like pictures, and are played in their turn.
  await page.getByRole('button', { name: 'String out …' }).click();
  await page.getByRole('menuitem', { name: 'The selects of what is shown' }).click();
  await page.getByRole('dialog').getByRole('button', { name: 'Add', exact: true }).click();
  await said(/^[2-9] parts added to the string-out First look/);
  await page.getByRole('button', { name: 'First look', exact: true }).click();
  const parts = page.getByRole('list', { name: 'Parts' }).getByRole('listitem');
  const heard = parts.filter({ hasText: '260505-T01' }).filter({ hasText: '0.4 s' });
  await expect(heard).toContainText('sound');
  await heard.getByRole('button', { name: /^Go to part/ }).click();
  await expect(
    page.getByText('260505-T01, sound without a picture').and(page.locator(':visible')),
  ).toHaveCount(1);
  const at = page.getByText(/^part \d of \d/);
  await expect(at).toContainText('00:00:00:10');
  await page.getByRole('button', { name: 'Play the string-out' }).click();
  await expect(at).toContainText(/00:00:00:(1[5-9]|20)/);
  await page.getByRole('button', { name: 'Back to the clips' }).click();
});

test('lists at the left fold away and stay so; a clip of very many keywords leaves its player the room', async () => {
  await search().fill('');
  await expect(amount()).toContainText(/^27 clips/);
  await clips().first().click();
  const film = page.getByRole('complementary', { name: 'Clip' });
  const room = (await film.boundingBox())!.height;
  const words = Array.from({ length: 60 }, (_, n) => `word number ${n}`);
  const headers = { origin: server.url };
  const ids = (await (
    await page.request.post(`${server.url}/api/jobs/SLW/choose/ids`, { data: { query: '' }, headers })
  ).json()) as string[];
  for (const name of words) {
    const data = { do: 'addKeyword', clips: ids, name };
    expect((await page.request.post(`${server.url}/api/jobs/SLW/choose`, { data, headers })).ok()).toBe(true);
  }
  const given = page.getByRole('region', { name: 'Keywords of the clip' });
  await expect(given.getByRole('button', { name: /^Take word number/ })).toHaveCount(words.length);
  expect((await film.boundingBox())!.height).toBeGreaterThan(room - 120);
  const part = page.getByRole('region', { name: 'Keywords', exact: true });
  const heading = part.getByRole('button', { name: /^Keywords/ });
  await expect(heading).toHaveAttribute('aria-expanded', 'true');
  await heading.click();
  await expect(part.getByRole('listitem')).toHaveCount(0);
  await expect(heading).toContainText(/\d\d/);
  await page.reload();
  await expect(heading).toHaveAttribute('aria-expanded', 'false');
  await heading.press('Enter');
  await expect(part.getByRole('listitem')).not.toHaveCount(0);
});
