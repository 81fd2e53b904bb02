import { readFileSync } from 'node:fs'
import { type Browser, devices, expect, type Page, test } from '@playwright/test'
import type { Piece } from '../kinds/piece'
import { Api, shop } from './api'
import { served } from './host'

// A whole way through a piece by keyboard, in other languages than English, where
// the network is cut at each step: nothing is lost, and nobody is thanked for nothing.

let api: Api
test.beforeAll(async () => {
  api = await Api.open()
  await api.settings({ limits: {} })
})

/** Cuts the network the first time that anything is sent, for each thing that is. Gives how often it was cut. */
async function cuts(page: Page) {
  const sent = new Set<string>()
  await page.route(/\/(advance|codes)$/, async r => {
    const { from, steps } = r.request().postDataJSON()
    const what = steps ? `${from} ${steps.length}` : 'code'
    if (sent.has(what)) return r.continue()
    sent.add(what)
    return r.abort('internetdisconnected')
  })
  return () => sent.size
}

/** Has something by keyboard, again as often as it is said that it did not arrive. */
async function untilItArrives(page: Page, away: string, does: () => Promise<unknown>, arrives: () => Promise<unknown>) {
  for (let i = 0; ; i++) {
    await does()
    try {
      return await arrives()
    } catch (e) {
      if (i === 4 || !(await page.locator('gobbet-piece').getByRole('alert').filter({ hasText: away }).count())) throw e
    }
  }
}

/** Leaves one part of a draw to be drawn. */
function drawsOnly(p: Piece, part: string) {
  const draw = p.split.variants[0].design.scenes[0].blocks.find(b => b.kind === 'draw')!
  draw.parts = draw.parts.map(x => ({ ...x, weight: x.id === part ? 1 : 0 }))
}

/** The fixed words of a language. */
const wordsOf = (lang: string): Record<string, string> =>
  Object.fromEntries(
    readFileSync(`../core/words/tables/${lang}.txt`, 'utf8')
      .trim()
      .split('\n')
      .map(line => line.split(/: (.*)/s).slice(0, 2)),
  )

/** A visitor on the shop's pages in a language, whose network is cut at each step, and what they would look for. */
async function visitor(browser: Browser, lang: string, dir: string, device: keyof typeof devices) {
  const { defaultBrowserType: _, ...how } = devices[device]
  const page = await (await browser.newContext({ ...how, reducedMotion: 'reduce' })).newPage()
  await served(page, `${shop}/e2e/*`, html => html.replace(/<html[^>]*>/, `<html lang="${lang}" dir="${dir}">`))
  return {
    page,
    words: wordsOf(lang),
    cut: await cuts(page),
    dialog: page.getByRole('dialog'),
    heading: page.getByRole('dialog').getByRole('heading'),
    email: (what: string) => `cut-${what}-${lang}-${Date.now()}@example.com`,
    /** Nothing waits to be sent any more. */
    nothingWaits: () => expect.poll(() => page.evaluate(() => localStorage.getItem('gobbet:quillfern:steps'))).toBe('{}'),
  }
}

for (const { lang, dir, device } of [
  { lang: 'de', dir: 'ltr', device: 'Desktop Chrome' },
  { lang: 'ar', dir: 'rtl', device: 'Pixel 7' },
] as const) {
  test(`a quiz and its sign-up, then a wheel, by keyboard, in ${lang} on ${device}, with the network cut at each step`, async ({ browser }) => {
    test.setTimeout(90_000)
    const { page, words, cut, dialog, heading, email, nothingWaits } = await visitor(browser, lang, dir, device)
    const { away, missing, close } = words

    const quiz = await api.live(`Cut quiz ${lang}`, () => {}, 'popup', {}, 'which-one-suits-you')
    await page.goto(quiz.url)
    await expect(dialog.getByRole('button', { name: close })).toBeFocused()
    await expect(heading).toHaveText('Where will you use it most?')
    for (const next of ['What should it bring?', 'How often do you treat yourself?', /./]) {
      await page.keyboard.press('Tab')
      await page.keyboard.press('Space')
      await page.keyboard.press('ArrowDown')
      await untilItArrives(
        page,
        away,
        () => page.keyboard.press('Enter'),
        async () => {
          if (typeof next === 'string') await expect(heading).toHaveText(next, { timeout: 3000 })
          else await expect(dialog.getByLabel('Email')).toBeVisible({ timeout: 3000 })
        },
      )
    }
    const asked = email('quiz')
    await dialog.getByLabel('Email').focus()
    await page.keyboard.press('Enter')
    await expect(dialog.getByText(missing)).toBeVisible()
    await page.keyboard.type(asked)
    const before = await heading.textContent()
    await untilItArrives(
      page,
      away,
      () => page.keyboard.press('Enter'),
      () => expect(heading).not.toHaveText(before!, { timeout: 3000 }),
    )
    await expect.poll(async () => Object.keys((await api.people(asked)).leads[0]?.walks[0].answers ?? {}).length).toBe(4)
    expect(cut()).toBeGreaterThanOrEqual(2)
    await page.keyboard.press('Escape')
    await expect(page.locator('gobbet-piece')).toHaveCount(0)
    await quiz.end()

    const wheel = await api.live(`Cut wheel ${lang}`, () => {}, 'popup', {}, 'spin-before-you-go')
    await page.goto(wheel.url)
    const spun = email('wheel')
    await dialog.getByLabel('Email').focus()
    await page.keyboard.type(spun)
    const before2 = await heading.textContent()
    await untilItArrives(
      page,
      away,
      () => page.keyboard.press('Enter'),
      () => expect(heading).not.toHaveText(before2!, { timeout: 9000 }),
    )
    await expect.poll(async () => (await api.people(spun)).total).toBe(1)
    await wheel.end()
    await nothingWaits()
    await page.context().close()
  })

  test(`a conversation, a card, a poll and a calculator, by keyboard, in ${lang} on ${device}, with the network cut at each step`, async ({ browser }) => {
    test.setTimeout(90_000)
    const { page, words, cut, dialog, heading, email, nothingWaits } = await visitor(browser, lang, dir, device)
    const piece = page.locator('gobbet-piece')
    const arrives = (does: () => Promise<unknown>, arrives: () => Promise<unknown>) => untilItArrives(page, words.away, does, arrives)

    const talk = await api.live(`Cut talk ${lang}`, () => {}, 'chat', {}, 'leave-a-question')
    await page.goto(talk.url)
    const log = piece.getByRole('log')
    await piece.getByRole('button', { name: 'A question?' }).press('Enter')
    const says = async (words: string, next: string) => {
      // The keyboard is where it is answered, and what did not arrive is there to be sent again.
      await expect(piece.getByRole('textbox')).toBeFocused()
      await page.keyboard.type(words)
      await arrives(
        () => page.keyboard.press('Enter'),
        () => expect(log).toContainText(next, { timeout: 3000 }),
      )
    }
    await expect(log).toContainText('What is it about?')
    // What was pressed stands in the line, to be sent again from there.
    await piece.getByRole('button', { name: 'An order' }).focus()
    await arrives(
      () => page.keyboard.press('Enter'),
      () => expect(log).toContainText('What is the number of your order?', { timeout: 3000 }),
    )
    await says('Ω-17 <i>', 'what would you like to know?')
    await says('متى يصل؟', 'Where should the answer go?')
    const talked = email('talk')
    await says(talked, 'It is with us.')
    // Nothing is said twice, however often it was sent.
    await expect(log.locator('.mine')).toHaveText([/An order/, /Ω-17 <i>/, /متى يصل؟/, new RegExp(talked)])
    await expect
      .poll(async () => (await api.people(talked)).leads[0]?.walks[0].answers)
      .toMatchObject({ about: 'An order', order: 'Ω-17 <i>', question: 'متى يصل؟', email: talked })
    await talk.end()

    // A line that goes on by itself, where the server is asked whither, does so once it can.
    const booking = await api.live(
      `Cut booking ${lang}`,
      p => {
        const [hello, first] = p.split.variants[0].design.scenes
        first.edges = [{ when: hello.edges![0].when, to: 'day' }, { to: 'person' }]
      },
      'chat',
      {},
      'book-a-place',
    )
    await page.goto(booking.url)
    await piece.getByRole('button', { name: 'Book a place' }).press('Enter')
    await piece.getByRole('textbox').focus()
    await says('never', 'the first evening is on us')
    await expect(log).toContainText('Which day suits you?')
    await expect(piece.getByRole('textbox')).toBeFocused()
    await booking.end()

    const card = await api.live(`Cut card ${lang}`, p => drawsOnly(p, 'a_small_gift'), 'fly_in', {}, 'scratch-and-see')
    await page.goto(card.url)
    const before = await heading.textContent()
    await piece.getByRole('button', { name: words.scratch }).focus()
    await arrives(
      () => page.keyboard.press('Enter'),
      () => expect(heading).not.toHaveText(before!, { timeout: 9000 }),
    )
    await dialog.getByLabel('Email').fill(email('card'))
    await arrives(
      () => page.keyboard.press('Enter'),
      () => expect(dialog.getByText(words.no_code)).toBeVisible({ timeout: 9000 }),
    )
    await dialog.getByRole('button', { name: words.retry }).press('Enter')
    await expect(dialog.getByText('GIFT', { exact: true })).toBeVisible()
    await expect(dialog.getByRole('button', { name: 'Copy' })).toBeFocused()
    await card.end()

    const poll = await api.live(`Cut poll ${lang}`, p => void (p.caps = {}), 'fly_in', {}, 'this-or-that')
    await page.goto(poll.url)
    await dialog.getByRole('radio').first().focus()
    await page.keyboard.press('Space')
    await arrives(
      () => dialog.getByRole('button', { name: 'Vote' }).press('Enter'),
      () => expect(heading).toHaveText('So far', { timeout: 3000 }),
    )
    await expect(dialog).toContainText('100')
    await poll.end()

    const saving = await api.live(`Cut saving ${lang}`, () => {}, 'popup', {}, 'what-would-you-save')
    await page.goto(saving.url)
    await dialog.getByLabel('Cups you buy a week').focus()
    await page.keyboard.press('End')
    await arrives(
      () => dialog.getByRole('button', { name: 'Reckon it up' }).press('Enter'),
      () => expect(dialog.getByLabel('Email')).toBeVisible({ timeout: 3000 }),
    )
    const saved = email('saving')
    await dialog.getByLabel('Email').fill(saved)
    await arrives(
      () => page.keyboard.press('Enter'),
      () => expect(dialog.locator('.value output')).toBeVisible({ timeout: 3000 }),
    )
    // 30 cups a week at 3.50 are 5460 a year, as the page's language writes it.
    await expect(heading).toContainText(new Intl.NumberFormat(lang, { style: 'currency', currency: 'EUR', maximumFractionDigits: 0 }).format(5460))
    await expect.poll(async () => (await api.people(saved)).leads[0]?.walks[0].answers).toMatchObject({ cups: '30' })
    await nothingWaits()
    await page.context().close()
    await saving.end()
    expect(cut()).toBeGreaterThanOrEqual(4)
  })
}
