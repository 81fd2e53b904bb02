import { readFileSync } from 'node:fs'
import { expect, test } from '@playwright/test'
import { Api, dot, email, password, shop, signIn } from './api'
import { choose } from './designer'

// The whole way, as a newcomer walks it: a marketer designs a popup, says when
// it shows, splits it and puts it live; a visitor of the shop signs up; the
// lead and the rate appear.
test('from sign-in to a converted visitor', async ({ page, browser }) => {
  test.setTimeout(150_000)
  // Someone new each time it is tried.
  const someone = `niamh-${Date.now().toString(36)}`

  await test.step('sign in', async () => {
    await page.goto('/sites/1/board')
    await page.waitForURL('**/sign-in*')
    await page.getByLabel('Email').fill(email)
    await page.getByLabel('Password').fill('not it')
    await page.getByRole('button', { name: 'Sign in' }).click()
    await expect(page.getByRole('alert')).toHaveText('That address and password do not go together.')
    await page.getByLabel('Password').fill(password)
    await page.getByRole('button', { name: 'Sign in' }).click()
    await page.waitForURL('**/board')
  })

  await test.step('the board shows pieces as they look, with their rates', async () => {
    const card = page.getByRole('article').filter({ hasText: 'Glaze club welcome' })
    await page.getByLabel('Search by name').fill('Glaze club welcome')
    await expect(card.getByText('Live', { exact: true })).toBeVisible()
    await expect(card).toContainText(/of \d,\d\d\d visitors · \d+\.\d to \d+\.\d %/)
    await expect(card.locator('.frame h2')).toHaveText('Five new glazes, before anyone')
  })

  await test.step('a new popup', async () => {
    await page.getByRole('link', { name: 'New piece' }).click()
    await page.getByRole('button', { name: 'Blank' }).click()
    await page.getByRole('dialog').getByLabel('Name').fill(' ')
    await page.getByRole('button', { name: 'Create piece' }).click()
    await expect(page.getByRole('dialog')).toContainText('should not be empty')
    await page.getByRole('dialog').getByLabel('Name').fill('Spring tile letter')
    await page.getByRole('button', { name: 'Create piece' }).click()
    await page.waitForURL('**/compose')
  })

  const stage = page.locator('[data-stage]')
  const saved = page.locator('[data-standing=saved]')
  const outline = page.getByRole('complementary', { name: 'Outline' })
  const settings = page.getByRole('complementary', { name: 'Settings' })

  await test.step('words are edited in place', async () => {
    const heading = stage.locator('h2')
    await heading.click()
    await heading.click()
    await page.keyboard.press('Control+A')
    await page.keyboard.type('Tiles in the post')
    await page.keyboard.press('Enter')
    await expect(heading).not.toHaveAttribute('contenteditable', 'true')
    await expect(heading).toHaveText('Tiles in the post')
    const button = stage.getByRole('button', { name: 'Count me in' })
    await button.click()
    await button.click()
    await page.keyboard.press('Control+A')
    await page.keyboard.type('Send me tiles')
    await page.keyboard.press('Enter')
    await expect(stage.getByRole('button', { name: 'Send me tiles' })).toBeVisible()
    await expect(saved).toBeVisible()
  })

  await test.step('blocks are added, moved, taken out and brought back', async () => {
    await outline.getByRole('button', { name: 'Add text' }).click()
    await settings.getByLabel('Text').fill('No more than once a month.')
    await expect(stage.locator('p').last()).toHaveText('No more than once a month.')
    const names = () => outline.getByRole('listitem').allInnerTexts()
    // The outline follows the stage a moment later on a busy machine.
    await expect.poll(async () => (await names()).at(-1)).toContain('No more')
    const before = (await names()).length
    await page.keyboard.press('Escape')
    const row = outline.getByRole('button', { name: 'No more than once a month.', exact: true })
    // Keys go to the row once it has the focus.
    await expect(async () => {
      await row.click()
      await expect(row).toBeFocused({ timeout: 1000 })
    }).toPass()
    await page.keyboard.press('Alt+ArrowUp')
    await expect.poll(async () => (await names()).findIndex(n => n.includes('No more'))).toBe(before - 2)
    // By dragging on the page itself: up above the heading.
    const box = (await stage.locator('p').last().boundingBox())!
    const top = (await stage.locator('h2').boundingBox())!
    await page.mouse.move(box.x + 30, box.y + 6)
    await page.mouse.down()
    await page.mouse.move(box.x + 30, top.y + 4, { steps: 8 })
    await page.mouse.up()
    await expect.poll(async () => (await names())[0]).toContain('No more')
    await page.keyboard.press('Delete')
    await expect.poll(async () => (await names()).length).toBe(before - 1)
    await page.getByRole('button', { name: 'Undo' }).click()
    await expect.poll(async () => (await names()).length).toBe(before)
    await page.getByRole('button', { name: 'Redo' }).click()
    await expect.poll(async () => (await names()).length).toBe(before - 1)
  })

  await test.step('a picture is uploaded, and what is none is refused', async () => {
    await outline.getByRole('button', { name: 'Tiles in the post', exact: true }).click()
    await outline.getByRole('button', { name: 'Add picture' }).click()
    await settings.getByLabel('Picture file').setInputFiles({ name: 'note.png', mimeType: 'image/png', buffer: Buffer.from('no picture') })
    await expect(settings.getByRole('alert')).toContainText('not a picture')
    await settings.getByLabel('Picture file').setInputFiles({ name: 'dot.png', mimeType: 'image/png', buffer: dot })
    await expect(stage.locator('img')).toHaveAttribute('src', /\/v1\/pictures\/[0-9a-f]{32}/)
    await settings.getByLabel('Alt text').fill('A bitten square')
    await expect(saved).toBeVisible()
  })

  await test.step('the frame, in a phone’s width too', async () => {
    await outline.getByRole('button', { name: 'Frame' }).click()
    await settings.getByLabel('Width').fill('500')
    await expect(stage.locator('.frame')).toHaveCSS('width', '500px')
    await settings.getByLabel('Width').fill('90000')
    await settings.getByLabel('Width').blur()
    await expect(settings.getByLabel('Width')).toHaveValue('1200')
    await settings.getByLabel('Width').fill('480')
    await page.getByRole('button', { name: 'Phone', exact: true }).click()
    await expect(stage.locator('.frame')).toHaveCSS('width', '358px')
    await page.getByRole('button', { name: 'Desktop' }).click()
    await expect(saved).toBeVisible()
  })

  const piece = page.url().match(/pieces\/([a-z0-9]+)/)![1]

  await test.step('reach: a rule as a sentence, tried on a visitor', async () => {
    await page.getByRole('link', { name: /^Reach/ }).click()
    await page.getByRole('button', { name: '+ condition' }).click()
    await page.getByLabel('Find a condition').fill('page path')
    await page.keyboard.press('Enter')
    await page.getByLabel('page', { exact: true }).fill('/classes')
    await page.getByLabel('time on page').fill('2')
    await expect(page.locator('[data-verdict=no]')).toBeVisible()
    await page.getByLabel('Page', { exact: true }).fill('/classes')
    await expect(page.locator('[data-verdict=waits]')).toHaveText('Waits. Shows at 0:02, when time on page reaches 2 s.')
    // A faulty pattern is marked at its value, and nothing is lost.
    await choose(page.getByLabel('Comparison'), 'matches')
    await page.getByLabel('page', { exact: true }).fill('/classes(')
    await expect(page.getByRole('alert')).toContainText('regular expression')
    await expect(page.locator('[data-standing=faulty]')).toBeVisible()
    await page.getByLabel('page', { exact: true }).fill('^/classes$')
    await expect(saved).toBeVisible()
    await expect(page.getByText('In words: show it when time on page reaches 2 s and page matches ^/classes$.')).toBeVisible()
    await choose(page.getByLabel('Wait after a close'), '14 days')
    await expect(saved).toBeVisible()
  })

  await test.step('split: a second version with its own words', async () => {
    await page
      .getByRole('navigation', { name: 'Piece' })
      .getByRole('link', { name: /^Results/ })
      .click()
    await page.getByRole('button', { name: 'Add a variant' }).click()
    await page.getByLabel('Name of variant B').fill('Shorter')
    await page.getByRole('link', { name: 'Edit design' }).last().click()
    await stage.locator('h2').click()
    await settings.getByLabel('Text').fill('Tiles, monthly')
    await expect(saved).toBeVisible()
  })

  await test.step('launch: a note to settle, then live', async () => {
    await outline.getByRole('button', { name: 'Delete Close button' }).click()
    await outline.getByRole('button', { name: 'Frame' }).click()
    await settings.getByRole('button', { name: 'Backdrop' }).click()
    await settings.getByLabel('Close on backdrop click').click()
    await page.getByRole('link', { name: /^Launch/ }).click()
    await expect(page.getByRole('button', { name: 'Launch', exact: true })).toBeDisabled()
    await page.getByRole('link', { name: 'Show' }).first().click()
    await outline.getByRole('button', { name: 'Add close' }).click()
    await page.getByRole('link', { name: /^Launch/ }).click()
    await page.getByRole('button', { name: 'Launch', exact: true }).click()
    await expect(page.getByRole('heading', { name: 'Live.', exact: true })).toBeVisible()
  })

  await test.step('the shop: it shows, takes an address, says thank you and rests', async () => {
    const visitor = await browser.newContext()
    const at = await visitor.newPage()
    await at.goto(`${shop}/classes?utm_medium=email&utm_campaign=may-letter`)
    const popup = at.getByRole('dialog')
    await expect(popup).toBeVisible()
    await expect(popup.getByRole('heading')).toHaveText(/Tiles in the post|Tiles, monthly/)
    await popup.getByLabel('First name').fill('Niamh Corr')
    await popup.getByRole('button', { name: 'Send me tiles' }).click()
    await expect(popup.getByText('Please fill this in.')).toBeVisible()
    await popup.getByLabel('Email').fill('niamh at home')
    await popup.getByRole('button', { name: 'Send me tiles' }).click()
    await expect(popup.getByText('This does not look like an email address.')).toBeVisible()
    await popup.getByLabel('Email').fill(`${someone}@example.com`)
    await popup.getByRole('button', { name: 'Send me tiles' }).click()
    await expect(popup.getByRole('heading')).toHaveText('Thank you, Niamh')
    await popup.getByRole('button', { name: 'Back to the page' }).click()
    await expect(popup).toHaveCount(0)
    const decided = at.waitForResponse('**/decide')
    await at.reload()
    const { placements } = await (await decided).json()
    expect(placements.map((p: { piece: string }) => p.piece)).not.toContain(page.url().split('/').at(-2))
    await visitor.close()
  })

  await test.step('people: the lead with what there is to know, and as CSV', async () => {
    await page.getByRole('link', { name: 'People', exact: true }).click()
    await page.getByLabel('Search people').fill(someone)
    await expect(page.getByText('1 person found')).toBeVisible()
    await page.getByRole('button', { name: /Niamh Corr/ }).click()
    const person = page.getByRole('dialog', { name: 'Niamh Corr' })
    await expect(person).toContainText(`${someone}@example.com`)
    await expect(person).toContainText('Spring tile letter')
    await expect(person).toContainText('/classes')
    await expect(person).toContainText('email · may-letter')
    await page.keyboard.press('Escape')
    const waiting = page.waitForEvent('download')
    await page.getByRole('link', { name: 'CSV' }).click()
    const csv = readFileSync((await (await waiting).path())!, 'utf8').split('\r\n')
    // Answers that other pieces asked for may have columns after these.
    expect(csv[0]).toMatch(/^email,name,at,piece,variant,page,channel,campaign,referrer,first_at,last_at,times(,answer_\w+)*$/)
    expect(csv).toHaveLength(3)
    expect(csv[1]).toMatch(new RegExp(`^${someone}@example\\.com,Niamh Corr,[^,]*,Spring tile letter,[AB],/classes,email,may-letter,,[^,]*,[^,]*,1,*$`))
  })

  await test.step('the rate appears', async () => {
    await page.goto(`/sites/1/pieces/${piece}/results`)
    await expect(page.getByRole('row', { name: /^[AB] (First version|Shorter) 1 1 100\.0 %/ })).toBeVisible()
    await page.getByRole('link', { name: 'Board', exact: true }).click()
    // Of this try: one before it may have left a piece of the same name.
    const card = page.getByRole('article').filter({ has: page.locator(`a[href*="${piece}"]`) })
    await expect(card).toContainText('Spring tile letter')
    await expect(card).toContainText('of 1 visitor')
  })

  await (await Api.open()).pause(piece)
})

test('a signed-out window is asked to sign in and comes back', async ({ page }) => {
  await page.goto('/sites/1/people')
  await page.waitForURL('**/sign-in*')
  await page.getByLabel('Email').fill(email)
  await page.getByLabel('Password').fill(password)
  await page.getByRole('button', { name: 'Sign in' }).click()
  await page.waitForURL('**/people')
  await page.getByRole('button', { name: /account/ }).click()
  await page.getByRole('menuitem', { name: 'Sign out' }).click()
  await page.waitForURL('**/sign-in*')
})

test.describe('signed in', () => {
  test.beforeEach(({ page }) => signIn(page))

  test('a piece that is not here says so', async ({ page }) => {
    await page.goto('/sites/1/pieces/nothing/compose')
    await expect(page.getByRole('heading', { name: 'This piece is not here' })).toBeVisible()
  })
})
