import { execFileSync } from 'node:child_process'
import { readFileSync } from 'node:fs'
import AxeBuilder from '@axe-core/playwright'
import { expect, type Page, test } from '@playwright/test'
import type { Drawing, Format } from '../kinds/piece'
import type { TemplateList } from '../kinds/studio'
import type { DecideAnswer } from '../kinds/visitor'
import { inFormat } from '../studio/design/formats'
import { Api, shop, signIn, studio } from './api'

// Every template as it will stand on a page. SWEEP=1 goes through all of
// them in every format and width; without it, each in its own format at one of
// the widths, and a share of the rest that is another each day (TURN=3 takes that
// of a day).

const full = !!process.env.SWEEP
const turn = Number(process.env.TURN ?? Math.floor(Date.now() / 86_400_000))
const widths = [360, 768, 1280]
const formats: Format[] = ['popup', 'fly_in', 'bar', 'full', 'sheet', 'inline']

let api: Api
let list: TemplateList
test.beforeAll(async () => {
  api = await Api.open()
  list = await api.templates()
  execFileSync('npx', ['vite', 'build', '-c', 'vite.page.config.ts', '--outDir', out, '--logLevel', 'error'], { env: { ...process.env, PART: 'still' } })
})

/** What draws pieces as they stand; no page of the product has it. */
const out = 'e2e/.out/still'

/** A page of the shop with what draws pieces as they stand, and shows them, on it. */
async function withRenderer(page: Page) {
  await page.route(`${shop}/e2e/still.js`, route => route.fulfill({ contentType: 'text/javascript', body: readFileSync(out + '/still.js', 'utf8') }))
  await page.goto(`${shop}/e2e/templates`)
  const decided = await api.context.post('/v1/sites/quillfern/decide', { headers: { Origin: shop }, data: { url: shop, memory: {} } })
  const at: DecideAnswer = await decided.json()
  await page.evaluate(
    async ([still, renderer, base, at]) => {
      const { draw, install } = await import(still)
      const load = (name: 'walk' | 'extras' | 'play' | 'draw' | 'chat' | 'frames') => import(base + at[name])
      for (const name of ['extras', 'play', 'draw', 'chat', 'frames'] as const) install(name, await load(name))
      const { show } = await import(renderer)
      Object.assign(window, { renderer: { draw, show: (host: object) => show({ ...host, load }) } })
    },
    [`${shop}/e2e/still.js`, studio + at.renderer, studio, at] as const,
  )
}

const as = (drawing: Drawing, to: Format): Drawing => inFormat(drawing, to, list.frames)

test('a start takes another format alike in the studio and on the server', async () => {
  for (const [i, s] of list.templates.entries()) {
    const to = formats[i % formats.length]
    const made = await api.make(`${s.id} as ${to}`, to, s.id)
    expect(made.draft.split.variants[0].design.frame, `${s.id} as ${to}`).toEqual(as(s.drawing, to).frame)
    await api.remove(made.id)
  }
})

test('no serious accessibility finding in any of them, on a phone, a tablet and a desktop', async ({ page }) => {
  test.setTimeout(full ? 1_800_000 : 300_000)
  await withRenderer(page)
  // Another format than its own is tried where there is least room.
  for (const [w, width] of widths.entries())
    for (const format of full ? formats : width === 360 ? [undefined, formats[turn % formats.length]] : [undefined]) {
      await page.setViewportSize({ width, height: 800 })
      await page.evaluate(
        async ([drawings, base, width]) => {
          document.body.replaceChildren()
          document.body.style.cssText = 'margin:0;background:#fff'
          const { renderer } = window as unknown as { renderer: { draw(e: HTMLElement, d: unknown, scene: string, look: object): ShadowRoot } }
          for (const d of drawings as Drawing[])
            for (const scene of d.scenes) {
              const box = document.createElement('main')
              box.style.cssText = `display:block;position:relative;width:${width}px;height:800px;transform:translateZ(0);overflow:hidden`
              box.setAttribute('aria-label', `${d.format} ${scene.id}`)
              document.body.append(box)
              renderer.draw(box, d, scene.id, { base, phone: (width as number) <= 600 })
            }
          await document.fonts.ready
        },
        [
          list.templates.filter((_, i) => full || (i + w) % widths.length === turn % widths.length).map(s => (format ? as(s.drawing, format) : s.drawing)),
          studio,
          width,
        ] as const,
      )
      const found = await new AxeBuilder({ page })
        .options({ resultTypes: ['violations'] })
        .withTags(['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa'])
        .disableRules(['html-has-lang', 'document-title', ...(full || width === 360 ? [] : ['color-contrast'])])
        .analyze()
      const serious = found.violations.filter(v => v.impact === 'serious' || v.impact === 'critical')
      expect(
        serious.map(
          v =>
            `${width} ${format ?? ''} ${v.id}: ${v.nodes
              .slice(0, 4)
              .map(n => `${n.target.at(-1)} ${n.any.map(a => a.message).join()} ${n.html.slice(0, 120)}`)
              .join(' | ')}`,
        ),
      ).toEqual([])
    }
})

test('nothing is cut off sideways at any width', async ({ page }) => {
  await withRenderer(page)
  for (const width of widths) {
    await page.setViewportSize({ width, height: 800 })
    const wide = await page.evaluate(
      async ([drawings, base, width]) => {
        const { renderer } = window as unknown as { renderer: { draw(e: HTMLElement, d: unknown, scene: string, look: object): ShadowRoot } }
        const box = document.createElement('div')
        box.style.cssText = `position:absolute;left:0;top:0;width:${width}px;height:800px;transform:translateZ(0);overflow:hidden`
        document.body.append(box)
        const wrong: string[] = []
        for (const [name, d] of drawings as [string, Drawing][]) {
          const root = renderer.draw(box, d, d.scenes[0].id, { base, phone: (width as number) <= 600 })
          const frame = root.querySelector('[data-frame]') as HTMLElement
          const r = frame.getBoundingClientRect()
          if (frame.scrollWidth > frame.clientWidth + 1 || r.left < -1 || r.right > (width as number) + 1) wrong.push(name)
        }
        box.remove()
        return wrong
      },
      [list.templates.flatMap(s => formats.map(f => [`${s.id} as ${f} at ${width}`, as(s.drawing, f)] as [string, Drawing])), studio, width] as const,
    )
    expect(wide).toEqual([])
  }
})

test('the studio’s canvas and the shop show the same pixels', async ({ page, context }) => {
  test.setTimeout(full ? 1_200_000 : 240_000)
  await signIn(page)
  await page.setViewportSize({ width: 1900, height: 1000 })
  const site = await context.newPage()
  await site.emulateMedia({ reducedMotion: 'reduce' })
  await site.setViewportSize({ width: 1100, height: 696 })
  await withRenderer(site)
  // Timers show another second, inline pieces stand where the page has room for them, chats begin
  // folded, what is computed comes with a launch, as do the odds of a draw, and a way back shows
  // in the studio alone on the scene that a visitor begins with.
  const all = list.templates.filter(
    s =>
      !/inline|chat/.test(s.format) &&
      !/"timer"|"formula"|"odds":true/.test(JSON.stringify(s.drawing)) &&
      !JSON.stringify(s.drawing.scenes[0]).includes('"do":"back"'),
  )
  const wrong: string[] = []
  const few = ['letter-with-a-picture', 'plain-letter', 'one-line-letter', 'two-ways-on', 'sale-is-on', 'join-at-the-side', 'how-likely-0-to-10']
  const share = 24 // of days, until all were compared
  for (const s of full ? all : all.filter((s, i) => (few.includes(s.id) && few.indexOf(s.id) % 2 === turn % 2) || i % share === turn % share)) {
    const made = await api.make(`Pixels of ${s.id}`, s.format, s.id)
    await page.goto(`/sites/1/pieces/${made.id}/compose`)
    const drawn = page.locator('[data-stage] .frame')
    await expect(drawn).toBeVisible()
    // The page is as wide as it is, once the window is known.
    await expect.poll(() => page.locator('[data-stage]').evaluate(e => e.getBoundingClientRect().width)).toBe(1100)
    await page.evaluate(async () => {
      const over = document.querySelector('[data-stage]')!.nextElementSibling as HTMLElement
      over.style.display = 'none'
      await document.fonts.ready
      await new Promise(done => setTimeout(done, 150))
    })
    await site.evaluate(
      async ([drawing, base]) => {
        for (const e of document.querySelectorAll('gobbet-piece')) e.remove()
        const { renderer } = window as unknown as { renderer: { show(host: object): Promise<void> } }
        await renderer.show({ id: 'x', drawing, base, converted() {}, ended() {} })
        await document.fonts.ready
        await new Promise(done => setTimeout(done, 150))
      },
      [s.drawing, studio] as const,
    )
    await expect(site.locator('.frame')).toBeVisible()
    const shot = async (p: Page, frame: ReturnType<Page['locator']>) => {
      const r = (await frame.boundingBox())!
      const edge = 14 // rounded corners and what shows around them
      return {
        size: [Math.round(r.width), Math.round(r.height)],
        png: (await p.screenshot({ clip: { x: r.x + edge, y: r.y + edge / 2, width: r.width - 2 * edge, height: Math.min(r.height, 696) - edge } })).toString(
          'base64',
        ),
      }
    }
    const [a, b] = [await shot(page, drawn), await shot(site, site.locator('.frame'))]
    if (a.size.join() !== b.size.join()) {
      wrong.push(`${s.id}: ${a.size} in the studio, ${b.size} on the shop`)
      continue
    }
    const differ = await site.evaluate(
      async ([a, b]) => {
        const pixels = async (png: string) => {
          const img = await createImageBitmap(await (await fetch(`data:image/png;base64,${png}`)).blob())
          const c = new OffscreenCanvas(img.width, img.height).getContext('2d')!
          c.drawImage(img, 0, 0)
          return c.getImageData(0, 0, img.width, img.height).data
        }
        const [x, y] = [await pixels(a), await pixels(b)]
        if (x.length !== y.length) return 1
        let n = 0
        for (let i = 0; i < x.length; i += 4) if (Math.max(Math.abs(x[i] - y[i]), Math.abs(x[i + 1] - y[i + 1]), Math.abs(x[i + 2] - y[i + 2])) > 24) n++
        return n / (x.length / 4)
      },
      [a.png, b.png],
    )
    if (differ >= 0.002) wrong.push(`${s.id}: ${(differ * 100).toFixed(2)} % of the pixels differ`)
  }
  expect(wrong).toEqual([])
})
