import { expect, type Page, test } from '@playwright/test'
import type { Kit } from '../kinds/style'
import { Api, shop, signIn } from './api'
import { saved, saveKit } from './designer'

// The site's style, its library and its board, by hand.

let api: Api
let kit: Kit
test.beforeAll(async () => {
  api = await Api.open()
  kit = await api.kit()
})
test.beforeEach(({ page }) => signIn(page))
test.afterEach(async () => {
  await api.setKit(kit)
})

/** A picture file of bands of colour, made in the browser. */
async function picture(page: Page, bands: string[]) {
  const bytes = await page.evaluate(async bands => {
    const canvas = Object.assign(document.createElement('canvas'), { width: 120, height: 40 })
    const c = canvas.getContext('2d')!
    const wide = canvas.width / bands.length
    bands.forEach((band, i) => {
      c.fillStyle = band
      c.fillRect(i * wide, 0, wide, canvas.height)
    })
    return [...new Uint8Array(await (await new Promise<Blob>(done => canvas.toBlob(b => done(b!)))).arrayBuffer())]
  }, bands)
  return { name: 'bands.png', mimeType: 'image/png', buffer: Buffer.from(bytes) }
}

test('colours come from a logo, get names, and go again while nothing uses them', async ({ page }) => {
  await page.goto('/sites/1/settings/style')
  const names = page.getByLabel(/^Name of /)
  await expect(names.first()).toBeVisible()
  const before = await names.count()
  await page.getByLabel('Logo').setInputFiles(await picture(page, ['#145a50', '#145a50', '#f0b428']))
  await page.getByRole('button', { name: 'Add #145a50' }).click()
  await page.getByRole('button', { name: 'Add #f0b428' }).click()
  await expect(names).toHaveCount(before + 2)
  await names.last().fill('Marigold')
  await saveKit(page)
  await expect(page.getByText(/^Saved[.,]/)).toBeVisible()
  const saved = await api.kit()
  expect(saved.colors.at(-1)).toMatchObject({ name: 'Marigold', value: '#f0b428' })
  expect(saved.colors.at(-2)).toMatchObject({ value: '#145a50' })
  await page.reload()
  await page.getByRole('button', { name: 'Delete' }).last().click()
  await expect(names).toHaveCount(before + 1)
  // What is not saved is given up again.
  await page.getByRole('button', { name: 'Discard', exact: true }).click()
  await expect(names).toHaveCount(before + 2)
  // A file without colours says so.
  await page.getByLabel('Logo').setInputFiles({ name: 'logo.png', mimeType: 'image/png', buffer: Buffer.from('no picture') })
  await expect(page.getByText('No colours could be read from this file. Use PNG, JPEG or WebP.')).toBeVisible()
})

test('letters and shapes of the style are seen at once on the pieces that follow', async ({ page }) => {
  await page.goto('/sites/1/settings/style')
  await expect(page.locator('.frame').first()).toBeVisible()
  await page.getByLabel('Frame corners').fill('30')
  await page.keyboard.press('Tab')
  await expect(page.locator('.frame').first()).toHaveCSS('border-top-left-radius', '30px')
  await page.getByLabel('Uppercase buttons').click()
  await saveKit(page)
  await expect(page.getByText(/^Saved, also in \d+ live pieces?\.$/)).toBeVisible()
  expect(await api.kit()).toMatchObject({ corners: 30, button: { capital: true } })
  // What is live already is taken back.
  await page.getByRole('button', { name: 'Undo', exact: true }).click()
  await expect(page.getByText('The style kit is as it was before.')).toBeVisible()
  expect((await api.kit()).corners).not.toBe(30)
})

test('the library takes files in, names what it cannot take, and finds by name', async ({ page }) => {
  await page.goto('/sites/1/settings/library')
  const main = page.getByRole('main')
  const good = await picture(page, ['#883322', '#224488'])
  await page.getByLabel('Pictures or files').setInputFiles([
    { ...good, name: 'striped.png' },
    { name: 'glaze list.pdf', mimeType: 'application/pdf', buffer: Buffer.from('%PDF-1.4 glazes') },
    { name: 'broken.png', mimeType: 'image/png', buffer: Buffer.from('\x89PNG\r\n\x1a\nnothing more') },
  ])
  await expect(page.getByText(/^broken\.png: /)).toBeVisible()
  await expect(main.getByLabel('Name of striped.png')).toBeVisible()
  await expect(main.getByLabel('Name of glaze list.pdf')).toBeVisible()
  const search = page.getByLabel('Search by name')
  await search.fill('strip')
  await expect(main.getByLabel('Name of striped.png')).toBeVisible()
  await expect(main.getByLabel('Name of glaze list.pdf')).toHaveCount(0)
  await search.fill('')
  await main
    .locator('[data-picture]')
    .filter({ has: page.getByLabel('Name of striped.png') })
    .getByRole('button', { name: 'Delete' })
    .click()
  await page.getByRole('dialog').getByRole('button', { name: 'Delete' }).click()
  await expect(main.getByLabel('Name of striped.png')).toHaveCount(0)
})

test('what is uploaded is listed, though the list was asked for before and comes late', async ({ page }) => {
  let first = true
  await page.route('**/api/sites/*/pictures', async route => {
    if (route.request().method() !== 'GET' || !first) return route.continue()
    first = false
    const early = await route.fetch()
    await new Promise(late => setTimeout(late, 1500))
    await route.fulfill({ response: early }).catch(() => {}) // given up by then
  })
  await page.goto('/sites/1/settings/library')
  const file = await picture(page, ['#225533', '#aa8844', '#112233'])
  await page.getByLabel('Pictures or files').setInputFiles([{ ...file, name: 'three bands.png' }])
  const card = page.locator('[data-picture]').filter({ has: page.getByLabel('Name of three bands.png') })
  await expect(card).toBeVisible()
  await card.getByRole('button', { name: 'Delete' }).click()
  await page.getByRole('dialog').getByRole('button', { name: 'Delete' }).click()
  await expect(card).toHaveCount(0)
})

test('the board sorts, sifts, copies and saves pieces', async ({ page }) => {
  const made = await api.make('Aardvark on the board')
  await page.goto('/sites/1/board')
  const cards = page.getByRole('article')
  await expect(cards.first()).toBeVisible()
  const state = async (name: string) => {
    await page.getByRole('button', { name: new RegExp(`^${name} \\d+$`) }).click()
    await expect(page.getByRole('button', { name: new RegExp(`^${name} \\d+$`), pressed: true })).toBeVisible()
    await expect(cards.first()).toBeVisible()
    return cards.allInnerTexts()
  }
  for (const text of await state('Draft')) expect(text).toContain('Draft')
  for (const text of await state('Live')) expect(text).toContain('Live')
  await page.getByRole('button', { name: /^All \d+$/ }).click()
  await page.getByRole('combobox', { name: 'Sort by' }).click()
  const sorts = await page.getByRole('option').allInnerTexts()
  expect(sorts.length).toBeGreaterThanOrEqual(3)
  await page.keyboard.press('Escape')
  // What is chosen stays over a reload: it is in the address.
  await page.goto('/sites/1/board?state=draft&sort=nonsense')
  await expect(page.getByRole('button', { name: /^Draft \d+$/, pressed: true })).toBeVisible()

  const card = cards.filter({ hasText: 'Aardvark on the board' }).first()
  await card.getByRole('button', { name: 'More actions for Aardvark on the board' }).click()
  const waiting = page.waitForEvent('download')
  await page.getByRole('menuitem', { name: 'Download as a file' }).click()
  expect((await waiting).suggestedFilename()).toMatch(/\.zip$/)
  await card.getByRole('button', { name: 'More actions for Aardvark on the board' }).click()
  await page.getByRole('menuitem', { name: 'Duplicate' }).click()
  await page.waitForURL('**/compose')
  const copy = page.url().split('/').at(-2)!
  expect(copy).not.toBe(made.id)
  const twin = await api.piece(copy)
  expect(twin.draft.split.variants[0].design).toEqual(made.draft.split.variants[0].design)
  await api.remove(copy)
  await api.remove(made.id)
})

test('who is looked for in vain is said so, whatever was typed', async ({ page }) => {
  await page.goto('/sites/1/people')
  const none = page.getByText('No people match')
  for (const typed of ['nobody-of-this-name', "' or 1=1 --", '%%', '_____________', '\\', '<script>alert(1)</script>', 'x'.repeat(300)]) {
    await page.getByLabel('Search people').fill(typed)
    await expect(none, typed).toBeVisible()
  }
  await page.getByLabel('Search people').fill('')
  await expect(none).toHaveCount(0)
})

test('the site’s own data is called what one calls it, in its settings, in rules and in sentences', async ({ page }) => {
  await page.goto('/sites/1/settings#data')
  const data = page.getByRole('region', { name: 'Site data' })
  await data.getByRole('textbox', { name: 'basket_total' }).fill('What is in the basket')
  await data.getByRole('textbox', { name: 'member' }).fill('what is  in the basket')
  await data.getByRole('button', { name: 'Save', exact: true }).click()
  await expect(data.getByText('is what basket_total is called already')).toBeVisible()
  await data.getByRole('textbox', { name: 'member' }).fill('')
  await data.getByRole('button', { name: 'Save', exact: true }).click()
  await expect(data.getByRole('status')).toContainText('Saved')
  const made = await api.make('For large baskets')
  await reachedBy(page, made.id, 'in the basket', 'What is in the basket')
  await expect(page.getByRole('button', { name: 'What is in the basket', exact: true })).toBeVisible()
  await expect(page.getByText(/^In words:/)).toContainText('What is in the basket')
  await saved(page)
  // The rule names the data as the pages send it: another name changes no rule.
  expect(JSON.stringify((await api.piece(made.id)).draft.rule)).toContain('"data.basket_total"')
  await api.settings({ data: {} })
})

/** Adds the condition that is found by these words to a piece's rule. */
async function reachedBy(page: Page, id: string, words: string, name: string) {
  await page.goto(`/sites/1/pieces/${id}/reach`)
  await page.getByRole('button', { name: '+ condition' }).last().click()
  await page.getByLabel('Find a condition').fill(words)
  await expect(page.getByRole('option', { name })).toBeVisible()
  await page.keyboard.press('Enter')
}

test('two windows name different data of the site, and hostile names are names', async ({ page, browser }) => {
  const visitor = await (await browser.newContext()).newPage()
  await visitor.goto(`${shop}/journal`)
  await visitor.evaluate(() => window.gobbet!.push({ data: { constructor: 1, 'cart.lines': 3 } }))
  await visitor.waitForLoadState('networkidle')
  await visitor.goto(`${shop}/shop`)
  const data = (at: Page) => at.getByRole('region', { name: 'Site data' })
  await expect(async () => {
    await page.goto('/sites/1/settings#data')
    await expect(data(page).getByRole('textbox', { name: 'cart.lines' })).toBeVisible({ timeout: 3000 })
  }).toPass()
  await expect(data(page).getByRole('textbox', { name: 'constructor' })).toHaveValue('')
  await expect(data(page)).not.toContainText(/native code|\[object/)
  const other = await page.context().newPage()
  await other.goto('/sites/1/settings#data')
  const save = async (at: Page, ...names: [string, string][]) => {
    for (const [name, says] of names) await data(at).getByRole('textbox', { name }).fill(says)
    await data(at).getByRole('button', { name: 'Save', exact: true }).click()
    await expect(data(at).getByRole('status')).toContainText('Saved')
  }
  await save(other, ['cart.lines', 'Lines in the cart'])
  const mine: [string, string][] = [
    ['constructor', 'The builder'],
    ['member', 'Club member'],
  ]
  await save(page, ...mine)
  expect(Object.entries((await api.siteNow()).settings.data ?? {})).toEqual(expect.arrayContaining([['cart.lines', 'Lines in the cart'], ...mine]))
  await expect(data(page).getByRole('textbox', { name: 'cart.lines' })).toHaveValue('Lines in the cart')
  const made = await api.make('By hostile names')
  await reachedBy(page, made.id, 'The builder', 'The builder')
  await expect(page.getByText(/^In words:/)).toContainText('The builder')
  await saved(page)
  await api.settings({ data: {} })
  await page.reload()
  await expect(page.getByText(/^In words:/)).toContainText('constructor')
  await visitor.context().close()
})
