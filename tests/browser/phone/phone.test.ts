import { readFileSync } from 'node:fs'
import { fileURLToPath } from 'node:url'
import { expect, type Page } from '@playwright/test'
import { dialogHasCursor, signIn } from '../signIn'
import { test } from '../fixtures'

interface Item {
  prospectId: string
  name: string
  group: string
}
/** The stand-in of the exchange, from whose page recipients call. */
async function exchangeOf(page: Page): Promise<string> {
  const { demo } = (await (await page.request.get('/api/session')).json()) as { demo: { telephonesUrl: string } }
  return demo.telephonesUrl
}
/** A recipient calls from a number; gives the page on which they hang up. */
async function callFrom(page: Page, number: string): Promise<string> {
  const exchange = await exchangeOf(page)
  const response = await page.request.post(`${exchange}/incoming`, { form: { from: number }, maxRedirects: 0 })
  return new URL(response.headers().location!, exchange).searchParams.get('call')!
}
/** Work in the queue of who is signed in, with a number of theirs. */
async function someoneDue(page: Page): Promise<Item & { number: string }> {
  const { items } = (await (await page.request.get('/api/desk/queue')).json()) as { items: Item[] }
  for (const item of items) {
    const { prospect } = (await (await page.request.get(`/api/prospects/${item.prospectId}/brief`)).json()) as {
      prospect: { phones: { number: string; status: string }[]; calling: { open: boolean } }
    }
    const phone = prospect.phones.find((one) => one.status === 'correct' || one.status === 'unverified')
    if (phone && prospect.calling.open) return { ...item, number: phone.number }
  }
  throw new Error('Nobody in the queue can be called now')
}
/** Adds someone of the rep’s, whose number nobody else of the sample data has. */
async function someoneOfMine(page: Page, name: string, number: string): Promise<{ name: string; number: string }> {
  const added = await page.request.post('/api/prospects', {
    data: { name, phone: number, company: 'Fjordside Cellars' },
  })
  expect(added.status()).toBe(200)
  return { name, number }
}
/** Opens someone in the queue who can be called now; keys count for them then. */
async function openSomeone(page: Page): Promise<Item & { number: string }> {
  const person = await someoneDue(page)
  const queue = page.getByRole('navigation', { name: 'Queue' })
  await queue.getByRole('button', { name: person.name }).first().click()
  await expect(page.getByRole('article', { name: person.name })).toBeVisible()
  await expect(page.getByRole('complementary', { name: 'Outcomes' })).toHaveAttribute('aria-busy', 'false')
  return person
}
const fixture = (name: string) => fileURLToPath(new URL(`../../fixtures/audio/${name}`, import.meta.url))

test('a call back rings over what is typed, opens the person, and is logged; the note below stays', async ({
  page,
}) => {
  await signIn(page, /Imani Osei/)
  // Counts the notes that are played.
  await page.evaluate(() => {
    const counted = window as unknown as { notes: number }
    counted.notes = 0
    const start = OscillatorNode.prototype.start
    OscillatorNode.prototype.start = function (...given) {
      counted.notes++
      return start.apply(this, given)
    }
  })
  const caller = await someoneOfMine(page, 'Wren Halloran', '+19075550143')
  const note = page.getByLabel('Notes')
  await note.fill('Half a thought')
  await callFrom(page, caller.number)
  const card = page.getByRole('region', { name: `Call from ${caller.name}` })
  await expect(card).toContainText('is calling')
  // It rings, until it is silenced in this browser.
  const notes = () => page.evaluate(() => (window as unknown as { notes: number }).notes)
  await expect.poll(notes).toBeGreaterThan(0)
  await card.getByRole('button', { name: 'Silence' }).click()
  await expect(card.getByRole('button', { name: 'Turn sound on' })).toBeVisible()
  const before = await notes()
  // Longer than from one ring to the next, by the stopwatch of the card.
  const seconds = async () => Number(/0:(\d\d)/.exec(await card.innerText())![1])
  const silentFrom = await seconds()
  await expect.poll(seconds).toBeGreaterThanOrEqual(silentFrom + 3)
  expect(await notes()).toBe(before)
  await expect(page).toHaveTitle(new RegExp(`^${caller.name} is calling`))
  await page.keyboard.press('Alt+c')
  const sheet = page.getByRole('dialog', { name: 'Incoming call' })
  await expect(sheet.getByRole('heading', { name: `Call from ${caller.name}` })).toBeVisible()
  await expect(sheet.getByText(/^On the line/)).toBeVisible()
  // The browser is closed in mid-call: the call is there, and so is what was typed.
  await page.reload()
  await expect(card).toContainText('on the line')
  await card.getByRole('button', { name: 'Hang up' }).click()
  await expect(card).toContainText('not logged yet')
  await card.getByRole('button', { name: 'Log the call' }).click()
  await sheet.getByRole('button', { name: /^\S+ Interested/ }).click()
  await expect(page.getByText(`${caller.name}: Interested.`)).toBeVisible()
  await expect(sheet).toHaveCount(0)
  await expect(card).toHaveCount(0)
  await expect(note).toHaveValue('Half a thought')
})

test('a missed call is called back first; one of an unknown number is added from the screen', async ({ page }) => {
  await signIn(page, /Joaquin Pell/)
  const caller = await someoneOfMine(page, 'Tove Lindqvist', '+19075550144')
  await callFrom(page, caller.number)
  const card = page.getByRole('region', { name: `Call from ${caller.name}` })
  await card.getByRole('button', { name: 'Decline' }).click()
  await expect(card).toHaveCount(0)
  await page.reload()
  const queue = page.getByRole('navigation', { name: 'Queue' })
  await expect(queue.getByRole('button', { name: new RegExp(`${caller.name}.*called us`) })).toBeVisible()

  const exchange = await exchangeOf(page)
  const id = await callFrom(page, '+16075550177')
  const unknown = page.getByRole('region', { name: 'Call from (607) 555-0177' })
  await expect(unknown).toContainText('is calling')
  await page.request.post(`${exchange}/hang-up`, { form: { id }, maxRedirects: 0 })
  await expect(unknown).toContainText('Nobody here has this number.')
  await unknown.getByRole('button', { name: 'Add person' }).click()
  const dialog = page.getByRole('dialog')
  await expect(dialog.getByLabel('Phone')).toHaveValue(/555-0177/)
  await dialogHasCursor(page)
  await page.keyboard.press('Escape')
  await unknown.getByRole('button', { name: 'Dismiss' }).click()
  await expect(unknown).toHaveCount(0)
})

test('a voicemail message is uploaded, left with one key, logged, and heard by the recipient', async ({ page }) => {
  await signIn(page, /Imani Osei/)
  await page.goto('/account')
  const section = page.getByRole('region', { name: 'Voicemail messages' })
  const choose = async (name: string) => {
    const [chooser] = await Promise.all([
      page.waitForEvent('filechooser'),
      section.getByRole('button', { name: 'Choose a file' }).click(),
    ])
    await chooser.setFiles(name)
  }
  await choose(fileURLToPath(new URL('../phone/phone.test.ts', import.meta.url)))
  await expect(section.getByRole('alert')).toContainText('A message is a WAV or an OGG file')
  await choose(fixture('tone.wav'))
  // Behind the one of the sample data.
  await expect(section.getByRole('listitem')).toHaveCount(2)
  await section.getByLabel('Name of tone').fill('Short hello')
  await page.keyboard.press('Tab')
  await expect(section.getByLabel('Name of Short hello')).toBeVisible()
  await section.getByRole('button', { name: 'Make first' }).click()
  await expect(section.getByRole('listitem').first().getByRole('textbox')).toHaveValue('Short hello')

  await page.goto('/')
  const person = await openSomeone(page)
  const exchange = await exchangeOf(page)
  await page.request.put(`${exchange}/numbers/${encodeURIComponent(person.number)}`, { data: 'voicemail' })
  const [made] = await Promise.all([
    page.waitForResponse((response) => response.url().endsWith('/api/calls')),
    page.keyboard.press('c'),
  ])
  await expect(page.getByRole('button', { name: 'Leave “Short hello” V' })).toBeVisible()
  await page.keyboard.press('v')
  await expect(page.getByText(`${person.name}: Left voicemail.`)).toBeVisible()
  // The rep is with the next one, and the message plays on to its end.
  await expect(page.getByRole('article', { name: person.name })).toHaveCount(0)
  const { id } = (await made.json()) as { id: string }
  await page.goto(exchange)
  const left = await page.locator('audio').first().getAttribute('src')
  const heard = await page.request.get(new URL(left!, exchange).href)
  expect(heard.headers()['content-type']).toBe('audio/wav')
  expect(await heard.body()).toEqual(readFileSync(fixture('tone.wav')))
  await page.goto('/')
  const state = await page.request.get(`/api/calls/${id}`)
  expect(((await state.json()) as { status: string }).status).toBe('ended')
})

test('a message is recorded in the browser; a refused microphone is said', async ({ page, context }) => {
  await signIn(page, /Theo Blackwood/)
  await page.goto('/account')
  const section = page.getByRole('region', { name: 'Voicemail messages' })
  await section.getByRole('button', { name: 'Record a message' }).click()
  await expect(section.getByRole('alert')).toContainText('does not let Uphill use the microphone')
  await context.grantPermissions(['microphone'])
  await section.getByRole('button', { name: 'Record a message' }).click()
  await expect(section.getByRole('button', { name: /^Stop and save 0:0[1-9]/ })).toBeVisible()
  await section.getByRole('button', { name: /^Stop and save/ }).click()
  const one = section.getByRole('listitem')
  await expect(one).toContainText(/0:0[1-9]/)
  await expect(section.getByLabel('Name of Message 1')).toBeVisible()
  // It can be played here.
  const seconds = await one.locator('audio').evaluate(async (audio: HTMLAudioElement) => {
    await new Promise((done) => {
      audio.addEventListener('loadedmetadata', done, { once: true })
      audio.load()
      audio.preload = 'auto'
      audio.load()
    })
    return audio.duration
  })
  expect(seconds).toBeGreaterThan(0.8)
  await one.getByRole('button', { name: 'Delete Message 1' }).click()
  await expect(section.getByText('None yet.')).toBeVisible()
})

test('calls are recorded once a manager turns it on; the rep sees it, and hears it in the activity', async ({
  page,
}) => {
  await signIn(page, /Maren Holloway/)
  await page.goto('/settings/calls')
  const section = page.getByRole('region', { name: 'Recording of calls' })
  await page.getByLabel(/Record calls, and announce/).check()
  await page.getByLabel('Keep recordings for (days)').fill('a month')
  await section.getByRole('button', { name: 'Save' }).click()
  await expect(page.getByText('Enter a whole number of days')).toBeVisible()
  await page.getByLabel('Keep recordings for (days)').fill('14')
  await section.getByRole('button', { name: 'Save' }).click()
  await expect(page.getByText('Saved.', { exact: true })).toBeVisible()

  await signIn(page, /Joaquin Pell/)
  const person = await openSomeone(page)
  const exchange = await exchangeOf(page)
  await page.request.put(`${exchange}/numbers/${encodeURIComponent(person.number)}`, { data: 'answered' })
  await page.keyboard.press('c')
  await expect(page.getByText('Recorded, as was announced.')).toBeVisible()
  await expect(page.getByText(/^On the line/)).toBeVisible()
  await page.keyboard.press('h')
  await page.getByRole('button', { name: /^\S+ Interested/ }).click()
  await expect(page.getByText(`${person.name}: Interested.`)).toBeVisible()
  const heard = page.getByLabel(/^Recording of the call/)
  await expect(async () => {
    await page.goto(`/prospects/${person.prospectId}`)
    await expect(heard).toHaveCount(1, { timeout: 5_000 })
  }).toPass()
  const sound = await page.request.get((await heard.getAttribute('src'))!)
  expect(sound.headers()['content-type']).toBe('audio/wav')
})

test('a rep calls with their own phone: it is given the number, and the pad is the same', async ({ page }) => {
  // The browser would ask which program dials, and take no keys until it is answered.
  const dialed: string[] = []
  await page.exposeFunction('dialed', (uri: string) => void dialed.push(uri))
  await page.addInitScript(() =>
    document.addEventListener('click', (event) => {
      const link = (event.target as Element).closest('a[href^="tel:"]')
      if (!link) return
      event.preventDefault()
      void (window as unknown as { dialed(uri: string): void }).dialed(link.getAttribute('href')!)
    }),
  )
  await signIn(page, /Theo Blackwood/)
  await page.goto('/account')
  // Once all of the page is there, nothing moves under the menu.
  await expect(page.getByText('this one')).toBeVisible()
  await page.locator('.v-select').filter({ hasText: 'Call with' }).click()
  await page.getByRole('option', { name: 'My own phone' }).click()
  await expect(page.getByText('Uphill gives the number to your phone.')).toBeVisible()
  await page.getByRole('button', { name: 'Save', exact: true }).click()
  await expect(page.getByText('Saved.', { exact: true })).toBeVisible()
  await page.goto('/')
  const { name } = await openSomeone(page)
  await page.keyboard.press('c')
  await expect(page.getByText(/^On your phone \d:\d\d$/)).toBeVisible()
  await expect.poll(() => dialed).toEqual([expect.stringMatching(/^tel:\+[1-9]\d{1,14}$/)])
  await page.keyboard.press('h')
  await expect(page.getByText('Call ended')).toBeVisible()
  await page.keyboard.press('1')
  await expect(page.getByText(`${name}: No answer.`)).toBeVisible()
})
