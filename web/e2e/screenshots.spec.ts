import { type Browser, expect, type Page, test } from '@playwright/test'
import { Api, pages, shop, signIn } from './api'

// The pictures in docs/screenshots, from the demo as it comes: make screenshots

const shot = (page: Page, name: string) => page.screenshot({ path: `../docs/screenshots/${name}.png` })

test('pictures of every main view', async ({ page, browser }) => {
  test.setTimeout(120_000)
  await signIn(page)
  // The demo as it stands once it has read its visits and looked for what is not as usual.
  const api = await Api.open()
  const piece = await api.piece('glazeclub')
  await expect.poll(async () => (await api.rehearse(piece)).since).toBe(null)
  for (const [path, name] of [
    ['/sites/1/board', 'board'],
    ['/sites/1/new', 'begin'],
    ['/sites/1/pieces/beforeyougo/compose?block=send', 'compose'],
    ['/sites/1/pieces/glazeclub/reach', 'reach'],
    ['/sites/1/pieces/glazeclub/results', 'results-of-a-piece'],
    ['/sites/1/pieces/wheelevening/launch', 'launch'],
    ['/sites/1/people', 'people'],
    ['/sites/1/results?by=page', 'results'],
    ['/sites/1/settings', 'site'],
    ['/sites/1/settings/style', 'style'],
  ]) {
    await page.goto(path)
    await page.waitForLoadState('networkidle')
    await page.evaluate(() => document.fonts.ready)
    if (name === 'reach') await page.locator('[data-figure=visitors]').waitFor()
    await shot(page, name)
  }
  // What is played: its ways, its formulas, and what came of it.
  await page.goto('/sites/1/pieces/glazematch/compose?scene=fire&block=f')
  await page.waitForLoadState('networkidle')
  await shot(page, 'quiz')
  await page.getByRole('button', { name: 'Map' }).click()
  await page.getByText('steps to the end').waitFor()
  await page.waitForTimeout(400)
  await shot(page, 'map')
  await page.goto('/sites/1/pieces/glazematch/results')
  await page.waitForLoadState('networkidle')
  await page.getByRole('heading', { name: 'Funnel and answers' }).evaluate(h => h.scrollIntoView())
  await shot(page, 'played')
  // A wheel and what it gave, a conversation and its script.
  await page.goto('/sites/1/pieces/spinforaglaze/compose?scene=spin&block=wheel')
  await page.waitForLoadState('networkidle')
  await shot(page, 'wheel')
  await page.goto('/sites/1/pieces/findyourclass/compose')
  await page.getByRole('button', { name: 'Script' }).click()
  await page.getByRole('log', { name: 'Transcript of one visitor' }).waitFor()
  await page.waitForTimeout(500)
  await shot(page, 'script')
  const inspected = await browser.newPage({ viewport: { width: 1280, height: 800 } })
  await inspected.goto(await api.inspect('glazeclub', '/journal/ash-glaze'))
  await inspected.getByRole('complementary', { name: 'Gobbet inspector' }).getByText('Waits for its moment.').first().waitFor()
  await inspected.evaluate(() => scrollTo(0, 330))
  await inspected.getByText('now 3').first().waitFor()
  await shot(inspected, 'inspector')
  await inspected.close()
  const visitor = await leaving(browser)
  await visitor.waitForFunction(() => !document.querySelector('gobbet-piece')!.shadowRoot!.getAnimations().length)
  await shot(visitor, 'shop')
  // The conversation on the class pages, two answers in.
  await visitor.emulateMedia({ reducedMotion: 'reduce' })
  await visitor.goto(`${shop}/classes`)
  await visitor.getByRole('button', { name: 'Which class suits you?' }).click()
  await visitor.getByRole('button', { name: 'Wheel', exact: true }).click()
  await visitor.getByRole('button', { name: 'Never' }).click()
  await visitor.getByText('Shall I write to you').waitFor()
  await visitor.evaluate(() => document.fonts.ready)
  await shot(visitor, 'chat')
  // The quiz at its own page, a question in.
  await visitor.goto(`${pages}/quillfern/which-glaze`)
  await visitor.getByText('On a shelf').click()
  await visitor.getByRole('heading', { name: 'How do you fire?' }).waitFor()
  await visitor.evaluate(() => document.fonts.ready)
  await visitor.mouse.move(20, 20)
  await visitor.waitForTimeout(300)
  await shot(visitor, 'own')
})

/** A visitor who is about to leave the shop, and is shown the piece for it: some are held back from it, so several may be needed. */
async function leaving(browser: Browser): Promise<Page> {
  for (;;) {
    const visitor = await (await browser.newContext({ viewport: { width: 1280, height: 800 } })).newPage()
    await visitor.goto(`${shop}/shop/celadon`)
    await visitor.waitForLoadState('networkidle')
    await visitor.mouse.move(600, 400)
    await visitor.mouse.move(600, 40, { steps: 4 })
    await visitor.evaluate(() => document.dispatchEvent(new MouseEvent('mouseout', { clientY: -3, bubbles: true, relatedTarget: null })))
    const shown = await visitor
      .getByRole('dialog')
      .waitFor({ timeout: 3000 })
      .catch((e: Error) => e)
    if (!shown) return visitor
    await visitor.context().close()
  }
}
