import { expect, type Page } from '@playwright/test';

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
