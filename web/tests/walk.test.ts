import { expect, test } from 'vitest'
import type { Drawing, Scene } from '../kinds/piece'
import type { AdvanceAnswer } from '../kinds/visitor'
import { begin, step, type Walking, type WalkEffect, type WalkEvent, type Way, walkOn, ways } from '../page/walk'
import { firstState, type Step, type WalkState } from '../page/walkState'
import { sayIn } from '../page/words'
import { random } from './random'
import walks from './walks.json'

interface WalkCase {
  template: string
  drawing: Drawing
  steps: { answers: Record<string, string>; press: string; takes: boolean; sent: object; view: AdvanceAnswer }[]
}

// A visitor's way through a piece: what it does in each state, by what happens.

const button = (id: string, words = 'On', press: object = { do: 'send' }) => ({ kind: 'button', id, words, press })
const field = (key: string, more: object = {}) => ({ kind: 'field', id: 'f-' + key, ask: 'text', key, label: key, required: false, ...more })
const scene = (id: string, to: string, more: object = {}, ...blocks: object[]): Scene =>
  ({ id, name: id, kind: 'form', blocks, ...(to && { edges: [{ to }] }), ...more }) as unknown as Scene

const sheet: Drawing = {
  scenes: [
    scene('ask', 'thanks', {}, field('email', { required: true }), button('go')),
    scene('earned', 'thanks', { asks: true }, field('why'), button('more')),
    scene('spin', 'thanks', { asks: true }, { kind: 'draw', id: 'd', key: 'prize', parts: [] }, button('go')),
    scene('question', 'ask', { asks: true, kind: 'question' }, field('q', { ask: 'choice', choices: [{ id: 'red', label: 'Red' }] }), button('next')),
    scene('slide', 'ask', {}, field('much', { ask: 'slider', least: '2', most: '9' }), button('on', 'On', { do: 'next' })),
    scene('thanks', '', {}),
  ],
} as unknown as Drawing

const way: Way = { drawing: sheet, phone: false, asks: true, lasts: true, say: sayIn() }
const at = (id: string): Walking => begin(firstState({ ...sheet, scenes: [sheet.scenes.find(s => s.id === id)!] } as Drawing, false))
const left = (more: object = {}): WalkEvent => ({ is: 'left', press: 'go', takes: true, at: 1000, ...more }) as WalkEvent
const answer = (scene: string, more: Partial<AdvanceAnswer> = {}): WalkEvent => ({ is: 'replied', answer: { steps: 1, scene, ...more } as AdvanceAnswer })
const say = (key: string, value: string): WalkEvent => ({ is: 'answered', key, value })
const away: WalkEvent = { is: 'unreached' }

/** Takes a walk through events. Gives where it is then, and all that followed. */
function through(from: Walking, events: WalkEvent[], by = way): [Walking, WalkEffect[]] {
  const all: WalkEffect[] = []
  let s = from
  for (const e of events) {
    const [next, effects] = step(s, e, by)
    s = next
    all.push(...effects)
  }
  return [s, all]
}
const does = (effects: WalkEffect[]) => effects.map(e => e.do).join(' ')

const marks = { q: { right: true } } as unknown as AdvanceAnswer['marks']
const drawn = { prize: { part: 'mug', label: 'Mug', rest: 20 } }
const emailed = say('email', 'ann@example.com')
const wrong: WalkEvent = { is: 'refused', went: { ok: false, faults: [{ at: 'steps[0].values.email', message: 'No address.' }] } }

test.each<[string, string, WalkEvent[], Omit<Partial<Walking>, 'scene'> & { doing: string; scene: string; does: string }]>([
  ['what has to be answered is asked for', 'ask', [left()], { doing: 'asking', scene: 'ask', does: 'seeFault', faults: { email: 'Please fill this in.' }, pending: [] }],
  ['an answer takes its fault back', 'ask', [left(), emailed], { doing: 'asking', scene: 'ask', does: 'seeFault', faults: {} }],
  ['where the page knows the way it goes at once', 'ask', [emailed, left()], { doing: 'asking', scene: 'thanks', does: 'send' }],
  ['the server’s answer moves nothing where it is there already', 'ask', [emailed, left(), answer('thanks')], { doing: 'asking', scene: 'thanks', does: 'send', moves: 1, pending: [] }],
  ['what the server refuses is taken back, and said where it was asked', 'ask', [emailed, left(), wrong], { doing: 'asking', scene: 'ask', does: 'send seeFault', faults: { email: 'No address.' }, pending: [] }],
  ['what is to be earned is waited for', 'earned', [left()], { doing: 'sending', scene: 'earned', does: 'send' }],
  ['a second press while it is sent sends nothing', 'earned', [left(), left()], { doing: 'sending', scene: 'earned', does: 'send' }],
  ['it goes where the server says', 'earned', [left(), answer('thanks')], { doing: 'asking', scene: 'thanks', does: 'send' }],
  ['out of the piece', 'earned', [left(), answer('', { closes: true })], { doing: 'over', scene: 'earned', does: 'send end' }],
  ['sending that came nowhere ends by itself, with a way on', 'earned', [left(), away], { doing: 'asking', scene: 'earned', does: 'send', retract: 0 }],
  ['and is sent again, once, by the next press', 'earned', [left(), away, left(), answer('thanks')], { doing: 'asking', scene: 'thanks', does: 'send send', pending: [] }],
  ['the server’s reason is said', 'earned', [left(), { is: 'refused', went: { ok: false, title: 'Too many.' } }], { doing: 'asking', scene: 'earned', does: 'send seeFault', trouble: 'Too many.' }],
  ['a conversion is made once it is sent', 'earned', [left({ counts: true }), answer('thanks')], { doing: 'asking', scene: 'thanks', does: 'send convert' }],
  ['and not where it was refused', 'earned', [left({ counts: true }), { is: 'refused', went: { ok: false } }], { doing: 'asking', scene: 'earned', does: 'send seeFault' }],
  ['what was right is told before it goes on', 'question', [left(), answer('ask', { marks })], { doing: 'telling', scene: 'question', does: 'send', marks }],
  ['and then a press goes on', 'question', [left(), answer('ask', { marks }), left()], { doing: 'asking', scene: 'ask', does: 'send', marks: {} }],
  ['what was drawn is shown', 'spin', [left(), answer('thanks', { drawn })], { doing: 'turning', scene: 'spin', does: 'send', drawn, answers: { prize: 'mug' } }],
  ['a press while it turns does nothing', 'spin', [left(), answer('thanks', { drawn }), left()], { doing: 'turning', scene: 'spin', does: 'send' }],
  ['once it was shown it goes on', 'spin', [left(), answer('thanks', { drawn }), { is: 'shown' }], { doing: 'asking', scene: 'thanks', does: 'send' }],
  ['a go whose answer was lost is shown when it is sent again', 'spin', [left(), away, left(), answer('thanks', { drawn })], { doing: 'turning', scene: 'spin', does: 'send send', drawn }],
  ['where nothing comes after it, it stays until a press', 'spin', [left(), answer('', { closes: true, drawn }), { is: 'shown' }], { doing: 'telling', scene: 'spin', does: 'send' }],
  ['and then it goes out', 'spin', [left(), answer('', { closes: true, drawn }), { is: 'shown' }, left()], { doing: 'over', scene: 'spin', does: 'send end' }],
  ['a time that runs out leaves without answers', 'question', [say('q', 'red'), left({ press: '', late: true })], { doing: 'sending', scene: 'question', does: 'send' }],
  ['a time that runs out while it is sent has run out', 'question', [left(), left({ press: '', late: true, at: 2000 }), { is: 'refused', went: { ok: false } }], { doing: 'sending', scene: 'question', does: 'send seeFault send' }],
  ['but not of a scene that is behind', 'question', [left(), left({ press: '', late: true }), answer('ask')], { doing: 'asking', scene: 'ask', does: 'send' }],
  ['a slider is answered from the start', 'slide', [], { doing: 'asking', scene: 'slide', does: '', answers: { much: '2' } }],
  ['a step without answers is not sent by itself', 'slide', [left({ press: 'on', takes: false })], { doing: 'asking', scene: 'ask', does: '', canGoBack: true, behind: ['slide'] }],
  ['back, and the scene behind is none', 'slide', [left({ press: 'on', takes: false }), { is: 'wentBack', at: 3 }], { doing: 'asking', scene: 'slide', does: '', canGoBack: false, behind: [] }],
])('%s', (_, from, events, { does: followed, scene, ...wanted }) => {
  const [s, effects] = through(at(from), events)
  expect(does(effects)).toBe(followed)
  expect(s.scene.id).toBe(scene)
  expect(s).toMatchObject(wanted)
})

test('nobody is thanked for what may be lost: where nothing lasts, the server is waited for', () => {
  const [s, effects] = through(at('ask'), [emailed, left()], { ...way, lasts: false })
  expect([s.doing, s.scene.id, does(effects)]).toEqual(['sending', 'ask', 'send'])
  expect(step(s, answer('thanks'), way)[0].scene.id).toBe('thanks')
})

test('without a server it goes by what the page has', () => {
  const by = { ...way, asks: false }
  expect(through(at('ask'), [emailed, left()], by)[0].scene.id).toBe('thanks')
  expect(through(at('earned'), [left()], by)[0].doing).toBe('over')
})

test('what was taken ahead is sent again later, all of it, and the same', () => {
  const [s, effects] = through(at('slide'), [left({ press: 'on', takes: false }), emailed, left(), away])
  expect(effects).toEqual([
    { do: 'send', from: 0, steps: [expect.objectContaining({ scene: 'slide' }), expect.objectContaining({ scene: 'ask', values: { email: 'ann@example.com' } })] },
    { do: 'sendLater', ms: 3000 },
  ])
  const [, more] = through(s, [{ is: 'due' }])
  expect(more).toEqual([effects[0]])
})

test('without the walk’s token only what may have come is sent again, and then the rest', () => {
  const [s, effects] = through(at('question'), [left(), away, { is: 'wentBack', at: 1 }, left({ at: 2 }), answer('ask'), emailed, left({ at: 3 }), away, { is: 'due' }])
  const sent = effects.flatMap(e => (e.do === 'send' ? [[e.from, e.steps.length]] : []))
  expect(sent).toEqual([
    [0, 1],
    [0, 1],
    [1, 1],
    [1, 1],
  ])
  expect(s.scene.id).toBe('thanks')
})

test('a walk is gone on with where it was left, and told what was drawn meanwhile', () => {
  const later = { steps: 3, scene: 'thanks', path: ['ask', 'spin', 'thanks'], answers: { email: 'ann@example.com', prize: 'mug' } } as unknown as AdvanceAnswer
  const [s] = step(at('ask'), { is: 'resumed', answer: later }, way)
  expect(s).toMatchObject({ doing: 'asking', scene: { id: 'thanks' }, behind: ['ask', 'spin'], from: 3, answers: { email: 'ann@example.com' } })
  const [turning] = step(at('ask'), { is: 'resumed', answer: later, told: { answer: { ...later, drawn }, scene: 'spin' } }, way)
  expect(turning).toMatchObject({ doing: 'turning', scene: { id: 'spin' }, drawn, next: 'thanks' })
  expect(step(turning, { is: 'shown' }, way)[0].scene.id).toBe('thanks')
})

test('a conversation remembers its scenes and what was said, and unsays what was refused', () => {
  const talk: Way = { ...way, drawing: { ...sheet, scenes: [scene('a', 'b', {}, field('n'), button('go')), scene('b', '', {})] } as Drawing }
  const s = begin(firstState(talk.drawing, false))
  const [on] = through(s, [{ is: 'said', words: 'Ann' }, say('n', 'Ann'), left()], talk)
  expect(on.turns.map(t => [t.scene.id, t.said])).toEqual([
    ['a', 'Ann'],
    ['b', undefined],
  ])
  const [back] = step(on, { is: 'refused', went: { ok: false, faults: [{ at: 'steps[0].values.n', message: 'No.' }] } }, talk)
  expect(back.turns.map(t => t.scene.id)).toEqual(['a'])
})

test('whatever happens, it goes only where its ways lead, and nothing that was sent is forgotten', () => {
  const r = random(24)
  const events = (): WalkEvent[] => [
    left(),
    left({ takes: false, press: 'on' }),
    left({ late: true, press: '' }),
    { is: 'wentBack', at: 5 },
    answer(['thanks', 'ask', 'spin', 'earned'][r(4)], { steps: r(6) }),
    answer('ask', { marks }),
    answer('thanks', { drawn }),
    answer('', { closes: true }),
    { is: 'refused', went: { ok: false, title: 'No.' } },
    away,
    { is: 'due' },
    { is: 'shown' },
    emailed,
    { is: 'recounting' },
    { is: 'recounted', tallies: {} },
  ]
  let moved = 0
  for (let i = 0; i < 4000; i++) {
    let s = at(sheet.scenes[r(5)].id)
    const told: string[] = []
    for (let n = 0; n < 12; n++) {
      const some = events()
      const e = some[r(some.length)]
      told.push(e.is)
      const [next] = step(s, e, way)
      if (next.doing !== s.doing) {
        moved++
        // A late step may follow at once.
        expect(ways[s.doing][e.is] ?? [], `${s.doing} by ${told.join(' ')}`).toContain(next.doing)
      }
      expect(next.doing === 'sending' ? next.flying : 1).toBeGreaterThan(0)
      expect(next.pending.length).toBeGreaterThanOrEqual(next.flying)
      s = next
    }
  }
  expect(moved).toBeGreaterThan(4000)
})

test('steps are kept and sent before anyone is thanked, and a piece that has gone is told nothing', async () => {
  const order: string[] = []
  const walker = walkOn(firstState(sheet, false), sheet, false, {
    advance: async steps => {
      order.push('sent ' + steps.length)
      return { ok: true, answer: { steps: 1, scene: 'thanks' } as AdvanceAnswer }
    },
    changed: (s: WalkState) => void order.push(s.scene.id),
    happened: what => void order.push(what),
  })
  walker.tell(emailed)
  walker.tell(left({ counts: true }))
  expect(order).toEqual(['ask', 'sent 1', 'thanks', 'convert'])
  walker.stop()
  await Promise.resolve()
  expect(order).toHaveLength(4)
})

test('it goes where the core goes, and sends what the core is sent', () => {
  let [taken, ahead] = [0, 0]
  for (const c of walks as unknown as WalkCase[]) {
    const by: Way = { ...way, drawing: c.drawing }
    let s = begin(firstState(c.drawing, false))
    const told = (e: WalkEvent) => {
      const [next, effects] = step(s, e, by)
      s = next
      return effects.flatMap(one => (one.do === 'send' ? [one] : []))
    }
    let sent: Step[] = []
    for (const one of c.steps) {
      for (const [key, value] of Object.entries(one.answers)) told({ is: 'answered', key, value })
      const out = told({ is: 'left', press: one.press, takes: one.takes, at: 0 })
      taken++
      // Where the page knew the way it is there before the answer comes.
      if (s.doing === 'asking' && s.scene.id === one.view.scene) ahead++
      for (const { steps, from } of out) {
        sent = [...sent.slice(0, from), ...steps]
        told({ is: 'replied', answer: one.view })
      }
      if (s.doing === 'turning') told({ is: 'shown' })
      if (s.doing === 'telling') told({ is: 'left', press: '', takes: true, at: 0 })
      const at = `${c.template}, step ${one.view.steps}`
      expect([at, s.doing === 'over' ? '' : s.scene.id, s.doing]).toEqual([at, one.view.closes ? '' : one.view.scene, one.view.closes ? 'over' : 'asking'])
    }
    expect(sent.map(({ scene, press, values }) => ({ scene, press, ...(values && Object.keys(values).length && { values }) }))).toEqual(c.steps.slice(0, sent.length).map(one => one.sent))
  }
  expect(taken).toBeGreaterThan(120)
  expect(ahead).toBeGreaterThan(20)
})
