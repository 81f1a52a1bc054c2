import { expect, type Browser, type Page } from '@playwright/test'
import pg from 'pg'
import { test } from './fixtures'
import { moveClock, signIn } from './signIn'

const stamp = Date.now().toString(36)
const blockName = `Cellars by phone ${stamp}`

/** Prospects in New York, each at a company of their own: what comes of one call concerns none of the others. */
async function addProspects(page: Page, count: number): Promise<string[]> {
  return page.evaluate(
    async ([howMany, mark]) => {
      const ids: string[] = []
      for (let nth = 1; nth <= Number(howMany); nth++) {
        const answer = await fetch('/api/prospects', {
          method: 'POST',
          headers: { 'content-type': 'application/json' },
          body: JSON.stringify({
            name: `Perrin Quay ${nth}`,
            email: `perrin${nth}@${mark}-${nth}.example`,
            company: `Cellar ${mark} ${nth}`,
            phone: `+1 212 555 01${40 + nth}`,
            country: 'US',
            region: 'NY',
          }),
        })
        ids.push(((await answer.json()) as { id: string }).id)
      }
      return ids
    },
    [count, stamp] as const,
  )
}

/** A caller at the Desk, who presses keys and nothing else. */
class CallerAtDesk {
  readonly called: string[] = []
  private constructor(
    readonly page: Page,
    readonly name: string,
  ) {}

  static async start(browser: Browser, name: string): Promise<CallerAtDesk> {
    const page = await (await browser.newContext({ viewport: { width: 1280, height: 800 } })).newPage()
    await signIn(page, new RegExp(name))
    await page.goto('/blocks')
    await page.getByRole('link', { name: blockName }).click()
    await page.getByRole('link', { name: /Start calling|Continue calling/ }).focus()
    await page.keyboard.press('Enter')
    return new CallerAtDesk(page, name)
  }

  /** Logs the call to the person in hand with a note; gives who it was. */
  async log(outcome: string, note: string): Promise<string> {
    const { page } = this
    const person = page.getByRole('article').getByRole('heading', { level: 1 })
    const outcomes = page.getByRole('complementary', { name: 'Outcomes' })
    await expect(outcomes).toHaveAttribute('aria-busy', 'false')
    const who = (await person.textContent())!.trim()
    await page.keyboard.press('l')
    await expect(page.getByText('Logging a call made on another phone')).toBeVisible()
    await page.keyboard.press('n')
    await page.keyboard.type(note)
    await page.keyboard.press('Escape')
    const button = outcomes.getByRole('button', { name: new RegExp(`${outcome}\\b`) })
    const key = (await button.locator('kbd').first().textContent())!
    await page.keyboard.press(key.startsWith('⇧') ? `Shift+Digit${key.slice(1)}` : key)
    await expect(page.getByText(new RegExp(`${who}: ${outcome}`)).last()).toBeVisible()
    this.called.push(who)
    return who
  }
}

interface Counted {
  name: string
  people: number
  calls: number
  reached: number
  messages: number
  meetings: number
}

/** The account of a block from the event log alone. */
async function recount(database: string, blockId: string): Promise<Counted[]> {
  const client = new pg.Client({ connectionString: database })
  await client.connect()
  const { rows } = await client.query<Counted>(
    `select u.name, count(distinct e.prospect_id)::int as people, count(*)::int as calls,
       count(distinct e.prospect_id) filter (where t.after ->> 'countsAs' = 'conversation')::int as reached,
       count(*) filter (where o.name = 'Left voicemail')::int as messages,
       count(*) filter (where exists (
         select from effects m where m.event_id = e.id and m.kind = 'bookMeeting'
       ))::int as meetings
     from events e
       join users u on u.id = e.actor_id
       join outcomes o on o.id = (e.payload ->> 'outcomeId')::uuid
       join effects t on t.event_id = e.id and t.kind = 'recordTouch'
     where e.kind = 'callLogged' and e.payload ->> 'blockId' = $1
       and not exists (select from events x where x.kind = 'undone' and x.payload ->> 'targetId' = e.id::text)
     group by 1
     order by 1`,
    [blockId],
  )
  await client.end()
  return rows
}

test('a calling day: a manager hands a block to two callers, who work it with keys over two days', async ({
  page,
  browser,
  world: { settings },
}) => {
  test.setTimeout(300_000)
  await signIn(page, /Maren Holloway/)
  const ids = await addProspects(page, 6)
  await page.goto(`/blocks/new?people=${ids.join(',')}`)
  await expect(page.getByText('6 of 6 to call: 6 can be called now')).toBeVisible()
  await page.getByLabel('Name', { exact: true }).fill(blockName)
  await page.locator('.v-select').filter({ hasText: 'Callers' }).first().click()
  for (const name of ['Maren Holloway', 'Delphine Amsel', 'Theo Blackwood']) {
    await page.getByRole('option', { name }).click()
  }
  await page.keyboard.press('Escape')
  await page.getByLabel('What to say').fill('Hello {{ first_name }}, how do you watch {{ company }}')
  await page.getByLabel('Target (optional)').fill('4')
  await page.getByRole('button', { name: 'Create call block' }).click()
  await expect(page.getByText('6 people; 6 to call.')).toBeVisible()
  const blockId = page.url().split('/').at(-1)!

  // The first day: nobody is called twice, and whom the one has, the other does not get.
  const delphine = await CallerAtDesk.start(browser, 'Delphine Amsel')
  await expect(delphine.page.getByText(`Hello Perrin Quay, how do you watch Cellar ${stamp}`)).toBeVisible()
  const theo = await CallerAtDesk.start(browser, 'Theo Blackwood')
  await delphine.log('No answer', 'rang out')
  await theo.log('Left voicemail', 'asked to call back')
  await delphine.log('Interested', 'two rooms')
  await theo.log('Left voicemail', 'second message')
  // What was logged by mistake is taken back, and the person is in hand again.
  const mistaken = await delphine.log('No answer', 'wrong key')
  await delphine.page.keyboard.press('z')
  await expect(delphine.page.getByText(`Undone for ${mistaken}`)).toBeVisible()
  delphine.called.pop()
  await expect(delphine.page.getByRole('article').getByRole('heading', { level: 1 })).toHaveText(mistaken)
  await delphine.log('Left voicemail', 'the right key')
  // Put down in the middle, and taken up.
  await theo.page.keyboard.press('p')
  await expect(theo.page.getByRole('heading', { name: 'Paused.' })).toBeVisible()
  await theo.page.keyboard.press('p')
  await expect(theo.page.getByRole('button', { name: /^Skip/ })).toBeVisible()
  await theo.page.keyboard.press('x')
  await theo.page.getByLabel('Why skip them').fill('On leave')
  await theo.page.keyboard.press('Enter')
  await expect(theo.page.getByText('is done.')).toBeVisible()
  expect(new Set([...delphine.called, ...theo.called]).size).toBe(5)

  // The manager sees it without reloading.
  await expect(page.getByText(/5 of 6 called: 1 reached, 3 messages left, 1 without an answer/)).toBeVisible()
  await expect(page.getByRole('row', { name: /Theo Blackwood/ })).toContainText('calling now')
  await expect(page.getByText('On leave')).toBeVisible()
  await expect(page.getByText('second message')).toBeVisible()

  // The next working day, on another machine: those who were not reached, once more.
  await theo.page.context().close()
  for (let days = 0; days < 4; days++) {
    await moveClock(page, 'A day later')
    const weekday = await page.getByRole('button', { name: /Demo clock/ }).textContent()
    if (!/Sat|Sun/.test(weekday ?? '')) break
  }
  await delphine.page.reload()
  await delphine.page.getByRole('button', { name: 'Call the 4 not reached again' }).focus()
  await delphine.page.keyboard.press('Enter')
  const again = await CallerAtDesk.start(browser, 'Theo Blackwood')
  await again.log('Interested', 'reached at last')
  await delphine.log('Interested', 'likes it')
  await delphine.log('No answer', 'again')
  await delphine.page.getByRole('link', { name: blockName }).first().waitFor()
  await expect(
    page.getByText(/5 of 6 called: 3 reached, 1 message left, 1 without an answer; 1 to call|5 of 6 called: 3 reached/),
  ).toBeVisible()

  // The account stays, and is what the log says.
  await page.getByRole('button', { name: 'Close', exact: true }).click()
  await expect(page.getByText('Closed. The results stay here.')).toBeVisible()
  const counted = await recount(settings.DATABASE_URL!, blockId)
  expect(counted.map(({ name, calls }) => [name, calls])).toEqual([
    ['Delphine Amsel', 5],
    ['Theo Blackwood', 3],
  ])
  for (const { name, people, calls, reached, messages, meetings } of counted) {
    const cells = await page
      .getByRole('row', { name: new RegExp(name) })
      .getByRole('cell')
      .allTextContents()
    expect(cells.slice(1, 6)).toEqual([people, calls, reached, messages, meetings].map(String))
  }
  const csv = await page.evaluate(async (id) => (await fetch(`/api/call-blocks/${id}/account.csv`)).text(), blockId)
  expect(csv.split('\n')).toHaveLength(4)
})

test('someone hired to call sees their blocks and to-dos, works them with keys, and reaches nothing else', async ({
  page,
}) => {
  const refused: string[] = []
  page.on('response', (response) => {
    if (response.status() === 403) refused.push(response.url())
  })
  await signIn(page, /Nell Harrow/)
  const screens = page.getByRole('navigation', { name: 'Screens' })
  await expect(screens.getByRole('link')).toHaveText(['Desk', 'Call blocks'])
  await expect(page.getByText('Confirm where the catalog goes').first()).toBeVisible()
  await expect(page.getByText('still the right place to send our logger catalog?')).toBeVisible()
  await expect(page.getByRole('button', { name: 'Add person' })).toHaveCount(0)
  await page.keyboard.press('Control+k')
  await page.keyboard.press('e')
  await expect(page.getByRole('dialog')).toHaveCount(0)
  const name = (await page.getByRole('article').getAttribute('aria-label'))!
  // Keys wait for a moment after a change of person.
  const ready = () =>
    expect(page.getByRole('complementary', { name: 'Outcomes' })).toHaveAttribute('aria-busy', 'false')
  await ready()
  await page.keyboard.press('l')
  await page.keyboard.press('1')
  await expect(page.getByText(new RegExp(`${name}: No answer`)).first()).toBeVisible()
  await page.keyboard.press('z')
  await expect(page.getByRole('article', { name })).toBeVisible()
  await screens.getByRole('link', { name: 'Call blocks' }).click()
  const row = page.getByRole('row', { name: /^Quiet since summer/ })
  await row.getByRole('link', { name: 'Call', exact: true }).click()
  await expect(page.getByText('this is Nell Harrow from Thornwick Sensing')).toBeVisible()
  await page.keyboard.press('l')
  await expect(page.getByText('Logging a call made on another phone')).toBeVisible()
  await ready()
  await page.keyboard.press('1')
  await expect(page.getByText('You: 1 call,')).toBeVisible()
  for (const path of ['/prospects', '/cadences', '/deals', '/team', '/settings', '/blocks/new', '/imports']) {
    await page.goto(path)
    await expect(page).toHaveURL(/\/$/)
  }
  await page.goto('/account')
  await expect(page.getByRole('heading', { name: 'Your account' })).toBeVisible()
  expect(refused).toEqual([])
})
