import { spawnSync } from 'node:child_process'
import { expect } from '@playwright/test'
import { test } from './fixtures'

// What a real team finds on its first day.
test.use({ seedData: false })

test('an administrator is led from nothing to a first call, and so is the rep who was invited', async ({
  page,
  browser,
  world: { url, settings },
}) => {
  const made = spawnSync(
    process.execPath,
    ['.output/programs/admin.mjs', 'ann@hill.example', 'Ann Harbor', 'America/Chicago'],
    { env: { ...process.env, ...settings, UPHILL_PASSWORD: 'climb the hill today' }, encoding: 'utf8' },
  )
  expect(made.status, made.stderr).toBe(0)
  const enter = async (on: typeof page, email: string, password: string) => {
    await on.getByLabel('Email').fill(email)
    await on.getByLabel('Password').fill(password)
    await on.keyboard.press('Enter')
  }
  await page.goto(`${url}/sign-in`)
  await enter(page, 'ann@hill.example', 'climb the hill today')
  const guide = page.getByRole('region', { name: 'Set up Uphill' })
  await expect(guide.getByRole('status').first()).toHaveText('0 of 6 done')

  // Email goes out and comes back.
  await guide.getByRole('button', { name: 'Send test email' }).click()
  await expect(guide.getByRole('status').first()).toHaveText('1 of 6 done', { timeout: 30_000 })

  // The company.
  await guide.getByRole('link', { name: 'Open settings' }).click()
  await page.getByLabel('Name, as recipients read it').fill('Harbor Loggers')
  await page.getByLabel('Postal address, at the foot of cold email').fill('1 Quay Street, Duluth, MN')
  await page.keyboard.press('Enter')
  await expect(page.getByText('Saved.')).toBeVisible()

  // A rep is invited by email.
  await page.getByRole('link', { name: 'Users' }).click()
  await page.getByLabel('Name', { exact: true }).fill('Rory Pike')
  await page.getByLabel('Email', { exact: true }).fill('rory@hill.example')
  await page.getByRole('button', { name: 'Invite', exact: true }).click()
  await expect(page.getByText('Invited. The email is on its way')).toBeVisible()

  // Lists and a cadence to start from; it does not start before its words are one's own.
  await page.goto(url)
  await guide.getByRole('button', { name: 'Choose lists and cadences' }).click()
  await page.getByRole('checkbox', { name: /Inbound request/ }).check()
  await page.getByRole('dialog').getByRole('button', { name: 'Add', exact: true }).click()
  await expect(page.getByText('9 lists and 1 cadence added.')).toBeVisible()
  await guide.getByRole('link', { name: 'Open cadences' }).click()
  await page.getByRole('link', { name: /Inbound request/ }).click()
  await page.getByRole('button', { name: 'Save and start' }).click()
  await expect(page.getByText(/replace “\[\[what they asked for\]\]” with your own words first/).first()).toBeVisible()

  // A person by hand, and the guide knows.
  await page.goto(url)
  await page.getByRole('button', { name: 'Add person' }).click()
  await page.getByLabel('In one line').fill('Petra Lindqvist, Buyer at Oxbow Cider, (218) 555-0143')
  await page.getByRole('dialog').getByRole('button', { name: 'Add', exact: true }).click()
  await expect(page.getByText('Petra Lindqvist was added.')).toBeVisible()

  // The rep sets a password with the link, and sees what to do first.
  const letters = async () =>
    (await (await fetch(`${settings.MAILBOX_URL}/letters?for=rory@hill.example`)).json()) as { text: string }[]
  await expect.poll(async () => (await letters()).length, { timeout: 30_000 }).toBe(1)
  const link = /(https?:\/\/\S+reset-password#\S+)/.exec((await letters())[0]!.text)![1]!
  const theirs = await (await browser.newContext({ viewport: { width: 1280, height: 800 } })).newPage()
  await theirs.goto(link)
  await theirs.getByLabel('New password', { exact: true }).fill('stone quay moss')
  await theirs.getByLabel('Confirm new password').fill('stone quay moss')
  await theirs.keyboard.press('Enter')
  await theirs.getByRole('link', { name: 'Sign in as rory@hill.example' }).click()
  await enter(theirs, 'rory@hill.example', 'stone quay moss')
  const day = theirs.getByRole('region', { name: 'Your first day' })
  await expect(day.getByRole('status')).toHaveText('2 of 4 done')
  await day.getByRole('link', { name: 'Write it' }).click()
  await theirs.getByLabel('Signature').fill('Rory Pike\nHarbor Loggers')
  await theirs.getByRole('button', { name: 'Save', exact: true }).click()
  await expect(theirs.getByText('Saved.')).toBeVisible()
  await theirs.goto(url)
  await expect(day.getByRole('status')).toHaveText('3 of 4 done')
})
