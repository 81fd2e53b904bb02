import { type BrowserContext, expect, type Page, test } from '@playwright/test'
import { Api, signIn } from './api'

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
  // Meanwhile another window saves.
  await api.setKit({ ...before, corners: 9 })
  await page.getByRole('button', { name: 'Save for the whole site' }).click()
  await expect(page.getByText('This was changed in another window.')).toBeVisible()
  expect((await api.kit()).corners).toBe(9)
  await page.getByRole('button', { name: 'Keep my changes' }).click()
  await page.getByRole('button', { name: 'Save for the whole site' }).click()
  await expect.poll(async () => (await api.kit()).corners).toBe(21)
  const other = await windowOf(context, '/sites/1/settings/style')
  await expect(other.getByLabel('Frame corners')).toHaveValue('21')
  await other.close()
  await api.setKit(before)
})

test('the site and its settings: the later window is told, and may take what is there', async ({ page }) => {
  await page.goto('/sites/1/settings')
  const form = page.locator('form').filter({ has: page.getByLabel('Domains, one per line') })
  await form.getByLabel('Name').fill('Quillfern of Cork')
  const settings = page.locator('form').filter({ hasText: 'Frequency and tracking' })
  await settings.getByLabel('Visitors recorded').fill('80')
  await page.keyboard.press('Tab')
  const now = await api.siteNow()
  await api.context.put(`/api/sites/${api.site}`, { data: { version: now.version, name: 'Quillfern & Co', zone: now.zone, origins: now.origins } })
  await api.settings({ record: 60 })
  await form.getByRole('button', { name: 'Save' }).click()
  await expect(form.getByText('This was changed in another window.')).toBeVisible()
  await form.getByRole('button', { name: 'Discard my changes' }).click()
  await expect(form.getByLabel('Name')).toHaveValue('Quillfern & Co')
  await settings.getByRole('button', { name: 'Discard my changes' }).click()
  await expect(settings.getByLabel('Visitors recorded')).toHaveValue('60')
  const after = await api.siteNow()
  await api.context.put(`/api/sites/${api.site}`, { data: { version: after.version, name: now.name, zone: now.zone, origins: now.origins } })
  await api.settings({ record: 100 })
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
  await page.getByLabel('Field type').click()
  await page.getByRole('option', { name: 'Short text' }).click()
  await saved(page)
  const field = (await api.piece(piece.id)).draft.split.variants[0].design.scenes[0].blocks.find(b => b.id === 'name')!
  expect(field.kind === 'field' && field.ask).not.toBe('name')
  expect(field.kind === 'field' && field.key).toBe('name')
  await piece.end()
})
