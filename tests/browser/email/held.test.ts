import { expect } from '@playwright/test'
import { test } from '../fixtures'
import { signIn } from '../signIn'

const stamp = Date.now().toString(36)

test('an email that lacks a value waits on the Desk, is filled in there, and goes', async ({
  page,
  browser,
  world: { settings },
}) => {
  const address = `wren@${stamp}.example`
  const rep = await (await browser.newContext({ viewport: { width: 1280, height: 800 } })).newPage()
  await signIn(rep, /Imani Osei/)
  const id = await rep.evaluate(async (email) => {
    const answer = await fetch('/api/prospects', {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ name: 'Wren Aldous', email, country: 'US', region: 'NY' }),
    })
    return ((await answer.json()) as { id: string }).id
  }, address)

  // A manager starts them on a cadence whose email names a job title, without words for who has none.
  await signIn(page, /Maren Holloway/)
  await page.goto('/cadences')
  await page.getByRole('button', { name: 'New cadence' }).click()
  await page.getByLabel('Name of the cadence').fill(`Asks for a title ${stamp}`)
  await page.getByRole('button', { name: '+ Email' }).click()
  await page.getByRole('textbox', { name: 'Subject' }).fill('A word to you')
  await page.getByRole('textbox', { name: 'Text', exact: true }).click()
  await page.keyboard.type('Hello {{ first_name }}, what does a {{ title }} do?')
  await page.getByRole('button', { name: 'Save and start' }).click()
  await expect(page.getByText('Saved. People can be enrolled.')).toBeVisible()
  const cadence = page.url().split('/').at(-1)!
  const start = async (dryRun: boolean): Promise<unknown> =>
    (await page.request.post(`/api/cadences/${cadence}/enrollments`, { data: { prospectIds: [id], dryRun } })).json()
  expect(await start(true)).toMatchObject({ enrolled: 1, missing: [{ field: 'title', people: 1 }] })
  expect(await start(false)).toMatchObject({ enrolled: 1 })

  // The rep finds it among the to-dos; an empty value is said at its field, and what is typed there is kept.
  const queue = rep.getByRole('navigation', { name: 'Queue' })
  await queue
    .getByRole('button')
    .filter({ hasText: /Wren Aldous.*waits for a missing detail/s })
    .click({ timeout: 60_000 })
  await expect(rep.getByText('No job title on record')).toBeVisible()
  const title = rep.getByRole('textbox', { name: 'Job title' })
  await expect(title).toBeVisible()
  await rep.keyboard.press('s')
  await expect(rep.getByText('Fill this in')).toBeVisible()
  await rep.keyboard.press('r')
  await expect(title).toBeFocused()
  await rep.keyboard.type('cellar master')
  await rep.keyboard.press('Enter')
  await expect(rep.getByText('Sending it now.')).toBeVisible()
  await expect(queue.getByRole('button').filter({ hasText: 'Wren Aldous' })).toHaveCount(0)
  const letter = page.getByRole('link', { name: /A word to you/ })
  await expect(async () => {
    await page.goto(`${settings.MAILBOX_URL}/?for=${address}`)
    await expect(letter).toBeVisible({ timeout: 1_000 })
  }).toPass({ timeout: 30_000 })
  await letter.click()
  await expect(page.getByText('what does a cellar master do?')).toBeVisible()
})
