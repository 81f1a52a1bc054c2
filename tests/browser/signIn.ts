import { expect, type Page } from '@playwright/test'

/** What the queue says of a call that is a step of a cadence; other steps are not followed by the calls so far. */
export const CALL = /step \d of \d, (?:not called|spoken to|\d+ calls?)/

/** Signs a member of the demo team in by the door's own buttons. */
export async function signIn(page: Page, name: RegExp): Promise<void> {
  await page.goto('/sign-in')
  await page.getByRole('button', { name }).click()
  await expect(page.getByRole('navigation', { name: 'Screens' })).toBeVisible()
}

/** Moves the demo's clock by an entry of its menu; what is due on the way happens. */
export async function moveClock(page: Page, to: string): Promise<void> {
  await page.getByRole('button', { name: /Demo clock/ }).click()
  await page.getByText(to, { exact: true }).click()
  await expect(page.getByText('Everything due until then has happened').last()).toBeVisible({ timeout: 60_000 })
}

/** Chooses from a menu of the dialog that is open. */
export async function pick(page: Page, label: string, option: string, nth = 0): Promise<void> {
  await page.getByRole('dialog').locator('.v-select').filter({ hasText: label }).nth(nth).click()
  await page.getByRole('option', { name: option, exact: true }).last().click()
}

/** Waits until the dialog that is open has the cursor: it takes keys from then on. */
export async function dialogHasCursor(page: Page): Promise<void> {
  await expect.poll(() => page.evaluate(() => Boolean(document.activeElement?.closest('[role="dialog"]')))).toBe(true)
}

/** Keeps the stream of changes from being opened, for a page whose network is to come to rest. */
export async function withoutStream(page: Page): Promise<void> {
  await page.addInitScript(() => Reflect.deleteProperty(globalThis, 'SharedWorker'))
  await page.route('**/api/changes', (route) => route.abort())
}
