import { expect, type Locator, type Page, test } from '@playwright/test'
import type { Timer } from '../kinds/piece'
import { Api, shop, signIn } from './api'
import { choose, frame, outline, pickElement, saved, saveKit, scene, settings, stage, strip } from './designer'
import { countPresses, pressedWithin } from './press'

// Ten jobs of a day, each done through the screens in few clicks: at the usual
// width, and at the narrowest that the studio is made for.

let api: Api
let before: Set<string>
test.beforeAll(async () => {
  api = await Api.open()
  before = new Set((await api.board()).cards.filter(c => c.state === 'live').map(c => c.id))
})
test.afterEach(async () => {
  const stray = (await api.board()).cards.filter(c => c.state === 'live' && !before.has(c.id)).map(c => c.id)
  if (stray.length) await api.pause(...stray)
})

async function counted(page: Page) {
  await countPresses(page)
  await signIn(page)
}
/** A field is clicked before it is written in. */
async function fill(field: Locator, text: string) {
  await field.click()
  await field.fill(text)
}
const idOf = (page: Page) => page.url().match(/pieces\/([a-z0-9]+)/)![1]
const go = (page: Page, place: string) =>
  page
    .getByRole('navigation', { name: 'Piece' })
    .getByRole('link', { name: new RegExp(`^${place}`) })
    .click()
const launch = async (page: Page) => {
  await go(page, 'Launch')
  await page.getByRole('button', { name: 'Launch', exact: true }).click()
  await expect(page.getByRole('heading', { name: 'Live.', exact: true })).toBeVisible()
}
/** Adds a condition as it is typed. */
const when = async (page: Page, sentence: string) => {
  await page.getByRole('button', { name: '+ condition' }).last().click()
  await page.getByLabel('Find a condition').fill(sentence)
  await page.keyboard.press('Enter')
  await expect(page.getByLabel('Find a condition')).toHaveCount(0)
}
async function begin(page: Page, template: string) {
  await page.goto('/sites/1/new')
  await page.getByRole('button', { name: new RegExp(`^${template}`) }).click()
  await page.getByRole('button', { name: 'Create piece' }).click()
  await page.waitForURL('**/compose')
  await expect(stage(page).locator('.frame')).toBeVisible()
  return idOf(page)
}

// Both widths are gone through in a sweep, and one of them in each test: another each day (TURN).
const widths = process.env.SWEEP ? [1280, 1024] : [[1280, 1024][Number(process.env.TURN) % 2]]
for (const width of widths)
  test.describe(`at ${width} px`, () => {
    test.use({ viewport: { width, height: 800 } })
    test.beforeEach(({ page }) => counted(page))

    test('a popup with a file, after 30 seconds, once a month, not on product pages nor phones', async ({ page }) => {
      const id = await begin(page, 'A guide to take along')
      await stage(page).locator('.button').first().dblclick()
      await page.keyboard.press('Control+A')
      await page.keyboard.type('Send me the glaze guide')
      await page.keyboard.press('Escape')
      await strip(page)
        .getByRole('button', { name: /Thank-you/ })
        .click()
      await stage(page).locator('.button').first().click()
      await choose(settings(page).getByRole('combobox', { name: 'On click' }), 'Download a file', true)
      await settings(page)
        .getByLabel('File to download')
        .setInputFiles({ name: 'guide.pdf', mimeType: 'application/pdf', buffer: Buffer.from('%PDF-1.4 guide') })
      await saved(page)
      await go(page, 'Reach')
      await page.getByRole('button', { name: 'Remove limit 2' }).click()
      await choose(page.getByLabel('Over how long'), '30 days', true)
      await when(page, 'kind of page is not product')
      await when(page, 'device is not phone')
      await launch(page)
      await pressedWithin(page, 25)
      const doc = (await api.piece(id)).live!
      expect(doc.rule).toEqual({
        all: [
          { fact: 'moment.seconds_on_page', op: 'gte', value: 30 },
          { fact: 'page.kind', op: 'is_not', value: 'product' },
          { fact: 'device.kind', op: 'is_not', value: 'phone' },
        ],
      })
      expect(doc.caps.per_visitor).toEqual([{ times: 1, per: 'P30D' }])
      expect(scene(doc, 1).blocks.at(-1)).toMatchObject({ press: { do: 'file', file_name: 'guide.pdf' } })
    })

    test('a bar with a countdown of three days, a code, a wiggle, a tab, and other words on phones', async ({ page, browser }) => {
      const id = await begin(page, 'Countdown line')
      await choose(settings(page).getByRole('combobox', { name: 'Position' }), 'Bottom', true)
      await settings(page).getByRole('button', { name: 'Tab that opens it again' }).click()
      await fill(settings(page).getByLabel('Tab text', { exact: true }), '10 % off')
      await settings(page).getByLabel('Show after closing only').click()
      await outline(page).getByRole('button', { name: 'Timer', exact: true }).click()
      await fill(settings(page).getByLabel('Days'), '3')
      await fill(settings(page).getByLabel('Hours'), '0')
      await outline(page).getByRole('button', { name: 'Add code' }).click()
      await fill(settings(page).getByLabel('Code', { exact: true }), 'SUNDAY10')
      await stage(page).locator('.button').last().click()
      await settings(page).getByRole('button', { name: 'Size and animation' }).click()
      await choose(settings(page).getByRole('combobox', { name: 'Attention animation' }), 'Wiggle', true)
      await stage(page).locator('p').first().click()
      await settings(page).getByRole('button', { name: 'Different text on phones' }).click()
      await fill(settings(page).getByLabel('Text').first(), 'Ends soon')
      await saved(page)
      await launch(page)
      await pressedWithin(page, 25)
      const doc = (await api.piece(id)).live!
      const timer = scene(doc).blocks.find((b): b is Timer => b.kind === 'timer')!
      expect(timer.minutes).toBe(3 * 1440)
      expect(frame(doc)).toMatchObject({ place: 'bottom', bar: { pushes: true }, tab: { words: '10 % off', after: true } })
      // It is there from page to page, and once it is closed its tab is.
      const visitor = await (await browser.newContext()).newPage()
      const bar = visitor.locator('gobbet-piece .layer.bar .frame')
      await expect(async () => {
        await visitor.goto(`${shop}/journal`)
        await expect(bar).toBeVisible({ timeout: 2000 })
      }).toPass()
      await visitor.goto(`${shop}/shop`)
      await expect(bar).toBeVisible()
      await visitor.locator('gobbet-piece [data-close]').click()
      const tab = visitor.getByRole('button', { name: '10 % off' })
      await expect(tab).toBeVisible()
      await visitor.goto(`${shop}/journal`)
      await expect(tab).toBeVisible()
      await expect(bar).toHaveCount(0)
      await tab.click()
      await expect(bar).toBeVisible()
      await visitor.context().close()
    })

    test('a question first: yes leads to a form, no to an address', async ({ page }) => {
      const id = await begin(page, 'Yes or no first')
      await stage(page).getByText('No, show me what is new').click()
      await fill(settings(page).getByLabel('Link', { exact: true }), '/classes')
      await choose(settings(page).getByRole('combobox', { name: 'Style' }), 'Text link', true)
      await saved(page)
      await launch(page)
      await pressedWithin(page, 19)
      const [first, form] = [scene((await api.piece(id)).live!), scene((await api.piece(id)).live!, 1)]
      expect(first.edges).toHaveLength(1)
      expect(form.blocks.map(b => b.kind)).toContain('field')
      expect(first.blocks.at(-1)).toMatchObject({ quiet: true, press: { do: 'open', address: '/classes' } })
    })

    test('a form in a journal article, in the page’s own fonts and colours', async ({ page }) => {
      const id = await begin(page, 'Letter in the page')
      await fill(page.getByLabel('Page of the site'), '/journal/ash-glaze')
      await page.keyboard.press('Enter')
      await settings(page).getByRole('button', { name: 'Use the page’s own fonts and colours' }).click()
      await page.getByRole('button', { name: 'Choose an element on the page' }).click()
      const still = page.frameLocator('iframe[title="Page of the site"]')
      const paragraph = still.locator('main p').nth(1)
      await expect(paragraph).toBeAttached()
      await expect(async () => {
        const at = (await paragraph.boundingBox())!
        await page.mouse.click(at.x + 12, at.y + 6)
        expect(frame((await api.piece(id)).draft).anchor?.selector).toBeTruthy()
      }).toPass()
      await saved(page)
      await go(page, 'Reach')
      await when(page, 'page is /journal/ash-glaze')
      await launch(page)
      await pressedWithin(page, 18)
      const doc = (await api.piece(id)).live!
      expect(frame(doc)).toMatchObject({ background: '@page', ink: '@page', font: '@page' })
      expect((await api.piece(id)).notes.map(n => n.code)).not.toContain('no_place')
    })

    test('a popup opened by a button of the shop, picked on its page', async ({ page, browser }) => {
      const made = await api.make('Opened by a button')
      made.draft.rule = { all: [{ fact: 'page.path', op: 'is', value: '/classes' }] }
      await api.save(made.id, 1, made.draft)
      await page.goto(`/sites/1/pieces/${made.id}/reach`)
      await when(page, 'something is clicked')
      // The words of a button are not an element.
      await page.getByLabel(/^What .* clicked$/).fill('Buy now')
      await expect(page.getByRole('alert').first()).toContainText('matches it')
      await page.getByRole('button', { name: 'Pick on the page…' }).click()
      await pickElement(page, still => still.getByRole('link', { name: 'Shop', exact: true }))
      await saved(page)
      await launch(page)
      await pressedWithin(page, 15)
      const rule = (await api.piece(made.id)).live!.rule
      const selector = ('all' in rule && 'value' in rule.all[1] && String(rule.all[1].value)) as string
      const visitor = await (await browser.newContext()).newPage()
      await expect(async () => {
        await visitor.goto(`${shop}/classes`)
        await visitor.locator(selector).first().click({ timeout: 2000 })
        await expect(visitor.getByRole('dialog')).toBeVisible({ timeout: 2000 })
      }).toPass()
      // The link is held: the visitor is still on the page.
      expect(new URL(visitor.url()).pathname).toBe('/classes')
      await visitor.context().close()
    })

    test('two ways to the moment, regulars from the newsletter, in office hours; how many, and kept for another piece', async ({ page }) => {
      const made = await api.make(`Office hours ${width}`)
      await page.goto(`/sites/1/pieces/${made.id}/reach`)
      await page.getByRole('button', { name: 'Start from…' }).click()
      await page.getByRole('button', { name: /^Phone and past half, or desktop and leaving/ }).click()
      for (let i = 0; i < 2; i++) {
        await page.getByRole('button', { name: 'More for condition 2' }).last().click()
        await page.getByRole('menuitem', { name: 'Delete' }).click()
      }
      await when(page, 'visits ≥ 3')
      await when(page, 'channel is email')
      await when(page, 'weekday is Monday to Friday')
      await when(page, 'time between 9 and 17')
      await expect(page.getByText(/^In words:/)).toContainText(
        'number of visits is at least 3 and channel is email and weekday is one of Monday, Tuesday, Wednesday, Thursday, Friday and time of day is between 09:00 and 17:00.',
      )
      await expect(page.locator('[data-figure=visitors]')).toContainText(/of [\d,]+ visitors see it/)
      await page.getByRole('button', { name: 'Save the whole rule as a reach…' }).click()
      await fill(page.getByRole('dialog').getByLabel('Name'), `Office hours ${width} ${Date.now().toString(36)}`)
      await page.getByRole('dialog').getByRole('button', { name: 'Save' }).click()
      await expect(page.getByText('saved reach')).toBeVisible()
      await saved(page)
      await pressedWithin(page, 30)
      expect((await api.piece(made.id)).draft.rule).toMatchObject({ all: [{ saved: expect.any(String) }] })
    })

    test('a variant with another line, 70 to 30, and then the only one', async ({ page }) => {
      const live = await api.live(`Two lines ${width}`)
      await page.goto(`/sites/1/pieces/${live.id}/results`)
      await page.getByRole('button', { name: 'Add a variant' }).first().click()
      await page.getByRole('link', { name: 'Edit design' }).last().click()
      await stage(page).locator('h2').dblclick()
      await page.keyboard.press('Control+A')
      await page.keyboard.type('In five minutes')
      await page.keyboard.press('Escape')
      await saved(page)
      await go(page, 'Results')
      await fill(page.getByLabel('Share of variant A'), '70')
      await fill(page.getByLabel('Share of variant B'), '30')
      await page.keyboard.press('Tab')
      await saved(page)
      await go(page, 'Launch')
      await page.getByRole('button', { name: 'Launch changes' }).click()
      await expect(page.getByRole('heading', { name: 'Live.', exact: true })).toBeVisible()
      await go(page, 'Results')
      await page.getByRole('button', { name: 'Keep only B' }).click()
      const dialog = page.getByRole('dialog')
      await dialog.getByRole('button', { name: /^Apply/ }).click()
      await expect(dialog).toHaveCount(0)
      await saved(page)
      await pressedWithin(page, 16)
      const shares = (await api.piece(live.id)).draft.split.variants
      expect(shares.filter(v => v.share > 0).map(v => v.name)).toHaveLength(1)
    })

    test('everyone from one piece in the last week, exported, and one person’s answers', async ({ page }) => {
      await page.goto('/sites/1/people')
      await choose(page.getByLabel('Piece', { exact: true }), 'Which glaze is yours?', true)
      await choose(page.getByLabel('Period'), 'Last 7 days', true)
      await expect(page.getByRole('row').nth(1)).toContainText('@')
      const waiting = page.waitForEvent('download')
      await page.getByRole('link', { name: /CSV/ }).click()
      const path = (await (await waiting).path())!
      const { readFileSync } = await import('node:fs')
      const lines = readFileSync(path, 'utf8').trim().split('\r\n')
      expect(lines.length).toBeGreaterThan(1)
      for (const line of lines.slice(1)) expect(line).toContain('Which glaze is yours?')
      await page.getByRole('row').nth(1).getByRole('button').first().click()
      await expect(page.getByRole('dialog')).toContainText('Which glaze is yours?')
      await pressedWithin(page, 10)
    })

    test('all paused until a time; a piece found, duplicated, deleted and had back', async ({ page }) => {
      const live = await api.live(`Found by name ${width}`)
      await page.goto('/sites/1/board')
      // Planned from one time to another, and taken back.
      await page.getByRole('button', { name: 'Pause all…' }).click()
      await page.getByLabel('Start at a date and time').check()
      await page.getByRole('button', { name: 'Plan the pause' }).click()
      await expect(page.getByRole('status').filter({ hasText: /will pause on .*, and resume on / })).toBeVisible()
      expect(await api.piece(live.id)).toMatchObject({ state: 'live', pauses_at: expect.any(String), paused_until: expect.any(String) })
      await page.getByRole('button', { name: 'Cancel the pause' }).click()
      await expect.poll(async () => (await api.piece(live.id)).pauses_at).toBeNull()
      await page.getByRole('button', { name: 'Pause all…' }).click()
      await page
        .getByRole('dialog')
        .getByRole('button', { name: /^Pause/ })
        .click()
      await expect(page.getByRole('status').filter({ hasText: 'paused until' })).toBeVisible()
      expect((await api.piece(live.id)).paused_until).toBeTruthy()
      await page.getByRole('button', { name: 'Resume now' }).click()
      await expect.poll(async () => (await api.piece(live.id)).state).toBe('live')
      await fill(page.getByLabel('Search by name'), `Found by name ${width}`)
      const card = page.getByRole('article')
      await expect(card).toHaveCount(1)
      await card.getByRole('button', { name: /^More actions/ }).click()
      await page.getByRole('menuitem', { name: 'Duplicate' }).click()
      await page.waitForURL('**/compose')
      const copy = idOf(page)
      await page.getByRole('link', { name: 'Board', exact: true }).click()
      await fill(page.getByLabel('Search by name'), `Found by name ${width} (copy)`)
      await expect(card).toHaveCount(1)
      await card.getByRole('button', { name: /^More actions/ }).click()
      await page.getByRole('menuitem', { name: 'Delete' }).click()
      await expect(card).toHaveCount(0)
      await page.getByRole('button', { name: 'Undo', exact: true }).click()
      await expect(card).toHaveCount(1)
      await expect(page.getByText('restored, as a draft.')).toBeVisible()
      await pressedWithin(page, 16)
      expect((await api.piece(copy)).state).toBe('draft')
      await api.remove(copy)
    })

    test('the brand colour once for all, and a picture replaced in what is live', async ({ page }) => {
      const kit = await api.kit()
      const live = await api.live(`Brand ${width}`, () => {}, 'popup', {}, 'letter-with-a-picture')
      await page.goto('/sites/1/settings/style')
      const accent = kit.colors.find(c => c.id === 'accent')!
      await page.getByRole('button', { name: new RegExp(`^${accent.name}: ${accent.value}, change`) }).click()
      await page.getByLabel(`${accent.name}, as hex`).fill('6a2a5b')
      await page.keyboard.press('Escape')
      const save = page.getByRole('button', { name: 'Save for the whole site' })
      await expect(save).toBeInViewport()
      await page.getByRole('link', { name: 'Library' }).click()
      await saveKit(page, 'Save and leave')
      await expect.poll(async () => (await api.kit()).colors.find(c => c.id === 'accent')!.value).toBe('#6a2a5b')
      await page.waitForURL('**/library')
      await pressedWithin(page, 8)
      await api.setKit(kit)
      await live.end()
    })
  })
