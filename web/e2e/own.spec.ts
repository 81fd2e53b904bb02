import AxeBuilder from '@axe-core/playwright'
import { type BrowserContextOptions, devices, expect, type Page, test } from '@playwright/test'
import type { Placement } from '../kinds/choose'
import { Api, pages, shop, signIn, studio } from './api'

// The pages that pieces live at: the demo's, and made ones, live.

let api: Api
test.beforeAll(async () => {
  api = await Api.open()
  await api.settings({ limits: {} })
})

const at = (address: string) => `${pages}/quillfern/${address}`
const heading = (page: Page) => page.locator('gobbet-piece').getByRole('heading')
const phone: BrowserContextOptions = { ...devices['Pixel 7'], defaultBrowserType: undefined } as BrowserContextOptions

/** A live popup that shows on no page of the site, but at its own. */
const shared = (address: string, change = {}) =>
  api.live(address, p => {
    p.page = { address, title: 'The letter', description: 'Once a month, from the kiln room.', ...change }
  })

/** Presses a choice's own key: the first of the group under the keyboard. */
async function choose(page: Page, question: string, answer: string) {
  await expect(heading(page)).toHaveText(question)
  await page.locator('gobbet-piece').getByRole('radio').first().focus()
  await page.keyboard.press('Space')
  for (let tries = 0; tries < 5 && !(await page.getByRole('radio', { name: answer }).isChecked()); tries++) await page.keyboard.press('ArrowDown')
  await page.keyboard.press('Enter')
}

for (const [device, options] of [
  ['a desktop', {}],
  ['a phone', phone],
] as const) {
  test(`the demo’s quiz at its own page, by keyboard, on ${device}: its result is earned, kept and begun anew`, async ({ browser }) => {
    const page = await (await browser.newContext(options)).newPage()
    const said: string[] = []
    page.on('response', async r => void (r.url().includes('/v1/sites/') && said.push(await r.text().catch(() => ''))))
    await page.goto(at('which-glaze'))
    await choose(page, 'Where will your bowl live?', 'In the oven')
    await choose(page, 'How do you fire?', 'Slowly, and cool slowly')
    await choose(page, 'What do you look for?', 'Something dark')
    await expect(heading(page)).toHaveText('We have your glaze')
    expect(said.join()).not.toContain('Tenmoku')
    const email = `own-${device.replace(' ', '')}@example.com`
    await page.locator('gobbet-piece').getByLabel('Email').fill(email)
    await page.keyboard.press('Enter')
    await expect(heading(page)).toHaveText('Tenmoku, of course')
    // What leads on leads to the site.
    await expect(page.getByRole('link', { name: 'See the glaze' })).toHaveJSProperty('href', shop + '/shop')
    const [lead] = (await api.people(email)).leads
    expect(lead.walks[0].answers).toMatchObject({ where: 'In the oven', look: 'Something dark', email })
    expect(lead.walks[0].page).toBe('/quillfern/which-glaze')
    await page.reload()
    await expect(heading(page)).toHaveText('Tenmoku, of course')
    await page.getByRole('link', { name: 'Start again' }).click()
    await expect(heading(page)).toHaveText('Where will your bowl live?')
    expect(await page.evaluate(() => document.cookie)).toBe('')
    await page.context().close()
  })

  test(`the demo’s poll and calculator at their own pages, by keyboard, on ${device}`, async ({ browser }) => {
    const page = await (await browser.newContext(options)).newPage()
    await page.goto(at('kiln-or-classes'))
    await choose(page, 'A second kiln, or more classes?', 'More classes')
    await expect(heading(page)).toHaveText('So far')
    await expect(page.locator('gobbet-piece').getByText(/\d+ votes/)).toBeVisible()
    await page.locator('gobbet-piece').getByRole('button', { name: 'Back to the shop' }).focus()
    await page.keyboard.press('Enter')
    await expect(page.getByText('That is all. Thank you.')).toBeVisible()
    await page.goto(at('what-a-month-costs'))
    const slider = page.locator('gobbet-piece').getByRole('slider').first()
    await slider.focus()
    const value = page.locator('gobbet-piece .value output')
    await expect(value).toHaveText('€93.00')
    await page.keyboard.press('End')
    await expect(value).toHaveText('€136.20')
    await page.context().close()
  })
}

test('a page says what it is to those who preview its link, and is well made', async ({ page }) => {
  const r = await page.goto(at('which-glaze'))
  const meta = (name: string) => page.locator(`meta[property="og:${name}"]`).getAttribute('content')
  expect(await meta('title')).toBe('Which glaze is yours?')
  expect(await meta('description')).toContain('Three questions')
  expect(await meta('url')).toBe(at('which-glaze'))
  const picture = await page.request.get((await meta('image'))!)
  expect(picture.headers()['content-type']).toMatch(/^image\/(png|jpeg|webp)$/)
  expect(r!.headers()['set-cookie']).toBeUndefined()
  await expect(heading(page)).toBeVisible()
  expect((await new AxeBuilder({ page }).analyze()).violations.map(v => v.id)).toEqual([])
})

test('a link on the site to a piece’s page opens it where it is, counted once; a button does so by name', async ({ page }) => {
  const letter = await shared('e2e-letter')
  await page.goto(shop + '/classes')
  await expect.poll(() => page.evaluate(() => !Array.isArray(window.gobbet))).toBe(true)
  await page.evaluate(
    ([link]) =>
      document
        .querySelector('main')!
        .insertAdjacentHTML('afterbegin', `<p><a href="${link}?from=here">The letter</a> <button data-gobbet-open="e2e-letter">Open it</button></p>`),
    [at('e2e-letter')],
  )
  await page.getByRole('link', { name: 'The letter' }).click()
  await expect(page.getByRole('dialog')).toBeVisible()
  expect(page.url()).toBe(shop + '/classes')
  await page.keyboard.press('Escape')
  await expect(page.getByRole('dialog')).toBeHidden()
  await page.getByRole('button', { name: 'Open it' }).click()
  await expect(page.getByRole('dialog')).toBeVisible()
  await page.keyboard.press('Escape')
  await expect(async () => {
    const card = (await api.board()).cards.find(c => c.id === letter.id)!
    expect(card.measure.visitors).toBe(1)
    expect(card.measure.showings).toBe(2)
  }).toPass()
  await letter.end()
})

test('a link whose piece cannot open on the site leads to its page', async ({ page }) => {
  await page.goto(shop + '/')
  await expect.poll(() => page.evaluate(() => !Array.isArray(window.gobbet))).toBe(true)
  // It stands in the flow of other pages.
  await page.getByRole('link', { name: 'Find the glaze that suits you' }).click()
  await expect(page).toHaveURL(at('which-glaze'))
  await expect(heading(page)).toHaveText('Where will your bowl live?')
  // And where Gobbet fails, a link is a link.
  await page.route('**/v1/sites/*/decide', (route, request) => (request.postDataJSON().own ? route.abort() : route.continue()))
  await page.goto(shop + '/')
  await expect.poll(() => page.evaluate(() => !Array.isArray(window.gobbet))).toBe(true)
  await page.getByRole('link', { name: 'A second kiln, or more classes?' }).click()
  await expect(page).toHaveURL(at('kiln-or-classes'))
})

test('nothing but its piece shows at its page, and where that does not come the page says so', async ({ page }) => {
  const everywhere = await api.live('Everywhere', p => void (p.rule = { all: [{ fact: 'page.path', op: 'starts_with', value: '/' }] }))
  const decided = page.waitForResponse(r => r.url().endsWith('/decide'))
  await page.goto(at('kiln-or-classes'))
  const placements: Placement[] = (await (await decided).json()).placements
  expect(placements.map(p => p.piece)).toEqual(['kilnorclasses'])
  await everywhere.end()
  await page.route('**/v1/sites/*/decide', route => route.abort())
  await page.reload()
  await expect(page.getByText('This could not be loaded.')).toBeVisible({ timeout: 25_000 })
  await page.unroute('**/v1/sites/*/decide')
  await page.getByRole('link', { name: 'Try again' }).click()
  await expect(heading(page)).toHaveText('A second kiln, or more classes?')
})

test('a marketer gives a piece a page: what is wrong is told at its field, and its link and QR code come with the launch', async ({ page }) => {
  const made = await api.make('Glaze letter: für alle')
  await signIn(page)
  await page.goto(`${studio}/sites/1/pieces/${made.id}/launch`)
  await page.getByRole('switch', { name: 'Own page' }).click()
  await expect(page.getByLabel('Address')).toHaveValue('glaze-letter-fur-alle')
  await page.getByLabel('Address').fill('Not / an address')
  await expect(page.getByText('should be 1 to 60 small letters')).toBeVisible()
  await page.getByLabel('Address').fill('which-glaze')
  await page.getByLabel('Title').fill('')
  await expect(page.getByText('should not be empty')).toBeVisible()
  await page.getByLabel('Title').fill('The glaze letter')
  await expect(page.getByText(at('which-glaze'))).toBeVisible()
  await page.getByRole('button', { name: 'Launch', exact: true }).click()
  await expect(page.getByText('is that of another live piece’s own page'.replace('’', "'")).first()).toBeVisible()
  await page.getByLabel('Address').fill('glaze-letter')
  await page.getByRole('button', { name: 'Launch', exact: true }).click()
  await expect(page.getByRole('link', { name: at('glaze-letter') })).toBeVisible()
  await expect(page.getByAltText('QR code of')).toHaveJSProperty('complete', true)
  expect(await page.getByAltText('QR code of').evaluate((i: HTMLImageElement) => i.naturalWidth)).toBeGreaterThan(20)
  await expect(async () => {
    const r = await page.request.get(at('glaze-letter'))
    expect(await r.text()).toContain('<meta property="og:title" content="The glaze letter">')
  }).toPass()
  await page.getByRole('button', { name: 'Pause' }).click()
  await expect(async () => expect((await page.request.get(at('glaze-letter'))).status()).toBe(404)).toPass()
})
