import { type Browser, expect, type Page } from '@playwright/test';
import { execFileSync } from 'node:child_process';
import { existsSync, mkdirSync, renameSync, rmSync } from 'node:fs';
import { setTimeout as wait } from 'node:timers/promises';
import path from 'node:path';
import { TestServer } from './server';

/** Takes in the three cards of the demonstration that were offloaded before, in place, and waits until they are read. */
export async function takeInOffloaded(page: Page, url: string): Promise<void> {
  await page.goto(url);
  await page.getByRole('main').getByRole('link', { name: 'Bring in footage' }).click();
  await page.getByRole('button', { name: /^Offloaded/ }).click();
  await expect(page.getByRole('button', { name: /^Day 1/ })).toBeVisible();
  await page.getByRole('button', { name: 'Look in this folder' }).click();
  await page.getByRole('button', { name: 'Take in 3 cards, 25 clips' }).click();
  await expect(page.getByRole('link', { name: 'Card B002' })).toBeVisible();
  await expect(page.getByRole('status').filter({ hasText: /Reading|Making/ })).toHaveCount(0, {
    timeout: 240_000,
  });
}

/** Makes a data folder in which the offloaded cards were taken in, at `folder`. */
async function make(browser: Browser, folder: string): Promise<void> {
  const server = new TestServer('demo');
  try {
    await server.start();
    const page = await browser.newPage();
    await takeInOffloaded(page, server.url);
    // Readers and drives lie in the data folder, and each server has its own.
    const { roots } = (await (await page.request.get(`${server.url}/api/jobs/SLW`)).json()) as {
      roots: { id: string; kind: string }[];
    };
    for (const { id } of roots.filter(({ kind }) => kind === 'source' || kind === 'safe'))
      expect(
        (
          await page.request.delete(`${server.url}/api/places/roots/${id}`, {
            headers: { origin: server.url },
          })
        ).ok(),
      ).toBe(true);
    await page.close();
    await server.stop();
    renameSync(server.home, folder);
  } finally {
    await server.close();
  }
}

/**
 * Starts a server of the demonstration in which the offloaded cards were taken in. The first that is asked for in a run has them taken in;
 * the others wait for that and begin with copies of its data folder.
 */
export async function startOffloaded(server: TestServer, browser: Browser): Promise<void> {
  const run = process.env.SORT_SHELF_E2E_RUN;
  if (!run) throw new Error('e2e/run.ts did not run');
  const [folder, making] = [path.join(run, 'offloaded'), path.join(run, 'making')];
  while (!existsSync(folder)) {
    try {
      mkdirSync(making);
    } catch {
      await wait(200);
      continue;
    }
    try {
      if (!existsSync(folder)) await make(browser, folder);
    } finally {
      rmSync(making, { recursive: true });
    }
  }
  // Node's own copying rounds the times of files, by which Sort Shelf knows them.
  execFileSync('cp', ['-a', `${folder}/.`, server.home]);
  await server.start();
}
