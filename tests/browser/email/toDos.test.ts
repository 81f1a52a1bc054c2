import { expect } from '@playwright/test'
import { moveClock, pick, signIn } from '../signIn'
import { test } from '../fixtures'

test('a manager plans an email for an owner, who finds it filled in and sends it; the result says so', async ({
  page,
  browser,
}) => {
  const rep = await (await browser.newContext({ viewport: { width: 1280, height: 800 } })).newPage()
  await signIn(rep, /Imani Osei/)
  await rep.evaluate(() =>
    fetch('/api/prospects', {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ name: 'Orla Fenwick', email: 'orla@fenwick.example', company: 'Fenwick Kilns' }),
    }),
  )
  await signIn(page, /Maren Holloway/)
  await page.goto('/prospects?search=Orla%20Fenwick')
  await page.getByRole('checkbox', { name: 'Select Orla Fenwick' }).check()
  await page.getByRole('button', { name: 'Change …' }).click()
  const dialog = page.getByRole('dialog')
  await pick(page, 'Action', 'Plan a to-do: call, email, text or task')
  await pick(page, 'Type', 'Email')
  await dialog.getByRole('button', { name: 'In an hour' }).click()
  await dialog.getByLabel('Subject').fill('Nine points for {{ company }}')
  await dialog.getByRole('textbox', { name: 'Text' }).fill('Hello {{ first_name }}, may I send it?')
  await expect(dialog.getByText('1 person will get a to-do: Imani Osei 1.')).toBeVisible()
  await dialog.getByRole('button', { name: 'Plan for 1 person' }).click()
  await expect(dialog.getByRole('status')).toHaveText('1 person got a to-do.')
  await expect(dialog.getByRole('row', { name: /Imani Osei/ })).toContainText('1')

  await moveClock(rep, 'An hour later')
  await rep.getByRole('button', { name: /Orla Fenwick/ }).click()
  await expect(rep.getByRole('heading', { name: 'Look it over, then send' })).toBeVisible()
  await expect(rep.getByLabel('Subject')).toHaveValue('Nine points for Fenwick Kilns')
  await expect(rep.getByRole('textbox', { name: 'Text' })).toHaveValue('Hello Orla, may I send it?')
  await rep.keyboard.press('s')
  await expect(rep.getByText(/Email to Orla Fenwick is on its way/)).toBeVisible()

  await dialog.getByRole('link', { name: 'All bulk actions' }).click()
  await page.getByRole('button', { name: /^Result of “Email planned: Nine points/ }).click()
  await page.getByRole('button', { name: 'To-dos of Imani Osei' }).click()
  await expect(page.getByText(/Orla Fenwick, Fenwick Kilns · Done/)).toBeVisible()
  await rep.context().close()
})
