import { expect, type Page } from '@playwright/test'
import { test } from './fixtures'
import { moveClock, signIn } from './signIn'

/** The keyboard, counted: commands apart from what is typed into fields. */
class Keys {
  commands = 0
  typed = 0
  constructor(private readonly page: Page) {}
  async press(key: string): Promise<void> {
    this.commands++
    await this.page.keyboard.press(key)
  }

  async type(text: string): Promise<void> {
    this.typed += text.length
    await this.page.keyboard.type(text)
  }
}

/** What comes of thirty calls, roughly as on a day on the phone; what an outcome asks for is typed. */
const CALLS: { outcome: string; elsewhere?: boolean; types?: string; note?: string }[] = [
  { outcome: 'No answer' },
  { outcome: 'Left voicemail' },
  { outcome: 'Call back at a time', types: 'tomorrow 2:30pm' },
  { outcome: 'No answer' },
  { outcome: 'Busy' },
  { outcome: 'Meeting booked', types: 'next tuesday 10am', note: 'Two rooms, wants both' },
  { outcome: 'No answer' },
  { outcome: 'Not interested', types: 'Bad timing' },
  { outcome: 'Left voicemail', elsewhere: true },
  { outcome: 'No answer' },
  { outcome: 'Wrong number' },
  { outcome: 'No answer', note: 'Their line is bad before ten' },
  { outcome: 'Call back at a time', types: 'in 3 days' },
  { outcome: 'Left voicemail' },
  { outcome: 'No answer' },
  { outcome: 'Not the right person' },
  { outcome: 'No answer' },
  { outcome: 'Busy' },
  { outcome: 'Left voicemail' },
  { outcome: 'No answer', elsewhere: true },
  { outcome: 'Do not call' },
  { outcome: 'No answer' },
  { outcome: 'Left voicemail' },
  { outcome: 'Meeting booked', types: 'wed 9:30am' },
  { outcome: 'No answer' },
  { outcome: 'Call back at a time', types: 'next week' },
  { outcome: 'No answer' },
  { outcome: 'Left voicemail' },
  { outcome: 'Not interested', types: 'No budget' },
  { outcome: 'No answer' },
]

test('a rep’s day: thirty calls of all kinds, replies and tasks, with the keyboard alone', async ({ page }) => {
  await signIn(page, /Imani Osei/)
  await page.goto('/')
  const keys = new Keys(page)
  const outcomes = page.getByRole('complementary', { name: 'Outcomes' })
  const name = page.getByRole('article').getByRole('heading', { level: 1 })
  const calls = () =>
    page.evaluate(
      async () =>
        ((await (await fetch('/api/desk/day')).json()) as { goals: { calls: [number, number] } }).goals.calls[0],
    )
  const ready = async () => {
    await expect(outcomes).toHaveAttribute('aria-busy', 'false')
    await expect(name).toBeVisible()
    return (await name.textContent())!
  }
  /** Waits for the next person; anyone who was there is not shown any more. */
  const nextAfter = async (who: string) => {
    const rest = page.getByRole('heading', { name: 'Nothing is due.' })
    await expect(name.filter({ hasNotText: who }).or(rest)).toBeVisible()
    // Over lunch, more people come to their desks.
    if ((await rest.isVisible()) && made < CALLS.length) {
      await moveClock(page, 'An hour later')
      await expect(rest).toBeHidden()
    }
    if (made < CALLS.length) await ready()
  }
  const before = await calls()
  const seen = { replies: 0, tasks: 0, meetings: 0 }
  let made = 0
  let refused = 0
  await ready()
  while (made < CALLS.length) {
    const who = await ready()
    if (await page.getByText('Answer now.').isVisible()) {
      await keys.press('r')
      // Typed before the field is there or after: every letter is in the answer.
      const answer = 'Gladly. I will call you this afternoon.'
      await keys.type(answer)
      await expect(page.getByRole('article').getByRole('textbox', { name: /^Text/ })).toHaveValue(
        new RegExp(`^${answer}`),
      )
      await keys.press('Control+Enter')
      seen.replies++
    } else if (await outcomes.getByRole('button', { name: 'Done D' }).isVisible()) {
      await keys.press('d')
      seen.tasks++
    } else if (await outcomes.getByRole('button', { name: /^1 Held/ }).isVisible()) {
      await keys.press('1')
      seen.meetings++
    } else {
      await callOut(CALLS[made++]!, who)
      if (made === 4) {
        // The wrong key: taken back, and logged as it was.
        await nextAfter(who)
        await keys.press('z')
        await expect(page.getByText(/^Undone for/)).toBeVisible()
        await expect(name).toHaveText(who)
        await ready()
        await digit('Left voicemail')
      }
    }
    await nextAfter(who)
  }

  async function digit(outcome: string): Promise<void> {
    const key = (await outcomes
      .getByRole('button', { name: new RegExp(`^\\d ${outcome}`) })
      .getByText(/^\d$/)
      .first()
      .textContent())!
    await keys.press(key)
  }
  async function callOut({ outcome, elsewhere, types, note }: (typeof CALLS)[number], who: string): Promise<void> {
    await keys.press(elsewhere ? 'l' : 'c')
    // A call that is refused at this hour was made on another phone.
    if (
      !elsewhere &&
      (await Promise.race([
        outcomes
          .locator('.line')
          .getByRole('status')
          .waitFor()
          .then(() => false),
        outcomes
          .locator('.line')
          .getByRole('alert')
          .waitFor()
          .then(() => true),
      ]))
    ) {
      refused++
      await keys.press('l')
    }
    // What the outcomes do is said again: the call counts.
    await expect(outcomes.getByText('no call was made')).toHaveCount(0)
    if (note) {
      await keys.press('n')
      await keys.type(note)
      await keys.press('Escape')
    }
    // A gate, or a number that is not in service, may leave less to choose.
    const offered = await outcomes.getByRole('button', { name: new RegExp(`^\\d ${outcome}`) }).isEnabled()
    await digit(offered ? outcome : 'No answer')
    if (!offered) return
    if (types) await keys.type(types)
    if (types || outcome === 'Not the right person') await keys.press('Enter')
    // The stage that follows an attempt may want a note of it, which is asked for in place.
    const confirmed = page.getByText(new RegExp(`${who}: `)).first()
    const wanted = outcomes.getByRole('textbox', { name: 'Note' })
    // Where a colleague's email left meanwhile, it would do something else now: it is said, and Enter does that.
    const changed = page.getByText(/Things have changed since you saw this/).first()
    await expect(confirmed.or(wanted).or(changed).first(), `${outcome} is logged for ${who}`).toBeVisible()
    if ((await changed.isVisible()) && !(await confirmed.isVisible())) {
      await ready()
      if (await outcomes.locator('form').isVisible()) await keys.press('Enter')
      else await digit(outcome)
    }
    if (await wanted.isVisible()) {
      await keys.type('Rang out')
      await keys.press('Enter')
    }
    await expect(confirmed, `${outcome} is logged for ${who}`).toBeVisible()
  }

  // Nobody stands in the queue twice for the same thing.
  const twice = await page.evaluate(async () => {
    const { items } = (await (await fetch('/api/desk/queue?limit=200')).json()) as {
      items: { prospectId: string; name: string; kind: string; why: string }[]
    }
    const once = new Set<string>()
    return items.filter((item) => once.size === once.add(`${item.prospectId} ${item.kind}`).size)
  })
  expect(twice).toEqual([])
  expect(await calls()).toBe(before + CALLS.length)
  expect(seen.replies).toBeGreaterThan(0)
  // Two keys a call, a third where the outcome asks for something; undo, notes, replies and tasks besides.
  console.log(
    `${CALLS.length} calls, ${seen.replies} replies, ${seen.tasks} tasks and ${seen.meetings} meeting results with ${keys.commands} keys and ${keys.typed} typed characters`,
  )
  expect(keys.commands).toBeLessThanOrEqual(
    CALLS.length * 2 +
      refused +
      CALLS.filter((call) => call.types || call.outcome === 'Not the right person').length +
      4 +
      2 +
      2 * seen.replies +
      seen.tasks +
      seen.meetings,
  )
  // Nobody who was called is forgotten.
  const forgotten = await page.evaluate(async () => {
    const filter =
      'owner is me and last call is in the last 1 days and next action is not set and do not call is no and stage is none of "Not a fit", "Stopped", "Customer", "Meeting set"'
    const answer = await fetch('/api/prospects/find', {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ filter }),
    })
    return ((await answer.json()) as { people: { name: string }[] }).people.map((person) => person.name)
  })
  expect(forgotten).toEqual([])
})
