import { execFileSync } from 'node:child_process'
import { mkdtempSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { expect, test } from '@playwright/test'
import type { Rule } from '../kinds/reach'
import { type Random, random, randomRule } from '../tests/random'
import { shop, studio } from './api'

// What the marketer rehearses is what visitors get: the page's own watcher, in
// a real page under a clock of the test's, and the core's replay of the same
// stay, must find the same second for the same rule.

interface Stay {
  seconds: number
  /** One thing a second at most, by second. */
  acts: Record<number, { scroll: number } | { click: string } | { event: string } | 'exit' | 'move'>
}

const clauses = [
  (r: Random): Rule => ({ fact: 'moment.seconds_on_page', op: 'gte', value: r(45) }),
  (r: Random): Rule => ({ fact: 'moment.scroll_percent', op: 'gte', value: r(11) * 10 }),
  (r: Random): Rule => ({ fact: 'moment.idle_seconds', op: 'gte', value: 5 + r(12) }),
  (): Rule => ({ fact: 'moment.exit_intent', op: 'happened' }),
  (r: Random): Rule => ({ fact: 'moment.click', op: 'happened', value: r(2) ? '#a' : '#b' }),
  (r: Random): Rule => ({ fact: 'moment.event', op: 'happened', ...(r(3) && { value: r(2) ? 'filled' : 'emptied' }) }),
]

/** A stay with one long idle at most: a replay asks for the first that is long enough, and no later one. */
function stay(r: Random): Stay {
  const seconds = 3 + r(45)
  const acts: Stay['acts'] = {}
  let depth = 0
  let still = 0
  let idled = false
  for (let s = 1; s <= seconds; s++) {
    const restless = idled && s - still >= 4
    if (r(4) && !restless) continue
    depth = Math.min(100, depth + r(30))
    const act = restless ? 'move' : ([{ scroll: depth }, { click: r(2) ? '#a' : '#b' }, { event: r(2) ? 'filled' : 'emptied' }, 'exit', 'move'] as const)[r(5)]
    acts[s] = act
    if (act !== 'move' && !(typeof act === 'object' && 'scroll' in act)) continue
    idled ||= s - still >= 5
    still = s
  }
  return { seconds, acts }
}

/** The stay as a line of a visit log. */
function line(s: Stay, i: number) {
  const marks: number[] = []
  const idles: [number, number][] = []
  const happened: [string, string, number][] = []
  let exit: number | undefined
  let still = 0
  for (const [at, act] of Object.entries(s.acts).map(([at, act]) => [Number(at), act] as const)) {
    if (act === 'exit') exit ??= at
    else if (act !== 'move' && 'click' in act) happened.push(['click', act.click, at])
    else if (act !== 'move' && 'event' in act) happened.push(['event', act.event, at])
    else {
      if (act !== 'move') while (marks.length < Math.floor(act.scroll / 10)) marks.push(at)
      if (at > still) idles.push([still, at - still])
      still = at
    }
  }
  if (s.seconds > still) idles.push([still, s.seconds - still])
  return {
    visitor: `v${i}`,
    visit: `v${i}`,
    at: '2026-11-24T10:00:00Z',
    facts: { 'page.path': `/${i}` },
    seconds: s.seconds,
    scroll_marks: marks,
    exit_at: exit,
    idles,
    happened,
  }
}

test('the watcher and the rehearsal find the same second', async ({ page }) => {
  const r = random(20261124)
  const cases = Array.from({ length: 600 }, () => ({ rule: randomRule(r, 3, clauses), stay: stay(r) }))

  const log = join(mkdtempSync(join(tmpdir(), 'gobbet-watch-')), 'visits.ndjson')
  writeFileSync(log, cases.map((c, i) => JSON.stringify(line(c.stay, i))).join('\n'))
  const inputs = cases.map((c, i) => JSON.stringify({ rule: { all: [{ fact: 'page.path', op: 'is', value: `/${i}` }, c.rule] }, caps: {} }))
  const said = execFileSync('../bin/gobbet', ['rehearse', '--visits', log], { input: inputs.join('\n'), maxBuffer: 1 << 28 })
  const waits: (number | null)[] = said
    .toString()
    .trim()
    .split('\n')
    .map(text => JSON.parse(text).typical_wait)

  await page.route(`${shop}/watched`, route =>
    route.fulfill({ contentType: 'text/html', body: '<body><button id="a">a</button><button id="b">b</button><p style="height:4000px">long</p>' }),
  )
  await page.addInitScript(() => {
    // A clock that moves when told, and a page that scrolls when told.
    let t = 0
    let named = 0
    const due = new Map<number, { at: number; does: () => void }>()
    performance.now = () => t
    Object.assign(window, {
      setTimeout: (does: () => void, ms: number) => due.set(++named, { at: t + ms, does }) && named,
      clearTimeout: (name: number) => due.delete(name),
      requestAnimationFrame: (does: () => void) => does(),
      forward: (ms: number) => {
        const end = t + ms
        for (;;) {
          const next = [...due].filter(([, one]) => one.at <= end).sort(([, a], [, b]) => a.at - b.at)[0]
          if (!next) break
          due.delete(next[0])
          t = Math.max(t, next[1].at)
          next[1].does()
        }
        t = end
      },
      rewind: () => {
        t = 0
        due.clear()
      },
      depth: 0,
    })
    Object.defineProperty(window, 'scrollY', { get: () => ((window as any).depth / 100) * (document.documentElement.scrollHeight - innerHeight) })
  })
  await page.goto(`${shop}/watched`)
  const decided = await page.request.post(`${studio}/v1/sites/quillfern/decide`, { headers: { Origin: shop }, data: { url: shop, memory: {} } })
  const { watcher } = await decided.json()
  const loader = await page.request.get(`${studio}/v1/gobbet.js`)
  const seen = await page.evaluate(
    async ({ cases, watcher, visit }) => {
      const { watch, holds } = await import(watcher)
      const { openLife } = await import(visit)
      const w = window as any
      return cases.map(c => {
        w.rewind()
        w.depth = 0
        let second = 0
        let first: number | null = null
        const life = openLife()
        const eyes = watch({ start: 0, began: 0 }, look, life)
        function look() {
          if (first === null && eyes && holds(c.rule, eyes.come)) first = second
        }
        eyes.rules([c.rule])
        look()
        for (second = 1; second <= c.stay.seconds; second++) {
          w.forward(1000)
          const act = c.stay.acts[second]
          if (act === 'exit') {
            document.dispatchEvent(new MouseEvent('mousemove', { clientY: 300 }))
            document.dispatchEvent(new MouseEvent('mouseout', { clientY: -3, relatedTarget: null }))
          } else if (act === 'move') window.dispatchEvent(new Event('keydown'))
          else if (act && 'click' in act) document.querySelector<HTMLElement>(act.click)!.click()
          else if (act && 'event' in act) eyes.happened(act.event)
          else if (act) {
            w.depth = act.scroll
            window.dispatchEvent(new Event('scroll'))
          }
          look()
        }
        life.end()
        return first
      })
    },
    { cases, watcher: studio + watcher, visit: studio + (await loader.text()).match(/\/v1\/visit-[^"'`]+/)![0] },
  )
  const came = waits.filter(w => w !== null).length
  expect(came).toBeGreaterThan(150)
  expect(waits.filter(w => w !== null && w > 0).length).toBeGreaterThan(80)
  for (const [i, c] of cases.entries()) expect(seen[i], `${JSON.stringify(c)} came at`).toBe(waits[i])
})
