import type { Placement } from '../kinds/choose'
import type { AnswersRequest, CodeRequest, DecideAnswer, EventIn, ViewRecord } from '../kinds/visitor'
import type { Context } from './context'
import type { Sent } from './host'
import { id, keep, seconds } from './memory'
import { openOutbox } from './outbox'
import { holds, watch } from './watch'

// One page view: watches for the moments that placements wait for, shows
// what comes, and records how the visitor stayed.

const longest = 4 * 3600 * 1000 // ms; what stays open longer is no stay any more

const standing = new Set<string>() // slots of pieces that are on the page now

/** Sends events that an earlier page could not. */
export function sendLeft(context: Context) {
  context.track ||= openOutbox(context)
}

/** Begins a page view. */
export function begin(context: Context, first: DecideAnswer) {
  const { memory, api, base, unwatched, began } = context
  const arrival = context.arrival
  const asked = context.request
  const view = id()
  const track = (context.track ||= openOutbox(context))
  const taken = new Set(standing)
  let heard = 0
  let answer = first
  let left: Placement[] = []
  const shown = new Set<string>()
  let fetched: ReturnType<typeof fetchRenderer> | undefined
  const load = () => (fetched ||= fetchRenderer(base + answer.renderer))
  const say = (what: string, p: Placement) => dispatchEvent(new CustomEvent('gobbet:' + what, { detail: { piece: p.piece, variant: p.variant } }))
  const did = (what: EventIn['kind'], p: Placement, counted?: boolean) => {
    memory.note(what, p.piece, p.variant, !!p.overlay)
    if (!counted && !unwatched) track(what, p.piece, p.variant)
    say(what, p)
  }

  const eyes = watch({ start: arrival.start, exit: first.exit, began }, check)
  function check() {
    for (const p of left.filter(p => !p.waiting || holds(p.waiting, eyes.come))) {
      left.splice(left.indexOf(p), 1)
      show(p).catch(() => {})
    }
  }

  function update(next: DecideAnswer) {
    answer = next
    left = next.placements.filter(p => !shown.has(p.piece))
    eyes.rules(left.flatMap(p => p.waiting ?? []))
    check()
    // Most moments are a while off; the renderer may come while nothing else does.
    if (left.length) (window.requestIdleCallback ?? setTimeout)(() => load().catch(() => {}))
  }

  /** Other tabs and other pieces may have changed what this one may do. */
  function held(p: Placement): boolean {
    const now = memory.read()
    const times = (m: typeof now) => m.pieces?.[p.piece]?.times_shown || 0
    const overlays = p.overlay && answer.overlays && (now.visit.overlays || 0) >= answer.overlays
    const quiet = answer.quiet && now.shown && seconds() - now.shown < answer.quiet
    return (!!p.slot && taken.has(p.slot)) || times(now) !== times(arrival) || !!overlays || !!quiet
  }

  /** When this visitor first saw a piece; its timers count from then. */
  const since = (piece: string) => {
    const kept = keep<Record<string, number>>('gobbet:' + context.site + ':since', () => ({}))
    const all = kept.read()
    if (!(all[piece] > 0)) {
      all[piece] = Date.now()
      kept.write(all)
    }
    return all[piece]
  }

  async function code(p: Placement, pool: string): Promise<string | null> {
    const request: CodeRequest = { piece: p.piece, variant: p.variant, design: p.design, pool, visitor: arrival.visitor }
    const r = await fetch(api + '/codes', { method: 'POST', body: JSON.stringify(request) })
    return r.ok ? (await r.json()).code : null
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
    show(p).catch(() => {})
  }

  async function show(p: Placement) {
    if (held(p)) return
    taken.add(p.slot)
    standing.add(p.slot)
    shown.add(p.piece)
    try {
      const [{ show: draw }, drawing] = await Promise.all([load(), fetch(api + '/designs/' + p.design).then(r => (r.ok ? r.json() : Promise.reject(r.status)))])
      await draw({
        id: p.piece,
        drawing,
        base,
        extras: () => import(/* @vite-ignore */ base + answer.extras),
        since: () => since(p.piece),
        code: pool => code(p, pool),
        found,
        never: () => memory.change(m => void ((m.pieces![p.piece] ||= {}).never = true)),
        other: piece => open(piece, true),
        converted: () => did('converted', p),
        send: (scene, answers, counts) => send(p, scene, answers, counts),
        ended: (how, tab) => {
          if (!tab) standing.delete(p.slot)
          if (how === 'closed') did('closed', p)
          else say('done', p)
        },
      })
      did('shown', p)
    } catch (e) {
      standing.delete(p.slot)
      throw e
    }
  }

  // The same answers keep their id when they are sent again, so that they count once.
  const ids = new Map<string, string>()

  async function send(p: Placement, scene: string, answers: Record<string, string>, counts: boolean): Promise<Sent> {
    if (context.silent) return { ok: true }
    const same = p.piece + scene + JSON.stringify(answers)
    if (!ids.has(same)) ids.set(same, id())
    const { visit, visitor } = arrival
    const request: AnswersRequest = {
      id: ids.get(same)!,
      piece: p.piece,
      variant: p.variant,
      design: p.design,
      scene,
      visitor,
      visit: visit.id,
      page: location.pathname,
      landing: visit.landing,
      referrer: visit.referrer,
      answers,
      unwatched,
    }
    try {
      const r = await fetch(api + '/answers', { method: 'POST', body: JSON.stringify(request) })
      if (r.ok) {
        memory.change(m => {
          m.lead = true
        })
        // The server counts this conversion itself, with the answers.
        if (counts) did('converted', p, true)
        return { ok: true }
      }
      const problem = await r.json()
      return { ok: false, faults: problem.faults, title: r.status < 500 ? problem.title : undefined }
    } catch {
      return { ok: false }
    }
  }

  let told = -1
  /** Tells how the visitor stayed so far, once more only if they stayed on. */
  function record() {
    const stay = eyes.stay()
    if (!answer.record || unwatched || stay.seconds <= told || performance.now() - began > longest) return
    told = stay.seconds
    const body: ViewRecord = { id: view, age: Math.round(performance.now() - began), view: asked, ...stay }
    const text = JSON.stringify(body)
    if (!navigator.sendBeacon?.(api + '/views', text)) fetch(api + '/views', { method: 'POST', body: text, keepalive: true }).catch(() => {})
  }
  const ended = new AbortController()
  const away = () => document.hidden && record()
  document.addEventListener('visibilitychange', away, { signal: ended.signal })
  addEventListener('pagehide', record, { signal: ended.signal })

  const hear = () => {
    for (; heard < context.events.length; heard++) eyes.happened(context.events[heard])
  }
  update(first)
  hear()
  return {
    update,
    happened: hear,
    call: (piece: string) => open(piece),
    end: () => {
      record()
      ended.abort()
      eyes.stop()
      context.events.splice(0)
    },
  }
}

const fetchRenderer = (address: string): Promise<typeof import('./renderer')> => import(/* @vite-ignore */ address)

export { holds, watch } from './watch'
