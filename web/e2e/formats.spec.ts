import { expect, test } from '@playwright/test'
import type { Block, Piece } from '../kinds/piece'
import { Api, and, choices, meanwhile, shop } from './api'

// Every format and the rarer blocks on a visitor's page, live.

let api: Api
test.beforeAll(async () => {
  api = await Api.open()
  await api.settings({ limits: {} })
})

const frame = (p: Piece) => p.split.variants[0].design.frame
const first = (p: Piece) => p.split.variants[0].design.scenes[0]
const scenes = (p: Piece) => p.split.variants[0].design.scenes
const send: Block = { kind: 'button', id: 'send', words: 'Send', press: { do: 'send' }, counts: true, quiet: false }

test('a bar makes room, stays as the page scrolls, and leaves no gap', async ({ page }) => {
  const bar = await api.live(
    'Room for a bar',
    p => {
      frame(p).bar = { pushes: true }
    },
    'bar',
  )
  await page.goto(shop)
  const before = await page.locator('header').evaluate(e => e.getBoundingClientRect().top)
  await page.goto(bar.url)
  const region = page.getByRole('region', { name: 'Say what they get' })
  await expect(region).toBeVisible()
  const height = (await region.boundingBox())!.height
  await expect.poll(() => page.locator('header').evaluate(e => e.getBoundingClientRect().top)).toBeCloseTo(before + height, 0)
  await page.evaluate(() => {
    document.body.style.minHeight = '3000px'
    scrollTo(0, 900)
  })
  await expect.poll(async () => (await region.boundingBox())!.y).toBeCloseTo(0, 0)
  await region.getByRole('button', { name: 'Close' }).click()
  await expect(region).toHaveCount(0)
  await page.evaluate(() => scrollTo(0, 0))
  expect(await page.locator('header').evaluate(e => e.getBoundingClientRect().top)).toBeCloseTo(before, 0)
  await bar.end()
})

test('a bar and a popup stand side by side; two inline pieces too', async ({ page }) => {
  const popup = await api.live('Beside a bar')
  const here = popup.url.replace(shop, '')
  const bar = await api.live('Beside a popup', () => here, 'bar')
  const inline = (anchor: 'first' | 'last') =>
    api.live(
      `In the page, ${anchor}`,
      p => {
        frame(p).anchor = { selector: 'main', where: anchor, pushes: true }
        return here
      },
      'inline',
    )
  const pieces = [popup, bar, await inline('first'), await inline('last')]
  await page.goto(popup.url)
  await expect(page.locator('.layer.popup')).toBeVisible()
  await expect(page.locator('.layer.bar')).toBeVisible()
  await expect(page.locator('main .layer.inline')).toHaveCount(2)
  for (const p of pieces) await p.end()
})

test('an inline piece whose place is not on the page shows nothing and counts nothing', async ({ page }) => {
  const lost = await api.live('Lost', p => void (frame(p).anchor = { selector: '#nowhere' }), 'inline')
  const sent: string[] = []
  page.on('request', r => /events/.test(r.url()) && sent.push(r.postData() ?? ''))
  const decided = page.waitForResponse('**/decide')
  await page.goto(lost.url)
  await decided
  await meanwhile(page, 400)
  expect(await page.locator('gobbet-piece').count()).toBe(0)
  expect(sent).toEqual([])
  await lost.end()
})

test('a tab opens the piece; once closed it waits as a tab again', async ({ page }) => {
  const before = await api.live('By a tab', p => void (frame(p).tab = { words: 'Ten per cent' }))
  await page.goto(before.url)
  await expect(page.getByRole('dialog')).toHaveCount(0)
  await page.getByRole('button', { name: 'Ten per cent' }).click()
  await expect(page.getByRole('dialog').getByRole('button', { name: 'Close' })).toBeFocused()
  await before.end()
  const after = await api.live('To a tab', p => void (frame(p).tab = { words: 'Ten per cent', after: true }), 'fly_in')
  await page.goto(after.url)
  await page.getByRole('dialog').getByRole('button', { name: 'Close' }).click()
  await expect(page.getByRole('dialog')).toHaveCount(0)
  await page.getByRole('button', { name: 'Ten per cent' }).click()
  await expect(page.getByRole('dialog')).toBeVisible()
  await after.end()
})

test('a sheet and a full screen hold the page, and a late close mark comes', async ({ page }) => {
  for (const format of ['sheet', 'full'] as const) {
    const piece = await api.live(`Held by ${format}`, p => void (frame(p).close.after = 1), format)
    await page.goto(piece.url)
    const dialog = page.getByRole('dialog')
    // Its close button comes later: the first field has the keyboard.
    await expect(dialog.getByRole('textbox').first()).toBeFocused()
    expect((await dialog.boundingBox())!.height).toBe(page.viewportSize()!.height)
    await expect(dialog.getByRole('button', { name: 'Close' })).toBeVisible()
    await page.keyboard.press('Escape')
    await expect(dialog).toHaveCount(0)
    await piece.end()
  }
})

test('closed for good stays away; another piece opens by a button', async ({ page }) => {
  const other = await api.live('Opened by another', p => and(p, { fact: 'moment.event', op: 'happened', value: 'asked-for' }), 'sheet')
  const piece = await api.live('Closed for good', p => {
    p.caps = {}
    first(p).blocks.push(
      { kind: 'button', id: 'never', words: 'Never again', press: { do: 'never' }, counts: false, quiet: true },
      { kind: 'button', id: 'other', words: 'The other one', press: { do: 'piece', piece: other.id }, counts: false, quiet: true },
    )
    return other.url.replace(shop, '')
  })
  await page.goto(piece.url)
  await page.getByRole('button', { name: 'The other one' }).click()
  await expect(page.locator('.layer.sheet')).toBeVisible()
  await expect(page.locator('.layer.popup')).toHaveCount(0)
  await page.reload()
  await page.getByRole('button', { name: 'Never again' }).click()
  await expect(page.locator('.layer.popup')).toHaveCount(0)
  const decided = page.waitForResponse('**/decide')
  await page.reload()
  const { placements } = await (await decided).json()
  expect(placements.map((p: { piece: string }) => p.piece)).not.toContain(piece.id)
  await piece.end()
  await other.end()
})

test('a timer runs out into a scene, and counts on over a reload', async ({ page }) => {
  const piece = await api.live('Runs out', p => {
    p.caps = {}
    first(p).blocks.push({ kind: 'timer', id: 'timer', minutes: 1, at_zero: 'next', size: 20, align: 'start' })
    first(p).edges!.push({ block: 'timer', to: 'thanks' })
  })
  await page.clock.install()
  await page.goto(piece.url)
  const timer = page.getByRole('timer')
  await page.clock.runFor(1200)
  await expect(timer).toHaveAccessibleName(/0 hours 0 minutes 5\d seconds|0 hours 1 minute 0 seconds/)
  await page.clock.runFor(20_000)
  await page.reload()
  await page.clock.runFor(1500)
  await expect(timer).toHaveAccessibleName(/0 hours 0 minutes 3\d seconds/)
  await page.clock.runFor(45_000)
  await expect(page.getByRole('dialog').getByRole('heading')).toHaveText('Thank you, friend')
  await piece.end()
})

test('each visitor gets a code of their own from a pool, until none is left', async ({ browser, context }) => {
  await api.pool('spring', ['ASH-1', 'ASH-2'])
  const piece = await api.live('Codes', p => {
    p.caps = {}
    first(p).blocks.push({ kind: 'code', id: 'code', pool: 'spring', words: 'Copy it', copied: 'Copied', size: 20 })
  })
  const seen: string[] = []
  for (let i = 0; i < 3; i++) {
    const visitor = await (await browser.newContext({ permissions: ['clipboard-read', 'clipboard-write'] })).newPage()
    await visitor.goto(piece.url)
    const block = visitor.locator('[data-block=code]')
    await expect(block).toContainText(/ASH-\d|All codes have been given out/)
    const said = (await block.textContent())!.match(/ASH-\d/)?.[0] ?? 'none'
    if (said !== 'none') {
      await block.getByRole('button', { name: 'Copy it' }).click()
      await expect(block.getByRole('button', { name: 'Copied' })).toBeVisible()
      expect(await visitor.evaluate(() => navigator.clipboard.readText())).toBe(said)
      await visitor.reload()
      await expect(block).toContainText(said)
    }
    seen.push(said)
    await visitor.context().close()
  }
  expect(seen.sort()).toEqual(['ASH-1', 'ASH-2', 'none'])
  await piece.end()
  await context.close()
})

test('fields of every kind are asked, checked and sent, hidden ones from the address', async ({ page }) => {
  const field = (ask: string, more = {}) => ({ kind: 'field', id: ask, ask, key: ask, label: `A ${ask}`, required: true, ...more }) as Block
  const piece = await api.live(
    'Every field',
    p => {
      first(p).blocks = [
        { kind: 'columns', id: 'both', gap: 12, blocks: [field('email'), field('phone')] },
        field('number', { least: '2', most: '9', width: 40 }),
        field('date'),
        field('long'),
        field('choice', { choices: choices('Red', 'Blue') }),
        field('choices', { choices: choices('Clay', 'Glaze', 'Wheel'), most: '2' }),
        field('dropdown', { choices: choices('Small', 'Large') }),
        field('stars'),
        field('scale'),
        field('consent'),
        field('hidden', { required: false, from: 'query.utm_campaign' }),
        send,
      ]
    },
    'full',
  )
  await page.goto(`${piece.url}?utm_campaign=may`)
  const dialog = page.getByRole('dialog')
  await dialog.getByRole('button', { name: 'Send' }).click()
  await expect(dialog.getByText('Please fill this in.').first()).toBeVisible()
  const wide = async (label: string) => (await dialog.getByLabel(label).boundingBox())!.width
  expect((await wide('A number')) / (await wide('A long'))).toBeCloseTo(0.4, 1)
  await dialog.getByLabel('A email').fill('all@example.com')
  await dialog.getByLabel('A phone').fill('+353 1 234 567')
  await dialog.getByLabel('A number').fill('12')
  await dialog.getByLabel('A date').fill('2026-12-24')
  await dialog.getByLabel('A long').fill('Two\nlines')
  await dialog.getByText('Blue').click()
  await dialog.getByText('Glaze').click()
  await dialog.getByText('Wheel').click()
  await dialog.getByLabel('A dropdown').selectOption('Large')
  await dialog.getByRole('radio', { name: '4 of 5' }).check({ force: true })
  await dialog.getByText('7', { exact: true }).click()
  await dialog.getByLabel('A consent').check()
  await dialog.getByRole('button', { name: 'Send' }).click()
  await expect(dialog.getByText('This should be 2 to 9.')).toBeVisible()
  await dialog.getByLabel('A number').fill('7')
  await dialog.getByRole('button', { name: 'Send' }).click()
  await expect(dialog.getByRole('heading')).toHaveText('Thank you, friend')
  const [lead] = (await api.people('all@example.com')).leads
  expect(lead.walks[0].answers).toMatchObject({
    number: '7',
    choice: 'Blue',
    choices: 'Glaze\nWheel',
    dropdown: 'Large',
    stars: '4',
    scale: '7',
    consent: 'yes',
    hidden: 'may',
    long: 'Two\nlines',
  })
  await piece.end()
})

test('a sound is heard by who has pressed something on the page, and by nobody else', async ({ page }) => {
  const piece = await api.live('Chimes', p => {
    frame(p).sound = 'chime'
    and(p, { fact: 'moment.seconds_on_page', op: 'gte', value: 1 })
  })
  await page.addInitScript(() => {
    const heard: number[] = []
    Object.assign(window, { heard })
    const begin = OscillatorNode.prototype.start
    OscillatorNode.prototype.start = function (at) {
      heard.push(Math.round(this.frequency.value))
      return begin.call(this, at)
    }
  })
  const heard = () => page.evaluate(() => (window as unknown as { heard: number[] }).heard)
  await page.goto(piece.url)
  // To look into the page counts as a press on it: so not before it shows.
  await meanwhile(page, 2500)
  await expect(page.getByRole('dialog')).toBeVisible()
  expect(await heard()).toEqual([])
  await page.evaluate(() => localStorage.clear())
  await page.goto(piece.url)
  await page.mouse.click(5, 400)
  await expect(page.getByRole('dialog')).toBeVisible()
  await expect.poll(heard).toEqual([880, 1319])
  await piece.end()
})

test('markup, links and a video stand without scripts; right-to-left runs its way', async ({ page }) => {
  const piece = await api.live('Rare blocks', p => {
    scenes(p)[0].blocks = [
      { kind: 'heading', id: 'title', text: 'ברוכים הבאים', size: 30, align: 'start' },
      { kind: 'html', id: 'html', html: '<p>Bold <b>words</b></p><img src=x onerror="window.hit=1"><script>window.hit=1</script>' },
      {
        kind: 'links',
        id: 'links',
        items: [{ name: 'talk', path: 'M4 5h16v11H4z', label: 'A messenger', address: 'https://chat.example.com' }],
        size: 24,
        align: 'start',
      },
      { kind: 'progress', id: 'progress', look: 'words' },
      { kind: 'video', id: 'video', address: 'https://video.example.com/embed/1', title: 'A film', ratio: 56, corners: 0 },
      send,
    ]
  })
  await page.route('https://video.example.com/**', r => r.fulfill({ body: '<title>film</title>', contentType: 'text/html' }))
  await page.goto(piece.url)
  const dialog = page.getByRole('dialog')
  await expect(dialog.locator('[data-block=html] b')).toHaveText('words')
  await expect(dialog.getByRole('link', { name: 'A messenger' })).toHaveAttribute('href', 'https://chat.example.com')
  await expect(dialog.getByText('1 of 2')).toBeVisible()
  await expect(dialog.locator('iframe')).toHaveAttribute('sandbox', /allow-scripts/)
  expect(await page.evaluate(() => (window as unknown as { hit?: number }).hit)).toBeUndefined()
  const close = (await dialog.getByRole('button', { name: 'Close' }).boundingBox())!
  const whole = (await dialog.locator('.hold').boundingBox())!
  expect(close.x).toBeLessThan(whole.x + 40)
  await piece.end()
})
