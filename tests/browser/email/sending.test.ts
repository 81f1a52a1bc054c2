import { expect } from '@playwright/test'
import { test } from '../fixtures'
import { moveClock, pick, signIn } from '../signIn'

test('a manager keeps sending windows and senders, and the queue says what waits, until when and for what', async ({
  page,
}) => {
  await signIn(page, /Maren Holloway/)
  await page.goto('/settings/sending')
  await page.getByRole('button', { name: 'Add a window' }).click()
  const dialog = page.getByRole('dialog', { name: 'Sending window' })
  await dialog.getByLabel('Name').fill('Business hours')
  await dialog.getByRole('checkbox', { name: 'Fri' }).uncheck()
  await pick(page, 'From', '11:00 AM')
  await pick(page, 'By the clock of', 'the sender’s')
  await dialog.getByLabel('Name').press('Enter')
  await expect(dialog).toContainText('Another sending window has this name')
  await dialog.getByLabel('Name').fill('Late mornings')
  await dialog.getByLabel('Name').press('Enter')
  const row = page.getByRole('row', { name: /Late mornings/ })
  await expect(row).toContainText(
    'Mon–Thu, 11:00 AM to 5:00 PM by the sender’s clock, closed on the prospect’s holidays',
  )
  await expect(row).toContainText('no cadence')

  // A cadence is put on it, and says so; there it cannot be deleted.
  await page.getByRole('link', { name: 'Met at the cold chain fair' }).click()
  await page.locator('.v-select').filter({ hasText: 'When its email may go' }).click()
  await page.getByRole('option', { name: 'Late mornings' }).click()
  await expect(page.getByText('Mon–Thu, 11:00 AM to 5:00 PM')).toBeVisible()
  // The notice of the window that was saved may stand there still: the cadence is saved when it is answered.
  const saved = page.waitForResponse(
    (response) => response.url().includes('/api/cadences/') && response.request().method() === 'PUT',
  )
  await page.getByRole('button', { name: 'Save', exact: true }).first().click()
  expect((await saved).ok()).toBe(true)
  await expect(page.getByText('Saved.', { exact: true }).first()).toBeVisible()
  await page.goto('/settings/sending')
  await expect(row.getByRole('link', { name: 'Met at the cold chain fair' })).toBeVisible()
  await expect(page.getByRole('button', { name: 'Delete Late mornings' })).toHaveCount(0)

  // A sender gets a slow start and a cap of one.
  await page.getByRole('button', { name: 'Edit Joaquin Pell' }).click()
  const sender = page.getByRole('dialog', { name: 'Sender' })
  await sender.getByLabel('Daily email cap').fill('0')
  await sender.getByLabel('Slow start, for a new sender').check()
  await sender.getByLabel('Emails on the first day').fill('0')
  await sender.getByRole('button', { name: 'Save' }).click()
  await expect(sender).toContainText('Enter 1 or more')
  await sender.getByLabel('Emails on the first day').fill('5')
  await sender.getByRole('button', { name: 'Save' }).click()
  await expect(page.getByRole('row', { name: /Joaquin Pell/ })).toContainText('of 0')

  // Late on a Friday what is on the way waits: for the window, or for room.
  await moveClock(page, 'An hour later')
  await page.goto('/email-queue')
  const reasons = page.getByRole('group', { name: 'What it waits for' })
  await reasons.getByRole('button', { name: /the sending window to open/ }).click()
  await expect(page).toHaveURL(/why=window/)
  await expect(page.locator('tbody tr').filter({ hasText: 'Met at the cold chain fair' }).first()).toBeVisible()
  await reasons.getByRole('button', { name: 'All' }).click()
  await expect(page).not.toHaveURL(/why=/)
  await expect(page.getByRole('table')).toHaveAttribute('aria-busy', 'false')
  // The first of the cadence whose window stays closed until tomorrow: nothing of it leaves meanwhile.
  const email = page.locator('tbody tr').filter({ hasText: 'Met at the cold chain fair' }).filter({ hasText: 'window' })
  const name = (await email.getByRole('checkbox').first().getAttribute('aria-label'))!
  const checkbox = page.getByRole('checkbox', { name, exact: true })
  const emails = await checkbox.count()
  await checkbox.first().check()
  await page.getByRole('button', { name: 'Cancel 1 email' }).click()
  await expect(page.getByText('1 email canceled; the cadences go on without.')).toBeVisible()
  await expect(checkbox).toHaveCount(emails - 1)
})
