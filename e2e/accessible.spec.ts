import AxeBuilder from '@axe-core/playwright';
import { expect, type Page, test } from '@playwright/test';
import { mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { startOffloaded } from './offloaded';
import { TestServer } from './server';

// Every screen and dialog by axe-core, in both themes; at 1280 pixels and at 200 % zoom no words are cut; and a card is copied by
// keyboard alone.

const server = new TestServer('demo');
let page: Page;
/** Another tab of the same browser. */
let other: Page;
/** Tells the card reader. */
const reader = (data: object): Promise<boolean> =>
  page.evaluate(
    async (body) =>
      (
        await fetch('/api/offload/stand-ins', {
          method: 'POST',
          headers: { 'content-type': 'application/json' },
          body: JSON.stringify(body),
        })
      ).ok,
    { slot: 'Reader 1', ...data },
  );

test.beforeAll(async ({ browser }) => {
  test.setTimeout(400_000);
  await startOffloaded(server, browser);
  const context = await browser.newContext();
  page = await context.newPage();
  await page.goto(`${server.url}/jobs/SLW`);
  // Footage in the job, one card in the reader, copies that were made: every screen has something to show. With these cards the Wall has
  // five cameras.
  for (const card of ['S001', 'C001', 'D001']) {
    await reader({ action: 'pull' });
    expect(await reader({ action: 'plug', card })).toBe(true);
    await page.goto(`${server.url}/jobs/SLW/intake`);
    await page.getByRole('button', { name: 'Look', exact: true }).first().click();
    await page.getByRole('button', { name: /^Copy \d/ }).click();
    await page.getByRole('link', { name: 'May this card be wiped?' }).waitFor();
  }
  await expect(page.getByRole('status').filter({ hasText: /Reading|Making/ })).toHaveCount(0, {
    timeout: 240_000,
  });
  // A second job, which is archived.
  const headers = { origin: server.url };
  expect(
    (
      await page.request.post(`${server.url}/api/jobs`, {
        data: { name: 'Ebb', code: 'EBB', zoneMinutes: 0, cameras: [] },
        headers,
      })
    ).ok(),
  ).toBe(true);
  await page.goto(`${server.url}/jobs`);
  await page
    .getByRole('listitem')
    .filter({ hasText: 'EBB' })
    .getByRole('button', { name: 'Archive' })
    .click();
  await page.getByRole('list', { name: 'Archived jobs' }).waitFor();
  other = await context.newPage();
  await other.goto(`${server.url}/jobs`);
  const light = other.getByRole('button', { name: 'Light theme' });
  if ((await light.count()) > 0) await light.click();
  // A tab behind another draws once a second, and whatever waits for a picture of it waits as long.
  await page.bringToFront();
});
test.afterAll(() => server.close());

/** A screen, and what of it has to be there before it is judged; `open` opens a dialog on it. */
interface Screen {
  name: string;
  at: string;
  ready: (p: Page) => Promise<unknown>;
  open?: (p: Page) => Promise<unknown>;
  /** What is done once it was judged; it fails where the screen was another by then. */
  after?: (p: Page) => Promise<unknown>;
}
const heading = (p: Page) => p.locator('h1').first().waitFor({ state: 'attached' });
const option = (p: Page) => p.getByRole('option').first().waitFor();
const press = (name: string | RegExp) => (p: Page) => p.getByRole('button', { name }).first().click();
const LOOK = '**/intake/look';
const SCREENS: Screen[] = [
  {
    name: 'Jobs, one of them archived',
    at: '/jobs',
    ready: (p) => p.getByRole('list', { name: 'Archived jobs' }).waitFor(),
  },
  {
    name: 'An archived job, empty',
    at: '/jobs/EBB',
    ready: (p) => p.getByText('Nothing is on the shelf yet').waitFor(),
  },
  { name: 'Facts of no clips', at: '/jobs/EBB/facts', ready: (p) => p.getByText('No clips yet').waitFor() },
  {
    name: 'Naming of no clips',
    at: '/jobs/EBB/naming',
    ready: (p) => p.getByText('There are no clips to name yet').waitFor(),
  },
  {
    name: 'Proxies of no clips',
    at: '/jobs/EBB/proxies',
    ready: (p) => p.getByText('There are no clips yet').waitFor(),
  },
  { name: 'Wall', at: '/jobs/SLW', ready: (p) => p.getByRole('link', { name: 'Card A001' }).waitFor() },
  { name: 'Keys', at: '/jobs/SLW', ready: heading, open: (p) => p.keyboard.press('?') },
  {
    name: 'Intake',
    at: '/jobs/SLW/intake',
    ready: (p) => p.getByRole('button', { name: 'Look', exact: true }).first().waitFor(),
  },
  {
    name: 'A card looked at',
    at: '/jobs/SLW/intake?root=shelf&path=Offloaded%2FDay+1%2FB001&look=1',
    ready: (p) => p.getByRole('article').first().waitFor(),
  },
  {
    name: 'Templates',
    at: '/jobs/SLW',
    ready: heading,
    open: async (p) => {
      await p.getByRole('button', { name: /^Slack Water/ }).click();
      await p.getByRole('menuitem', { name: 'Templates …' }).click();
      await p.getByRole('button', { name: 'Take over …' }).first().waitFor();
    },
  },
  {
    name: 'Templates, parts for this job',
    at: '/jobs/SLW',
    ready: heading,
    open: async (p) => {
      await p.getByRole('button', { name: /^Slack Water/ }).click();
      await p.getByRole('menuitem', { name: 'Templates …' }).click();
      await p.getByRole('button', { name: 'Take over …' }).first().click();
      await p.getByRole('checkbox', { name: /^Keywords, bins/ }).waitFor();
    },
  },
  { name: 'Watch a folder', at: '/jobs/SLW/intake', ready: heading, open: press(/^Watch this folder/) },
  {
    name: 'A card by the names on it, while its files are looked into',
    at: '/jobs/SLW/intake',
    ready: async (p) => {
      await reader({ action: 'pull' });
      await reader({ action: 'plug', card: 'A002' });
      // The card that was there before is shown until the page has heard of this one.
      await p.reload();
      await p.route(LOOK, () => undefined);
      await p.getByRole('button', { name: 'Look', exact: true }).first().click();
      await p.getByText('Looking into the files …').waitFor();
      await option(p);
    },
    after: async (p) => {
      await expect(p.getByText('Looking into the files …')).toBeVisible();
      await p.unroute(LOOK);
    },
  },
  {
    name: 'A card looked at, to be copied',
    at: '/jobs/SLW/intake',
    ready: async (p) => {
      await p.getByRole('button', { name: 'Look', exact: true }).first().click();
      await option(p);
      await expect(p.getByText('Looking into the files …')).toHaveCount(0);
      await p.getByRole('button', { name: /^Copy \d/ }).waitFor();
    },
    open: (p) => p.getByRole('option').first().click(),
    after: (p) => expect(p.getByText('Looking into the files …')).toHaveCount(0),
  },
  {
    name: 'Steps that stopped',
    at: '/jobs/SLW/intake',
    ready: async (p) => {
      const clip = readFileSync(path.join(server.home, 'stand-ins/drawer/B003/CLIP/T0001.MP4'));
      mkdirSync(path.join(server.home, 'shelf/Cut'));
      writeFileSync(path.join(server.home, 'shelf/Cut/T0001.MP4'), clip.subarray(0, clip.length / 2));
      const cards = [{ folder: '', camera: 'K', cardId: 'K001', day: 1, date: null }];
      const taken = await p.request.post(`${server.url}/api/jobs/SLW/intake`, {
        data: { root: 'shelf', path: 'Cut', cards, next: { placing: 'name' } },
        headers: { origin: server.url },
      });
      expect(taken.ok()).toBe(true);
      await p.getByRole('region', { name: 'What happens next' }).waitFor();
    },
  },
  {
    name: 'Names that no job knows of',
    at: '/jobs',
    ready: heading,
    open: async (p) => {
      await p.getByRole('button', { name: 'Undo names of a lost job …' }).click();
      await p.getByText('The journal tells of no change of names').waitFor();
    },
  },
  { name: 'Places', at: '/jobs/SLW/places', ready: heading },
  { name: 'Add a place', at: '/jobs/SLW/places', ready: heading, open: press(/^Add a place/) },
  { name: 'Moving a place', at: '/jobs/SLW/places', ready: heading, open: press('Move …') },
  {
    name: 'Beginning a job in a copied folder',
    at: '/jobs',
    ready: heading,
    open: async (p) => {
      await p.getByRole('button', { name: 'Begin a job' }).click();
      await p.getByLabel('Begin with').selectOption('copy');
    },
  },
  {
    name: 'Card',
    at: '/jobs/SLW/card/B002',
    ready: option,
    open: (p) => p.getByRole('option').nth(1).click(),
  },
  { name: 'Card as a table', at: '/jobs/SLW/card/B002', ready: option, open: press('Table') },
  {
    name: 'A copy that is running',
    at: '/jobs/SLW/intake',
    ready: async (p) => {
      await reader({ action: 'pull' });
      await reader({ action: 'plug', card: 'S002' });
      await reader({ action: 'faults', of: 'Reader 1', faults: { slow: 5e5 } });
      await p.getByRole('button', { name: 'Look', exact: true }).first().click();
      await p.getByRole('button', { name: /^Copy \d/ }).click();
      await p.getByRole('progressbar').first().waitFor();
    },
    after: async (p) => {
      await expect(p.getByRole('button', { name: 'Pause' })).toBeVisible();
      await reader({ action: 'faults', of: 'Reader 1', faults: {} });
      await p.getByRole('link', { name: 'May this card be wiped?' }).waitFor();
    },
  },
  {
    name: 'A copy that ended',
    at: '/jobs/SLW/card/S001/wipe',
    ready: async (p) => {
      // By the page: a connection of its own may have been closed meanwhile.
      const copies = await p.evaluate(
        async () => (await (await fetch('/api/jobs/SLW/offload')).json()) as { id: string; state: string }[],
      );
      await p.goto(`${server.url}/jobs/SLW/copy/${copies.find((c) => c.state === 'done')!.id}`);
      await p.getByRole('link', { name: 'May this card be wiped?' }).waitFor();
    },
  },
  {
    name: 'May it be wiped',
    at: '/jobs/SLW/card/S001/wipe',
    ready: (p) => p.getByRole('region', { name: 'Answer' }).waitFor(),
  },
  { name: 'Facts', at: '/jobs/SLW/facts', ready: (p) => p.getByRole('grid').waitFor() },
  {
    name: 'Choose fields',
    at: '/jobs/SLW/facts',
    ready: (p) => p.getByRole('grid').waitFor(),
    open: press(/^Choose fields/),
  },
  {
    name: 'Extract',
    at: '/jobs/SLW/facts',
    ready: (p) => p.getByRole('grid').waitFor(),
    open: press(/^Extract/),
  },
  { name: 'Charts', at: '/jobs/SLW/facts?view=charts', ready: (p) => p.locator('canvas').first().waitFor() },
  { name: 'Clocks', at: '/jobs/SLW/facts?view=clocks', ready: heading },
  {
    name: 'Who states what',
    at: '/jobs/SLW/facts?view=stated',
    ready: (p) => p.getByRole('table').first().waitFor(),
  },
  {
    name: 'Not read',
    at: '/jobs/SLW/facts?view=unread',
    ready: (p) =>
      p
        .getByText(/could not be read|No reading has failed/)
        .first()
        .waitFor(),
  },
  { name: 'Trust', at: '/jobs/SLW/facts?view=trust', ready: heading },
  {
    name: 'Naming bench',
    at: '/jobs/SLW/naming',
    ready: (p) => p.getByRole('button', { name: /^Counter/ }).waitFor(),
  },
  {
    name: 'Naming, a block open',
    at: '/jobs/SLW/naming',
    ready: (p) => p.getByRole('button', { name: /^Counter/ }).waitFor(),
    open: async (p) => {
      await press(/^Counter/)(p);
      await press('More …')(p);
    },
  },
  {
    name: 'Naming, folders',
    at: '/jobs/SLW/naming',
    ready: (p) => p.getByRole('button', { name: /^Counter/ }).waitFor(),
    open: press('Folders'),
  },
  {
    name: 'Naming, changes, columns and a selection',
    at: '/jobs/SLW/naming',
    ready: (p) => p.getByRole('button', { name: /^Counter/ }).waitFor(),
    open: async (p) => {
      await press('Changes')(p);
      await press('+ find and replace')(p);
      await press('Columns …')(p);
      await p.getByRole('menuitemcheckbox', { name: 'Place' }).click();
      await p.keyboard.press('Escape');
      await p
        .getByRole('row')
        .nth(1)
        .click({ position: { x: 100, y: 10 } });
      await p.getByText('1 clip selected').waitFor();
    },
  },
  {
    name: 'Proxies',
    at: '/jobs/SLW/proxies',
    ready: (p) => p.getByRole('button', { name: /^Make/ }).first().waitFor(),
  },
  {
    name: 'Proxies, rules',
    at: '/jobs/SLW/proxies',
    ready: (p) => p.getByRole('button', { name: /^Make/ }).first().waitFor(),
    open: press('Rules …'),
  },
  {
    name: 'Proxies, recipes',
    at: '/jobs/SLW/proxies',
    ready: (p) => p.getByRole('button', { name: /^Make/ }).first().waitFor(),
    open: press('Recipes …'),
  },
  {
    name: 'Proxies, adopting',
    at: '/jobs/SLW/proxies',
    ready: (p) => p.getByRole('button', { name: /^Make/ }).first().waitFor(),
    open: press('Adopt …'),
  },
  {
    name: 'Proxies, lost files',
    at: '/jobs/SLW/proxies',
    ready: (p) => p.getByRole('button', { name: /^Make/ }).first().waitFor(),
    open: async (p) => {
      await p.getByRole('button', { name: 'Find lost …' }).click();
      await p.getByText('No file of the job is lost.').waitFor();
    },
  },
  {
    name: 'Choose',
    at: '/jobs/SLW/choose',
    ready: (p) => p.getByRole('listbox', { name: 'Clips' }).getByRole('option').first().waitFor(),
    open: async (p) => {
      await p.getByRole('combobox', { name: 'Search' }).fill('any(rate over 5, wheel)');
      await p.getByRole('button', { name: 'Rows' }).click();
      await p.getByRole('listbox', { name: 'Clips' }).getByRole('option').first().click();
      await p.getByRole('button', { name: 'Select S' }).click();
      await p.getByRole('list', { name: 'Ranges' }).waitFor();
    },
  },
  {
    name: 'Choose, ranges',
    at: '/jobs/SLW/choose',
    ready: (p) => p.getByRole('listbox', { name: 'Clips' }).getByRole('option').first().waitFor(),
    open: async (p) => {
      await p.getByRole('listbox', { name: 'Clips' }).getByRole('option').first().click();
      await p.getByRole('button', { name: 'Select S' }).click();
      await p.getByRole('button', { name: 'Ranges', exact: true }).click();
      await p.getByRole('list', { name: 'Ranges of these clips' }).getByRole('listitem').first().waitFor();
      await p.getByRole('button', { name: 'Play them' }).click();
    },
    // The view is found again as it was left.
    after: press('Frames'),
  },
  {
    name: 'Hand over, rehearsal',
    at: '/jobs/SLW/handover',
    ready: (p) => p.getByRole('heading', { name: 'Relink rehearsal' }).waitFor(),
    open: (p) =>
      p
        .getByRole('button', { name: /Every way$/ })
        .first()
        .click(),
  },
  {
    name: 'Hand over, a new package',
    at: '/jobs/SLW/handover?packages',
    ready: (p) => p.getByRole('region', { name: 'What would be done' }).waitFor(),
    open: async (p) => {
      await p.getByRole('button', { name: 'Add a drive …' }).click();
      await p.getByRole('button', { name: 'Use this folder' }).waitFor();
    },
  },
  {
    name: 'Hand over, forms',
    at: '/jobs/SLW/handover?packages',
    ready: (p) => p.getByRole('region', { name: 'What would be done' }).waitFor(),
    open: async (p) => {
      await p.getByRole('button', { name: 'Forms …' }).click();
      await p.getByRole('dialog', { name: 'Forms' }).getByLabel('Looks', { exact: true }).check();
    },
  },
  {
    name: 'Hand over, a package',
    at: '/jobs/SLW/handover?packages',
    ready: (p) => p.getByRole('region', { name: 'What would be done' }).waitFor(),
    open: async (p) => {
      // Sent once; after that its folder is taken by it, and it is sent again.
      await p.getByRole('button', { name: 'Hand over', exact: true }).click();
      await p.getByRole('table', { name: 'Files of the package' }).getByText('verified').first().waitFor();
      await p.getByRole('button', { name: 'Check it at its place' }).click();
      await p.getByText('the hash list agrees').waitFor();
    },
  },
  {
    name: 'Hand over, reports',
    at: '/jobs/SLW/handover?reports=missing',
    ready: (p) => p.frameLocator('iframe').getByRole('heading', { name: 'What is missing' }).waitFor(),
    open: async (p) => {
      await p.getByRole('button', { name: /^Camera report/ }).click();
      await p.frameLocator('iframe').getByRole('heading', { name: 'Camera report' }).waitFor();
    },
  },
  {
    name: 'Hand over, a list',
    at: '/jobs/SLW/handover?lists',
    ready: (p) => p.getByRole('button', { name: 'Read one …' }).waitFor(),
    open: async (p) => {
      await p.getByLabel('A list as CSV').setInputFiles({
        name: 'notes.csv',
        mimeType: 'text/csv',
        buffer: Buffer.from('Clip,Note\nA001_C001,windy\nnobody,lost\n'),
      });
      await p.getByRole('button', { name: 'Take in 1 line' }).waitFor();
    },
  },
  {
    name: 'Hand over, a timeline',
    at: '/jobs/SLW/handover?timelines',
    ready: (p) => p.getByRole('button', { name: 'Read one …' }).waitFor(),
    open: async (p) => {
      const events = ['A001_C001.MOV', 'STRANGER.MOV'].map(
        (name, i) =>
          `00${i + 1}  AX  V  C  07:48:10:05 07:48:12:05 01:00:0${2 * i}:00 01:00:0${2 * i + 2}:00\n* FROM CLIP NAME: ${name}`,
      );
      await p.getByLabel('A timeline: OpenTimelineIO').setInputFiles({
        name: 'tide.edl',
        mimeType: 'text/plain',
        buffer: Buffer.from(`TITLE: Tide mill\n${events.join('\n')}\n003  cut off`),
      });
      await p.getByRole('table', { name: 'Events' }).locator('tbody tr').first().waitFor();
      await p.getByText('1 thing in the file made no sense').click();
    },
  },
  {
    name: 'Choose, keywords by rule',
    at: '/jobs/SLW/choose',
    ready: (p) => p.getByRole('listbox', { name: 'Clips' }).getByRole('option').first().waitFor(),
    open: async (p) => {
      await p.getByRole('button', { name: 'Rules …' }).click();
      await p
        .getByRole('combobox', { name: 'From', exact: true })
        .selectOption({ label: 'Names of folders' });
      await p.getByRole('checkbox').first().waitFor();
    },
  },
  {
    name: 'Choose, string-out',
    at: '/jobs/SLW/choose',
    ready: (p) => p.getByRole('listbox', { name: 'Clips' }).getByRole('option').first().waitFor(),
    open: async (p) => {
      await p.getByRole('button', { name: 'String out …' }).click();
      await p.getByRole('menuitem', { name: 'All that is shown' }).click();
      await p.getByRole('dialog').getByRole('textbox').fill('All of it');
      await p.keyboard.press('Enter');
      await p.getByRole('button', { name: 'All of it', exact: true }).first().click();
      await p.getByRole('list', { name: 'Parts' }).getByRole('listitem').first().waitFor();
    },
  },
  {
    name: 'Logbook',
    at: '/jobs/SLW/logbook',
    ready: (p) => p.getByRole('button', { name: /^Show/ }).first().waitFor(),
  },
];

const show = async ({ at, ready, open }: Screen): Promise<void> => {
  await page.goto(server.url + at);
  await ready(page);
  await open?.(page);
  await settled();
};
/** What fades in has its colours at the end. */
const settled = () =>
  page.evaluate(() => Promise.all(document.getAnimations().map((a) => a.finished.catch(() => undefined))));

/** What axe finds wrong; only the rules that colours decide where `colours` is said. What is gone a second later was changing just then. */
async function faults(colours = false, again = true): Promise<string[]> {
  // There are no frames of other origins, for which it would open a further page each time.
  const axe = new AxeBuilder({ page })
    .setLegacyMode()
    // What passes is not asked for, and no rule that is run reads the style sheets.
    .options({ resultTypes: ['violations'], preload: false });
  const { violations } = await (
    colours ? axe.withRules(['color-contrast', 'link-in-text-block']) : axe
  ).analyze();
  if (violations.length > 0 && again) {
    await page.waitForTimeout(1000);
    await settled();
    return faults(colours, false);
  }
  return violations.flatMap((v) =>
    v.nodes.map((n) => `${v.id} (${v.impact}): ${n.html.slice(0, 160)} ${n.any[0]?.message ?? ''}`),
  );
}

/** Turns the theme in another tab: this one follows, with what is open on it. */
async function turn(theme: 'light' | 'dark'): Promise<void> {
  // That tab is behind this one, and a click would wait for it to be drawn.
  await other.evaluate(
    (name) => document.querySelector<HTMLElement>(`button[aria-label="${name}"]`)!.click(),
    `${theme === 'dark' ? 'Dark' : 'Light'} theme`,
  );
  await page.locator(`html[data-scheme=${theme}]`).waitFor({ state: 'attached' });
  await settled();
}

/** Words of controls, headings and labels of which a part cannot be seen. What is a name of a file may be shortened where its whole is told by a title. */
const cutLabels = () =>
  page.evaluate(() => {
    const shown = (e: Element) => {
      const { width, height } = e.getBoundingClientRect();
      return width > 0 && height > 0 && getComputedStyle(e).visibility !== 'hidden';
    };
    const cuts: string[] = [];
    for (const e of document.body.querySelectorAll<HTMLElement>('*')) {
      const words = [...e.childNodes].some((n) => n.nodeType === Node.TEXT_NODE && n.textContent?.trim());
      if (!words || !shown(e) || e.closest('[aria-hidden=true], .visuallyHidden, option, script, style'))
        continue;
      const titled = e.closest('[title]') !== null;
      for (let box: HTMLElement | null = e; box && box !== document.body; box = box.parentElement) {
        const { overflowX, overflowY } = getComputedStyle(box);
        const across = overflowX === 'hidden' || overflowX === 'clip';
        const down = overflowY === 'hidden' || overflowY === 'clip';
        const range = document.createRange();
        range.selectNodeContents(e);
        const place = range.getBoundingClientRect();
        const { left, right, top, bottom } = box.getBoundingClientRect();
        if (!titled && across && (place.right > right + 1.5 || place.left < left - 1.5)) {
          cuts.push(`${e.tagName} “${e.textContent.trim().slice(0, 60)}” across`);
          break;
        }
        if (!titled && down && box === e && (place.bottom > bottom + 1.5 || place.top < top - 1.5)) {
          cuts.push(`${e.tagName} “${e.textContent.trim().slice(0, 60)}” down`);
          break;
        }
        if (overflowX === 'auto' || overflowX === 'scroll') break;
      }
    }
    return [...new Set(cuts)];
  });

/** What still moves, or would. */
const moving = () =>
  page.evaluate(() =>
    [...document.querySelectorAll('*')]
      .filter((e) => {
        const { transitionDuration, animationDuration } = getComputedStyle(e);
        return [transitionDuration, animationDuration].some((d) =>
          d.split(',').some((t) => parseFloat(t) > 0.001),
        );
      })
      .map((e) => e.outerHTML.slice(0, 80)),
  );

for (const screen of SCREENS)
  test(`${screen.name}: axe finds nothing in light and dark, no label is cut at 1280 by 800 and at 200 % zoom, nothing moves where less motion is wished`, async () => {
    await show(screen);
    expect.soft(await faults(), 'axe, light').toEqual([]);
    expect.soft(await cutLabels(), 'cut at 1280 by 800').toEqual([]);
    await page.emulateMedia({ reducedMotion: 'reduce' });
    expect.soft(await moving(), 'moving').toEqual([]);
    await page.emulateMedia({ reducedMotion: null });
    await turn('dark');
    expect.soft(await faults(true), 'axe, dark').toEqual([]);
    await turn('light');
    // A browser at 200 % has half as many CSS pixels in the same window.
    await page.setViewportSize({ width: 640, height: 400 });
    await settled();
    expect.soft(await cutLabels(), 'cut at 200 %').toEqual([]);
    await page.setViewportSize({ width: 1280, height: 800 });
    await screen.after?.(page);
  });

test('a card is copied and its answer asked for by keyboard alone, and focus is seen at every stop', async () => {
  await page.setViewportSize({ width: 1280, height: 800 });
  await reader({ action: 'pull' });
  expect(await reader({ action: 'plug', card: 'B003' })).toBe(true);
  await page.goto(`${server.url}/jobs/SLW/intake`);
  const unseen: string[] = [];
  /** Presses Tab until a control of this name has the focus. */
  const tabTo = async (name: RegExp): Promise<void> => {
    await expect(page.locator('a, button').filter({ hasText: name }).first()).toBeEnabled({
      timeout: 240_000,
    });
    for (let n = 0; n < 150; n++) {
      await page.keyboard.press('Tab');
      const { words, seen } = await page.evaluate(() => {
        const e = document.activeElement as HTMLElement;
        const { outlineStyle, outlineWidth, boxShadow } = getComputedStyle(e);
        return {
          words: e.getAttribute('aria-label') ?? e.textContent?.trim() ?? '',
          seen:
            e === document.body ||
            (outlineStyle !== 'none' && parseFloat(outlineWidth) > 0) ||
            boxShadow !== 'none' ||
            // The frame of a field, and MUI's own mark on what is ticked.
            e.closest('.Mui-focused, .Mui-focusVisible') !== null ||
            e.tagName === 'VIDEO',
        };
      });
      if (!seen) unseen.push(words.slice(0, 60));
      if (name.test(words)) return;
    }
    throw new Error(`${name} is not reached by Tab`);
  };
  await tabTo(/^Look$/);
  await page.keyboard.press('Enter');
  await page.getByRole('option').first().waitFor();
  await tabTo(/^Copy \d/);
  await page.keyboard.press('Enter');
  await page.waitForURL(/\/copy\//);
  await tabTo(/^May this card be wiped\?$/);
  await page.keyboard.press('Enter');
  await page.getByRole('region', { name: 'Answer' }).waitFor();
  expect([...new Set(unseen)]).toEqual([]);
});
