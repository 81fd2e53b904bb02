import { type BrowserContext, expect, type Page, test } from '@playwright/test'
import { Api, signIn } from './api'
import { choose, saveKit, stage } from './designer'

// Two windows, another screen, a reload: nothing a marketer typed is lost, and
// the later window does not undo the earlier.

let api: Api
test.beforeAll(async () => {
  api = await Api.open()
})
test.beforeEach(({ page }) => signIn(page))

const windowOf = async (context: BrowserContext, path: string): Promise<Page> => {
  const page = await context.newPage()
  await page.goto(path)
  return page
}
const name = (page: Page) => page.getByLabel('Name of the piece')
const saved = (page: Page) => expect(page.locator('[data-standing=saved]')).toBeVisible()

test('the style kit keeps what is not saved over another screen and a reload; of two windows the later is told', async ({ page, context }) => {
  const before = await api.kit()
  await page.goto('/sites/1/settings/style')
  const corners = page.getByLabel('Frame corners')
  await corners.fill('21')
  await page.keyboard.press('Tab')
  await page.getByRole('link', { name: 'Library' }).click()
  await page.getByRole('button', { name: 'Leave without saving' }).click()
  await page.getByRole('link', { name: 'Style kit' }).click()
  await expect(corners).toHaveValue('21')
  await page.reload()
  await expect(corners).toHaveValue('21')
  // Meanwhile another window saves the same, and something else.
  await api.setKit({ ...before, corners: 9, field: { ...before.field, corners: 13 } })
  await saveKit(page)
  await expect(page.getByText('This was changed in another window.')).toBeVisible()
  expect((await api.kit()).corners).toBe(9)
  await page.getByRole('button', { name: 'Keep my changes' }).click()
  await saveKit(page)
  await expect.poll(async () => (await api.kit()).corners).toBe(21)
  // What only the other changed is taken in.
  expect((await api.kit()).field.corners).toBe(13)
  const other = await windowOf(context, '/sites/1/settings/style')
  await expect(other.getByLabel('Frame corners')).toHaveValue('21')
  await other.close()
  await api.setKit(before)
})

/** A thing that is set on Site, opened. */
async function setting(page: Page, name: string) {
  const sheet = page.getByRole('region', { name, exact: true })
  const head = sheet.getByRole('button', { name }).first()
  if ((await head.getAttribute('aria-expanded')) === 'false') await head.click()
  return sheet
}

test('two forms of the site undo nothing of each other; two windows merge what they changed, and ask where both changed the same', async ({ page }) => {
  const now = await api.siteNow()
  await page.goto('/sites/1/settings')
  const domains = await setting(page, 'Name and domains')
  const recording = await setting(page, 'Recording')
  const limits = await setting(page, 'Limits over all pieces')
  await domains.getByLabel('Name', { exact: true }).fill('Quillfern of Cork')
  await recording.getByLabel('Visitors recorded').fill('80')
  await page.keyboard.press('Tab')
  await choose(limits.getByLabel('Minimum time between pieces'), '5 minutes')
  // One is saved: the others stay as they were typed, and can be saved after it.
  await limits.getByRole('button', { name: 'Save', exact: true }).click()
  await expect(limits.getByText('✓ Saved')).toBeVisible()
  await expect(recording.getByLabel('Visitors recorded')).toHaveValue('80')
  // Another window saves other fields, of the site and of the recording.
  await api.context.put(`/api/sites/${api.site}`, { data: { version: now.version, name: now.name, zone: 'Europe/London', origins: now.origins } })
  await api.settings({ keep_months: 12 })
  for (const sheet of [domains, recording]) {
    await sheet.getByRole('button', { name: 'Save', exact: true }).click()
    await expect(sheet.getByText('✓ Saved')).toBeVisible()
  }
  await expect(domains.getByLabel('Time zone')).toHaveValue('Europe/London')
  const merged = await api.siteNow()
  expect([merged.name, merged.zone, merged.settings.record, merged.settings.keep_months, merged.settings.limits.quiet]).toEqual([
    'Quillfern of Cork',
    'Europe/London',
    80,
    12,
    'PT5M',
  ])
  // And the same: it is asked.
  await domains.getByLabel('Name', { exact: true }).fill('Mine')
  await api.context.put(`/api/sites/${api.site}`, { data: { version: merged.version, name: 'Quillfern & Co', zone: now.zone, origins: now.origins } })
  await domains.getByRole('button', { name: 'Save', exact: true }).click()
  await expect(domains.getByText('This was changed in another window.')).toBeVisible()
  await domains.getByRole('button', { name: 'Discard my changes' }).click()
  await expect(domains.getByLabel('Name', { exact: true })).toHaveValue('Quillfern & Co')
  const after = await api.siteNow()
  await api.context.put(`/api/sites/${api.site}`, { data: { version: after.version, name: now.name, zone: now.zone, origins: now.origins } })
  await api.settings({ record: 100, keep_months: now.settings.keep_months, limits: now.settings.limits })
})

test('what is typed while a save is under way stays, over a failing network and a reload too', async ({ page }) => {
  const { settings } = await api.siteNow()
  await page.goto('/sites/1/settings#recording')
  const sheet = page.getByRole('region', { name: 'Recording', exact: true })
  const layer = sheet.getByLabel('Data layer')
  let go = () => {}
  const held = new Promise<void>(done => (go = done))
  let cut = false
  await page.route('**/api/sites/*/settings/*', async r => {
    if (cut) return r.abort()
    await held
    await r.continue()
  })
  await layer.fill('shopLayer')
  await sheet.getByRole('button', { name: 'Save', exact: true }).click()
  await layer.fill('shopLayerTwo')
  go()
  await expect(sheet.getByRole('button', { name: 'Discard changes' })).toBeVisible()
  await expect(layer).toHaveValue('shopLayerTwo')
  await expect.poll(async () => (await api.siteNow()).settings.data_layer).toBe('shopLayer')
  await expect(sheet.getByRole('button', { name: 'Save', exact: true })).toBeEnabled()
  cut = true
  await sheet.getByRole('button', { name: 'Save', exact: true }).click()
  await expect(sheet.getByRole('alert')).toContainText('The server is not answering.')
  await page.reload()
  await expect(layer).toHaveValue('shopLayerTwo')
  await expect(sheet.getByText('unsaved changes')).toBeVisible()
  cut = false
  await sheet.getByRole('button', { name: 'Save', exact: true }).click()
  await expect(sheet.getByText('✓ Saved')).toBeVisible()
  expect((await api.siteNow()).settings.data_layer).toBe('shopLayerTwo')
  await api.settings({ data_layer: settings.data_layer })
})

test('an edit followed at once by another screen and back is nobody else’s', async ({ page }) => {
  const { id } = await api.make('There and back')
  await page.goto(`/sites/1/pieces/${id}/compose`)
  await page.route(`**/api/sites/*/pieces/${id}`, async r => {
    if (r.request().method() === 'PUT') await new Promise(done => setTimeout(done, 700))
    await r.continue()
  })
  for (const text of ['Once', 'Twice']) {
    await name(page).fill(text)
    await page.keyboard.press('Enter')
    await page.getByRole('link', { name: 'Board', exact: true }).click()
    await page.waitForURL('**/board')
    await page.goBack()
    await expect(name(page)).toHaveValue(text)
    await saved(page)
    await expect(page.getByText(/in another window|unsaved work/)).toHaveCount(0)
  }
  expect((await api.piece(id)).draft.name).toBe('Twice')
})

test('work that arrived, though its answer did not, is not offered again', async ({ page }) => {
  const { id, draft } = await api.make('Arrived')
  await api.save(id, 1, { ...draft, name: 'Arrived after all' })
  // As the window has it: what was added last stands last.
  const turned = (x: unknown): unknown =>
    Array.isArray(x)
      ? x.map(turned)
      : x && typeof x === 'object'
        ? Object.fromEntries(
            Object.entries(x)
              .reverse()
              .map(([k, v]) => [k, turned(v)]),
          )
        : x
  const doc = turned((await api.piece(id)).draft)
  await page.addInitScript(
    ([key, kept]) => localStorage.setItem(key, kept),
    [`gobbet-draft:${api.site}:${id}`, JSON.stringify({ version: 1, doc, at: Date.now() })],
  )
  await page.goto(`/sites/${api.site}/pieces/${id}/compose`)
  await expect(name(page)).toHaveValue('Arrived after all')
  await saved(page)
  const found = page.getByRole('dialog', { name: 'There is unsaved work in this browser' })
  await expect(found).toHaveCount(0)
  // What did not arrive is.
  await api.save(id, 2, { ...(await api.piece(id)).draft, name: 'Another' })
  await page.reload()
  await expect(found).toBeVisible()
})

test('a piece deleted elsewhere says so, and can be restored with what is here', async ({ page }) => {
  const { id } = await api.make('Deleted elsewhere')
  await page.goto(`/sites/1/pieces/${id}/compose`)
  await saved(page)
  await api.remove(id)
  await name(page).fill('Still wanted')
  await page.keyboard.press('Enter')
  await expect(page.getByRole('dialog')).toContainText('This piece was deleted in another window')
  await page.getByRole('button', { name: 'Restore the piece' }).click()
  await saved(page)
  // The dialog fades: what is pressed on it meanwhile is not pressed on the next.
  await expect(page.getByText('This piece was deleted in another window')).toHaveCount(0)
  expect((await api.piece(id)).draft.name).toBe('Still wanted')
  await api.remove(id)
  await name(page).fill('No more')
  await page.keyboard.press('Enter')
  await page.getByRole('button', { name: 'Discard changes' }).click()
  await expect(page.getByRole('heading', { name: 'On the site now' })).toBeVisible()
  // The list of what was deleted has it.
  await page.getByRole('button', { name: 'Deleted' }).click()
  await page.getByRole('button', { name: 'Restore Still wanted' }).click()
  await expect(page.getByRole('button', { name: 'Restore Still wanted' })).toHaveCount(0)
  expect((await api.piece(id)).state).toBe('draft')
})

test('discarding changes brings back all that is live, its schedule and its format on phones too', async ({ page }) => {
  const piece = await api.live('Back to live')
  const now = await api.piece(piece.id)
  await api.save(piece.id, now.version, { ...now.draft, phone_format: 'bar', schedule: { from: '2027-01-01T09:00' } })
  await page.goto(`/sites/1/pieces/${piece.id}/launch`)
  await page.getByRole('button', { name: 'Discard changes' }).click()
  await saved(page)
  const { draft } = await api.piece(piece.id)
  expect(draft.phone_format).toBeUndefined()
  expect(draft.schedule?.from).toBeUndefined()
  await piece.end()
})

test('undo while typing the name is the name’s own', async ({ page }) => {
  const { id } = await api.make('Undone')
  await page.goto(`/sites/1/pieces/${id}/compose`)
  await page.getByRole('button', { name: 'Add text' }).first().click()
  await saved(page)
  const blocks = async () => (await api.piece(id)).draft.split.variants[0].design.scenes[0].blocks.length
  const before = await blocks()
  await name(page).click()
  await page.keyboard.type('x')
  await page.keyboard.press('Control+z')
  await page.keyboard.press('Enter')
  await saved(page)
  expect(await blocks()).toBe(before)
})

test('what a field asks for changes, and what was collected stays under its name', async ({ page }) => {
  const piece = await api.live('Collected')
  await page.goto(`/sites/1/pieces/${piece.id}/compose?block=name`)
  await choose(page.getByLabel('Field type'), 'Short text')
  await saved(page)
  const field = (await api.piece(piece.id)).draft.split.variants[0].design.scenes[0].blocks.find(b => b.id === 'name')!
  expect(field.kind === 'field' && field.ask).not.toBe('name')
  expect(field.kind === 'field' && field.key).toBe('name')
  await piece.end()
})

/** The name as the server has it. */
const nameNow = async (id: string) => (await api.piece(id)).draft.name

test('of two windows one takes what the other saved, and nothing is sent after that', async ({ page, context }) => {
  const { id } = await api.make('One of two')
  const path = `/sites/1/pieces/${id}/compose`
  await page.goto(path)
  await saved(page)
  const other = await windowOf(context, path)
  await name(other).fill('By the other')
  await other.keyboard.press('Enter')
  await saved(other)
  const sent: string[] = []
  page.on('request', r => r.method() === 'PUT' && sent.push(r.url()))
  await page.evaluate(() => dispatchEvent(new Event('blur')))
  await name(page).fill('By this one')
  await page.keyboard.press('Enter')
  const dialog = page.getByRole('dialog', { name: 'This was changed in another window' })
  await dialog.getByRole('button', { name: 'Use the other window’s' }).click()
  await expect(name(page)).toHaveValue('By the other')
  await saved(page)
  const until = sent.length
  await page.waitForTimeout(1500)
  expect(sent.length).toBe(until)
  expect(await nameNow(id)).toBe('By the other')
  // And the other way: mine over theirs.
  await name(other).fill('Once more')
  await other.keyboard.press('Enter')
  await saved(other)
  await name(page).fill('Mine after all')
  await page.keyboard.press('Enter')
  await dialog.getByRole('button', { name: 'Keep mine' }).click()
  await saved(page)
  expect(await nameNow(id)).toBe('Mine after all')
})

test('each window keeps its own work while the network is cut; closed, it is found by the next that opens the piece', async ({ page, context }) => {
  const { id } = await api.make('Cut off')
  const path = `/sites/1/pieces/${id}/compose`
  await page.goto(path)
  await saved(page)
  const other = await windowOf(context, path)
  await saved(other)
  const cut = (on: Page) => on.route(`**/api/sites/*/pieces/${id}`, r => (r.request().method() === 'PUT' ? r.abort() : r.continue()))
  await cut(page)
  await cut(other)
  for (const [on, text] of [
    [page, 'Typed here'],
    [other, 'Typed there'],
  ] as const) {
    await name(on).fill(text)
    await on.keyboard.press('Enter')
    await expect(on.locator('[data-standing=away]')).toBeVisible()
  }
  // One is closed as a crash closes it; the other saves, which does not remove what the first had.
  await other.close({ runBeforeUnload: false })
  await page.unroute(`**/api/sites/*/pieces/${id}`)
  await saved(page)
  expect(await nameNow(id)).toBe('Typed here')
  await page.reload()
  // It had been sent, and might have arrived: it is sent again first, and then is a conflict like any other.
  await expect(name(page)).toHaveValue('Typed there')
  await page.getByRole('dialog', { name: 'This was changed in another window' }).getByRole('button', { name: 'Keep mine' }).click()
  await saved(page)
  expect(await nameNow(id)).toBe('Typed there')
})

test('a save whose answer is lost is no conflict, whatever is typed meanwhile', async ({ page }) => {
  const { id } = await api.make('Lost')
  await page.goto(`/sites/1/pieces/${id}/compose`)
  await saved(page)
  let lost = 1
  await page.route(`**/api/sites/*/pieces/${id}`, async r => {
    if (r.request().method() !== 'PUT' || lost-- <= 0) return r.continue()
    await r.fetch()
    await r.abort()
  })
  await name(page).fill('Arrived unanswered')
  await page.keyboard.press('Enter')
  await expect(page.locator('[data-standing=away]')).toBeVisible()
  await name(page).fill('Typed since')
  await page.keyboard.press('Enter')
  await saved(page)
  await expect(page.getByText('This was changed in another window')).toHaveCount(0)
  expect(await nameNow(id)).toBe('Typed since')
})

test('what is saved while one is elsewhere is saved, and the way back finds it', async ({ page }) => {
  const { id } = await api.make('Left in a hurry')
  await page.goto(`/sites/1/pieces/${id}/compose`)
  await saved(page)
  let cut = true
  await page.route(`**/api/sites/*/pieces/${id}`, r => (cut && r.request().method() === 'PUT' ? r.abort() : r.continue()))
  await name(page).fill('Saved from the board')
  await page.keyboard.press('Enter')
  await page.getByRole('link', { name: 'Board', exact: true }).click()
  await page.waitForURL('**/board')
  cut = false
  await expect.poll(() => nameNow(id)).toBe('Saved from the board')
  await page.goBack()
  await expect(name(page)).toHaveValue('Saved from the board')
  await saved(page)
})

test('an upload that ends after one has gone elsewhere goes where it began; a dropped file never replaces the studio', async ({ page }) => {
  const [a, b] = [await api.make('Gets the picture'), await api.make('Gets none')]
  const pictures = async (id: string) => JSON.stringify((await api.piece(id)).draft).split('"kind":"picture"').length - 1
  const before = [await pictures(a.id), await pictures(b.id)]
  await page.goto(`/sites/1/pieces/${b.id}/compose`)
  await page.goto(`/sites/1/pieces/${a.id}/compose`)
  await saved(page)
  let go = () => {}
  const held = new Promise<void>(done => (go = done))
  await page.route('**/api/sites/*/pictures?*', async r => {
    await held
    await r.continue()
  })
  const drop = (selector: string, type: string) =>
    page.locator(selector).evaluate(async (on, type) => {
      const canvas = Object.assign(document.createElement('canvas'), { width: 40, height: 30 })
      canvas.getContext('2d')!.fillRect(0, 0, 20, 20)
      const blob = await new Promise<Blob | null>(done => canvas.toBlob(done))
      const files = new DataTransfer()
      files.items.add(new File([blob!], 'shelf.png', { type }))
      const r = on.getBoundingClientRect()
      return !on.dispatchEvent(
        new DragEvent('drop', { dataTransfer: files, bubbles: true, cancelable: true, clientX: r.left + r.width / 2, clientY: r.top + r.height / 2 }),
      )
    }, type)
  expect(await drop('[data-stage]', 'image/png')).toBe(true)
  await page.getByRole('link', { name: 'Board', exact: true }).click()
  await page.getByRole('article', { name: 'Gets none' }).getByRole('link').first().click()
  await expect(name(page)).toHaveValue('Gets none')
  go()
  await expect.poll(() => pictures(a.id)).toBe(before[0] + 1)
  expect(await pictures(b.id)).toBe(before[1])
  // What is no picture is said, wherever it is dropped nothing is left.
  expect(await drop('[data-stage]', 'application/pdf')).toBe(true)
  await expect(page.getByText('Drop a picture here')).toBeVisible()
  expect(await drop('nav[aria-label=Piece]', 'image/png')).toBe(true)
})

test('a screen whose script cannot be loaded says so between its places, and comes once it can', async ({ page, context }) => {
  const { id } = await api.make('Cut off')
  const to = (place: string) => page.getByRole('navigation', { name: 'Piece' }).getByRole('link', { name: new RegExp(`^${place}`) })
  const missing = page.getByRole('alert').filter({ hasText: 'Could not load this screen.' })
  const again = missing.getByRole('button', { name: 'Try again' })
  await page.goto(`/sites/1/pieces/${id}/reach`)
  await expect(page.getByRole('heading', { name: 'Show it when' })).toBeVisible()
  await context.setOffline(true)
  await to('Launch').click()
  await expect(missing).toBeVisible()
  await again.click()
  await expect(missing).toBeVisible()
  await to('Reach').click()
  await expect(page.getByRole('heading', { name: 'Show it when' })).toBeVisible()
  await to('Launch').click()
  await expect(missing).toBeVisible()
  await context.setOffline(false)
  await expect(page.getByRole('heading', { name: /can be launched|cannot be launched/ })).toBeVisible()
  // What would have stood over the screen says so over it, and can be closed.
  await to('Compose').click()
  await expect(stage(page).locator('.frame')).toBeVisible()
  await context.setOffline(true)
  const map = page.getByRole('region', { name: 'Scenes' }).getByRole('button', { name: 'Map' })
  await map.click()
  const part = page.getByRole('dialog').filter({ hasText: 'Could not load this part.' })
  await part.getByRole('button', { name: 'Close' }).click()
  await expect(part).toHaveCount(0)
  await map.click()
  await expect(part).toBeVisible()
  await context.setOffline(false)
  await expect(page.getByRole('dialog')).toContainText('Map of scenes')
  await page.keyboard.press('Escape')
  // Of another version there is no such script any more: the window comes anew.
  const gone = '**/assets/PieceResults-*.js'
  await page.route(gone, r => r.fulfill({ status: 404 }))
  await to('Results').click()
  await expect(missing).toBeVisible()
  await Promise.all([page.waitForEvent('load'), again.click()])
  await expect(missing).toBeVisible()
  await page.unroute(gone)
  await Promise.all([page.waitForEvent('load'), page.reload()])
  await expect(page.getByRole('region', { name: 'Verdict' })).toBeVisible()
})
