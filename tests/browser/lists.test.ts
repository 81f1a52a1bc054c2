import { expect, test, type Page } from '@playwright/test'

const stamp = Date.now().toString(36)

async function signIn(page: Page, name: RegExp): Promise<void> {
  await page.goto('/sign-in')
  await page.getByRole('button', { name }).click()
  await expect(page.getByRole('navigation', { name: 'Screens' })).toBeVisible()
}
/** How many people the screen says it shows. */
async function people(page: Page): Promise<number> {
  const status = page.getByRole('status').filter({ hasText: /people|person/ }).first()
  await expect(status).toBeVisible()
  return Number((await status.textContent())!.replace(/\D/g, ''))
}
/** Asks for one more condition by the keyboard alone: the field, then whatever `value` does, then Enter. */
async function narrow(page: Page, button: string, field: string, value: () => Promise<unknown>): Promise<void> {
  await page.getByRole('button', { name: button, exact: true }).click()
  await page.getByLabel('Find a field').fill(field)
  await page.keyboard.press('Enter')
  await value()
  await page.keyboard.press('Enter')
}

test('a filter is edited as a sentence, kept in the address, copied as text and cleared in one step', async ({ page, context }) => {
  await signIn(page, /Maren Holloway/)
  await page.goto('/prospects')
  const all = await people(page)
  await narrow(page, 'Narrow it down', 'rating', () => page.getByRole('checkbox', { name: 'warm' }).check())
  await expect.poll(() => people(page)).toBeLessThan(all)
  const warm = await people(page)
  await narrow(page, 'Another condition: and', 'last call', () => page.getByLabel('What is asked').selectOption('is never'))
  await expect.poll(() => people(page)).toBeLessThan(warm)
  const both = await people(page)
  await expect(page).toHaveURL(/filter=rating\+is\+%22warm%22\+and\+last\+call\+is\+never/)
  // The word between them is turned: now either is enough.
  await page.getByRole('button', { name: 'and', exact: true }).click()
  await expect.poll(() => people(page)).toBeGreaterThan(warm)
  await page.getByRole('button', { name: 'or', exact: true }).click()
  await expect.poll(() => people(page)).toBe(both)
  await page.getByRole('button', { name: 'as text' }).click()
  const text = page.getByLabel('The filter as text')
  await expect(text).toHaveValue('rating is "warm" and last call is never')
  await text.fill('rating is warm and last cal is never')
  await page.keyboard.press('Enter')
  await expect(page.getByRole('alert')).toContainText('No field has this name')
  await text.fill('rating is warm and not (last call is never)')
  await page.keyboard.press('Enter')
  await expect.poll(() => people(page)).toBe(warm - both)

  const other = await context.newPage()
  await other.goto(page.url())
  await expect.poll(() => people(other)).toBe(warm - both)
  await other.goto('/prospects?filter=moon+is+full')
  await expect(other.getByRole('alert')).toContainText('No field has this name')
  await page.getByRole('button', { name: 'Clear every condition' }).click()
  await expect.poll(() => people(page)).toBe(all)
  await expect(page).toHaveURL(/\/prospects$/)
})

test('a manager keeps a list, chooses its columns and its place; a rep finds it so, and a private one is nobody else’s', async ({ page, browser }) => {
  const name = `Warm ${stamp}`
  await signIn(page, /Maren Holloway/)
  await page.goto('/prospects?filter=rating+is+warm&sort=name.up')
  const count = await people(page)
  await page.getByRole('button', { name: 'Keep as a list' }).click()
  await page.getByLabel('Name', { exact: true }).fill(name)
  await page.getByRole('dialog').getByLabel('Promise a touch').check()
  await page.getByRole('dialog').getByLabel('Days').fill('21')
  await page.getByRole('button', { name: 'Keep the list' }).click()
  const strip = page.getByRole('navigation', { name: 'Lists' })
  const entry = strip.getByRole('button').filter({ hasText: name })
  await expect(entry).toContainText('touch every 21 days')
  await expect(entry).toContainText(String(count))
  await expect(page.getByRole('heading', { name })).toBeVisible()
  await page.getByRole('button', { name: 'Columns' }).click()
  await page.getByLabel('Find a field').fill('aging')
  await page.getByRole('button', { name: 'aging rooms', exact: true }).click()
  await page.keyboard.press('Escape')
  await expect(page.getByRole('columnheader', { name: 'aging rooms' })).toBeVisible()
  // Up in the order of work, by the keyboard; after a moment the order is kept.
  const place = async () => (await strip.getByRole('button').allTextContents()).findIndex(text => text.includes(name))
  const before = await place()
  await entry.focus()
  await page.keyboard.press('Alt+ArrowUp')
  await expect.poll(place).toBe(before - 1)

  const rep = await (await browser.newContext()).newPage()
  await signIn(rep, /Imani Osei/)
  await rep.goto('/prospects')
  await rep.getByRole('navigation', { name: 'Lists' }).getByRole('button').filter({ hasText: name }).click()
  await expect(rep.getByRole('columnheader', { name: 'aging rooms' })).toBeVisible()
  await expect(rep.getByText('rating is "warm"')).toBeVisible()
  await expect(rep.getByRole('button', { name: 'List settings' })).toBeHidden()
  const address = rep.url()
  const { id } = await (await rep.request.post('/api/lists', { data: { name: `Mine ${stamp}`, kind: 'live', filter: 'owner is me' } })).json() as { id: string }
  await page.goto(address.replace(/list=[^&]+/, `list=${id}`))
  await expect(page.getByRole('heading', { name: 'Prospects' })).toBeVisible()
  await expect(strip.getByRole('button').filter({ hasText: `Mine ${stamp}` })).toHaveCount(0)

  await strip.getByRole('button').filter({ hasText: name }).click()
  await page.getByRole('button', { name: 'List settings' }).click()
  await page.getByRole('button', { name: 'Remove the list' }).click()
  await page.getByRole('button', { name: `Remove “${name}”, its people stay` }).click()
  await expect(strip.getByRole('button').filter({ hasText: name })).toHaveCount(0)
})

test('people are chosen, made a fixed list, and taken off it', async ({ page }) => {
  const name = `Fair ${stamp}`
  await signIn(page, /Maren Holloway/)
  await page.goto('/prospects?sort=name.up')
  for (const nth of [0, 1, 2]) await page.getByRole('checkbox', { name: /^Choose (?!all)/ }).nth(nth).check()
  await expect(page.getByText('3 chosen')).toBeVisible()
  await page.getByRole('button', { name: 'Make a list of them' }).click()
  await page.getByLabel('Name', { exact: true }).fill(name)
  await page.getByRole('button', { name: 'Keep the list' }).click()
  await expect(page.getByRole('heading', { name })).toBeVisible()
  await expect.poll(() => people(page)).toBe(3)
  await page.getByRole('checkbox', { name: /^Choose (?!all)/ }).first().check()
  await page.getByRole('button', { name: 'Take off this list' }).click()
  await expect(page.getByText(`1 taken off “${name}”`)).toBeVisible()
  await expect.poll(() => people(page)).toBe(2)
})
