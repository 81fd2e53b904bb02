import { expect, type FrameLocator, type Locator, type Page } from '@playwright/test'
import type { Piece } from '../kinds/piece'
import { Api, meanwhile } from './api'

// The studio's parts, for the tests that touch them.

let api: Api | undefined

export const stage = (page: Page) => page.locator('[data-stage]')
export const settings = (page: Page) => page.getByRole('complementary', { name: 'Settings' })
export const outline = (page: Page) => page.getByRole('complementary', { name: 'Outline' })
export const strip = (page: Page) => page.getByRole('region', { name: 'Scenes' })
export const saved = (page: Page) => expect(page.locator('[data-standing=saved]')).toBeVisible()

export const scene = (p: Piece, i = 0) => p.split.variants[0].design.scenes[i]
export const frame = (p: Piece) => p.split.variants[0].design.frame

/**
 * Chooses an option of a menu. A press that lasts takes what lies under it when it
 * ends, as in any menu: on a busy machine the menu may be shut again by what opened it.
 */
export const choose = (box: Locator, option: string | RegExp, exact = false) =>
  expect(async () => {
    const item = box.page().getByRole('option', { name: option, exact })
    if (!(await item.isVisible())) await box.click({ timeout: 5000 })
    await item.click({ timeout: 3000 })
  }).toPass({ timeout: 20_000 })

/** The draft as the server has it, once it is saved. */
export const draft = async (page: Page, id: string) => {
  await saved(page)
  return (await (api ??= await Api.open()).piece(id)).draft
}

export async function open(page: Page, id: string, block = 'frame') {
  await page.goto(`/sites/1/pieces/${id}/compose?block=${block}`)
  await expect(stage(page).locator('.frame')).toBeVisible()
}

/** Presses a button, and says yes where it asks first because much is live. */
export async function saveKit(page: Page, name = 'Save for the whole site') {
  await page.getByRole('button', { name }).click()
  const sure = page.getByRole('button', { name: 'Save and change them' })
  await expect(sure.or(page.getByText(/^(Saved[.,]|This was changed in another window)/)).first()).toBeVisible()
  if (await sure.isVisible()) await sure.click()
}

export async function drag(page: Page, from: { x: number; y: number }, to: { x: number; y: number }) {
  await page.mouse.move(from.x, from.y)
  await page.mouse.down()
  await page.mouse.move(from.x + 4, from.y + 6)
  await page.mouse.move(to.x, to.y, { steps: 6 })
  await page.mouse.up()
}

/** Picks an element of the site's page in the dialog that is open for it. */
export async function pickElement(page: Page, of: (still: FrameLocator) => Locator) {
  const dialog = page.getByRole('dialog', { name: 'Pick an element' })
  const element = of(dialog.frameLocator('iframe'))
  await expect(element).toBeAttached()
  await expect(async () => {
    const at = (await element.boundingBox())!
    await page.mouse.click(at.x + 6, at.y + 6)
    await expect(dialog.getByRole('button', { name: 'Use this element' })).toBeEnabled({ timeout: 1000 })
  }).toPass()
  await dialog.getByRole('button', { name: 'Use this element' }).click()
}

export const box = async (l: Locator) => (await l.boundingBox())!
export const middle = async (l: Locator) => {
  const b = await box(l)
  return { x: b.x + b.width / 2, y: b.y + b.height / 2 }
}

/** Writes words in the place of those that stand there. */
export async function type(page: Page, at: Locator, words: string) {
  await at.click()
  await at.click()
  // The editor takes a click's caret a moment after the click: what is selected before that is not, once it has.
  await expect(async () => {
    await page.keyboard.press('Control+A')
    await meanwhile(page, 60)
    const [selected, all] = await at.evaluate(e => [
      (e.getRootNode() as ShadowRoot & { getSelection(): Selection }).getSelection().toString(),
      e.textContent ?? '',
    ])
    expect(selected.replace(/\s/g, '')).toBe(all.replace(/\s/g, ''))
  }).toPass()
  await page.keyboard.type(words)
}
