import { expect, type Page, test } from '@playwright/test'
import type { Block } from '../kinds/piece'
import { Api, signIn } from './house'

// How soon the designer paints what was typed and dragged, by the browser's own
// event timings and long frames: on a scene of sixty blocks against one with a single block.
// Run by make bench.

const least = 16 // ms; what is sooner than a frame is not told apart

async function timed(page: Page, id: string): Promise<{ typed: number[]; dragged: number[] }> {
  await page.goto(`/pieces/${id}/compose?block=b0`)
  const block = page.locator('[data-stage] [data-block=b0]')
  await expect(block).toBeVisible()
  await page.waitForLoadState('networkidle')
  // Moves are not among the browser's event timings; its frames of over 50 ms are.
  const watch = (type: 'event' | 'long-animation-frame') =>
    page.evaluate(type => {
      const kept: number[] = []
      const eye = new PerformanceObserver(list => {
        for (const e of list.getEntries()) if (type !== 'event' || /^(key|input|beforeinput)/.test(e.name)) kept.push(e.duration)
      })
      eye.observe({ type, durationThreshold: 16, buffered: false } as PerformanceObserverInit)
      Object.assign(window, { kept, eye })
    }, type)
  const read = async () => {
    await page.waitForTimeout(500)
    return page.evaluate(() => {
      const w = window as unknown as { kept: number[]; eye: PerformanceObserver }
      w.eye.disconnect()
      return w.kept
    })
  }
  await block.click()
  await block.click()
  await watch('event')
  await page.keyboard.type('The quick brown fox jumps over the lazy dog, twice over.', { delay: 60 })
  const typed = await read()
  await page.keyboard.press('Escape')
  const at = (await block.boundingBox())!
  await watch('long-animation-frame')
  await page.mouse.move(at.x + 60, at.y + at.height / 2)
  await page.mouse.down()
  for (let i = 0; i < 60; i++) {
    await page.mouse.move(at.x + 60, at.y + at.height / 2 + 4 * i)
    await page.waitForTimeout(24)
  }
  await page.mouse.up()
  return { typed, dragged: await read() }
}

const at = (list: number[], q: number) => (list.length ? list.sort((a, b) => a - b)[Math.floor(q * (list.length - 1))] : least)

test('typing and dragging on sixty blocks, against one', async ({ page }) => {
  test.setTimeout(300_000)
  await signIn(page)
  const api = await Api.open()
  const make = async (n: number) => {
    const made = await api.make(`Bench of ${n}`)
    const s = made.draft.split.variants[0].design.scenes[0]
    s.blocks = [
      ...Array.from(
        { length: n },
        (_, i): Block =>
          i % 6 === 5
            ? { kind: 'field', id: `b${i}`, ask: 'text', key: `k${i}`, label: `Field ${i}`, required: false }
            : { kind: 'text', id: `b${i}`, text: `Line ${i}`, size: 15, align: 'start' },
      ),
      s.blocks.at(-1)!,
    ]
    await api.save(made.id, 1, made.draft)
    return made.id
  }
  const one = await timed(page, await make(1))
  const sixty = await timed(page, await make(60))
  const [a, b] = [one.typed, sixty.typed]
  console.log(
    `typed: median ${at(b, 0.5)} ms, 95th ${at(b, 0.95)} ms, worst ${at(b, 1)} ms on 60 blocks (${b.length} entries of at least ${least} ms); ` +
      `${at(a, 0.5)}, ${at(a, 0.95)}, ${at(a, 1)} on one (${a.length}); ratio of the 95ths ${(at(b, 0.95) / at(a, 0.95)).toFixed(2)}`,
  )
  const worst = (list: number[]) => (list.length ? `${Math.round(Math.max(...list))} ms at worst` : 'none')
  console.log(
    `dragged, 60 moves: frames over 50 ms on 60 blocks ${sixty.dragged.length} (${worst(sixty.dragged)}), on one ${one.dragged.length} (${worst(one.dragged)})`,
  )
})
