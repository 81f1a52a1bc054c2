import { expect } from '@playwright/test'
import { test } from './fixtures'
import { signIn } from './signIn'

const ROWS = 5_000
const stamp = Date.now().toString(36).slice(-5)
const STATES = ['California', 'OR', 'Colorado', 'us-wi', 'New York', 'VT']

/**
 * A file as a trade show hands it over: American dates and money, titles and capitals in names, some cells that cannot
 * be read, some rows twice.
 */
function messyFile(): string {
  const rows = Array.from({ length: ROWS }, (_, nth) => {
    const person = nth % 50 === 49 ? nth - 1 : nth
    const name = person % 7 === 3 ? `DR. PAT${person} G${stamp.toUpperCase()}` : `Pat${person} G${stamp}`
    const company = `Grover Dairy ${Math.floor(person / 4)}`
    const usual = `pat${person}@grover${Math.floor(person / 4)}-${stamp}.example`
    const written = person % 97 === 0 ? `pat${person}(at)grover${Math.floor(person / 4)}.example` : usual
    const email = person % 4 === 2 ? '' : written
    const cells = [
      nth === 1_234 ? '' : name,
      company,
      email,
      person % 5 ? `(${212 + (person % 5)}) 555-01${String(person % 100).padStart(2, '0')}` : '',
      STATES[person % STATES.length],
      person % 2 ? 'USA' : '',
      `"$${(1_000 + person).toLocaleString('en-US')}"`,
      `${1 + (person % 12)}/${1 + (person % 28)}/2025`,
      person % 3 ? `Fair ${stamp}` : `"Fair ${stamp}, Audit in spring"`,
      'Asked for a price',
    ]
    return cells.join()
  })
  return `Full Name,Company Name,E-mail,Phone Number,State,Country,Yearly spend ${stamp},Contract ends,Tags,Notes\n${rows.join('\n')}\n`
}

test('a manager’s day: a messy file of 5,000 rows, a stage, a cadence, a list and a bulk change, each undone', async ({
  page,
}) => {
  /** Bulk work goes on by itself; the page is read until it is over. */
  const untilNobody = () =>
    expect
      .poll(
        async () => {
          await page.reload()
          const nobody = page.getByText('Nobody matches these filters.')
          await nobody.or(page.getByRole('row').nth(1)).first().waitFor()
          return nobody.isVisible()
        },
        { timeout: 60_000, intervals: [2_000] },
      )
      .toBe(true)
  await signIn(page, /Maren Holloway/)

  // The file: its columns are guessed; one becomes a new custom field.
  await page.getByRole('link', { name: 'Imports' }).click()
  await page
    .locator('input[type=file]')
    .setInputFiles({ name: `fair-${stamp}.csv`, mimeType: 'text/csv', buffer: Buffer.from(messyFile()) })
  await expect(page.getByRole('heading', { name: 'Map columns' })).toBeVisible()
  for (const [heading, field] of [
    ['Full Name', 'fullName'],
    ['Company Name', 'company'],
    ['E-mail', 'email'],
    ['Phone Number', 'phone'],
    ['State', 'region'],
    ['Country', 'country'],
    ['Tags', 'tags'],
    ['Notes', 'note'],
  ] as const) {
    await expect(page.getByLabel(`Where ${heading} goes`)).toHaveValue(field)
  }
  await page.getByLabel(`Where Yearly spend ${stamp} goes`).selectOption('New field …')
  const dialog = page.getByRole('dialog')
  await expect(dialog.getByLabel('Name')).toHaveValue(`Yearly spend ${stamp}`)
  await expect(dialog.locator('.v-select').first()).toContainText('Money')
  await dialog.getByRole('button', { name: 'Create' }).click()
  await expect(page.getByLabel(`Where Yearly spend ${stamp} goes`).locator('option:checked')).toHaveText(
    `Yearly spend ${stamp} (custom field)`,
  )
  await page.getByRole('group', { name: 'For the whole file' }).getByLabel('Source').fill(`Dairy fair ${stamp}`)
  await page.locator('.whole .v-select .v-field').click()
  for (const owner of ['Imani Osei', 'Theo Blackwood']) await page.getByRole('option', { name: owner }).click()
  await page.keyboard.press('Escape')
  await page.getByRole('button', { name: 'Validate' }).click()
  await expect(page.getByRole('heading', { name: 'Review' })).toBeVisible({ timeout: 60_000 })
  await expect(page.locator('.sums')).toContainText(/4,899new\s*0existing.*100merged.*1invalid/s)
  await expect(
    page.getByText(/rows? (is|are) imported without a cell that could not be read: \d+ × bad email/),
  ).toBeVisible()
  await expect(page.getByText(/names are cleaned up/)).toContainText('→ Pat')
  await expect(page.getByText(/Also adds/)).toContainText(`1 new tag: Fair ${stamp}; 1 new source: Dairy fair ${stamp}`)
  await page.getByRole('button', { name: 'Import 4,899' }).click()
  await expect(page.getByText('4,899 added')).toBeVisible({ timeout: 60_000 })
  await expect(page.getByText('1,250 new companies')).toBeVisible()
  const importPage = page.url()

  // A stage of the team's own.
  await page.goto('/settings/stages')
  await page.getByRole('button', { name: 'Add a stage', exact: true }).click()
  const stages = page.getByRole('region', { name: 'Stages and gates' })
  const stageForm = page.getByRole('dialog')
  await stageForm.getByLabel('Name').fill(`Trial ${stamp}`)
  await stageForm.getByRole('button', { name: 'Save' }).click()
  await expect(stages.getByText(`Trial ${stamp}`)).toBeVisible()

  // A stage of deals.
  await page.getByRole('link', { name: 'Deal stages' }).click()
  const dealStages = page.getByRole('region', { name: 'Deal stages' })
  await dealStages.getByRole('button', { name: 'Add a deal stage' }).click()
  await dealStages.getByLabel('Name of stage 5').fill(`Trial box ${stamp}`)
  await dealStages.getByRole('button', { name: `Move Trial box ${stamp} up` }).click()
  await dealStages.getByRole('button', { name: 'Save deal stages' }).click()
  await expect(page.getByText('Deal stages saved.')).toBeVisible()
  await expect(dealStages.getByLabel('Name of stage 4')).toHaveValue(`Trial box ${stamp}`)

  // A cadence for anyone who came by.
  await page.getByRole('link', { name: 'Cadences' }).click()
  await page.getByRole('button', { name: 'New cadence' }).click()
  await page.getByLabel('Name of the cadence').fill(`After the fair ${stamp}`)
  await page.getByRole('button', { name: '+ Call' }).click()
  await page.getByLabel('Script').fill('Hello {{ first_name }}, it is {{ sender_first_name }}.')
  await page.getByRole('button', { name: 'Save and start' }).click()
  await expect(page.getByText('Saved. People can be enrolled.')).toBeVisible()

  // A list of some of them.
  await page.goto(`/prospects?filter=${encodeURIComponent(`source is "Dairy fair ${stamp}" and region is "CA"`)}`)
  await expect(page.getByRole('heading', { level: 1 }).locator('..').getByRole('status')).toContainText(/^8\d\d/)
  await page.getByRole('button', { name: 'Save as list' }).click()
  await page.getByLabel('Name', { exact: true }).fill(`Fair, California ${stamp}`)
  await page.getByRole('button', { name: 'Save list' }).click()
  await expect(page.getByRole('heading', { name: `Fair, California ${stamp}` })).toBeVisible()

  // All on it move to the new stage, and back again.
  await page.getByLabel('Select all shown').check()
  await page.getByRole('button', { name: /^Select all .* matching$/ }).click()
  await page.getByRole('button', { name: 'Change …' }).click()
  await dialog.locator('.v-select').first().click()
  await page.getByRole('option', { name: 'Change stage' }).click()
  await dialog.locator('.v-select').nth(1).click()
  await page.getByRole('option', { name: `Trial ${stamp}` }).click()
  await expect(dialog.getByRole('status')).toContainText(/8\d\d people will change/)
  await dialog.getByRole('button', { name: /^Change 8\d\d people$/ }).click()
  await expect(dialog.getByRole('status')).toContainText(/8\d\d people changed/, { timeout: 60_000 })
  await dialog.getByRole('link', { name: 'All bulk actions' }).click()
  const action = page.getByRole('row', { name: new RegExp(`Trial ${stamp}`) })
  await action.getByRole('button', { name: /^Undo/ }).click()
  await dialog.getByRole('button', { name: 'Undo' }).click()
  await expect(action.getByText('undone')).toBeVisible()
  await page.goto(`/prospects?filter=${encodeURIComponent(`stage is "Trial ${stamp}"`)}`)
  await untilNobody()

  // The stage is empty again, and archived; the import is undone.
  await page.goto('/settings/stages')
  await stages.getByRole('button', { name: new RegExp(`^Trial ${stamp},`) }).click()
  await page.getByRole('button', { name: 'Archive stage' }).click()
  await dialog.getByRole('button', { name: /Archive/ }).click()
  await expect(page.getByText(`“Trial ${stamp}” is archived.`)).toBeVisible()
  await page.goto(importPage)
  await page.getByRole('button', { name: 'Undo this import' }).click()
  await expect(dialog.getByRole('status')).toContainText('4,899 people it added will be archived')
  await dialog.getByRole('button', { name: 'Archive 4,899 people' }).click()
  await expect(page.getByText(/The import is being undone/)).toBeVisible()
  await page.goto(`/prospects?list=&filter=${encodeURIComponent(`source is "Dairy fair ${stamp}"`)}`)
  await untilNobody()
})
