import AxeBuilder from '@axe-core/playwright'
import { type BrowserContextOptions, devices, expect, type Page, test } from '@playwright/test'
import type { Text } from '../kinds/piece'
import { Api, pages, shop, signIn } from './api'
import { choose, draft } from './designer'

// Conversations on a visitor's page, live, and how they are written.

let api: Api
test.beforeAll(async () => {
  api = await Api.open()
  await api.settings({ limits: {} })
})

const talk = (page: Page) => page.locator('gobbet-piece')
const log = (page: Page) => talk(page).getByRole('log')
const input = (page: Page) => talk(page).getByRole('textbox')
const phone: BrowserContextOptions = { ...devices['Pixel 7'], defaultBrowserType: undefined } as BrowserContextOptions

for (const [device, options] of [
  ['a desktop', {}],
  ['a phone', phone],
] as const)
  test(`the demo’s conversation on the class pages, by keyboard, on ${device}: asked kindly, gone on with on the next page, and told at the end`, async ({
    browser,
  }) => {
    const page = await (await browser.newContext({ ...options, reducedMotion: 'reduce' })).newPage()
    await page.goto(shop + '/classes')
    const launcher = talk(page).getByRole('button', { name: 'Which class suits you?' })
    await launcher.focus()
    await page.keyboard.press('Enter')
    await expect(log(page)).toContainText('Wheel, hand-building or glazing')
    if (device === 'a phone') {
      const r = (await talk(page).locator('.frame').boundingBox())!
      expect(r.height).toBeGreaterThanOrEqual(page.viewportSize()!.height - 1)
    }
    const found = await new AxeBuilder({ page }).include('gobbet-piece').withTags(['wcag2a', 'wcag2aa', 'wcag21aa', 'wcag22aa']).analyze()
    expect(found.violations.map(v => v.id)).toEqual([])
    // What is not among the answers is asked again, and what is meant is understood.
    await input(page).fill('<b>the moon</b>')
    await page.keyboard.press('Enter')
    await expect(log(page)).toContainText('I did not catch that.')
    await expect(log(page)).toContainText('<b>the moon</b>')
    await input(page).fill('wheel please')
    await page.keyboard.press('Enter')
    await expect(log(page)).toContainText('Have you done it before?')
    await talk(page).getByRole('button', { name: 'Never' }).focus()
    await page.keyboard.press('Enter')
    await expect(log(page)).toContainText('Then Tuesdays')
    await expect(log(page)).toContainText('Shall I write to you')
    // Escape makes it small; on the next page it is where it was left.
    await talk(page).getByRole('button', { name: 'Close' }).press('Enter')
    await expect(launcher).toBeFocused()
    await page.goto(shop + '/classes?again')
    await talk(page).getByRole('button', { name: 'Which class suits you?' }).click()
    await expect(log(page)).toContainText('Then Tuesdays')
    await expect(log(page).locator('.mine')).toHaveText(['You: Wheel', 'You: Never'])
    await input(page).fill('yes')
    await page.keyboard.press('Enter')
    await expect(log(page)).toContainText('Where to?')
    await input(page).fill('orla at home')
    await page.keyboard.press('Enter')
    await expect(log(page)).toContainText('That does not look like an email address. Could you try once more?')
    const email = `talk-${device.replace(' ', '')}-${Date.now()}@example.com`
    await input(page).fill(email)
    await page.keyboard.press('Enter')
    await expect(log(page)).toContainText('Written down.')
    await expect(talk(page).getByRole('link', { name: 'See all classes' })).toBeVisible()
    // It stays as it ended, while it is open.
    await page.goto(shop + '/classes?after')
    await expect(log(page)).toContainText('Written down.')
    const [lead] = (await api.people(email)).leads
    expect(lead.walks[0].answers).toMatchObject({ pull: 'Wheel', before: 'Never', want: 'Yes, please', email })
    await page.context().close()
  })

test('who says no is let go with ways to a person, at its own page', async ({ page }) => {
  await page.emulateMedia({ reducedMotion: 'reduce' })
  await page.goto(`${pages}/quillfern/find-your-class`)
  await talk(page).getByRole('button', { name: 'Glazing' }).click()
  await expect(log(page)).toContainText('Once a month')
  await talk(page).getByRole('button', { name: 'No, thank you' }).click()
  await expect(talk(page).getByRole('link', { name: 'A messenger' })).toHaveAttribute('href', 'https://chat.example.com/quillfern')
  await expect(talk(page).getByRole('link', { name: 'Call the studio' })).toHaveAttribute('href', 'tel:+3535550142')
  await expect(talk(page).getByRole('link', { name: 'Write to us' })).toHaveAttribute('href', 'mailto:studio@quillfern.test')
})

test('lines are typed at their pace, and what is not reached is not on the wire', async ({ page }) => {
  const said: string[] = []
  page.on('response', async r => void (/\/(designs|advance|decide)/.test(r.url()) && said.push(await r.text().catch(() => ''))))
  const chat = await api.live('Paced', () => {}, 'chat', {}, 'book-a-place')
  await page.goto(chat.url)
  await talk(page).getByRole('button', { name: 'Book a place' }).click()
  await expect(talk(page).locator('.typing')).toBeVisible()
  await expect(talk(page).getByRole('button', { name: 'Never' })).toBeVisible()
  expect(said.join()).not.toContain('the first evening is on us')
  await talk(page).getByRole('button', { name: 'Never' }).click()
  await expect(log(page)).toContainText('Then the first evening is on us.')
  await expect(log(page)).toContainText('Which day suits you?')
  await chat.end()
})

test('answers of any sort stay what they are: long, from right to left, markup', async ({ page }) => {
  await page.emulateMedia({ reducedMotion: 'reduce' })
  const chat = await api.live('Hostile', () => {}, 'chat', {}, 'leave-a-question')
  await page.goto(chat.url)
  await talk(page).getByRole('button', { name: 'A question?' }).click()
  await talk(page).getByRole('button', { name: 'Something else' }).click()
  await expect(log(page)).toContainText('what would you like to know?')
  // A page script may put more into the line than it lets anyone type.
  for (const long of [2_001, 100_000]) {
    await input(page).focus()
    await input(page).evaluate((e: HTMLInputElement, long) => {
      e.removeAttribute('maxlength')
      e.value = 'x'.repeat(long)
      e.dispatchEvent(new InputEvent('input', { bubbles: true }))
    }, long)
    await page.keyboard.press('Enter')
    await expect(log(page).getByText('This is too long. Could you say it in fewer words?')).toHaveCount(long > 3000 ? 2 : 1)
  }
  const words = 'مرحبا <img src=x onerror="window.hit=1"> {email} 🎁'
  await input(page).fill(words)
  await page.keyboard.press('Enter')
  await expect(log(page)).toContainText('Where should the answer go?')
  await expect(log(page).locator('.mine').last()).toContainText('مرحبا <img src=x onerror="window.hit=1"> {email} 🎁')
  expect(await page.evaluate(() => (window as { hit?: number }).hit)).toBeUndefined()
  const email = `hostile-${Date.now()}@example.com`
  await input(page).fill(email)
  await page.keyboard.press('Enter')
  await expect(log(page)).toContainText('It is with us.')
  expect((await api.people(email)).leads[0].walks[0].answers.question).toBe(words)
  await chat.end()
})

test('a conversation is gone on with after its piece was changed, and after a branch of it went', async ({ page }) => {
  await page.emulateMedia({ reducedMotion: 'reduce' })
  const chat = await api.live('Changed', () => {}, 'chat', {}, 'book-a-place')
  await page.goto(chat.url)
  await talk(page).getByRole('button', { name: 'Book a place' }).click()
  await talk(page).getByRole('button', { name: 'Never' }).click()
  await expect(log(page)).toContainText('Which day suits you?')
  const info = await api.piece(chat.id)
  const doc = info.draft
  const { design } = doc.split.variants[0]
  design.scenes = design.scenes.filter(s => s.id !== 'first')
  design.scenes[0].edges = [{ to: 'day' }]
  ;(design.scenes[0].blocks[0] as Text).text = 'Now in other words.'
  const saved = await api.save(chat.id, info.version, doc)
  await api.launch(chat.id, saved.version)
  await expect(async () => {
    const fresh = await page.context().browser()!.newPage()
    await fresh.goto(chat.url)
    await fresh.locator('gobbet-piece').getByRole('button', { name: 'Book a place' }).click()
    await expect(fresh.locator('gobbet-piece').getByRole('log')).toContainText('Now in other words.', { timeout: 2000 })
    await fresh.close()
  }).toPass()
  await page.reload()
  await expect(log(page)).toContainText('Then the first evening is on us.')
  await talk(page).getByRole('button', { name: 'Tuesday' }).click()
  await expect(log(page)).toContainText('Where may we send the confirmation?')
  await api.pause(chat.id)
  // The pause is known to the site's visitors a moment later.
  await expect(async () => {
    const decided = page.waitForResponse('**/decide')
    await page.reload()
    const { placements } = await (await decided).json()
    expect(placements.map((p: { piece: string }) => p.piece)).not.toContain(chat.id)
  }).toPass()
  await expect(talk(page)).toHaveCount(0)
})

test('someone new writes a conversation with a branch as a script, on the same scenes', async ({ page, browser }) => {
  await signIn(page)
  await page.goto('/sites/1/new')
  await page.getByRole('button', { name: 'Chat', exact: true }).click()
  await page.getByRole('button', { name: 'Blank' }).click()
  await page.getByRole('dialog').getByLabel('Name').fill('Written as a script')
  await page.getByRole('button', { name: 'Create piece' }).click()
  await page.waitForURL('**/compose')
  const id = page.url().match(/pieces\/([a-z0-9]+)/)![1]
  await page.getByRole('region', { name: 'Scenes' }).getByRole('button', { name: 'Script' }).click()
  const lines = page.getByRole('list', { name: 'Lines' })
  await lines.getByLabel('Line', { exact: true }).first().fill('Hello! Which class suits you?')
  await page.keyboard.press('Enter')
  await page.keyboard.type('It takes two minutes.')
  await lines.getByLabel('Question').first().fill('Wheel or hand-building?')
  await lines.getByLabel('Answer', { exact: true }).nth(0).fill('Wheel')
  await lines.getByLabel('Answer', { exact: true }).nth(1).fill('Hand-building')
  await lines.locator('[data-what=answer]').nth(0).getByRole('button', { name: 'Branch' }).click()
  await expect(lines.getByLabel('Line', { exact: true }).nth(2)).toBeFocused()
  await page.keyboard.type('Clay on your sleeves, then.')
  const branch = lines.getByRole('group', { name: 'Add here' }).first()
  await choose(branch.getByRole('combobox', { name: 'Add a link' }), 'Call')
  const doc = await draft(page, id)
  const { scenes } = doc.split.variants[0].design
  expect(scenes[0].blocks.filter(b => b.kind === 'text').map(b => (b as Text).text)).toEqual(['Hello! Which class suits you?', 'It takes two minutes.'])
  const added = scenes.at(-1)!
  expect(added.blocks.map(b => b.kind)).toEqual(['text', 'button'])
  expect(scenes[0].edges).toContainEqual({ block: 'answer', when: [{ of: 'answer', op: 'is', value: 'yes' }], to: added.id })
  // A made-up visitor's conversation is read beside it.
  await expect(page.getByRole('log', { name: 'Transcript of one visitor' })).toContainText('Wheel or hand-building?')
  await page.keyboard.press('Control+z')
  await expect.poll(async () => (await draft(page, id)).split.variants[0].design.scenes.at(-1)!.blocks.length).toBe(1)
  await page.keyboard.press('Control+Shift+z')
  await page.getByRole('dialog', { name: 'Script' }).getByText('Close', { exact: true }).click()
  const live = await api.live(
    'Written, live',
    p => {
      p.split = doc.split
    },
    'chat',
  )
  const visitor = await (await browser.newContext({ reducedMotion: 'reduce' })).newPage()
  await visitor.goto(live.url)
  await talk(visitor).getByRole('button', { name: 'Can we help?' }).click()
  await talk(visitor).getByRole('button', { name: 'Wheel' }).click()
  await expect(log(visitor)).toContainText('Clay on your sleeves, then.')
  await expect(talk(visitor).getByRole('link', { name: 'Call us' })).toBeVisible()
  await live.end()
})
