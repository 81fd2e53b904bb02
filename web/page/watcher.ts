import type { Placement } from '../kinds/choose'
import type { DecideAnswer, EventIn, GoalAt, ViewRecord } from '../kinds/visitor'
import type { Happening } from '../package/index'
import type { Context } from './context'
import { track as keepEvent, leaveEvents } from './events'
import type { Life } from './life'
import { occupied, type PageView, Shown } from './shown'
import { clauses, holds, type Moments, watch } from './watch'

// One page view: watches for the moments that pieces wait for, has them come,
// and records how the visitor stayed.

const longest = 4 * 3600 * 1000 // ms; what stays open longer is no stay any more
const wrongClock = 60_000 // ms, which the network alone never takes
const leavesSoon = 10_000 // ms

let leaving = false // what waits is sent when the page is left

/** Begins a page view. */
export function begin(context: Context, life: Life, first: DecideAnswer) {
  const { memory, api, unwatched, began, id } = context
  const { arrival, request: seen } = context
  const view = id()
  // What an earlier page could not send goes with what this one sends.
  if (memory.unsent())
    context.sending().then(
      s => s.soon(),
      () => {},
    )
  let heard = 0
  let answer = first
  let pieces: Shown[] = []
  context.shown = new Map()
  context.roomless = new Set()

  const track = (what: EventIn['kind'], p: Placement, more?: Partial<EventIn>) => {
    if (!unwatched) keepEvent(context, what, p.piece, p.variant, more)
  }
  const say = (what: Happening, { piece, variant }: Placement) => {
    dispatchEvent(new CustomEvent('gobbet:' + what, { detail: { piece, variant } }))
    try {
      // The site's own list of what happens, where it names one.
      const { layer } = answer
      const list = layer && ((window as unknown as Record<string, unknown[]>)[layer] ||= [])
      if (list) list.push({ event: 'gobbet_' + what, gobbet_piece: piece, gobbet_variant: variant })
    } catch {}
  }

  // What is recorded goes before what it is read from.
  life.ends(() => {
    // Who leaves soon after a piece came may have left because of it.
    const there = pieces.filter(s => s.stood !== undefined)
    for (const s of there) if (s.stood! < leavesSoon) track('left', s.as, { after: s.stood })
    record()
  })
  // A page that is left has no more time to send what it has: after the view has ended.
  if (!leaving) addEventListener('pagehide', () => leaveEvents(context))
  leaving = true

  const eyes = watch({ start: arrival.start, exit: first.exit, began, handed: true }, check, life)

  const page: PageView = { context, life, answer: () => answer, taken: occupied(), track, say, check, exits: eyes.exits, grows: eyes.grows, open }

  // What a click brought about, as long as the click is on its way.
  const brought: { shown: Shown; coming: Promise<boolean> }[] = []
  let clicking = false

  /** Has those pieces come whose moments have. */
  function check() {
    if (life.phase !== 'visible') return
    for (const one of pieces.filter(s => s.state === 'waiting')) {
      const { waiting } = one.p
      const come = eyes.since(one.exits)
      if (waiting && !holds(waiting, come)) continue
      const shown = one
      const coming = one.come(!!waiting && !holds(waiting, unclicked(come)))
      if (clicking) brought.push({ shown, coming })
    }
  }

  function update(next: DecideAnswer) {
    answer = next
    const ahead = next.clock - Date.now()
    context.skew = Math.abs(ahead) > wrongClock ? ahead : 0
    for (const e of next.eligible ?? []) if (!unwatched) counts(e.piece, e.variant)
    const placed = (piece: string) => next.placements.some(p => p.piece === piece)
    for (const s of pieces) if (!placed(s.p.piece)) s.drop()
    pieces = pieces.filter(s => s.tried)
    for (const p of next.placements) if (!pieces.some(s => s.p.piece === p.piece)) pieces.push(new Shown(p, page))
    const waiting = pieces.filter(s => s.state === 'waiting')
    holdClicks()
    eyes.rules(waiting.flatMap(s => s.p.waiting ?? []))
    check()
    // Most moments are a while off; the renderer may come while nothing else does.
    if (pieces.some(s => !s.tried)) (window.requestIdleCallback ?? setTimeout)(() => life.over || context.load('renderer').catch(() => {}))
  }

  /** From here on the visitor counts for a piece, once, with the variant that they will get; with none if they are held back. */
  function counts(piece: string, variant: string) {
    let first = false
    memory.change(m => {
      const known = (m.pieces![piece] ||= {})
      first = !known.eligible
      known.eligible = true
      known.variant ||= variant
    })
    if (first) keepEvent(context, 'eligible', piece, variant)
  }

  /** Shows a piece that waits, because it is called by name. */
  function open(piece: string, anyway?: boolean) {
    for (const s of pieces) if (s.p.piece === piece && s.state === 'coming') s.hurry()
    const one = pieces.find(s => s.p.piece === piece && !s.tried)
    if (!one) return
    if (anyway) page.taken.delete(one.p.slot)
    one.come(true)
  }

  let cost: ReturnType<typeof import('./cost').measure> | undefined
  if (first.cost && !unwatched)
    context.load('cost').then(
      m => {
        cost = m.measure(context.base)
      },
      () => {},
    )
  let told = -1
  /** Tells how the visitor stayed so far, once more only if they stayed on. */
  function record() {
    const stay = eyes.stay()
    if (!answer.record || unwatched || stay.seconds <= told || performance.now() - began > longest) return
    told = stay.seconds
    const body: ViewRecord = {
      id: view,
      age: Math.round(performance.now() - began),
      view: seen,
      ...stay,
      interrupted: memory.read().visit.interrupted,
      shown: !!context.shown?.size || undefined,
      cost: cost?.(),
      automated: navigator.webdriver || undefined,
    }
    if (!navigator.sendBeacon?.(api + '/views', JSON.stringify(body))) context.post('/views', body).catch(() => {})
  }
  life.on(document, 'visibilitychange', () => (document.hidden ? record() : check()))

  // A click that a piece waits for is held until the piece has closed (clicks.ts).
  let hold: ReturnType<typeof import('./clicks').holding> | undefined
  const holdClicks = () => {
    if (!hold && pieces.some(s => s.p.waiting && clauses(s.p.waiting).some(c => /click|leaving/.test(c.fact))))
      context.load('clicks').then(
        m => {
          hold = m.holding()
        },
        () => {},
      )
  }
  life.on(
    window,
    'click',
    (e: MouseEvent) => {
      if (hold?.following()) return
      clicking = true
      eyes.clicked(e)
      clicking = false
      const one = brought.splice(0)[0]
      if (one) hold?.hold(e, one.coming, one.shown)
    },
    false,
  )

  /** A goal of the site is reached. A page that is looked at again reaches it once a visit. */
  const reach = (g: GoalAt, told?: number) => {
    const value = Number(told ?? (g.value && context.request.data?.[g.value])) || 0
    const key = g.event ? '' : `${here} ${value}`
    if (unwatched || (key && arrival.visit.goals?.[g.goal] === key)) return
    if (key) memory.change(m => void ((m.visit.goals ||= {})[g.goal] = key))
    keepEvent(context, 'reached', '', '', { goal: g.goal, amount: value })
  }
  const here = location.pathname + location.search

  const hear = () => {
    for (; heard < context.events.length; heard++) {
      const { name, value } = context.events[heard]
      eyes.happened(name)
      for (const g of answer.goals ?? []) if (g.event === name) reach(g, value)
    }
  }
  update(first)
  for (const g of first.goals ?? []) if (!g.event) reach(g)
  hear()
  return {
    update,
    happened: hear,
    call: (piece: string) => open(piece),
    bring: (p: Placement) => {
      const one = new Shown(p, page)
      pieces.push(one)
      return one.come(true, true)
    },
  }
}

/** The moments without what a click asks for. */
const unclicked = ({ 'moment.click': _, ...come }: Moments): Moments => come

export { holds, watch } from './watch'
