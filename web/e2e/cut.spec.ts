import { readFileSync } from 'node:fs'
import { devices, expect, type Page, test } from '@playwright/test'
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
  await page.route('**/advance', async r => {
    const { from, steps } = r.request().postDataJSON()
    const what = `${from} ${steps.length}`
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

/** The fixed words of a language. */
const wordsOf = (lang: string): Record<string, string> =>
  Object.fromEntries(
    readFileSync(`../core/words/tables/${lang}.txt`, 'utf8')
      .trim()
      .split('\n')
      .map(line => line.split(/: (.*)/s).slice(0, 2)),
  )

for (const { lang, dir, device } of [
  { lang: 'de', dir: 'ltr', device: 'Desktop Chrome' },
  { lang: 'ar', dir: 'rtl', device: 'Pixel 7' },
] as const)
  test(`a quiz and its sign-up, then a wheel, by keyboard, in ${lang} on ${device}, with the network cut at each step`, async ({ browser }) => {
    test.setTimeout(90_000)
    const { defaultBrowserType: _, ...how } = devices[device]
    const page = await (await browser.newContext({ ...how, reducedMotion: 'reduce' })).newPage()
    const { away, missing, close } = wordsOf(lang)
    const dialog = page.getByRole('dialog')
    const heading = dialog.getByRole('heading')
    await served(page, `${shop}/e2e/*`, html => html.replace(/<html[^>]*>/, `<html lang="${lang}" dir="${dir}">`))
    const cut = await cuts(page)

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
    const email = `cut-${lang}-${Date.now()}@example.com`
    await dialog.getByLabel('Email').focus()
    await page.keyboard.press('Enter')
    await expect(dialog.getByText(missing)).toBeVisible()
    await page.keyboard.type(email)
    const before = await heading.textContent()
    await untilItArrives(
      page,
      away,
      () => page.keyboard.press('Enter'),
      () => expect(heading).not.toHaveText(before!, { timeout: 3000 }),
    )
    await expect.poll(async () => Object.keys((await api.people(email)).leads[0]?.walks[0].answers ?? {}).length).toBe(4)
    expect(cut()).toBeGreaterThanOrEqual(2)
    await page.keyboard.press('Escape')
    await expect(page.locator('gobbet-piece')).toHaveCount(0)
    await quiz.end()

    const wheel = await api.live(`Cut wheel ${lang}`, () => {}, 'popup', {}, 'spin-before-you-go')
    await page.goto(wheel.url)
    const spun = `spun-${lang}-${Date.now()}@example.com`
    await dialog.getByLabel('Email').focus()
    await page.keyboard.type(spun)
    const asked = await heading.textContent()
    await untilItArrives(
      page,
      away,
      () => page.keyboard.press('Enter'),
      () => expect(heading).not.toHaveText(asked!, { timeout: 9000 }),
    )
    await expect.poll(async () => (await api.people(spun)).total).toBe(1)
    await wheel.end()
    // Nothing waits any more.
    await expect.poll(() => page.evaluate(() => localStorage.getItem('gobbet:quillfern:steps'))).toBe('{}')
    await page.context().close()
  })
