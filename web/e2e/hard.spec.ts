import { expect, type Page, test } from '@playwright/test'
import { Api, and, meanwhile, shop } from './api'
import { lineOf, served } from './host'

// Pages that are hard to stand on: huge, framed, printed, dark, slow, with the line
// twice. What visitors come for goes on, whatever becomes of the piece.

let api: Api
test.beforeAll(async () => {
  api = await Api.open()
  await api.settings({ limits: {} })
})

const popup = (page: Page) => page.getByRole('dialog')
/** Serves a page of the shop with another body, or another head. */
test('with the line twice it is looked at once', async ({ page }) => {
  const piece = await api.live('Twice')
  const asked: string[] = []
  page.on('request', r => r.url().endsWith('/decide') && asked.push(r.url()))
  await served(page, piece.url, html => html.replace(/<script[^>]*\/v1\/gobbet\.js[^>]*><\/script>/, line => line + line))
  await page.goto(piece.url)
  await expect(popup(page)).toBeVisible()
  await page.waitForLoadState('networkidle')
  await expect(page.locator('gobbet-piece')).toHaveCount(1)
  expect(asked).toHaveLength(1)
  await piece.end()
})

test('with 50,000 elements it comes, and what is seen last is seen', async ({ page }) => {
  const piece = await api.live('Huge', p => and(p, { fact: 'moment.seen', op: 'happened', value: '#last' }))
  await served(page, piece.url, html =>
    html.replace(
      '</main>',
      `<div hidden>${Array.from({ length: 50_000 }, (_, i) => `<i id="e${i}" class="e"></i>`).join('')}</div><p style="height:2000px"></p><p id="last">The end</p></main>`,
    ),
  )
  await page.goto(piece.url)
  await page.waitForFunction(() => !Array.isArray(window.gobbet))
  await page.waitForLoadState('networkidle')
  await expect(popup(page)).toHaveCount(0)
  await page.evaluate(() => document.getElementById('last')!.scrollIntoView())
  await expect(popup(page)).toBeVisible()
  await popup(page).getByRole('button', { name: 'Close' }).click()
  await expect(popup(page)).toHaveCount(0)
  await piece.end()
})

test('in a frame of another page it stands within its frame', async ({ page }) => {
  const piece = await api.live('Framed')
  await page.route(`${shop}/framing`, r =>
    r.fulfill({ contentType: 'text/html', body: `<h1>Around</h1><iframe id="f" src="${piece.url}" width="700" height="600"></iframe>` }),
  )
  await page.goto(`${shop}/framing`)
  const frame = page.frameLocator('#f')
  await expect(frame.getByRole('dialog')).toBeVisible()
  await expect(page.locator('gobbet-piece')).toHaveCount(0)
  await frame.getByRole('dialog').getByRole('button', { name: 'Close' }).click()
  await expect(frame.getByRole('dialog')).toHaveCount(0)
  await piece.end()
})

test('printed it is not there, and the page is; in the dark it keeps its colours', async ({ page }) => {
  const piece = await api.live('Printed')
  await page.emulateMedia({ colorScheme: 'dark' })
  await page.goto(piece.url)
  await expect(popup(page)).toBeVisible()
  await expect(popup(page).getByLabel('Email')).toHaveCSS('background-color', 'rgb(255, 255, 255)')
  await expect(popup(page).getByLabel('Email')).toHaveCSS('color', 'rgb(29, 26, 32)')
  await page.emulateMedia({ media: 'print' })
  await expect(popup(page)).toBeHidden()
  await expect(page.locator('h1').first()).toBeVisible()
  await page.emulateMedia({ media: 'screen' })
  await expect(popup(page)).toBeVisible()
  await piece.end()
})

test('at 200 % all of it can be come to', async ({ page }) => {
  const piece = await api.live('Large', p => {
    const [first] = p.split.variants[0].design.scenes
    for (let i = 0; i < 4; i++)
      first.blocks.splice(1, 0, { kind: 'text', id: `t${i}`, text: 'A line that makes it long. '.repeat(3), size: 18, align: 'start' })
  })
  await page.setViewportSize({ width: 640, height: 360 })
  await page.goto(piece.url)
  for (const name of ['Close', 'Count me in']) {
    const button = popup(page).getByRole('button', { name })
    await button.focus()
    const box = (await button.boundingBox())!
    expect(box.y, name).toBeGreaterThanOrEqual(0)
    expect(box.y + box.height, name).toBeLessThanOrEqual(360)
  }
  expect(await page.evaluate(() => document.documentElement.scrollWidth)).toBeLessThanOrEqual(640)
  await piece.end()
})

test('over a network that never answers, nothing waits for ever and the place is free', async ({ page }) => {
  const piece = await api.live('Never')
  await page.clock.install()
  await page.route('**/designs/**', () => {})
  const asked = page.waitForRequest('**/designs/**')
  await page.goto(piece.url)
  await page.clock.runFor(4000)
  await asked
  const dropped = page.waitForEvent('requestfailed', r => r.url().includes('/designs/'))
  await page.clock.runFor(11_000)
  await dropped
  await expect(page.locator('gobbet-piece')).toHaveCount(0)
  await expect(page.getByRole('link', { name: 'Classes' })).toBeVisible()
  // On the next page view it is tried again.
  await page.unroute('**/designs/**')
  await page.evaluate(() => history.pushState({}, '', '/basket'))
  await page.clock.runFor(500)
  await page.evaluate(path => history.pushState({}, '', path), new URL(piece.url).pathname)
  await page.clock.runFor(500)
  await expect(popup(page)).toBeVisible()
  await piece.end()
})

test('with scripts of Gobbet’s blocked one by one the page goes on', async ({ page }) => {
  const piece = await api.live('Blocked')
  const errors: string[] = []
  page.on('pageerror', e => errors.push(e.message))
  for (const part of ['visit', 'watcher', 'renderer', 'sending', 'walk']) {
    await page.route(`**/v1/${part}-*`, r => r.abort())
    await page.goto(piece.url)
    await page.waitForLoadState('networkidle')
    await meanwhile(page, 200)
    await expect(page.getByRole('link', { name: 'Classes' })).toBeVisible()
    expect(await popup(page).count(), part).toBe(/sending|walk/.test(part) ? 1 : 0)
    await page.unroute(`**/v1/${part}-*`)
    await page.evaluate(() => localStorage.clear())
  }
  expect(errors).toEqual([])
  await piece.end()
})

test('a page that is bundled adds the line by the package, tells, and hears', async ({ page }) => {
  const piece = await api.live('Bundled', p => and(p, { fact: 'data.way', op: 'is', value: 'bundled' }), 'popup', { way: 'bundled' })
  await page.route(`${shop}/bundled.js`, r => r.fulfill({ contentType: 'text/javascript', path: 'package/dist/index.js' }))
  await served(page, piece.url, html => {
    const { 1: origin } = lineOf(html).match(/src="(.*?)\/v1/)!
    const script = `import { on, start, tell } from '/bundled.js'
      window.heard = []
      const off = on('shown', d => window.heard.push(d.piece))
      on('closed', d => { window.heard.push('closed ' + d.piece); off() })
      tell({ data: { way: 'bundled' } })
      start({ origin: '${origin}', site: 'quillfern' })
      start({ origin: '${origin}', site: 'quillfern' })`
    return html.replaceAll(/<script[\s\S]*?<\/script>/g, '').replace('</body>', `<script type="module">${script}</script></body>`)
  })
  await page.goto(piece.url)
  await expect(popup(page)).toBeVisible()
  await expect(page.locator('script[data-site]')).toHaveCount(1)
  await page.keyboard.press('Escape')
  await expect(popup(page)).toHaveCount(0)
  expect(await page.evaluate(() => (window as unknown as { heard: string[] }).heard)).toEqual([piece.id, `closed ${piece.id}`])
  await piece.end()
})
