import AxeBuilder from '@axe-core/playwright'
import { devices, expect, type Page, test } from '@playwright/test'
import { Api, and, database, meanwhile, shop } from './api'

// The page script in a real browser: what a visitor's page is put through.

let api: Api
test.beforeAll(async () => {
  api = await Api.open()
  // Tests bring many pieces in one visit.
  await api.settings({ limits: {} })
})

const popup = (page: Page) => page.getByRole('dialog')
const memory = (page: Page) => page.evaluate(() => JSON.parse(localStorage.getItem('gobbet:quillfern') ?? 'null'))
/** What a test left on the window. */
const read = (page: Page, name: string) => page.evaluate(n => (window as unknown as Record<string, unknown>)[n], name)
const stored = (page: Page) => page.waitForResponse(r => r.url().endsWith('/events') && r.status() === 200)

/** Leaves the page over its top edge, at speed. */
async function leaveUpward(page: Page) {
  await page.mouse.move(600, 400)
  await page.mouse.move(600, 40, { steps: 4 })
  await page.evaluate(() => document.dispatchEvent(new MouseEvent('mouseout', { clientY: -3, bubbles: true, relatedTarget: null })))
}

/** Has the page's visitor be one whom no piece of the demo holds back: of the others some see nothing. */
const notHeldBack = (page: Page) =>
  page.addInitScript(() => {
    const begun = { visitor: 'visitor-1234', visits: 0, pages: 0, visit: { id: '', pages: 0, landing: '', referrer: '' }, pieces: {}, start: 0, seen: 0 }
    localStorage.getItem('gobbet:quillfern') ?? localStorage.setItem('gobbet:quillfern', JSON.stringify(begun))
  })

test.describe('moments', () => {
  test('seconds on page count only while it is visible', async ({ page }) => {
    const piece = await api.live('Seconds', p => and(p, { fact: 'moment.seconds_on_page', op: 'gte', value: 1 }))
    await page.addInitScript(() => {
      let hidden = true
      Object.defineProperty(document, 'hidden', { get: () => hidden })
      Object.assign(window, {
        reveal: () => {
          hidden = false
          document.dispatchEvent(new Event('visibilitychange'))
        },
      })
    })
    await page.goto(piece.url)
    await meanwhile(page, 1700) // hidden: nothing may come of it, so there is nothing to wait for
    await expect(popup(page)).toHaveCount(0)
    await page.evaluate(() => (window as unknown as { reveal(): void }).reveal())
    await expect(popup(page)).toBeVisible()
    await piece.end()
  })

  test('scroll, of the way there is to scroll', async ({ page }) => {
    await notHeldBack(page)
    await page.goto(`${shop}/journal/ash-glaze`)
    await page.evaluate(() => scrollTo(0, (document.documentElement.scrollHeight - innerHeight) * 0.4))
    await meanwhile(page, 300)
    await expect(popup(page)).toHaveCount(0)
    await page.evaluate(() => scrollTo(0, (document.documentElement.scrollHeight - innerHeight) * 0.55))
    await expect(popup(page)).toBeVisible()
  })

  test('exit intent, on a desktop', async ({ page }) => {
    await notHeldBack(page)
    await page.goto(`${shop}/shop/celadon`)
    await page.waitForLoadState('networkidle')
    await page.mouse.move(600, 300)
    await page.evaluate(() => document.dispatchEvent(new MouseEvent('mouseout', { clientY: 300, bubbles: true, relatedTarget: null })))
    await expect(popup(page)).toHaveCount(0)
    await leaveUpward(page)
    await expect(popup(page)).toBeVisible()
  })

  test('a click on an element, an element seen, an event, a way out', async ({ page }) => {
    const on = (fact: string, value: string) => api.live(fact, p => and(p, { fact, op: 'happened', value }))
    const pieces = [
      await on('moment.click', 'nav a, h1'),
      await on('moment.seen', 'footer'),
      await on('moment.event', 'basket filled'),
      await on('moment.leaving_to', 'clay.example.com'),
    ]
    const acts = [
      () => page.locator('h1').click(),
      () => page.locator('footer').scrollIntoViewIfNeeded(),
      () => page.evaluate(() => window.gobbet?.push({ event: 'basket filled' })),
      () =>
        page.evaluate(() => {
          const a = Object.assign(document.createElement('a'), { href: 'https://clay.example.com/x', textContent: 'away' })
          a.addEventListener('click', e => e.preventDefault())
          document.body.append(a)
          a.click()
        }),
    ]
    for (const [i, piece] of pieces.entries()) {
      await page.goto(piece.url)
      await page.waitForFunction(() => window.gobbet)
      await page.waitForLoadState('networkidle')
      await acts[i]()
      await expect(popup(page)).toBeVisible()
      await piece.end()
    }
  })
})

test.describe('caps and memory', () => {
  test('once a visit; a close rests it; the next visit is another', async ({ page }) => {
    const piece = await api.live('Caps', p => {
      p.caps = { per_visitor: [{ times: 1, per: 'visit' }] }
    })
    await page.goto(piece.url)
    await popup(page).getByRole('button', { name: 'Close' }).click()
    await expect(popup(page)).toHaveCount(0)
    const decided = page.waitForResponse('**/decide')
    await page.reload()
    expect((await (await decided).json()).placements).toEqual([])
    await page.evaluate(() => {
      const m = JSON.parse(localStorage.getItem('gobbet:quillfern')!)
      m.seen -= 3600
      localStorage.setItem('gobbet:quillfern', JSON.stringify(m))
    })
    await page.reload()
    await expect(popup(page)).toBeVisible()
    expect((await memory(page)).visits).toBe(2)
    await piece.end()
  })

  test('one overlay at a time, and the older piece wins', async ({ page }) => {
    const first = await api.live('First')
    const second = await api
      .live('Second', p => {
        p.rule = {
          all: [
            { fact: 'page.path', op: 'is', value: new URL(first.url).pathname },
            { fact: 'moment.seconds_on_page', op: 'gte', value: 1 },
          ],
        }
        p.split.variants[0].design.scenes[0].blocks[0] = { kind: 'heading', id: 'title', text: 'The second', size: 30, align: 'start' }
      })
      .catch(() => null)
    await page.goto(first.url)
    await expect(popup(page)).toBeVisible()
    await meanwhile(page, 1500)
    await expect(popup(page)).toHaveCount(1)
    await expect(popup(page)).not.toContainText('The second')
    await first.end()
    await second?.end()
  })

  for (const [name, value] of [
    ['edited by hand', '{"visitor":"<b>","visits":"many","pieces":[],"visit":7}'],
    ['no JSON', '{"visitor'],
    ['5 MB', 'x'.repeat(4_000_000)],
    ['null', 'null'],
    [
      'pieces of nothing',
      '{"visitor":"visitor-1234","visits":2,"pages":3,"visit":{"id":"visit-1234","pages":1},"pieces":{"a":null,"b":7,"c":"x"},"start":1,"seen":1}',
    ],
    [
      'words for numbers',
      '{"visitor":"visitor-1234","visits":"many","pages":"x","visit":{"id":"v","pages":[]},"pieces":{"a":{"shown":"never","times_shown":{}}},"start":"x","seen":"y"}',
    ],
  ] as const)
    test(`memory that is ${name} breaks nothing`, async ({ page }) => {
      const errors: string[] = []
      page.on('pageerror', e => errors.push(e.message))
      await page.goto(`${shop}/basket`)
      await page.evaluate(v => localStorage.setItem('gobbet:quillfern', v), value)
      const decided = page.waitForResponse('**/decide')
      await page.reload()
      expect((await decided).status()).toBe(200)
      // It is a memory again, and counts on.
      await expect(async () => {
        const after = await memory(page)
        expect([typeof after.visits, typeof after.pages, typeof after.visit.pages]).toEqual(['number', 'number', 'number'])
        expect(Object.values(after.pieces).every(k => !!k && typeof k === 'object')).toBe(true)
      }).toPass()
      expect(errors).toEqual([])
    })

  test('storage denied: it still shows, and the page has no errors', async ({ page }) => {
    const errors: string[] = []
    page.on('pageerror', e => errors.push(e.message))
    await page.addInitScript(() => {
      Object.defineProperty(window, 'localStorage', {
        get: () => {
          throw new DOMException('denied', 'SecurityError')
        },
      })
    })
    const piece = await api.live('No storage')
    await page.goto(piece.url)
    await expect(popup(page)).toBeVisible()
    expect(errors).toEqual([])
    await piece.end()
  })

  test('who asks not to be measured is not', async ({ page }) => {
    await page.addInitScript(() => Object.defineProperty(navigator, 'globalPrivacyControl', { value: true }))
    const sent: string[] = []
    page.on('request', r => r.url().endsWith('/events') && sent.push(r.url()))
    const piece = await api.live('Unwatched')
    await page.goto(piece.url)
    await popup(page).getByRole('button', { name: 'Close' }).click()
    await meanwhile(page, 1200)
    expect(sent).toEqual([])
    expect((await api.board()).cards.find(c => c.id === piece.id)!.measure.visitors).toBe(0)
    await piece.end()
  })
})

test.describe('manners', () => {
  test('a popup takes focus, keeps it, gives it back, and Escape closes it', async ({ page }) => {
    const piece = await api.live('Keyboard', p => and(p, { fact: 'moment.click', op: 'happened', value: 'nav a' }))
    await page.goto(piece.url)
    await page.waitForLoadState('networkidle')
    const link = page.getByRole('link', { name: 'Classes' })
    await link.evaluate(a => a.addEventListener('click', e => e.preventDefault()))
    await link.focus()
    await page.keyboard.press('Enter')
    await expect(popup(page).getByRole('button', { name: 'Close' })).toBeFocused()
    const inside = () => page.evaluate(() => document.activeElement?.tagName)
    const stops = new Set<string>()
    for (let i = 0; i < 9; i++) {
      await page.keyboard.press('Tab')
      expect(await inside()).toBe('GOBBET-PIECE')
      stops.add(await page.evaluate(() => document.activeElement!.shadowRoot!.activeElement!.outerHTML.slice(0, 60)))
    }
    expect(stops.size).toBe(4) // close, two fields, the button
    for (let i = 0; i < 5; i++) await page.keyboard.press('Shift+Tab')
    expect(await inside()).toBe('GOBBET-PIECE')
    await page.keyboard.press('Escape')
    await expect(popup(page)).toHaveCount(0)
    await expect(link).toBeFocused()
    await piece.end()
  })

  test('a fly-in leaves the page alone', async ({ page }) => {
    const piece = await api.live('Beside', () => {}, 'fly_in')
    await page.goto(piece.url)
    await expect(popup(page)).toBeVisible()
    expect(await page.evaluate(() => document.activeElement?.tagName)).toBe('BODY')
    await page.getByRole('link', { name: 'Journal' }).click() // is not covered
    await page.waitForURL('**/journal')
    await piece.end()
  })

  test('no serious accessibility finding, on a desktop and a phone', async ({ page, browser }) => {
    const piece = await api.live('Accessible')
    const small = await browser.newContext({ ...devices['Pixel 7'] })
    const phone = await small.newPage()
    for (const at of [page, phone]) {
      await at.goto(piece.url)
      await expect(popup(at)).toBeVisible()
      await at.waitForFunction(() => !document.querySelector('gobbet-piece')!.shadowRoot!.getAnimations().length)
      const found = await new AxeBuilder({ page: at }).include('gobbet-piece').analyze()
      expect(found.violations.filter(v => v.impact === 'serious' || v.impact === 'critical').map(v => v.id)).toEqual([])
    }
    const box = (await popup(phone).locator('.hold').boundingBox())!
    expect(box.x).toBeGreaterThanOrEqual(0)
    expect(box.x + box.width).toBeLessThanOrEqual(412)
    await small.close()
    await piece.end()
  })

  test('the page does not shift, and its own style does not reach in', async ({ page }) => {
    const piece = await api.live('Still')
    await page.addInitScript(() => {
      Object.assign(window, { shifted: 0 })
      new PerformanceObserver(list => {
        const kept = window as unknown as { shifted: number }
        for (const e of list.getEntries()) kept.shifted += (e as unknown as { value: number }).value
      }).observe({ type: 'layout-shift', buffered: true })
    })
    await page.goto(piece.url)
    await expect(popup(page)).toBeVisible()
    expect(await read(page, 'shifted')).toBe(0)
    await page.addStyleTag({ content: '* { color: red !important; font-size: 40px !important; display: block !important }' })
    await expect(popup(page).getByRole('heading')).toHaveCSS('color', 'rgb(36, 51, 46)')
    await expect(popup(page).getByRole('heading')).toHaveCSS('font-size', '30px')
    await piece.end()
  })

  test('works under a strict policy of the page, by nonce', async ({ page }) => {
    const piece = await api.live('Strict', p => {
      p.split.variants[0].design.scenes[0].blocks.push({ kind: 'html', id: 'html', html: '<p>Some <b style="color: red">markup</b></p>' })
    })
    const refused: string[] = []
    page.on('console', m => m.text().includes('Content Security Policy') && refused.push(m.text()))
    await page.route(piece.url, async route => {
      const answer = await route.fetch()
      const html = (await answer.text()).replaceAll('<script', '<script nonce="abc"')
      const gobbet = html.match(/src="(http[^"]*)\/v1/)![1]
      await route.fulfill({
        status: 200,
        contentType: 'text/html',
        body: html,
        headers: {
          'Content-Security-Policy': `default-src 'none'; script-src 'nonce-abc'; connect-src ${gobbet}; img-src ${gobbet} data:; style-src 'self'; require-trusted-types-for 'script'`,
        },
      })
    })
    await page.goto(piece.url)
    await expect(popup(page)).toBeVisible()
    await expect(popup(page).locator('.hold')).toHaveCSS('width', '460px')
    await expect(popup(page).locator('[data-block=html] b')).toHaveCSS('color', 'rgb(255, 0, 0)')
    expect(refused).toEqual([])
    await piece.end()
  })

  test('every step is an event on the window', async ({ page }) => {
    const piece = await api.live('Events')
    await page.addInitScript(() => {
      const heard: string[] = []
      Object.assign(window, { heard })
      for (const what of ['shown', 'closed', 'converted']) addEventListener(`gobbet:${what}`, e => heard.push(`${what} ${(e as CustomEvent).detail.variant}`))
    })
    await page.goto(piece.url)
    await popup(page).getByRole('button', { name: 'Close' }).click()
    expect(await read(page, 'heard')).toEqual(['shown a', 'closed a'])
    await piece.end()
  })
})

test.describe('bad input and faults', () => {
  test('hostile words are words', async ({ page }) => {
    const words = `<img src=x onerror="window.hit=1">"'><script>window.hit=1</script>{first name|<b>friend</b>}`
    const piece = await api.live('Hostile', p => {
      const { scenes } = p.split.variants[0].design
      for (const b of [...scenes[0].blocks, ...scenes[1].blocks]) {
        if (b.kind === 'heading' || b.kind === 'text') b.text = words
        if (b.kind === 'button') b.words = words.slice(0, 190)
        if (b.kind === 'field') b.label = words.slice(0, 190)
      }
    })
    await page.goto(piece.url)
    await expect(popup(page).getByRole('heading')).toContainText('<script>window.hit=1</script>')
    await popup(page).locator('input').first().fill('<i>Ann</i>')
    await popup(page).locator('input[type=email]').fill('ann@example.com')
    await popup(page).locator('button[type=submit]').click()
    await expect(popup(page).getByRole('heading')).toContainText('<i>Ann</i>')
    expect(await read(page, 'hit')).toBeUndefined()
    await piece.end()
  })

  test('sent twice by an impatient hand, it counts once', async ({ page }) => {
    const piece = await api.live('Twice')
    await page.goto(piece.url)
    await popup(page).getByLabel('Email').fill('twice@example.com')
    await popup(page).getByRole('button', { name: 'Count me in' }).dblclick()
    await expect(popup(page).getByRole('heading')).toContainText('Thank you')
    const [lead] = (await api.people('twice@example.com')).leads
    expect(lead.times).toBe(1)
    await piece.end()
  })

  test('events of a page left at once arrive', async ({ page }) => {
    const piece = await api.live('Leaving')
    await page.goto(piece.url)
    await expect(popup(page)).toBeVisible()
    await page.goto('about:blank')
    await expect.poll(async () => (await api.board()).cards.find(c => c.id === piece.id)!.measure.visitors).toBe(1)
    // Sent again from the outbox on the next page, they still count once.
    const sent = stored(page)
    await page.goto(`${shop}/basket`)
    await sent
    const { measure } = (await api.board()).cards.find(c => c.id === piece.id)!
    expect([measure.visitors, measure.showings]).toEqual([1, 1])
    await piece.end()
  })

  test('an unknown site, a domain not allowed, a broken answer: the page is whole', async ({ page }) => {
    const errors: string[] = []
    page.on('pageerror', e => errors.push(e.message))
    for (const body of [
      '',
      '{',
      '{"placements":[{"waiting":{"all":7}}]}',
      '{"placements":7}',
      '{"placements":[{"piece":"x","slot":"overlay","design":"../x","waiting":null}],"renderer":"/v1/none.js"}',
    ]) {
      await page.route('**/decide', route =>
        route.fulfill({ status: 200, contentType: 'application/json', headers: { 'Access-Control-Allow-Origin': '*' }, body }),
      )
      const decided = page.waitForResponse('**/decide')
      await page.goto(`${shop}/journal`)
      await decided
      await page.waitForLoadState('networkidle')
      await expect(page.getByRole('heading', { name: 'Journal' })).toBeVisible()
      await page.unroute('**/decide')
    }
    for (const body of ['', '<html>', 'throw 1', 'export const start = () => { throw 1 }', 'export const start = async () => { throw 1 }']) {
      await page.route('**/v1/visit-*', route => route.fulfill({ contentType: 'text/javascript', headers: { 'Access-Control-Allow-Origin': '*' }, body }))
      const fetched = page.waitForResponse('**/v1/visit-*')
      await page.goto(`${shop}/journal`)
      await fetched
      await meanwhile(page, 200)
      await page.unroute('**/v1/visit-*')
    }
    await page.route(`${shop}/journal`, async route => {
      const html = await (await route.fetch()).text()
      await route.fulfill({ contentType: 'text/html', body: html.replace('data-site="quillfern"', 'data-site="nobody"') })
    })
    const decided = page.waitForResponse('**/decide')
    await page.goto(`${shop}/journal`)
    expect((await decided).status()).toBe(404)
    await expect(page.getByRole('heading', { name: 'Journal' })).toBeVisible()
    expect(errors).toEqual([])
  })

  test('Gobbet gone: the page is as if it had never been there', async ({ page }) => {
    const errors: string[] = []
    page.on('pageerror', e => errors.push(e.message))
    await page.route('**/v1/**', route => route.abort())
    const line = page.waitForRequest('**/v1/gobbet.js')
    await page.goto(`${shop}/journal/ash-glaze`)
    await line
    await expect(page.getByRole('heading', { name: 'What the ash knows' })).toBeVisible()
    // What the shop itself tells lies there unread.
    expect(await page.evaluate(() => Array.isArray(window.gobbet))).toBe(true)
    expect(errors).toEqual([])
  })

  test('the database stopped: the shop goes on, answers are kept, and all recovers', async ({ page }) => {
    const piece = await api.live('Outage')
    const pg = database()
    pg.stop()
    try {
      await page.goto(piece.url)
      await expect(popup(page)).toBeVisible() // decided and drawn without it
      await popup(page).getByLabel('Email').fill('outage@example.com')
      await popup(page).getByRole('button', { name: 'Count me in' }).click()
      await expect(popup(page).getByRole('alert')).toContainText('Your words are kept')
      await expect(popup(page).getByLabel('Email')).toHaveValue('outage@example.com')
    } finally {
      pg.start()
    }
    await popup(page).getByRole('button', { name: 'Count me in' }).click()
    await expect(popup(page).getByRole('heading')).toContainText('Thank you')
    expect((await api.people('outage@example.com')).total).toBe(1)
    await page.goto(`${shop}/basket`) // the outbox sends what could not be stored
    await expect
      .poll(async () => {
        const { measure } = (await api.board()).cards.find(c => c.id === piece.id)!
        return [measure.visitors, measure.showings, measure.conversions]
      })
      .toEqual([1, 1, 1])
    await piece.end()
  })
})
