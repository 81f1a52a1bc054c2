import AxeBuilder from '@axe-core/playwright'
import { expect } from '@playwright/test'
import { Secret, TOTP } from 'otpauth'
import { signIn } from './signIn'
import { test } from './fixtures'

test('every answer says what a browser may do with it, and nothing of ours breaks its own rules', async ({
  page,
  request,
}) => {
  const blocked: string[] = []
  page.on('console', (message) => {
    if (/Content Security Policy|Refused to/.test(message.text())) blocked.push(message.text())
  })
  await signIn(page, /Maren Holloway/)
  for (const path of ['/', '/prospects', '/cadences', '/imports', '/settings', '/account', '/problems']) {
    await page.goto(path)
    await expect(page.locator('h1, .queue').first()).toBeVisible()
  }
  expect(blocked).toEqual([])
  const document = await request.get('/')
  const headers = document.headers()
  // OWASP ASVS 5.0, 3.4.
  expect(headers['content-security-policy']).toMatch(
    /default-src 'self'; script-src 'self' 'nonce-[^']+'; .*frame-ancestors 'none'/,
  )
  expect(headers).toMatchObject({
    'x-content-type-options': 'nosniff',
    'x-frame-options': 'DENY',
    'referrer-policy': 'same-origin',
  })
  expect(headers['x-powered-by']).toBeUndefined()
  const script = /src="(\/_nuxt\/[^"]+\.js)"/.exec(await document.text())![1]!
  const asset = await request.get(script, { headers: { 'accept-encoding': 'br' } })
  expect(asset.headers()).toMatchObject({ 'content-encoding': 'br', 'x-content-type-options': 'nosniff' })
  // RFC 9110, 15.5.6.
  const wrong = await request.fetch('/api/desk/queue', { method: 'PUT' })
  expect([
    wrong.status(),
    wrong.headers().allow,
    ((await wrong.json()) as { error: { code: string } }).error.code,
  ]).toEqual([405, 'GET', 'wrong_method'])
})

test('a page that is loaded while Uphill cannot be reached says so, and comes back by itself', async ({ page }) => {
  await signIn(page, /Imani Osei/)
  let away = true
  await page.route('**/api/session', (route) =>
    away
      ? route.fulfill({
          status: 503,
          json: { error: { code: 'unavailable', message: 'The database cannot be reached', problems: [] } },
        })
      : route.continue(),
  )
  await page.goto('/prospects')
  await expect(page.getByRole('heading', { name: 'Can’t reach Uphill' })).toBeVisible()
  away = false
  await expect(page).toHaveURL(/\/prospects$/)
  await expect(page.getByRole('heading', { level: 1 })).toBeVisible()
})

test('a user changes their password, sets up a second factor and is asked for it', async ({ page, browser }) => {
  await signIn(page, /Maren Holloway/)
  // A colleague of the test's own, with a temporary password.
  const email = `lock.${Date.now()}@thornwick.example`
  await page.goto('/settings/users')
  await page.getByLabel('Name', { exact: true }).fill('Lockhart Quill')
  await page.getByLabel('Email', { exact: true }).fill(email)
  await page.getByLabel('Temporary password').fill('first stone wall')
  await page.getByRole('button', { name: 'Add', exact: true }).last().click()
  await expect(page.getByRole('cell', { name: email })).toBeVisible()

  const theirs = await (await browser.newContext()).newPage()
  await theirs.goto('/sign-in')
  const enter = async (password: string) => {
    await theirs.getByLabel('Email').fill(email)
    await theirs.getByLabel('Password').fill(password)
    await theirs.keyboard.press('Enter')
  }
  await enter('first stone wall')
  await expect(theirs.getByText('You have a temporary password.')).toBeVisible()
  await expect(theirs.getByRole('navigation', { name: 'Screens' })).toBeVisible()
  await theirs.getByLabel('Temporary password').fill('first stone wall')
  await theirs.getByLabel('New password', { exact: true }).fill('password123')
  await theirs.getByLabel('Confirm new password').fill('password123')
  await theirs.keyboard.press('Enter')
  await expect(theirs.getByText('This password is too common. Choose another')).toBeVisible()
  await theirs.getByLabel('New password', { exact: true }).fill('second stone wall')
  await theirs.getByLabel('Confirm new password').fill('second stone wall')
  await theirs.keyboard.press('Enter')
  await expect(theirs.getByText('this one')).toBeVisible()
  expect((await new AxeBuilder({ page: theirs }).analyze()).violations.map((violation) => violation.id)).toEqual([])

  await theirs.getByRole('button', { name: 'Set up' }).click()
  await theirs.getByLabel('Your password').fill('second stone wall')
  await theirs.keyboard.press('Enter')
  const key = (await theirs.locator('code.key').textContent())!.replaceAll(' ', '')
  const app = new TOTP({ secret: Secret.fromBase32(key) })
  await theirs.getByLabel('Code from the app').fill(app.generate())
  await theirs.keyboard.press('Enter')
  await expect(theirs.getByText('The second factor is on.')).toBeVisible()
  await theirs.getByRole('button', { name: 'Lockhart Quill' }).click()
  await theirs.getByText('Sign out', { exact: true }).last().click()
  await theirs.waitForURL(/sign-in/)
  await enter('second stone wall')
  await theirs.getByLabel('Code from your authenticator app').fill('000000')
  await theirs.keyboard.press('Enter')
  await expect(theirs.getByText('This code is wrong or has been used')).toBeVisible()
  await theirs.getByLabel('Code from your authenticator app').fill(app.generate({ timestamp: Date.now() + 30_000 }))
  await theirs.keyboard.press('Enter')
  await expect(theirs).toHaveURL(/\/$/)

  // And leaves again: nothing to hand over, nobody is asked.
  await page.reload()
  await page
    .getByRole('row', { name: new RegExp(email) })
    .getByRole('button', { name: 'Deactivate' })
    .click()
  await expect(page.getByText('Lockhart Quill has no people and no open work.')).toBeVisible()
  await page.getByRole('dialog').getByRole('button', { name: 'Deactivate' }).click()
  await expect(page.getByRole('row', { name: new RegExp(email) })).toContainText('deactivated')
})

test('a new password is set with a link, once', async ({ page, browser }) => {
  await signIn(page, /Maren Holloway/)
  await page.goto('/settings/users')
  await page
    .getByRole('row', { name: /Joaquin Pell/ })
    .getByRole('button', { name: 'Reset password' })
    .click()
  const url = (await page.getByRole('dialog').locator('.url').textContent())!
  const theirs = await (await browser.newContext()).newPage()
  const path = new URL(url).pathname + new URL(url).hash
  await theirs.goto(path)
  await theirs.getByLabel('New password', { exact: true }).fill('climb-the-hill')
  await theirs.getByLabel('Confirm new password').fill('climb-the-hill')
  await theirs.keyboard.press('Enter')
  await expect(theirs.getByText('Your password is set.')).toBeVisible()
  await theirs.goto('/sign-in')
  await theirs.goto(path)
  await theirs.getByLabel('New password', { exact: true }).fill('climb-the-hill')
  await theirs.getByLabel('Confirm new password').fill('climb-the-hill')
  await theirs.keyboard.press('Enter')
  await expect(theirs.getByText('This link has been used or has expired. Ask for a new one')).toBeVisible()
})
