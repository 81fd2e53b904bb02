import { type BrowserContextOptions, devices, expect, type Page, test } from '@playwright/test'
import type { Piece, PrizeDraw } from '../kinds/piece'
import type { AdvanceAnswer } from '../kinds/visitor'
import { flat } from '../page/paint'
import { Api, meanwhile, pages, rested, shop, signIn } from './api'
import { choose, draft, outline, scene, settings, stage } from './designer'

// Prize draws on a visitor's page, live, and how they are made.

let api: Api
test.beforeAll(async () => {
  api = await Api.open()
  await api.settings({ limits: {} })
})

const piece = (page: Page) => page.locator('gobbet-piece')
const phone: BrowserContextOptions = { ...devices['Pixel 7'], defaultBrowserType: undefined } as BrowserContextOptions
const drawIn = (p: Piece) => p.split.variants[0].design.scenes.flatMap(s => flat(s.blocks)).find((b): b is PrizeDraw => b.kind === 'draw')!

/** What the server has said of goes, and all it has sent of designs. */
function hears(page: Page) {
  const heard = { went: [] as AdvanceAnswer[], wire: '' }
  page.on('response', async r => {
    if (!/\/(designs|advance|decide|codes)/.test(r.url())) return
    const text = await r.text().catch(() => '')
    if (r.url().includes('/advance') && r.ok()) heard.went.push(JSON.parse(text))
    else heard.wire += text
  })
  return heard
}

/** How far a wheel's disc is turned, in degrees. */
const turned = (page: Page) =>
  page.evaluate(() => {
    const disc = document.querySelector('gobbet-piece')!.shadowRoot!.querySelector('.disc')!
    const { a, b } = new DOMMatrix(getComputedStyle(disc).transform)
    return ((Math.atan2(b, a) * 180) / Math.PI + 360) % 360
  })

test('a wheel: nothing of it is on the wire before the go, it rests where the server said, and the code is the visitor’s', async ({ page }) => {
  const wheel = await api.live('Wheel', () => {}, 'popup', {}, 'spin-before-you-go')
  const heard = hears(page)
  await page.goto(wheel.url)
  const popup = page.getByRole('dialog')
  await popup.getByRole('button', { name: 'Spin the wheel' }).click()
  await expect(popup.getByText('Please fill this in.')).toBeVisible()
  expect(heard.went).toHaveLength(0)
  await popup.getByLabel('Email').fill(`wheel-${Date.now()}@example.com`)
  for (const secret of ['TEN', 'FREEPOST', 'TWENTY', 'GIFT', '"weight":3', 'nothing']) expect(heard.wire, secret).not.toContain(`"${secret}"`)
  await page.keyboard.press('Enter')
  const says = popup.locator('.says').getByText(/^(You have won: .+\.|Not this time\.)$/)
  await expect(says).toBeVisible({ timeout: 15_000 })
  const { rest, label } = heard.went.at(-1)!.drawn!.prize
  expect((((await turned(page)) + rest + 0.5) % 360) - 0.5).toBeCloseTo(0, 1)
  // What stands under the bite, at the wheel's right, is what is said.
  const bite = await page.evaluate(() => {
    const root = document.querySelector('gobbet-piece')!.shadowRoot!
    const { right, top, height } = root.querySelector('.wheel')!.getBoundingClientRect()
    const at = root.elementsFromPoint(right - height * 0.12, top + height / 2)
    return at
      .map(e => e.closest('g:has(> path, > circle)')?.textContent)
      .find(Boolean)
      ?.replace(/\s+/g, '')
  })
  expect(label.replace(/\s+/g, '')).toBe(bite)
  const won = heard.went.at(-1)!.scene === 'won'
  await expect(popup.getByRole('heading')).toHaveText(won ? `${label} is yours` : 'Not this time')
  if (won) await expect(popup.getByText(/^(TEN|GIFT|FREEPOST|TWENTY)$/)).toBeVisible()
  await wheel.end()
})

test('one go a visitor: in another tab it is the same, and nobody else’s address has another', async ({ browser }) => {
  const wheel = await api.live(
    'Twice',
    p => {
      p.caps = {}
    },
    'popup',
    {},
    'pick-a-box',
  )
  const context = await browser.newContext({ reducedMotion: 'reduce' })
  const labels: string[] = []
  for (let tab = 0; tab < 2; tab++) {
    const page = await context.newPage()
    const heard = hears(page)
    await page.addInitScript(() => localStorage.removeItem('gobbet:quillfern:walks'))
    await page.goto(wheel.url)
    await page.getByRole('button', { name: 'Open: 2 of 3' }).click()
    await expect.poll(() => heard.went.length).toBeGreaterThan(0)
    labels.push(heard.went.find(a => a.drawn)!.drawn!.prize.label)
    if (tab) await expect(page.locator('.says').getByText(`You have had your go. It was: ${labels[0]}.`)).toBeVisible()
  }
  expect(labels[1]).toBe(labels[0])
  await wheel.end()
})

test('less motion: the wheel does not turn, and says at once what was won', async ({ browser }) => {
  const page = await (await browser.newContext({ reducedMotion: 'reduce' })).newPage()
  const wheel = await api.live(
    'Still',
    p => (drawIn(p).parts = drawIn(p).parts.map(x => ({ ...x, weight: x.label === '10 % off' ? 1 : 0 }))),
    'popup',
    {},
    'spin-before-you-go',
  )
  const heard = hears(page)
  await page.goto(wheel.url)
  await page.getByLabel('Email').fill(`still-${Date.now()}@example.com`)
  await page.getByRole('button', { name: 'Spin', exact: true }).press('Enter')
  await expect(page.locator('.says').getByText('You have won: 10 % off.')).toBeVisible({ timeout: 3000 })
  expect(await page.evaluate(() => document.querySelector('gobbet-piece')!.shadowRoot!.querySelector('.disc')!.getAnimations().length)).toBe(0)
  expect((((await turned(page)) + heard.went.at(-1)!.drawn!.prize.rest + 0.5) % 360) - 0.5).toBeCloseTo(0, 1)
  await expect(page.getByText('TEN', { exact: true })).toBeVisible()
  await wheel.end()
})

test('a card is scratched, or shown at once from the keyboard', async ({ browser }) => {
  const card = await api.live(
    'Card',
    p => (drawIn(p).parts = drawIn(p).parts.map(x => ({ ...x, weight: x.id === 'a_small_gift' ? 1 : 0 }))),
    'fly_in',
    {},
    'scratch-and-see',
  )
  for (const by of ['mouse', 'keyboard']) {
    const page = await (await browser.newContext()).newPage()
    await page.goto(card.url)
    const canvas = piece(page).locator('canvas')
    await expect(canvas).toBeVisible()
    if (by === 'mouse') {
      await rested(piece(page).locator('.layer'))
      const r = (await canvas.boundingBox())!
      await page.mouse.move(r.x + 10, r.y + 10)
      await page.mouse.down()
      for (let y = 10; y < r.height; y += 20) {
        await page.mouse.move(r.x + r.width - 10, r.y + y, { steps: 6 })
        await page.mouse.move(r.x + 10, r.y + y + 10, { steps: 6 })
      }
      await page.mouse.up()
    } else {
      await piece(page).getByRole('button', { name: 'Or scratch it all at once' }).press('Enter')
    }
    // It is told, and stays told while the next scene comes.
    await expect(piece(page).locator('.layer > [role=status]')).toContainText('You have won: A small gift.')
    await expect(piece(page).getByRole('heading')).toHaveText('A small gift is yours')
    await piece(page).getByLabel('Email').fill(`card-${by}-${Date.now()}@example.com`)
    await page.keyboard.press('Enter')
    await expect(piece(page).getByText('GIFT', { exact: true })).toBeVisible()
    await page.context().close()
  }
  await card.end()
})

test('24 parts can be read, and no label leaves its part', async ({ page }) => {
  const wheel = await api.live(
    'Many',
    p => {
      const d = drawIn(p)
      d.even = true
      d.parts = Array.from({ length: 24 }, (_, i) => ({ id: `p${i}`, label: i % 3 ? `Prize ${i}` : `A longer prize, ${i}`, weight: 1 }))
      p.split.variants[0].design.scenes[0].edges = [{ to: 'won' }]
    },
    'popup',
    {},
    'spin-before-you-go',
  )
  await page.goto(wheel.url)
  await expect(piece(page).locator('.disc text').first()).toBeVisible()
  const sizes = await page.evaluate(() =>
    [...document.querySelector('gobbet-piece')!.shadowRoot!.querySelectorAll<SVGTextElement>('.disc text')].map(t => {
      const scale = t.ownerSVGElement!.getBoundingClientRect().width / 400
      const box = t.getBBox()
      return { size: Number.parseFloat(getComputedStyle(t).fontSize) * scale, long: box.width, high: box.height }
    }),
  )
  for (const s of sizes) {
    expect(s.size).toBeGreaterThanOrEqual(9)
    expect(s.long).toBeLessThanOrEqual(122)
    expect(s.high).toBeLessThanOrEqual(33) // the part is 31 wide at its middle, and wider where the label is
  }
  await wheel.end()
})

for (const [device, options] of [
  ['a desktop', {}],
  ['a phone', phone],
] as const)
  test(`the demo’s wheel and card at their own pages, on ${device}`, async ({ browser }) => {
    const page = await (await browser.newContext({ ...options, reducedMotion: 'reduce' })).newPage()
    await page.goto(`${pages}/quillfern/spin`)
    await expect(piece(page).locator('.odds')).toContainText('10 % off 1 in 4 · A test tile 1 in 3 · Free post 1 in 12 · Not today 1 in 4 · 15 % off 1 in 12')
    await piece(page)
      .getByLabel('Email')
      .fill(`demo-${device.replace(' ', '')}-${Date.now()}@example.com`)
    await page.keyboard.press('Enter')
    await expect(piece(page).getByRole('heading')).toHaveText(/is yours$|^Not today$/)
    const title = await piece(page).getByRole('heading').textContent()
    await page.reload()
    await expect(piece(page).getByRole('heading')).toHaveText(title!)
    await page.goto(`${pages}/quillfern/spring-card`)
    await piece(page).getByRole('button', { name: 'Or scratch it all at once' }).press('Enter')
    await expect(piece(page).getByRole('heading')).toHaveText(/5 € off clay|A glaze brush|Not this one/)
  })

test('the demo’s wheel comes to those who leave their basket', async ({ page }) => {
  await page.goto(shop + '/basket')
  // Who leaves before anyone looks leaves unseen.
  await expect(async () => {
    await page.mouse.move(400, 300)
    await meanwhile(page, 1500)
    await page.mouse.move(400, 2, { steps: 6 })
    await page.mouse.move(400, -5)
    await expect(page.getByRole('dialog').getByRole('heading')).toHaveText('A spin before you go?', { timeout: 2000 })
  }).toPass()
})

test('someone new makes a wheel with four prizes and a pool, and a visitor spins it', async ({ page, browser }) => {
  await signIn(page)
  const pool = `Made ${Date.now().toString(36)}`
  await page.goto('/sites/1/settings/codes')
  await page.getByRole('button', { name: 'New pool' }).click()
  await page.getByLabel('Name').fill(pool)
  await page.getByRole('button', { name: 'Generate' }).click()
  await page.getByLabel('Pattern').fill('W-#')
  await page.getByLabel('How many').fill('50')
  await page.getByRole('button', { name: 'Create pool of 50 codes' }).click()
  await expect(page.getByText(/makes 8 codes, too few for 50/)).toBeVisible()
  await page.getByLabel('Pattern').fill('WHEEL-****-**')
  await page.getByRole('button', { name: 'Create pool of 50 codes' }).click()
  await expect(page.getByText('50 codes added.')).toBeVisible()

  const made = await api.make('Made by hand')
  await page.goto(`/sites/1/pieces/${made.id}/compose`)
  const strip = page.getByRole('region', { name: 'Scenes' })
  await strip.getByRole('button', { name: 'Scene' }).click()
  await page.getByRole('menuitem', { name: 'Prize draw' }).click()
  await outline(page).getByRole('button', { name: 'Wheel', exact: true }).click()
  const parts = settings(page).getByRole('group', { name: 'Parts' })
  await parts.getByLabel('Label').nth(0).fill('A mug')
  await parts.getByLabel('Weight of A mug').fill('7')
  await expect(parts.getByLabel('Odds of A mug')).toHaveText('50.0 %')
  await choose(parts.getByRole('combobox', { name: 'Prize of A mug' }), `Code from ${pool}`)
  await parts.getByLabel('Stock of A small gift').fill('5')
  await expect(parts).toContainText('71.4 % of goes win')
  const doc = await draft(page, made.id)
  const draw = drawIn(doc)
  expect(draw.parts.map(p => [p.label, p.weight, p.stock, !!p.pool])).toEqual([
    ['A mug', 7, undefined, true],
    ['Free delivery', 2, undefined, false],
    ['A small gift', 1, 5, false],
    ['Not this time', 4, undefined, false],
  ])
  expect(doc.split.variants[0].design.scenes.map(s => s.name)).toEqual(['Sign-up', 'Prize draw', 'Won', 'Not won', 'Thank-you'])
  await expect(stage(page).locator('.disc text').first()).toBeVisible()
  await page.keyboard.press('Control+z')
  expect(scene(doc)).toBeTruthy()
  const live = await api.live('Made by hand, live', p => {
    p.split = doc.split
    drawIn(p).parts = draw.parts.map(x => ({ ...x, weight: x.label === 'A mug' ? 1 : 0 }))
  })
  const visitor = await (await browser.newContext({ reducedMotion: 'reduce' })).newPage()
  await visitor.goto(live.url)
  await visitor.getByLabel('Email').fill(`hand-${Date.now()}@example.com`)
  await visitor.getByRole('button', { name: 'Count me in' }).click()
  await visitor.getByRole('button', { name: 'Spin the wheel' }).click()
  await expect(visitor.getByText(/^WHEEL-[2-9A-Z]{4}-[2-9A-Z]{2}$/)).toBeVisible()
  await live.end()
})
