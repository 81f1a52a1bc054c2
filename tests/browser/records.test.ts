import { expect, type Page } from '@playwright/test'
import { signIn, withoutStream } from './signIn'
import { test } from './fixtures'

const stamp = Date.now().toString(36)

/** Adds someone from wherever one is, by the line at the top. */
async function addPerson(page: Page, name: string, more: { company?: string; phone?: string } = {}): Promise<string> {
  const { id } = await page.evaluate(
    async (given) =>
      (
        await fetch('/api/prospects', {
          method: 'POST',
          headers: { 'content-type': 'application/json' },
          body: JSON.stringify(given),
        })
      ).json() as Promise<{ id: string }>,
    { name, ...more },
  )
  return id
}

test('a person who is there twice is compared, merged, and made two again', async ({ page }) => {
  await signIn(page, /Imani Osei/)
  await page.goto('/')
  const company = `Twin Cellars ${stamp}`
  const long = await addPerson(page, `Wilhelmina Twin${stamp}`, { company, phone: '(212) 555-0144' })
  await addPerson(page, `Wilhel Twin${stamp}`, { company })
  await page.goto(`/prospects/${long}`)
  const pair = page.getByRole('region', { name: /Wilhel/ })
  await expect(pair).toContainText('a name cut short, the same company')
  await pair.getByRole('button', { name: 'Compare' }).click()
  await expect(pair.getByRole('row', { name: /Numbers/ })).toContainText('+12125550144')
  const column = (await pair.getByRole('columnheader').allTextContents()).findIndex((text) =>
    text.startsWith('Wilhelmina'),
  )
  await pair.getByRole('button', { name: 'Keep this one' }).nth(column).click()
  await expect(page.getByText('They are one person now')).toBeVisible()
  await expect(pair).toBeHidden()
  await expect(page.getByText('Merged with a duplicate')).toBeVisible()
  await page.goto('/duplicates')
  const row = page.getByRole('row', { name: new RegExp(`Wilhelmina Twin${stamp}`) })
  await row.getByRole('button', { name: 'Undo' }).click()
  await expect(page.getByText('They are two prospects again.')).toBeVisible()
  const again = page.getByRole('region', {
    name: new RegExp(`Wilhel Twin${stamp} and Wilhelmina|Wilhelmina Twin${stamp} and Wilhel `),
  })
  await again.getByRole('button', { name: 'Not duplicates' }).click()
  await expect(again).toBeHidden()
})

test('a company that is there twice is found from its page, merged, and made two again', async ({ page }) => {
  await signIn(page, /Maren Holloway/)
  await page.goto('/')
  const [stays, goes] = [`Holm Dairy ${stamp}`, `Holmdale ${stamp}`]
  await addPerson(page, `Stig Holm${stamp}`, { company: stays })
  const moved = await addPerson(page, `Runa Dale${stamp}`, { company: goes })
  await page.goto(`/prospects/${moved}`)
  await page.getByRole('link', { name: goes }).first().click()
  await page.getByRole('button', { name: 'Merge …' }).click()
  await page.getByLabel('Company name or domain').fill(stays)
  await page.getByRole('dialog').getByRole('button', { name: stays }).click()
  await page.getByRole('button', { name: `Keep ${stays}, without a domain` }).click()
  await expect(page.getByText(`Merged into ${stays}: 1 person and 0 deals moved.`)).toBeVisible()
  await expect(page.getByRole('heading', { level: 1, name: stays })).toBeVisible()
  await expect(page.getByRole('heading', { name: '2 people here' })).toBeVisible()
  await page.goto('/duplicates')
  await page
    .getByRole('row', { name: new RegExp(goes) })
    .getByRole('button', { name: 'Undo' })
    .click()
  await expect(page.getByText('They are two companies again.')).toBeVisible()
})

test('a number, a note and a deal are edited in place', async ({ page }) => {
  await signIn(page, /Imani Osei/)
  await page.goto('/')
  const id = await addPerson(page, `Record ${stamp}`, { company: `Record Cellars ${stamp}`, phone: '(212) 555-0155' })
  await page.goto(`/prospects/${id}`)
  await page.getByRole('button', { name: /^Edit \(212\)/ }).click()
  await page.getByRole('combobox', { name: 'Status' }).selectOption({ label: 'correct' })
  await page.getByLabel('Type').selectOption('mobile')
  await page.getByLabel('Tag of the number').fill('direct line')
  await page.keyboard.press('Enter')
  await expect(page.getByText('direct line')).toBeVisible()
  await page.getByRole('button', { name: /^Edit \(212\)/ }).click()
  await expect(page.getByText('mobile, correct')).toBeVisible()
  await page.getByLabel('Add a note').fill('Only before ten')
  await page.getByRole('button', { name: 'Save note' }).click()
  await page.getByRole('button', { name: 'Pin to the top' }).click()
  await expect(page.locator('.pinned')).toContainText('Only before ten')
  // Mail choices are known of everyone, and changed in place.
  await page.getByRole('button', { name: 'Email preferences' }).click()
  await page.getByRole('listbox', { name: 'Email preferences' }).selectOption(['one to one'])
  await page.getByRole('listbox', { name: 'Email preferences' }).blur()
  await expect(page.getByRole('button', { name: 'Email preferences' })).toHaveText('one to one')
})

test('a company holds what was found out, and every touch with everyone there as one thread', async ({ page }) => {
  await signIn(page, /Maren Holloway/)
  await page.goto('/prospects?filter=customer+is+yes&by=companies')
  await expect(page.getByRole('status').first()).toContainText('companies')
  await page.getByRole('button', { name: 'Matching people' }).click()
  await page.getByRole('row').nth(1).getByRole('link').click()
  await expect(page.getByRole('img', { name: /touches\./ })).toBeVisible()
  await page.getByLabel('A note on the company').fill(`Audited ${stamp}`)
  await page.getByRole('button', { name: 'Save note' }).click()
  await expect(page.getByText(`Audited ${stamp}`)).toBeVisible()
  await page.getByRole('button', { name: 'Add a link' }).click()
  await page.getByLabel('Address', { exact: true }).fill('https://register.example/cellar')
  await page.getByLabel('Link name').fill(`Register ${stamp}`)
  await page.getByRole('button', { name: 'Save link' }).click()
  await expect(page.getByRole('link', { name: `Register ${stamp}` })).toHaveAttribute(
    'href',
    'https://register.example/cellar',
  )
  await page.reload()
  await page.getByRole('button', { name: `Delete Register ${stamp}` }).click()
  await expect(page.getByRole('link', { name: `Register ${stamp}` })).toBeHidden()
})

test('from a list by company the matching prospects are one step away', async ({ page }) => {
  await withoutStream(page)
  await signIn(page, /Maren Holloway/)
  await page.goto('/prospects?filter=rating+is+warm')
  await expect(page.getByRole('table', { name: 'People' })).toBeVisible()
  await page.waitForLoadState('networkidle')
  await page.getByRole('button', { name: 'Companies', exact: true }).click()
  await expect(page).toHaveURL(/by=companies/)
  // Read once the order asked for is there: the row that is first changes with it.
  await page.waitForLoadState('networkidle')
  const sorted = page.waitForResponse((response) => response.url().endsWith('/api/companies/find'))
  await page.getByRole('button', { name: 'Matching people' }).click()
  await sorted
  await expect(page.getByRole('table', { name: 'Companies' })).toHaveAttribute('aria-busy', 'false')
  const first = page.getByRole('row').nth(1)
  const [fitting, company] = [
    Number(await first.getByRole('button').textContent()),
    await first.getByRole('link').textContent(),
  ]
  await first.getByRole('button').click()
  await expect(page.getByRole('button', { name: 'People', exact: true })).toHaveAttribute('aria-pressed', 'true')
  await expect(page.getByRole('table', { name: 'People' })).toHaveAttribute('aria-rowcount', String(fitting))
  await expect(page).toHaveURL((url) => url.searchParams.get('filter')!.includes(`company is "${company}"`))
})

test('a list with a touch goal shows every thread, and the next touch is planned from its row', async ({ page }) => {
  await signIn(page, /Maren Holloway/)
  const { lists } = await page.evaluate(
    async () => (await fetch('/api/lists')).json() as Promise<{ lists: { id: string; name: string }[] }>,
  )
  // Someone of the test's own: warm, with a number that works, and left alone for too long.
  const name = `Thread Weaver${stamp}`
  await page.evaluate(async (name) => {
    type Answer = { id: string; version: number; status: string; mapping: object; people: { id: string }[] }
    const ask = async (path: string, method = 'GET', body?: object | string) =>
      (
        await fetch(`/api${path}`, {
          method,
          ...(body && {
            body: typeof body === 'string' ? body : JSON.stringify(body),
            headers: { 'content-type': typeof body === 'string' ? 'text/csv' : 'application/json' },
          }),
        })
      ).json() as Promise<Answer>
    const until = async (id: string, status: string): Promise<Answer> => {
      const found = await ask(`/imports/${id}`)
      if (found.status === status) return found
      await new Promise((resolve) => setTimeout(resolve, 200))
      return until(id, status)
    }
    const day = new Date(Date.now() - 40 * 86_400_000).toISOString().slice(0, 10)
    const { id, version, mapping } = await ask(
      '/imports?name=thread.csv',
      'POST',
      `Name,Phone,Touched on,Touch kind\n${name},(212) 555-0156,${day},call`,
    )
    await ask(`/imports/${id}`, 'PUT', { version, mapping })
    await ask(`/imports/${id}/run`, 'POST', { version: (await until(id, 'checked')).version, knownAction: 'skip' })
    await until(id, 'done')
    const {
      people: [person],
    } = await ask('/find?text=' + encodeURIComponent(name))
    const { version: now } = await ask(`/prospects/${person!.id}`)
    await ask(`/prospects/${person!.id}`, 'PATCH', { version: now, rating: 'warm' })
  }, name)
  await page.goto(
    `/prospects?list=${lists.find((list) => list.name === 'Warm nurture')!.id}&search=${encodeURIComponent(name)}`,
  )
  const row = page
    .getByRole('row')
    .filter({ hasText: name, has: page.getByRole('button', { name: /Plan the next step/ }) })
  await expect(row.getByRole('img', { name: /touch/ })).toBeVisible()
  // The counts of the touch goal open the people behind them.
  const goals = page.getByRole('group', { name: 'Touch goal' })
  await goals.getByRole('button', { name: /overdue with nothing scheduled/ }).click()
  await expect(page).toHaveURL(/goal=unscheduled/)
  await expect(row).toBeVisible()
  await goals.getByRole('button', { name: /on track/ }).click()
  await expect(page.getByText('Nobody matches these filters.')).toBeVisible()
  await page.getByRole('button', { name: 'Clear filters' }).click()
  await page.getByLabel('Search', { exact: true }).fill(name)
  // Once they alone are found, the rows are not read again.
  await expect(page.getByRole('status').filter({ hasText: /^1 person$/ })).toBeVisible()
  await row.getByRole('button', { name: /Plan the next step/ }).click()
  // Typed straight away: the line has the cursor.
  await expect(page.getByRole('textbox', { name: /^When/ })).toBeFocused()
  await page.keyboard.type('in 3 hours')
  await page.keyboard.press('Enter')
  await expect(page.getByText(new RegExp(`^${name}: Call `))).toBeVisible()
  const after = page.getByRole('row').filter({ hasText: name }).first()
  await expect(after).toContainText('next in 3 h')
  await page.getByRole('button', { name: 'Undo' }).click()
  await expect(after).not.toContainText('next in 3 h')
})

test('mail to many is read as one of them would read it before it goes, and who is left out is said', async ({
  page,
}) => {
  await signIn(page, /Maren Holloway/)
  await page.goto('/prospects?filter=customer+is+yes')
  await page.getByLabel('Select all shown').check()
  await page.getByRole('button', { name: 'Change …' }).click()
  await page.getByRole('dialog').locator('.v-select').first().click()
  await page.getByRole('option', { name: 'Send email' }).click()
  await page.getByLabel('Subject').fill('Winter, {{ first_name }}')
  await page.getByLabel('Text', { exact: true }).fill('Hello {{ surname }}')
  await expect(page.getByText('There is no field "surname"')).toBeVisible()
  await page.getByLabel('Text', { exact: true }).fill('Is {{ company }} ready for the cold?')
  await expect(page.getByText(/will get it: \d+ at customers, 0 others/)).toBeVisible()
  await expect(page.getByText(/^As .* would read it$/)).toBeVisible()
  await expect(page.getByText(/^Is [^{]* ready for the cold\?$/)).toBeVisible()
  await page.getByRole('button', { name: 'Next reader' }).click()
  await page.getByRole('button', { name: 'Send me this as a test' }).click()
  await expect(page.getByText('Sent to maren@thornwick.example.')).toBeVisible()
  await page.getByRole('button', { name: /^Send to \d+ p/ }).click()
  await expect(page.getByRole('status').filter({ hasText: /\d+ (people|person) will get it\./ })).toBeVisible()
})

test('cards of an address book come in like any file, and a list goes out as cards', async ({ page }) => {
  await signIn(page, /Maren Holloway/)
  await page.goto('/imports')
  await page.locator('input[type=file]').setInputFiles({
    name: 'book.vcf',
    mimeType: 'text/vcard',
    buffer: Buffer.from(
      `BEGIN:VCARD\r\nVERSION:4.0\r\nFN:Card ${stamp}\r\nN:${stamp};Card;;;\r\nORG:Card Cellars\r\nTEL;VALUE=uri:tel:+12125550166\r\nEND:VCARD\r\n`,
    ),
  })
  await expect(page.getByLabel('Where First name goes')).toHaveValue('firstName')
  await page.getByLabel('Save this mapping as').fill(`Cards ${stamp}`)
  await page.getByRole('button', { name: 'Save', exact: true }).click()
  await expect(page.getByRole('button', { name: `Cards ${stamp}`, exact: true })).toBeVisible()
  await page.getByRole('button', { name: `Delete Cards ${stamp}` }).click()
  await page.getByLabel(/my own contacts/).check()
  await page.getByRole('button', { name: 'Validate' }).click()
  await page.getByRole('button', { name: 'Import 1', exact: true }).click()
  await expect(page.getByText('1 added')).toBeVisible()
  await page.getByRole('link', { name: 'See them' }).click()
  await page.getByRole('button', { name: 'Export', exact: true }).click()
  const [file] = await Promise.all([
    page.waitForEvent('download'),
    page.getByText('vCard, for an address book').click(),
  ])
  expect(file.suggestedFilename()).toBe('people.vcf')
})

test('nine tabs at once are all loaded, and show what is changed in one of them', async ({ page, context }) => {
  await signIn(page, /Imani Osei/)
  await page.goto('/prospects')
  const path = (await page.locator('a.name').first().getAttribute('href'))!
  const tabs: Page[] = [page]
  while (tabs.length < 9) tabs.push(await context.newPage())
  // More than the six connections that a browser opens to a server over HTTP/1.1.
  for (const tab of tabs) {
    await tab.goto(path)
    await expect(tab.getByRole('heading', { name: 'Activity' })).toBeVisible()
  }
  const note = `Asked for the spring list ${Date.now().toString(36)}`
  await page.getByLabel('Add a note').fill(note)
  await page.getByRole('button', { name: 'Save note' }).click()
  for (const tab of tabs) await expect(tab.getByText(note).first()).toBeVisible()

  // The tab that was opened first closes: the others go on.
  await page.close()
  const last = tabs.at(-1)!
  await last.getByLabel('Add a note').fill(`${note}, again`)
  await last.getByRole('button', { name: 'Save note' }).click()
  for (const tab of tabs.slice(1)) await expect(tab.getByText(`${note}, again`).first()).toBeVisible()
})
