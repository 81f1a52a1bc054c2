import { randomUUID } from 'node:crypto'
import { expect, type Page } from '@playwright/test'
import { signIn } from '../signIn'
import { test } from '../fixtures'

/** Adds people of the manager’s, whose phones do as said. */
async function addPeople(page: Page, people: readonly [name: string, behavior: string][]): Promise<string[]> {
  const { demo } = (await (await page.request.get('/api/session')).json()) as { demo: { telephonesUrl: string } }
  const ids: string[] = []
  for (const [index, [name, behavior]] of people.entries()) {
    const phone = `+1716555018${index}`
    await page.request.put(`${demo.telephonesUrl}/numbers/${encodeURIComponent(phone)}`, { data: behavior })
    const added = await page.request.post('/api/prospects', { data: { name, phone, company: 'Lakeside Cheese' } })
    expect(added.status()).toBe(200)
    ids.push(((await added.json()) as { id: string }).id)
  }
  return ids
}

test('a manager turns on several lines, and a caller is put through to those who answer', async ({ page, browser }) => {
  await signIn(page, /Maren/)
  const ids = await addPeople(page, [
    ['Berit Sandvik', 'busy'],
    ['Alma Torrance', 'answered'],
    ['Cato Winfield', 'rejected'],
    ['Dunja Ferrow', 'answered'],
  ])
  const { users } = (await (await page.request.get('/api/users')).json()) as { users: { id: string; name: string }[] }
  const imani = users.find(({ name }) => name === 'Imani Osei')!
  const id = randomUUID()
  const made = await page.request.post('/api/call-blocks', {
    data: { id, name: 'Lakeside lines', callerIds: [imani.id], who: { prospectIds: ids }, purpose: 'follow_up' },
  })
  expect(made.status()).toBe(200)

  await page.goto(`/blocks/${id}`)
  await page.getByRole('button', { name: 'Edit' }).click()
  const dialog = page.getByRole('dialog', { name: 'Edit call block' })
  const choice = dialog.getByRole('combobox', { name: 'Lines dialed at once' })
  await choice.scrollIntoViewIfNeeded()
  await choice.click({ force: true })
  await page.getByRole('option', { name: 'Up to two for each caller' }).click()
  await expect(page.getByRole('listbox')).toHaveCount(0)
  // Without a number to call back it is refused, at its field, and nothing is lost.
  const message = dialog.getByLabel('Message when no caller is free')
  await message.fill('This is Thornwick Sensing, sorry!')
  await dialog.getByRole('button', { name: 'Save' }).click()
  await expect(dialog.getByText('Say who is calling, with a number to call back').first()).toBeVisible()
  await message.fill('This is Thornwick Sensing, sorry! Call us at (607) 555-0140.')
  await dialog.getByRole('button', { name: 'Save' }).click()
  await expect(dialog).toHaveCount(0)
  const report = page.getByRole('region', { name: 'Several lines' })
  await expect(report).toContainText('Campaign “Lakeside lines”, last 30 days: 0 calls')

  const context = await browser.newContext()
  const caller = await context.newPage()
  await signIn(caller, /Imani Osei/)
  await caller.goto(`/?block=${id}`)
  await expect(caller.getByRole('button', { name: /Dial up to 2 lines/ })).toBeVisible()
  await caller.keyboard.press('g')
  const outcomes = caller.getByRole('complementary', { name: 'Outcomes' })
  for (const name of ['Alma Torrance', 'Dunja Ferrow']) {
    await expect(caller.getByRole('article', { name })).toBeVisible()
    await expect(outcomes).toContainText('On the line')
    await expect(outcomes).toHaveAttribute('aria-busy', 'false')
    await expect(outcomes.getByRole('button', { name: /^⇧3 Interested/ })).toBeVisible()
    await caller.keyboard.press('Shift+Digit3')
    await expect(caller.getByText(`${name}: Interested.`)).toBeVisible()
    if (name === 'Dunja Ferrow') break
    // Taken back, they are in hand again, and nobody else is dialed meanwhile.
    await caller.keyboard.press('z')
    await expect(caller.getByRole('button', { name: /Dial up to 2 lines/ })).toBeVisible()
    await expect(caller.getByRole('article', { name })).toBeVisible()
    await expect(outcomes).toHaveAttribute('aria-busy', 'false')
    await caller.keyboard.press('Shift+Digit3')
    await expect(caller.getByText(`${name}: Interested.`)).toBeVisible()
    await caller.keyboard.press('g')
  }
  // What nobody answered was logged by itself, and nobody is left.
  const last = caller.getByRole('region', { name: 'Several lines' })
  await expect(last).toContainText('Call rejected')
  await expect(last).toContainText('Busy')
  await caller.keyboard.press('g')
  await expect(caller.getByRole('heading', { name: '“Lakeside lines” is done.' })).toBeVisible()
  await context.close()

  await expect(report).toContainText('4 calls, 2 answered by a person, 0 of them without a caller')
  await expect(page.getByText(/4 of 4 called: 2 reached/)).toBeVisible()
  await report.getByText('Why not more lines?').click()
  await expect(report.getByRole('row')).toHaveCount(4)
})
