import { expect, type Page, test } from '@playwright/test'
import { Api, shop, signIn } from './api'
import { saved, scene, settings } from './designer'

// What Launch looks at: in the piece, on the site's pages, and among the other
// pieces; and the way to see it live.

let api: Api
test.beforeAll(async () => {
  api = await Api.open()
})
test.beforeEach(({ page }) => signIn(page))

const looked = (page: Page) => page.getByRole('list', { name: 'What was looked at' })

test('text that is still as it began, a page that is missing, and what is not on the page are said before launch', async ({ page }) => {
  const made = await api.make('Looked over')
  const doc = made.draft
  doc.rule = {
    all: [
      { fact: 'page.path', op: 'is', value: '/classes' },
      { fact: 'moment.click', op: 'happened', value: '#no-such-button' },
    ],
  }
  scene(doc).blocks.push({ kind: 'button', id: 'more', words: 'Read more', press: { do: 'open', address: '/no-such-page' }, counts: false, quiet: true })
  scene(doc, 1).blocks.push({ kind: 'button', id: 'there', words: 'The classes', press: { do: 'open', address: '/classes' }, counts: false, quiet: true })
  await api.save(made.id, 1, doc)
  await page.goto(`/sites/1/pieces/${made.id}/launch`)
  await expect(page.getByText('“Say what they get” is still as it began.')).toBeVisible()
  const lines = looked(page)
  await expect(lines.getByText('#no-such-button')).toBeVisible()
  await expect(lines.locator('[data-looked=look]').filter({ hasText: 'was not found on /classes' })).toBeVisible()
  await expect(lines.getByText('It leads to /no-such-page, which the site does not have.')).toBeVisible()
  await expect(lines.getByText('It leads to /classes, which is there.')).toBeVisible()
  // What it can find is found, and its own text is no matter any more.
  const blocks = scene(doc).blocks
  for (const b of [...blocks, ...scene(doc, 1).blocks]) if (b.kind === 'heading' || b.kind === 'text') b.text = 'Own words'
  doc.rule = {
    all: [
      { fact: 'page.path', op: 'is', value: '/classes' },
      { fact: 'moment.click', op: 'happened', value: 'main h1' },
    ],
  }
  await api.save(made.id, 2, doc)
  await page.reload()
  await expect(lines.locator('[data-looked=fine]').filter({ hasText: 'main h1 is on /classes' })).toBeVisible()
  await expect(page.getByText('is still as it began')).toHaveCount(0)
})

test('what it takes the place of, what takes its, and the site’s limits are counted; once live it is seen on its page', async ({ page, context }) => {
  const made = await api.make('Among others')
  const doc = made.draft
  for (const b of [...scene(doc).blocks, ...scene(doc, 1).blocks]) if (b.kind === 'heading' || b.kind === 'text') b.text = 'Own words'
  doc.rule = {
    all: [
      { fact: 'page.path', op: 'is', value: '/classes' },
      { fact: 'moment.seconds_on_page', op: 'gte', value: 4 },
    ],
  }
  await api.save(made.id, 1, doc)
  await page.goto(`/sites/1/pieces/${made.id}/launch`)
  await expect(page.getByRole('heading', { name: 'No issues' })).toBeVisible()
  const lines = looked(page)
  await expect(lines.getByText('Its form asks for “First name”, “Email”, and a button sends it.')).toBeVisible()
  await expect(lines.getByText(/It would have shown to [\d,]+ of [\d,]+ recorded visitors in the last 28 days\./)).toBeVisible()
  const shown = await lines.getByText(/It would have shown to/).textContent()
  // The line of Reach has the same number.
  const n = /shown to ([\d,]+)/.exec(shown!)![1]
  await expect(page.getByRole('navigation', { name: 'Piece' }).getByRole('link', { name: /^Reach/ })).toContainText(`${n} visitor`)
  await page.getByRole('button', { name: 'Launch', exact: true }).click()
  await expect(page.getByRole('heading', { name: 'Live.', exact: true })).toBeVisible()
  const tab = context.waitForEvent('page')
  await page.getByRole('button', { name: 'See it live' }).click()
  const there = await tab
  await there.waitForURL(`${shop}/classes**`)
  const inspector = there.locator('gobbet-inspector')
  await expect(inspector).toContainText('Among others')
  await inspector.getByRole('button', { name: 'Show it anyway' }).first().click()
  await expect(there.getByRole('dialog').getByRole('heading', { name: 'Own words' })).toBeVisible()
  await there.close()
  await api.pause(made.id)
})

test('a bar that takes over a fifth of a phone is told, in Compose and before launch', async ({ page }) => {
  const made = await api.make('A tall bar', 'bar')
  const [first] = scene(made.draft).blocks
  Object.assign(first, {
    kind: 'heading',
    text: 'A very long line that goes on and on, with all there is to know of the kiln, the clay and the glaze. '.repeat(3),
    size: 30,
  })
  await api.save(made.id, 1, made.draft)
  await page.goto(`/sites/1/pieces/${made.id}/launch`)
  await expect(page.getByText(/On a small phone the bar covers \d+ % of the window/)).toBeVisible()
  await page.goto(`/sites/1/pieces/${made.id}/compose`)
  await saved(page)
  await expect(settings(page).locator('[data-note=bar_tall]')).toBeVisible()
})
