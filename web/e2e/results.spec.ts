import { expect, type Page, test } from '@playwright/test'
import type { EventIn, EventsRequest } from '../kinds/visitor'
import { Api, meanwhile, shop, signIn } from './api'
import { choose } from './designer'

// What is measured on a page, and what the studio makes of it.

let api: Api
test.beforeAll(async () => {
  api = await Api.open()
})

const popup = (page: Page) => page.getByRole('dialog')

/** The events that a page sends, as they come. */
function sentBy(page: Page) {
  const batches: EventsRequest[] = []
  page.on('request', r => r.url().endsWith('/events') && batches.push(JSON.parse(r.postData() ?? 'null')))
  return { batches, events: () => batches.flatMap(b => b.events) as EventIn[] }
}

const kinds = (events: EventIn[]) => [...new Map(events.map(e => [e.id, e.kind])).values()]

test('who is held back is shown nothing, counted when it would have come, and not interrupted', async ({ page }) => {
  const piece = await api.live('Held back', p => void (p.split.held = 50))
  let held = 0
  let shown = 0
  for (let i = 0; i < 12 && (!held || !shown); i++) {
    const context = await page.context().browser()!.newContext()
    const visitor = await context.newPage()
    const sent = sentBy(visitor)
    const stored = visitor.waitForResponse(r => r.url().endsWith('/events'))
    await visitor.goto(piece.url)
    expect((await stored).status()).toBe(200)
    const [first] = sent.events()
    expect(first.id).toMatch(/^[0-9a-f]{12}7/)
    const memory = await visitor.evaluate(() => JSON.parse(localStorage.getItem('gobbet:quillfern')!))
    if (first.kind === 'held') {
      held++
      expect(first.variant).toBe('')
      await meanwhile(visitor, 300)
      await expect(popup(visitor)).toHaveCount(0)
      expect(memory.shown).toBeUndefined()
      expect(memory.pieces[piece.id].times_shown).toBe(1)
      // The same on the next page view: nothing.
      await visitor.reload()
      await meanwhile(visitor, 800)
      await expect(popup(visitor)).toHaveCount(0)
    } else {
      shown++
      await expect(popup(visitor)).toBeVisible()
      expect(memory.visit.interrupted).toBe(1)
    }
    await context.close()
  }
  expect(held).toBeGreaterThan(0)
  expect(shown).toBeGreaterThan(0)
  await piece.end()
})

test('a variant with moments and a format of its own shows in its own way, and everyone counts who could see either', async ({ page }) => {
  const piece = await api.live('Early or late', p => {
    const b = structuredClone(p.split.variants[0])
    p.split.variants.push({
      ...b,
      id: 'b',
      name: 'On exit',
      format: 'fly_in',
      design: { ...b.design, frame: { ...b.design.frame, width: 340 } },
      moments: { all: [{ fact: 'moment.event', op: 'happened', value: 'later' }] },
    })
  })
  const came = { a: 0, b: 0 }
  for (let i = 0; i < 14 && (!came.a || !came.b); i++) {
    const context = await page.context().browser()!.newContext()
    const visitor = await context.newPage()
    const sent = sentBy(visitor)
    await visitor.goto(piece.url)
    await expect.poll(() => kinds(sent.events())).toContain('eligible')
    const { variant } = sent.events().find(e => e.kind === 'eligible')!
    const drawn = visitor.locator('gobbet-piece')
    const width = async () => (await popup(visitor).boundingBox())!.width
    if (variant === 'a') {
      await expect(popup(visitor)).toBeVisible()
      expect(await width()).toBe(1280)
    } else {
      await meanwhile(visitor, 500)
      await expect(drawn).toHaveCount(0)
      await visitor.evaluate(() => window.gobbet!.push({ event: 'later' }))
      await expect(popup(visitor)).toBeVisible()
      expect(await width()).toBeLessThan(400)
    }
    came[variant as 'a' | 'b']++
    await expect.poll(() => kinds(sent.events()).sort()).toEqual(['eligible', 'shown'])
    // They count once, however many pages they look at.
    await visitor.reload()
    await meanwhile(visitor, 1200)
    expect(kinds(sent.events()).filter(k => k === 'eligible')).toHaveLength(1)
    expect(sent.events().every(e => e.variant === variant)).toBe(true)
    await context.close()
  }
  expect(Math.min(came.a, came.b)).toBeGreaterThan(0)
  await expect(async () => {
    const { variants, of_eligible } = await api.split(piece.id)
    expect(of_eligible).toBe(true)
    expect(variants.map(v => v.measure.visitors)).toEqual([came.a, came.b])
  }).toPass()
  await piece.end()
})

test('leaving soon, closing, and a goal with its worth are sent, with how long after', async ({ page }) => {
  const piece = await api.live('Left at once')
  const sent = sentBy(page)
  await page.goto(piece.url)
  await expect(popup(page)).toBeVisible()
  await popup(page).getByRole('button', { name: 'Close' }).click()
  await expect(popup(page)).toHaveCount(0)
  await page.evaluate(() => window.gobbet!.push({ event: 'class_booked', value: 55 }))
  await page.goto(`${shop}/classes`)
  await expect.poll(() => kinds(sent.events()).sort()).toEqual(expect.arrayContaining(['closed', 'left', 'reached', 'shown']))
  const of = (kind: string) => sent.events().find(e => e.kind === kind)!
  expect(of('closed').after).toBeGreaterThan(0)
  expect(of('left').after).toBeLessThan(10_000)
  expect(of('reached')).toMatchObject({ goal: 'class_booked', amount: 55, piece: '' })
  expect(sent.batches[0]).toMatchObject({ visits: 1, landing: piece.url })
  await piece.end()
})

test('an order counts once a visit, with its total, however often its page is looked at', async ({ page }) => {
  const sent = sentBy(page)
  await page.goto(`${shop}/shop/celadon`)
  await page.locator('#buy').click()
  await page.getByRole('button', { name: /Order and pay/ }).click()
  await expect.poll(() => sent.events().filter(e => e.kind === 'reached').length).toBeGreaterThan(0)
  await page.reload()
  await meanwhile(page, 1500)
  const orders = new Map(sent.events().flatMap(e => (e.kind === 'reached' ? [[e.id, e]] : [])))
  expect([...orders.values()]).toMatchObject([{ goal: 'order', amount: 19.5 }])
})

test('each step goes to the data layer that the site names, and a page without one is left alone', async ({ page }) => {
  const piece = await api.live('In the layer')
  await page.goto(piece.url)
  await expect(popup(page)).toBeVisible()
  expect(await page.evaluate(() => 'shopLayer' in window)).toBe(false)
  await api.settings({ data_layer: 'shopLayer' })
  await expect(async () => {
    await page.evaluate(() => localStorage.clear())
    await page.goto(piece.url)
    await expect(popup(page)).toBeVisible({ timeout: 3000 })
    expect(await page.evaluate(() => (window as any).shopLayer)).toEqual([{ event: 'gobbet_shown', gobbet_piece: piece.id, gobbet_variant: 'a' }])
  }).toPass()
  // What is no list of the page's is not broken, and breaks nothing.
  await page.addInitScript(() => Object.assign(window, { shopLayer: 'mine' }))
  await page.evaluate(() => localStorage.clear())
  await page.goto(piece.url)
  await expect(popup(page)).toBeVisible()
  expect(await page.evaluate(() => (window as any).shopLayer)).toBe('mine')
  await api.settings({ data_layer: '' })
  await piece.end()
})

test('a browser that a program drives is left out, and listed', async ({ browser }) => {
  const piece = await api.live('For people')
  const context = await browser.newContext({ userAgent: 'Mozilla/5.0 (compatible; KilnCrawler/1.0)' })
  const page = await context.newPage()
  const stored = page.waitForResponse(r => r.url().endsWith('/events'))
  await page.goto(piece.url)
  expect((await stored).status()).toBe(200)
  const studio = await browser.newContext()
  const marketer = await studio.newPage()
  await signIn(marketer)
  await expect(async () => {
    await marketer.goto('/sites/1/results')
    await expect(marketer.getByRole('region', { name: 'Left out' })).toContainText('kilncrawler', { timeout: 2000 })
  }).toPass()
  const card = (await api.board()).cards.find(c => c.id === piece.id)!
  expect(card.measure.visitors).toBe(0)
  await context.close()
  await studio.close()
  await piece.end()
})

test.describe('the studio', () => {
  test.beforeEach(({ page }) => signIn(page))

  const verdicts = [
    ['glazeclub', 'better', /^B converts better than A/],
    ['classfinder', 'worse', /^B converts worse than A/],
    ['beforeyougo', 'broken_split', /^The split is not as asked/],
    ['shippingline', 'no_difference', /^A and B do the same/],
    ['kilnletter', 'keep_collecting', /^Keep collecting/],
    ['testtiles', 'better', /^B converts better than A/],
  ] as const
  for (const [piece, verdict, head] of verdicts)
    test(`says of ${piece}: ${verdict}`, async ({ page }) => {
      await page.goto(`/sites/1/pieces/${piece}/results`)
      const sheet = page.getByRole('region', { name: 'Verdict' })
      await expect(sheet.getByRole('heading')).toHaveText(head)
      await expect(sheet.locator('[data-verdict]')).toHaveAttribute('data-verdict', verdict)
    })

  test('a test is planned, started, and its winner launched in one click and taken back', async ({ page }) => {
    const live = await api.live('A test of headlines')
    await page.goto(`/sites/1/pieces/${live.id}/results`)
    await page.getByRole('button', { name: 'Add a variant' }).first().click()
    const plan = page.getByRole('region', { name: 'Plan' })
    await expect(plan).toContainText('A lift of 20 % takes')
    await plan.getByRole('slider').focus()
    for (let i = 0; i < 4; i++) await page.keyboard.press('ArrowRight')
    await expect(plan).toContainText('A lift of 50 % takes')
    await plan.getByRole('button', { name: 'Plan for this lift' }).click()
    await page.getByLabel('Held back: shown nothing').fill('20')
    await page.keyboard.press('Tab')
    await expect(page.getByRole('region', { name: 'What differs' })).toContainText('Nothing: the designs are the same.')
    await expect.poll(async () => (await api.piece(live.id)).draft.split).toMatchObject({ held: 20, plan: { lift: 0.5, power: 0.8 } })
    const info = await api.piece(live.id)
    await api.launch(live.id, info.version)
    await page.reload()
    await expect(page.getByRole('region', { name: 'Time line' })).toContainText('20 % held back')
    await expect(page.getByRole('region', { name: 'Is the test reliable?' })).toContainText('visitors per variant short of the plan')
    await live.end()
  })

  test('a variant gets a format and moments of its own, and changes and pauses are on the time line', async ({ page }) => {
    const live = await api.live('Popup or fly-in')
    await page.goto(`/sites/1/pieces/${live.id}/results`)
    await page.getByRole('button', { name: 'Add a variant' }).first().click()
    await page.getByRole('button', { name: 'Moments' }).nth(1).click()
    const dialog = page.getByRole('dialog', { name: 'When variant B shows' })
    await expect(dialog).toContainText('Nothing of its own')
    await dialog.getByRole('button', { name: '+ condition' }).click()
    await page.getByRole('combobox', { name: 'Find a condition' }).fill('exit')
    await page.keyboard.press('Enter')
    await expect(dialog).toContainText('visitor shows exit intent')
    await dialog.getByRole('button', { name: 'Done' }).click()
    await expect(page.getByText('waits for 1 moment of its own')).toBeVisible()
    await expect(page.getByRole('region', { name: 'What differs' })).toContainText('When it shows: other moments')
    await page.getByRole('link', { name: 'Edit design' }).nth(1).click()
    await expect(page.getByText('What you change here changes in B alone.')).toBeVisible()
    await choose(page.getByRole('combobox', { name: 'Format' }).first(), 'Fly-in')
    await expect
      .poll(async () => (await api.piece(live.id)).draft.split.variants[1])
      .toMatchObject({
        format: 'fly_in',
        moments: { all: [{ fact: 'moment.exit_intent' }] },
        design: { frame: { width: 340 } },
      })
    expect((await api.piece(live.id)).draft.format).toBe('popup')
    // Reach is tried as one of the variants.
    await page.goto(`/sites/1/pieces/${live.id}/reach`)
    const tried = page.locator('[data-verdict]')
    await expect(tried).toHaveAttribute('data-verdict', 'yes')
    await choose(page.getByRole('combobox', { name: 'Variant' }), 'B')
    await expect(tried).toHaveAttribute('data-verdict', 'waits')
    let info = await api.piece(live.id)
    await api.launch(live.id, info.version)
    info = await api.piece(live.id)
    info.draft.split.variants[1].design.frame.width = 400
    await api.save(live.id, info.version, info.draft)
    await api.launch(live.id, (await api.piece(live.id)).version)
    await api.pause(live.id)
    await page.goto(`/sites/1/pieces/${live.id}/results`)
    const line = page.getByRole('region', { name: 'Time line' })
    await expect(line).toContainText('Paused')
    await expect(line).toContainText('Launched by Mara Quill: B looks different')
    await expect(page.getByRole('region', { name: 'Is the test reliable?' })).toContainText('B looked different before')
    // Taken back, the variant sits as the piece does.
    await page.getByRole('link', { name: 'Edit design' }).nth(1).click()
    await choose(page.getByRole('combobox', { name: 'Format' }).first(), 'Popup')
    await expect.poll(async () => (await api.piece(live.id)).draft.split.variants[1].format).toBeUndefined()
    await live.end()
  })

  test('the numbers of a test open to its events', async ({ page }) => {
    await page.goto('/sites/1/pieces/kilnletter/results')
    await page.locator('[data-variant=B]').getByRole('button').first().click()
    const dialog = page.getByRole('dialog', { name: 'B: visitors' })
    await expect(dialog.getByRole('row').nth(1)).toContainText('Letter from the kiln')
    const { measure } = (await api.split('kilnletter')).variants[1]
    // A page at a time, as many pages as there are on the day.
    const rows = dialog.locator('tbody tr')
    const more = dialog.getByRole('button', { name: 'Look further back' })
    const looking = dialog.getByRole('button', { name: 'Looking…' })
    await expect(rows.first()).toBeVisible()
    while (await more.isVisible()) {
      await more.click()
      await expect(looking).toHaveCount(0)
    }
    // Some see it more than once.
    const visitors = new Set(await dialog.locator('tbody tr td:nth-child(2)').allTextContents())
    expect(visitors.size).toBe(measure.visitors)
  })

  test('the winner of the demo goes live in one click, its results stay, and undo has the test back', async ({ page }) => {
    await page.goto('/sites/1/pieces/testtiles/results')
    await page
      .getByRole('button', { name: /^(Launch|Make) B/ })
      .first()
      .click()
    await expect.poll(async () => (await api.piece('testtiles')).draft.split.variants.map(v => v.share)).toEqual([0, 100])
    await expect(page.getByRole('region', { name: 'Verdict' })).toContainText('B converts better than A')
    await page.getByRole('button', { name: 'Undo', exact: true }).last().click()
    await expect.poll(async () => (await api.piece('testtiles')).draft.split.variants.map(v => v.share)).toEqual([50, 50])
  })

  test('results are cut, their range is in the address, and every number opens to its events', async ({ page }) => {
    await page.goto('/sites/1/results')
    await expect(page.getByRole('region', { name: 'What the pieces brought' }).getByRole('heading')).toContainText('In these 28 days')
    await expect(page.getByRole('region', { name: 'What they cost visitors' })).toContainText(/Never interrupted.*page views measured/)
    await page.getByRole('button', { name: 'Page', exact: true }).click()
    await choose(page.getByLabel('Period'), '90 days')
    await expect(page).toHaveURL(/by=page/)
    await expect(page).toHaveURL(/from=2\d{3}-\d\d-\d\d/)
    // Until those come, the rows are of 28 days.
    await expect(page.getByRole('region', { name: 'What the pieces brought' }).getByRole('heading')).toContainText('In these 90 days')
    const address = page.url()
    const table = page.getByRole('region', { name: 'Best and worst, by page' })
    await expect(table.getByRole('row').nth(1)).toContainText('/')
    const row = table.getByRole('row').nth(1)
    const [path, piece] = await row.getByRole('cell').allTextContents()
    await row.getByRole('button').nth(1).click()
    const dialog = page.getByRole('dialog')
    await expect(dialog.getByRole('heading')).toHaveText(`Conversions: ${piece}, ${path}`)
    await expect(dialog.getByRole('row').nth(1)).toContainText(piece)
    await expect(dialog.getByRole('row').nth(1)).toContainText(path)
    await dialog.getByRole('button', { name: 'Close' }).click()
    // A colleague sees the same.
    await page.goto(address)
    await expect(table.getByRole('row').nth(1)).toContainText('/')
    const waiting = page.waitForEvent('download')
    await table.getByRole('link', { name: 'Export CSV' }).click()
    const { readFileSync } = await import('node:fs')
    const lines = readFileSync((await (await waiting).path())!, 'utf8')
      .trim()
      .split('\r\n')
    expect(lines[0]).toMatch(/^piece,page,visitors,conversions,rate,rate low/)
    expect(lines.length).toBeGreaterThan(10)
  })

  test('an address that is no range says so, and leaves a way on', async ({ page }) => {
    await page.goto('/sites/1/results?from=2026-13-99&by=page')
    await expect(page.getByRole('alert')).toContainText('“from” should be a day such as 2026-11-24.')
    await page.getByRole('button', { name: 'Show the last 28 days' }).click()
    await expect(page.getByRole('region', { name: 'What the pieces brought' })).toBeVisible()
    await page.goto('/sites/1/results?from=2016-12-01&to=2026-11-20')
    await expect(page.getByRole('region', { name: 'What the pieces brought' })).toBeVisible()
  })

  test('goals are set, and wrong ones named at their field', async ({ page }) => {
    await page.goto('/sites/1/settings#goals')
    const form = page.getByRole('form', { name: 'Goals' })
    await form.getByRole('button', { name: 'Add a goal' }).click()
    await form.getByLabel('Path').last().fill('thanks')
    await form.getByRole('button', { name: 'Save' }).click()
    await expect(form).toContainText('should be a path that begins with /')
    await form.getByLabel('Path').last().fill('/letter/thanks')
    await form.getByLabel('Name').last().fill('Letter read')
    await form.getByRole('button', { name: 'Save' }).click()
    await expect.poll(async () => (await api.siteNow()).settings.goals.map(g => g.name)).toContain('Letter read')
    await form.getByRole('button', { name: 'Delete the goal Letter read' }).click()
    await form.getByRole('button', { name: 'Save' }).click()
    await expect.poll(async () => (await api.siteNow()).settings.goals.length).toBe(2)
  })

  test('what is not as usual stands on the board, with the way to it', async ({ page }) => {
    await page.goto('/sites/1/board')
    const alert = page.getByRole('list', { name: 'Alerts' }).locator('[data-alert=broken_split]')
    await expect(alert).toContainText('The split of “Before you go” is not as asked')
    await alert.getByRole('link').click()
    await expect(page.getByRole('region', { name: 'Verdict' })).toContainText('cannot be compared')
  })
})
