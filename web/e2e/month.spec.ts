import { expect, type Locator, type Page, test } from '@playwright/test'
import { Api, dot, email, pages, password, shop, signIn } from './api'
import { choose, outline, pickElement, saved, saveKit, settings, stage, strip, type } from './designer'
import { countPresses, pressedWithin } from './press'

// What a marketer does in a month: fifteen jobs, each by reading what stands on
// the screens, from the board to what a visitor gets, in at most thirty presses.

let api: Api
let before: Set<string>
test.beforeAll(async () => {
  api = await Api.open()
  await api.settings({ limits: {} })
  before = new Set((await api.board()).cards.filter(c => c.state === 'live').map(c => c.id))
})
test.afterEach(async () => {
  const stray = (await api.board()).cards.filter(c => c.state === 'live' && !before.has(c.id)).map(c => c.id)
  if (stray.length) await api.pause(...stray)
})

const most = 30
const idOf = (page: Page) => page.url().match(/pieces\/([a-z0-9]+)/)![1]
/** Something that no try before has made. */
const fresh = (name: string) => `${name} ${Date.now().toString(36)}`
const place = (page: Page, name: string) =>
  page
    .getByRole('navigation', { name: 'Piece' })
    .getByRole('link', { name: new RegExp(`^${name}`) })
    .click()

/** From the board to a piece of a template, or of a blank one, under a name. */
async function begin(page: Page, goal: RegExp | null, template: RegExp, name: string) {
  await page.goto('/sites/1/board')
  await page.getByRole('link', { name: 'New piece' }).click()
  if (goal) await page.getByRole('button', { name: goal }).click()
  await page.getByRole('button', { name: template }).click()
  await page.getByRole('dialog').getByRole('textbox', { name: 'Name', exact: true }).fill(name)
  await page.getByRole('button', { name: 'Create piece' }).click()
  await page.waitForURL('**/compose')
  await expect(stage(page).locator('.frame')).toBeVisible()
  return idOf(page)
}

/** Adds a condition, written as one says it. */
async function when(page: Page, sentence: string) {
  await page.getByRole('button', { name: '+ condition' }).last().click()
  await page.getByLabel('Find a condition').fill(sentence)
  await page.keyboard.press('Enter')
  await expect(page.getByLabel('Find a condition')).toHaveCount(0)
}

async function launch(page: Page) {
  await saved(page)
  await place(page, 'Launch')
  await page.getByRole('button', { name: /^Launch( changes)?$/ }).click()
  await expect(page.getByRole('heading', { name: 'Live.', exact: true })).toBeVisible()
}

/** Comes to a page of the shop as somebody new, each time anew, until something shows there: a launch is a second under way. */
async function visit(page: Page, path: string, shows: (at: Page) => Locator, { width = 1280, down = 0 } = {}) {
  let visitor!: Page
  await expect(async () => {
    visitor = await (
      await page
        .context()
        .browser()!
        .newContext({ viewport: { width, height: 800 } })
    ).newPage()
    await visitor.goto(shop + path)
    if (down) await visitor.mouse.wheel(0, down)
    const there = await shows(visitor)
      .first()
      .waitFor({ timeout: 5000 })
      .then(() => true)
      .catch(() => false)
    if (!there) await visitor.context().close()
    expect(there, `it shows on ${path}`).toBe(true)
  }).toPass()
  return visitor
}
const popup = (at: Page) => at.getByRole('dialog')

/** The first piece: signed in to, designed, live on the shop, answered by somebody, who is found. */
async function firstPiece(page: Page) {
  const [name, someone] = [fresh('Letter from the kiln'), `niamh-${Date.now().toString(36)}@example.com`]
  await page.goto('/')
  await page.getByLabel('Email').fill(email)
  await page.getByLabel('Password').fill(password)
  await page.getByRole('button', { name: 'Sign in' }).click()
  await page.getByRole('link', { name: 'New piece' }).click()
  await page.getByRole('button', { name: /^Grow your list/ }).click()
  await page.getByRole('button', { name: /^Plain letter/ }).click()
  await page.getByRole('dialog').getByRole('textbox', { name: 'Name', exact: true }).fill(name)
  await page.getByRole('button', { name: 'Create piece' }).click()
  await page.waitForURL('**/compose')
  await type(page, stage(page).locator('h2'), 'Five glazes, before anyone')
  await page.keyboard.press('Enter')
  await saved(page)
  await place(page, 'Reach')
  await when(page, 'page is /journal')
  await page.getByLabel('time on page').fill('2')
  await launch(page)
  const visitor = await visit(page, '/journal', at => popup(at).getByText('Five glazes, before anyone'))
  await popup(visitor).getByLabel('Email').fill(someone)
  await popup(visitor).getByRole('button').filter({ hasText: /\w/ }).last().click()
  await expect(popup(visitor).getByLabel('Email')).toHaveCount(0)
  await visitor.context().close()
  await page.getByRole('link', { name: 'People', exact: true }).click()
  await page.getByLabel('Search people').fill(someone)
  await expect(page.getByText('1 person found')).toBeVisible()
  await expect(page.getByRole('row', { name: new RegExp(someone) })).toContainText(name)
  await pressedWithin(page, most)
}

test.describe('somebody new', () => {
  test('1: the first piece, from signing in to a lead', async ({ page }) => {
    await countPresses(page)
    await firstPiece(page)
  })

  test.describe('on a small laptop', () => {
    test.use({ viewport: { width: 1024, height: 768 } })
    test('14: the first piece at a width of 1024', async ({ page }) => {
      await countPresses(page)
      await firstPiece(page)
    })
  })
})

test.describe('signed in', () => {
  test.beforeEach(async ({ page }) => {
    await countPresses(page)
    await signIn(page)
  })

  test('2: a sale bar with a countdown and a code, on all pages but the basket', async ({ page }) => {
    const id = await begin(page, /^Make an offer/, /^Countdown line/, fresh('Sale until Sunday'))
    await outline(page).getByRole('button', { name: 'Timer', exact: true }).click()
    await choose(settings(page).getByRole('combobox', { name: 'Ends at' }), 'A date')
    const until = settings(page).getByRole('group', { name: 'Until' })
    await until.getByRole('spinbutton', { name: 'Hours' }).click()
    await page.keyboard.type('2359')
    await outline(page).getByRole('button', { name: 'Add code' }).click()
    await settings(page).getByLabel('Code', { exact: true }).fill('SUNDAY10')
    await place(page, 'Reach')
    await when(page, 'page is not /basket')
    await choose(page.getByLabel('Wait after a close'), '1 day')
    await saved(page)
    await launch(page)
    await pressedWithin(page, most)
    const doc = (await api.piece(id)).live!
    expect(doc.caps.after_close).toBe('P1D')
    const bar = (at: Page) => at.locator('gobbet-piece .layer.bar .frame')
    const visitor = await visit(page, '/shop', at => bar(at).getByText('SUNDAY10'))
    await visitor.goto(`${shop}/basket`)
    await visitor.waitForLoadState('networkidle')
    await expect(bar(visitor)).toHaveCount(0)
    await visitor.goto(`${shop}/journal`)
    await visitor.locator('gobbet-piece [data-close]').click()
    await visitor.goto(`${shop}/shop`)
    await visitor.waitForLoadState('networkidle')
    await expect(bar(visitor)).toHaveCount(0)
    await visitor.context().close()
    const phone = await visit(page, '/shop', bar, { width: 390 })
    const { height } = (await bar(phone).boundingBox())!
    expect(height).toBeLessThan(800 / 3)
    await phone.context().close()
  })

  test('3: a popup that a link of the shop opens', async ({ page }) => {
    await begin(page, null, /^Opening hours/, fresh('When we are open'))
    await place(page, 'Reach')
    await page.getByRole('button', { name: 'Start from…' }).click()
    await page.getByRole('button', { name: /^At a click on an element/ }).click()
    await page.getByRole('button', { name: 'Pick on the page…' }).click()
    await pickElement(page, still => still.getByRole('link', { name: 'Classes', exact: true }))
    await launch(page)
    await pressedWithin(page, most)
    const visitor = await visit(page, '/', at => at.getByRole('link', { name: 'Classes', exact: true }))
    await expect(async () => {
      await visitor.goto(`${shop}/`)
      await visitor.getByRole('link', { name: 'Classes', exact: true }).click()
      await expect(popup(visitor)).toBeVisible({ timeout: 2000 })
    }).toPass()
    expect(new URL(visitor.url()).pathname).toBe('/')
    await visitor.context().close()
  })

  test('4: a fly-in for a campaign’s visitors on their second page; how many, a made-up visitor, and why not', async ({ page }) => {
    const id = await begin(page, /^Grow your list/, /^Corner letter/, fresh('From the campaign'))
    await place(page, 'Reach')
    await page.getByLabel('time on page').fill('1')
    await when(page, 'channel is social')
    await when(page, 'pages this visit ≥ 2')
    await when(page, 'visitor is not a lead')
    await page.getByRole('button', { name: 'Remove limit 2' }).click()
    await choose(page.getByLabel('Over how long'), '3 days')
    await expect(page.locator('[data-figure=visitors]')).toContainText(/of [\d,]+ visitors see it/)
    // Why it does not show: the first condition that fails is said.
    await expect(page.locator('[data-verdict=no]')).toContainText('channel is social')
    await choose(page.getByLabel('Where they come from'), 'social')
    await saved(page)
    await launch(page)
    await pressedWithin(page, most)
    const rule = JSON.stringify((await api.piece(id)).live!.rule)
    expect((await api.piece(id)).live!.caps.per_visitor).toEqual([{ times: 1, per: 'P3D' }])
    expect(rule).toContain('"source.channel"')
    expect(rule).toContain('"visitor.pages_this_visit"')
    expect(rule).toContain('"visitor.lead"')
    // Not on their first page, and then they see it.
    const visitor = await visit(page, '/?utm_medium=social', at => at.locator('body'))
    await visitor.waitForLoadState('networkidle') // until the script has seen where they come from
    await expect(async () => {
      await visitor.goto(`${shop}/journal`)
      await expect(visitor.locator('gobbet-piece .layer.fly_in .frame')).toBeVisible({ timeout: 3000 })
    }).toPass()
    await visitor.context().close()
  })

  test('5: a quiz of five questions and three results behind a sign-up, from blank; its report', async ({ page }) => {
    const id = await begin(page, /^Quiz/, /^Blank/, fresh('Which clay suits you?'))
    await expect(stage(page).locator('h2')).toHaveText('What would you like to know?')
    await strip(page).getByRole('button', { name: 'Questions' }).click()
    const quiz = page.getByRole('dialog', { name: 'Questions and scores' })
    for (let i = 0; i < 3; i++) await quiz.getByRole('button', { name: 'Add a question' }).click()
    await quiz.getByRole('button', { name: 'Add a result' }).click()
    // All of it is typed, from field to field.
    const asked: [string, string[]][] = [
      ['Where do you work?', ['At home', 'In a studio', 'Outdoors']],
      ['How patient are you?', ['Very', 'Hardly', 'It depends']],
      ['What do you make?', ['Bowls', 'Tiles', 'Figures']],
      ['What do your hands say?', ['Smooth', 'Gritty', 'Both']],
      ['And the kiln?', ['Low', 'Middle', 'High']],
    ]
    for (const [i, [question, answers]] of asked.entries()) {
      await quiz.getByLabel('Question', { exact: true }).nth(i).fill(question)
      for (const [k, answer] of answers.entries())
        await quiz
          .getByLabel('Answer', { exact: true })
          .nth(3 * i + k)
          .fill(answer)
    }
    for (const [i, name] of ['Porcelain', 'Stoneware', 'Raku, with grog'].entries()) await quiz.getByLabel('Name of a result').nth(i).fill(name)
    for (const answer of ['Gritty', 'High']) await quiz.getByLabel(`${answer} for Raku, with grog`).fill('5')
    await quiz.getByRole('button', { name: 'Close' }).click()
    // The sign-up leads to whichever wins, with the result that was added.
    await strip(page)
      .getByRole('button', { name: /Sign-up/ })
      .click()
    await stage(page).getByRole('button', { name: 'Show my result' }).click()
    await expect(settings(page).getByRole('combobox', { name: 'Next scene' })).toContainText('The winning result')
    await place(page, 'Reach')
    await page.getByLabel('time on page').fill('1')
    await when(page, 'page is /journal')
    await launch(page)
    const { scenes } = (await api.piece(id)).live!.split.variants[0].design
    expect(scenes.map(s => s.kind)).toEqual([...Array(5).fill('question'), 'form', 'result', 'result', 'result'])
    const visitor = await visit(page, '/journal', at => popup(at).getByText('Where do you work?'))
    for (const answer of ['At home', 'Very', 'Bowls', 'Gritty', 'High']) await popup(visitor).getByText(answer, { exact: true }).click()
    await popup(visitor).getByLabel('Email').fill('clay@example.com')
    await popup(visitor).getByRole('button', { name: 'Show my result' }).click()
    await expect(popup(visitor).getByRole('heading')).toHaveText('Raku, with grog')
    await visitor.context().close()
    await place(page, 'Results')
    await expect(page.locator('[data-question]').filter({ hasText: 'What do your hands say?' })).toContainText('1 answer')
    await expect(page.getByRole('region', { name: 'Answers' })).toContainText('Gritty')
    await pressedWithin(page, most)
  })

  test('6: a calculator in a page, its result behind an email', async ({ page }) => {
    await page.goto('/sites/1/board')
    await page.getByRole('link', { name: 'New piece' }).click()
    await page.getByRole('button', { name: /^Calculator/ }).click()
    await page.getByRole('button', { name: /^What would you save/ }).click()
    const dialog = page.getByRole('dialog')
    await dialog.getByRole('textbox', { name: 'Name', exact: true }).fill(fresh('Clay for a course'))
    await choose(dialog.getByRole('combobox', { name: 'Format' }), 'Inline')
    await dialog.getByRole('button', { name: 'Create piece' }).click()
    await page.waitForURL('**/compose')
    const id = idOf(page)
    await page.getByLabel('Page of the site').fill('/journal/ash-glaze')
    await page.keyboard.press('Enter')
    await settings(page).getByRole('button', { name: 'Choose an element on the page' }).click()
    const paragraph = page.frameLocator('iframe[title="Page of the site"]').locator('main p').nth(1)
    await expect(paragraph).toBeAttached()
    await expect(async () => {
      const at = (await paragraph.boundingBox())!
      await page.mouse.click(at.x + 12, at.y + 6)
      expect((await api.piece(id)).draft.split.variants[0].design.frame.anchor?.selector).toBeTruthy()
    }).toPass()
    await strip(page).getByRole('button', { name: 'Formulas' }).click()
    const formulas = page.getByRole('dialog', { name: 'Formulas' })
    const names = [...(await formulas.innerText()).matchAll(/([a-z_0-9]+) \(/g)].map(m => m[1])
    expect(names.length).toBeGreaterThanOrEqual(2)
    await formulas.getByRole('combobox').first().fill(`${names[0]} * ${names[1]} * 2`)
    await expect(formulas.getByText(/^\d/).first()).toBeVisible()
    await formulas.getByRole('button', { name: 'Close' }).click()
    await place(page, 'Reach')
    await when(page, 'page is /journal/ash-glaze')
    await launch(page)
    await pressedWithin(page, most)
    const piece = (at: Page) => at.locator('gobbet-piece .layer.inline')
    const visitor = await visit(page, '/journal/ash-glaze', at => piece(at).getByRole('button', { name: 'Reckon it up' }), { down: 600 })
    await piece(visitor).getByRole('button', { name: 'Reckon it up' }).click()
    await expect(piece(visitor).locator('.value')).toHaveCount(0)
    await piece(visitor).getByLabel('Email').fill('sum@example.com')
    await visitor.keyboard.press('Enter')
    await expect(piece(visitor).locator('.value')).toBeVisible()
    await expect(piece(visitor).getByRole('heading')).toContainText('€')
    await visitor.context().close()
  })

  test('7: a conversation with a branch, a free answer and a way to a person, on the class pages', async ({ page }) => {
    await page.goto('/sites/1/board')
    await page.getByRole('link', { name: 'New piece' }).click()
    await page.getByRole('button', { name: /^Conversation/ }).click()
    await page.getByRole('button', { name: 'Blank' }).click()
    const name = fresh('Which class?')
    await page.getByRole('dialog').getByRole('textbox', { name: 'Name', exact: true }).fill(name)
    await page.getByRole('button', { name: 'Create piece' }).click()
    await page.waitForURL('**/compose')
    await strip(page).getByRole('button', { name: 'Script' }).click()
    const lines = page.getByRole('list', { name: 'Lines' })
    await lines.getByLabel('Line', { exact: true }).first().fill('Hello! Which class suits you?')
    await lines.getByLabel('Question').first().fill('Wheel or hand-building?')
    await lines.getByLabel('Answer', { exact: true }).nth(0).fill('Wheel')
    await lines.getByLabel('Answer', { exact: true }).nth(1).fill('Hand-building')
    await lines.locator('[data-what=answer]').nth(0).getByRole('button', { name: 'Branch' }).click()
    await page.keyboard.type('Clay on your sleeves, then.')
    const branch = lines.getByRole('group', { name: 'Add here' }).first()
    await branch.getByRole('button', { name: 'Free answer' }).click()
    await lines.getByLabel('Question').nth(1).fill('What would you like to make?')
    await choose(branch.getByRole('combobox', { name: 'Add a link' }), 'Call')
    await page.getByRole('dialog', { name: 'Script' }).getByText('Close', { exact: true }).click()
    await place(page, 'Reach')
    await when(page, 'page starts with /classes')
    await launch(page)
    // Another conversation stands there before it, which Launch says.
    const before = page.getByRole('list', { name: 'What was looked at' }).getByRole('listitem').filter({ hasText: '“Find your class” shows in its place' })
    await before.getByRole('link', { name: 'Priority' }).click()
    const order = () => page.getByRole('list').getByRole('listitem').allInnerTexts()
    await expect.poll(async () => (await order()).join()).toContain(name)
    const at = (of: string, all: string[]) => all.findIndex(x => x.includes(of))
    for (let all = await order(); at(name, all) > at('Find your class', all); all = await order()) {
      await page.getByRole('button', { name: `Move ${name} up` }).click()
      await expect.poll(async () => at(name, await order())).toBeLessThan(at(name, all))
    }
    await pressedWithin(page, most)
    const talk = (at: Page) => at.locator('gobbet-piece')
    const visitor = await visit(page, '/classes', at => talk(at).getByRole('button', { name: 'Can we help?' }))
    await talk(visitor).getByRole('button', { name: 'Can we help?' }).click()
    await talk(visitor).getByRole('button', { name: 'Wheel', exact: true }).click()
    const log = talk(visitor).getByRole('log')
    await expect(log).toContainText('Clay on your sleeves, then.')
    await expect(log).toContainText('What would you like to make?')
    // They leave, come back, and go on where they were.
    await visitor.goto(`${shop}/shop`)
    await visitor.goto(`${shop}/classes`)
    await expect(log).toContainText('Wheel or hand-building?')
    await expect(log).toContainText('What would you like to make?')
    await talk(visitor).getByRole('textbox').fill('A jug with a good spout')
    await visitor.keyboard.press('Enter')
    await expect(log).toContainText('A jug with a good spout')
    await expect(talk(visitor).getByRole('link', { name: 'Call us' })).toBeVisible()
    await visitor.context().close()
  })

  test('8: a wheel with four prizes, one with a stock and one from a pool; who won what', async ({ page }) => {
    const pool = fresh('Wheel codes')
    const name = fresh('A spin at the kiln')
    const id = await begin(page, /^Prize draw/, /^Spin before you go/, name)
    await outline(page)
      .getByRole('button', { name: /^Wheel/ })
      .first()
      .click()
    const parts = settings(page).getByRole('group', { name: 'Parts' })
    await parts.getByLabel('Label').nth(0).fill('A mug')
    await parts.getByLabel('Weight of A mug').fill('1000')
    await choose(parts.getByRole('combobox', { name: 'Prize of A mug' }), /^Code from a new pool/)
    const codes = page.getByRole('dialog', { name: 'New pool' })
    await codes.getByLabel('Name').fill(pool)
    await codes.getByRole('button', { name: 'Generate' }).click()
    await codes.getByLabel('Pattern').fill('KILN-****-**')
    await codes.getByLabel('How many').fill('40')
    await codes.getByRole('button', { name: /^Create pool of 40 codes/ }).click()
    await parts
      .getByLabel(/^Stock of/)
      .nth(1)
      .fill('5')
    await place(page, 'Reach')
    await page.getByRole('button', { name: 'Start from…' }).click()
    await page.getByRole('button', { name: /^Everyone, after 30 seconds/ }).click()
    await page.getByLabel('time on page').fill('1')
    await when(page, 'page is /journal')
    await launch(page)
    const someone = `spin-${Date.now().toString(36)}@example.com`
    const visitor = await visit(page, '/journal', at => popup(at).getByLabel('Email'))
    await popup(visitor).getByLabel('Email').fill(someone)
    await visitor.keyboard.press('Enter')
    await expect(popup(visitor).getByText(/^KILN-[2-9A-Z]{4}-[2-9A-Z]{2}$/)).toBeVisible()
    const won = await popup(visitor)
      .getByText(/^KILN-[2-9A-Z]{4}-[2-9A-Z]{2}$/)
      .innerText()
    await visitor.context().close()
    await page.getByRole('link', { name: 'People', exact: true }).click()
    await page.getByLabel('Search people').fill(someone)
    await expect(page.getByText('1 person found')).toBeVisible()
    await page
      .getByRole('row', { name: new RegExp(someone) })
      .getByRole('button')
      .first()
      .click()
    await expect(page.getByRole('dialog')).toContainText('A mug')
    await expect(page.getByRole('dialog')).toContainText(won)
    await pressedWithin(page, most)
    expect((await api.piece(id)).live!.name).toBe(name)
  })

  test('9: a variant in other words and another format, a tenth held back, planned; and the verdict of a test that ran', async ({ page }) => {
    const id = await begin(page, /^Grow your list/, /^Plain letter/, fresh('Two letters'))
    await place(page, 'Results')
    await page.getByRole('button', { name: 'Add a variant' }).first().click()
    await page.getByLabel('Held back').fill('10')
    await page.getByRole('link', { name: 'Edit design' }).last().click()
    await type(page, stage(page).locator('h2'), 'The kiln, by letter')
    await page.keyboard.press('Escape')
    await outline(page).getByRole('button', { name: 'Frame' }).click()
    await choose(settings(page).getByRole('combobox', { name: 'Format' }), 'Fly-in')
    await expect(settings(page)).toContainText('A: Popup, B: Fly-in.')
    await saved(page)
    await place(page, 'Results')
    const differs = page.getByRole('region', { name: 'What differs' })
    await expect(differs).toContainText('Format: Popup became Fly-in')
    await expect(differs).toContainText('“The kiln, by letter”')
    await launch(page)
    const { split, format } = (await api.piece(id)).live!
    expect([format, split.held, ...split.variants.map(v => v.format)]).toEqual(['popup', 10, undefined, 'fly_in'])
    expect(new Set(split.variants.map(v => v.share)).size).toBe(1)
    // A test that ran: what to say of it, and how much is behind that.
    await page.goto('/sites/1/board')
    await page.getByLabel('Search by name').fill('Glaze club welcome')
    await page.getByRole('article').filter({ hasText: 'Glaze club welcome' }).getByRole('link').first().click()
    const verdict = page.getByRole('region', { name: 'Verdict' })
    await expect(verdict).toContainText(/[AB]/)
    await expect(verdict).toContainText(/\d/)
    await expect(page.getByText(/planned visitors per variant|to find a lift of|visitors per variant/).first()).toBeVisible()
    await pressedWithin(page, most)
  })

  test('10: the report of last month against the month before, by source, with what it cost; exported and shared', async ({ page, context }) => {
    await context.grantPermissions(['clipboard-read', 'clipboard-write'])
    await page.goto('/sites/1/board')
    await page.getByRole('navigation', { name: 'Site' }).getByRole('link', { name: 'Results' }).click()
    await choose(page.getByRole('combobox', { name: 'Period' }), 'Last month')
    const brought = page.getByRole('region', { name: 'What the pieces brought' })
    await expect(brought).toContainText(/before/)
    await expect(page.getByRole('region', { name: 'What they cost visitors' })).toBeVisible()
    await expect(page.getByRole('region', { name: 'Leads by source' })).toBeVisible()
    await page.getByRole('group', { name: 'By' }).getByRole('button', { name: 'Source' }).click()
    const waiting = page.waitForEvent('download')
    await page.getByRole('link', { name: 'CSV' }).first().click()
    expect((await waiting).suggestedFilename()).toMatch(/\.csv$/)
    await page.getByRole('button', { name: 'Share' }).click()
    const shared = await page.evaluate(() => navigator.clipboard.readText())
    await pressedWithin(page, most)
    const colleague = await context.newPage()
    await colleague.goto(shared)
    await expect(colleague.getByRole('combobox', { name: 'Period' })).toContainText('Last month')
    await expect(colleague.getByRole('region', { name: 'What the pieces brought' }).locator('h2')).toHaveText(await brought.locator('h2').innerText())
    await colleague.close()
  })

  test('11: all paused from Friday evening to Monday; a piece deleted and had back, found by name, copied and changed', async ({ page }) => {
    const live = await api.live(fresh('Found by name'))
    const { name } = (await api.piece(live.id)).draft
    await page.goto('/sites/1/board')
    await page.getByRole('button', { name: 'Pause all…' }).click()
    await page.getByRole('button', { name: 'From Friday evening to Monday' }).click()
    await page.getByRole('button', { name: 'Plan the pause' }).click()
    const planned = page.getByRole('status').filter({ hasText: /will pause on .*, and resume on / })
    await expect(planned).toBeVisible()
    const { pauses_at, paused_until } = await api.piece(live.id)
    const dayOf = (at?: string | null) => new Intl.DateTimeFormat('en', { weekday: 'long', timeZone: 'Europe/Dublin' }).format(new Date(at!))
    expect([dayOf(pauses_at), dayOf(paused_until)]).toEqual(['Friday', 'Monday'])
    await page.getByRole('button', { name: 'Cancel the pause' }).click()
    await expect(planned).toHaveCount(0)
    await page.getByLabel('Search by name').fill(name)
    const card = page.getByRole('article')
    await expect(card).toHaveCount(1)
    await card.getByRole('button', { name: /^More actions/ }).click()
    await page.getByRole('menuitem', { name: 'Delete' }).click()
    const sure = page.getByRole('dialog').getByRole('button', { name: /^Delete/ })
    if (await sure.isVisible()) await sure.click()
    await expect(card).toHaveCount(0)
    await page.getByRole('button', { name: 'Deleted pieces' }).click()
    await page.getByRole('button', { name: `Restore ${name}` }).click()
    await expect(page.getByRole('button', { name: `Restore ${name}` })).toHaveCount(0)
    // The keyboard is still in the dialog, whose button went.
    await expect(page.getByRole('dialog').locator(':focus')).toHaveAccessibleName(/^(Restore|Close)/)
    await page.keyboard.press('Escape')
    await expect(page.getByRole('dialog')).toHaveCount(0)
    await expect(card).toHaveCount(1)
    await card.getByRole('button', { name: /^More actions/ }).click()
    await page.getByRole('menuitem', { name: 'Duplicate' }).click()
    await page.waitForURL('**/compose')
    await type(page, stage(page).locator('h2'), 'The same, in other words')
    await page.keyboard.press('Escape')
    await saved(page)
    expect((await api.piece(idOf(page))).draft.name).toContain(name)
    await pressedWithin(page, most)
  })

  test('12: the brand’s colour, which pieces it changes, a picture that several have, and all of it taken back', async ({ page }) => {
    const kit = await api.kit()
    const accent = kit.colors.find(c => c.id === 'accent')!
    /** Which pictures several pieces have. */
    const uses = async () => new Map((await api.pictures()).filter(p => p.used.length > 1).map(p => [p.hash, p.used.map(u => u.id).sort()]))
    const two = [
      await api.live('Brand, one', () => {}, 'popup', {}, 'letter-with-a-picture'),
      await api.live('Brand, two', () => {}, 'popup', {}, 'letter-with-a-picture'),
    ]
    await page.goto('/sites/1/board')
    await page.getByRole('navigation', { name: 'Site' }).getByRole('link', { name: 'Site' }).click()
    await page.getByRole('link', { name: 'Style kit' }).click()
    await page.getByRole('button', { name: new RegExp(`^${accent.name}: ${accent.value}, change`) }).click()
    await page.getByLabel(`${accent.name}, as hex`).fill('6a2a5b')
    await page.keyboard.press('Escape')
    await expect(page.getByText('Brand, one').first()).toBeVisible()
    await saveKit(page)
    await expect.poll(async () => (await api.kit()).colors.find(c => c.id === 'accent')!.value).toBe('#6a2a5b')
    await page.getByRole('button', { name: 'Undo', exact: true }).click()
    await expect.poll(async () => (await api.kit()).colors.find(c => c.id === 'accent')!.value).toBe(accent.value)
    await page.getByRole('link', { name: 'Library' }).click()
    const before = await uses()
    const [was] = before.keys()
    await page.locator(`[data-picture="${was}"]`).getByRole('button', { name: 'Replace everywhere' }).click()
    const dialog = page.getByRole('dialog')
    await dialog.getByLabel('Picture file').setInputFiles({ name: 'dot.png', mimeType: 'image/png', buffer: dot })
    await dialog.getByRole('button', { name: /^Replace/ }).click()
    await expect(dialog).toHaveCount(0)
    await expect.poll(async () => (await uses()).has(was)).toBe(false)
    await page.getByRole('button', { name: 'Undo', exact: true }).click()
    await expect.poll(async () => [...(await uses())]).toEqual([...before])
    await pressedWithin(page, most)
    for (const one of two) await one.end()
  })

  test('13: a piece on a page of its own, with its link preview and QR code', async ({ page }) => {
    await begin(page, /^Quiz/, /^How much do you know/, fresh('What do you know of clay?'))
    await place(page, 'Launch')
    const address = `clay-${Date.now().toString(36)}`
    await page.getByRole('switch', { name: 'Own page' }).click()
    await page.getByLabel('Address').fill(address)
    await page.getByLabel('Title').fill('What do you know of clay?')
    await page.getByLabel('Description').fill('Seven questions, two minutes.')
    await launch(page)
    const link = page.getByRole('link', { name: `${pages}/quillfern/${address}` })
    await expect(link).toBeVisible()
    expect(await page.getByAltText('QR code of').evaluate((i: HTMLImageElement) => i.naturalWidth)).toBeGreaterThan(20)
    await pressedWithin(page, most)
    await expect(async () => {
      const r = await page.request.get(`${pages}/quillfern/${address}`)
      expect(await r.text()).toContain('<meta property="og:title" content="What do you know of clay?">')
    }).toPass()
  })
})

test('15: the first piece without a mouse', async ({ page }) => {
  await countPresses(page)
  const [name, someone] = [fresh('By keyboard'), `keys-${Date.now().toString(36)}@example.com`]
  /** Goes on by Tab until what has the keyboard is called so. */
  const to = async (called: RegExp, at = page, field = false) => {
    for (let i = 0; i < 120; i++) {
      const now = await at.evaluate(field => {
        let e: Element | null = document.activeElement
        while (e?.shadowRoot?.activeElement) e = e.shadowRoot.activeElement
        const input = e as HTMLInputElement | null
        if (field && e?.localName !== 'input') return ''
        return e?.getAttribute('aria-label') || input?.labels?.[0]?.textContent || e?.textContent?.trim() || ''
      }, field)
      if (called.test(now)) return
      await at.keyboard.press('Tab')
    }
    throw new Error(`nothing is called ${called}`)
  }
  await page.goto('/')
  await page.keyboard.type(email)
  await page.keyboard.press('Tab')
  await page.keyboard.type(password)
  await page.keyboard.press('Enter')
  await expect(page.getByRole('heading', { name: 'On the site now' })).toBeVisible()
  await to(/^New piece$/)
  await page.keyboard.press('Enter')
  await page.waitForURL('**/new')
  await to(/^Search templates/)
  await page.keyboard.type('plain letter')
  await to(/^Plain letter/)
  await page.keyboard.press('Enter')
  await to(/^Name$/, page, true)
  await page.keyboard.press('Control+A')
  await page.keyboard.type(name)
  await page.keyboard.press('Enter')
  await page.waitForURL('**/compose')
  await expect(stage(page).locator('.frame')).toBeVisible()
  // From region to region; then the heading, as the outline has it.
  const heading = await stage(page).locator('h2').innerText()
  const row = new RegExp(`^.?${heading.slice(0, 12)}`)
  await to(row)
  await page.keyboard.press('Enter')
  await page.keyboard.press('Enter')
  await expect(stage(page).locator('h2[contenteditable=true], h2 [contenteditable=true]')).toBeVisible()
  await page.keyboard.press('Control+A')
  await page.keyboard.type('Written without a mouse')
  await page.keyboard.press('Escape')
  await saved(page)
  for (let i = 0; i < 8; i++) {
    await page.keyboard.press('F6')
    if (await page.evaluate(() => document.activeElement?.closest('nav')?.getAttribute('aria-label') === 'Piece')) break
  }
  await to(/^Reach/)
  await page.keyboard.press('Enter')
  await page.waitForURL('**/reach')
  await expect(page.getByRole('button', { name: '+ condition' })).toBeVisible()
  await to(/^time on page$/, page, true)
  await page.keyboard.press('Control+A')
  await page.keyboard.type('1')
  await to(/^\+ condition$/)
  await page.keyboard.press('Enter')
  await page.keyboard.type('page is /classes')
  await page.keyboard.press('Enter')
  await saved(page)
  await page.keyboard.press('Shift+F6')
  await to(/^Launch/)
  await page.keyboard.press('Enter')
  await page.waitForURL('**/launch')
  await expect(page.getByRole('button', { name: 'Launch', exact: true })).toBeEnabled()
  await to(/^Launch$/)
  await page.keyboard.press('Enter')
  await expect(page.getByRole('heading', { name: 'Live.', exact: true })).toBeVisible()
  const visitor = await visit(page, '/classes', at => popup(at).getByText('Written without a mouse'))
  await to(/^Email/, visitor)
  await visitor.keyboard.type(someone)
  await visitor.keyboard.press('Enter')
  await expect(popup(visitor).getByLabel('Email')).toHaveCount(0)
  await visitor.context().close()
  await page.keyboard.press('F6')
  await to(/^People$/)
  await page.keyboard.press('Enter')
  await page.waitForURL('**/people')
  await to(/^Search people/)
  await page.keyboard.type(someone)
  await expect(page.getByText('1 person found')).toBeVisible()
  expect(await page.evaluate(() => sessionStorage.getItem('pressed'))).toBeNull()
})
