import { expect, test } from '@playwright/test'
import { Api, signIn } from './api'
import { choose, draft, outline, saved, scene, settings, stage, type } from './designer'
import { countPresses, pressedWithin } from './press'

// Pieces that someone new to it makes, from a start to what a visitor has. The
// inline one is among those of compose.spec.ts.

let api: Api
test.beforeAll(async () => {
  api = await Api.open()
})
test.beforeEach(({ page }) => signIn(page))

test('an exit popup with a picture, three fields and a file', async ({ page, browser }) => {
  await page.goto('/sites/1/new')
  await page.getByRole('button', { name: /^Prevent exits/ }).click()
  await page.getByRole('button', { name: /^Keep my basket/ }).click()
  await page.getByRole('dialog').getByLabel('Name').fill('Leaving with the guide')
  await page.getByRole('button', { name: 'Create piece' }).click()
  await page.waitForURL('**/compose')
  const id = page.url().match(/pieces\/([a-z0-9]+)/)![1]
  await outline(page).getByRole('button', { name: 'Email', exact: true }).click()
  await outline(page).getByRole('button', { name: 'Add field' }).click()
  await outline(page).getByRole('button', { name: 'Add choices' }).click()
  await page
    .getByRole('region', { name: 'Scenes' })
    .getByRole('button', { name: /Thank-you/ })
    .click()
  await stage(page).getByRole('button', { name: 'Carry on' }).click()
  await choose(settings(page).getByRole('combobox', { name: 'On click' }), 'Download a file')
  await settings(page)
    .getByLabel('File to download')
    .setInputFiles({ name: 'glaze guide.pdf', mimeType: 'application/pdf', buffer: Buffer.from('%PDF-1.4 a small guide') })
  await type(page, stage(page).locator('.button'), 'Take the guide')
  await page.keyboard.press('Enter')
  const doc = await draft(page, id)
  expect(JSON.stringify(doc.rule)).toContain('exit_intent')
  const live = await api.live('Leaving with the guide, live', p => {
    p.split = doc.split
  })
  const visitor = await (await browser.newContext({ acceptDownloads: true })).newPage()
  await visitor.goto(live.url)
  const popup = visitor.getByRole('dialog')
  await expect(popup.locator('img')).toBeVisible()
  await popup.getByLabel('Email').fill('guide@example.com')
  await popup.getByRole('button', { name: 'Keep it for me' }).click()
  await expect(popup.getByText('Please fill this in.').or(popup.getByRole('heading', { name: 'Kept' }))).toBeVisible()
  if (await popup.getByText('That', { exact: true }).isVisible()) {
    await popup.getByText('That', { exact: true }).click()
    await popup.getByRole('button', { name: 'Keep it for me' }).click()
  }
  const waiting = visitor.waitForEvent('download')
  await popup.getByRole('link', { name: 'Take the guide' }).click()
  expect((await waiting).suggestedFilename()).toBe('glaze guide.pdf')
  await visitor.context().close()
  await live.end()
})

test('a bar with a timer and a code that is a fly-in on phones', async ({ page }) => {
  await page.goto('/sites/1/new')
  await page.getByRole('button', { name: /^Countdown line/ }).click()
  await page.getByRole('dialog').getByLabel('Name').fill('Countdown with a code')
  await page.getByRole('button', { name: 'Create piece' }).click()
  await page.waitForURL('**/compose')
  const id = page.url().match(/pieces\/([a-z0-9]+)/)![1]
  await outline(page).getByRole('button', { name: 'Timer', exact: true }).click()
  await outline(page).getByRole('button', { name: 'Add code' }).click()
  await settings(page).getByLabel('Code', { exact: true }).fill('SUNDAY10')
  await outline(page).getByRole('button', { name: 'Frame' }).click()
  await choose(settings(page).getByRole('combobox', { name: 'On phones' }), 'Fly-in')
  await page.getByRole('button', { name: 'Phone', exact: true }).click()
  await expect(stage(page).locator('.layer.fly_in')).toContainText('SUNDAY10')
  const doc = await draft(page, id)
  expect(doc.phone_format).toBe('fly_in')
  expect(scene(doc).blocks.map(b => b.kind)).toEqual(['text', 'timer', 'code', 'button'])
})

test('an ask in front of a form, with a decline that leads elsewhere', async ({ page }) => {
  await page.goto('/sites/1/new')
  await page.getByLabel('Search templates').fill('decline')
  await page.getByRole('button', { name: /^Yes or no first/ }).click()
  await page.getByRole('dialog').getByLabel('Name').fill('Ask first')
  await page.getByRole('button', { name: 'Create piece' }).click()
  await page.waitForURL('**/compose')
  await stage(page).getByText('No, show me what is new').click()
  await settings(page).getByLabel('Link', { exact: true }).fill('/classes')
  await saved(page)
  await page.getByRole('button', { name: 'Play' }).click()
  const played = page.locator('[data-played]')
  await expect(played.getByRole('link', { name: 'No, show me what is new' })).toHaveAttribute('href', '/classes')
  await played.getByRole('button', { name: 'Yes, please' }).click()
  await played.getByLabel('Email').fill('una@example.com')
  await played.getByRole('button', { name: 'Send me the code' }).click()
  await expect(played.getByRole('heading')).toHaveText('It is on its way')
  await page.keyboard.press('Escape')
  await expect(played).toHaveCount(0)
})

test('a calculator of two inputs behind an email, from blank', async ({ page, browser }) => {
  await countPresses(page)
  await page.goto('/sites/1/new')
  await page.getByRole('button', { name: /^Calculator/ }).click()
  await page.getByRole('button', { name: 'Blank' }).click()
  const dialog = page.getByRole('dialog')
  await expect(dialog.getByRole('combobox', { name: 'Begins with' })).toContainText('A calculator')
  await dialog.getByLabel('Name').fill('Clay for a course')
  await choose(dialog.getByRole('combobox', { name: 'Format' }), 'Popup')
  await dialog.getByRole('button', { name: 'Create piece' }).click()
  await page.waitForURL('**/compose')
  const id = page.url().match(/pieces\/([a-z0-9]+)/)![1]
  const strip = page.getByRole('region', { name: 'Scenes' })
  // It computes from the start, and asks for an address.
  const made = await draft(page, id)
  expect(scene(made).blocks.map(b => b.kind)).toEqual(['heading', 'field', 'field', 'value', 'field', 'button'])
  await outline(page).getByRole('button', { name: 'How much each?', exact: true }).click()
  await settings(page).getByLabel('Label', { exact: true }).fill('Bowls each')
  await settings(page).getByLabel('Field name').fill('bowls')
  await strip.getByRole('button', { name: 'Formulas' }).click()
  const formulas = page.getByRole('dialog', { name: 'Formulas' })
  await expect(formulas).toContainText('bowls (Bowls each)')
  await formulas.getByRole('combobox').first().fill('amount * bowls * 1.5')
  await expect(formulas.getByText(/^\d/).first()).toBeVisible()
  await formulas.getByRole('button', { name: 'Close' }).click()
  const doc = await draft(page, id)
  await pressedWithin(page, 30)
  const calc = await api.live('Clay sum, live', p => {
    p.split = doc.split
  })
  const visitor = await (await browser.newContext()).newPage()
  await visitor.goto(calc.url)
  const popup = visitor.getByRole('dialog')
  await popup.getByLabel('How many?').fill('10')
  await popup.getByLabel('Bowls each').fill('4')
  await expect(popup.locator('.value output')).toHaveText('60')
  await popup.getByLabel('Email').fill('sum@example.com')
  await popup.getByRole('button', { name: 'Send it to me' }).click()
  await expect(popup.getByRole('heading')).toHaveText('Thank you, friend')
  await visitor.context().close()
  await calc.end()
})
