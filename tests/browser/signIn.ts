import { expect, type Page } from '@playwright/test'

/** Signs a member of the demo team in by the door's own buttons. */
export async function signIn(page: Page, name: RegExp): Promise<void> {
  await page.goto('/sign-in')
  await page.getByRole('button', { name }).click()
  await expect(page.getByRole('navigation', { name: 'Screens' })).toBeVisible()
}
