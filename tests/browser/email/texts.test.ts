import { expect } from '@playwright/test'
import { test } from '../fixtures'
import { signIn } from '../signIn'

const name = `Perrin Vale ${Date.now().toString(36)}`
const number = '+12125550172'

test('a rep texts a prospect who agreed, reads the answer first on the Desk, answers with keys, and STOP ends it', async ({
  page,
  browser,
  world: { settings },
}) => {
  await signIn(page, /Imani Osei/)
  const id = await page.evaluate(
    async ([who, phone]) => {
      const body = { name: who, phone, country: 'US', region: 'NY' }
      const answer = await fetch('/api/prospects', {
        method: 'POST',
        headers: { 'content-type': 'application/json' },
        body: JSON.stringify(body),
      })
      return ((await answer.json()) as { id: string }).id
    },
    [name, number],
  )
  await page.goto(`/prospects/${id}`)
  await expect(page.getByRole('toolbar', { name: 'Actions' })).toBeVisible()
  await page.keyboard.press('t')
  await expect(page.getByLabel('Text message')).toBeFocused()
  await page.keyboard.type('Are you in the cellar today?')
  await expect(page.getByText('28 of 160 characters, 1 message')).toBeVisible()
  const send = page.getByRole('button', { name: /Send text/ })
  await expect(send).toBeDisabled()
  await page.getByLabel('They agreed to get texts').check()
  await send.click()
  await expect(page.getByText(`Text to ${name} is on its way.`)).toBeVisible()
  await expect(page.getByText('texts agreed')).toBeVisible()

  // The recipient reads it on their phone, and answers.
  const phone = await (await browser.newContext()).newPage()
  await expect(async () => {
    await phone.goto(`${settings.TEXT_URL}/?for=${encodeURIComponent(number)}`)
    await expect(phone.getByText('Are you in the cellar today?')).toBeVisible({ timeout: 1_000 })
  }).toPass({ timeout: 30_000 })
  await phone.getByLabel('Answer').fill('After 3, yes')
  await phone.getByRole('button', { name: 'Send the answer' }).click()
  await expect(phone.getByText('After 3, yes')).toBeVisible()

  // It stands first on the Desk, and is answered there: R to write, Ctrl Enter to send.
  await page.goto('/')
  const queue = page.getByRole('navigation', { name: 'Queue' })
  await queue.getByRole('button').filter({ hasText: name }).first().click()
  await expect(page.getByText('Answer by text')).toBeVisible()
  await expect(page.getByRole('list', { name: 'Texts' })).toContainText('After 3, yes')
  await page.keyboard.press('r')
  await expect(page.getByLabel('Text message')).toBeFocused()
  await page.keyboard.type('Then at 3')
  await page.keyboard.press('Control+Enter')
  await expect(page.getByText(`Text to ${name} is on its way.`)).toBeVisible()
  await expect(queue.getByText(name)).toHaveCount(0)

  // STOP is obeyed at once.
  await phone.goto(`${settings.TEXT_URL}/?for=${encodeURIComponent(number)}`)
  await phone.getByLabel('Answer').fill('STOP')
  await phone.getByRole('button', { name: 'Send the answer' }).click()
  await expect(async () => {
    await phone.reload()
    await expect(phone.getByText('you will get no more texts from us')).toBeVisible({ timeout: 1_000 })
  }).toPass({ timeout: 30_000 })
  await page.goto(`/prospects/${id}`)
  await expect(page.getByText('said STOP to texts')).toBeVisible()
  await page.keyboard.press('t')
  await expect(page.getByText('They asked for no more texts to this number')).toBeVisible()
  await expect(page.getByRole('button', { name: /Send text/ })).toHaveCount(0)
})
