import { expect, type Page } from '@playwright/test'
import { test } from './fixtures'
import { moveClock, signIn } from './signIn'

const stamp = Date.now().toString(36)
const name = `Call, then what it asks for ${stamp}`

/** Chooses from a menu of the page, not of a dialog. */
async function choose(page: Page, label: string, option: string): Promise<void> {
  await page.locator('.v-select').filter({ hasText: label }).first().click()
  await page.getByRole('option', { name: option, exact: true }).last().click()
}
async function addProspect(page: Page, person: object): Promise<string> {
  return page.evaluate(async (body) => {
    const answer = await fetch('/api/prospects', {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify(body),
    })
    return ((await answer.json()) as { id: string }).id
  }, person)
}

test('a manager builds a cadence that calls first and branches; the outcome decides, and everyone is where it says', async ({
  page,
}) => {
  await signIn(page, /Maren Holloway/)
  const known = await addProspect(page, {
    name: 'Osric Penhallow',
    title: 'Cellar master',
    phone: '+1 212 555 0151',
    country: 'US',
    region: 'NY',
  })
  const unknown = await addProspect(page, {
    name: 'Maud Quillon',
    phone: '+1 212 555 0152',
    country: 'US',
    region: 'NY',
  })

  await page.goto('/cadences')
  await page.getByRole('button', { name: 'New cadence' }).click()
  await page.getByLabel('Name of the cadence').fill(name)
  await page.getByRole('button', { name: '+ Call' }).click()
  await page.getByRole('textbox', { name: 'Name', exact: true }).fill('First call')
  await page.getByLabel('Script').fill('Hello {{ first_name }}.')
  await page.keyboard.press('Enter')
  await page.keyboard.type('Is it a good time?')
  await page.getByRole('button', { name: '+ Branch' }).click()
  await page.getByRole('textbox', { name: 'Name', exact: true }).fill('What came of it?')
  await page.getByLabel('Wait at most').fill('0')

  // The first way by the outcome of the call, a second by a filter.
  await page.getByLabel('Way', { exact: true }).first().fill('Busy')
  await choose(page, 'If', 'the last call came to')
  await page.locator('.v-select').filter({ hasText: 'Outcomes' }).click()
  await page.getByRole('option', { name: 'Busy', exact: true }).click()
  await page.keyboard.press('Escape')
  await page.getByRole('button', { name: 'Add a way' }).click()
  await page.getByLabel('Way', { exact: true }).nth(1).fill('Has a title')
  await page.locator('.v-select').filter({ hasText: 'If' }).nth(1).click()
  await page.getByRole('option', { name: 'the prospect fits', exact: true }).last().click()
  await page.getByRole('button', { name: 'Edit as text' }).click()
  await page.getByLabel('The filter as text').fill('job title is set')
  await page.keyboard.press('Enter')

  // Steps go to the way whose heading is chosen.
  const steps = page.getByRole('listitem')
  const heading = (way: string) => page.getByRole('button', { name: new RegExp(`^${way} (if|otherwise)`) })
  await heading('Busy').click()
  await expect(page.getByText('Add to “Busy”:')).toBeVisible()
  await page.getByRole('button', { name: '+ Task' }).click()
  await page.getByRole('textbox', { name: 'Name', exact: true }).fill('Try the front desk')
  await heading('Has a title').click()
  await page.getByRole('button', { name: '+ Task' }).click()
  await page.getByRole('textbox', { name: 'Name', exact: true }).fill('Look for them at the fair')
  await page
    .getByRole('button', { name: /What came of it/ })
    .first()
    .click()
  await page.getByRole('button', { name: '+ Call' }).click()
  await page.getByRole('textbox', { name: 'Name', exact: true }).fill('Second call')
  await expect(steps.filter({ hasText: 'behind “What came of it?”' })).toBeVisible()
  await expect(page.getByRole('group', { name: /^The climb/ })).toContainText('Busy')
  // Which way a prospect would go is said where the ways are.
  await expect(heading('Everyone else')).toBeVisible()
  await expect(heading('Busy')).toContainText('the last call came to “Busy”')
  await page.getByRole('button', { name: 'Save and start' }).click()
  await expect(page.getByText('Saved. People can be enrolled.')).toBeVisible()
  const cadence = page.url().split('/').at(-1)!
  await page.reload()
  await expect(heading('Has a title')).toContainText('job title is set')
  // The script is as it was typed; its field is a chip.
  const { steps: saved } = (await (await page.request.get(`/api/cadences/${cadence}`)).json()) as {
    steps: { body: string }[]
  }
  expect(saved[0]!.body).toBe('Hello {{ first_name }}.\nIs it a good time?')
  await page.getByRole('button', { name: /^1\. First call/ }).click()
  await expect(page.getByLabel('Script')).toContainText('Hello First name.')

  // Before it starts it is said who starts and who does not; then it is so.
  const noPhone = await addProspect(page, { name: 'Ines Nophone', country: 'US', region: 'NY' })
  const stopped = await addProspect(page, { name: 'Corwin Donotcall', phone: '+1 212 555 0153', country: 'US' })
  await page.evaluate(
    (id) =>
      fetch(`/api/prospects/${id}/stop`, {
        method: 'POST',
        headers: { 'content-type': 'application/json' },
        body: JSON.stringify({ id: crypto.randomUUID(), channel: 'call', on: true }),
      }),
    stopped,
  )
  await page.getByRole('link', { name: 'Add people' }).click()
  await page.goto(`/cadences/${cadence}/launch?people=${[known, unknown, noPhone, stopped].join()}`)
  await expect(page.getByText('2 prospects of 4 start')).toBeVisible()
  await expect(page.getByText('Starts with a call: no phone number that works')).toBeVisible()
  await expect(page.getByText('Starts with a call: asked for no calls')).toBeVisible()
  await expect(page.getByRole('img', { name: /^calls\. .*and 2 more/ })).toBeVisible()
  // How many start a day is set here; it is still there after a look at a step.
  await page.getByLabel('People who start a day').fill('5')
  await expect(page.getByText('This limit is saved with the cadence when you start or save')).toBeVisible()
  await page.getByRole('button', { name: /First call/ }).click()
  await expect(page.getByLabel('Name', { exact: true })).toHaveValue('First call')
  await page.getByRole('button', { name: 'Back to the launch' }).click()
  await expect(page.getByLabel('People who start a day')).toHaveValue('5')
  await expect(page.getByText('2 prospects of 4 start')).toBeVisible()
  // It can be saved without starting anyone, and set again with the start.
  await page.getByRole('button', { name: 'Save', exact: true }).click()
  await expect(page.getByText('Saved.', { exact: true })).toBeVisible()
  await expect(page.getByText('This limit is saved')).toHaveCount(0)
  await page.getByLabel('People who start a day').fill('6')
  await expect(page.getByText('This limit is saved')).toBeVisible()
  await page.getByRole('button', { name: 'Start 2 prospects' }).click()
  await expect(page).toHaveURL(/\/changes/)
  /** The worker takes steps beside the page, which shows them as they are taken. */
  const seen = (text: string) =>
    expect(page.getByText(text).filter({ visible: true }).first()).toBeVisible({ timeout: 30_000 })
  const log = async (id: string, key: string, next: RegExp) => {
    await page.goto(`/prospects/${id}`)
    await seen('First call')
    await expect(page.getByRole('toolbar', { name: 'Actions' })).toBeVisible()
    await page.keyboard.press('l')
    const offered = page.getByRole('dialog').getByRole('button', { name: new RegExp(`^${key} `) })
    await expect(offered).toContainText(next)
    await page.keyboard.press(key)
    await expect(page.getByRole('dialog')).toHaveCount(0)
  }
  await log(known, '1', /Next: task, today/)
  await seen('Look for them at the fair')
  await log(unknown, '2', /Next: task, today/)
  await seen('Try the front desk')

  // A branch without a way for everyone else cannot be saved; deleting it takes its ways along.
  await page.goto(`/cadences/${cadence}`)
  await page
    .getByRole('button', { name: /What came of it/ })
    .first()
    .click()
  await page.getByRole('button', { name: 'Delete', exact: true }).click()
  await expect(heading('Busy')).toHaveCount(0)
  await expect(page.getByText('Second call').first()).toBeVisible()
  await page.keyboard.press('Control+Enter')
  await expect(page.getByRole('dialog')).toContainText(
    'at “Try the front desk”, which is deleted: go on to “Second call”',
  )
  await page.getByRole('dialog').getByRole('button', { name: 'Save' }).click()
  await expect(page.getByText('Saved.', { exact: true })).toBeVisible()
  await moveClock(page, 'An hour later')
})
