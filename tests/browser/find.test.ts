import { expect } from '@playwright/test'
import { dialogHasCursor, signIn } from './signIn'
import { test } from './fixtures'

const stamp = Date.now().toString(36)

test('a prospect is added in one line from anywhere, found by their company, and rated by what they do', async ({
  page,
}) => {
  await signIn(page, /Maren Holloway/)
  // From the settings, by keyboard alone: what is typed to find someone adds them as it stands.
  await page.goto('/settings/score')
  await expect(page.getByRole('heading', { name: 'Score', exact: true })).toBeVisible()
  await page.keyboard.press('Control+k')
  await page.keyboard.type(`Ottoline Quay${stamp}, Cellar master at Quayside ${stamp}, (607) 555-0133`)
  await expect(page.getByRole('option', { name: `Add Ottoline Quay${stamp}` })).toBeVisible()
  await page.keyboard.press('Enter')
  const dialog = page.getByRole('dialog')
  await expect(dialog.getByLabel('Name')).toHaveValue(`Ottoline Quay${stamp}`)
  await expect(dialog.getByLabel('Company')).toHaveValue(`Quayside ${stamp}`)
  await expect(dialog.getByLabel('Job title')).toHaveValue('Cellar master')
  // Struck twice, it is done once.
  const added: string[] = []
  page.on('request', (sent) => {
    if (sent.method() === 'POST' && sent.url().endsWith('/api/prospects')) added.push(sent.url())
  })
  await page.keyboard.press('Enter')
  await page.keyboard.press('Enter')
  await expect(page.getByRole('heading', { name: `Ottoline Quay${stamp}` })).toBeVisible()
  // A slip of the keyboard makes nobody: a name alone is asked about first.
  await page.getByRole('button', { name: 'Add person' }).click()
  await dialog.getByLabel('Name').fill(`asdf${stamp}`)
  await page.keyboard.press('Enter')
  await expect(dialog.getByRole('alert').last()).toContainText(`No phone, email or company for “asdf${stamp}”`)
  await expect(dialog.getByRole('button', { name: 'Add the name alone' })).toBeVisible()
  await dialog.getByRole('button', { name: 'Cancel' }).click()
  await expect(page.getByRole('link', { name: '(607) 555-0133' })).toBeVisible()
  expect(added).toHaveLength(1)

  // The company, by a piece of its name.
  await page.keyboard.press('Control+k')
  await page.keyboard.type(`quayside ${stamp}`)
  await expect(page.getByRole('option', { name: /company, 1 person/ })).toBeVisible()
  // It stands before who is there.
  await page.keyboard.press('Enter')
  await expect(page.getByRole('heading', { name: `Quayside ${stamp}` })).toBeVisible()

  // Typed fast and entered at once, while the answer takes its time: it is for what was typed, not for what was shown
  // before.
  await page.route('**/api/find?*', async (route) => {
    await new Promise((resolve) => setTimeout(resolve, 400))
    await route.continue()
  })
  await page.goto('/settings/score')
  await expect(page.getByRole('heading', { name: 'Score', exact: true })).toBeVisible()
  await page.keyboard.press('Control+k')
  await page.keyboard.type('marlpit')
  await expect(page.getByRole('option', { name: /Marlpit/ }).first()).toBeVisible()
  await page.keyboard.press('Control+a')
  await page.keyboard.type(`quayside ${stamp}`)
  await page.keyboard.press('Enter')
  await expect(page.getByRole('heading', { level: 1, name: `Quayside ${stamp}` })).toBeVisible()
  await page.unrouteAll({ behavior: 'wait' })

  // The rating follows the score, until someone says otherwise, and again when they say so.
  await page
    .getByRole('link', { name: `Ottoline Quay${stamp}` })
    .first()
    .click()
  const rating = page.getByRole('button', { name: 'Rating' })
  await expect(rating).toHaveText('none yet (by score)')
  await rating.click()
  await page.getByRole('combobox', { name: 'Rating' }).selectOption('hot')
  await expect(rating).toHaveText('hot')
  await expect(page.locator('.head').getByText('hot', { exact: true })).toBeVisible()
  await rating.click()
  await page.getByRole('combobox', { name: 'Rating' }).selectOption({ label: 'by score' })
  await expect(rating).toHaveText('none yet (by score)')
})

test('a search that is opened again right after a page is loaded begins empty', async ({ page }) => {
  await signIn(page, /Imani Osei/)
  await page.reload()
  await expect(page.getByRole('button', { name: /Find or do anything/ })).toBeVisible()
  const search = page.getByRole('combobox', { name: 'Find or do anything' })
  await page.keyboard.press('Control+k')
  await page.keyboard.type('warm nurture')
  await expect(search).toHaveValue('warm nurture')
  await dialogHasCursor(page)
  await page.keyboard.press('Escape')
  await expect(search).toBeHidden()
  await page.keyboard.press('Control+k')
  await page.keyboard.type('first contact')
  await expect(search).toHaveValue('first contact')
})

test('lists and cadences are reached by name, and nothing by nonsense', async ({ page }) => {
  await signIn(page, /Imani Osei/)
  const find = async (text: string) => {
    await page.keyboard.press('Control+k')
    await page.getByRole('combobox', { name: 'Find or do anything' }).fill(text)
  }
  await expect(page.getByRole('button', { name: /Find or do anything/ })).toBeVisible()
  await find('warm nurture')
  await page.getByRole('option', { name: /Warm nurture/ }).click()
  await expect(page.getByRole('heading', { name: 'Warm nurture' })).toBeVisible()
  await find('first contact')
  await page.getByRole('option', { name: /Aging rooms, first contact/ }).click()
  await expect(page).toHaveURL(/\/cadences\//)
  await find(`nobody-${stamp}-%_`)
  await expect(page.getByText('Nothing found.')).toBeVisible()
})

test('a link from a text of an unknown number leads to adding who it is, with the number filled in', async ({
  page,
}) => {
  await signIn(page, /Maren Holloway/)
  await page.goto('/prospects?add=%2B12125550166')
  const dialog = page.getByRole('dialog')
  await expect(dialog.getByLabel('Phone')).toHaveValue(/555.?0166/)
  await dialogHasCursor(page)
  await page.keyboard.press('Escape')
  await expect(dialog).toHaveCount(0)
})

test('points that cannot be are said at their field, and a rep only reads what behavior is worth', async ({ page }) => {
  await signIn(page, /Maren Holloway/)
  await page.goto('/settings/score')
  const score = page.locator('section', { has: page.getByRole('heading', { name: 'Score', exact: true }) })
  await expect(score.getByLabel('Warm threshold')).toHaveValue('8')
  await score.getByLabel('Hot threshold').fill('5')
  await score.getByRole('button', { name: 'Save' }).click()
  await expect(score.getByText('The hot threshold must be above the warm one')).toBeVisible()
  await score.getByLabel('Hot threshold').fill('20')
  await score.getByRole('button', { name: 'Save' }).click()
  await expect(page.getByText('Saved. All prospects are being rescored')).toBeVisible()
  await page.getByRole('button', { name: 'Maren Holloway' }).click()
  await page.getByText('Sign out', { exact: true }).click()
  await signIn(page, /Imani Osei/)
  await page.goto('/settings/score')
  await expect(score.getByLabel('Warm threshold')).toHaveAttribute('readonly')
  await expect(score.getByRole('button', { name: 'Save' })).toBeHidden()
})
