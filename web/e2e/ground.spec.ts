import { devices, expect, type Page, test } from '@playwright/test'
import type { Block, Piece } from '../kinds/piece'
import { Api, and, choices, meanwhile, rested, shop } from './api'
import { served } from './host'

// What a visitor gives is kept, and the visitor's page is never worse for us.

let api: Api
test.beforeAll(async () => {
  api = await Api.open()
  await api.settings({ limits: {} })
})
test.afterEach(() => api.settings({ limits: {} }))

const popup = (page: Page) => page.getByRole('dialog')
const scenes = (p: Piece) => p.split.variants[0].design.scenes
const frame = (p: Piece) => p.split.variants[0].design.frame
const memory = (page: Page) => page.evaluate(() => JSON.parse(sessionStorage.getItem('gobbet:quillfern') ?? localStorage.getItem('gobbet:quillfern') ?? 'null'))
const asked = (value: string) => ({ fact: 'moment.event', op: 'happened', value }) as const
const pushed = (page: Page, told: object) => page.evaluate(t => (window.gobbet as { push(t: object): void }).push(t), told)
const field = (id: string, key: string, more: Partial<Extract<Block, { kind: 'field' }>> = {}): Block => ({
  kind: 'field',
  id,
  ask: 'text',
  key,
  label: key,
  required: false,
  ...more,
})
const send = (id: string, words = 'On'): Block => ({ kind: 'button', id, words, press: { do: 'send' }, counts: false, quiet: false })
const code = (id: string, is: { code?: string; pool?: string }): Block => ({ kind: 'code', id, words: 'Copy', copied: 'Copied', size: 20, ...is })
/** What came over the wire of a piece's design, as text. */
const wired = (page: Page) => page.waitForResponse(r => r.url().includes('/designs/')).then(r => r.text())

test.describe('what a visitor gave', () => {
  test('a choice, then an address: one walk, and the choice is the person’s', async ({ page }) => {
    const piece = await api.live('Choice then address', p => {
      scenes(p).unshift({
        id: 'first',
        name: 'First',
        kind: 'form',
        blocks: [field('glaze', 'glaze', { ask: 'choice', choices: choices('Ash', 'Celadon') }), send('on')],
        edges: [{ to: 'ask' }],
      })
    })
    const sent = wired(page)
    await page.goto(piece.url)
    expect(await sent).not.toContain('Thank you') // comes once an address is left
    await popup(page).getByText('Celadon').click()
    await popup(page).getByRole('button', { name: 'On' }).click()
    await popup(page).getByLabel('Email').fill('walker@example.com')
    await popup(page).getByRole('button', { name: 'Count me in' }).click()
    await expect(popup(page).getByRole('heading')).toContainText('Thank you')
    const [lead] = (await api.people('walker@example.com')).leads
    expect(lead.times).toBe(1)
    expect(lead.walks[0].answers).toMatchObject({ glaze: 'Celadon', email: 'walker@example.com' })
    await piece.end()
  })

  test('a poll’s answer is no address, and the next scene’s question starts empty', async ({ page }) => {
    const piece = await api.live('Poll', p => {
      scenes(p)[0].blocks = [field('a', 'why', { ask: 'choice', choices: choices('Yes', 'No') }), send('on')]
      scenes(p)[0].edges = [{ to: 'second' }]
      scenes(p).splice(1, 0, {
        id: 'second',
        name: 'Second',
        kind: 'form',
        blocks: [field('b', 'why_else', { ask: 'choice', choices: choices('Yes', 'No') }), send('go')],
        edges: [{ to: 'thanks' }],
      })
    })
    await page.goto(piece.url)
    await popup(page).getByText('Yes').click()
    await popup(page).getByRole('button', { name: 'On' }).click()
    await expect(popup(page).getByRole('radio', { name: 'No' })).toBeVisible()
    await expect(popup(page).getByRole('radio', { checked: true })).toHaveCount(0)
    expect((await memory(page)).lead).toBeFalsy()
    await piece.end()
  })

  test('a browser that fills in two fields at once loses neither', async ({ page }) => {
    const piece = await api.live('Autofill')
    await page.goto(piece.url)
    await expect(popup(page)).toBeVisible()
    await page.evaluate(() => {
      const root = document.querySelector('gobbet-piece')!.shadowRoot!
      for (const [at, value] of [
        ['input[name=name]', 'Niamh'],
        ['input[name=email]', 'niamh.autofill@example.com'],
      ]) {
        const input = root.querySelector<HTMLInputElement>(at)!
        input.value = value
        input.dispatchEvent(new Event('input', { bubbles: true }))
      }
    })
    await popup(page).getByRole('button', { name: 'Count me in' }).click()
    await expect(popup(page).getByRole('heading')).toContainText('Thank you, Niamh')
    expect((await api.people('niamh.autofill@example.com')).leads[0].walks[0].name).toBe('Niamh')
    await piece.end()
  })

  test('a code behind a form is not on the wire before it; a fixed one in a later scene neither', async ({ page }) => {
    const behind = await api.live('Code behind a form', p => void scenes(p)[1].blocks.push(code('c', { code: 'EARNED10' })))
    const sent = wired(page)
    await page.goto(behind.url)
    expect(await sent).not.toContain('EARNED10')
    await popup(page).getByLabel('Email').fill('earned@example.com')
    await popup(page).getByRole('button', { name: 'Count me in' }).click()
    await expect(popup(page).getByText('EARNED10')).toBeVisible()
    await behind.end()
    const later = await api.live('Code a step later', p => {
      scenes(p)[0].blocks = [{ kind: 'button', id: 'show', words: 'Show my code', press: { do: 'next' }, counts: false, quiet: false }]
      scenes(p)[0].edges = [{ to: 'thanks' }]
      scenes(p)[1].blocks = [code('c', { code: 'PRESSED10' })]
    })
    const again = wired(page)
    await page.goto(later.url)
    expect(await again).not.toContain('PRESSED10')
    await popup(page).getByRole('button', { name: 'Show my code' }).click()
    await expect(popup(page).getByText('PRESSED10')).toBeVisible()
    await later.end()
  })

  test('a pool gives its code once the showing is known; a server away is not “all given”', async ({ page }) => {
    await api.pool('ground', ['GROUND1', 'GROUND2'])
    const piece = await api.live('Pool at once', p => void scenes(p)[0].blocks.push(code('c', { pool: 'ground' })))
    await page.route('**/codes', r =>
      r.fulfill({ status: 503, contentType: 'application/json', headers: { 'Access-Control-Allow-Origin': '*' }, body: '{"title":"away"}' }),
    )
    await page.goto(piece.url)
    await expect(popup(page).getByText('Your code could not be fetched.')).toBeVisible()
    await expect(popup(page).getByText('All codes')).toHaveCount(0)
    await page.unroute('**/codes')
    await popup(page).getByRole('button', { name: 'Try again' }).click()
    await expect(popup(page).getByText('GROUND1')).toBeVisible()
    await piece.end()
  })

  test('full storage still knows that a piece was closed', async ({ page }) => {
    const piece = await api.live('Full storage')
    await page.goto(`${shop}/basket`)
    await page.waitForLoadState('networkidle')
    await page.evaluate(() => {
      let filler = 'x'.repeat(1 << 20)
      for (let n = 0; filler; n++)
        try {
          localStorage.setItem('filler' + n, filler)
        } catch {
          filler = filler.slice(filler.length / 2 + 0.5)
          n--
        }
    })
    await page.goto(piece.url)
    await popup(page).getByRole('button', { name: 'Close' }).click()
    await expect(popup(page)).toHaveCount(0)
    const decided = page.waitForResponse('**/decide')
    await page.reload()
    expect((await (await decided).json()).placements.map((p: { piece: string }) => p.piece)).not.toContain(piece.id)
    await page.evaluate(() => localStorage.clear())
    await piece.end()
  })

  test('a memory that has grown large is shortened, and its visitor stays the same', async ({ page }) => {
    await page.goto(`${shop}/basket`)
    await page.waitForLoadState('networkidle')
    const visitor = (await memory(page)).visitor
    await page.evaluate(() => {
      const m = JSON.parse(localStorage.getItem('gobbet:quillfern')!)
      for (let i = 0; i < 900; i++) m.pieces['made-up-' + i] = { shown: Array.from({ length: 50 }, (_, n) => 1_700_000_000 + i + n), times_shown: 50 }
      m.pieces.glazeclub = { never: true, closed: 5 }
      localStorage.setItem('gobbet:quillfern', JSON.stringify(m))
    })
    await page.reload()
    await page.waitForLoadState('networkidle')
    const now = await memory(page)
    expect(now.visitor).toBe(visitor)
    expect(now.visits).toBe(1)
    expect(JSON.stringify(now).length).toBeLessThanOrEqual(40_000)
    expect(now.pieces.glazeclub.never).toBe(true)
  })

  test('a phone held sideways is a phone, to the rule and to the eye', async ({ browser }) => {
    const piece = await api.live('Sideways', p => {
      p.phone_format = 'bar'
    })
    const sideways = await browser.newContext({ ...devices['Pixel 7 landscape'] })
    const page = await sideways.newPage()
    await page.goto(piece.url)
    await expect(page.locator('.layer.bar')).toBeVisible()
    expect(page.viewportSize()!.width).toBeGreaterThan(600)
    await sideways.close()
    await piece.end()
  })

  test('of two pieces due at once only one interrupts', async ({ page }) => {
    await api.settings({ limits: { quiet: 'PT1M' } })
    const one = await api.live('Due at once, one')
    const here = one.url.replace(shop, '')
    const two = await api.live('Due at once, two', () => here, 'fly_in')
    await page.goto(one.url)
    await expect(page.locator('gobbet-piece')).toHaveCount(1)
    await meanwhile(page, 1200) // the other would have come by now
    await expect(page.locator('gobbet-piece')).toHaveCount(1)
    await one.end()
    await two.end()
  })

  test('the time between pieces is for what interrupts: inline stands, a click opens', async ({ page }) => {
    await api.settings({ limits: { quiet: 'PT5M', overlays: 1 } })
    const first = await api.live('Interrupts', p => and(p, asked('first')))
    const here = first.url.replace(shop, '')
    const inline = await api.live(
      'Stands in the page',
      p => {
        p.caps = {}
        frame(p).anchor = { selector: 'main', where: 'first', pushes: true }
        return here
      },
      'inline',
    )
    const clicked = await api.live('Asked for by a click', p => {
      p.caps = {}
      and(p, { any: [{ fact: 'moment.click', op: 'happened', value: 'h1' }, asked('never')] })
      return here
    })
    await page.goto(first.url)
    await expect(page.locator('.layer.inline')).toBeVisible()
    await pushed(page, { event: 'first' })
    await popup(page).getByRole('button', { name: 'Close' }).click()
    await expect(popup(page)).toHaveCount(0)
    await page.goto(first.url) // the visit has had its one overlay, and the time is not over
    await expect(page.locator('.layer.inline')).toBeVisible()
    await page.locator('h1').first().click()
    await expect(popup(page)).toBeVisible()
    for (const p of [first, inline, clicked]) await p.end()
  })

  test('a link that opens a piece is held, and followed after the close', async ({ page }) => {
    const piece = await api.live('Opened by a link', p => and(p, { fact: 'moment.click', op: 'happened', value: 'nav a' }))
    await page.goto(piece.url)
    await page.waitForLoadState('networkidle')
    await page.getByRole('link', { name: 'Journal' }).first().click()
    await expect(popup(page)).toBeVisible()
    expect(page.url()).toBe(piece.url)
    await popup(page).getByRole('button', { name: 'Close' }).click()
    await page.waitForURL('**/journal')
    // Where the piece cannot show, the link is followed at once.
    await page.evaluate(() => localStorage.clear())
    await page.route('**/designs/**', r => r.abort())
    await page.goto(piece.url)
    await page.waitForLoadState('networkidle')
    await page.getByRole('link', { name: 'Journal' }).first().click()
    await page.waitForURL('**/journal')
    await piece.end()
  })
})

test.describe('a visitor’s page', () => {
  test('waits behind a popup: inert, still, and whole again', async ({ page }) => {
    const piece = await api.live('Waits', p => {
      scenes(p)[0].blocks = [
        { kind: 'heading', id: 'title', text: 'Which one?', size: 30, align: 'start' },
        send('on', 'thanks'),
        field('glaze', 'glaze', { ask: 'choice', choices: choices('Ash', 'Celadon', 'Tenmoku') }),
      ]
    })
    await page.addInitScript(() => {
      Object.assign(window, { shifted: 0 })
      new PerformanceObserver(list => {
        for (const e of list.getEntries()) (window as unknown as { shifted: number }).shifted += (e as unknown as { value: number }).value
      }).observe({ type: 'layout-shift', buffered: true })
    })
    await page.goto(piece.url)
    await page.evaluate(() => {
      document.body.style.minHeight = '3000px'
    })
    await expect(popup(page)).toBeVisible()
    await page.mouse.move(20, 400)
    await page.mouse.wheel(0, 600)
    await meanwhile(page, 300)
    expect(await page.evaluate(() => scrollY)).toBe(0)
    expect(await page.evaluate(() => document.querySelector('nav a')!.matches(':focus'))).toBe(false)
    await page.evaluate(() => document.querySelector<HTMLElement>('nav a')!.focus())
    expect(await page.evaluate(() => document.activeElement?.tagName)).toBe('GOBBET-PIECE') // the page is inert
    const inside = () => page.evaluate(() => (document.activeElement!.shadowRoot?.activeElement as HTMLInputElement | null)?.outerHTML.slice(0, 40) ?? '')
    for (let i = 0; i < 7; i++) {
      await page.keyboard.press('Tab')
      expect(await inside()).toMatch(/^<(input|button)/)
    }
    for (let i = 0; i < 7; i++) {
      await page.keyboard.press('Shift+Tab')
      expect(await inside()).toMatch(/^<(input|button)/)
    }
    await page.keyboard.press('Escape')
    await expect(popup(page)).toHaveCount(0)
    await page.mouse.wheel(0, 600)
    await expect.poll(() => page.evaluate(() => scrollY)).toBeGreaterThan(0)
    // Letters of the piece's own font that come late may move its own lines; a scrollbar that went would move the page.
    expect(await page.evaluate(() => (window as unknown as { shifted: number }).shifted)).toBeLessThan(0.002)
    await piece.end()
  })

  test('that swaps its body under an open piece has its keyboard back, and the place is free', async ({ page }) => {
    const piece = await api.live('Swapped away', p => and(p, asked('first')))
    const next = await api.live('Next in its place', p => {
      and(p, asked('next'))
      return piece.url.replace(shop, '')
    })
    await page.goto(piece.url)
    await page.waitForLoadState('networkidle')
    await pushed(page, { event: 'first' })
    await expect(popup(page)).toBeVisible()
    await page.evaluate(() => {
      const body = document.createElement('body')
      body.innerHTML = '<input id="own" style="margin-top: 2000px">'
      document.body.replaceWith(body)
    })
    await expect(popup(page)).toHaveCount(0)
    await page.locator('#own').focus()
    await page.keyboard.type('typed')
    await expect(page.locator('#own')).toHaveValue('typed')
    await page.evaluate(() => scrollTo(0, 500))
    expect(await page.evaluate(() => scrollY)).toBeGreaterThan(0)
    await pushed(page, { event: 'next' })
    await expect(popup(page)).toBeVisible()
    await piece.end()
    await next.end()
  })

  test('with styles for everything and a transformed body does not reach in', async ({ page }) => {
    const piece = await api.live('Untouched', p => void (p.split.variants[0].design.frame.close.shown = true), 'fly_in')
    await page.goto(piece.url)
    await expect(popup(page)).toBeVisible()
    await rested(page.locator('.layer'))
    const before = (await page.locator('.hold').boundingBox())!
    await page.addStyleTag({
      content:
        '* { text-transform: uppercase; letter-spacing: 4px; line-height: 3; visibility: visible } body { transform: translateX(-120px) scale(.9); height: 300px }',
    })
    await rested(page.locator('.layer'))
    const after = (await page.locator('.hold').boundingBox())!
    expect(after.x).toBeCloseTo(before.x, 0)
    expect(after.y).toBeCloseTo(before.y, 0)
    expect(after.width).toBeCloseTo(before.width, 0)
    const heading = popup(page).getByRole('heading')
    await expect(heading).toHaveCSS('text-transform', 'none')
    await expect(popup(page).locator('p').first()).toHaveCSS('letter-spacing', 'normal')
    // A timed fly-in never takes the keyboard.
    expect(await page.evaluate(() => document.activeElement?.tagName)).toBe('BODY')
    await piece.end()
  })

  test('that draws itself later: what comes is seen, and an inline piece finds its place', async ({ page }) => {
    const seen = await api.live('Seen later', p => and(p, { fact: 'moment.seen', op: 'happened', value: '#late' }), 'fly_in')
    const here = seen.url.replace(shop, '')
    const inline = await api.live(
      'Placed later',
      p => {
        frame(p).anchor = { selector: '#place', where: 'after', pushes: true }
        return here
      },
      'inline',
    )
    const drawn = page.waitForResponse(r => r.url().includes('/designs/'))
    await page.goto(seen.url)
    await drawn
    await meanwhile(page, 400)
    await expect(page.locator('gobbet-piece')).toHaveCount(0)
    await page.evaluate(() => document.querySelector('main')!.insertAdjacentHTML('afterbegin', '<div id="place"></div><p id="late">Late</p>'))
    await expect(page.locator('#place + gobbet-piece .layer.inline')).toBeVisible()
    await expect(page.locator('.layer.fly_in')).toBeVisible()
    await seen.end()
    await inline.end()
  })

  test('that draws itself anew has its inline piece back, with what was typed; one that will not have it is let be', async ({ page }) => {
    const piece = await api.live(
      'Drawn anew',
      p => {
        frame(p).anchor = { selector: '#place', where: 'last', pushes: true }
      },
      'inline',
    )
    const inline = page.locator('#place gobbet-piece')
    const draw = () =>
      page.evaluate(() => {
        document.querySelector('main')!.innerHTML = '<div id="place"></div>'
      })
    await page.addInitScript(() => {
      Object.assign(window, { shown: 0 })
      addEventListener('gobbet:shown', () => {
        ;(window as unknown as { shown: number }).shown++
      })
    })
    await page.goto(piece.url)
    await draw()
    await inline.getByRole('textbox').first().fill('ines@example.com')
    await draw()
    await expect(inline.getByRole('textbox').first()).toHaveValue('ines@example.com')
    expect(await page.evaluate(() => (window as unknown as { shown: number }).shown)).toBe(1)
    // A page that takes away whatever is not its own is not fought for ever.
    await page.evaluate(() => {
      const own = Object.assign(window, { taken: 0 })
      new MutationObserver(() => {
        const piece = document.querySelector('#place gobbet-piece')
        if (piece) own.taken++
        piece?.remove()
      }).observe(document.getElementById('place')!, { childList: true })
    })
    await page.evaluate(() => document.querySelector('#place gobbet-piece')!.remove())
    const taken = () => page.evaluate(() => (window as unknown as { taken: number }).taken)
    await expect.poll(taken).toBeGreaterThan(3)
    await meanwhile(page, 3000)
    expect(await taken()).toBeLessThan(11)
    await expect(inline).toHaveCount(0)
    await piece.end()
  })

  test('that moves on while a piece is fetched shows nothing on the wrong address', async ({ page }) => {
    const piece = await api.live('Late for its page')
    let open = () => {}
    const gate = new Promise<void>(done => {
      open = done
    })
    await page.route('**/designs/**', async r => {
      await gate
      await r.continue()
    })
    const asked = page.waitForRequest('**/designs/**')
    await page.goto(piece.url)
    await asked
    const decided = page.waitForResponse('**/decide')
    // Nobody waits for it any more.
    const dropped = page.waitForEvent('requestfailed', r => r.url().includes('/designs/'))
    await page.evaluate(() => history.pushState({}, '', '/basket'))
    await decided
    await dropped
    open()
    await meanwhile(page, 300)
    await expect(popup(page)).toHaveCount(0)
    // Its place is free, and it shows where it belongs.
    await page.evaluate(path => history.pushState({}, '', path), new URL(piece.url).pathname)
    await expect(popup(page)).toBeVisible()
    await piece.end()
  })

  test('tells of events just after it moved, and before the script came', async ({ page }) => {
    const piece = await api.live('Told just after', p => and(p, asked('just-after')))
    const path = new URL(piece.url).pathname
    await page.goto(`${shop}/basket`)
    await page.waitForLoadState('networkidle')
    await page.evaluate(to => {
      history.pushState({}, '', to)
      ;(window.gobbet as { push(t: object): void }).push({ event: 'just-after' })
    }, path)
    await expect(popup(page)).toBeVisible()
    await piece.end()
    const called = await api.live('Called before', p => and(p, asked('never-comes')))
    await page.addInitScript(id => {
      window.gobbet = [{ show: id }]
    }, called.id)
    // The shop's own line must not replace the queue.
    await served(page, called.url, html => html.replaceAll(/window\.gobbet = \[.*?\];?/gs, ''))
    await page.goto(called.url)
    await expect(popup(page)).toBeVisible()
    await called.end()
  })
})
