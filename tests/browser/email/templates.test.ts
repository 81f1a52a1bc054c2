import { expect, type Page } from '@playwright/test'
import { test } from '../fixtures'
import { signIn } from '../signIn'

const stamp = Date.now().toString(36)
const name = `Logger prices ${stamp}`
const textbox = (page: Page) => page.getByRole('textbox', { name: 'Text', exact: true })

test('a manager writes an email once, uses it in a step, and changes it; a rep sends it from a prospect', async ({
  page,
  browser,
  world: { settings },
}) => {
  await signIn(page, /Maren Holloway/)
  await page.goto('/cadences')
  await page.getByRole('link', { name: 'email templates and snippets' }).click()
  await page.getByRole('button', { name: 'New template' }).click()
  await page.getByLabel('Name', { exact: true }).fill(name)
  // The field is one piece in the subject too, and Enter does not break the line.
  const subject = page.getByRole('textbox', { name: 'Subject' })
  await subject.pressSequentially('Prices for {{ company }}')
  await subject.press('Enter')
  await expect(subject.getByRole('button', { name: 'Company' })).toBeVisible()
  await expect(subject.locator('p')).toHaveCount(1)
  // With the keyboard: bold, a field as it is typed, a list.
  await textbox(page).click()
  await page.keyboard.press('Control+A')
  await page.keyboard.type('Dear {{ first_name | default: "friend" }} of the ')
  await expect(textbox(page).getByRole('button', { name: 'First name or “friend”' })).toBeVisible()
  await page.keyboard.press('Control+b')
  await page.keyboard.type('cold')
  await page.keyboard.press('Control+b')
  await page.keyboard.type(', act now:')
  await page.keyboard.press('Enter')
  await page.keyboard.type('- three loggers')
  const hints = page.getByRole('list', { name: 'What may keep it from being read' })
  await expect(hints).toContainText('“act now”')
  await page.getByLabel('File to attach').setInputFiles({
    name: 'prices.txt',
    mimeType: 'text/plain',
    buffer: Buffer.from('129 each'),
  })
  await expect(page.getByRole('link', { name: 'prices.txt' })).toBeVisible()
  await expect(page.locator('.preview li')).toContainText('three loggers')
  // The key of the snippets works though nothing has the cursor.
  await page.evaluate(() => (document.activeElement as HTMLElement).blur())
  await page.keyboard.press('Alt+s')
  await expect(page.locator('.v-list-item').first()).toBeFocused()
  await page.keyboard.press('Escape')
  await page.getByRole('button', { name: 'Save', exact: true }).click()
  await expect(page.getByText('Saved.', { exact: true })).toBeVisible()

  // A step takes it; what it says is the template's, and is changed there.
  await page.goto('/cadences')
  await page.getByRole('button', { name: 'New cadence' }).click()
  await page.getByRole('button', { name: '+ Email' }).click()
  await page.getByRole('button', { name: 'Template', exact: true }).click()
  await page.getByText(name).click()
  await expect(page.getByText(`From the template ${name}`)).toBeVisible()
  await expect(textbox(page)).toHaveAttribute('contenteditable', 'false')
  await page.getByRole('button', { name: 'Save', exact: true }).first().click()
  await expect(page.getByText('Saved.', { exact: true })).toBeVisible()
  const cadence = page.url()
  await page.getByRole('link', { name: 'Edit the template' }).click()
  await expect(page.getByRole('link', { name: 'New cadence: Email' })).toBeVisible()
  // Before the first letter of the first line.
  await textbox(page)
    .getByText('act now')
    .click({ position: { x: 1, y: 8 } })
  await page.keyboard.type('Good morning. ')
  await page.getByRole('button', { name: 'Save', exact: true }).click()
  await expect(page.getByText('1 step says the new text from now on')).toBeVisible()
  await page.goto(cadence)
  await expect(textbox(page)).toContainText('Good morning. Dear')
  await expect(textbox(page).locator('strong')).toHaveText('cold')

  // A rep takes it for one prospect: it is filled in, and goes as text and HTML with its file.
  const rep = await (await browser.newContext({ viewport: { width: 1280, height: 800 } })).newPage()
  await signIn(rep, /Imani Osei/)
  const address = `ilse@${stamp}.example`
  const id = await rep.evaluate(async (email) => {
    const answer = await fetch('/api/prospects', {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ name: 'Ilse Marrow', email, company: 'Marrow Cellars', country: 'US', region: 'NY' }),
    })
    return ((await answer.json()) as { id: string }).id
  }, address)
  await rep.goto(`/prospects/${id}`)
  await expect(rep.getByRole('toolbar', { name: 'Actions' })).toBeVisible()
  await rep.keyboard.press('e')
  await rep.getByRole('button', { name: 'Template', exact: true }).click()
  await rep.getByText(name).click()
  await expect(rep.getByLabel('Subject')).toHaveValue('Prices for Marrow Cellars')
  await expect(textbox(rep)).toContainText('Good morning. Dear Ilse of the cold')
  await expect(textbox(rep)).toBeFocused()
  await rep.keyboard.press('Control+End')
  await rep.keyboard.press('Enter')
  await rep.keyboard.press('Alt+s')
  await expect(rep.locator('.v-list-item').first()).toBeFocused()
  await rep.locator('.v-list-item', { hasText: 'Battery life' }).press('Enter')
  await expect(textbox(rep)).toContainText('The batteries last four years')
  await rep.keyboard.press('Control+Enter')
  await expect(rep.getByText(/Email to Ilse Marrow is on its way/)).toBeVisible()
  await page.goto(`${settings.MAILBOX_URL}/?for=${address}`)
  const letter = page.getByRole('link', { name: /Prices for Marrow Cellars/ })
  await expect(async () => {
    await page.reload()
    await expect(letter).toBeVisible({ timeout: 1_000 })
  }).toPass({ timeout: 30_000 })
  await letter.click()
  await expect(page.getByText('Good morning. Dear Ilse of the cold')).toBeVisible()
})
