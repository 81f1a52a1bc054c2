import { expect, type Page } from '@playwright/test'
import { test } from './fixtures'
import { moveClock, pick, signIn } from './signIn'

const stamp = Date.now().toString(36)
const name = `Left a message ${stamp}`
const stage = `Message left ${stamp}`

/** A prospect in New York with an address of their own, added by the user who is signed in. */
async function addProspect(page: Page, at = stamp, phone = '+1 212 555 0143'): Promise<{ id: string; email: string }> {
  const email = `quill@${at}.example`
  const given = { email, phone }
  const id = await page.evaluate(async ({ email: address, phone: number }) => {
    const body = {
      name: 'Quill Harbottle',
      email: address,
      phone: number,
      country: 'US',
      region: 'NY',
    }
    const answer = await fetch('/api/prospects', {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify(body),
    })
    return ((await answer.json()) as { id: string }).id
  }, given)
  return { id, email }
}

test('a manager builds a gate and an outcome with a delayed cadence; a rep logs it, and the email comes', async ({
  page,
  browser,
  world: { settings },
}) => {
  await signIn(page, /Maren Holloway/)
  const dialog = page.getByRole('dialog')
  await page.goto('/settings/stages')
  await page.getByRole('button', { name: 'Add a stage after New' }).click()
  await dialog.getByLabel('Name').fill(stage)
  await pick(page, 'needs these details', 'job title')
  await page.keyboard.press('Escape')
  await dialog.getByRole('button', { name: 'Save' }).click()
  await expect(dialog).toHaveCount(0)
  await page.goto('/settings/outcomes')
  await page.getByRole('button', { name: 'Add an outcome' }).click()
  await dialog.getByLabel('Outcome name').fill(name)
  await pick(page, 'Action', 'Start a cadence')
  // Without a cadence it is not saved, and the dialog stays as it is.
  await dialog.getByRole('button', { name: 'Save' }).click()
  await expect(dialog.getByRole('alert').first()).toContainText('Choose a cadence')
  await pick(page, 'Cadence', 'After a voicemail', 1)
  await pick(page, 'Starts', 'later')
  await dialog.getByRole('button', { name: 'Add action' }).click()
  await pick(page, 'Action', 'Change stage', 1)
  await pick(page, 'To', stage)
  await expect(dialog.getByRole('status')).toContainText(`${name}: Starts “After a voicemail” in 2 hours.`)
  await dialog.getByRole('button', { name: 'Save' }).click()
  const row = page.getByRole('row').filter({ hasText: name })
  const key = (await row.locator('kbd').textContent())!
  expect(key).toMatch(/^⇧\d$/)

  const rep = await (await browser.newContext({ viewport: { width: 1280, height: 800 } })).newPage()
  await signIn(rep, /Imani Osei/)
  const { id, email } = await addProspect(rep)
  await rep.goto(`/prospects/${id}`)
  const log = async (title?: string) => {
    await expect(rep.getByRole('toolbar', { name: 'Actions' })).toBeVisible()
    await rep.keyboard.press('l')
    const offered = rep
      .getByRole('dialog')
      .getByRole('button', { name: new RegExp(name) })
      .first()
    await expect(offered).toContainText('Starts “After a voicemail”')
    await rep.keyboard.press(`Shift+Digit${key.slice(1)}`)
    if (title) {
      // The gate asks in place for just what is missing, once.
      await expect(rep.getByRole('dialog').getByLabel('Job title')).toBeFocused()
      await rep.keyboard.type(title)
      await rep.keyboard.press('Enter')
    }
    await expect(rep.getByText(new RegExp(`: ${name}\\. .*Starts “After a voicemail”`)).first()).toBeVisible()
  }
  const next = rep.locator('aside section').filter({ has: rep.getByRole('heading', { name: 'Next' }) })
  await log('Cellar master')
  await expect(next).toContainText('Starts “After a voicemail”')
  await expect(rep.getByText(stage).first()).toBeVisible()
  await expect(next).toContainText(`because of “${name}”`)

  // Undone before it was done: nothing is scheduled any more.
  await rep.keyboard.press('z')
  await expect(rep.getByText(/^Undone:/).first()).toBeVisible()
  await expect(next).not.toContainText('After a voicemail')

  // Canceled by hand, then logged once more; the clock moves two hours, and the email is there.
  await log()
  await next.getByRole('button', { name: /^Cancel: Starts/ }).click()
  await expect(rep.getByText(/^Canceled: Starts/).first()).toBeVisible()
  await expect(next).not.toContainText('After a voicemail')
  await log()
  const clock = rep.getByRole('button', { name: /Demo clock/ })
  for (let hour = 0; hour < 2; hour++) {
    const before = (await clock.getAttribute('aria-label'))!
    await moveClock(rep, 'An hour later')
    await expect(clock).not.toHaveAttribute('aria-label', before)
  }
  await expect(rep.getByText('My voicemail').first()).toBeVisible({ timeout: 30_000 })
  const mailbox = await rep.context().newPage()
  await mailbox.goto(`${settings.MAILBOX_URL}/?for=${email}`)
  await expect(mailbox.getByRole('link', { name: /My voicemail/ })).toBeVisible()
  await mailbox.close()

  // Undone after it went: the email stays sent, and that is said.
  await rep.goto(`/prospects/${id}`)
  await rep.getByRole('button', { name: new RegExp(`Undo “.*${name}`) }).click()
  await expect(rep.getByText(/The email that has gone out stays sent/).first()).toBeVisible()
  await rep.context().close()
})

test('a rep sees what they are to know of, opens it by keyboard, and what is read stays read', async ({ page }) => {
  await signIn(page, /Imani Osei/)
  await page.goto('/')
  const bell = page.getByRole('button', { name: /^Notifications/ })
  const label = (await bell.getAttribute('aria-label'))!
  const unread = Number(/(\d+) unread/.exec(label)?.[1])
  expect(unread).toBeGreaterThan(0)
  await bell.focus()
  await page.keyboard.press('Enter')
  const newest = page.getByRole('listitem').filter({ hasText: /Unread: .* replied/ })
  await expect(newest.first()).toBeVisible()
  const name = /Unread: (.+) replied/.exec((await newest.first().textContent())!)![1]!
  await newest.first().getByRole('button').first().focus()
  await page.keyboard.press('Enter')
  await expect(page).toHaveURL(/\/prospects\//)
  await expect(page.getByRole('heading', { level: 1 })).toHaveText(name)
  await expect(bell).toHaveAttribute('aria-label', unread > 1 ? `Notifications, ${unread - 1} unread` : 'Notifications')

  await page.goto('/notifications')
  await expect(
    page
      .getByRole('listitem')
      .filter({ hasText: /^(?!Unread)/ })
      .first(),
  ).toBeVisible()
  await page.getByRole('button', { name: 'Mark all as read' }).click()
  await expect(bell).toHaveAttribute('aria-label', 'Notifications')
  await page.reload()
  await expect(page.getByText('Unread:')).toHaveCount(0)
  await page.getByRole('button', { name: 'Mark as unread' }).first().click()
  await expect(bell).toHaveAttribute('aria-label', 'Notifications, 1 unread')
})

test('a to-do is dealt with by an outcome of its own, with its key; after a call, by those for calls', async ({
  page,
  browser,
}) => {
  const own = `Moved on ${stamp}`
  await signIn(page, /Maren Holloway/)
  await page.goto('/settings/outcomes')
  await page.getByRole('button', { name: 'Add an outcome' }).click()
  const dialog = page.getByRole('dialog')
  await dialog.getByLabel('Outcome name').fill(own)
  await pick(page, 'Used for', 'to-dos')
  await page.getByRole('option', { name: 'calls', exact: true }).click()
  await page.keyboard.press('Escape')
  await expect(dialog.getByLabel('A message was left (voicemail)')).toHaveCount(0)
  await dialog.getByRole('button', { name: 'Save' }).click()
  const row = page.getByRole('row').filter({ hasText: own })
  await expect(row).toContainText('for to-dos')
  const key = (await row.locator('kbd').textContent())!

  const rep = await (await browser.newContext({ viewport: { width: 1280, height: 800 } })).newPage()
  await signIn(rep, /Imani Osei/)
  const { id } = await addProspect(rep, `later-${stamp}`, '+1 212 555 0144')
  const planned = await rep.evaluate(async (prospectId) => {
    const { clock } = (await (await fetch('/api/session')).json()) as { clock: { now: number } }
    const body = { id: crypto.randomUUID(), task: 'task', title: 'Look up their new plant', dueAt: clock.now - 60_000 }
    const answer = await fetch(`/api/prospects/${prospectId}/tasks`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify(body),
    })
    return answer.json() as Promise<object>
  }, id)
  expect(planned).toHaveProperty('summary')
  await rep.goto('/')
  const outcomes = rep.getByRole('complementary', { name: 'Outcomes' })
  await rep.getByRole('navigation', { name: 'Queue' }).getByText('Look up their new plant').click()
  await expect(outcomes.getByText('Or mark it done with an outcome:')).toBeVisible()
  await expect(outcomes.getByRole('button', { name: /No answer/ })).toHaveCount(0)
  await rep.keyboard.press('l')
  await expect(outcomes.getByRole('button', { name: /No answer/ })).toBeVisible()
  await expect(outcomes.getByRole('button', { name: new RegExp(own) })).toHaveCount(0)
  await rep.keyboard.press('l')
  await expect(outcomes.getByRole('button', { name: new RegExp(own) })).toBeVisible()
  // Keys wait for a moment after a change of person.
  await expect(outcomes).toHaveAttribute('aria-busy', 'false')
  await rep.keyboard.press(key.startsWith('⇧') ? `Shift+Digit${key.slice(1)}` : key)
  await expect(rep.getByText(new RegExp(`Quill Harbottle: ${own}`))).toBeVisible()
  await rep.goto(`/prospects/${id}`)
  await expect(rep.getByText(`Task done: ${own}`, { exact: true })).toBeVisible()
  await rep.context().close()
})
