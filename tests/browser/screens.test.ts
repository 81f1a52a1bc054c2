import AxeBuilder from '@axe-core/playwright'
import { expect, type Page } from '@playwright/test'
import { CALL, pick, signIn, withoutStream } from './signIn'
import { test } from './fixtures'

const stamp = Date.now().toString(36)

/** Nothing is wider than the window, and nothing scrolls sideways. */
async function fits(page: Page): Promise<void> {
  const wide = await page.evaluate(() => document.documentElement.scrollWidth - window.innerWidth)
  expect({ path: new URL(page.url()).pathname, wide: Math.max(0, wide) }).toMatchObject({ wide: 0 })
}
test('a menu and a dialog stand still from the moment they open, so that what is clicked is taken', async ({
  page,
}) => {
  await signIn(page, /Maren Holloway/)
  await page.goto('/settings/outcomes')
  const opener = page.getByRole('button', { name: 'Add an outcome' })
  /** Whether what opens takes clicks one picture after it is there, and how much of it moves then. */
  const moving = (clicked: string) =>
    page.evaluate(async (selector) => {
      const element = document.querySelector<HTMLElement>(selector)!
      const overlays = () => [...document.querySelectorAll<HTMLElement>('.v-overlay__content')]
      const before = overlays().length
      element.dispatchEvent(new MouseEvent('mousedown', { bubbles: true }))
      element.click()
      const picture = () => new Promise((shown) => requestAnimationFrame(shown))
      for (let left = 200; left && overlays().length === before; left--) await picture()
      await picture()
      const shown = overlays()[before]
      return {
        open: shown !== undefined && getComputedStyle(shown).pointerEvents !== 'none',
        moving: document.getAnimations().filter(({ effect }) => {
          return (
            effect instanceof KeyframeEffect && effect.target?.matches('.v-overlay__content, .v-overlay__content > *')
          )
        }).length,
      }
    }, clicked)
  await opener.evaluate((element) => element.setAttribute('data-opens', ''))
  expect(await moving('[data-opens]')).toEqual({ open: true, moving: 0 })
  await expect(page.getByRole('dialog').getByLabel('Outcome name')).toBeVisible()
  expect(await moving('.v-dialog .v-select .v-field')).toEqual({ open: true, moving: 0 })
  await expect(page.getByRole('option').first()).toBeVisible()
})
test('a manager makes an outcome; the rep is offered it with what it does, and its key does that', async ({
  page,
  browser,
}) => {
  const name = `Sent to purchasing ${stamp}`
  await signIn(page, /Maren Holloway/)
  await page.getByRole('link', { name: 'Settings' }).click()
  await page.getByRole('link', { name: 'Outcomes' }).click()
  await page.getByRole('button', { name: 'Add an outcome' }).click()
  const dialog = page.getByRole('dialog')
  await dialog.getByLabel('Outcome name').fill(name)
  await pick(page, 'Action', 'Wait for a call back')
  await dialog.getByRole('button', { name: 'Save' }).click()
  await expect(dialog.getByRole('alert')).toContainText('A call back needs the outcome to ask for its time')
  await pick(page, 'Action', 'Leave cadences')
  await expect(dialog.locator('.v-select').filter({ hasText: 'Exit reason' })).toContainText('Choose one')
  await dialog.getByRole('button', { name: 'Save' }).click()
  await expect(page.getByText(`“${name}” saved`)).toHaveCount(0)
  await expect(dialog).toBeVisible()
  await pick(page, 'Action', 'Make a call or to-do')
  await dialog.getByLabel('Task title').fill('Ask purchasing')
  await dialog.getByLabel('Due in').fill('3')
  await expect(dialog.getByRole('status')).toContainText(`${name}: Follow-up “Ask purchasing” in 3 days.`)
  await dialog.getByRole('button', { name: 'Save' }).click()
  await expect(page.getByText(`“${name}” saved`)).toBeVisible()
  const row = page.getByRole('row').filter({ hasText: name })
  await expect(row).toContainText('Follow-up “Ask purchasing” in 3 days.')

  await page.getByRole('button', { name: `${name} up` }).click()
  await expect(page.getByText(new RegExp(`“${name}” has the key ⇧?\\d; “.+” has the key ⇧?\\d\\.`))).toBeVisible()
  await page.getByRole('button', { name: `${name} down` }).click()
  const [, second] = await page.getByRole('button', { name: / up$/ }).all()
  const above = (await second!.getAttribute('aria-label'))!.replace(/ up$/, '')
  await second!.click()
  await expect(page.getByText(`“${above}” has the key 1; “No answer” has the key 2.`)).toBeVisible()
  await page.getByRole('button', { name: `${above} down` }).click()
  await expect(page.getByText(`“${above}” has the key 2; “No answer” has the key 1.`)).toBeVisible()

  const rep = await (await browser.newContext({ viewport: { width: 1280, height: 900 } })).newPage()
  await signIn(rep, /Imani Osei/)
  await rep.goto('/')
  await rep.getByRole('navigation', { name: 'Queue' }).getByRole('button', { name: CALL }).first().click()
  const offered = rep.getByRole('complementary', { name: 'Outcomes' }).getByRole('button', { name: new RegExp(name) })
  await expect(offered).toContainText('Back on the Desk')
  await expect(rep.getByRole('complementary', { name: 'Outcomes' })).toHaveAttribute('aria-busy', 'false')
  await offered.click()
  await expect(rep.getByText(new RegExp(`: ${name}\\.`)).first()).toBeVisible()
  await rep.keyboard.press('z')
  await expect(rep.getByText(/^Undone for/)).toBeVisible()
  await rep.context().close()

  await page.getByRole('button', { name: `Edit ${name}` }).click()
  await page.getByRole('button', { name: 'Archive outcome' }).click()
  await expect(page.getByText('is no longer offered')).toBeVisible()
  await expect(row).toHaveCount(0)
})

test('a step is dragged along the days by mouse: its wait and the dates after it move; leaving the page asks first', async ({
  page,
}) => {
  await signIn(page, /Maren Holloway/)
  await page.goto('/cadences')
  await page.getByRole('button', { name: 'New cadence' }).first().click()
  await page.getByRole('button', { name: '+ Call' }).click()
  await page.getByRole('button', { name: '+ Task' }).click()
  const spot = page.locator('.spot').nth(1)
  await expect(spot).toHaveAttribute('aria-label', /Task 1\. .*2 business days/i)
  // It stands where its moment is, once that is known.
  await expect(spot).toContainText(/\d\d:\d\d/)
  await spot.locator('circle').hover()
  const before = await spot.locator('circle').boundingBox()
  await page.mouse.move(before!.x + 10, before!.y + 10)
  await page.mouse.down()
  await page.mouse.move(before!.x + 60, before!.y + 10, { steps: 4 })
  await page.mouse.move(before!.x + 400, before!.y + 10, { steps: 8 })
  await page.mouse.up()
  await expect(spot).not.toHaveAttribute('aria-label', /2 business days/)
  const wait = Number(/(\d+) business day/.exec((await spot.getAttribute('aria-label')) ?? '')?.[1])
  expect(wait).toBeGreaterThan(2)
  await spot.focus()
  await page.keyboard.press('ArrowLeft')
  await expect(spot).toHaveAttribute('aria-label', new RegExp(`${wait - 1} business day`))
  let asked = ''
  page.on('dialog', (dialog) => {
    asked = dialog.message()
    void dialog.dismiss()
  })
  await page.getByRole('link', { name: 'Prospects' }).click()
  await expect.poll(() => asked).toContain('unsaved changes')
  await expect(page).toHaveURL(/cadences/)
})

test('the Desk, loaded for the first time, needs less than 250 kB of compressed code', async ({ page, request }) => {
  await signIn(page, /Imani Osei/)
  const needed = new Set<string>()
  // What is fetched ahead for other screens comes after, and is not counted.
  page.on('response', (response) => {
    if (response.url().endsWith('.js') && response.request().headers()['sec-purpose'] !== 'prefetch') {
      needed.add(response.url())
    }
  })
  await page.reload()
  await expect(page.locator('.queue').first()).toBeVisible()
  const sizes = await Promise.all(
    [...needed].map(async (url) =>
      Number((await request.head(url, { headers: { 'accept-encoding': 'gzip' } })).headers()['content-length']),
    ),
  )
  expect(sizes.length).toBeGreaterThan(5)
  expect(sizes.reduce((sum, size) => sum + size, 0)).toBeLessThan(250_000)
})

test('a manager reads the week by rep, opens a number, sets goals; a rep sees their own', async ({ page }) => {
  await signIn(page, /Maren Holloway/)
  await page.getByRole('navigation', { name: 'Screens' }).getByRole('link', { name: 'Team' }).click()
  const table = page.getByRole('table', { name: 'The week by rep' })
  for (const name of ['Imani Osei', 'Joaquin Pell', 'Everyone']) {
    await expect(table.getByRole('rowheader', { name })).toBeVisible()
  }
  await Promise.all([page.waitForResponse(/team\/week\?back=1/), page.keyboard.press('ArrowLeft')])
  await expect(page.getByText('Last week', { exact: false }).and(page.locator('b'))).toBeVisible()
  const row = table.getByRole('row', { name: /Imani Osei/ })
  const calls = row.getByRole('cell').first().getByRole('button')
  await expect(calls).toBeEnabled()
  const count = Number((await calls.textContent())!.split('/')[0])
  await calls.click()
  const dialog = page.getByRole('dialog')
  await expect(dialog.getByRole('link')).toHaveCount(count)
  await dialog.getByRole('button', { name: 'Close' }).click()
  await page.getByRole('button', { name: 'Goals' }).click()
  await page.getByLabel('Calls, Imani Osei').fill('45')
  await page.keyboard.press('Enter')
  await expect(page.getByText('Goals saved.')).toBeVisible()
  await row.getByRole('button', { name: 'Imani Osei, by day' }).click()
  await expect(table.getByText('/ 45').first()).toBeVisible()
  const [file] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('link', { name: 'Export' }).first().click(),
  ])
  expect(file.suggestedFilename()).toBe('week.csv')
  await expect(page.getByRole('table', { name: 'Sources' })).toBeVisible()
  await signIn(page, /Imani Osei/)
  await page.goto('/team')
  await expect(page.getByRole('heading', { name: 'My week' })).toBeVisible()
  await expect(page.getByRole('table', { name: 'The week by rep' }).getByRole('rowheader')).toHaveText([/Imani Osei/])
  await expect(page.getByRole('table', { name: 'Sources' })).toBeHidden()
})

test('a manager reads the open calls of the team, assigns some to someone else, and takes that back', async ({
  page,
}) => {
  await signIn(page, /Maren Holloway/)
  await page.goto('/team')
  await page.getByRole('link', { name: 'Team calls' }).click()
  const owners = page.getByRole('group', { name: 'Owner' })
  const imani = owners.getByRole('button', { name: /Imani Osei/ })
  await imani.click()
  const calls = page.getByRole('table', { name: 'Open calls' })
  await expect(calls.getByRole('row', { name: /Joaquin Pell|Theo Blackwood/ })).toHaveCount(0)
  await expect(calls).toHaveAttribute('aria-busy', 'false')
  const had = Number(/Imani Osei (\d+)/.exec((await imani.textContent())!.replaceAll(/\s+/g, ' '))![1])
  await calls.getByRole('checkbox').nth(1).check()
  await calls.getByRole('checkbox').nth(2).check()
  await page.getByLabel('Assign 2 calls to').selectOption({ label: 'Rosa Quintrell' })
  await page.getByRole('button', { name: 'Assign', exact: true }).click()
  await expect(page.getByText('2 calls assigned to Rosa Quintrell.')).toBeVisible()
  await expect(imani).toContainText(String(had - 2))
  const { violations } = await new AxeBuilder({ page }).analyze()
  expect(violations.map(({ id, nodes }) => `${id}: ${nodes[0]!.html}`)).toEqual([])
  await page.getByRole('button', { name: 'Undo' }).click()
  await expect(page.getByText('Assigned as before.')).toBeVisible()
  await expect(imani).toContainText(String(had))
  await page.setViewportSize({ width: 390, height: 800 })
  await fits(page)
})

test('the Desk scrolls in its parts, not as a whole', async ({ page }) => {
  await signIn(page, /Imani Osei/)
  await expect(page.getByRole('heading', { name: 'Best time to call' })).toBeAttached()
  expect(await page.evaluate(() => document.documentElement.scrollHeight - innerHeight)).toBe(0)
})

test('on a narrow window everything is there, and nothing is cut off sideways', async ({ page }) => {
  await withoutStream(page)
  await page.setViewportSize({ width: 390, height: 800 })
  await signIn(page, /Imani Osei/)
  await page.goto('/prospects')
  const first = page.locator('a.name').first()
  await expect(first).toBeVisible()
  const href = await first.getAttribute('href')
  for (const path of [
    '/',
    '/prospects',
    '/prospects?by=map',
    '/prospects?by=companies',
    '/duplicates',
    '/changes',
    '/cadences',
    '/team',
    '/imports',
    '/settings',
    '/settings/users',
    '/settings/outcomes',
    '/settings/stages',
    '/settings/sources',
    href!,
  ]) {
    await page.goto(path)
    await page.waitForLoadState('networkidle')
    await fits(page)
  }
  await page.goto('/prospects')
  const name = await page.locator('a.name').first().boundingBox()
  expect(name!.width).toBeGreaterThan(60)
})

test('the owner of a person is changed where the person is corrected, and the list can be narrowed to them', async ({
  page,
}) => {
  await signIn(page, /Maren Holloway/)
  await page.getByRole('button', { name: 'Add person' }).click()
  await page
    .getByRole('dialog')
    .getByLabel('In one line')
    .fill(`Odalys Marchetti-${stamp}, Cellar master, (607) 555-0187`)
  await expect(page.getByRole('dialog').getByLabel('Phone')).toHaveValue('(607) 555-0187')
  await page.getByRole('dialog').getByRole('button', { name: 'Add' }).click()
  await expect(page.getByRole('heading', { name: `Odalys Marchetti-${stamp}` })).toBeVisible()
  await page.getByRole('button', { name: 'Edit', exact: true }).click()
  await pick(page, 'Owner', 'Joaquin Pell')
  await expect(page.getByRole('listbox')).toHaveCount(0)
  await page.getByRole('dialog').getByRole('button', { name: 'Save' }).click()
  await expect(page.getByText('Owned by Joaquin Pell')).toBeVisible()
  await page.goto('/prospects')
  await page.getByRole('button', { name: 'Add filter' }).click()
  await page.getByLabel('Find a field').fill('owner')
  await page.keyboard.press('Enter')
  await page.getByRole('checkbox', { name: 'Joaquin Pell' }).check()
  await page.keyboard.press('Enter')
  await expect(page.getByRole('button', { name: 'owner is Joaquin Pell', exact: true })).toBeVisible()
  await expect(page.getByRole('row').nth(1)).toContainText('Joaquin Pell')
  await expect(page.locator('a.name').first()).toHaveText(`Odalys Marchetti-${stamp}`)
})

interface ImportAnswer {
  id: string
  version: number
  status: string
  mapping: object
}

test('ten thousand people: the table shows them without holding them all, and a name far down is found', async ({
  page,
}) => {
  await signIn(page, /Maren Holloway/)
  const rows = Array.from({ length: 10_000 }, (_, n) => `Tenth,Thousand ${stamp} ${n},n${n}@many-${stamp}.example`)
  const post = async (path: string, method: 'post' | 'put' | 'get', data?: unknown) =>
    (
      await page.request[method](path, {
        ...(data !== undefined && { data }),
        headers: {
          'content-type':
            data === undefined || typeof data !== 'string' ? 'application/json' : 'application/octet-stream',
        },
      })
    ).json() as Promise<ImportAnswer>
  let made = await post('/api/imports?name=many.csv', 'post', `First name,Last name,Email\n${rows.join('\n')}\n`)
  const settled = (status: string) =>
    expect
      .poll(async () => (made = await post(`/api/imports/${made.id}`, 'get')).status, { timeout: 60_000 })
      .toBe(status)
  await post(`/api/imports/${made.id}`, 'put', { version: made.version, mapping: made.mapping, knownAction: 'skip' })
  await settled('checked')
  await post(`/api/imports/${made.id}/run`, 'post', { version: made.version, knownAction: 'skip' })
  await settled('done')
  await page.goto(`/prospects?import=${made.id}`)
  await expect(page.getByRole('status').filter({ hasText: '10,000 people' })).toBeVisible()
  const table = page.getByRole('table', { name: 'People' })
  await expect(page.locator('a.name').first()).toContainText(`Thousand ${stamp}`)
  // Anyone who scrolls to the end finds more there.
  await expect(async () => {
    await table.locator('.v-virtual-scroll').evaluate((element) => element.scrollTo(0, element.scrollHeight))
    expect(Number(await table.getAttribute('aria-rowcount'))).toBeGreaterThanOrEqual(800)
  }).toPass()
  // Of 800 that have been read, only those in sight are drawn.
  expect(await page.getByRole('row').count()).toBeLessThan(80)
  await expect(page.getByRole('columnheader', { name: 'company' })).toBeVisible()
  await page.getByLabel('Search', { exact: true }).fill(`Thousand ${stamp} 9876`)
  await expect(page.getByRole('status').filter({ hasText: '1 person' })).toBeVisible()
  await page.getByRole('button', { name: 'Clear filters' }).click()
  await expect(page).toHaveURL(/\/prospects$/)
})
