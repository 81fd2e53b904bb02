import type { Placement } from '../kinds/choose'
import type { Drawing } from '../kinds/piece'
import type { AdvanceAnswer, AdvanceRequest, CodeRequest, DecideAnswer, EventIn, GoalAt, ViewRecord, WalkRef } from '../kinds/visitor'
import type { SentStep } from '../kinds/walk'
import type { Context } from './context'
import type { Went } from './host'
import { openOutbox } from './outbox'
import { post } from './post'
import { holds, type Moments, watch } from './watch'

// One page view: watches for the moments that placements wait for, shows
// what comes, and records how the visitor stayed.

const longest = 4 * 3600 * 1000 // ms; what stays open longer is no stay any more
const patience = 4000 // ms for which a link waits for the piece it opens

const standing = new Set<string>() // slots of pieces that are on the page now
// Pieces on their way to the page, which the memory does not know of yet.
let interrupting = 0 // when one last set out, in seconds since 1970
let covering = 0 // how many overlays are on their way
let turn: Promise<unknown> = Promise.resolve() // of the last to be drawn

const wrongClock = 60_000 // ms, which the network alone never takes
const leavesSoon = 10_000 // ms

const mostWalks = 20
const mostTags = 50

const wait = (ms: number) => new Promise(done => setTimeout(done, ms))

/** Sends events that an earlier page could not. */
export function sendLeft(context: Context) {
  context.outbox ||= openOutbox(context)
}

/** Begins a page view. */
export function begin(context: Context, first: DecideAnswer) {
  const { memory, api, base, unwatched, began, id, keep, seconds } = context
  const arrival = context.arrival
  const seen = context.request
  const view = id()
  const outbox = (context.outbox ||= openOutbox(context))
  const taken = new Set(standing)
  let heard = 0
  let answer = first
  let left: Placement[] = []
  let over = false
  const shown = new Set<string>()
  let fetched: ReturnType<typeof fetchRenderer> | undefined
  const load = () => (fetched ||= fetchRenderer(base + answer.renderer))
  const say = (what: string, p: Placement) => {
    const { piece, variant } = p
    dispatchEvent(new CustomEvent('gobbet:' + what, { detail: { piece, variant } }))
    try {
      // The site's own list of what happens, where it names one.
      const { layer } = answer
      const list = layer && ((window as unknown as Record<string, unknown[]>)[layer] ||= [])
      if (list) list.push({ event: 'gobbet_' + what, gobbet_piece: piece, gobbet_variant: variant })
    } catch {}
  }
  const track = (what: EventIn['kind'], p: Placement, more?: Partial<EventIn>) => !unwatched && outbox.track(what, p.piece, p.variant, more)
  // Since when pieces are on the page, in ms of its own clock.
  const since = new Map<Placement, number>()
  const seenAt = (context.shown = new Map())
  let drew = false
  const after = (p: Placement) => ({ after: since.has(p) ? performance.now() - since.get(p)! : undefined })
  const did = (what: 'shown' | 'closed' | 'converted', p: Placement, counted?: boolean) => {
    memory.note(what, p.piece, p.variant, !!p.interrupts, !!p.overlay)
    if (!counted) track(what, p, what === 'closed' ? after(p) : undefined)
    if (what === 'shown') {
      drew = true
      since.set(p, performance.now())
      seenAt.set(p.piece, performance.now())
    }
    if (what === 'converted') since.delete(p)
    say(what, p)
  }

  const eyes = watch({ start: arrival.start, exit: first.exit, began, handed: true }, check)

  // What a click brought about, as long as the click is on its way.
  const brought: Promise<Shown | undefined>[] = []
  let clicking = false

  function check() {
    for (const p of left.filter(p => !p.waiting || holds(p.waiting, eyes.come))) {
      left.splice(left.indexOf(p), 1)
      const showing = show(p, !!p.waiting && !holds(p.waiting, unclicked(eyes.come))).catch(() => undefined)
      if (clicking) brought.push(showing)
    }
  }

  function update(next: DecideAnswer) {
    answer = next
    const ahead = next.clock - Date.now()
    context.skew = Math.abs(ahead) > wrongClock ? ahead : 0
    for (const e of next.eligible ?? []) if (!unwatched) counts(e.piece, e.variant)
    left = next.placements.filter(p => !shown.has(p.piece))
    eyes.rules(left.flatMap(p => p.waiting ?? []))
    check()
    // Most moments are a while off; the renderer may come while nothing else does.
    if (left.length) (window.requestIdleCallback ?? setTimeout)(() => load().catch(() => {}))
  }

  /** From here on the visitor counts for a piece, once, with the variant that they will get; with none if they are held back. */
  function counts(piece: string, variant: string) {
    memory.change(m => {
      const known = (m.pieces![piece] ||= {})
      if (!known.eligible) outbox.track('eligible', piece, variant)
      known.eligible = true
      known.variant ||= variant
    })
  }

  /** Other tabs and other pieces may have changed what this one may do. */
  function held(p: Placement, invited: boolean, asked: boolean): boolean {
    if (asked || context.own) return standing.has(p.slot)
    const now = memory.read()
    const times = (m: typeof now) => m.pieces?.[p.piece]?.times_shown || 0
    if ((!!p.slot && taken.has(p.slot)) || times(now) !== times(arrival)) return true
    // The site's limits are for what interrupts, and not for what was asked for.
    if (invited || !p.interrupts) return false
    const overlays = p.overlay && answer.overlays && (now.visit.overlays || 0) + covering >= answer.overlays
    const quiet = answer.quiet && seconds() - Math.max(now.shown || 0, interrupting) < answer.quiet
    return !!overlays || !!quiet
  }

  /** When this visitor first saw a piece; its timers count from then. */
  const firstSeen = (piece: string) => {
    const kept = keep<Record<string, number>>('gobbet:' + context.site + ':since', () => ({}))
    const all = kept.read()
    if (!(all[piece] > 0)) {
      all[piece] = Date.now()
      kept.write(all)
    }
    return all[piece]
  }

  const found = (from: string) => {
    const [kind, name] = from.split(/\.(.*)/s)
    const is = kind === 'path' ? location.pathname : kind === 'query' ? new URLSearchParams(location.search).get(name) : context.request.data?.[name]
    return String(is ?? '').slice(0, 500)
  }

  const open = (piece: string, anyway?: boolean) => {
    const p = left.find(p => p.piece === piece)
    if (!p) return
    left.splice(left.indexOf(p), 1)
    if (anyway) taken.delete(p.slot)
    show(p, true).catch(() => {})
  }

  /** Shows a piece: invited by a click on what the site has for it, or asked for by name whatever came before. */
  async function show(p: Placement, invited = false, asked = false): Promise<Shown | undefined> {
    if (over || held(p, invited, asked)) return
    taken.add(p.slot)
    standing.add(p.slot)
    shown.add(p.piece)
    const before = interrupting
    if (p.interrupts) interrupting = seconds()
    if (p.overlay) covering++
    // A slot is free for others once its piece has gone, from the next page view on;
    // at once where the piece never stood in it, or the page took it away.
    const free = () => {
      standing.delete(p.slot)
      taken.delete(p.slot)
    }
    // Who is not measured, or looks on with the inspector, is not held back either.
    const unseen = p.held && !unwatched
    let known = () => {}
    const counted = new Promise<void>(done => {
      known = done
    })
    let ended = (_how: 'closed' | 'done' | 'lost') => {}
    const end = new Promise<'closed' | 'done' | 'lost'>(done => {
      ended = done
    })
    try {
      const going = await goingOn(p, !p.slot || isOpen(p.piece)).catch(() => undefined)
      const walk: WalkRef = going?.walk ?? { id: id(), piece: p.piece, variant: p.variant, design: p.design, visitor: arrival.visitor }
      const [{ show: draw }, drawing] = await Promise.all([
        load(),
        fetch(api + '/designs/' + walk.design).then(r => (r.ok ? r.json() : Promise.reject(r.status))),
      ])
      // Each piece is drawn in a task of its own, so that none is long.
      await (turn = turn.then(() => wait(0)))
      const stands = await draw(
        {
          id: p.piece,
          drawing: drawing as Drawing,
          base,
          phone: !!answer.phone,
          folded: p.folded,
          part: name => import(/* @vite-ignore */ base + answer[name]),
          since: () => firstSeen(p.piece),
          code: (scene, pool, draw) => counted.then(() => code({ walk, scene, pool, draw })),
          found,
          never: () => memory.change(m => void ((m.pieces![p.piece] ||= {}).never = true)),
          other: piece => {
            ended('lost')
            open(piece, true)
          },
          converted: counted => did('converted', p, counted),
          held: unseen,
          advance: (steps, from) => advance(walk, steps, from),
          resumed: going?.answer,
          ended: (how, tab) => {
            if (!tab) standing.delete(p.slot)
            if (how === 'closed') did('closed', p)
            else say('done', p)
            if (!tab) ended(how)
          },
          lost: () => {
            free()
            ended('lost')
          },
        },
        // A place that is not there yet may come, as long as the page is the same.
        { over: () => over, grows: eyes.grows },
      )
      if (!stands) throw new Error('nowhere to stand')
      if (unseen) {
        // It would be there now: that is all there is to say, and its place stays empty.
        standing.delete(p.slot)
        memory.note('shown', p.piece, '', false, false)
        track('held', { ...p, variant: '' })
        since.set({ ...p, variant: '' }, performance.now())
        return
      }
      // What shows only its tab was shown before.
      if (!p.folded) did('shown', p)
      known()
      return { end }
    } catch (e) {
      free()
      interrupting = before
      throw e
    } finally {
      if (p.overlay) covering--
    }
  }

  async function code(asked: CodeRequest): Promise<string | null> {
    if (context.silent) return 'YOUR-CODE'
    const request: CodeRequest = { ...asked, unwatched: unwatched || undefined, automated: navigator.webdriver || undefined }
    // The server gives codes to those whom it knows to have seen the piece.
    for (let tries = 0; ; tries++) {
      if (!unwatched) await outbox.send()
      const r = await post(api, '/codes', request)
      if (r.ok) return (await r.json()).code
      if (r.status === 404) return null
      if (r.status !== 409 || tries === 2) throw new Error(r.status < 500 ? (await r.json()).title : '')
      await wait(1000)
    }
  }

  // Walks that were begun, by their pieces: the token of each, and whether it has ended.
  const walks = keep<Record<string, { token: string; ended?: boolean }>>('gobbet:' + context.site + ':walks', () => ({}))
  const tokens = new Map<string, string>()

  async function advance(walk: WalkRef, steps: SentStep[], from: number): Promise<Went> {
    const { visit } = arrival
    const token = context.silent ? undefined : tokens.get(walk.piece)
    // Who only looks has all steps taken anew each time.
    if (context.silent) looked.splice(from, Number.POSITIVE_INFINITY, ...steps)
    const request: AdvanceRequest = {
      ...(token ? { token } : { walk }),
      from: context.silent ? 0 : from,
      steps: context.silent ? looked : steps,
      pass: context.silent ? context.token : undefined,
      visit: visit.id,
      page: location.pathname,
      landing: visit.landing,
      referrer: visit.referrer,
      visits: arrival.visits,
      width: innerWidth,
      unwatched: unwatched || undefined,
      automated: navigator.webdriver || undefined,
    }
    try {
      const r = await post(api, '/advance', request)
      if (r.ok) {
        const a: AdvanceAnswer = await r.json()
        if (a.token) remember(walk.piece, a)
        return { ok: true, answer: a }
      }
      const problem = await r.json()
      return { ok: false, faults: problem.faults, title: r.status < 500 ? problem.title : undefined }
    } catch {
      return { ok: false }
    }
  }
  const looked: SentStep[] = []

  /** Keeps what lets another page go on, and what the visitor is known by from here on. */
  function remember(piece: string, a: AdvanceAnswer) {
    tokens.set(piece, a.token!)
    const all = walks.read()
    delete all[piece]
    all[piece] = { token: a.token!, ended: a.ended }
    for (const old of Object.keys(all).slice(0, -mostWalks)) delete all[old]
    walks.write(all)
    if (a.lead || a.tags?.length)
      memory.change(m => {
        if (a.lead) m.lead = true
        if (a.tags?.length) m.tags = [...new Set([...(m.tags ?? []), ...a.tags])].slice(-mostTags)
      })
  }

  /** The walk through a piece that an earlier page began; undefined where there is none to go on with. */
  async function goingOn(p: Placement, stays: boolean): Promise<{ answer: AdvanceAnswer; walk: WalkRef } | undefined> {
    const known = walks.read()[p.piece]
    // Who has finished begins anew, but for what stands in the page, or is open on it: there the result stays.
    if (!known?.token || (known.ended && !stays) || context.silent || context.anew) return
    tokens.set(p.piece, known.token)
    const went = await advance({ piece: p.piece } as WalkRef, [], 0)
    if (went.ok && went.answer?.design)
      return {
        answer: went.answer,
        walk: { id: went.answer.walk ?? '', piece: p.piece, variant: p.variant, design: went.answer.design, visitor: arrival.visitor },
      }
    tokens.delete(p.piece)
  }

  let cost: ReturnType<typeof import('./cost').measure> | undefined
  if (first.cost && !unwatched)
    import(/* @vite-ignore */ base + first.cost).then(
      (m: typeof import('./cost')) => {
        cost = m.measure(base)
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
      shown: drew || undefined,
      cost: cost?.(),
      automated: navigator.webdriver || undefined,
    }
    const text = JSON.stringify(body)
    if (!navigator.sendBeacon?.(api + '/views', text)) fetch(api + '/views', { method: 'POST', body: text, keepalive: true }).catch(() => {})
  }
  const ended = new AbortController()
  const { signal } = ended
  const away = () => document.hidden && record()
  document.addEventListener('visibilitychange', away, { signal })
  addEventListener('pagehide', record, { signal })
  // Who leaves soon after a piece came may have left because of it.
  const leaving = () => {
    for (const [p, at] of since) if (performance.now() - at < leavesSoon) track('left', p, after(p))
    if (since.size) outbox.leave()
  }
  addEventListener('pagehide', leaving, { signal })

  // A click on a link leaves the page before the piece it opens can show: the
  // link is held, and followed once the piece is closed, or at once where it
  // cannot show. The first click alone: the next finds no piece that waits.
  document.addEventListener(
    'click',
    e => {
      clicking = true
      eyes.clicked(e)
      clicking = false
      const showing = brought.splice(0).at(0)
      const link = showing && linkOf(e)
      if (!link) return
      e.preventDefault()
      const go = () => (link.isConnected ? link.click() : location.assign(link.href))
      Promise.race([showing, wait(patience).then(() => undefined)]).then(async one => {
        if (!one || (await one.end) !== 'lost') go()
      }, go)
    },
    { capture: true, signal },
  )

  /** A goal of the site is reached. A page that is looked at again reaches it once a visit. */
  const reach = (g: GoalAt, told?: number) => {
    const value = Number(told ?? (g.value && context.request.data?.[g.value])) || 0
    const key = g.event ? '' : `${here} ${value}`
    if (unwatched || (key && arrival.visit.goals?.[g.goal] === key)) return
    if (key) memory.change(m => void ((m.visit.goals ||= {})[g.goal] = key))
    outbox.track('reached', '', '', { goal: g.goal, amount: value })
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
    bring: (p: Placement) => show(p, true, true),
    end: () => {
      over = true
      record()
      ended.abort()
      eyes.stop()
    },
  }
}

/** A piece on the page, and how it ends. */
interface Shown {
  end: Promise<'closed' | 'done' | 'lost'>
}

/** Whether a conversation was open on the page before, in this tab (see chat.tsx). */
function isOpen(piece: string): boolean {
  try {
    return !!sessionStorage.getItem('gobbet:open:' + piece)
  } catch {
    return false
  }
}

/** The moments without what a click asks for. */
const unclicked = ({ 'moment.click': _, ...come }: Moments): Moments => come

/** The link that a click would follow in this window, and so away from the page. */
function linkOf(e: MouseEvent): HTMLAnchorElement | undefined {
  const link = e.target instanceof Element ? e.target.closest<HTMLAnchorElement>('a[href]') : null
  if (!link || e.defaultPrevented || e.button || e.metaKey || e.ctrlKey || e.shiftKey || e.altKey) return
  if (!/^https?:$/.test(link.protocol) || link.download || (link.target && link.target !== '_self')) return
  if (link.hash && link.href.split('#')[0] === location.href.split('#')[0]) return
  return link
}

const fetchRenderer = (address: string): Promise<typeof import('./renderer')> => import(/* @vite-ignore */ address)

export { holds, watch } from './watch'
