import { type Page, test } from '@playwright/test'
import { shop, signIn } from './house'

// The pictures in docs/screenshots, from the demo as it comes: make screenshots

const shot = (page: Page, name: string) => page.screenshot({ path: `../docs/screenshots/${name}.png` })

test('pictures of every main view', async ({ page, browser }) => {
  test.setTimeout(120_000)
  await signIn(page)
  for (const [path, name] of [
    ['/board', 'board'],
    ['/pieces/beforeyougo/compose?block=send', 'compose'],
    ['/pieces/glazeclub/reach', 'reach'],
    ['/pieces/glazeclub/split', 'split'],
    ['/pieces/glazeclub/hand-off', 'hand-off'],
    ['/pieces/wheelevening/launch', 'launch'],
    ['/people', 'people'],
    ['/site', 'site'],
  ]) {
    await page.goto(path)
    await page.waitForLoadState('networkidle')
    await page.evaluate(() => document.fonts.ready)
    await shot(page, name)
  }
  const visitor = await (await browser.newContext({ viewport: { width: 1280, height: 800 } })).newPage()
  await visitor.goto(`${shop}/shop/celadon`)
  await visitor.waitForLoadState('networkidle')
  await visitor.mouse.move(600, 400)
  await visitor.mouse.move(600, 40, { steps: 4 })
  await visitor.evaluate(() => document.dispatchEvent(new MouseEvent('mouseout', { clientY: -3, bubbles: true, relatedTarget: null })))
  await visitor.getByRole('dialog').waitFor()
  await visitor.waitForFunction(() => !document.querySelector('gobbet-piece')!.shadowRoot!.getAnimations().length)
  await shot(visitor, 'shop')
})
