import { expect } from '@playwright/test'
import { signIn } from './signIn'
import { test } from './fixtures'

test('a list is shown on the map; an area is drawn by keyboard alone, and filters all views', async ({ page }) => {
  await signIn(page, /Maren Holloway/)
  const asked: string[] = []
  page.on('request', (request) => asked.push(new URL(request.url()).host))
  await page.goto('/prospects')
  const count = page.getByRole('status').first()
  await expect(count).toContainText('people')
  const all = Number.parseInt((await count.textContent())!.replace(',', ''), 10)
  await page.getByRole('button', { name: 'Map', exact: true }).click()
  const places = page.getByRole('list').filter({ hasText: 'Ithaca' }).getByRole('listitem')
  await expect(places.filter({ hasText: 'Ithaca' })).toContainText('NY, US')
  const before = await places.count()
  await page.getByRole('button', { name: 'Draw an area' }).click()
  const map = page.getByRole('application', { name: 'Map of where they are' })
  await expect(map).toBeFocused()
  // Over what is shown of the Americas: left and right of the middle, which begins over Africa or Europe.
  const pan = async (key: string, times: number) => {
    for (let n = 0; n < times; n++) await map.press(key)
  }
  await pan('ArrowLeft', 1)
  await map.press(' ')
  await pan('ArrowLeft', 5)
  await map.press(' ')
  await pan('ArrowUp', 3)
  await map.press(' ')
  await map.press('Backspace')
  await map.press(' ')
  await map.press('Enter')
  await expect(page.getByText('place is inside the drawn area')).toBeVisible()
  await expect.poll(async () => Number.parseInt((await count.textContent())!.replace(',', ''), 10)).toBeLessThan(all)
  expect(new URL(page.url()).searchParams.get('filter')).toMatch(/place is inside \(-?[\d.]+ -?[\d.]+, /)
  await page.getByRole('button', { name: 'Clear filters' }).click()
  await expect(places).toHaveCount(before)
  // The map came with the app: nobody else was asked for anything.
  expect([...new Set(asked)]).toEqual([new URL(page.url()).host])
})

test('who is near a town is asked by its name, and from the map', async ({ page }) => {
  await signIn(page, /Imani Osei/)
  await page.goto('/prospects')
  const count = page.getByRole('status').first()
  await expect(count).toHaveText(/\d/)
  const everyone = (await count.textContent())!
  await page.getByRole('button', { name: 'Add filter' }).click()
  await page.getByLabel('Find a field').fill('place')
  await page.keyboard.press('Enter')
  await page.getByLabel('Miles').fill('50')
  await page.getByLabel('Town').fill('ithaca, ny')
  await page.getByRole('list', { name: 'Towns of this name' }).getByRole('button', { name: 'Ithaca NY, US' }).click()
  await page.getByRole('button', { name: 'Done' }).click()
  await expect(page.getByText('place is within 50 miles of Ithaca, NY, US')).toBeVisible()
  await expect(count).not.toHaveText(everyone)
  await page.getByRole('button', { name: 'Map', exact: true }).click()
  const ithaca = page.getByRole('button', { name: /^Ithaca NY, US/ })
  const people = Number((await ithaca.locator('.num').textContent())!)
  await ithaca.click()
  await page.getByRole('button', { name: /^Show (these|this)/ }).click()
  await expect(page.getByText('place is within 1 mile of Ithaca, NY, US')).toBeVisible()
  await expect(page.getByRole('status').first()).toContainText(`${people} p`)
  // The town in the wrong place on Earth is nobody's.
  await page.goto('/prospects?by=map&filter=place is within 80 km of "Nowhere" (0 -150)')
  await expect(page.getByText('0 places')).toBeVisible()
})

test('a company’s page shows where it is, and leads to prospects nearby', async ({ page }) => {
  await signIn(page, /Imani Osei/)
  await page.goto('/prospects?by=companies')
  await page.locator('a[href^="/companies/"]').first().click()
  await expect(page.getByRole('application', { name: /^Map of where/ })).toBeVisible()
  await page.getByRole('link', { name: 'Everyone within' }).click()
  await expect(page.getByRole('heading', { name: /^\d+ places?$/ })).toBeVisible()
  await expect(page.getByText(/place is within 30 miles of/)).toBeVisible()
})
