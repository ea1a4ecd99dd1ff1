import { expect, test } from '@playwright/test';
import { TestServer } from './server';

// A server that other machines can reach: whoever comes is asked for its secret.
test.describe.configure({ mode: 'serial' });

const server = new TestServer('start');
const secretOf = (): string =>
  /asked for this secret, once in a browser: ([A-Z2-9-]+)$/m.exec(server.output)?.[1] ?? '';
const asJson = { 'content-type': 'application/json' };

test.beforeAll(() => server.start({ SORT_SHELF_LISTEN: '0.0.0.0' }));
test.afterAll(() => server.close());

test('it says the secret where it was started, and answers nothing without it', async () => {
  expect(secretOf()).toMatch(/^(?:[A-Z2-9]{5}-){3}[A-Z2-9]{5}$/);
  for (const [path, init] of [
    ['api/jobs', {}],
    ['api/platform/events', {}],
    ['api/jobs', { method: 'POST', headers: asJson, body: '{}' }],
    ['api/platform/health', { headers: { cookie: `sort-shelf-${server.port}=guess` } }],
  ] as [string, RequestInit][]) {
    const answer = await fetch(`${server.url}/${path}`, init);
    expect([path, answer.status, ((await answer.json()) as { title: string }).title]).toEqual([
      path,
      401,
      'Secret needed',
    ]);
  }
  const page = await fetch(`${server.url}/jobs/SLW/card/A001`);
  expect([
    page.status,
    (await page.text()).includes('Give the secret that was printed where it was started'),
  ]).toEqual([401, true]);
});

test('with it, a browser is let in for as long as it is open; another is asked anew', async ({ browser }) => {
  const context = await browser.newContext();
  const page = await context.newPage();
  await page.goto(`${server.url}/jobs/SLW/intake`);
  await page.getByLabel('Secret').fill('AAAAA-BBBBB-CCCCC-DDDDD');
  await page.getByRole('button', { name: 'Enter' }).click();
  await expect(page.getByRole('alert')).toContainText('That is not the secret.');
  // As it is read from the other screen: small letters, blanks for dashes.
  await page.getByLabel('Secret').fill(secretOf().toLowerCase().replaceAll('-', ' '));
  await page.getByRole('button', { name: 'Enter' }).click();
  await expect(page.getByRole('heading', { name: 'Begin a job' })).toBeVisible();
  const [cookie] = await context.cookies();
  expect(cookie).toMatchObject({
    name: `sort-shelf-${server.port}`,
    httpOnly: true,
    sameSite: 'Strict',
    expires: -1,
  });
  await page.getByLabel('Name of the job').fill('Far');
  await page.getByLabel('Code').fill('FAR');
  await page.getByRole('button', { name: 'Begin' }).click();
  await expect(page.getByRole('heading', { name: 'Nothing is on the shelf yet' })).toBeVisible();
  const other = await (await browser.newContext()).newPage();
  await other.goto(server.url);
  await expect(other.getByLabel('Secret')).toBeVisible();
});

test('who guesses is made to wait, and the right secret is not heard meanwhile', async () => {
  const give = (secret: string) =>
    fetch(`${server.url}/enter`, {
      method: 'POST',
      headers: { 'content-type': 'application/x-www-form-urlencoded' },
      body: new URLSearchParams({ secret }).toString(),
      redirect: 'manual',
    });
  let last = 0;
  for (let n = 0; n < 12 && last !== 429; n++) last = (await give(`GUESS-${n}`)).status;
  expect(last).toBe(429);
  expect((await give(secretOf())).status).toBe(429);
});

test('each start has a secret of its own', async () => {
  const before = secretOf();
  await server.kill();
  await server.start({ SORT_SHELF_LISTEN: '0.0.0.0' });
  expect(secretOf()).not.toBe(before);
  expect((await fetch(`${server.url}/api/jobs/SLW`)).status).toBe(401);
});
