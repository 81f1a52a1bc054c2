import { expect, type Page } from '@playwright/test'
import { moveClock, signIn } from './signIn'
import { test } from './fixtures'

/** The whole climb on a file made here: from a prospect file to a booked meeting, and back again. */
const stamp = Date.now().toString(36)
/**
 * 555-0100 to 555-0199 are reserved for fiction under every area code; one is chosen again so that a run can be
 * repeated on the same world.
 */
const area = ['315', '518', '585', '716', '845', '914', '301', '410', '443', '240', '207', '603'][
  Math.floor(Date.now() / 1000) % 12
]!
const domain = `hillside-${stamp}.example`
const named = (name: string) => `${name}-${stamp}`
const [alma, bodo, cleo] = [named('Alma Reyes'), named('Bodo Winter'), named('Cleo Marsh')]
const people = [alma, bodo, cleo, named('Dario Finch'), named('Edda Stone')]
const csv = [
  'Name;Job title;Company;E-mail;Telephone;Country;State',
  ...people.map(
    (name, index) =>
      `${name};Cellar master;Hillside Cellars ${stamp};${name.split(' ')[0]!.toLowerCase()}@${domain};(${area}) 555-01${80 + index};US;NY`,
  ),
  `${alma};;Hillside Cellars ${stamp};alma.two@${domain};;US;NY`,
  `Wrong One;;X;not-an-address;;US;NY`,
  `;;Nobody;nobody@${domain};;US;NY`,
].join('\r\n')

async function chooseCadence(page: Page): Promise<void> {
  await page.locator('.v-overlay--active .v-select').click()
  await page.getByRole('option', { name: `Hillside ${stamp}` }).click()
}
test('steps 1 to 9: a file becomes a booked meeting, and the last outcome is taken back', async ({
  page,
  request,
  world: { settings },
}) => {
  await signIn(page, /Maren Holloway/)

  // 2. Bring in the file: guessed columns, what would happen, the wrong rows with a reason.
  await page.getByRole('link', { name: 'Imports' }).click()
  await page
    .locator('input[type=file]')
    .setInputFiles({ name: 'hillside.csv', mimeType: 'text/csv', buffer: Buffer.from(csv) })
  await expect(page.getByRole('heading', { name: 'Map columns' })).toBeVisible()
  await expect(page.getByLabel('Where Name goes')).toHaveValue('fullName')
  await expect(page.getByLabel('Where Telephone goes')).toHaveValue('phone')
  await page.getByLabel('Where Job title goes').selectOption('title')
  await page.getByRole('button', { name: 'Validate' }).click()
  await expect(page.getByRole('heading', { name: 'Review' })).toBeVisible()
  await expect(page.locator('.sums')).toContainText(/6new\s*0existing.*1merged.*1invalid/s)
  // A bad cell costs the cell, not the person.
  await expect(page.getByText(/1 row is imported without a cell that could not be read: 1 × bad email/)).toBeVisible()
  const [file] = await Promise.all([
    page.waitForEvent('download'),
    page.getByText('Download them with the reason').click(),
  ])
  expect(file.suggestedFilename()).toContain('invalid rows')
  await page.getByRole('button', { name: 'Import 6' }).click()
  await expect(page.getByText('6 added')).toBeVisible()
  const importPage = page.url()

  // 3. A cadence on its slope.
  await page.getByRole('link', { name: 'Cadences' }).click()
  await page.getByRole('button', { name: 'New cadence' }).click()
  await page.getByLabel('Name of the cadence').fill(`Hillside ${stamp}`)
  await page.getByRole('button', { name: '+ Email' }).click()
  await page.getByLabel('Subject').fill('Your cellars at night')
  await page.getByLabel('Text', { exact: true }).fill('Hello {{ first_name | default: "there" }')
  await expect(page.getByText(/^Line 1: /)).toBeVisible()
  await page
    .getByLabel('Text', { exact: true })
    .fill('Hello {{ first_name | default: "there" }},\n\nwho wakes up when a cellar warms?')
  await page.getByRole('button', { name: '+ Task' }).click()
  await page.getByLabel('What to do').fill('Look at their site')
  await page.getByRole('button', { name: '+ Call' }).click()
  await page.getByLabel('Script').fill('Hello {{ first_name }}, it is {{ sender_first_name }}.')
  await page.getByLabel('Wait after the step before').fill('0')
  // Dragged to the second place: the call comes before the task.
  const grips = page.locator('.steps .grip')
  await grips.nth(2).dragTo(grips.nth(1))
  await expect(page.locator('.steps li').nth(1)).toContainText('Call 1')
  const slope = page.getByRole('group', { name: /The climb/ })
  await expect(slope.getByRole('button')).toHaveCount(3)
  await slope.getByRole('button', { name: /Step 3/ }).press('ArrowRight')
  await expect(page.locator('.steps li').nth(2)).toContainText('3 business days later')
  await page.getByRole('combobox', { name: 'If started now for' }).fill(alma)
  await page.getByRole('option', { name: alma }).click()
  await page.locator('.steps li').nth(0).getByRole('button').click()
  await page.getByRole('button', { name: `Preview for ${alma}` }).click()
  await expect(page.locator('.letter')).toContainText('Hello Alma,')
  await page.getByRole('button', { name: 'Save and start' }).click()
  await expect(page.getByText('Saved. People can be enrolled.')).toBeVisible()

  // 4. Enroll the file, and see who is left out and why.
  await page.goto(importPage)
  await page.getByRole('button', { name: 'Enroll them in a cadence' }).click()
  await chooseCadence(page)
  await expect(page.getByText('5 will be enrolled')).toBeVisible()
  await page.getByRole('button', { name: 'Enroll 5' }).click()
  await expect(page.getByText('5 enrolled, 1 skipped.')).toBeVisible()
  await page.getByRole('button', { name: 'Enroll them in a cadence' }).click()
  await chooseCadence(page)
  await expect(page.getByText('Already in this cadence').first()).toBeVisible()
  await page.getByRole('button', { name: 'Cancel' }).click()

  // 5. The sender's spacing lets them go one after the other; an hour later all have gone.
  await moveClock(page, 'An hour later')
  // The mail is in the recipient's mailbox; opened and answered there, it ends the enrollment and stands first on the
  // Desk.
  await expect
    .poll(
      async () =>
        ((await (await request.get(`${settings.MAILBOX_URL}/letters?for=${domain}`)).json()) as unknown[]).length,
      { timeout: 30_000 },
    )
    .toBe(5)
  const mailbox = await page.context().newPage()
  await mailbox.goto(`${settings.MAILBOX_URL}/?for=bodo@${domain}`)
  await mailbox.getByRole('link', { name: /Your cellars at night/ }).click()
  await expect(mailbox.getByText('who wakes up when a cellar warms?')).toBeVisible()
  await mailbox.getByRole('textbox').fill('Nobody does. Tell me more.')
  await mailbox.getByRole('button', { name: 'Send the answer' }).click()
  // A page that is still on its way somewhere may never close.
  await expect(mailbox.getByText(/answered/).first()).toBeVisible()
  await mailbox.close()
  await page.goto('/')
  const queue = page.getByRole('navigation', { name: 'Queue' })
  // Answers stand first.
  await expect(queue.locator('.item').first()).toContainText(bodo.replace(/-.*/, ''), { timeout: 30_000 })
  await queue.getByRole('button').filter({ hasText: bodo }).first().click()
  await expect(page.getByText('Nobody does. Tell me more.')).toBeVisible()
  await page.locator('.writer').getByLabel('Text').fill('Gladly: a logger wakes someone.')
  await page.getByRole('button', { name: /Send now/ }).click()
  await expect(queue.getByText(bodo)).toHaveCount(0)

  // 6. One person by hand; then the queue, by keyboard: the line answers, an outcome is one key.
  await page.getByRole('button', { name: 'Add person' }).click()
  await page.getByLabel('Name').fill(`Hand Made ${stamp}`)
  await page.getByLabel('Phone').fill(`(${area}) 555-0199`)
  await page.getByRole('button', { name: 'Add', exact: true }).click()
  await expect(page.getByRole('heading', { name: `Hand Made ${stamp}` })).toBeVisible()
  await request.put(`${settings.LINE_URL}/numbers/%2B1${area}5550180`, { data: 'answered' })
  await page.goto('/')
  await queue.getByRole('button', { name: alma }).click()
  await expect(page.getByText(/Hello Alma, it is Maren/)).toBeVisible()
  await page.keyboard.press('c')
  await expect(page.getByText(/^On the line/)).toBeVisible()
  await page.keyboard.press('n')
  await page.keyboard.type('picks up early')
  await page.keyboard.press('Escape')

  // 7. A meeting from the call: asked in place, sent with Enter; everyone at the company leaves.
  const outcomes = page.getByRole('complementary', { name: 'Outcomes' })
  await expect(
    outcomes.getByText(
      /Leaves the cadence with 3 others at Hillside Cellars.*Stage: Meeting set.*Invitation goes out\. Opens a deal\./,
    ),
  ).toBeVisible()
  await page.keyboard.press(
    (await outcomes
      .getByRole('button', { name: /Meeting booked/ })
      .locator('kbd')
      .textContent())!,
  )
  // Typed straight away, and kept with Enter: digits belong to the form while it is open.
  await expect(outcomes.getByRole('textbox', { name: /^Meeting/ })).toBeFocused()
  await page.keyboard.type('12152026 2:30')
  await page.keyboard.press('Enter')
  await expect(page.getByText(`${alma}: Meeting booked.`)).toBeVisible()
  await expect(queue.getByText(cleo)).toHaveCount(0)
  await expect
    .poll(
      async () =>
        (
          (await (await request.get(`${settings.MAILBOX_URL}/letters?for=alma@${domain}`)).json()) as {
            calendar: string | null
          }[]
        ).some((letter) => letter.calendar?.includes('METHOD:REQUEST')),
      { timeout: 30_000 },
    )
    .toBe(true)

  // 8. The person's page: every change with its cause; the last outcome taken back, and what has gone is said.
  await page.getByRole('button', { name: /Find or do anything/ }).click()
  await page.getByRole('combobox', { name: 'Find or do anything' }).fill(`alma@${domain}`)
  await page.getByRole('option', { name: alma }).click()
  await expect(page.getByText('Call: Meeting booked').first()).toBeVisible()
  await expect(page.getByText(/Stage: Attempting → Meeting set/)).toBeVisible()
  await expect(page.getByText(/picks up early/).first()).toBeVisible()
  await page.getByRole('button', { name: /Undo “Call: Meeting booked”/ }).click()
  await expect(page.getByText(/Undone: \d+ changes\. The email that has gone out stays sent\./)).toBeVisible()
  await expect(page.locator('.head').getByText('Attempting')).toBeVisible()
  await page.goto('/')
  await expect(queue.getByText(cleo)).toBeVisible()

  // 9. The clock moves on, and what is due then happens.
  await moveClock(page, 'An hour later')
  await moveClock(page, 'On to the next step')
  await moveClock(page, 'A day later')
})
