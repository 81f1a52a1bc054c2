import { expect } from '@playwright/test'
import { test } from './fixtures'
import { pick, signIn } from './signIn'

const stamp = Date.now().toString(36)
const name = `Trial ${stamp}`

test('a manager places a stage by keyboard and by mouse and gives it a gate; a rep is asked for what it requires', async ({
  page,
  browser,
}) => {
  await signIn(page, /Maren Holloway/)
  await page.goto('/settings/stages')
  const map = page.getByRole('region', { name: 'Stages and gates' })
  const stage = map.getByRole('button', { name: new RegExp(`^${name},`) })
  const dialog = page.getByRole('dialog')
  /** Who stands where, row by row. */
  const order = async () =>
    (await map.locator('[data-stage]').evaluateAll((all) => all.map((one) => one.getAttribute('aria-label')!))).map(
      (label) => label.split(',')[0],
    )

  await map.getByRole('button', { name: 'Add a stage after New' }).click()
  await dialog.getByLabel('Name').fill(name)
  await pick(page, 'needs these details', 'job title')
  await page.keyboard.press('Escape')
  await dialog.getByLabel('needs a note').check()
  await dialog.getByRole('button', { name: 'Save' }).click()
  await expect(stage).toHaveAttribute('aria-label', /requires a note, job title/)
  await expect.poll(order).toEqual(expect.arrayContaining(['New', name, 'Attempting']))
  expect((await order()).slice(0, 3)).toEqual(['New', name, 'Attempting'])

  await stage.focus()
  await page.keyboard.press('Alt+ArrowRight')
  await expect.poll(async () => (await order()).slice(0, 3)).toEqual(['New', 'Attempting', name])
  await expect(stage).toBeFocused()
  await page.keyboard.press('Alt+ArrowLeft')
  await expect.poll(async () => (await order()).slice(0, 3)).toEqual(['New', name, 'Attempting'])
  // Pressed again before the first move is saved, it goes on from there.
  await page.keyboard.press('Alt+ArrowRight')
  await page.keyboard.press('Alt+ArrowRight')
  await expect.poll(async () => (await order()).indexOf(name)).toBe(3)
  const saved = () =>
    page.evaluate(async () => {
      const { stages } = (await (await fetch('/api/stages')).json()) as { stages: { name: string }[] }
      return stages.map((one) => one.name)
    })
  await expect.poll(async () => (await saved()).indexOf(name)).toBe(3)
  await page.keyboard.press('Alt+ArrowLeft')
  await page.keyboard.press('Alt+ArrowLeft')
  await expect.poll(async () => (await order()).slice(0, 3)).toEqual(['New', name, 'Attempting'])
  await stage.dragTo(map.getByRole('button', { name: 'Add a stage after Lost' }))
  await expect(stage).toHaveAttribute('aria-label', /comes back later/)
  const placed = await order()
  expect(placed.indexOf(name)).toBe(placed.indexOf('Lost') + 1)

  // A gate that cannot be met is said where it is seen.
  await stage.click()
  await pick(page, 'must be in one of these stages', 'Stopped')
  await page.keyboard.press('Escape')
  await dialog.getByRole('button', { name: 'Save' }).click()
  await expect(stage).toHaveAttribute('aria-label', /only from Stopped/)
  await stage.click()
  await pick(page, 'must be in one of these stages', 'Stopped')
  await page.getByRole('option', { name: 'New', exact: true }).click()
  await page.keyboard.press('Escape')
  await dialog.getByRole('button', { name: 'Save' }).click()
  await expect(stage).toHaveAttribute('aria-label', /only from New/)

  const rep = await (await browser.newContext({ viewport: { width: 1280, height: 800 } })).newPage()
  await signIn(rep, /Joaquin Pell/)
  const id = await rep.evaluate(async () => {
    const answer = await fetch('/api/prospects', {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ name: 'Wynne Sorrel', phone: '+1 212 555 0147', country: 'US', region: 'NY' }),
    })
    return ((await answer.json()) as { id: string }).id
  })
  await rep.goto(`/prospects/${id}`)
  await rep.getByRole('button', { name: 'Change stage' }).click()
  const move = rep.getByRole('dialog')
  await pick(rep, 'Stage', name)
  await move.getByRole('button', { name: 'Change stage' }).click()
  await move.getByLabel('Job title').fill('Cellar master')
  await move.getByLabel('Note', { exact: true }).fill('Wants to try one box')
  await move.getByRole('button', { name: 'Change stage' }).click()
  await expect(move).toHaveCount(0)
  await expect(rep.getByText(name).first()).toBeVisible()

  // How a call went is said beside its note, logged with the outcome, and can be asked for.
  await expect(rep.getByRole('toolbar', { name: 'Actions' })).toBeVisible()
  await rep.keyboard.press('l')
  const went = rep.getByRole('group', { name: 'How it went' })
  await expect(went).toBeVisible()
  await rep.keyboard.press('w')
  await rep.keyboard.press('w')
  await went.getByLabel('Succeeded').check()
  await expect(went.getByRole('button', { name: 'Fair' })).toHaveAttribute('aria-pressed', 'true')
  await rep.keyboard.press('1')
  await expect(rep.getByText('How it went: Fair')).toBeVisible()
  await rep.goto(`/prospects?filter=${encodeURIComponent('how the last call went is Fair and last call succeeded')}`)
  await expect(rep.getByRole('link', { name: 'Wynne Sorrel' })).toBeVisible()
  await rep.context().close()

  await stage.click()
  await page.getByRole('button', { name: 'Archive stage' }).click()
  await dialog.getByRole('button', { name: 'Archive' }).click()
  await expect(page.getByText(`“${name}” is archived.`)).toBeVisible()
})
