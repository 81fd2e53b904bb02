import { execFileSync } from 'node:child_process'
import { expect, type Page, test } from '@playwright/test'
import type { Block, Piece } from '../kinds/piece'
import { extrasStyle } from '../page/extrasStyle'
import { framesStyle } from '../page/framesStyle'
import { playStyle } from '../page/playStyle'
import { reckon, type Tree } from '../page/reckon'
import { style } from '../page/style'
import { Api, meanwhile, shop, signIn, studio } from './api'

// Quizzes, polls and calculators on a visitor's page, live.

let api: Api
test.beforeAll(async () => {
  api = await Api.open()
  await api.settings({ limits: {} })
})

const popup = (page: Page) => page.getByRole('dialog')
const frame = (p: Piece) => p.split.variants[0].design.frame
const scenes = (p: Piece) => p.split.variants[0].design.scenes

/** All that Gobbet has sent to a page so far, as text. */
function wire(page: Page) {
  const said: string[] = []
  page.on('response', async r => {
    if (/\/(designs|advance|decide|codes)/.test(r.url())) said.push(await r.text().catch(() => ''))
  })
  return () => said.join('\n')
}

test('a quiz behind a sign-up: nothing of a result is on the wire before it is earned', async ({ page }) => {
  const quiz = await api.live('Quiz', () => {}, 'popup', {}, 'which-one-suits-you')
  const said = wire(page)
  const requests: string[] = []
  page.on('request', r => r.url().includes('/advance') && requests.push(r.postData() ?? ''))
  await page.goto(quiz.url)
  await expect(popup(page).getByRole('progressbar')).toHaveAttribute('aria-valuenow', '33')
  await popup(page).getByText('At home').click()
  await expect(popup(page).getByRole('heading')).toHaveText('What should it bring?')
  await popup(page).getByRole('button', { name: 'Back' }).click()
  await expect(popup(page).getByRole('radio', { name: 'At home' })).toBeChecked()
  await popup(page).getByText('On the move').click()
  await popup(page).getByText('Something to talk about').click()
  await popup(page).getByText('When I feel like it').click()
  await expect(popup(page).getByRole('heading')).toHaveText('Your match is ready')
  const secrets = ['The quiet one', 'The bright one', 'The bold one', '"weights"', '"score"', '"most"', 'Not for everyone']
  for (const secret of secrets) expect(said(), secret).not.toContain(secret)
  await popup(page).getByRole('button', { name: 'Show my match' }).click()
  await expect(popup(page).getByText('Please fill this in.')).toBeVisible()
  await popup(page).getByLabel('Email').fill('bold@example.com')
  await popup(page).getByRole('button', { name: 'Show my match' }).click()
  await expect(popup(page).getByRole('heading')).toHaveText('The bold one')
  // What the page is shown may be read here a moment later.
  await expect.poll(said).toContain('Not for everyone')
  for (const secret of ['The quiet one', 'The bright one', '"weights"']) expect(said(), secret).not.toContain(secret)
  // Every answer reaches the person, by its label, and the last one given counts.
  const [lead] = (await api.people('bold@example.com')).leads
  expect(lead.walks[0].answers).toEqual({ place: 'On the move', mood: 'Something to talk about', often: 'When I feel like it', email: 'bold@example.com' })
  const m = await page.evaluate(() => JSON.parse(localStorage.getItem('gobbet:quillfern')!))
  expect(m.tags).toContain('bold')
  expect(m.lead).toBe(true)
  await quiz.end()
})

test('a question answered by keyboard: arrows move, Enter goes on, and focus stays in the dialog', async ({ page }) => {
  const quiz = await api.live('By keyboard', () => {}, 'popup', {}, 'which-one-suits-you')
  await page.goto(quiz.url)
  await expect(popup(page)).toBeVisible()
  await popup(page).getByRole('radio').first().focus()
  await page.keyboard.press('Space')
  await page.keyboard.press('ArrowDown')
  await expect(popup(page).getByRole('radio', { name: 'At work' })).toBeChecked()
  await expect(popup(page).getByRole('heading')).toHaveText('Where will you use it most?')
  await page.keyboard.press('Enter')
  await expect(popup(page).getByRole('heading')).toHaveText('What should it bring?')
  await page.keyboard.press('Tab')
  expect(await page.evaluate(() => !!document.querySelector('gobbet-piece')?.shadowRoot?.activeElement)).toBe(true)
  await quiz.end()
})

test('right and wrong are told after the answer, with why, and a score gives the result', async ({ page }) => {
  const quiz = await api.live('Knowledge', () => {}, 'popup', {}, 'how-much-do-you-know')
  const said = wire(page)
  await page.goto(quiz.url)
  await popup(page).getByText('Glass').click()
  expect(said()).not.toContain('20,000')
  await popup(page).getByRole('button', { name: 'Next' }).click()
  await expect(popup(page).getByRole('status')).toContainText('Not quite. Fired clay is at least 20,000 years older')
  await expect(popup(page).getByRole('radio', { name: 'Pottery (Right)' })).toBeVisible()
  await expect(popup(page).getByRole('button', { name: 'Back' })).toHaveCount(0)
  await popup(page).getByRole('button', { name: 'Next' }).click()
  await popup(page).getByText('Silica').click()
  await popup(page).getByRole('button', { name: 'Next' }).click()
  await expect(popup(page).locator('.mark')).toContainText('Right.')
  await popup(page).getByRole('button', { name: 'Next' }).click()
  await popup(page).getByText('Stoneware').click()
  await popup(page).getByText('Porcelain').click()
  await popup(page).getByRole('button', { name: 'Next' }).click()
  await popup(page).getByRole('button', { name: 'Next' }).click()
  // Put in order, by buttons.
  const order = async () => popup(page).locator('.order .says').allTextContents()
  const wanted = ['Earthenware', 'Stoneware firing', 'Melting iron']
  for (const [i, label] of wanted.entries())
    while ((await order()).indexOf(label) > i)
      await popup(page)
        .getByRole('button', { name: `Move ${label} up` })
        .click()
  expect(await order()).toEqual(wanted)
  await popup(page).getByRole('button', { name: 'Next' }).click()
  await expect(popup(page).locator('.mark').last()).toContainText('Right.')
  await popup(page).getByRole('button', { name: 'Next' }).click()
  await expect(popup(page)).toContainText('6 points')
  await expect(popup(page).getByRole('heading')).toHaveText('You could teach this')
  await quiz.end()
})

test('a walk goes on where it was left, on the next page and in another tab', async ({ page, context }) => {
  const quiz = await api.live(
    'Resumed',
    p => {
      frame(p).anchor = { selector: 'h1', where: 'after', pushes: true }
      p.caps = {}
    },
    'inline',
    {},
    'which-one-suits-you',
  )
  const region = (p: Page) => p.locator('gobbet-piece')
  await page.goto(quiz.url)
  await region(page).getByText('At home').click()
  await expect(region(page).getByRole('heading')).toHaveText('What should it bring?')
  await page.waitForLoadState('networkidle')
  await page.reload()
  await expect(region(page).getByRole('heading')).toHaveText('What should it bring?')
  const tab = await context.newPage()
  await tab.goto(quiz.url)
  await region(tab).getByText('Some quiet').click()
  await expect(region(tab).getByRole('heading')).toHaveText('How often do you treat yourself?')
  await tab.waitForLoadState('networkidle')
  // The first tab answers what the other has answered, and comes to where the walk is.
  await region(page).getByText('A bit of colour').click()
  await expect(region(page).getByRole('heading')).toHaveText('How often do you treat yourself?')
  await region(page).getByText('Hardly ever').click()
  await region(page).getByLabel('Email').fill('resumed@example.com')
  await region(page).getByRole('button', { name: 'Show my match' }).click()
  await expect(region(page).getByRole('heading')).toHaveText('The quiet one')
  const [lead] = (await api.people('resumed@example.com')).leads
  expect(lead.times).toBe(1)
  expect(lead.walks[0].answers).toMatchObject({ place: 'At home', mood: 'Some quiet', often: 'Hardly ever' })
  // What stands in the page keeps its result.
  await page.reload()
  await expect(region(page).getByRole('heading')).toHaveText('The quiet one')
  await quiz.end()
})

test('a poll shows the tally after the vote, and counts a visitor once', async ({ page, browser }) => {
  const poll = await api.live('Poll', p => void (p.caps = {}), 'fly_in', {}, 'this-or-that')
  const vote = async (p: Page, choice: string) => {
    await p.goto(poll.url)
    await p.getByRole('dialog').getByText(choice).click()
    await p.getByRole('dialog').getByRole('button', { name: 'Vote' }).click()
    await expect(p.getByRole('dialog').getByRole('heading')).toHaveText('So far')
  }
  await vote(page, 'The blue one')
  await expect(popup(page)).toContainText('The blue one · your answer100%')
  await vote(page, 'The green one')
  await expect(popup(page)).toContainText('1 vote')
  const other = await (await browser.newContext()).newPage()
  await vote(other, 'The green one')
  await expect(popup(other)).toContainText('2 votes')
  // It is live: the first page learns of the second vote by itself.
  await expect(popup(page)).toContainText('2 votes', { timeout: 12_000 })
  await other.context().close()
  await poll.end()
})

test('a calculator shows its value while the slider moves, by keyboard too, in the site’s language', async ({ page }) => {
  const calc = await api.live('Cost', p => void (frame(p).anchor = { selector: 'h1', where: 'after', pushes: true }), 'inline', {}, 'what-will-it-cost')
  const region = page.locator('gobbet-piece')
  const asked: string[] = []
  page.on('request', r => r.url().includes('/advance') && asked.push(r.url()))
  await page.goto(calc.url)
  await expect(region.locator('.value output')).toHaveText('€50.80')
  await expect(region).toContainText('12 × € 1.20 and 2 evenings')
  await region.getByLabel('How many?').focus()
  await page.keyboard.press('ArrowRight')
  await page.keyboard.press('ArrowRight')
  await expect(region.locator('.value output')).toHaveText('€53.20')
  await expect(region.getByLabel('How many?')).toHaveAttribute('aria-valuetext', '14')
  expect(asked).toEqual([]) // nothing is to be earned: no request
  await page.evaluate(() => document.documentElement.setAttribute('lang', 'de'))
  await region.getByLabel('Evenings a month').fill('3')
  await expect(region.locator('.value output')).toHaveText(/71,40\s€/)
  await calc.end()
})

test('a value behind a sign-up is computed on the server', async ({ page }) => {
  const calc = await api.live('Saving', () => {}, 'popup', {}, 'what-would-you-save')
  const said = wire(page)
  await page.goto(calc.url)
  await popup(page).getByLabel('Cups you buy a week').fill('10')
  await popup(page).getByRole('button', { name: 'Reckon it up' }).click()
  await popup(page).getByLabel('Email').fill('saver@example.com')
  for (const secret of ['1820', '1,820', '"tree"', 'cups * cup']) expect(said()).not.toContain(secret)
  await popup(page).getByRole('button', { name: 'Show what I save' }).click()
  await expect(popup(page).getByRole('heading')).toHaveText('€1,820 a year')
  await expect(popup(page)).toContainText('a good mug at home costs €236. You keep €1,584.')
  await expect(popup(page).locator('.value output')).toHaveText(/87\s?%/)
  await calc.end()
})

test('the time for a question runs out, and the next comes', async ({ page }) => {
  const quiz = await api.live(
    'In time',
    p => {
      scenes(p)[0].limit = 3
      scenes(p)[1].limit = 0
    },
    'popup',
    {},
    'which-one-suits-you',
  )
  await page.goto(quiz.url)
  await expect(popup(page).getByRole('timer')).toBeVisible()
  await expect(popup(page).getByRole('heading')).toHaveText('What should it bring?', { timeout: 10_000 })
  await quiz.end()
})

test('a time limit is told, warns, and gives more time where the marketer allows it', async ({ page }) => {
  const quiz = await api.live(
    'More time',
    p => {
      scenes(p)[0].limit = 6
      scenes(p)[0].extends = true
      scenes(p)[1].limit = 0
    },
    'popup',
    {},
    'which-one-suits-you',
  )
  const told = page.locator('gobbet-piece .layer > [role=status]')
  await page.goto(quiz.url)
  await expect(told).toContainText('Time for this: 6 seconds.')
  await expect(told).toContainText('Time left: 3 seconds.')
  const more = popup(page).getByRole('button', { name: 'More time' })
  await more.press('Enter')
  await expect(told).toContainText(/Time left: [89] seconds\./)
  await expect(more).toBeFocused()
  await expect(popup(page).getByRole('timer')).toHaveAccessibleName(/[5-9] seconds/)
  // Longer than the time was: the answer counts.
  await meanwhile(page, 4000)
  const sent = page.waitForRequest('**/advance')
  await popup(page).locator('label').first().click()
  await expect(popup(page).getByRole('heading')).toHaveText('What should it bring?')
  const { steps } = (await sent).postDataJSON()
  expect(steps[0].late).toBeUndefined()
  expect(Object.values(steps[0].values)).toHaveLength(1)
  await quiz.end()
})

test('hostile words in choices, results and formulas stay words', async ({ page }) => {
  const evil = '<img src=x onerror="window.hit=1">'
  const quiz = await api.live('Hostile', p => {
    const d = p.split.variants[0].design
    d.formulas = [{ name: 'total', formula: 'amount * 2' }]
    d.scenes = [
      {
        id: 'q',
        name: evil,
        kind: 'question',
        blocks: [
          {
            kind: 'field',
            id: 'f',
            ask: 'choices',
            key: 'pick',
            label: evil,
            required: true,
            look: 'list',
            choices: [
              { id: 'a', label: evil },
              { id: 'b', label: `"' onmouseover=window.hit=1` },
            ],
          },
          {
            kind: 'field',
            id: 'n',
            ask: 'number',
            key: 'amount',
            label: 'N',
            required: false,
            unit: '<b>',
            reveal: true,
            explanation: evil,
            right: [evil, '5'],
          },
          { kind: 'button', id: 'on', words: 'On', press: { do: 'send' }, counts: true, quiet: false },
        ],
        edges: [{ to: 'r' }],
      },
      { id: 'r', name: 'R', kind: 'result', tags: [evil], blocks: [{ kind: 'heading', id: 'h', text: `${evil} {total} {pick}`, size: 20, align: 'start' }] },
    ]
  })
  await page.goto(quiz.url)
  await popup(page).locator('label', { hasText: 'img' }).first().click()
  await popup(page).getByRole('textbox', { name: 'N' }).fill('5')
  await popup(page).getByRole('button', { name: 'On' }).click()
  await popup(page).getByRole('button', { name: 'On' }).click()
  await expect(popup(page).getByRole('heading')).toContainText(`${evil} 10 ${evil}`)
  expect(await page.evaluate(() => (window as { hit?: number }).hit)).toBeUndefined()
  await quiz.end()
})

test('what is played is styled by names of its own', () => {
  const names = (css: string) => new Set([...css.replace(/\{[^{}]*\}/g, '{').matchAll(/\.([a-z][a-z_-]*)/g)].map(m => m[1]))
  const shared = (one: string, other: string) => [...names(one)].filter(name => names(other).has(name)).sort()
  expect(shared(playStyle, style)).toEqual([])
  expect(shared(playStyle, extrasStyle)).toEqual([])
  // The layer of a floating bar, within which a tally lies flat.
  expect(shared(playStyle, framesStyle)).toEqual(['bar'])
  // Blocks of both lie flat in a floating bar, videos are framed as pictures are, and in both they can be paused.
  expect(shared(extrasStyle, framesStyle)).toEqual(['box', 'columns', 'divider', 'pause', 'picture'])
  // What moves does so only where that is wanted.
  expect(shared(extrasStyle, style)).toEqual(['moving', 'picture'])
})

test('the page computes formulas as the core does', () => {
  const names = ['a', 'b', 'c']
  let seed = 11
  const r = (n: number) => {
    seed = (seed * 1103515245 + 12345) % 2147483648
    return seed % n
  }
  const write = (depth: number): [string, Tree] => {
    if (!depth || !r(4)) {
      if (r(2)) {
        const name = names[r(3)]
        return [name, name]
      }
      const n = [0, 1, 2, 0.5, 2.345, 10, 100, 7.25][r(8)]
      return [String(n), n]
    }
    const [left, l] = write(depth - 1)
    const [right, t] = write(depth - 1)
    const op = '+-*/'[r(4)]
    switch (r(8)) {
      case 0:
        return [`round(${left}, 2)`, ['round', l, 2]]
      case 1:
        return [`if(${left} > ${right}, ${left}, ${right})`, ['?', ['>', l, t], l, t]]
      case 2:
        return [`max(${left}, ${right}, 3)`, ['max', l, t, 3]]
      case 3:
        return [`-(${left})`, ['neg', l]]
      case 4:
        return [`sqrt(${left})`, ['sqrt', l]]
      case 5:
        return [`payment(${left}, 12, ${right})`, ['payment', l, 12, t]]
      default:
        return [`(${left} ${op} ${right})`, [op, l, t]]
    }
  }
  const cases = Array.from({ length: 3000 }, () => {
    const [formula, tree] = write(4)
    return { formula, tree, inputs: { a: r(40) - 10, b: r(1000) / 8, c: r(7) } as Record<string, number> }
  })
  const said = execFileSync('sh', ['-c', '../bin/gobbet reckon || true'], {
    input: cases.map(({ formula, inputs }) => JSON.stringify({ formula, inputs })).join('\n'),
    maxBuffer: 1 << 28,
  })
    .toString()
    .trim()
    .split('\n')
    .map(line => JSON.parse(line))
  expect(said).toHaveLength(cases.length)
  expect(said.filter(s => 'value' in s).length).toBeGreaterThan(1500)
  for (const [i, c] of cases.entries()) {
    const got = reckon(c.tree, name => c.inputs[name])
    if ('value' in said[i]) expect(got, c.formula).toBeCloseTo(said[i].value, 6)
    else expect(got, `${c.formula} with ${JSON.stringify(c.inputs)}: ${said[i].error.message}`).toBeUndefined()
  }
})

test.describe('in Compose', () => {
  const settings = (page: Page) => page.getByRole('complementary', { name: 'Settings' })
  const strip = (page: Page) => page.getByRole('region', { name: 'Scenes' })
  const draft = async (id: string) => (await api.piece(id)).draft

  test('a quiz of two questions and two results behind a sign-up is made, scored and played', async ({ page }) => {
    const made = await api.make('My quiz', 'popup', 'which-one-suits-you')
    await signIn(page)
    await page.goto(`${studio}/sites/1/pieces/${made.id}/compose`)
    const add = async (sort: string) => {
      await strip(page).getByRole('button', { name: 'Scene', exact: true }).click()
      await page.getByRole('menuitem', { name: sort, exact: true }).click()
    }
    await add('Question')
    await expect(strip(page).getByRole('button', { pressed: true })).toContainText('2 · Question 4')
    await add('Result')
    await expect(strip(page).getByRole('button', { pressed: true })).toContainText('Result 4')
    await strip(page).getByRole('button', { name: 'Questions', exact: true }).click()
    await page.getByLabel('Score of First answer').fill('3')
    await page.getByLabel('Second answer for Result 4').fill('9')
    await page.getByRole('button', { name: 'Close', exact: true }).click()
    await expect
      .poll(async () => {
        const d = (await draft(made.id)).split.variants[0].design
        const f = d.scenes[1].blocks.find((b): b is Extract<Block, { kind: 'field' }> => b.kind === 'field')
        return [d.scenes[0].edges?.[0].to, d.scenes[1].edges?.[0].to, f?.choices?.[0].score, f?.choices?.[1].weights]
      })
      .toEqual(['q4', 'q2', 3, { result1: 9 }])
    // Where the sign-up leads, by the weights.
    await strip(page).getByText('Sign-up').click()
    await page.locator('[data-block=button1]').first().click()
    // It led to the winning result, and so it does with one more.
    await expect(settings(page).getByRole('combobox', { name: 'Next scene' })).toContainText('The winning result')
    await expect
      .poll(async () => (await draft(made.id)).split.variants[0].design.scenes.find(s => s.id === 'gate')!.edges)
      .toContainEqual({ block: 'button1', when: [{ of: 'weights', op: 'most', value: 'result1' }], to: 'result1' })
    // Played as a visitor has it.
    await strip(page).getByText('Question: Where').click()
    await page.getByRole('button', { name: 'Play' }).click()
    const played = page.locator('[data-played]')
    await played.getByText('At home').click()
    await played.getByText('Second answer').click()
    await played.getByText('Some quiet').click()
    await played.getByText('Hardly ever').click()
    await played.getByLabel('Email').fill('tester@example.com')
    await played.getByRole('button', { name: 'Show my match' }).click()
    await expect(played.getByRole('heading')).toHaveText('Your result')
    expect((await api.people('tester@example.com')).total).toBe(0)
  })

  test('a formula offers names, is faulted at its character, and is held to its cases', async ({ page }) => {
    const made = await api.make('My cost', 'inline', 'what-will-it-cost')
    await signIn(page)
    await page.goto(`${studio}/sites/1/pieces/${made.id}/compose`)
    await strip(page).getByRole('button', { name: 'Formulas' }).click()
    const dialog = page.getByRole('dialog', { name: 'Formulas' })
    await expect(dialog.getByLabel('Value of total')).toHaveText('€50.80')
    await dialog.getByText('Save as a case').click()
    await dialog.getByText('Add a formula').click()
    const formula = dialog.getByRole('combobox', { name: 'Formula of value1' })
    await formula.fill('total / (evenin')
    await page.getByRole('option', { name: 'evenings' }).click()
    await page.keyboard.type(' - 2)')
    await expect(dialog.getByRole('alert')).toContainText('This divides by zero, at character 7.')
    await expect(dialog.locator('mark')).toHaveText('/')
    await dialog.getByLabel('Try evenings').fill('4')
    await expect(dialog.getByLabel('Value of value1')).toHaveText('43.6')
    // A case that does not hold any more is seen at once, and before launch.
    await dialog.getByRole('combobox', { name: 'Formula of total' }).fill('amount * 1.5 + evenings * 18.2')
    await expect(dialog.locator('[data-case="0"]').getByText('✗')).toBeVisible()
    await page.keyboard.press('Escape')
    await page.keyboard.press('Escape')
    await expect.poll(async () => (await api.piece(made.id)).notes.map(n => n.code)).toContain('case_fails')
  })
})

test('a piece that is only looked at leads where it would, and stores nothing', async ({ page }) => {
  const quiz = await api.live('Looked at', () => {}, 'popup', {}, 'which-one-suits-you')
  const path = quiz.url.slice(shop.length)
  await page.goto(await api.inspect(quiz.id, path))
  const shown = page.getByRole('dialog')
  await shown.getByText('At home').click()
  await shown.getByText('Some quiet').click()
  await shown.getByText('Hardly ever').click()
  await shown.getByLabel('Email').fill('looker@example.com')
  await shown.getByRole('button', { name: 'Show my match' }).click()
  await expect(shown.getByRole('heading')).toHaveText('The quiet one')
  expect((await api.people('looker@example.com')).total).toBe(0)
  await quiz.end()
})

test('a play-through shows before launch that a result comes to nobody', async ({ page }) => {
  await signIn(page)
  await page.goto('/sites/1/pieces/glazematch/compose')
  await page.getByRole('button', { name: 'Map' }).click()
  const map = page.getByRole('dialog', { name: 'Map of scenes' })
  const rows = map.locator('[data-result]')
  await expect(rows).toHaveCount(3)
  const counts = (await rows.allInnerTexts()).map(t => Number(/(\d+) ·/.exec(t)?.[1]))
  expect(counts.reduce((a, b) => a + b)).toBe(1000)
  expect(Math.min(...counts)).toBeGreaterThan(100)
  await expect(map.locator('[data-scene]').first()).toContainText(/\d{3}/)
  // Each way says what share of those who went on took it, with its bounds for who cannot see it.
  await expect(map.getByRole('group', { name: /Sign-up leads to Celadon: \d\d\.\d % \(\d\d\.\d to \d\d\.\d %\)/ })).toHaveCount(1)
  const before = await rows.allInnerTexts()
  await map.getByRole('button', { name: 'Run again' }).click()
  await expect.poll(() => rows.allInnerTexts()).not.toEqual(before)
  // Two of the three results are given by nothing any more.
  const made = await api.make('All the same', 'popup', 'which-one-suits-you')
  for (const s of scenes(made.draft)) for (const b of s.blocks) if (b.kind === 'field') for (const c of b.choices ?? []) delete c.weights
  await api.save(made.id, 1, made.draft)
  await page.goto(`/sites/1/pieces/${made.id}/compose`)
  await page.getByRole('button', { name: 'Map' }).click()
  await expect(map.getByText('none', { exact: true }).first()).toBeVisible()
  await expect(map.locator('[data-scene]').first()).toContainText('100 %')
})

test('the report of the demo’s quiz says where people left and what they answered, with bounds', async ({ page }) => {
  await signIn(page)
  await page.goto(`${studio}/sites/1/pieces/glazematch/results`)
  const played = await (await page.waitForResponse(r => r.url().includes('/played'))).json()
  const v = played.variants[0]
  const reached = (id: string) => v.scenes.find((s: { id: string }) => s.id === id).reached as number
  expect(reached('where')).toBeGreaterThan(100)
  expect(reached('gate')).toBeLessThan(reached('look'))
  await expect(page.locator('[data-scene=gate]')).toContainText(/\d\d\.\d % \(\d\d\.\d to \d\d\.\d %\) signed up/)
  const where = page.locator('[data-question=where]')
  await expect(where).toContainText(/\d+ answers · 95 % bounds/)
  await expect(where).toContainText(/On the table.*\d\d\.\d % \(\d\d\.\d to \d\d\.\d %\)/)
  await Promise.all([page.waitForResponse(r => r.url().includes('days=7')), page.getByRole('button', { name: '7 days' }).click()])
  const [file] = await Promise.all([page.waitForEvent('download'), page.getByRole('button', { name: 'Export CSV' }).click()])
  expect(file.suggestedFilename()).toBe('funnel.csv')
  // What each visitor answered, to search by the answers' own words.
  const rows = page.locator('table').last().locator('tbody tr')
  await expect(rows.first()).toBeVisible()
  await page.getByRole('button', { name: 'all time' }).click()
  await page.getByLabel('Search answers and emails').fill('in the oven')
  await expect.poll(async () => (await rows.allInnerTexts()).every(t => t.includes('In the oven'))).toBe(true)
  await page.getByRole('button', { name: 'Show more' }).click()
  await expect.poll(() => rows.count()).toBeGreaterThan(25)
  await page.getByLabel('Search answers and emails').fill('nobody says this')
  await expect(page.getByText(/^No answers match/)).toBeVisible()
  await page.getByLabel('Search answers and emails').fill('')
  const [all] = await Promise.all([page.waitForEvent('download'), page.getByRole('link', { name: 'CSV' }).click()])
  expect(all.suggestedFilename()).toBe('answers.csv')
})

test('on the map a way is taken away by keyboard, led elsewhere by its end, and both are undone', async ({ page }) => {
  const made = await api.make('On the map', 'popup', 'which-one-suits-you')
  const edges = async () => scenes((await api.piece(made.id)).draft).map(s => [s.id, ...(s.edges ?? []).map(e => e.to)].join(' '))
  const before = await edges()
  await signIn(page)
  await page.goto(`/sites/1/pieces/${made.id}/compose`)
  await page.getByRole('button', { name: 'Map' }).click()
  const map = page.getByRole('dialog', { name: 'Map of scenes' })
  const lines = map.locator('.react-flow__edge')
  await expect(lines.first()).toBeVisible()
  const many = await lines.count()
  await lines.first().focus()
  await page.keyboard.press('Enter')
  await page.keyboard.press('Delete')
  await expect(lines).toHaveCount(many - 1)
  await expect(map).toContainText('not reached')
  await map.getByRole('button', { name: 'Close' }).click()
  await page.keyboard.press('Control+z')
  await expect.poll(edges).toEqual(before)
  await page.getByRole('button', { name: 'Map' }).click()
  await expect(lines).toHaveCount(many)
  // From the first question's dot straight to the third.
  const dot = (await map.locator('[data-scene]').first().locator('[data-dot]').first().boundingBox())!
  const third = (await map.locator('[data-scene]').nth(2).boundingBox())!
  await page.mouse.move(dot.x + dot.width / 2, dot.y + dot.height / 2)
  await page.mouse.down()
  await page.mouse.move(third.x + 30, third.y + 30, { steps: 8 })
  await page.mouse.move(third.x + 2, third.y + third.height / 3, { steps: 4 })
  await page.mouse.up()
  await expect(map).toContainText('not reached') // the second, now
  await map.getByRole('button', { name: 'Close' }).click()
  await page.keyboard.press('Control+z')
  await expect.poll(edges).toEqual(before)
})
