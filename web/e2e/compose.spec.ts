import { readFileSync } from 'node:fs'
import { expect, type Locator, test } from '@playwright/test'
import type { Block, Button, Columns, Format, Heading, Text } from '../kinds/piece'
import { Api, meanwhile, signIn } from './api'
import { box, choose, draft, drag, frame, middle, open, outline, saved, saveKit, scene, settings, stage, type } from './designer'

// Designing by hand: what is touched changes, what is dragged moves, and the
// draft that is saved says the same as the page shows.

let api: Api
test.beforeAll(async () => {
  api = await Api.open()
})
test.beforeEach(({ page }) => signIn(page))

test('a start is found by goal, format and words, seen on both devices, and becomes a draft', async ({ page }) => {
  await page.goto('/sites/1/new')
  const tiles = page.getByRole('main').getByRole('button', { name: /·/ })
  await expect(tiles.first()).toBeVisible()
  expect(await tiles.count()).toBeGreaterThanOrEqual(40)
  await page.getByRole('button', { name: /^Make an offer/ }).click()
  await page.getByRole('button', { name: 'Floating bar', exact: true }).click()
  await page.getByLabel('Search templates').fill('timer')
  await expect(tiles).toHaveCount(1)
  await tiles.first().click()
  const dialog = page.getByRole('dialog')
  await expect(dialog.locator('.frame')).toHaveCount(2)
  await dialog.getByLabel('Name').fill('Sunday countdown')
  await dialog.getByRole('button', { name: 'Create piece' }).click()
  await page.waitForURL('**/compose')
  await expect(stage(page).getByRole('timer')).toBeVisible()
  // Nothing found is said, with a way on.
  await page.goto('/sites/1/new')
  await page.getByLabel('Search templates').fill('zeppelin')
  await expect(page.getByText('No template matches.')).toBeVisible()
  await page.getByRole('button', { name: 'Clear filters' }).click()
  await expect(tiles.first()).toBeVisible()
})

/** Pastes a piece of a page into what is edited. */
const pasted = (at: Locator, html: string) =>
  at.evaluate((e, html) => {
    const data = new DataTransfer()
    data.setData('text/html', html)
    e.dispatchEvent(new ClipboardEvent('paste', { clipboardData: data, bubbles: true, cancelable: true, composed: true }))
  }, html)

test('words take looks in place, keep them, and paste plainly', async ({ page }) => {
  const { id } = await api.make('Written')
  await open(page, id)
  const why = stage(page).locator('[data-block=why]')
  await type(page, why, 'Plain and ')
  await page.getByRole('button', { name: 'Bold (Ctrl B)' }).click()
  await page.keyboard.type('loud')
  await page.getByRole('button', { name: 'Bold (Ctrl B)' }).click()
  await page.keyboard.type(' and ')
  await page.getByRole('button', { name: 'Insert the first name' }).click()
  await page.keyboard.press('Escape')
  const written = (scene(await draft(page, id)).blocks[1] as Text).text
  expect(written).toEqual([{ text: 'Plain and ' }, { text: 'loud', bold: true }, { text: ' and {first name|friend}' }])
  await expect(why).toHaveText('Plain and loud and friend')

  // A link on what is selected.
  await type(page, why, 'Read more')
  await page.keyboard.press('Control+A')
  await page.getByRole('button', { name: 'Link', exact: true }).click()
  await page.getByRole('textbox', { name: 'Link' }).fill('javascript:alert(1)')
  await page.keyboard.press('Enter')
  await page.getByRole('button', { name: 'Link', exact: true }).click()
  await page.getByRole('textbox', { name: 'Link' }).fill('https://shop.example.com/guide')
  await page.keyboard.press('Enter')
  await page.keyboard.press('Escape')
  expect((scene(await draft(page, id)).blocks[1] as Text).text).toEqual([{ text: 'Read more', link: 'https://shop.example.com/guide' }])

  // From a word processor: words, weight and lines, and none of the rest.
  await type(page, why, 'x')
  await expect(async () => {
    await page.keyboard.press('Control+A')
    const selected = await why.evaluate(e => (e.getRootNode() as ShadowRoot & { getSelection(): Selection }).getSelection().toString())
    expect(selected).toBe('x')
  }).toPass()
  await pasted(
    why,
    '<meta charset=utf-8><style>p{color:red}</style><p class=MsoNormal style="font-size:22pt;color:#f00"><b>First</b> line<o:p></o:p></p><p>Second <script>window.hit=1</script><img src=x onerror="window.hit=1">line</p>',
  )
  await page.keyboard.press('Escape')
  expect((scene(await draft(page, id)).blocks[1] as Text).text).toEqual([{ text: 'First', bold: true }, { text: ' line\nSecond line' }])
  expect(await page.evaluate(() => (window as unknown as { hit?: number }).hit)).toBeUndefined()

  // What says that it was copied here is believed no more than the rest.
  await type(page, why, 'y')
  await page.keyboard.press('Control+A')
  await pasted(
    why,
    '<p data-pm-slice="0 0 []">A<img src=x onerror="window.hit=1"><span data-color="red;background:url(//evil.test)" data-size="9999">B</span><a href="javascript:window.hit=1">C</a><b>D</b><script>window.hit=1</script></p>',
  )
  await page.keyboard.press('Escape')
  const { text } = scene(await draft(page, id)).blocks[1] as Text
  expect(typeof text === 'string' ? text : text.map(s => s.text).join('')).toMatch(/^y?ABCD$/)
  expect(JSON.stringify(text)).not.toMatch(/evil|javascript|9999|link|color/)
  expect(await page.evaluate(() => (window as unknown as { hit?: number }).hit)).toBeUndefined()

  // Lines become a list and back.
  await type(page, why, 'One')
  await page.keyboard.press('Enter')
  await page.keyboard.type('two')
  await page.keyboard.press('Escape')
  await why.click()
  await why.click()
  await page.getByRole('button', { name: 'Turn into a list' }).click()
  await expect(stage(page).locator('li')).toHaveCount(2)
  await saved(page)
  await page.getByRole('button', { name: 'Undo' }).click()
  await expect(stage(page).locator('li')).toHaveCount(0)
})

test('what is typed before the text editor has loaded is kept, and a load that fails says so', async ({ page }) => {
  const { id } = await api.make('On a slow line')
  const editor = '**/assets/editor-*.js'
  await page.route(editor, route => route.abort())
  await open(page, id)
  const title = stage(page).locator('[data-block=title]')
  await title.click()
  await page.keyboard.press('Enter')
  await expect(page.getByText('The text editor could not be loaded.')).toBeVisible()
  // Nothing is taken for the canvas: the block is still there, and can be edited later.
  await page.unroute(editor)
  let here = () => {}
  const comes = new Promise<void>(done => {
    here = done
  })
  await page.route(editor, async route => {
    await comes
    await route.continue()
  })
  await page.reload()
  await title.click()
  await page.keyboard.press('Enter')
  await page.keyboard.press('Control+A')
  await page.keyboard.type('Typed earlyx')
  await page.keyboard.press('Backspace')
  here()
  await expect(title).toHaveText('Typed early')
  await page.keyboard.type(', and late')
  await page.keyboard.press('Enter')
  expect(scene(await draft(page, id)).blocks[0]).toMatchObject({ id: 'title', text: 'Typed early, and late' })
  // Over several lines Enter begins one, then as well.
  let go = () => {}
  const goes = new Promise<void>(done => {
    go = done
  })
  await page.unroute(editor)
  await page.route(editor, async route => {
    await goes
    await route.continue()
  })
  await page.reload()
  await stage(page).locator('[data-block=why]').click()
  await page.keyboard.press('Enter')
  await page.keyboard.type('One')
  await page.keyboard.press('Enter')
  await page.keyboard.type('two')
  go()
  await expect(page.getByRole('toolbar', { name: 'Text formatting' })).toBeVisible()
  await page.keyboard.press('Escape')
  expect(scene(await draft(page, id)).blocks[1]).toMatchObject({ id: 'why', text: 'One\ntwo' })
})

test('blocks are dragged beside each other, apart, and into a box', async ({ page }) => {
  const { id } = await api.make('Arranged')
  await open(page, id)
  const name = stage(page).locator('[data-block=name]')
  const email = stage(page).locator('[data-block=email]')
  const on = await box(name)
  await drag(page, await middle(email), { x: on.x + on.width - 8, y: on.y + on.height / 2 })
  let blocks = scene(await draft(page, id)).blocks
  expect(blocks.map(b => b.kind)).toEqual(['heading', 'text', 'columns', 'button'])
  expect((blocks[2] as Columns).blocks.map(b => b.id)).toEqual(['name', 'email'])
  expect((await box(name)).y).toBeCloseTo((await box(email)).y, 0)
  await page.getByRole('button', { name: 'Phone', exact: true }).click()
  expect((await box(email)).y).toBeGreaterThan((await box(name)).y + 20)
  await page.getByRole('button', { name: 'Desktop' }).click()

  // The line between them shares the room out.
  await outline(page).getByRole('button', { name: 'Columns', exact: true }).click()
  const grip = page.locator('[data-grip="Between 1 and 2"]')
  const at = await middle(grip)
  await drag(page, at, { x: at.x + 60, y: at.y })
  const widths = (scene(await draft(page, id)).blocks[2] as Columns).widths!
  expect(widths[0]).toBeGreaterThan(widths[1] + 20)

  // Out again, above the heading: the columns dissolve.
  const title = await box(stage(page).locator('h2'))
  await drag(page, await middle(email), { x: title.x + title.width / 2, y: title.y + 3 })
  blocks = scene(await draft(page, id)).blocks
  expect(blocks.map(b => b.id)).toEqual(['email', 'title', 'why', 'name', 'send'])

  // Several at once go into a box.
  await stage(page).locator('h2').click()
  await stage(page)
    .locator('[data-block=why]')
    .click({ modifiers: ['Shift'] })
  await expect(settings(page).getByRole('heading', { name: '2 blocks' })).toBeVisible()
  await page.keyboard.press('Control+g')
  blocks = scene(await draft(page, id)).blocks
  expect(blocks.map(b => b.kind)).toEqual(['field', 'box', 'field', 'button'])
  await page.keyboard.press('Control+Shift+g')
  expect(scene(await draft(page, id)).blocks).toHaveLength(5)

  // So do those that a band is drawn over, from the padding beside them.
  const whole = await box(stage(page).locator('.frame'))
  const why = await box(stage(page).locator('[data-block=why]'))
  await drag(page, { x: whole.x + 6, y: whole.y + 6 }, { x: whole.x + whole.width / 2, y: why.y + why.height / 2 })
  await expect(settings(page).getByRole('heading', { name: '3 blocks' })).toBeVisible()

  // A locked one stays.
  await stage(page).locator('h2').click()
  await page.keyboard.press('Control+l')
  await page.keyboard.press('Delete')
  await expect(stage(page).locator('h2')).toHaveCount(1)
  await expect(outline(page).getByRole('img', { name: 'Locked' })).toBeVisible()
})

test('edges and spaces are dragged, and the number says so', async ({ page }) => {
  const { id } = await api.make('Sized')
  await open(page, id)
  const wide = (await box(stage(page).locator('.frame'))).width
  const end = await middle(page.locator('[data-grip="Width, at the end"]'))
  await drag(page, end, { x: end.x + 40, y: end.y })
  expect((await box(stage(page).locator('.frame'))).width).toBeGreaterThan(wide + 50)
  expect(frame(await draft(page, id)).width).toBeGreaterThan(540)
  await stage(page).locator('[data-block=why]').click()
  const above = await middle(page.locator('[data-grip="Space above"]'))
  await drag(page, above, { x: above.x, y: above.y + 30 })
  const gap = (scene(await draft(page, id)).blocks[1] as Text).above!
  expect(gap).toBeGreaterThan(20)
  await page.keyboard.press('Shift+ArrowDown')
  expect((scene(await draft(page, id)).blocks[1] as Text).above).toBe(gap + 4)
  await page.keyboard.press('Control+z')
  expect((scene(await draft(page, id)).blocks[1] as Text).above).toBe(gap)
})

test('copies go between pieces with all they do; a look goes alone', async ({ page, context }) => {
  await context.grantPermissions(['clipboard-read', 'clipboard-write'])
  const from = await api.make('Copied from')
  const button = scene(from.draft).blocks.at(-1) as Button
  Object.assign(button, { fill: '#112233', press: { do: 'open', address: '/classes', new_tab: true } })
  await api.save(from.id, 1, from.draft)
  const to = await api.make('Copied to')
  await open(page, from.id, 'send')
  await page.keyboard.press('Control+c')
  await open(page, to.id, 'send')
  await page.keyboard.press('Control+v')
  let blocks = scene(await draft(page, to.id)).blocks
  expect(blocks).toHaveLength(6)
  expect(blocks[5]).toMatchObject({ fill: '#112233', press: { do: 'open', address: '/classes', new_tab: true } })
  expect(blocks[5].id).not.toBe('send')
  await stage(page).locator('[data-block=send]').click()
  await page.keyboard.press('Control+Alt+v')
  blocks = scene(await draft(page, to.id)).blocks
  expect(blocks[4]).toMatchObject({ fill: '#112233', press: { do: 'send' } })
  await page.keyboard.press('Control+d')
  expect(scene(await draft(page, to.id)).blocks).toHaveLength(7)
  // Right-click has it all, and nothing of it is lost on the keyboard.
  await stage(page).locator('h2').click({ button: 'right' })
  await page.getByRole('menuitem', { name: /^Hide on phones/ }).click()
  await expect(outline(page).getByLabel('hidden on phones')).toBeVisible()
  await page.getByRole('button', { name: 'Phone', exact: true }).click()
  await expect(stage(page).locator('[data-block=title]')).toHaveCount(0)
  await page.keyboard.press('?')
  await expect(page.getByRole('dialog', { name: 'Keyboard shortcuts' })).toContainText('Paste style')
})

test('what differs on phones is marked, is so on the shop, and can be put back', async ({ page, browser }) => {
  const made = await api.make('Differs')
  await open(page, made.id, 'title')
  await page.getByRole('button', { name: 'Phone', exact: true }).click()
  await settings(page).getByLabel('Size', { exact: true }).fill('20')
  await expect(settings(page).getByRole('button', { name: /Reset Size on phones/ })).toBeVisible()
  // Words count everywhere.
  await settings(page).getByLabel('Text').fill('Same words')
  let title = scene(await draft(page, made.id)).blocks[0] as Heading
  expect(title).toMatchObject({ text: 'Same words', size: 30, phone: { size: 20 } })
  await outline(page).getByRole('button', { name: 'Frame' }).click()
  await choose(settings(page).getByRole('combobox', { name: 'On phones' }), 'Floating bar')
  await expect(stage(page).locator('.layer.bar')).toBeVisible()
  await page.getByRole('button', { name: 'Desktop' }).click()
  await expect(stage(page).locator('.layer.popup h2')).toHaveCSS('font-size', '30px')

  const doc = await draft(page, made.id)
  const live = await api.live('Differs, live', p => {
    p.split = doc.split
    p.phone_format = 'bar'
  })
  const phone = await browser.newContext({
    viewport: { width: 390, height: 760 },
    isMobile: true,
    userAgent: 'Mozilla/5.0 (Linux; Android 14; Phone) AppleWebKit/537.36 Chrome/120 Mobile Safari/537.36',
  })
  const at = await phone.newPage()
  await at.goto(live.url)
  await expect(at.locator('.layer.bar h2')).toHaveText('Same words')
  await phone.close()
  await page.goto(live.url)
  await expect(page.locator('.layer.popup h2')).toHaveCSS('font-size', '30px')
  await live.end()

  await open(page, made.id, 'title')
  await settings(page)
    .getByRole('button', { name: /Reset Size on phones/ })
    .click()
  title = scene(await draft(page, made.id)).blocks[0] as Heading
  expect(title.phone).toBeUndefined()
})

test('a finished piece takes every format and comes back whole', async ({ page }) => {
  const { id, draft: before } = await api.make('Shifting', 'popup', 'a-guide-to-take-along')
  await open(page, id)
  const formats: [string, Format][] = [
    ['Floating bar', 'bar'],
    ['Side sheet', 'sheet'],
    ['Full screen', 'full'],
    ['Inline', 'inline'],
    ['Fly-in', 'fly_in'],
    ['Popup', 'popup'],
  ]
  for (const [name, format] of formats) {
    await choose(settings(page).getByRole('combobox', { name: 'Format' }), name, true)
    await expect(stage(page).locator(`.layer.${format} h2`)).toHaveText('The short guide to choosing well')
  }
  const after = await draft(page, id)
  expect(after.split.variants[0].design.scenes).toEqual(before.split.variants[0].design.scenes)
  expect(frame(after).behind).toEqual(frame(before).behind)
})

test('notes stand beside the block, and one press mends them', async ({ page }) => {
  const made = await api.make('Mended')
  const blocks = scene(made.draft).blocks
  Object.assign(blocks[1], { color: '#d8d2c8' })
  Object.assign(blocks[4], { words: 'Submit', press: { do: 'send' }, counts: false })
  blocks.splice(5, 0, { kind: 'field', id: 'tel', ask: 'phone', key: 'tel', label: 'Telephone', required: false })
  Object.assign(blocks[0], { text: 'Glazingcompetitionsandmore and on' })
  Object.assign(blocks[1], { text: 'And in a line or two, from the kiln' })
  made.draft.split.variants[0].design.scenes.splice(1, 1)
  delete scene(made.draft).edges
  await api.save(made.id, 1, made.draft)
  await open(page, made.id, 'why')
  const note = (code: string) => settings(page).locator(`[data-note=${code}]`)
  for (const [block, code, mend] of [
    ['And in a line', 'low_contrast', 'Use a readable colour'],
    ['Submit', 'dull_button', 'Change to “Send it to me”'],
    ['Send it to me', 'tab_order', 'Move it after the fields'],
    ['Send it to me', 'no_thanks', 'Add a thank-you scene'],
    ['Glazingcomp', 'phone_words', /Make it \d+ px on phones/],
    ['Frame', 'no_consent', 'Add a consent'],
    ['Frame', 'no_conversion', 'Count the first button'],
  ] as [string, string, string | RegExp][]) {
    await outline(page)
      .getByRole('button', { name: new RegExp(`^(?!Delete|Move).*${block}`) })
      .first()
      .click()
    await note(code).getByRole('button', { name: mend }).click()
    await expect(note(code)).toHaveCount(0)
  }
  const after = await api.piece(made.id)
  expect(after.notes.map(n => n.code)).toEqual([])
  expect(scene(after.draft).blocks.map(b => b.kind)).toEqual(['heading', 'text', 'field', 'field', 'field', 'field', 'button'])
  expect(after.draft.split.variants[0].design.scenes).toHaveLength(2)
})

test('words over a picture are judged by what is really behind them', async ({ page }) => {
  const made = await api.make('Over a picture', 'full', 'sale-is-on')
  frame(made.draft).behind!.shade = 0
  frame(made.draft).ink = '#3a3450'
  await api.save(made.id, 1, made.draft)
  await open(page, made.id)
  await stage(page).locator('h2').first().click()
  const note = settings(page).locator('[data-note=ground]')
  await expect(note).toContainText(/^“.+” is hard to read over the picture where it is dark: \d\.\d : 1\./)
  await note.getByRole('button').click()
  await expect(note).toHaveCount(0)
  const { behind } = frame(await draft(page, made.id))
  expect((behind!.shade ?? 0) > 20 || behind!.side === 'start').toBeTruthy()
})

test('what a small laptop cannot show whole is said, and a picture gives way', async ({ page }) => {
  const made = await api.make('Tall')
  scene(made.draft).blocks.unshift({ kind: 'picture', id: 'photo', picture: '', alt: '', ratio: 80, width: 100, corners: 0, align: 'center' })
  await api.save(made.id, 1, made.draft)
  await open(page, made.id, 'photo')
  const note = settings(page).locator('[data-note=laptop_scroll]')
  await expect(note).toContainText(/is 1\d\d % of the window’s height/)
  await note.getByRole('button', { name: /Set the picture’s height to \d+ % of its width/ }).click()
  await expect(note).toHaveCount(0)
  const { ratio } = scene(await draft(page, made.id)).blocks[0] as { ratio: number }
  expect(ratio).toBeGreaterThanOrEqual(20)
  expect(ratio).toBeLessThan(80)
  // It fits now: looked at again, there is nothing to say.
  await meanwhile(page, 1500)
  await expect(note).toHaveCount(0)
})

test('an earlier version is seen beside the present one or another, and brought back', async ({ page }) => {
  const { id } = await api.make('Went through changes')
  await open(page, id, 'title')
  const say = async (words: string) => {
    await settings(page).getByLabel('Text').fill(words)
    await saved(page)
    return (await api.piece(id)).version
  }
  const first = await say('First wording')
  await api.launch(id, first)
  const second = await say('Second wording')
  await api.launch(id, second)
  await say('Third wording')

  await page.getByRole('button', { name: 'Version history' }).click()
  const dialog = page.getByRole('dialog', { name: 'Version history' })
  await dialog.getByRole('option', { name: new RegExp(`Draft ${first}\\b.*launched`) }).click()
  const beside = dialog.getByRole('combobox', { name: 'Compare with' })
  await expect(beside).toHaveText('Current draft')
  const titles = dialog.locator('section h2[data-block=title]')
  await expect(titles).toHaveText(['First wording', 'Thank you, friend', 'Third wording', 'Thank you, friend'])
  await choose(beside, new RegExp(`^Draft ${second},`))
  await expect(titles).toHaveText(['First wording', 'Thank you, friend', 'Second wording', 'Thank you, friend'])

  await dialog.getByRole('button', { name: 'Restore' }).click()
  await expect(stage(page).locator('h2')).toHaveText('First wording')
  await saved(page)
  await page.keyboard.press('Control+z')
  await expect(stage(page).locator('h2')).toHaveText('Third wording')
  await api.pause(id)
})

test('scenes: marked when nobody reaches them, connected by an arrow, kept for other pieces', async ({ page }) => {
  const made = await api.make('Many scenes')
  await open(page, made.id)
  const strip = page.getByRole('region', { name: 'Scenes' })
  await strip.getByRole('button', { name: 'Scene', exact: true }).click()
  await page.getByRole('menuitem', { name: 'Blank' }).click()
  await expect(strip).toContainText('not reached')
  await page.getByRole('button', { name: 'Map' }).click()
  const map = page.getByRole('dialog', { name: 'Map of scenes' })
  const to = map.locator('[data-scene^=scene]')
  await drag(page, await middle(map.locator('[data-dot=done]')), await middle(to))
  await expect(map).not.toContainText('not reached')
  await map.getByRole('button', { name: 'Close' }).click()
  const design = (await draft(page, made.id)).split.variants[0].design
  expect((design.scenes[1].blocks.at(-1) as Button).press).toEqual({ do: 'next' })
  expect(design.scenes[1].edges).toEqual([{ block: design.scenes[1].blocks.at(-1)!.id, to: design.scenes[2].id }])

  await strip.getByRole('button', { name: /Thank-you/ }).click({ button: 'right' })
  await page.getByRole('menuitem', { name: 'Save as snippet…' }).click()
  const ask = page.getByRole('dialog', { name: 'Save this scene as a snippet' })
  await ask.getByLabel('Name').fill('Warm thanks')
  await ask.getByRole('button', { name: 'Save' }).click()
  // Leaving the page at once would take the request along.
  await expect(page.getByText('Saved. You find it under More')).toBeVisible()
  const other = await api.make('Uses a kept scene')
  await open(page, other.id)
  await page.getByRole('region', { name: 'Scenes' }).getByRole('button', { name: 'Scene', exact: true }).click()
  await page.getByRole('menuitem', { name: 'Warm thanks' }).click()
  await expect(page.getByRole('region', { name: 'Scenes' }).getByRole('button', { pressed: true })).toContainText('3 · Thank-you')
  await page.goto('/sites/1/settings/library')
  const kept = page.getByLabel('Name of Warm thanks')
  await page.locator('[data-snippet]').filter({ has: kept }).getByRole('button', { name: 'Delete' }).click()
  await page.getByRole('dialog').getByRole('button', { name: 'Delete' }).click()
  await expect(kept).toHaveCount(0)
})

test('an inline piece is put beside an element picked on the page, in the page’s own look', async ({ page }) => {
  const made = await api.make('In the page', 'inline', 'letter-in-the-page')
  await open(page, made.id)
  await page.getByRole('button', { name: 'Choose an element on the page' }).click()
  const still = page.frameLocator('iframe[title="Page of the site"]')
  const heading = still.locator('main h1').first()
  const over = await middle(stage(page))
  await page.mouse.move(over.x, over.y)
  await page.mouse.wheel(0, -4000)
  await expect.poll(async () => (await box(heading)).y).toBeGreaterThan(180)
  const target = await box(heading)
  await page.mouse.move(target.x + 20, target.y + 10)
  await page.mouse.click(target.x + 20, target.y + 10)
  // The page makes room for it there.
  const room = still.locator('[data-room]')
  await expect.poll(async () => Math.abs((await box(stage(page).locator('.frame'))).height - (await box(room)).height)).toBeLessThan(2)
  expect((await box(room)).height).toBeGreaterThan(60)
  await settings(page).getByRole('button', { name: 'Use the page’s own fonts and colours' }).click()
  const doc = await draft(page, made.id)
  expect(frame(doc).anchor?.selector).toContain('h1')
  expect(frame(doc)).toMatchObject({ background: '@page', ink: '@page', font: '@page' })
  const live = await api.live(
    'In the page, live',
    p => {
      p.format = 'inline'
      p.split = doc.split
      frame(p).anchor = { selector: 'main', where: 'first', pushes: true }
    },
    'inline',
  )
  await page.goto(live.url)
  const piece = page.getByRole('region', { name: 'Liked this? There is more.' })
  await expect(piece).toBeVisible()
  const own = await page.locator('body').evaluate(e => [getComputedStyle(e).color, getComputedStyle(e).fontFamily])
  await expect(piece.locator('h2')).toHaveCSS('color', own[0])
  await expect(piece.locator('p').first()).toHaveCSS('font-family', own[1])
  expect(await page.locator('main > gobbet-piece').count()).toBe(1)
  await live.end()
})

test('pictures are pasted, kept, found where they are used, and replaced everywhere', async ({ page }) => {
  const dot = (r: number) =>
    page.evaluate(async r => {
      const canvas = Object.assign(document.createElement('canvas'), { width: 40, height: 30 })
      const c = canvas.getContext('2d')!
      c.fillStyle = `rgb(${r}, 90, 60)`
      c.fillRect(0, 0, 40, 30)
      return [...new Uint8Array(await (await new Promise<Blob>(done => canvas.toBlob(b => done(b!)))).arrayBuffer())]
    }, r)
  const { id } = await api.make('Pictured')
  await open(page, id, 'title')
  const bytes = await dot(200)
  await page.evaluate(bytes => {
    const data = new DataTransfer()
    data.items.add(new File([new Uint8Array(bytes)], 'pasted.png', { type: 'image/png' }))
    document.dispatchEvent(new ClipboardEvent('paste', { clipboardData: data, bubbles: true }))
  }, bytes)
  await expect(stage(page).locator('img')).toHaveCount(1)
  const first = (scene(await draft(page, id)).blocks[1] as { picture: string }).picture
  await page.goto('/sites/1/settings/library')
  const card = page.locator(`[data-picture="${first}"]`)
  await expect(card).toContainText('Pictured')
  await card.getByRole('button', { name: 'Replace everywhere' }).click()
  await page
    .getByRole('dialog')
    .getByLabel('Picture file')
    .setInputFiles({ name: 'other.png', mimeType: 'image/png', buffer: Buffer.from(await dot(20)) })
  await page.getByRole('dialog').getByRole('button', { name: 'Replace', exact: true }).click()
  await expect(page.getByText('Replaced in 1 piece.')).toBeVisible()
  const second = (scene((await api.piece(id)).draft).blocks[1] as { picture: string }).picture
  expect(second).not.toBe(first)
  await card.getByRole('button', { name: 'Delete' }).click()
  await page.getByRole('dialog').getByRole('button', { name: 'Delete' }).click()
  await expect(card).toHaveCount(0)
  // One that is used is not taken out, whoever asks.
  const refused = await api.context.delete(`/api/sites/${api.site}/pictures/${second}`)
  expect(refused.status()).toBe(409)
})

test('the style is changed once, and live pieces follow', async ({ page, browser }) => {
  const live = await api.live('Follows the style')
  const visitor = await (await browser.newContext()).newPage()
  await visitor.goto(live.url)
  await expect(visitor.getByRole('button', { name: 'Count me in' })).toHaveCSS('background-color', 'rgb(47, 93, 80)')
  await page.goto('/sites/1/settings/style')
  await expect(page.getByText('Follows the style')).toBeVisible()
  const kit = await api.kit()
  const other = structuredClone(kit)
  other.colors.find(c => c.id === 'accent')!.value = '#6a2a5b'
  await page.getByRole('button', { name: /^Fern: #2f5d50, change/ }).click()
  await page.getByLabel('Fern, as hex').fill('6a2a5b')
  await page.keyboard.press('Escape')
  await expect(page.locator('.button').first()).toHaveCSS('background-color', 'rgb(106, 42, 91)')
  await saveKit(page)
  await expect(page.getByText(/Saved, also in \d+ live pieces?/)).toBeVisible()
  await expect(async () => {
    const again = await (await browser.newContext()).newPage()
    await again.goto(live.url)
    await expect(again.getByRole('button', { name: 'Count me in' })).toHaveCSS('background-color', 'rgb(106, 42, 91)', { timeout: 1500 })
    await again.context().close()
  }).toPass({ timeout: 15_000 })
  await api.setKit(kit)
  await visitor.context().close()
  await live.end()
})

test('a piece goes to a file and comes back with its pictures', async ({ page }) => {
  await page.goto('/sites/1/board?q=Glaze+club+welcome')
  const card = page.getByRole('article').filter({ hasText: 'Glaze club welcome' })
  await card.getByRole('button', { name: /More/ }).click()
  const waiting = page.waitForEvent('download')
  await page.getByRole('menuitem', { name: 'Download as a file' }).click()
  const path = (await (await waiting).path())!
  await page.goto('/sites/1/new')
  await page.getByLabel('Piece file').setInputFiles({ name: 'glaze.zip', mimeType: 'application/zip', buffer: readFileSync(path) })
  await page.waitForURL('**/compose')
  await expect(stage(page).locator('h2')).toHaveText('Five new glazes, before anyone')
  await expect
    .poll(() =>
      stage(page)
        .locator('img')
        .evaluate((i: HTMLImageElement) => i.naturalWidth),
    )
    .toBeGreaterThan(100)
  await api.remove(page.url().match(/pieces\/([a-z0-9]+)/)![1])
  for (const [file, says] of [
    ['no zip at all', 'is not JSON'],
    ['{"version": 9}', 'reads version 4'],
    ['PK but broken', 'damaged'],
  ]) {
    await page.goto('/sites/1/new')
    await page.getByLabel('Piece file').setInputFiles({ name: 'x.json', mimeType: 'application/json', buffer: Buffer.from(file) })
    await expect(page.getByRole('alert')).toContainText(says)
  }
})

test('two hundred blocks and ten thousand characters are taken, one more is not', async ({ page }) => {
  const made = await api.make('Very long')
  const s = scene(made.draft)
  const button = s.blocks.pop()!
  s.blocks = [
    ...Array.from({ length: 199 }, (_, i): Block => ({ kind: 'text', id: `t${i}`, text: i ? `Line ${i}` : 'x'.repeat(10_000), size: 14, align: 'start' })),
    button,
  ]
  await api.save(made.id, 1, made.draft)
  await open(page, made.id, 't5')
  await expect(outline(page).getByRole('listitem')).toHaveCount(200)
  await outline(page).getByRole('button', { name: 'Add text' }).click()
  await expect(page.locator('[data-standing=faulty]')).toBeVisible()
  await page.keyboard.press('Escape')
  await page.getByRole('button', { name: 'Undo' }).click()
  await saved(page)
})
