import { expect, type Page, test } from '@playwright/test'
import { Api, signIn } from './api'
import { open, outline, saved, settings, stage } from './designer'

// Around the studio without a pointer, on a narrow screen, and at another zoom.

let api: Api
test.beforeAll(async () => {
  api = await Api.open()
})

const focused = (page: Page) =>
  page.evaluate(() => {
    const e = document.activeElement as HTMLElement
    return e.getAttribute('aria-label') ?? e.textContent ?? ''
  })

test('who is not signed in gets the sign-in at once, without an error, under a name of its own', async ({ browser }) => {
  const page = await (await browser.newContext()).newPage()
  const errors: string[] = []
  page.on('console', m => m.type() === 'error' && errors.push(m.text()))
  await page.goto('/sites/1/people')
  await expect(page.getByRole('main').getByRole('heading', { name: 'Sign in', level: 1 })).toBeVisible()
  expect(errors).toEqual([])
  // And comes to where they wanted to go.
  await page.getByLabel('Email').fill('mara@quillfern.test')
  await page.getByLabel('Password').fill('ash and celadon')
  await page.keyboard.press('Enter')
  await page.waitForURL('**/sites/1/people')
  await expect(page.getByRole('heading', { name: 'People', level: 1 })).toBeVisible()
  await page.context().close()
})

test('a link skips to the content, F6 goes from region to region, and keys alone can be turned off', async ({ page }) => {
  await signIn(page)
  await page.goto('/sites/1/board')
  await expect(page.getByRole('heading', { name: 'On the site now' })).toBeVisible()
  await page.keyboard.press('Tab')
  expect(await focused(page)).toBe('Skip to the content')
  await page.keyboard.press('Enter')
  expect(await page.evaluate(() => document.activeElement?.localName)).toBe('main')
  const { id } = await api.make('By keyboard')
  await open(page, id, 'title')
  const regions: string[] = []
  for (let i = 0; i < 6; i++) {
    await page.keyboard.press('F6')
    regions.push(
      await page.evaluate(() => {
        const region = document.activeElement!.closest('header, nav, aside, section[aria-label]')
        return region ? (region.getAttribute('aria-label') ?? region.localName) : '?'
      }),
    )
  }
  expect(new Set(regions)).toEqual(new Set(['header', 'Piece', 'Outline', 'Settings', 'Scenes']))
  await page.keyboard.press('Shift+F6')
  expect(await page.evaluate(() => document.activeElement!.closest('header, nav, aside, section[aria-label]') !== null)).toBe(true)
  // Each place has one heading of the first level.
  for (const place of ['compose', 'reach', 'results', 'hand-off', 'launch']) {
    await page.goto(`/sites/1/pieces/${id}/${place}`)
    await expect(page.getByRole('heading', { level: 1 })).toHaveCount(1)
    await expect(page.getByRole('heading', { level: 1 })).toContainText('By keyboard')
  }
  await page.keyboard.press('?')
  const list = page.getByRole('dialog', { name: 'Keyboard shortcuts' })
  await list.getByLabel('Keys without Ctrl or Alt').uncheck()
  await list.getByRole('button', { name: 'Close' }).click()
  await page.reload()
  await expect(page.getByRole('heading', { level: 1 })).toHaveCount(1)
  await page.keyboard.press('?')
  await expect(list).toHaveCount(0)
  await page.evaluate(() => localStorage.removeItem('gobbet-single-keys'))
})

test('in the outline Enter edits, and the keyboard stays after editing and after deleting; what is drawn takes neither Tab nor typing', async ({ page }) => {
  await signIn(page)
  const { id } = await api.make('Kept in place')
  await open(page, id)
  const row = (name: string) => outline(page).getByRole('button', { name, exact: true })
  await row('Say what they get').focus()
  await page.keyboard.press('Enter')
  await expect(row('Say what they get')).toHaveAttribute('aria-pressed', 'true')
  await page.keyboard.press('Enter')
  const editor = stage(page).getByRole('textbox', { name: /^Text: Say what they get/ })
  await expect(editor).toBeVisible()
  await page.keyboard.press('Control+a')
  await page.keyboard.type('Five new glazes')
  await page.keyboard.press('Escape')
  await expect(row('Five new glazes')).toBeFocused()
  await page.keyboard.press('Delete')
  await expect(row('Five new glazes')).toHaveCount(0)
  expect(await focused(page)).toContain('And in a line or two')
  await saved(page)
  // The Tab key goes from the outline past what is drawn.
  const inside = () => page.evaluate(() => !!document.querySelector('[data-stage]')?.shadowRoot?.activeElement)
  for (let i = 0; i < 60; i++) {
    await page.keyboard.press('Tab')
    expect(await inside()).toBe(false)
  }
  await stage(page).getByLabel('Email').click({ force: true })
  await page.keyboard.type('x')
  expect(await inside()).toBe(false)
  await expect(stage(page).getByLabel('Email')).toHaveValue('')
  await expect(settings(page)).toBeVisible()
})

test('the order of priority is changed by buttons and by keys', async ({ page }) => {
  await signIn(page)
  const [a, b] = [await api.live('First in line'), await api.live('Second in line')]
  await page.goto('/sites/1/priority')
  const list = page.getByRole('region', { name: 'Over the page' })
  const order = () => list.locator('[data-piece]').evaluateAll(all => all.map(e => (e as HTMLElement).dataset.piece))
  await expect(list.getByRole('button', { name: 'Move Second in line up' })).toBeVisible()
  const before = (await order()).indexOf(b.id)
  await list.getByRole('button', { name: 'Move Second in line up' }).click()
  await list.getByRole('button', { name: 'Move Second in line up' }).click()
  await expect.poll(async () => (await order()).indexOf(b.id)).toBe(before - 2)
  await expect(list.getByRole('button', { name: 'Move Second in line up' })).toBeFocused()
  await page.reload()
  await expect.poll(async () => (await order()).indexOf(b.id)).toBe(before - 2)
  await a.end()
  await b.end()
})

test('at 320 px the top line folds, and nothing of the usual screens is cut off sideways', async ({ page }) => {
  await signIn(page)
  await page.setViewportSize({ width: 320, height: 640 })
  for (const path of ['board', 'people', 'settings', 'settings/codes', 'priority']) {
    await page.goto(`/sites/1/${path}`)
    await expect(page.getByRole('heading', { level: 1 }).first()).toBeVisible()
    for (const place of ['Board', 'People', 'Results', 'Site'])
      await expect(page.getByRole('navigation', { name: 'Site', exact: true }).getByRole('link', { name: place, exact: true })).toBeInViewport({ ratio: 1 })
  }
})
