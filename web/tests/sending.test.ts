import { beforeEach, expect, test, vi } from 'vitest'
import type { Placement } from '../kinds/choose'
import type { AdvanceAnswer, WalkRef } from '../kinds/visitor'
import type { Context } from '../page/context'
import { bodiesOf, track } from '../page/events'
import { keep, openMemory } from '../page/memory'
import { openSending } from '../page/sending'

// What the browser keeps and sends, without a browser: storage that is full, denied
// or shared by two tabs, a server that is away, and pages that are left.

class Storage {
  kept = new Map<string, string>()
  full = false
  denied = false
  getItem(key: string) {
    if (this.denied) throw new Error('denied')
    return this.kept.get(key) ?? null
  }
  setItem(key: string, text: string) {
    if (this.denied || this.full) throw new Error('full')
    this.kept.set(key, text)
  }
  removeItem(key: string) {
    this.kept.delete(key)
  }
}

const lasting = new Storage()
const ofTab = new Storage()
beforeEach(() => {
  for (const s of [lasting, ofTab]) Object.assign(s, { kept: new Map(), full: false, denied: false })
  Object.assign(globalThis, {
    localStorage: lasting,
    sessionStorage: ofTab,
    location: { href: 'https://shop.test/a', pathname: '/a' },
    document: { referrer: '', addEventListener() {} },
    innerWidth: 1280,
    addEventListener() {},
  })
  vi.stubGlobal('navigator', {})
})

/** A page of the shop, whose server answers as told. */
function page(answers: (path: string, body: any) => { status: number; json?: unknown } | Error) {
  const asked: { path: string; body: any }[] = []
  const memory = openMemory('shop')
  const context = {
    api: '/v1',
    site: 'shop',
    memory,
    id: () => 'a'.repeat(32),
    keep,
    arrival: memory.arrive(),
    async post(path: string, body: unknown) {
      asked.push({ path, body: JSON.parse(JSON.stringify(body)) })
      const answer = answers(path, body)
      if (answer instanceof Error) throw answer
      return { ok: answer.status < 300, status: answer.status, json: async () => answer.json ?? {} }
    },
  } as unknown as Context
  context.sending = async () => openSending(context)
  return { context, memory, asked }
}

const placement = { piece: 'p', variant: 'a', design: 'd', slot: 'overlay' } as Placement
const walk = { id: 'w', piece: 'p', variant: 'a', design: 'd', visitor: 'v' } as WalkRef
const steps = (...scenes: string[]) => scenes.map(scene => ({ scene, values: { email: 'ann@example.com' }, at: 1000 }))
const stored = () => JSON.parse(lasting.kept.get('gobbet:shop:steps') ?? '{}')
const ok = (more: Partial<AdvanceAnswer> = {}) => ({ status: 200, json: { steps: 1, scene: 'thanks', token: 't1', ...more } })

test.each([
  ['lasting', () => {}, true],
  ['full, and so of the tab', () => Object.assign(lasting, { full: true }), true],
  ['full, both', () => Object.assign(lasting, { full: true }) && Object.assign(ofTab, { full: true }), false],
  ['denied', () => Object.assign(lasting, { denied: true }) && Object.assign(ofTab, { denied: true }), false],
] as const)('storage that is %s', (_, make, lasts) => {
  make()
  const kept = keep<number[]>('k', () => [])
  expect(kept.write([1, 2])).toBe(lasts)
  expect(kept.read()).toEqual([1, 2])
  expect(openMemory('shop').lasts()).toBe(lasts)
})

test('steps are kept before they are sent, and gone once the server has them', async () => {
  let during: unknown
  const { context, memory, asked } = page(() => {
    during = stored()
    return ok({ lead: true, tags: ['vip'] })
  })
  const way = openSending(context).walkOf(placement, context.arrival, 'de')
  const went = await way.advance(walk, steps('ask'), 0)
  expect(went.ok).toBe(true)
  expect(during).toMatchObject({ p: { request: { walk, from: 0, language: 'de' }, steps: [{ scene: 'ask' }] } })
  expect(stored()).toEqual({})
  expect(asked[0].body.steps[0]).toMatchObject({ scene: 'ask', ago: expect.any(Number) })
  // What the visitor is known by, and what lets the next page go on.
  expect(memory.read()).toMatchObject({ lead: true, tags: ['vip'] })
  expect(memory.begun('p')).toBe(true)
  await way.advance(walk, steps('more'), 1)
  expect(asked[1].body).toMatchObject({ token: 't1', from: 1 })
  expect(asked[1].body.walk).toBeUndefined()
})

test.each([
  ['a network that is gone', new Error('offline'), true],
  ['a server that is away', { status: 503, json: { title: 'Later.' } }, true],
  ['a server that is asked too much', { status: 429, json: { title: 'Slowly.' } }, true],
  ['a stranger between that refuses', { status: 403, json: undefined }, false],
  ['an answer that is refused', { status: 422, json: { title: 'No.', faults: [{ at: 'steps[0].values.email', message: 'No address.' }] } }, false],
] as const)('%s: what is kept', async (_, answer, kept) => {
  const { context } = page(() => answer as never)
  const went = await openSending(context).walkOf(placement, context.arrival).advance(walk, steps('ask'), 0)
  expect(went.ok).toBe(false)
  expect(Object.keys(stored())).toEqual(kept ? ['p'] : [])
})

test('the next page sends what an earlier one could not, and goes on from there', async () => {
  const before = page(() => new Error('offline'))
  await openSending(before.context).walkOf(placement, before.context.arrival).advance(walk, steps('ask'), 0)
  const { context, asked } = page((_, body) => (body.steps.length ? ok({ drawn: { prize: { part: 'mug', label: 'Mug', rest: 1 } } }) : ok({ design: 'd2', walk: 'w' })))
  const going = await openSending(context).walkOf(placement, context.arrival).goingOn(true)
  expect(asked.map(a => a.body.steps.length)).toEqual([1, 0])
  expect(going).toMatchObject({ told: { scene: 'ask', answer: { drawn: { prize: { part: 'mug' } } } }, walk: { id: 'w', design: 'd2' } })
  expect(stored()).toEqual({})
})

test('what was taken while older steps were sent again is not forgotten', async () => {
  lasting.setItem('gobbet:shop:steps', JSON.stringify({ p: { request: { walk, from: 0 }, steps: steps('ask') } }))
  const newer = { p: { request: { walk, from: 0 }, steps: steps('ask', 'more') } }
  const { context } = page(() => {
    lasting.setItem('gobbet:shop:steps', JSON.stringify(newer))
    return ok()
  })
  await openSending(context).walkOf(placement, context.arrival).goingOn(true)
  expect(stored()).toEqual(newer)
})

test('who has finished begins anew, but for what stands in the page', async () => {
  lasting.setItem('gobbet:shop:walks', JSON.stringify({ p: { token: 't', ended: true } }))
  const { context, asked } = page(() => ok({ design: 'd' }))
  const open = openSending(context)
  expect(await open.walkOf(placement, context.arrival).goingOn(false)).toBeUndefined()
  expect(asked).toEqual([])
  expect(await open.walkOf(placement, context.arrival).goingOn(true)).toBeDefined()
})

test('who only looks has all steps taken anew each time, and nothing is kept', async () => {
  const { context, asked } = page(() => ok())
  const way = openSending(Object.assign(context, { silent: true, token: 'pass' })).walkOf(placement, context.arrival)
  await way.advance(walk, steps('ask'), 0)
  await way.advance(walk, steps('more'), 1)
  expect(asked.map(a => [a.body.from, a.body.steps.map((s: { scene: string }) => s.scene), a.body.pass])).toEqual([
    [0, ['ask'], 'pass'],
    [0, ['ask', 'more'], 'pass'],
  ])
  expect(lasting.kept.has('gobbet:shop:steps')).toBe(false)
  expect(await way.code({ walk, scene: 's', pool: 'x' })).toBe('YOUR-CODE')
})

test('events are sent with the visit that they happened in', () => {
  const { context, memory } = page(() => ok())
  track(context, 'shown', 'p', 'a')
  memory.change(m => {
    m.seen -= 3600
  })
  context.arrival = memory.arrive()
  track(context, 'closed', 'p', 'a', { after: 5 })
  const bodies = bodiesOf(context)
  expect(bodies.map(b => [b.visits, b.events.map(e => e.kind)])).toEqual([
    [1, ['shown']],
    [2, ['closed']],
  ])
  expect(new Set(bodies.map(b => b.visit)).size).toBe(2)
  expect(JSON.stringify(bodies)).not.toContain('"in"')
})

test('a memory that was edited by hand is begun anew where it does not fit', () => {
  for (const text of ['{', 'null', '7', '{"visitor":7}', '{"visitor":"v","visit":7,"pieces":{}}', '{"visitor":"v","visit":{},"pieces":null}']) {
    lasting.kept.set('gobbet:shop', text)
    const m = openMemory('shop').arrive()
    expect([typeof m.visitor, m.visits, m.pages, m.visit.pages], text).toEqual(['string', 1, 1, 1])
  }
  lasting.kept.set('gobbet:shop:steps', '7')
  expect(openMemory('shop').unsent()).toBe(false)
  expect(openMemory('shop').begun('p')).toBe(false)
})

test('a memory that has grown lets go of what was met longest ago, and of what must not be forgotten last', () => {
  const memory = openMemory('shop')
  memory.arrive()
  memory.change(m => {
    for (let i = 0; i < 3000; i++) m.pieces![`piece-${i}`] = { shown: [1000 + i], times_shown: 1, never: i === 0 || undefined }
  })
  const { pieces, visitor } = memory.read()
  expect(JSON.stringify(memory.read()).length).toBeLessThanOrEqual(40_000)
  expect(visitor).toHaveLength(32)
  expect(pieces!['piece-0']?.never).toBe(true)
  expect(pieces!['piece-2999']).toBeDefined()
  expect(pieces!['piece-1']).toBeUndefined()
})
