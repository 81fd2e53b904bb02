import { expect, type Page, test } from '@playwright/test'
import type { Anchor } from '../kinds/piece'
import { Api, and, meanwhile, shop, signIn } from './api'
import { frame, open, settings } from './designer'
import { lineOf, served } from './host'

// Pieces in the flow of the page, and what the visitor reads there: nothing moves
// under it.

let api: Api
test.beforeAll(async () => {
  api = await Api.open()
  await api.settings({ limits: {} })
})

const inline = (page: Page) => page.locator('gobbet-piece .layer.inline')
const live = (name: string, anchor?: Anchor) =>
  api.live(
    name,
    p => {
      frame(p).anchor = anchor
      p.caps = {}
    },
    'inline',
  )

/** Serves a piece's page with this on it, and measures what moves there. */
async function pageOf(page: Page, url: string, body: string) {
  await served(
    page,
    url,
    html =>
      `<!doctype html><html lang="en"><meta name="viewport" content="width=device-width"><title>Glazes</title>${lineOf(html)}<body style="margin:0;font:16px/1.5 sans-serif"><main>${body}</main></html>`,
  )
  await page.addInitScript(() => {
    Object.assign(window, { shifted: 0 })
    new PerformanceObserver(list => {
      for (const e of list.getEntries()) (window as unknown as { shifted: number }).shifted += (e as unknown as { value: number }).value
    }).observe({ type: 'layout-shift', buffered: true })
  })
}

/** How much of what is in view has moved by now, as browsers measure it. */
async function shifted(page: Page) {
  await page.evaluate(() => new Promise(done => requestAnimationFrame(() => requestAnimationFrame(done))))
  return page.evaluate(() => (window as unknown as { shifted: number }).shifted)
}

const glaze = (n: number) => `<p id="p${n}" style="height:90px;margin:0">Glaze ${n}</p>`
const glazes = (from: number, to: number) => Array.from({ length: to - from }, (_, i) => glaze(from + i)).join('')
const fetched = (page: Page) => page.waitForResponse(r => r.url().includes('/designs/'))

test('where the visitor reads it waits; once they have passed, it comes above them', async ({ page }) => {
  const piece = await live('Patient', { selector: '#p2' })
  await pageOf(page, piece.url, glazes(0, 60))
  const came = fetched(page)
  await page.goto(piece.url)
  await came
  await meanwhile(page, 600)
  await expect(page.locator('gobbet-piece')).toHaveCount(0)
  // A little way is not enough.
  await page.mouse.move(400, 300)
  await page.mouse.wheel(0, 150)
  await meanwhile(page, 300)
  await expect(page.locator('gobbet-piece')).toHaveCount(0)
  await page.mouse.wheel(0, 600)
  await expect(page.locator('#p2 + gobbet-piece .layer.inline')).toHaveCount(1)
  expect(await shifted(page)).toBe(0)
  await piece.end()
})

test('what may not show any more while it waits does not come', async ({ page }) => {
  const piece = await api.live(
    'Dropped',
    p => {
      frame(p).anchor = { selector: '#p2' }
      p.caps = {}
      and(p, { not: { fact: 'data.way', op: 'is', value: 'member' } })
    },
    'inline',
  )
  await pageOf(page, piece.url, glazes(0, 60))
  const came = fetched(page)
  await page.goto(piece.url)
  await came
  await meanwhile(page, 300)
  const past = async (data: object) => {
    const judged = page.waitForResponse('**/decide')
    await page.evaluate(told => window.gobbet!.push({ data: told as Record<string, string> }), data)
    await judged
    await meanwhile(page, 100)
    await page.mouse.move(400, 300)
    await page.mouse.wheel(0, 700)
    await meanwhile(page, 400)
  }
  await past({ way: 'member' })
  await expect(page.locator('gobbet-piece')).toHaveCount(0)
  // It is anyone's again: there is one of it.
  await past({ way: 'guest' })
  await expect(page.locator('gobbet-piece')).toHaveCount(1)
  await piece.end()
})

test('below what the visitor sees it is there before they are', async ({ page }) => {
  const piece = await live('Below', { selector: '#p20', where: 'before' })
  await pageOf(page, piece.url, glazes(0, 60))
  await page.goto(piece.url)
  await expect(inline(page)).toHaveCount(1)
  await inline(page).scrollIntoViewIfNeeded()
  await expect(inline(page).getByLabel('Email')).toBeVisible()
  expect(await shifted(page)).toBe(0)
  await piece.end()
})

test('in an empty element of the site that is high enough it comes at once, and keeps its height', async ({ page }) => {
  const piece = await live('Slot', { selector: '.slot', where: 'first' })
  await pageOf(page, piece.url, `${glazes(0, 2)}<div class="slot" style="min-height:500px"></div>${glazes(2, 40)}`)
  await page.goto(piece.url)
  await expect(inline(page)).toBeVisible()
  expect(await page.locator('.slot').evaluate(e => e.clientHeight)).toBe(500)
  expect(await shifted(page)).toBe(0)
  await piece.end()
})

test('what may move the page comes at once, and so does what was asked for', async ({ page }) => {
  const piece = await live('At once', { selector: '#p2', pushes: true })
  await pageOf(page, piece.url, glazes(0, 60))
  await page.goto(piece.url)
  await expect(inline(page)).toBeVisible()
  expect(await shifted(page)).toBeGreaterThan(0.01)
  await piece.end()

  const asked = await live('By name', { selector: '#p2' })
  await pageOf(page, asked.url, glazes(0, 60))
  const came = fetched(page)
  await page.goto(asked.url)
  await came
  await page.evaluate(show => window.gobbet!.push({ show }), asked.id)
  // It waits already: who asks for it need not.
  await expect(inline(page)).toBeVisible()
  await asked.end()
})

test('the placeholder that the studio gives keeps its room, on a phone as well; a smaller one has it wait', async ({ page, context, browser }) => {
  await context.grantPermissions(['clipboard-read', 'clipboard-write'])
  await signIn(page)
  const made = await api.make('With room', 'inline')
  await open(page, made.id)
  const placeholder = settings(page).getByLabel('Placeholder')
  await expect(placeholder).toContainText(/min-height: \d{2,}px/)
  await settings(page).getByRole('button', { name: 'Copy' }).click()
  await expect(settings(page).getByRole('button', { name: 'Copied' })).toBeVisible()
  const code = await page.evaluate(() => navigator.clipboard.readText())
  expect(code).toBe(await placeholder.textContent())
  await settings(page).getByRole('switch', { name: 'Show at once' }).check()
  await expect(settings(page)).toContainText('Search engines measure that')
  await expect.poll(async () => frame((await api.piece(made.id)).draft).anchor?.pushes).toBe(true)
  await settings(page).getByRole('switch', { name: 'Show at once' }).uncheck()
  await expect.poll(async () => frame((await api.piece(made.id)).draft).anchor).toBeUndefined()

  const piece = await live('Roomy')
  const its = code.replaceAll(made.id, piece.id)
  const phone = await (await browser.newContext({ viewport: { width: 390, height: 800 }, isMobile: true })).newPage()
  for (const [where, width] of [
    [page, 640],
    [phone, 340],
  ] as const) {
    await pageOf(where, piece.url, `<div style="width:${width}px;max-width:calc(100% - 50px);margin:0 25px">${glazes(0, 2)}${its}${glazes(2, 40)}</div>`)
    await where.goto(piece.url)
    await expect(inline(where)).toBeVisible()
    expect(await shifted(where)).toBe(0)
  }
  await phone.context().close()
  await page.unroute(piece.url)
  await pageOf(page, piece.url, glazes(0, 2) + its.replaceAll(/min-height: \d+px/g, 'min-height: 90px') + glazes(2, 40))
  const came = fetched(page)
  await page.goto('about:blank')
  await page.goto(await api.inspect(piece.id, piece.url.replace(shop, '')))
  await came
  await expect(page.locator('gobbet-inspector')).toContainText('Waits until its place is out of view, or keeps room for it')
  await expect(inline(page)).toHaveCount(0)
  await piece.end()
})
