import { expect, type Page, test } from '@playwright/test'
import type { ViewRecord } from '../kinds/visitor'
import { Api, and, meanwhile, shop } from './api'

// What the page says of a visit, and how the site's own word and limits hold on it.

let api: Api
test.beforeAll(async () => {
  api = await Api.open()
  await api.settings({ limits: {} })
})

const popup = (page: Page) => page.getByRole('dialog')

/** The bodies of requests to a part of the visitor's API, as they are sent. */
function sent(page: Page, part: string): any[] {
  const bodies: any[] = []
  page.on('request', r => r.url().endsWith('/' + part) && bodies.push(JSON.parse(r.postData() ?? 'null')))
  return bodies
}

/** Puts the page out of view, as going to another tab does. */
const lookAway = (page: Page) =>
  page.evaluate(() => {
    Object.defineProperty(document, 'hidden', { value: true, configurable: true })
    document.dispatchEvent(new Event('visibilitychange'))
  })

test.describe('a page view is recorded', () => {
  test('with what was known, when moments came, and nothing personal', async ({ page }) => {
    const views = sent(page, 'views')
    await page.goto(`${shop}/shop/celadon?mail=iris@example.com&utm_campaign=may`)
    await page.waitForFunction(() => window.gobbet && !Array.isArray(window.gobbet))
    await page.waitForLoadState('networkidle')
    await page.mouse.move(300, 300)
    await page.evaluate(() => scrollTo(0, document.documentElement.scrollHeight))
    await page.locator('h1').click()
    await page.evaluate(() => window.gobbet!.push({ event: 'looked closely' }))
    await meanwhile(page, 1300) // a second has to pass for there to be a stay
    const stored = page.waitForResponse(r => r.url().endsWith('/views'))
    await lookAway(page)
    expect((await stored).status()).toBe(204)
    const view: ViewRecord = views[0]
    expect(view.seconds).toBeGreaterThanOrEqual(1)
    expect(view.marks).toHaveLength(10)
    expect(view.view.kind).toBe('product')
    expect(view.view.data).toMatchObject({ member: false, basket_total: 0, product_kind: 'Glaze' })
    const kinds = view.happened.map(([kind, about]) => `${kind} ${about}`)
    expect(kinds).toContain('click ')
    expect(kinds).toContain('event looked closely')
    expect(kinds).toContain('seen #foot')
    // What is kept of it comes back among the recorded visitors, cleaned.
    await expect(async () => {
      const found = await api.visitors({ fact: 'source.utm_campaign', op: 'is', value: 'may' })
      expect(found[0].facts['page.path']).toBe('/shop/celadon')
      expect(JSON.stringify(found[0])).not.toContain('iris')
    }).toPass({ timeout: 8000 })
  })

  test('once more when the visitor stays on, and as a new one for each address of a page that swaps its own content', async ({ page }) => {
    const views = sent(page, 'views')
    const decided = sent(page, 'decide')
    await page.goto(`${shop}/journal`)
    await page.waitForLoadState('networkidle')
    await meanwhile(page, 1200)
    await lookAway(page)
    await expect.poll(() => views.length).toBe(1)
    await page.evaluate(() => {
      Object.defineProperty(document, 'hidden', { value: false, configurable: true })
      document.dispatchEvent(new Event('visibilitychange'))
    })
    await meanwhile(page, 1300)
    await page.evaluate(() => {
      document.title = 'A page of its own'
      history.pushState({}, '', '/journal/made-here')
    })
    await expect.poll(() => decided.length).toBe(2)
    expect(views).toHaveLength(2)
    expect(views[1].id).toBe(views[0].id)
    expect(views[1].seconds).toBeGreaterThan(views[0].seconds)
    expect(decided[1]).toMatchObject({ url: `${shop}/journal/made-here`, title: 'A page of its own' })
    expect(decided[1].memory.visit.pages).toBe(decided[0].memory.visit.pages + 1)
    // The same address again is no new page view; a hash alone is none either.
    await page.evaluate(() => {
      history.replaceState({}, '', '/journal/made-here')
      history.pushState({}, '', '/journal/made-here#part')
    })
    await meanwhile(page, 300)
    expect(decided).toHaveLength(2)
    await page.goBack()
    await page.goBack()
    await expect.poll(() => decided.length).toBe(3)
    expect(decided[2].url).toBe(`${shop}/journal`)
  })

  test('not of those who ask not to be measured, nor where the site records nobody', async ({ browser }) => {
    const quiet = await browser.newPage()
    await quiet.addInitScript(() => Object.defineProperty(navigator, 'globalPrivacyControl', { value: true }))
    const views = sent(quiet, 'views')
    await quiet.goto(`${shop}/journal`)
    await quiet.waitForLoadState('networkidle')
    await meanwhile(quiet, 1200)
    await quiet.goto(`${shop}/shop`)
    expect(views).toEqual([])
    await quiet.close()
    await api.settings({ record: 0 })
    const page = await browser.newPage()
    const none = sent(page, 'views')
    await expect(async () => {
      const r = page.waitForResponse('**/decide')
      await page.goto(`${shop}/journal`)
      expect((await (await r).json()).record).toBeFalsy()
    }).toPass({ timeout: 4000 })
    await meanwhile(page, 1200)
    await page.goto(`${shop}/shop`)
    expect(none).toEqual([])
    await page.close()
    await api.settings({ record: 100 })
  })
})

test.describe("the site's own data", () => {
  test('told before the script and after it, and told again', async ({ page }) => {
    const piece = await api.live(
      'Basket',
      p => and(p, { fact: 'data.basket_total', op: 'gte', value: 40 }, { fact: 'data.member', op: 'is', value: false }),
      'popup',
      { basket_total: 50, member: false },
    )
    const asked = sent(page, 'decide')
    await page.goto(piece.url)
    await page.waitForLoadState('networkidle')
    expect(asked[0].data).toEqual({ member: false, basket_total: 0 })
    await expect(popup(page)).toHaveCount(0)
    await page.evaluate(() => window.gobbet!.push({ data: { basket_total: 55 } }))
    await expect(popup(page)).toBeVisible()
    // The same page view: no page is counted for it.
    expect(asked[1].memory.pages).toBe(asked[0].memory.pages)
    await piece.end()
  })

  test('circular, huge or hostile, it breaks nothing', async ({ page }) => {
    const errors: string[] = []
    page.on('pageerror', e => errors.push(e.message))
    const piece = await api.live('Hostile', p => and(p, { fact: 'data.ok', op: 'is', value: true }), 'popup', { ok: true })
    const asked = sent(page, 'decide')
    await page.goto(piece.url)
    await page.waitForFunction(() => window.gobbet && !Array.isArray(window.gobbet))
    await page.evaluate(() => {
      const round: any = { ok: 1 }
      round.round = round
      const many = Object.fromEntries(Array.from({ length: 100_000 }, (_, i) => ['k' + i, 'x'.repeat(100)]))
      const trap = {
        get data(): never {
          throw new Error('a trap')
        },
      }
      for (const told of [
        round,
        { data: round },
        { data: many },
        trap,
        null,
        7,
        'x',
        { data: null },
        { data: { deep: { er: 1 }, inf: 1 / 0, nan: Number.NaN, fn: () => 1, big: 'y'.repeat(1e6) } },
        { tags: [round, null], kind: round, event: round },
      ])
        (window.gobbet as any).push(told)
      ;(window.gobbet as any).push({ data: { ok: true } })
    })
    await expect(popup(page)).toBeVisible()
    const last = asked.at(-1)
    expect(JSON.stringify(last).length).toBeLessThan(60_000)
    expect(last.data.deep ?? last.data.inf ?? last.data.fn).toBeUndefined()
    expect(errors).toEqual([])
    await piece.end()
  })

  test('cookies go along only where a rule names them', async ({ page, context }) => {
    await context.addCookies([
      { name: 'plan', value: 'gold', url: shop },
      { name: 'session', value: 'very secret', url: shop },
    ])
    const asked = sent(page, 'decide')
    await page.goto(`${shop}/journal`)
    await page.waitForLoadState('networkidle')
    expect(asked.map(a => a.cookies)).toEqual([{}])
    const piece = await api.live('Gold', p => {
      p.rule = {
        any: [
          p.rule,
          {
            all: [
              { fact: 'cookie.plan', op: 'is', value: 'gold' },
              { fact: 'page.path', op: 'is', value: '/classes' },
            ],
          },
        ],
      }
    })
    await page.goto(`${shop}/classes`)
    await expect(popup(page)).toBeVisible()
    expect(asked.slice(1).map(a => a.cookies)).toEqual([{}, { plan: 'gold' }])
    await piece.end()
  })

  test('a piece is shown by a call, if the visitor may see it', async ({ page }) => {
    const piece = await api.live('Called', p => and(p, { fact: 'moment.event', op: 'happened', value: 'never comes' }))
    await page.goto(piece.url)
    await page.waitForLoadState('networkidle')
    await page.evaluate(id => window.gobbet!.push({ show: id }), 'no such piece')
    await page.evaluate(id => window.gobbet!.push({ show: id }), piece.id)
    await expect(popup(page)).toBeVisible()
    await page.goto(`${shop}/journal`)
    await page.waitForLoadState('networkidle')
    await page.evaluate(id => window.gobbet!.push({ show: id }), piece.id)
    await expect(popup(page)).toHaveCount(0)
    await piece.end()
  })

  test('an event of the page itself is a moment', async ({ page }) => {
    const piece = await api.live('Native', p => and(p, { fact: 'moment.event', op: 'happened', value: 'shop:filled' }))
    await page.goto(piece.url)
    await page.waitForLoadState('networkidle')
    await page.evaluate(() => document.dispatchEvent(new CustomEvent('shop:filled', { bubbles: true })))
    await expect(popup(page)).toBeVisible()
    await piece.end()
  })
})

test.describe('limits over all pieces', () => {
  test('so many over the page a visit, and quiet between any two', async ({ browser }) => {
    await api.settings({ limits: { overlays: 1 } })
    const first = await api.live('One', () => {})
    const second = await api.live('Two', p => and(p, { fact: 'moment.seconds_on_page', op: 'gte', value: 0 }))
    const page = await browser.newPage()
    await page.goto(first.url)
    await popup(page).getByRole('button', { name: 'Close' }).click()
    await page.goto(second.url)
    await page.waitForLoadState('networkidle')
    await expect(popup(page)).toHaveCount(0)
    await page.close()

    await api.settings({ limits: { quiet: 'PT1M' } })
    const another = await browser.newPage()
    await another.goto(first.url)
    await popup(another).getByRole('button', { name: 'Close' }).click()
    // The second waits, so the page itself has to keep the quiet.
    await another.goto(second.url)
    await another.waitForLoadState('networkidle')
    await meanwhile(another, 600)
    await expect(popup(another)).toHaveCount(0)
    await another.evaluate(() => {
      const m = JSON.parse(localStorage.getItem('gobbet:quillfern')!)
      m.shown -= 61
      localStorage.setItem('gobbet:quillfern', JSON.stringify(m))
    })
    await another.reload()
    await expect(popup(another)).toBeVisible()
    await another.close()
    await api.settings({ limits: {} })
    await first.end()
    await second.end()
  })

  for (const [name, by] of [
    ['an hour fast', 3600],
    ['a year slow', -365 * 86400],
  ] as const)
    test(`a clock ${name} neither lifts a cap nor breaks the page`, async ({ browser }) => {
      const piece = await api.live('Clock', p => {
        p.caps = { per_visitor: [{ times: 1, per: 'P7D' }] }
      })
      const page = await browser.newPage()
      const errors: string[] = []
      page.on('pageerror', e => errors.push(e.message))
      await page.addInitScript(ms => {
        const now = Date.now
        Date.now = () => now() + ms
      }, by * 1000)
      await page.goto(piece.url)
      await popup(page).getByRole('button', { name: 'Close' }).click()
      const decided = page.waitForResponse('**/decide')
      await page.reload()
      expect((await (await decided).json()).placements).toEqual([])
      expect(errors).toEqual([])
      await page.close()
      await piece.end()
    })
})

test.describe('exit intent', () => {
  test('is as readily seen as the site says', async ({ browser }) => {
    const piece = await api.live('Leaving', p => and(p, { fact: 'moment.exit_intent', op: 'happened' }))
    // Out over the top at some px a ms, whatever the machine's own speed.
    const leave = (page: Page, speed: number) =>
      page.evaluate(speed => {
        let t = 1e6
        performance.now = () => t
        document.dispatchEvent(new MouseEvent('mousemove', { clientY: 100 }))
        t += 103 / speed
        document.dispatchEvent(new MouseEvent('mouseout', { clientY: -3, relatedTarget: null }))
      }, speed)
    for (const [exit, speed, shows] of [
      ['calm', 0.3, false],
      ['calm', 0.8, true],
      ['normal', 0.3, true],
      ['normal', 0.05, false],
      ['eager', 0.05, true],
    ] as const) {
      await api.settings({ exit })
      const page = await browser.newPage()
      await expect(async () => {
        const decided = page.waitForResponse('**/decide')
        await page.goto(piece.url)
        expect((await (await decided).json()).exit ?? 'normal').toBe(exit)
      }).toPass({ timeout: 4000 })
      await page.waitForLoadState('networkidle')
      await leave(page, speed)
      if (shows) await expect(popup(page), `${exit} at ${speed}`).toBeVisible()
      else {
        await meanwhile(page, 300)
        await expect(popup(page), `${exit} at ${speed}`).toHaveCount(0)
      }
      await page.close()
    }
    await api.settings({ exit: 'normal' })
    await piece.end()
  })
})
