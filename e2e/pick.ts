import type { Locator } from '@playwright/test';

/**
 * Picks an option of a list that opens from a field. It is opened by a key: opened by the pointer, it comes to lie below it, and on a busy
 * machine the release picks what is there.
 */
export async function pick(field: Locator, name: string | RegExp, exact = false): Promise<void> {
  await field.press('ArrowDown');
  await field.page().getByRole('option', { name, exact }).click();
}
