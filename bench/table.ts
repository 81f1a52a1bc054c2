import { chromium } from '@playwright/test'
import { median } from './measure'
import { startWeb } from './web'
import { addCrowd, addUser, freshWorld } from './world'

const PORT = 4293
const ROWS = 100_000
const AT_LEAST = 50
const SECONDS = 5

/** Frames a second while the table of people scrolls, steadily and in leaps, with 100,000 rows in it, in Chromium. */
export async function measureTable(): Promise<string> {
  const world = await freshWorld('bench_table')
  const manager = await addUser('manager', 'Bench')
  await addCrowd(400, manager.id)
  const url = `http://127.0.0.1:${PORT}`
  const web = await startWeb(PORT, { UPHILL_URL: url })
  const browser = await chromium.launch({
    executablePath: '/usr/bin/chromium',
    args: [
      '--no-sandbox',
      '--disable-gpu',
      '--disable-quic',
      '--no-first-run',
      '--disable-background-networking',
      '--disable-component-update',
      '--disable-sync',
    ],
  })
  try {
    const page = await browser.newPage({ viewport: { width: 1280, height: 800 } })
    // The server's own answer, its rows repeated until there are as many as are asked for.
    await page.route('**/api/prospects/find', async (route) => {
      const answer = (await (await route.fetch()).json()) as { people: { id: string }[] }
      const people = Array.from({ length: ROWS }, (_, n) => ({
        ...answer.people[n % answer.people.length]!,
        id: `00000000-0000-4000-8000-${n.toString(16).padStart(12, '0')}`,
      }))
      await route.fulfill({ json: { ...answer, people, next: null } })
    })
    await page.goto(`${url}/sign-in`)
    await page.getByLabel('Email').fill(manager.email)
    await page.getByLabel('Password').fill(manager.password)
    await page.getByRole('button', { name: 'Sign in' }).click()
    await page.getByRole('link', { name: 'Prospects' }).click()
    await page.locator(`.sheet[aria-rowcount="${ROWS}"]`).waitFor({ timeout: 60_000 })
    await page.waitForTimeout(1_500)
    const frames = await page.evaluate(async (seconds) => {
      const box = document.querySelector('.table')!
      const took: number[] = []
      const until = performance.now() + seconds * 1_000
      for (let before = performance.now(), n = 0; before < until; n++) {
        // A steady pull, and every half second a leap far down.
        box.scrollTop += n % 30 === 29 ? 120_000 : 90
        const at = await new Promise<number>((resolve) => requestAnimationFrame(resolve))
        took.push(at - before)
        before = at
      }
      return took
    }, SECONDS)
    const perSecond = frames.length / SECONDS
    return `The table scrolls with ${ROWS.toLocaleString('en-US')} rows: ${perSecond.toFixed(1)} frames a second (median ${median(frames).toFixed(1)} ms a frame); at least ${AT_LEAST}: ${perSecond >= AT_LEAST ? 'within' : 'UNDER'}`
  } finally {
    await browser.close()
    web.end()
    await world.leave()
  }
}
