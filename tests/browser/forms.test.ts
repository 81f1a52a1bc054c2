import { expect } from '@playwright/test'
import { test } from './fixtures'
import { dialogHasCursor, pick, signIn } from './signIn'

const stamp = Date.now().toString(36)
const name = `Ask for a visit ${stamp}`

test('a manager makes a form; a stranger sends it, and it is on the Desk of the rep who was assigned', async ({
  page,
  browser,
}) => {
  await signIn(page, /Maren Holloway/)
  await page.goto('/settings/forms')
  await page.getByRole('button', { name: 'Add a form' }).click()
  const dialog = page.getByRole('dialog', { name: 'Form' })
  await dialog.getByLabel('Form name').fill(name)
  await dialog.getByLabel('Heading').fill('We come by and look')
  // What is wrong is said at its place, and nothing typed is lost.
  await dialog.getByLabel('Label of Message').fill(' ')
  await dialog.getByRole('button', { name: 'Add form' }).click()
  await expect(dialog.getByText('Enter a label')).toBeVisible()
  await dialog.getByLabel('Label of Message').fill('Where are your rooms?')
  await dialog.getByRole('button', { name: 'Move Phone up' }).click()
  await dialog.getByRole('button', { name: 'Remove Company' }).click()
  await dialog.getByRole('button', { name: 'Add action' }).click()
  const action = dialog.getByRole('listitem').filter({ hasText: 'Tag' }).last()
  await action.locator('.v-select').first().click()
  await page.getByRole('option', { name: 'Assign', exact: true }).click()
  await pick(page, 'To', 'Imani Osei', -1)
  // Assigned before the to-do is made, so that it is hers.
  await dialog.getByRole('button', { name: 'Move this action up' }).last().click()
  await expect(dialog.getByText(/^Assigns to Imani Osei\. To-do “Answer: they sent the form” at once\.$/)).toBeVisible()
  await dialog.getByRole('button', { name: 'Add form' }).click()
  const row = page.getByRole('row').filter({ hasText: name })
  await expect(row).toContainText('never')
  const url = (await row.getByRole('link').getAttribute('href'))!

  const outside = await (await browser.newContext({ javaScriptEnabled: false })).newPage()
  await outside.goto(new URL(new URL(url).pathname, page.url()).href)
  await expect(outside.getByRole('heading', { name: 'We come by and look' })).toBeVisible()
  await outside.getByLabel('Name').fill('Rufus Pemberley')
  await outside.getByLabel('Email').fill('rufus@pemberley')
  await outside.getByLabel('Where are your rooms?').fill('In an old mill near Utica')
  await outside.getByRole('button', { name: 'Send' }).click()
  await expect(outside.getByText('Enter a valid email address')).toBeVisible()
  await expect(outside.getByLabel('Where are your rooms?')).toHaveValue('In an old mill near Utica')
  await outside.getByLabel('Email').fill(`rufus@${stamp}.example`)
  await outside.getByRole('button', { name: 'Send' }).click()
  await expect(outside.getByText('Thank you.')).toBeVisible()
  await outside.context().close()

  const rep = await (await browser.newContext({ viewport: { width: 1280, height: 800 } })).newPage()
  await signIn(rep, /Imani Osei/)
  await rep.goto('/notifications')
  await rep.getByText(`Rufus Pemberley sent the form “${name}”`).click()
  await expect(rep.getByText(`Form sent: ${name}`)).toBeVisible()
  await expect(rep.getByText('Where are your rooms?: In an old mill near Utica')).toBeVisible()
  await rep.goto('/')
  await rep.getByRole('navigation', { name: 'Queue' }).getByText('Answer: they sent the form').first().click()
  const inHand = rep.getByRole('article', { name: 'Rufus Pemberley' })
  await expect(inHand.getByRole('heading', { name: `Rufus sent “${name}”` })).toBeVisible()
  await expect(inHand.getByText('In an old mill near Utica')).toBeVisible()
  await rep.context().close()

  await page.reload()
  await row.getByRole('button', { name: 'Submissions' }).click()
  await expect(page.getByRole('dialog').getByText('In an old mill near Utica')).toBeVisible()
  await dialogHasCursor(page)
  await page.keyboard.press('Escape')
  await row.getByRole('button', { name: 'Edit' }).click()
  await expect(dialog.getByText('Form added')).toBeVisible()
  await dialog.getByRole('button', { name: 'Archive this form' }).click()
  await dialog.getByRole('button', { name: /its link closes/ }).click()
  await expect(row).toHaveCount(0)
})
