import { expect, type Page, test } from '@playwright/test'
import type { Block } from '../kinds/piece'
import { Api, and, choices, pages, shop, signIn, studio } from './api'
import { served } from './host'

// What pieces say by themselves, in the language of the page; and where the
// keyboard is, and what is told, while a visitor goes through a piece.

let api: Api
test.beforeAll(async () => {
  api = await Api.open()
  await api.settings({ limits: {} })
})

const dialog = (page: Page) => page.getByRole('dialog')
/** Has the shop's pages say another language. */
const speaks = (page: Page, lang: string, dir = 'ltr') =>
  served(page, `${shop}/e2e/*`, html => html.replace(/<html[^>]*>/, `<html lang="${lang}" dir="${dir}">`))
const inside = (page: Page) => page.evaluate(() => document.activeElement?.shadowRoot?.activeElement?.outerHTML.slice(0, 120) ?? '')
const told = (page: Page) => page.locator('gobbet-piece .layer > [role=status]')

test.describe('in the language of the page', () => {
  test('a German page: what is wrong, a decimal comma, votes, and what the server says', async ({ page }) => {
    const piece = await api.live('Deutsch', p => {
      const [first] = p.split.variants[0].design.scenes
      first.blocks.splice(-1, 0, { kind: 'field', id: 'size', ask: 'number', key: 'size', label: 'Wie viel Liter?', required: true })
    })
    await speaks(page, 'de-AT')
    const decided = page.waitForResponse('**/decide')
    await page.goto(piece.url)
    expect((await (await decided).json()).words).toMatch(/^\/v1\/words\/de-/)
    await expect(dialog(page).getByRole('button', { name: 'Schließen' })).toBeVisible()
    await dialog(page).getByRole('button', { name: 'Count me in' }).click()
    await expect(dialog(page).getByText('Bitte ausfüllen.')).toHaveCount(2)
    await dialog(page).getByLabel('Email').fill('keine')
    await dialog(page).getByLabel('Wie viel Liter?').fill('2,5')
    await dialog(page).getByRole('button', { name: 'Count me in' }).click()
    await expect(dialog(page).getByText('Das sieht nicht nach einer E-Mail-Adresse aus.')).toBeVisible()
    await dialog(page).getByLabel('Email').fill('liter@example.com')
    let go = () => {}
    const gate = new Promise<void>(done => {
      go = done
    })
    await page.route('**/advance', async r => {
      await gate
      await r.continue()
    })
    await dialog(page).getByRole('button', { name: 'Count me in' }).click()
    await expect(dialog(page).getByRole('button', { name: 'Wird gesendet…' })).toBeDisabled()
    go()
    await expect(dialog(page).getByRole('heading')).toContainText('Thank you')
    const [lead] = (await api.people('liter@example.com')).leads
    expect(JSON.stringify(lead)).toContain('"2.5"')
    await piece.end()
  })

  test('a language without words, and one that is none, fall back to the site’s', async ({ page }) => {
    const piece = await api.live('Fallback')
    await api.settings({ language: 'fr', words: { fr: { close: 'Fermer la fenêtre' } } })
    try {
      for (const lang of ['tlh', 'not a language', '']) {
        await speaks(page, lang)
        await page.goto(piece.url)
        await expect(dialog(page).getByRole('button', { name: 'Fermer la fenêtre' })).toBeVisible()
        await page.evaluate(() => localStorage.clear())
      }
      // Words that do not come leave it in English, and the piece comes.
      await page.route('**/words/**', r => r.abort())
      await page.goto(piece.url)
      await expect(dialog(page).getByRole('button', { name: 'Close' })).toBeVisible()
    } finally {
      await api.settings({ language: '', words: {} })
      await piece.end()
    }
  })

  test('an Arabic page runs its way', async ({ page }) => {
    const piece = await api.live('عربي', p => {
      const [first] = p.split.variants[0].design.scenes
      for (const b of first.blocks) {
        if (b.kind === 'heading') b.text = 'انضم إلينا'
        if (b.kind === 'text') b.text = 'رسالة كل شهر، وخصم على أول طلب.'
      }
    })
    await speaks(page, 'ar', 'rtl')
    await page.goto(piece.url)
    const close = dialog(page).getByRole('button', { name: 'إغلاق' })
    await expect(close).toBeVisible()
    const [frame, at] = [(await dialog(page).locator('.frame').boundingBox())!, (await close.boundingBox())!]
    expect(at.x - frame.x).toBeLessThan(60)
    await expect(dialog(page).getByRole('heading')).toHaveCSS('direction', 'rtl')
    await piece.end()
  })

  test('a marketer words something anew for the site, and a visitor reads it', async ({ page, browser }) => {
    const piece = await api.live('Worded anew')
    await signIn(page)
    await page.goto('/sites/1/settings#language')
    const sheet = page.getByRole('form', { name: 'Language' })
    await sheet.getByRole('button', { name: 'Edit fixed text' }).click()
    await sheet.getByLabel('You have won: {prize}.').fill('{money} for you')
    await sheet.getByRole('button', { name: 'Save' }).click()
    await expect(sheet.getByText('has {money}, which nothing is put in for')).toBeVisible()
    await sheet.getByLabel('You have won: {prize}.').fill('')
    await sheet.getByLabel('Close', { exact: true }).fill('Leave it')
    await sheet.getByRole('button', { name: 'Save' }).click()
    await expect(sheet.getByText('✓ Saved')).toBeVisible()
    const visitor = await browser.newPage()
    await expect(async () => {
      await visitor.goto(piece.url)
      await visitor.evaluate(() => localStorage.clear())
      await expect(dialog(visitor).getByRole('button', { name: 'Leave it' })).toBeVisible({ timeout: 2000 })
    }).toPass()
    await visitor.close()
    await api.settings({ words: {} })
    await piece.end()
  })
})

test.describe('by keyboard, and as it is heard', () => {
  test('a long popup opens at its top, on its close button; the next scene is told once and has the keyboard', async ({ page }) => {
    const piece = await api.live('Long', p => {
      const [first] = p.split.variants[0].design.scenes
      for (let i = 0; i < 12; i++)
        first.blocks.splice(2, 0, { kind: 'text', id: `t${i}`, text: 'A line that makes it long. '.repeat(4), size: 20, align: 'start' })
    })
    await page.goto(piece.url)
    await expect(dialog(page).getByRole('button', { name: 'Close' })).toBeFocused()
    expect(
      await dialog(page)
        .locator('.frame')
        .evaluate(e => e.scrollTop),
    ).toBe(0)
    await dialog(page).getByLabel('Email').fill('long@example.com')
    await dialog(page).getByLabel('Email').press('Enter')
    await expect(dialog(page).getByRole('heading')).toContainText('Thank you')
    expect(await inside(page)).toContain('class="scene"')
    expect(
      await dialog(page)
        .locator('.frame')
        .evaluate(e => e.scrollTop),
    ).toBe(0)
    await expect(told(page).locator('p')).toHaveCount(1)
    await expect(told(page)).toContainText('Thank you')
    await piece.end()
  })

  for (const format of ['fly_in', 'bar', 'inline'] as const)
    test(`${format}: the keyboard stays in it as it sends, and comes back to the page when it closes`, async ({ page }) => {
      const piece = await api.live(
        `Keys ${format}`,
        p => {
          const { frame, scenes } = p.split.variants[0].design
          if (format === 'inline') frame.anchor = { selector: 'main', where: 'first', pushes: true }
          frame.close.shown = true
          scenes[1].blocks.push({ kind: 'button', id: 'end', words: 'All right', press: { do: 'close' }, counts: false, quiet: false })
        },
        format,
      )
      await page.goto(piece.url)
      const at = page.locator('gobbet-piece')
      await expect(at.getByLabel('Email')).toBeVisible()
      const link = page.getByRole('link', { name: 'Classes' })
      await link.focus()
      await at.getByLabel('Email').focus()
      await page.keyboard.type(`keys-${format}@example.com`)
      await page.keyboard.press('Enter')
      await expect(at.getByRole('button', { name: 'All right' })).toBeVisible()
      expect(await inside(page)).toContain('class="scene"')
      await at.getByRole('button', { name: 'All right' }).press('Enter')
      await expect(page.locator('gobbet-piece')).toHaveCount(0)
      await expect(link).toBeFocused()
      await piece.end()
    })

  test('Escape from the page closes the last that came; an input method’s is its own', async ({ page }) => {
    const first = await api.live('Comes first', () => {}, 'fly_in')
    const second = await api.live(
      'Comes last',
      p => {
        p.split.variants[0].design.frame.place = 'top_start'
        and(p, { fact: 'moment.event', op: 'happened', value: 'last' })
        return first.url.replace(shop, '')
      },
      'fly_in',
    )
    await page.goto(first.url)
    await expect(page.locator('gobbet-piece')).toHaveCount(1)
    await page.evaluate(() => window.gobbet!.push({ event: 'last' }))
    await expect(page.locator('gobbet-piece')).toHaveCount(2)
    await page.evaluate(() => dispatchEvent(new KeyboardEvent('keydown', { key: 'Escape', isComposing: true, bubbles: true })))
    await expect(page.locator('gobbet-piece')).toHaveCount(2)
    await page.keyboard.press('Escape')
    await expect(page.locator('gobbet-piece')).toHaveCount(1)
    await expect(page.locator('.place.top_start')).toHaveCount(0)
    await page.keyboard.press('Escape')
    await expect(page.locator('gobbet-piece')).toHaveCount(0)
    for (const p of [first, second]) await p.end()
  })

  test('what lies over the page does not hide what has the keyboard', async ({ page }) => {
    const piece = await api.live('Over the links', p => void (p.split.variants[0].design.frame.place = 'bottom_end'), 'fly_in')
    await page.goto(piece.url)
    const over = page.locator('gobbet-piece .hold')
    await expect(over).toBeVisible()
    const at = (await over.boundingBox())!
    await page.evaluate(
      ({ x, y }) => {
        document.body.insertAdjacentHTML(
          'beforeend',
          `<a id="under" href="#" style="position:absolute;left:${x}px;top:${y + scrollY}px">Under it</a><div style="height:2000px"></div>`,
        )
      },
      { x: at.x + 40, y: at.y + 60 },
    )
    await page.locator('#under').focus()
    const its = (await page.locator('#under').boundingBox())!
    expect(its.y + its.height).toBeLessThan(at.y)
    await piece.end()
  })

  test('a ranking keeps the keyboard on what was moved, and a radio is not wrong before it was answered', async ({ page }) => {
    const piece = await api.live('Ranked', p => {
      const [first] = p.split.variants[0].design.scenes
      first.blocks.splice(1, 0, {
        kind: 'field',
        id: 'rank',
        ask: 'order',
        key: 'rank',
        label: 'Rank these',
        required: true,
        choices: choices('Ash', 'Celadon', 'Tenmoku', 'Shino'),
      })
      first.blocks.splice(1, 0, { kind: 'field', id: 'one', ask: 'choice', key: 'one', label: 'Choose one', required: true, choices: choices('Yes', 'No') })
    })
    await page.goto(piece.url)
    const label = (await dialog(page).locator('.order li .says').first().textContent())!
    const down = () => dialog(page).getByRole('button', { name: `Move ${label} down` })
    await down().focus()
    for (let i = 0; i < 2; i++) {
      await page.keyboard.press('Enter')
      await expect(down()).toBeFocused()
    }
    await page.keyboard.press('Enter') // at the end: only up is left
    await expect(dialog(page).getByRole('button', { name: `Move ${label} up` })).toBeFocused()
    await expect(dialog(page).locator('.order [role=status]')).toHaveText(`${label}: 4 of 4`)
    const group = dialog(page).getByRole('radiogroup', { name: 'Choose one' })
    expect(await group.getAttribute('aria-required')).toBe('true')
    expect(await group.getAttribute('aria-invalid')).toBeNull()
    expect(
      await group
        .getByRole('radio')
        .first()
        .evaluate(e => e.matches(':invalid')),
    ).toBe(false)
    await dialog(page).getByRole('button', { name: 'Count me in' }).click()
    await expect(group).toHaveAttribute('aria-invalid', 'true')
    await piece.end()
  })

  test('the close button outside stays on a screen at 200 %', async ({ page }) => {
    const piece = await api.live('Outside', p => {
      p.split.variants[0].design.frame.close.place = 'outside'
    })
    await page.setViewportSize({ width: 640, height: 400 })
    await page.goto(piece.url)
    const box = (await dialog(page).getByRole('button', { name: 'Close' }).boundingBox())!
    expect(box.y).toBeGreaterThanOrEqual(0)
    expect(box.x + box.width).toBeLessThanOrEqual(640)
    await piece.end()
  })

  test('a looping video can be paused, and stands still where less motion is asked for', async ({ page }) => {
    const piece = await api.live('Moves')
    await page.route('**/designs/**', async r => {
      const drawing = await (await r.fetch()).json()
      drawing.frame.behind = { video: 'film', side: 'start' }
      drawing.needs = [...(drawing.needs ?? []), 'frames']
      await r.fulfill({ json: drawing, headers: { 'Access-Control-Allow-Origin': '*' } })
    })
    for (const [reducedMotion, says] of [
      ['no-preference', 'Pause'],
      ['reduce', 'Play'],
    ] as const) {
      await page.emulateMedia({ reducedMotion })
      await page.goto(piece.url)
      await expect(dialog(page).getByRole('button', { name: says })).toBeVisible()
      expect(
        await dialog(page)
          .locator('video')
          .evaluate((v: HTMLVideoElement) => v.autoplay),
      ).toBe(says === 'Pause')
      await page.evaluate(() => localStorage.clear())
    }
    await piece.end()
  })

  test('what is said in a video stands in it as captions', async ({ page }) => {
    const file = (text: string): Block => ({ kind: 'video', id: 'film', file: 'a'.repeat(32), title: 'A kiln, opened', ratio: 56, corners: 0, captions: text })
    const piece = await api.live(
      'Said',
      p => void p.split.variants[0].design.scenes[0].blocks.unshift(file('1\n00:00:01,000 --> 00:00:04,000\n<i>Ash</i> & clay, a < b\n')),
    )
    await page.goto(piece.url)
    const cues = () =>
      dialog(page)
        .locator('video')
        .evaluate((v: HTMLVideoElement) =>
          [...v.textTracks].map(t => ({
            kind: t.kind,
            mode: t.mode,
            said: [...(t.cues ?? [])].map(c => [c.startTime, c.endTime, (c as VTTCue).getCueAsHTML().textContent]),
          })),
        )
    await expect.poll(cues).toEqual([{ kind: 'captions', mode: 'showing', said: [[1, 4, 'Ash & clay, a < b']] }])
    await piece.end()

    // In the studio: from a file, and what is wrong at its field.
    await signIn(page)
    await page.goto(`${studio}/sites/1/pieces/${piece.id}/compose`)
    await page.getByRole('complementary', { name: 'Outline' }).getByText('A kiln, opened').click()
    const settings = page.getByRole('complementary', { name: 'Settings' })
    await settings
      .getByLabel('Captions file')
      .setInputFiles({ name: 'kiln.vtt', mimeType: 'text/vtt', buffer: Buffer.from('WEBVTT\n\n00:04.000 --> 00:01.000\nBackwards') })
    await expect(settings.getByRole('alert')).toHaveText('line 3 ends before it begins')
    await settings.getByLabel('Captions', { exact: true }).fill('00:01.000 --> 00:04.000\nForwards')
    await expect(page.locator('[data-standing=saved]')).toBeVisible()
    await expect(settings.getByRole('alert')).toHaveCount(0)
  })

  test('a drawing that throws leaves nothing on the page', async ({ page }) => {
    const piece = await api.live('Throws')
    const errors: string[] = []
    page.on('pageerror', e => errors.push(e.message))
    await page.route('**/designs/**', async r => {
      const drawing = await (await r.fetch()).json()
      drawing.scenes[0].blocks[0] = { kind: 'heading', id: 'x', text: [{ text: null }] }
      await r.fulfill({ json: drawing, headers: { 'Access-Control-Allow-Origin': '*' } })
    })
    const told: { piece: string; says: string }[] = []
    page.on('request', r => r.url().endsWith('/faults') && told.push(r.postDataJSON()))
    const came = page.waitForResponse('**/faults')
    await page.goto(piece.url)
    expect((await came).status()).toBe(204)
    await page.waitForLoadState('networkidle')
    await expect(page.locator('gobbet-piece')).toHaveCount(0)
    await expect(page.getByRole('link', { name: 'Classes' })).toBeVisible()
    expect(await page.evaluate(() => document.documentElement.style.overflow)).toBe('')
    expect(errors).toEqual([])
    // It is told of once, and the marketer hears of it.
    expect(told.map(t => t.piece)).toEqual([piece.id])
    expect(told[0].says).toMatch(/Error/)
    await signIn(page)
    await expect(async () => {
      await page.goto(`${studio}/sites/1/settings`)
      await expect(page.getByRole('region', { name: 'Connection' })).toContainText(/a piece could not be drawn.*“Throws: \w*Error/, { timeout: 2000 })
    }).toPass({ timeout: 20_000 })
    await piece.end()
  })
})

test('a piece’s own page is in the site’s language', async ({ page }) => {
  await api.settings({ language: 'nl' })
  try {
    const made = await api.make('Eigen pagina')
    made.draft.page = { address: 'eigen', title: 'Eigen' } as typeof made.draft.page
    const saved = await api.save(made.id, 1, made.draft)
    await api.launch(made.id, saved.version)
    await expect(async () => {
      await page.goto(`${pages}/quillfern/eigen`)
      await expect(page.locator('html')).toHaveAttribute('lang', 'nl', { timeout: 1000 })
      await expect(page.getByRole('heading', { name: 'Eigen' })).toHaveCount(1, { timeout: 1000 })
    }).toPass()
    await expect(page.locator('#after')).toContainText('Dat is alles. Dank u wel.')
    await expect(page.getByRole('link', { name: 'Naar Quillfern Pottery' }).first()).toBeVisible()
    await api.pause(made.id)
    await expect(async () => {
      await page.goto(`${pages}/quillfern/eigen`)
      await expect(page.getByText('Op dit adres staat niets.')).toBeVisible({ timeout: 1000 })
    }).toPass()
  } finally {
    await api.settings({ language: '' })
  }
})
