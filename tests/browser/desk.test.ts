import AxeBuilder from '@axe-core/playwright'
import { expect } from '@playwright/test'
import { CALL, dialogHasCursor, signIn, withoutStream } from './signIn'
import { test } from './fixtures'

test('every screen passes axe (WCAG 2.2 AA)', async ({ page }) => {
  test.setTimeout(300_000)
  await withoutStream(page)
  await signIn(page, /Imani Osei/)
  const paths = [
    '/',
    '/prospects',
    '/prospects?by=map',
    '/prospects?by=companies',
    '/duplicates',
    '/changes',
    '/notifications',
    '/cadences',
    '/team',
    '/imports',
    '/settings',
    '/settings/users',
    '/settings/outcomes',
    '/settings/stages',
    '/settings/fields',
    '/settings/score',
    '/settings/queue',
    '/settings/calls',
    '/settings/forms',
    '/account',
  ]
  await page.goto('/prospects')
  paths.push(
    (await page.locator('a.name').first().getAttribute('href')) ?? '/',
    (await page.locator('a.plainlink').first().getAttribute('href')) ?? '/',
  )
  await page.goto('/cadences')
  paths.push((await page.locator('a.one').first().getAttribute('href')) ?? '/')
  const found: string[] = []
  for (const path of paths) {
    await page.goto(path)
    await page.waitForLoadState('networkidle')
    const { violations } = await new AxeBuilder({ page })
      .withTags(['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa'])
      .analyze()
    found.push(
      ...violations.map(
        (one) =>
          `${path}: ${one.id}, ${one.nodes
            .slice(0, 3)
            .map((node) => node.html.slice(0, 140))
            .join(' | ')}`,
      ),
    )
  }
  expect(found).toEqual([])
})

test('a session that is ended elsewhere is taken up again without losing what was typed', async ({ page, request }) => {
  await signIn(page, /Joaquin Pell/)
  await page.goto('/prospects')
  await page.locator('a.name').first().click()
  const note = page.getByLabel('Add a note')
  await note.fill('half a thought')
  const other = await request.post('/api/session', {
    data: { email: 'joaquin@thornwick.example', password: 'climb-the-hill' },
  })
  const cookie = /__Host-uphill=[^;]+/.exec(other.headers()['set-cookie']!)![0]
  await request.delete('/api/session/others', { headers: { cookie } })
  await page.getByRole('button', { name: 'Save note' }).click()
  await expect(page.getByRole('heading', { name: 'Your session has ended' })).toBeVisible()
  await page.getByLabel('Password').fill('climb-the-hill')
  await page.getByRole('button', { name: 'Sign in' }).click()
  await expect(note).toHaveValue('half a thought')
  await page.getByRole('button', { name: 'Save note' }).click()
  await expect(page.getByText('half a thought').last()).toBeVisible()
})

test('another user who signs in in one tab is who works in all', async ({ page, context }) => {
  await signIn(page, /Joaquin Pell/)
  const other = await context.newPage()
  await other.goto('/')
  await expect(other.getByRole('button', { name: 'Joaquin Pell' })).toBeVisible()
  await page.getByRole('button', { name: 'Joaquin Pell' }).click()
  await page.getByText('Sign out', { exact: true }).click()
  await expect(page.getByRole('button', { name: /Imani Osei/ })).toBeVisible()
  await signIn(page, /Imani Osei/)
  await expect(other.getByRole('button', { name: 'Imani Osei' })).toBeVisible()
  await expect(other.getByRole('heading', { name: 'Your session has ended' })).toBeHidden()
  await expect(other.getByRole('navigation', { name: 'Queue' })).toBeVisible()
})

test('every outcome is in sight beside the call, with its key', async ({ page }) => {
  await signIn(page, /Imani Osei/)
  await page.goto('/')
  const calls = page.getByRole('navigation', { name: 'Queue' }).getByRole('button', { name: CALL })
  await calls.first().click()
  const outcomes = page.getByRole('complementary', { name: 'Outcomes' })
  await expect(outcomes).toHaveAttribute('aria-busy', 'false')
  const withKeys = outcomes.getByRole('button').filter({ has: page.locator('kbd', { hasText: /^⇧?\d$/ }) })
  await expect.poll(() => withKeys.count()).toBeGreaterThan(15)
  await expect(withKeys.last()).toBeInViewport({ ratio: 1 })
})

test('text typed about a prospect is kept when one comes back, reloads, or opens their page', async ({ page }) => {
  await signIn(page, /Imani Osei/)
  await page.goto('/')
  const calls = page.getByRole('navigation', { name: 'Queue' }).getByRole('button', { name: CALL })
  await calls.first().click()
  const person = page.getByRole('article')
  const name = await person.getByRole('heading', { level: 1 }).textContent()
  const note = page.getByLabel('Notes')
  await note.fill('Moves to Marlpit in spring')
  await page.keyboard.press('Escape')
  // Replies are listed above; below there may be nobody.
  await page.keyboard.press('k')
  await expect(person.getByRole('heading', { level: 1 })).not.toHaveText(name!)
  await expect(note).toHaveValue('')
  await page.keyboard.press('j')
  await expect(note).toHaveValue('Moves to Marlpit in spring')
  await page.reload()
  await calls.first().click()
  await expect(note).toHaveValue('Moves to Marlpit in spring')
  await person.getByRole('link', { name: name! }).click()
  await expect(page.getByLabel('Add a note')).toHaveValue('Moves to Marlpit in spring')
  await page.getByRole('button', { name: 'Email E', exact: true }).click()
  await expect(
    page
      .getByLabel('Subject')
      .or(page.getByRole('textbox', { name: 'Text' }))
      .and(page.locator(':focus')),
  ).toBeVisible()
  await page.getByRole('textbox', { name: 'Text' }).fill('Dear half a')
  await page.keyboard.press('Escape')
  await expect(page.getByRole('textbox', { name: 'Text' })).toHaveCount(0)
  await page.keyboard.press('e')
  // The text stands above the signature, if that was there before.
  await expect(page.getByRole('textbox', { name: 'Text' })).toContainText(/^Dear half a/)
  // Kept, it is a draft no more.
  await page.getByRole('button', { name: 'Save note' }).click()
  await expect(page.getByLabel('Add a note')).toHaveValue('')
  await expect(page.getByText('Moves to Marlpit in spring').first()).toBeVisible()
})

test('an answer that is typed before its field is there is all in it', async ({ page }) => {
  await signIn(page, /Imani Osei/)
  const { items } = (await (await page.request.get('/api/desk/queue?limit=200')).json()) as {
    items: { prospectId: string; group: string; kind: string }[]
  }
  const { prospectId } = items.find(({ group, kind }) => group === 'answer' && kind === 'reply')!
  // What is fetched once the prospect is shown is slow.
  let isSlow = false
  await page.route('**/_nuxt/*', async (route) => {
    if (isSlow) await new Promise((resolve) => setTimeout(resolve, 1_500))
    await route.continue()
  })
  page.on('request', (request) => {
    isSlow ||= request.url().includes('/api/desk/queue')
  })
  await page.goto(`/?first=${prospectId}`)
  await expect(page.getByText('Answer now.')).toBeVisible()
  const answer = page.getByRole('article').getByRole('textbox', { name: /^Text/ })
  await page.keyboard.press('r')
  await page.keyboard.type('A call at 10 is good: do dial')
  await expect(answer).toBeFocused()
  await page.keyboard.type(' in.')
  await expect(answer).toHaveValue(/^A call at 10 is good: do dial in\./)
  await expect(page.getByRole('dialog')).toBeHidden()
  await expect(page.getByText('Answer now.')).toBeVisible()
  // It is there after a reload.
  await page.unrouteAll({ behavior: 'wait' })
  await page.reload()
  await expect(answer).toHaveValue(/^A call at 10 is good: do dial in\./)
})

test('what is typed after the key of a dialog, while that is fetched, is in its first line', async ({ page }) => {
  await withoutStream(page)
  await signIn(page, /Imani Osei/)
  await page.goto('/')
  const outcomes = page.getByRole('complementary', { name: 'Outcomes' })
  const name = await page.getByRole('article').getByRole('heading', { level: 1 }).textContent()
  await expect(outcomes.getByRole('button', { name: /No answer/ })).toBeVisible()
  await page.waitForLoadState('networkidle')
  await page.route('**/_nuxt/*', async (route) => {
    await new Promise((resolve) => setTimeout(resolve, 1_000))
    await route.continue()
  })
  // Every letter and digit of these is a key of the Desk, too.
  await page.keyboard.press('o')
  await page.keyboard.type('in 12 days')
  await expect(page.getByRole('dialog').getByRole('textbox', { name: 'When' })).toHaveValue('in 12 days')
  await page.keyboard.press('Escape')
  await expect(page.getByRole('dialog')).toBeHidden()
  await page.keyboard.press('a')
  await page.keyboard.type('Pat Lark, cold 4')
  await expect(page.getByRole('dialog').getByRole('textbox', { name: 'In one line' })).toHaveValue('Pat Lark, cold 4')
  await page.keyboard.press('Escape')
  await expect(page.getByRole('article').getByRole('heading', { level: 1 })).toHaveText(name!)
  await expect(page.getByRole('dialog')).toBeHidden()
  await page.unrouteAll({ behavior: 'wait' })
})

test('what is said of the prospect in hand is kept up to date while their card is open', async ({ page }) => {
  await signIn(page, /Imani Osei/)
  await page.clock.install()
  await page.goto('/')
  const link = page.getByRole('article').getByRole('heading', { level: 1 }).getByRole('link')
  const id = (await link.getAttribute('href'))!.split('/').pop()!
  const answer = await page.request.post(`/api/prospects/${id}/notes`, {
    data: { id: crypto.randomUUID(), body: 'Gate code from a colleague: ask at the dock' },
  })
  expect(answer.ok()).toBe(true)
  await expect(page.getByRole('article').getByText('Gate code from a colleague')).toHaveCount(0)
  await page.clock.fastForward('00:20')
  await expect(page.getByRole('article').getByText('Gate code from a colleague').first()).toBeVisible()
})

test('a dialog that is closed gives the cursor back to where it was', async ({ page }) => {
  await signIn(page, /Maren Holloway/)
  await page.goto('/prospects')
  await page.locator('a.name').first().focus()
  await page.keyboard.press(' ')
  const enroll = page.getByRole('button', { name: 'Enroll in a cadence' })
  await enroll.press('Enter')
  await dialogHasCursor(page)
  await page.keyboard.press('Escape')
  await expect(enroll).toBeFocused()
})

test('the same key struck twice logs one person once', async ({ page }) => {
  await signIn(page, /Imani Osei/)
  await page.goto('/')
  const call = page.getByRole('navigation', { name: 'Queue' }).getByRole('button', { name: CALL }).first()
  await call.click()
  await expect(page.getByRole('complementary', { name: 'Outcomes' }).getByText('No answer')).toBeVisible()
  const logged: string[] = []
  page.on('request', (sent) => {
    if (sent.method() === 'POST' && sent.url().endsWith('/outcomes')) logged.push(sent.url())
  })
  await expect(page.getByRole('complementary', { name: 'Outcomes' })).toHaveAttribute('aria-busy', 'false')
  await page.keyboard.press('1')
  await page.keyboard.press('1')
  await expect(page.getByText(/: No answer\. .*Not counted as an attempt/).first()).toBeVisible()
  expect(logged).toHaveLength(1)
  await page.keyboard.press('z')
  await expect(page.getByText(/^Undone for/)).toBeVisible()
})

test('a file that is no file of rows gets a sentence, and nothing happens', async ({ page }) => {
  await signIn(page, /Maren Holloway/)
  await page.goto('/imports')
  await page.locator('input[type=file]').setInputFiles({
    name: 'picture.csv',
    mimeType: 'text/csv',
    buffer: Buffer.from('89504e470d0a1a0a0000000d49484452000000', 'hex'),
  })
  await expect(page.getByRole('alert')).toContainText(
    'picture.csv: This is not a text file. Save the sheet as CSV and bring that',
  )
})

test('where no prospect is found, the page says so and one step clears the filters', async ({ page }) => {
  await signIn(page, /Maren Holloway/)
  await page.goto('/prospects?search=nobody-by-that-name')
  await expect(page.getByText('Nobody matches these filters.')).toBeVisible()
  await page.getByRole('button', { name: 'Clear filters' }).click()
  await expect(page.getByRole('row').nth(3)).toBeVisible()
})

test('the queue is worked in an order of one’s own, narrowed by keyboard and on the ridge, and cleared', async ({
  page,
}) => {
  await signIn(page, /Imani Osei/)
  const queue = page.getByRole('navigation', { name: 'Queue' })
  await expect(queue.getByRole('heading', { name: /Overdue, never reached/ })).toBeVisible()
  await page.keyboard.press('f')
  const choice = page.getByRole('group', { name: 'Filter the queue' })
  await expect(choice.getByLabel('Order')).toBeFocused()
  await page.keyboard.press('h')
  await expect(queue.getByRole('heading', { name: /Highest score first/ })).toBeVisible()
  await expect(queue.getByText(/score \d+, /).first()).toBeVisible()
  const scores = (await queue.getByText(/score \d+, /).allTextContents()).map((text) =>
    Number(/score (\d+)/.exec(text)![1]),
  )
  await choice.getByLabel('Show').selectOption({ index: 1 })
  await expect(queue.getByText('Highest score first, Calls')).toBeVisible()
  expect(scores.length).toBeGreaterThan(2)
  // By the hour it is where people are, as the team's calls have it; the person in hand shows their whole week.
  await choice.getByLabel('Order').selectOption({ label: 'Most likely to answer now' })
  await expect(queue.getByText(/\d+% likely to answer, /).first()).toBeVisible()
  const chances = (await queue.getByText(/% likely to answer, /).allTextContents()).map((text) =>
    Number(/(\d+)% likely/.exec(text)![1]),
  )
  expect(chances.length).toBeGreaterThan(2)
  expect(chances).toEqual([...chances].sort((a, b) => b - a))
  await queue
    .getByText(/% likely to answer, /)
    .first()
    .click()
  const week = page.getByRole('table', { name: /^How likely .+ is to answer$/ })
  await expect(week.getByRole('row')).toHaveCount(6)
  await expect(page.getByText(/^From .*[\d,]+ in all, by .+’s clock\.$/)).toBeVisible()
  await choice.getByLabel('Order').selectOption({ label: 'Highest score first' })
  await page.keyboard.press('Escape')
  await page.reload()
  await expect(queue.getByText('Highest score first, Calls')).toBeVisible()
  await queue.getByRole('button', { name: 'Clear' }).click()
  await expect(queue.getByRole('heading', { name: /Overdue, never reached/ })).toBeVisible()
  // A stretch of the afternoon is chosen on the ridge, and is gone with a second click.
  const ridge = (await page.locator('.ridge svg').boundingBox())!
  const at = { x: ridge.x + ridge.width * 0.93, y: ridge.y + 60 }
  await page.mouse.click(at.x, at.y)
  await expect(queue.getByText('5:00 PM to 5:30 PM')).toBeVisible()
  await page.mouse.click(at.x, at.y)
  await expect(queue.getByText('5:00 PM to 5:30 PM')).toHaveCount(0)
})

test('a manager puts some people first in every queue, in words; the rep finds them there, and sees why', async ({
  page,
}) => {
  await signIn(page, /Imani Osei/)
  const { items } = (await (await page.request.get('/api/desk/queue')).json()) as {
    items: { group: string; company: string | null }[]
  }
  const { company } = items.find((item) => item.company && ['due', 'overdue', 'overdue_reached'].includes(item.group))!
  await signIn(page, /Maren Holloway/)
  await page.goto('/settings/queue')
  await page.getByRole('button', { name: 'Add a condition' }).click()
  await page.getByRole('button', { name: 'Save' }).click()
  await expect(page.getByRole('alert')).toContainText('Add a condition')
  const { violations } = await new AxeBuilder({ page }).analyze()
  expect(violations.map(({ id, nodes }) => `${id}: ${nodes[0]!.html.slice(0, 140)}`)).toEqual([])
  const added = page.locator('.priority').last()
  await added.getByRole('button', { name: 'Edit as text' }).click()
  await added.getByLabel('The filter as text').fill(`company is "${company}"`)
  await page.keyboard.press('Enter')
  // Above what the sample data puts first.
  await page.getByRole('button', { name: 'Priority 2 up' }).click()
  await page.getByRole('button', { name: 'Save' }).click()
  await expect(page.getByText('Saved. Every queue is in this order now.')).toBeVisible()
  await page.reload()
  await expect(page.locator('.priority').first()).toContainText(company!)

  await signIn(page, /Imani Osei/)
  const queue = page.getByRole('navigation', { name: 'Queue' })
  const first = new RegExp(`^Company is.*${company}`)
  await expect(queue.getByRole('heading', { name: first })).toBeVisible()
  const headings = await queue.getByRole('heading').allTextContents()
  const at = (name: RegExp) => headings.findIndex((heading) => name.test(heading))
  // After call backs and answers, before everything else.
  expect(at(first)).toBe(headings.filter((heading) => /^(Call backs|Answer first)/.test(heading)).length)
  // Everything that can be done is counted once.
  const counts = await queue.locator('h2 .num').allTextContents()
  const counted = counts.reduce(
    (sum, count, index) => (/^(Later|Due soon|New)/.test(headings[index]!) ? sum : sum + Number(count)),
    0,
  )
  await expect(page.getByText(`${counted} to do now`)).toBeVisible()
})
