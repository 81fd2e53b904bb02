import { expect, type Page, test } from '@playwright/test'
import { Api, and, meanwhile, shop } from './api'

// The life of a page view in the real browser: prerendered, hidden, gone back to,
// moved on; what interrupts and what waits; and what is sent when all goes wrong.

let api: Api
test.beforeAll(async () => {
  api = await Api.open()
  await api.settings({ limits: {} })
})
test.afterEach(() => api.settings({ limits: {} }))

const popup = (page: Page) => page.getByRole('dialog')
const pieces = (page: Page) => page.locator('gobbet-piece')
const asked = (name: string) => ({ fact: 'moment.event', op: 'happened', value: name }) as const
const push = (page: Page, told: object) => page.evaluate(t => window.gobbet!.push(t as never), told)
const settled = (page: Page) => page.waitForLoadState('networkidle')
/** What was asked of the server, by the last part of its address. */
function requests(page: Page) {
  const sent: { what: string; body: any }[] = []
  page.on('request', r => r.method() === 'POST' && r.url().includes('/v1/sites/') && sent.push({ what: r.url().split('/').at(-1)!, body: r.postDataJSON() }))
  return sent
}
const of = (sent: { what: string; body: any }[], what: string) => sent.filter(s => s.what === what).map(s => s.body)

/** Has the page's document be as told: behind another tab, or prerendered. */
const phases = (page: Page, first: 'hidden' | 'prerendering') =>
  page.addInitScript(first => {
    const now = { hidden: true, prerendering: first === 'prerendering' }
    Object.defineProperty(document, 'hidden', { get: () => now.hidden })
    Object.defineProperty(document, 'prerendering', { get: () => now.prerendering })
    Object.assign(window, {
      phase(hidden: boolean) {
        const was = now.prerendering
        Object.assign(now, { hidden, prerendering: false })
        document.dispatchEvent(new Event(was ? 'prerenderingchange' : 'visibilitychange'))
      },
    })
  }, first)
const phase = (page: Page, to: 'hidden' | 'visible') =>
  page.evaluate(hidden => (window as unknown as { phase(hidden: boolean): void }).phase(hidden), to === 'hidden')
/** Comes after all that a page does once it is there: its script has run, and nothing of it is on its way. */
async function come(page: Page) {
  await page.waitForFunction(() => !Array.isArray(window.gobbet))
  await settled(page)
}

test.describe('a page that nobody looks at', () => {
  for (const first of ['hidden', 'prerendering'] as const)
    test(`${first}: nothing is asked, shown or counted until it is looked at`, async ({ page }) => {
      const piece = await api.live('Looked at')
      const sent = requests(page)
      await phases(page, first)
      await page.goto(piece.url)
      await come(page)
      await push(page, { event: 'told', data: { plan: 'gold' } })
      await settled(page)
      expect(sent).toEqual([])
      expect(await page.evaluate(() => localStorage.getItem('gobbet:quillfern'))).toBeNull()
      await phase(page, 'visible')
      await expect(popup(page)).toBeVisible()
      expect(of(sent, 'decide').at(-1).data).toMatchObject({ plan: 'gold' })
      await piece.end()
    })

  test('hidden while a piece is fetched: it comes when the visitor is back', async ({ page }) => {
    const piece = await api.live('Fetched meanwhile', p => and(p, asked('now')))
    await phases(page, 'hidden')
    let go = () => {}
    const gate = new Promise<void>(done => {
      go = done
    })
    await page.route('**/designs/**', async r => {
      await gate
      await r.continue()
    })
    await page.goto(piece.url)
    await come(page)
    await phase(page, 'visible')
    await settled(page)
    const fetching = page.waitForRequest('**/designs/**')
    await push(page, { event: 'now' })
    await fetching
    await phase(page, 'hidden')
    const came = page.waitForResponse('**/designs/**')
    go()
    await came
    await meanwhile(page, 300)
    await expect(pieces(page)).toHaveCount(0)
    // What happens behind another tab waits too.
    await phase(page, 'visible')
    await expect(popup(page)).toBeVisible()
    await piece.end()
  })

  test('what happens while it is hidden brings its piece when the visitor is back', async ({ page }) => {
    const piece = await api.live('Happened meanwhile', p => and(p, asked('behind')))
    await phases(page, 'hidden')
    await page.goto(piece.url)
    await come(page)
    await phase(page, 'visible')
    await settled(page)
    await phase(page, 'hidden')
    await push(page, { event: 'behind' })
    await settled(page)
    await expect(pieces(page)).toHaveCount(0)
    await phase(page, 'visible')
    await expect(popup(page)).toBeVisible()
    await piece.end()
  })

  test('gone back to from the cache it is a page view of its own', async ({ page }) => {
    const sent = requests(page)
    await page.goto(`${shop}/basket`)
    await come(page)
    await page.evaluate(() => dispatchEvent(new PageTransitionEvent('pagehide', { persisted: true })))
    const decided = page.waitForResponse('**/decide')
    await page.evaluate(() => dispatchEvent(new PageTransitionEvent('pageshow', { persisted: true })))
    await decided
    const views = of(sent, 'decide')
    expect(views.length).toBeGreaterThan(1)
    expect(views.at(-1).memory.pages).toBe(views[0].memory.pages + 1)
    expect(views.at(-1).memory.visit.id).toBe(views[0].memory.visit.id)
  })
})

test.describe('nothing is left behind', () => {
  test('after ten addresses of a page that swaps its own content, no observer and no listener more', async ({ page }) => {
    await page.addInitScript(() => {
      const observing = new Set<object>()
      for (const name of ['MutationObserver', 'IntersectionObserver'] as const) {
        const { prototype } = window[name]
        const { observe, disconnect } = prototype as MutationObserver
        Object.assign(prototype, {
          observe(this: MutationObserver, ...args: Parameters<MutationObserver['observe']>) {
            observing.add(this)
            return observe.apply(this, args)
          },
          disconnect(this: MutationObserver) {
            observing.delete(this)
            return disconnect.call(this)
          },
        })
      }
      let listening = 0
      const { addEventListener } = EventTarget.prototype
      EventTarget.prototype.addEventListener = function (this: EventTarget, ...args: Parameters<typeof addEventListener>) {
        const [, , how] = args
        const signal = typeof how === 'object' ? how.signal : undefined
        if (signal?.aborted) return
        if (signal) {
          listening++
          addEventListener.call(signal, 'abort', () => listening--, { once: true })
        }
        addEventListener.apply(this, args)
      } as typeof addEventListener
      Object.assign(window, { left: () => [observing.size, listening] })
    })
    const piece = await api
      .live('Seen on any', p => {
        p.rule = {
          all: [
            { fact: 'page.path', op: 'starts_with', value: '/e2e/ten' },
            { fact: 'moment.seen', op: 'happened', value: '.never' },
          ],
        }
      })
      .catch(() => null)
    await page.goto(`${shop}/e2e/ten0`)
    await come(page)
    const left = () => page.evaluate(() => (window as unknown as { left(): number[] }).left())
    const before = await left()
    expect(before[1]).toBeGreaterThan(5)
    for (let i = 1; i <= 10; i++) {
      const decided = page.waitForResponse('**/decide')
      await page.evaluate(to => history.pushState({}, '', to), `/e2e/ten${i}`)
      await decided
      await settled(page)
    }
    await expect.poll(left).toEqual(before)
    await piece?.end()
  })

  test('nothing ticks where nothing waits, and a scroll reads the layout once a frame', async ({ page }) => {
    await page.addInitScript(() => {
      let timers = 0
      let reads = 0
      const { setTimeout, setInterval } = window
      const count =
        (by: typeof setTimeout) =>
        (does: () => void, ms?: number, ...rest: unknown[]) => {
          timers++
          return by(does, ms, ...rest)
        }
      Object.assign(window, { setTimeout: count(setTimeout), setInterval: count(setInterval as never) })
      const height = Object.getOwnPropertyDescriptor(Element.prototype, 'scrollHeight')!
      Object.defineProperty(Element.prototype, 'scrollHeight', {
        get() {
          if (this === document.documentElement) reads++
          return height.get!.call(this)
        },
      })
      Object.assign(window, { counted: () => ({ timers, reads }) })
    })
    await page.goto(`${shop}/basket`)
    await come(page)
    const counted = () => page.evaluate(() => (window as unknown as { counted(): { timers: number; reads: number } }).counted())
    const before = await counted()
    await meanwhile(page, 1500)
    expect((await counted()).timers).toBe(before.timers)
    await page.evaluate(
      () =>
        new Promise<void>(done => {
          requestAnimationFrame(() => {
            for (let i = 0; i < 50; i++) window.dispatchEvent(new Event('scroll'))
            requestAnimationFrame(() => done())
          })
        }),
    )
    expect((await counted()).reads - before.reads).toBe(1)
  })

  test('events carry the visit they happened in', async ({ page }) => {
    const piece = await api.live('Of which visit')
    const sent = requests(page)
    await page.route('**/events', r => r.abort())
    await page.goto(piece.url)
    await expect(popup(page)).toBeVisible()
    const first = await page.evaluate(() => {
      const m = JSON.parse(localStorage.getItem('gobbet:quillfern')!)
      m.seen -= 3600
      localStorage.setItem('gobbet:quillfern', JSON.stringify(m))
      return m.visit.id
    })
    await page.unroute('**/events')
    sent.length = 0
    await page.goto(`${shop}/basket`)
    await expect.poll(() => of(sent, 'events').flatMap(b => b.events.map((e: { kind: string }) => `${e.kind} ${b.visit === first}`))).toContain('shown true')
    const now = await page.evaluate(() => JSON.parse(localStorage.getItem('gobbet:quillfern')!).visit.id)
    expect(now).not.toBe(first)
    await piece.end()
  })
})

test.describe('a click that waits for a piece', () => {
  /** Counts how often the page hears of clicks. */
  const hearing = (page: Page) =>
    page.evaluate(() => {
      Object.assign(window, { heard: 0 })
      document.addEventListener('click', e => (e.target as Element).closest('.test') && (window as unknown as { heard: number }).heard++)
    })
  const heard = (page: Page) => page.evaluate(() => (window as unknown as { heard: number }).heard)
  const put = (page: Page, html: string) => page.evaluate(html => document.querySelector('main')!.insertAdjacentHTML('afterbegin', html), html)

  test('a link is followed once, and heard once', async ({ page }) => {
    const piece = await api.live('Link', p => and(p, { fact: 'moment.click', op: 'happened', value: '.test' }))
    await page.goto(piece.url)
    await come(page)
    await put(page, '<a class="test" href="#!/next">Next</a>')
    await hearing(page)
    await page.locator('.test').click()
    await expect(popup(page)).toBeVisible()
    expect(await heard(page)).toBe(0)
    await popup(page).getByRole('button', { name: 'Close' }).click()
    await page.waitForURL('**#!/next')
    expect(await heard(page)).toBe(1)
    await piece.end()
  })

  test('a button and a form are held as a link is, and followed at once where the piece cannot show', async ({ page }) => {
    const piece = await api.live('Buttons', p => and(p, { fact: 'moment.click', op: 'happened', value: '.test' }))
    for (const [html, done] of [
      ['<button class="test" type="button" onclick="document.title=\'done\'">Add</button>', () => page.waitForFunction(() => document.title === 'done')],
      ['<form action="/basket"><button class="test">Pay</button></form>', () => page.waitForURL('**/basket*')],
      ['<form action="/journal"><input class="test" type="submit" value="Read"></form>', () => page.waitForURL('**/journal*')],
    ] as const) {
      await page.goto(piece.url)
      await come(page)
      await put(page, html)
      await hearing(page)
      await page.locator('.test').click()
      await expect(popup(page)).toBeVisible()
      expect(await heard(page)).toBe(0)
      expect(page.url()).toBe(piece.url)
      await popup(page).getByRole('button', { name: 'Close' }).click()
      await done()
      await page.evaluate(() => localStorage.clear())
    }
    await page.route('**/designs/**', r => r.abort())
    await page.goto(piece.url)
    await come(page)
    await put(page, '<form action="/basket"><button class="test">Pay</button></form>')
    await page.locator('.test').click()
    await page.waitForURL('**/basket*')
    await piece.end()
  })
})

test.describe('the minimum time between pieces', () => {
  test('a bar and a folded tab interrupt nobody', async ({ page }) => {
    await api.settings({ limits: { quiet: 'PT5M', overlays: 1 } })
    const bar = await api.live('Bar in the first second', () => {}, 'bar')
    const here = bar.url.replace(shop, '')
    const tab = await api.live(
      'Tab',
      p => {
        p.split.variants[0].design.frame.tab = { words: 'Ten off' }
        return here
      },
      'fly_in',
    )
    const over = await api.live('After both', p => {
      and(p, asked('next'))
      return here
    })
    await page.goto(bar.url)
    await expect(pieces(page)).toHaveCount(2)
    await push(page, { event: 'next' })
    await expect(page.locator('.layer.popup')).toBeVisible()
    for (const p of [bar, tab, over]) await p.end()
  })

  test('a moment that falls into it is tried again when it ends, also on the next page', async ({ page }) => {
    await api.settings({ limits: { quiet: 'PT4S' } })
    const first = await api.live('Comes first', () => {}, 'fly_in')
    const here = first.url.replace(shop, '')
    const second = await api.live('Comes after it', p => {
      and(p, { fact: 'moment.seconds_on_page', op: 'gte', value: 1 })
      return here
    })
    const third = await api.live('On the next page')
    await page.goto(first.url)
    await expect(page.locator('.layer.fly_in')).toBeVisible()
    const began = Date.now()
    await expect(page.locator('.layer.popup')).toBeVisible({ timeout: 8000 })
    expect(Date.now() - began).toBeGreaterThan(2500)
    const again = Date.now()
    await page.goto(third.url)
    await expect(page.locator('.layer.popup')).toBeVisible({ timeout: 8000 })
    expect(Date.now() - again).toBeGreaterThan(2000)
    for (const p of [first, second, third]) await p.end()
  })

  test('but not an exit that did not happen: the next one brings it', async ({ page }) => {
    await api.settings({ limits: { quiet: 'PT3S' } })
    const first = await api.live('First', () => {}, 'fly_in')
    const exit = await api.live('On the way out', p => {
      and(p, { fact: 'moment.exit_intent', op: 'happened' })
      return first.url.replace(shop, '')
    })
    const leave = async () => {
      await page.mouse.move(600, 400)
      await page.mouse.move(600, 40, { steps: 4 })
      await page.evaluate(() => document.dispatchEvent(new MouseEvent('mouseout', { clientY: -3, bubbles: true, relatedTarget: null })))
    }
    await page.goto(first.url)
    await expect(page.locator('.layer.fly_in')).toBeVisible()
    await leave()
    await meanwhile(page, 3500) // until the time is over
    await expect(page.locator('.layer.popup')).toHaveCount(0)
    await leave()
    await expect(page.locator('.layer.popup')).toBeVisible()
    for (const p of [first, exit]) await p.end()
  })
})

test.describe('answers', () => {
  const fill = async (page: Page, email: string) => {
    await popup(page).getByLabel('Email').fill(email)
    await popup(page).getByRole('button', { name: 'Count me in' }).click()
  }
  const people = async (email: string) => (await api.people(email)).total

  test('in flight when the page is left, they are sent by the next page', async ({ page }) => {
    const piece = await api.live('Left in flight')
    await page.goto(piece.url)
    await page.route('**/advance', () => {}) // never answered
    const sent = page.waitForRequest('**/advance')
    await fill(page, 'inflight@example.com')
    await sent
    await page.unroute('**/advance')
    await page.goto(`${shop}/basket`)
    await expect.poll(() => people('inflight@example.com')).toBe(1)
    await expect.poll(() => page.evaluate(() => localStorage.getItem('gobbet:quillfern:steps'))).toBe('{}')
    await piece.end()
  })

  test('offline or with the server away, they are kept, said to be kept, and sent once it is there', async ({ page }) => {
    const piece = await api.live('Away')
    for (const [name, away] of [
      ['offline', () => page.route('**/advance', r => r.abort('internetdisconnected'))],
      ['busy', () => page.route('**/advance', r => r.fulfill({ status: 503, headers: { 'Access-Control-Allow-Origin': '*' }, json: { title: 'Later.' } }))],
    ] as const) {
      const email = `${name}@example.com`
      await page.goto(piece.url)
      await away()
      await fill(page, email)
      await expect(popup(page).getByRole('alert')).toContainText('Your words are kept')
      await expect(popup(page).getByLabel('Email')).toHaveValue(email)
      expect(await people(email)).toBe(0)
      await page.unroute('**/advance')
      // The visitor does not try again, and goes on to another page.
      await page.goto(`${shop}/basket`)
      await expect.poll(() => people(email)).toBe(1)
      await page.evaluate(() => localStorage.clear())
    }
    await piece.end()
  })

  test('“Sending…” ends by itself, with a way on', async ({ page }) => {
    const piece = await api.live('Sending')
    await page.clock.install()
    await page.goto(piece.url)
    await page.clock.runFor(4000)
    await expect(popup(page)).toBeVisible()
    await page.route('**/advance', () => {})
    const sent = page.waitForRequest('**/advance')
    await page.clock.runFor(500)
    await fill(page, 'sending@example.com')
    await page.clock.runFor(500)
    await sent
    await expect(popup(page).getByRole('button', { name: 'Sending…' })).toBeDisabled()
    await page.clock.runFor(11_000)
    await expect(popup(page).getByRole('alert')).toContainText('please try again')
    await expect(popup(page).getByRole('button', { name: 'Count me in' })).toBeEnabled()
    await page.unroute('**/advance')
    await popup(page).getByRole('button', { name: 'Count me in' }).click()
    await page.clock.runFor(500)
    await expect(popup(page).getByRole('heading')).toContainText('Thank you')
    expect(await people('sending@example.com')).toBe(1)
    await piece.end()
  })

  test('what takes a walk on cannot be fetched: the piece says so, and tries again', async ({ page }) => {
    const piece = await api.live('No walk')
    await page.route('**/walk-*', r => r.abort())
    await page.goto(piece.url)
    await fill(page, 'nowalk@example.com')
    await expect(popup(page).getByRole('alert')).toContainText('please try again', { ignoreCase: true })
    await expect(popup(page).getByLabel('Email')).toHaveValue('nowalk@example.com')
    await page.unroute('**/walk-*')
    await popup(page).getByRole('button', { name: 'Count me in' }).click()
    await expect(popup(page).getByRole('heading')).toContainText('Thank you')
    expect(await people('nowalk@example.com')).toBe(1)
    await piece.end()
  })
})

test('a popup whose timer is over shows nothing and counts nothing', async ({ page }) => {
  const piece = await api.live('Over', p => {
    p.split.variants[0].design.scenes[0].blocks.push({ kind: 'timer', id: 'timer', to: '2026-01-01T00:00:00Z', at_zero: 'close', size: 20, align: 'start' })
  })
  const sent = requests(page)
  await page.goto(piece.url)
  const design = await page.waitForResponse('**/designs/**')
  await design.finished()
  await settled(page)
  await expect(pieces(page)).toHaveCount(0)
  await page.goto(`${shop}/basket`)
  await settled(page)
  expect(of(sent, 'events').flatMap(b => b.events.map((e: { kind: string }) => e.kind))).not.toContain('shown')
  expect((await api.board()).cards.find(c => c.id === piece.id)!.measure.showings).toBe(0)
  await piece.end()
})

test('the inspector shows any format anyway', async ({ page }) => {
  for (const format of ['popup', 'fly_in', 'bar', 'full', 'sheet', 'chat'] as const) {
    const piece = await api.live(`Anyway ${format}`, p => and(p, asked('never')), format)
    await page.goto(await api.inspect(piece.id, piece.url.replace(shop, '')))
    await page.locator('gobbet-inspector').getByRole('button', { name: 'Show it anyway' }).click()
    await expect(page.locator(`gobbet-piece .layer.${format}`)).toBeVisible()
    await page.evaluate(() => sessionStorage.clear())
    await piece.end()
  }
  const inline = await api.live(
    'Anyway inline',
    p => {
      and(p, asked('never'))
      p.split.variants[0].design.frame.anchor = { selector: '.nowhere', where: 'after' }
    },
    'inline',
  )
  await page.goto(await api.inspect(inline.id, inline.url.replace(shop, '')))
  await page.locator('gobbet-inspector').getByRole('button', { name: 'Show it anyway' }).click()
  await expect(page.locator('gobbet-inspector')).toContainText('has no place for “Anyway inline”')
  await inline.end()
})

test('the inspector says what the minimum time between pieces holds back, and for how long', async ({ page }) => {
  await api.settings({ limits: { quiet: 'PT30S' } })
  const first = await api.live('Shown before', () => {}, 'fly_in')
  const held = await api.live('Held by the minimum', () => first.url.replace(shop, ''))
  await page.goto(await api.inspect(held.id, first.url.replace(shop, '')))
  const line = page.locator(`gobbet-inspector [data-piece="${held.id}"]`)
  await expect(page.locator('.layer.fly_in')).toBeVisible()
  await expect(line).toContainText(/Held back by the site's minimum of 30 s between pieces: tried again in \d+ s\./)
  for (const p of [first, held]) await p.end()
})
