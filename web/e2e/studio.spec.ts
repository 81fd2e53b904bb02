import AxeBuilder from '@axe-core/playwright'
import { expect, type Page, test } from '@playwright/test'
import { Api, database, signIn } from './api'
import { choose } from './designer'

// The studio under bad luck and bad input: nothing that was typed is lost, and
// what is wrong is said where it is.

let api: Api
test.beforeAll(async () => {
  api = await Api.open()
})
test.beforeEach(({ page }) => signIn(page))

const stage = (page: Page) => page.locator('[data-stage]')
const settings = (page: Page) => page.getByRole('complementary', { name: 'Settings' })
const outline = (page: Page) => page.getByRole('complementary', { name: 'Outline' })
const standing = (page: Page, is: string) => expect(page.locator('[data-standing]')).toHaveAttribute('data-standing', is)

async function openHeading(page: Page, id: string) {
  await page.goto(`/sites/1/pieces/${id}/compose?block=title`)
  await expect(settings(page).getByLabel('Text')).toBeVisible()
}

test('a draft survives the network gone and a reload, and is sent after', async ({ page, context }) => {
  const { id } = await api.make('Survivor')
  await openHeading(page, id)
  await page.route('**/api/**', route => route.abort())
  await settings(page).getByLabel('Text').fill('Written in the dark')
  await standing(page, 'away')
  await expect(page.getByRole('alert')).toContainText('kept in this browser')
  await page.unroute('**/api/**')
  await page.route('**/api/sites/*/pieces/*', route => (route.request().method() === 'PUT' ? route.abort() : route.continue()))
  await page.reload()
  await expect(stage(page).locator('h2')).toHaveText('Written in the dark')
  expect((await api.piece(id)).version).toBe(1)
  await page.unroute('**/api/sites/*/pieces/*')
  await standing(page, 'saved')
  expect(JSON.stringify((await api.piece(id)).draft)).toContain('Written in the dark')
  await context.close()
})

test('two windows cannot overwrite each other', async ({ page, context }) => {
  const { id } = await api.make('Two windows')
  const other = await context.newPage()
  await openHeading(page, id)
  await openHeading(other, id)
  await settings(page).getByLabel('Text').fill('From the first')
  await standing(page, 'saved')
  await settings(other).getByLabel('Text').fill('From the second')
  await expect(other.getByRole('dialog')).toContainText('changed in another window')
  expect(JSON.stringify((await api.piece(id)).draft)).toContain('From the first')
  await other.getByRole('button', { name: 'Keep mine' }).click()
  await standing(other, 'saved')
  expect(JSON.stringify((await api.piece(id)).draft)).toContain('From the second')
  await settings(page).getByLabel('Text').fill('From the first again')
  await expect(page.getByRole('dialog')).toBeVisible()
  await page.getByRole('button', { name: 'Use the other window’s' }).click()
  await expect(stage(page).locator('h2')).toHaveText('From the second')
  await standing(page, 'saved')
})

test('the database stopped while working: the studio says so and recovers', async ({ page }) => {
  const { id } = await api.make('Through an outage')
  await openHeading(page, id)
  const pg = database()
  pg.stop()
  try {
    await settings(page).getByLabel('Text').fill('Typed through it')
    await expect(page.getByRole('alert')).toContainText('database does not answer')
    await standing(page, 'away')
    await settings(page).getByLabel('Text').fill('Typed through it, and on')
  } finally {
    pg.start()
  }
  await standing(page, 'saved')
  await expect(page.getByRole('alert')).toHaveCount(0)
  expect(JSON.stringify((await api.piece(id)).draft)).toContain('Typed through it, and on')
})

test('a fault is marked at its input, and mending it saves', async ({ page }) => {
  const { id } = await api.make('Faults')
  await page.goto(`/sites/1/pieces/${id}/compose?block=send`)
  await choose(settings(page).getByLabel('On click'), 'Open a link')
  await settings(page).getByLabel('Link', { exact: true }).fill('javascript:alert(1)')
  await expect(settings(page).getByRole('alert')).toContainText('https://')
  await standing(page, 'faulty')
  await settings(page).getByLabel('Link', { exact: true }).fill('https://shop.example.com/')
  await standing(page, 'saved')
  await expect(settings(page).getByRole('alert')).toHaveCount(0)
})

test('everything is undone, step by step, from the keyboard', async ({ page }) => {
  const { id } = await api.make('Undo')
  await openHeading(page, id)
  const heading = stage(page).locator('h2')
  await page.keyboard.press('Escape')
  await page.locator('body').click({ position: { x: 5, y: 790 } })
  await outline(page).getByRole('button', { name: 'Say what they get', exact: true }).click()
  await page.keyboard.press('Delete')
  await expect(heading).toHaveCount(0)
  await outline(page).getByRole('button', { name: 'Count me in', exact: true }).click()
  await page.keyboard.press('Control+D')
  await expect(stage(page).getByRole('button', { name: 'Count me in' })).toHaveCount(2)
  await page.keyboard.press('Control+Z')
  await expect(stage(page).getByRole('button', { name: 'Count me in' })).toHaveCount(1)
  await page.keyboard.press('Control+Z')
  await expect(heading).toHaveText('Say what they get')
  await page.keyboard.press('Control+Y')
  await expect(heading).toHaveCount(0)
  await page.keyboard.press('Control+Z')
  // Typing is one step, whatever it took.
  await outline(page).getByRole('button', { name: 'Say what they get', exact: true }).click()
  await settings(page).getByLabel('Text').pressSequentially(', now', { delay: 20 })
  await expect(heading).toHaveText(/now/)
  await page.keyboard.press('Control+Z')
  await expect(heading).toHaveText('Say what they get')
  await standing(page, 'saved')
})

test('blocks are dragged in the outline', async ({ page }) => {
  const { id } = await api.make('Dragged')
  await page.goto(`/sites/1/pieces/${id}/compose`)
  const items = outline(page).getByRole('listitem')
  await expect(items).toHaveCount(5)
  await items.nth(4).hover()
  const handle = (await outline(page).getByRole('button', { name: 'Move Count me in' }).boundingBox())!
  const first = (await items.nth(0).boundingBox())!
  await page.mouse.move(handle.x + 8, handle.y + 8)
  await page.mouse.down()
  await page.mouse.move(handle.x + 8, handle.y - 20, { steps: 4 })
  await page.mouse.move(handle.x + 8, first.y + 4, { steps: 12 })
  await page.mouse.up()
  await expect(items.first()).toContainText('Count me in')
  await standing(page, 'saved')
})

test('groups, not, and or by the click of a word', async ({ page }) => {
  const { id } = await api.make('Groups')
  await page.goto(`/sites/1/pieces/${id}/reach`)
  await page.getByRole('button', { name: '+ group' }).click()
  const words = page.getByText(/^In words:/)
  await expect(words).toHaveText('In words: show it when time on page reaches 30 s and either time on page reaches 30 s or scroll reaches 50 %.')
  await page.getByRole('button', { name: 'or: change this one to and' }).click()
  await expect(words).toContainText('and both time on page reaches 30 s and scroll reaches 50 %')
  await page.getByRole('button', { name: 'More for condition 1' }).first().click()
  await page.getByRole('menuitem', { name: 'Negate' }).click()
  await expect(words).toContainText('show it when not (time on page reaches 30 s) and')
  await page.getByRole('button', { name: 'Remove “not”' }).click()
  await page.getByRole('button', { name: 'More for condition 2' }).first().click()
  await page.getByRole('menuitem', { name: 'Delete' }).click()
  await expect(words).toHaveText('In words: show it when time on page reaches 30 s.')
  await page.getByRole('button', { name: '+ condition' }).click()
  await page.getByLabel('Find a condition').fill('device')
  await page.keyboard.press('Enter')
  await choose(page.getByLabel('Comparison'), 'is one of')
  await choose(page.getByRole('combobox', { name: 'device', exact: true }), 'phone')
  await page.keyboard.press('Escape')
  await expect(words).toContainText('device is one of desktop, phone')
  await standing(page, 'saved')
})

test('playing a piece sends nothing', async ({ page }) => {
  const { id } = await api.make('Played')
  await page.goto(`/sites/1/pieces/${id}/compose`)
  await page.getByRole('button', { name: 'Play' }).click()
  const played = page.locator('[data-played]')
  await played.getByLabel('First name').fill('Una')
  await played.getByLabel('Email').fill('una@example.com')
  await played.getByRole('button', { name: 'Count me in' }).click()
  await expect(played.getByRole('heading')).toHaveText('Thank you, Una')
  await played.getByRole('button', { name: 'Back to the page' }).click()
  await expect(played).toHaveCount(0)
  expect((await api.people('una@example.com')).total).toBe(0)
})

test('hostile words do nothing in the studio', async ({ page }) => {
  const words = '<img src=x onerror="window.hit=1"><script>window.hit=1</script>'
  const made = await api.make(words)
  made.draft.split.variants[0].design.scenes[0].blocks[0] = { kind: 'heading', id: 'title', text: words, size: 30, align: 'start' }
  await api.save(made.id, 1, made.draft)
  for (const place of ['compose', 'reach', 'results', 'hand-off', 'launch']) {
    await page.goto(`/sites/1/pieces/${made.id}/${place}`)
    await expect(page.getByLabel('Name of the piece')).toHaveValue(words)
  }
  await page.goto('/sites/1/board')
  await expect(page.getByRole('heading', { name: words })).toBeVisible()
  expect(await page.evaluate(() => (window as unknown as { hit?: number }).hit)).toBeUndefined()
})

test('a piece is deleted and restored', async ({ page }) => {
  const { id } = await api.make('Off and on')
  await page.goto('/sites/1/board')
  const card = page.getByRole('article').filter({ hasText: 'Off and on' })
  await card.getByRole('button', { name: /More/ }).click()
  await page.getByRole('menuitem', { name: 'Delete' }).click()
  await expect(card).toHaveCount(0)
  await page.getByRole('button', { name: 'Undo', exact: true }).click()
  await expect(card).toHaveCount(1)
  expect((await api.piece(id)).state).toBe('draft')
})

test('the site: the line to copy, and only domains are taken', async ({ page }) => {
  await page.goto('/sites/1/settings')
  await page.getByRole('button', { name: /^Install the script/ }).click()
  await page.getByRole('button', { name: /^Name and domains/ }).click()
  await expect(page.locator('code').first()).toContainText('data-site="quillfern"')
  const domains = page.getByLabel('Domains, one per line')
  const siteForm = page.locator('form').filter({ has: domains })
  const before = await domains.inputValue()
  await domains.fill(`${before}\nhttps://a.example.com/page`)
  await siteForm.getByRole('button', { name: 'Save' }).click()
  await expect(page.getByText('“https://a.example.com/page” should be a domain alone')).toBeVisible()
  await domains.fill(`${before}\na.example.com`)
  await siteForm.getByRole('button', { name: 'Save' }).click()
  await expect(siteForm.getByRole('status')).toContainText('Saved')
  await expect(domains).toHaveValue(`${before}\nhttps://a.example.com`)
  await domains.fill(before)
  await siteForm.getByRole('button', { name: 'Save' }).click()
  await expect(domains).toHaveValue(before)
})

test('a board of many pieces draws what is in view, asks for each drawing once and for counts often', async ({ page }) => {
  const made = []
  for (let i = 0; i < 60; i++) made.push((await api.make(`Among many ${String(i).padStart(2, '0')}`)).id)
  const asked: string[] = []
  page.on('request', r => /\/(board|drawing)$/.test(new URL(r.url()).pathname) && asked.push(new URL(r.url()).pathname))
  await page.goto('/sites/1/board?q=Among+many&sort=name')
  const card = (n: string) => page.getByRole('article', { name: `Among many ${n}` })
  await expect(card('00').locator('.frame')).toBeVisible()
  expect(await page.getByRole('article').count()).toBeLessThan(40)
  await expect(card('59')).toHaveCount(0)
  await expect.poll(() => asked.filter(a => a.endsWith('board')).length).toBeGreaterThan(2)
  // Counts that come while the window scrolls may end the scrolling on a busy machine.
  const scrollTo = (key: string, name: string) =>
    expect(async () => {
      await page.keyboard.press(key)
      await expect(card(name).locator('.frame')).toBeVisible({ timeout: 4000 })
    }).toPass({ timeout: 20_000 })
  await scrollTo('End', '59')
  await expect(card('00')).toHaveCount(0)
  await scrollTo('Home', '00')
  const drawings = asked.filter(a => a.endsWith('drawing'))
  expect(drawings.length).toBeGreaterThan(4)
  expect(new Set(drawings).size).toBe(drawings.length)
  for (const id of made) await api.remove(id)
})

for (const screen of [
  'board',
  'people',
  'results',
  'new',
  'settings',
  'settings/style',
  'settings/library',
  'settings/codes',
  'priority',
  'pieces/glazeclub/compose',
  'pieces/glazeclub/reach',
  'pieces/glazeclub/results',
  'pieces/glazeclub/hand-off',
  'pieces/wheelevening/launch',
])
  test(`no serious accessibility finding, no broken rule of its own policy, nothing beside the window at 1024, 1440 and 200 %: ${screen}`, async ({ page }) => {
    const refused: string[] = []
    page.on('console', m => /Content Security Policy/.test(m.text()) && refused.push(m.text()))
    await page.goto(`/sites/1/${screen}`)
    await expect(page.locator('main')).toBeVisible()
    await page.waitForLoadState('networkidle')
    // A colour on its way from one to another is neither.
    await page.evaluate(() =>
      Promise.all(document.getAnimations().flatMap(a => (Number.isFinite(a.effect?.getComputedTiming().endTime) ? a.finished.catch(() => {}) : []))),
    )
    const found = await new AxeBuilder({ page })
      .options({ resultTypes: ['violations'], rules: { 'target-size': { enabled: true } } })
      .exclude('iframe')
      .exclude('[inert]')
      .exclude('[data-stage]')
      .analyze()
    const serious = found.violations.filter(v => v.impact === 'serious' || v.impact === 'critical')
    expect(serious.map(v => `${v.id}: ${v.nodes.map(n => n.html.slice(0, 90)).join(' | ')}`)).toEqual([])
    expect(refused).toEqual([])
    for (const width of [1024, 1440, 640]) {
      await page.setViewportSize({ width, height: width / 1.6 })
      await expect.poll(() => page.evaluate(() => document.scrollingElement!.scrollWidth)).toBeLessThanOrEqual(width)
    }
  })
