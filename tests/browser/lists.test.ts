import { expect, type Page } from '@playwright/test'
import { dialogHasCursor, signIn } from './signIn'
import { test } from './fixtures'

const stamp = Date.now().toString(36)

/** How many people the screen says it shows. */
async function people(page: Page): Promise<number> {
  const status = page
    .getByRole('status')
    .filter({ hasText: /people|person/ })
    .first()
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

test('a filter is edited as a sentence, kept in the address, copied as text and cleared in one step', async ({
  page,
  context,
}) => {
  await signIn(page, /Maren Holloway/)
  await page.goto('/prospects')
  const all = await people(page)
  await narrow(page, 'Add filter', 'rating', () => page.getByRole('checkbox', { name: 'warm' }).check())
  await expect.poll(() => people(page)).toBeLessThan(all)
  const warm = await people(page)
  await narrow(page, 'Add filter: and', 'last call', () => page.getByLabel('Condition').selectOption('is never'))
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
  await page.getByRole('button', { name: 'Clear filters' }).click()
  await expect.poll(() => people(page)).toBe(all)
  await expect(page).toHaveURL(/\/prospects$/)
})

test('a filter is made by keyboard alone, and nothing that is typed goes astray', async ({ page }) => {
  await signIn(page, /Maren Holloway/)
  await page.goto('/prospects')
  const all = await people(page)
  await page.getByRole('button', { name: 'Add filter' }).press('Enter')
  await expect(page.getByLabel('Find a field')).toBeFocused()
  await page.keyboard.type('job title')
  await page.keyboard.press('Enter')
  await expect(page.getByLabel('Text', { exact: true })).toBeFocused()
  await page.keyboard.type('quality')
  await expect.poll(() => people(page)).toBeLessThan(all)
  await page.keyboard.press('Enter')
  await expect(page).toHaveURL(/filter=job\+title\+contains\+%22?quality/)
  // Opened again, it is ready to be written over.
  await page.getByRole('button', { name: 'job title contains quality', exact: true }).press('Enter')
  await expect(page.getByLabel('Text', { exact: true })).toBeFocused()
  await page.keyboard.type('lead')
  await page.keyboard.press('Enter')
  await expect(page).toHaveURL(/filter=job\+title\+contains\+%22?lead/)
  // A number begins as something, and is written over too.
  await page.keyboard.press('a')
  await page.keyboard.type('score')
  await page.keyboard.press('Enter')
  await expect(page.getByLabel('Number')).toBeFocused()
  await page.keyboard.type('50')
  await page.keyboard.press('Enter')
  await expect(page).toHaveURL(/score\+is\+at\+least\+50/)
})

test('a list is worked by keyboard: rows are selected, one or many, and coming back returns to the same row', async ({
  page,
}) => {
  await signIn(page, /Maren Holloway/)
  // The Desk's own keys are not those of the list.
  await page.getByRole('link', { name: 'Prospects' }).click()
  const names = page.locator('a.name')
  await expect(names.first()).toBeVisible()
  await page.keyboard.press('?')
  const keys = page.getByRole('dialog')
  await expect(keys).toContainText('Next row')
  await expect(keys).not.toContainText('Outcome 1')
  await dialogHasCursor(page)
  await page.keyboard.press('Escape')
  await expect(keys).toHaveCount(0)
  await page.keyboard.press('j')
  await page.keyboard.press('ArrowDown')
  await expect(names.nth(1)).toBeFocused()
  await page.keyboard.press(' ')
  await expect(page.getByText('1 selected')).toBeVisible()
  const before = await names.nth(5).boundingBox()
  await page
    .locator('.table')
    .getByRole('checkbox')
    .nth(5)
    .click({ modifiers: ['Shift'] })
  await expect(page.getByText('5 selected')).toBeVisible()
  expect(await names.nth(5).boundingBox()).toEqual(before)
  // A box that has been ticked takes no letters from the screen.
  await page.keyboard.press('c')
  await expect(page.getByRole('dialog')).toContainText('5 people')
  await dialogHasCursor(page)
  await page.keyboard.press('Escape')
  await expect(page.getByRole('dialog')).toHaveCount(0)
  // Nor are letters the screen's where something lies over it.
  await page.keyboard.press('a')
  await page.keyboard.type('owner')
  await page.keyboard.press('Enter')
  await expect(page.getByRole('checkbox', { name: 'me', exact: true })).toBeFocused()
  await page.keyboard.press('c')
  await page.keyboard.press('Escape')
  await expect(page.getByRole('button', { name: 'Add filter' })).toBeFocused()
  await expect(page.getByRole('dialog')).toHaveCount(0)
  // Far down, beyond what is read at first.
  await page.locator('.table').evaluate((box) => box.scrollTo(0, box.scrollHeight))
  await expect.poll(() => page.getByRole('table').getAttribute('aria-rowcount').then(Number)).toBeGreaterThan(200)
  await page.locator('.table').evaluate((box) => box.scrollTo(0, 230 * 46))
  // The rows there are drawn: the fifth of them is within what is seen.
  await expect
    .poll(() =>
      page.evaluate(() => {
        const row = document.querySelectorAll('.table a.name')[4]?.getBoundingClientRect().top ?? NaN
        return Math.abs(row - document.querySelector('.table')!.getBoundingClientRect().top) < 500
      }),
    )
    .toBe(true)
  await names.nth(4).focus()
  const name = await page.locator('a.name:focus').textContent()
  await page.keyboard.press('Enter')
  await expect(page.getByRole('heading', { name: name!, level: 1 })).toBeVisible()
  await page.goBack()
  await expect(page.locator('a.name:focus')).toHaveText(name!)
  await page.keyboard.press('f')
  await page.keyboard.type('creamery')
  await expect(page).toHaveURL(/search=creamery/)
  await page.keyboard.press('Enter')
  await expect(names.first()).toBeFocused()
})

test('a manager saves a list, sets its columns and its order; a rep sees it so, and a private one stays private', async ({
  page,
  browser,
}) => {
  const name = `Warm ${stamp}`
  await signIn(page, /Maren Holloway/)
  await page.goto('/prospects?filter=rating+is+warm&sort=name.up')
  const count = await people(page)
  await page.getByRole('button', { name: 'Save as list' }).click()
  await page.getByLabel('Name', { exact: true }).fill(name)
  await page.getByRole('dialog').getByLabel('Touch goal').check()
  await page.getByRole('dialog').getByLabel('Every', { exact: true }).fill('3')
  await page.getByRole('button', { name: 'Save list' }).click()
  const strip = page.getByRole('navigation', { name: 'Lists' })
  const entry = strip.getByRole('button').filter({ hasText: name })
  await expect(entry).toContainText('every 3 months')
  await expect(entry).toContainText(String(count))
  await expect(page.getByRole('heading', { name })).toBeVisible()
  await page.getByRole('button', { name: 'Columns' }).click()
  await page.getByLabel('Find a field').fill('aging')
  await page.getByRole('button', { name: 'aging rooms', exact: true }).click()
  await page.keyboard.press('Escape')
  await expect(page.getByRole('columnheader', { name: 'aging rooms' })).toBeVisible()
  // Up in the order of work, by the keyboard; after a moment the order is kept.
  const place = async () => (await strip.getByRole('button').allTextContents()).findIndex((text) => text.includes(name))
  const before = await place()
  await entry.focus()
  await page.keyboard.press('Alt+ArrowUp')
  await expect.poll(place).toBe(before - 1)
  // The cursor went along: the key works again.
  await page.keyboard.press('Alt+ArrowUp')
  await expect.poll(place).toBe(before - 2)

  const rep = await (await browser.newContext()).newPage()
  await signIn(rep, /Imani Osei/)
  await rep.goto('/prospects')
  await rep.getByRole('navigation', { name: 'Lists' }).getByRole('button').filter({ hasText: name }).click()
  await expect(rep.getByRole('columnheader', { name: 'aging rooms' })).toBeVisible()
  await expect(rep.getByText('rating is warm')).toBeVisible()
  await expect(rep.getByRole('button', { name: 'List settings' })).toBeHidden()
  const address = rep.url()
  const { id } = (await (
    await rep.request.post('/api/lists', { data: { name: `Mine ${stamp}`, kind: 'live', filter: 'owner is me' } })
  ).json()) as { id: string }
  await page.goto(address.replace(/list=[^&]+/, `list=${id}`))
  await expect(page.getByRole('heading', { name: 'Prospects' })).toBeVisible()
  await expect(strip.getByRole('button').filter({ hasText: `Mine ${stamp}` })).toHaveCount(0)

  await strip.getByRole('button').filter({ hasText: name }).click()
  await page.getByRole('button', { name: 'List settings' }).click()
  // What the list asks is changed where it is, and not only narrowed.
  const dialog = page.getByRole('dialog').filter({ hasText: 'Live list: everyone who matches' })
  await dialog.getByRole('button', { name: 'as text' }).click()
  await dialog.getByLabel('The filter as text').fill('rating is any of hot, warm')
  await page.keyboard.press('Enter')
  await dialog.getByRole('button', { name: 'Save' }).click()
  await expect(page.getByText('rating is any of hot, warm')).toBeVisible()
  await expect.poll(() => people(page)).toBeGreaterThan(count)
  await page.getByRole('button', { name: 'List settings' }).click()
  await page.getByRole('button', { name: 'Delete list' }).click()
  await page.getByRole('button', { name: `Delete “${name}”, keep its people` }).click()
  await expect(strip.getByRole('button').filter({ hasText: name })).toHaveCount(0)
})

test('whichever list one comes from, a list shows its own columns filled: the thread with its knots among them', async ({
  page,
}) => {
  await signIn(page, /Maren Holloway/)
  await page.goto('/prospects')
  const strip = page.getByRole('navigation', { name: 'Lists' })
  await strip.getByRole('button').filter({ hasText: 'New, not yet tried' }).click()
  await expect(page.getByRole('heading', { name: 'New, not yet tried' })).toBeVisible()
  await expect(page.getByRole('columnheader', { name: 'Thread' })).toBeHidden()
  await strip.getByRole('button').filter({ hasText: 'Best customers' }).click()
  await expect(page.getByRole('heading', { name: 'Best customers' })).toBeVisible()
  await expect(page.getByRole('columnheader', { name: 'Thread' })).toBeVisible()
  await expect(page.getByRole('img', { name: /touches?; the last/ }).first()).toBeVisible()
})

test('people are chosen, made a fixed list, and taken off it', async ({ page }) => {
  const name = `Fair ${stamp}`
  await signIn(page, /Maren Holloway/)
  await page.goto('/prospects?sort=name.up')
  for (const nth of [0, 1, 2]) {
    await page
      .getByRole('checkbox', { name: /^Select (?!all)/ })
      .nth(nth)
      .check()
  }
  await expect(page.getByText('3 selected')).toBeVisible()
  await page.getByRole('button', { name: 'New list from selection' }).click()
  await page.getByLabel('Name', { exact: true }).fill(name)
  await page.getByRole('button', { name: 'Save list' }).click()
  await expect(page.getByRole('heading', { name })).toBeVisible()
  await expect.poll(() => people(page)).toBe(3)
  await page
    .getByRole('checkbox', { name: /^Select (?!all)/ })
    .first()
    .check()
  await page.getByRole('button', { name: 'Remove from list' }).click()
  await expect(page.getByText(`1 taken off “${name}”`)).toBeVisible()
  await expect.poll(() => people(page)).toBe(2)
})

test('a list is worked on the Desk: who is dealt with leaves it, the strip counts them, and all that is due is one step away', async ({
  page,
}) => {
  await signIn(page, /Imani Osei/)
  const { id } = (await (
    await page.request.post('/api/lists', {
      data: {
        name: `To work ${stamp}`,
        kind: 'live',
        filter: 'owner is me and do not call is no and region is set and stage is none of Meeting set, Stopped',
        sort: { field: 'name', down: false },
      },
    })
  ).json()) as { id: string }
  const { handledToday: before } = (await (await page.request.get(`/api/lists/${id}/count`)).json()) as {
    handledToday: number
  }
  await page.goto(`/prospects?list=${id}`)
  await page.getByRole('link', { name: 'Work this list' }).click()
  const queue = page.getByRole('navigation', { name: 'Queue' })
  await expect(queue).toContainText(`List: To work ${stamp}`)
  // Who cannot be called at this hour stands below, by the time from which they can.
  const people = queue.locator('button.item.due .name')
  const first = await people.first().textContent()
  const order = await people.allTextContents()
  expect(order).toEqual([...order].sort((a, b) => (a.toLowerCase() < b.toLowerCase() ? -1 : 1)))
  await expect(page.getByRole('complementary', { name: 'Outcomes' }).getByText('No answer')).toBeVisible()
  await expect(page.getByRole('complementary', { name: 'Outcomes' })).toHaveAttribute('aria-busy', 'false')
  await page.keyboard.press('1')
  await expect(page.getByText(`${first}: No answer.`)).toBeVisible()
  await expect(people.first()).not.toHaveText(first!)
  await queue.getByRole('link', { name: 'Everything due' }).click()
  await expect(queue).not.toContainText('List:')
  await page.goto('/prospects')
  await expect(
    page
      .getByRole('navigation', { name: 'Lists' })
      .getByRole('button')
      .filter({ hasText: `To work ${stamp}` }),
  ).toContainText(`${before + 1} handled today`)
  await page.request.delete(`/api/lists/${id}`)
})

test('a custom field is made in Settings, filled where a person is read, and bad values are said at once', async ({
  page,
}) => {
  const name = `Racks ${stamp}`
  await signIn(page, /Maren Holloway/)
  await page.goto('/settings/fields')
  await page.getByRole('button', { name: 'Add a field' }).click()
  const dialog = page.getByRole('dialog')
  await dialog.getByLabel('Name', { exact: true }).fill(name)
  await dialog.locator('.v-select').filter({ hasText: 'Type' }).click()
  await page.getByRole('option', { name: 'Number', exact: true }).click()
  await dialog.getByLabel('Default value').fill('some')
  await dialog.getByRole('button', { name: 'Save' }).click()
  await expect(dialog.getByText('Expected a number')).toBeVisible()
  await dialog.getByLabel('Default value').fill('')
  await dialog.getByRole('button', { name: 'Save' }).click()
  await expect(page.getByText(`“${name}” saved`)).toBeVisible()

  await page.goto('/prospects')
  await page.locator('a.name').first().click()
  const known = page.locator('section').filter({ has: page.getByRole('heading', { name: 'Details' }) })
  await known.getByRole('button', { name }).click()
  await page.keyboard.type('a few')
  await page.keyboard.press('Enter')
  await expect(known.getByRole('alert')).toHaveText('Expected a number')
  await known.getByLabel(name).fill('1,250')
  await page.keyboard.press('Enter')
  await expect(known.getByRole('button', { name })).toHaveText('1,250')
  await page.getByRole('button', { name: /^(Add a tag|Tag)$/ }).click()
  await page.getByLabel('A tag', { exact: true }).fill(`Tag ${stamp}`)
  await page.keyboard.press('Enter')
  await expect(page.getByRole('button', { name: `Remove the tag Tag ${stamp}` })).toBeVisible()
  const person = await page.getByRole('heading', { level: 1 }).textContent()
  await page.goto(
    `/prospects?filter=${encodeURIComponent(`racks ${stamp} is at least 1000 and tags has "Tag ${stamp}"`)}`,
  )
  await expect(page.locator('a.name')).toHaveText([person!])
  // The beginning of a tag there is and Enter gives that tag, not a new one.
  await page.goto('/prospects?sort=name.down')
  await page.locator('a.name').filter({ hasNotText: person! }).first().click()
  await page.getByRole('button', { name: /^(Add a tag|Tag)$/ }).click()
  await page.keyboard.type(`Tag ${stamp}`.slice(0, -2))
  await expect(page.getByRole('option', { name: `Tag ${stamp}`, exact: true })).toBeVisible()
  await page.keyboard.press('Enter')
  await expect(page.getByRole('button', { name: `Remove the tag Tag ${stamp}` })).toBeVisible()

  await page.goto('/settings/tags')
  await page.getByRole('button', { name: `Remove Tag ${stamp}` }).click()
  await page.getByRole('button', { name: 'Remove from 2 people' }).click()
  await expect(page.getByText(`“Tag ${stamp}” is removed from 2 people.`)).toBeVisible()
  await page.getByRole('link', { name: 'Custom fields' }).click()
  await page.getByRole('button', { name: `Remove ${name}` }).click()
  await page.getByRole('button', { name: 'Remove it with all its values' }).click()
  await expect(page.getByText(`“${name}” deleted with 1 value.`)).toBeVisible()
})

test('many are changed at once: whom it touches and leaves out is said before and after', async ({ page }) => {
  const tag = `Fair ${stamp}`
  await signIn(page, /Maren Holloway/)
  await page.goto('/prospects?sort=name.up')
  const all = await people(page)
  await page
    .getByRole('checkbox', { name: /^Select (?!all)/ })
    .nth(0)
    .check()
  await page
    .getByRole('checkbox', { name: /^Select (?!all)/ })
    .nth(1)
    .check()
  const change = async () => {
    await page.getByRole('button', { name: 'Change …' }).click()
    const dialog = page.getByRole('dialog')
    await dialog.locator('.v-select').first().click()
    await page.getByRole('option', { name: 'Add a tag' }).click()
    await dialog.getByLabel('Tag').fill(tag)
    await dialog.getByLabel('Tag').press('Tab')
    return dialog
  }
  let dialog = await change()
  await expect(dialog.getByRole('status')).toHaveText('2 people will change.')
  await dialog.getByRole('button', { name: 'Change 2 people' }).click()
  await expect(dialog.getByRole('status')).toHaveText('2 people changed.')
  await dialog.getByRole('button', { name: 'Done' }).click()
  await page.getByLabel('Select all shown').check()
  await page.getByRole('button', { name: /^Select all .* matching$/ }).click()
  dialog = await change()
  await expect(dialog.getByRole('status')).toContainText(`${all - 2} people will change`)
  await expect(dialog.getByText('2 skipped: has the tag already')).toBeVisible()
  await dialog.getByRole('button', { name: `Change ${all - 2} people` }).click()
  await expect(dialog.getByRole('status')).toHaveText(`${all - 2} people changed.`)
  await expect(dialog.getByText('2 skipped: has the tag already')).toBeVisible()
  // The account is kept, and found again.
  await dialog.getByRole('link', { name: 'All bulk actions' }).click()
  const rows = page.getByRole('row', { name: new RegExp(tag) })
  await expect(rows).toHaveCount(2)
  await expect(rows.first()).toContainText(String(all - 2))
  await rows
    .first()
    .getByRole('button', { name: /^Result of/ })
    .click()
  await expect(page.getByText('2 skipped: has the tag already')).toBeVisible()
  // It is undone as a whole; the two who had the tag before keep it.
  await rows.first().getByRole('button', { name: /^Undo/ }).click()
  await page.getByRole('dialog').getByRole('button', { name: 'Undo' }).click()
  await expect(page.getByRole('row', { name: /Undo of “Tag/ })).toContainText(String(all - 2))
  await expect(rows.nth(1).getByText('undone')).toBeVisible()
  await page.goto(`/prospects?filter=${encodeURIComponent(`tags has "${tag}"`)}`)
  await expect.poll(() => people(page)).toBe(2)
})
