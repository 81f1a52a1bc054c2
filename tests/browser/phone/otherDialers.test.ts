import { expect } from '@playwright/test'
import { signIn } from '../signIn'
import { test } from '../fixtures'

test('a block goes to another dialer as a file, and its results come back, one of them corrected', async ({ page }) => {
  await signIn(page, /Maren/)
  await page.goto('/blocks')
  await page.getByRole('link', { name: 'Quiet since summer' }).click()
  const section = page.getByRole('region', { name: 'Other dialers' })
  await section.getByRole('button', { name: /^Send \d+ people to another dialer$/ }).click()
  const dialog = page.getByRole('dialog', { name: 'Send to another dialer' })
  await dialog.getByRole('combobox', { name: 'Dialer' }).fill('Southbank')
  const numbers = dialog.getByRole('combobox', { name: 'Numbers to call from' })
  await numbers.fill('12')
  await numbers.press('Enter')
  await dialog.getByRole('button', { name: /^Send \d+ people$/ }).click()
  await expect(dialog.getByText('Enter a valid phone number')).toBeVisible()
  await numbers.press('Backspace')
  await numbers.press('Backspace')
  await numbers.fill('(607) 555-0140')
  await numbers.press('Enter')
  await dialog.getByLabel('Voicemail message (optional)').fill('Call us back')
  await dialog.getByRole('button', { name: /^Send \d+ people$/ }).click()
  await expect(dialog).toHaveCount(0)
  const row = section.getByRole('listitem').filter({ hasText: 'Southbank' })
  await expect(row).toContainText('0 of ')
  await expect(page.getByText('with Southbank').first()).toBeVisible()

  const waiting = page.waitForEvent('download')
  await row.getByRole('link', { name: 'Download CSV' }).click()
  const stream = await (await waiting).createReadStream()
  const parts: Buffer[] = []
  for await (const part of stream) parts.push(part as Buffer)
  const [head, first, second, third] = Buffer.concat(parts).toString('utf8').split('\r\n')
  expect(head).toContain('id,number,first_name')
  expect(first).toContain('Call us back')
  const idOf = (line: string | undefined) => line!.split(',')[0]!
  const file = ['id,disposition,notes', `${idOf(first)},No answer,`, `${idOf(second)},Hung up on us,`]
  const choosing = page.waitForEvent('filechooser')
  await row.getByRole('button', { name: 'Add results' }).click()
  await (
    await choosing
  ).setFiles({
    name: 'results.csv',
    mimeType: 'text/csv',
    buffer: Buffer.from([...file, `${idOf(third)},Interested,Call after lunch`].join('\n')),
  })
  await expect(row).toContainText('2 of ')
  await expect(row).toContainText('2 results logged')
  await expect(row).toContainText('“Hung up on us” is none of your outcomes')
  await row.getByLabel('“Hung up on us” means').selectOption({ label: 'Gatekeeper' })
  await expect(row).toContainText('3 results logged')
  await expect(row.getByText('could not be logged')).toHaveCount(0)
  await expect(page.getByText('Call after lunch')).toBeVisible()

  await row.getByRole('button', { name: 'Call the rest here' }).click()
  await expect(row).toContainText('the rest is called here')
  await expect(page.getByText('with Southbank')).toHaveCount(0)
})
