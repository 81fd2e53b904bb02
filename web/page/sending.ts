import type { AdvanceAnswer, AdvanceRequest, EventIn } from '../kinds/visitor'
import type { Context } from './context'
import type { Told, Went } from './host'
import type { Step } from './walkState'

// What is sent waits in the browser until the server says it is stored: events,
// and the steps of walks. Sent twice it counts once, so when in doubt it is sent
// again: after a page was left, a network was gone, or the server was away.

const soon = 800 // ms, to gather what belongs together
const later = 20_000 // ms, after the server did not answer
const mostEvents = 60
const mostWalks = 20
const mostTags = 50

/** An event, and the visit that it happened in. */
interface KeptEvent extends EventIn {
  in?: { id: string; landing: string; referrer: string; visits: number }
}

/** Steps that the server may not have, and what goes along with them. */
export interface KeptSteps {
  request: Omit<AdvanceRequest, 'steps'>
  steps: Step[]
}

/** A random name that begins with its time: a UUIDv7 (RFC 9562) without its dashes. */
const timed = (name: string, at: number) => at.toString(16).padStart(12, '0') + '7' + name.slice(13, 16) + 'a' + name.slice(17)

/** Whether the server will never take it, however often it is sent. */
const refused = ({ status }: Response) => status >= 400 && status < 500 && status !== 429 && status !== 408

/** Opened once for all page views of a page. */
export function openSending(context: Context) {
  const { id, keep, memory, post } = context
  const events = keep<KeptEvent[]>(memory.events, () => [])
  const walks = keep<Record<string, KeptSteps>>(memory.steps, () => ({}))
  let timer = 0

  const waiting = () => {
    const list = events.read()
    return Array.isArray(list) ? list : []
  }
  const bodies = () => {
    const visits = new Map<string | undefined, KeptEvent[]>()
    for (const e of waiting()) visits.set(e.in?.id, [...(visits.get(e.in?.id) ?? []), e])
    return [...visits.values()].map(some => {
      const visit = some[0].in ?? { ...context.arrival.visit, visits: context.arrival.visits }
      return {
        visitor: context.arrival.visitor,
        visit: visit.id,
        landing: visit.landing,
        referrer: visit.referrer,
        visits: visit.visits,
        width: innerWidth,
        automated: navigator.webdriver || undefined,
        events: some.map(({ in: _, ...e }): EventIn => e),
      }
    })
  }
  const plan = (ms: number) => {
    clearTimeout(timer)
    timer = setTimeout(send, ms) as unknown as number
  }
  const sendEvents = async () => {
    for (const body of bodies()) {
      const r = await post('/events', body).catch(() => undefined)
      if (!r?.ok && !(r && refused(r))) return plan(later)
      const gone = new Set(body.events.map(e => e.id))
      events.write(waiting().filter(e => !gone.has(e.id)))
    }
  }

  const keepSteps = (piece: string, kept?: KeptSteps) => {
    const all = { ...walks.read() }
    delete all[piece]
    if (kept) all[piece] = kept
    for (const old of Object.keys(all).slice(0, -mostWalks)) delete all[old]
    return walks.write(all)
  }
  // Walks that were begun, by their pieces: the token of each, and whether it has ended.
  const begun = keep<Record<string, { token: string; ended?: boolean }>>('gobbet:' + context.site + ':walks', () => ({}))
  /** Keeps what lets another page go on, and what the visitor is known by from here on. */
  const remember = (piece: string, a: AdvanceAnswer) => {
    const all = { ...begun.read() }
    delete all[piece]
    all[piece] = { token: a.token!, ended: a.ended }
    for (const old of Object.keys(all).slice(0, -mostWalks)) delete all[old]
    begun.write(all)
    if (a.lead || a.tags?.length)
      memory.change(m => {
        if (a.lead) m.lead = true
        if (a.tags?.length) m.tags = [...new Set([...(m.tags ?? []), ...a.tags])].slice(-mostTags)
      })
  }
  const sent = async (piece: string, { request, steps }: KeptSteps): Promise<Went & { kept?: boolean }> => {
    const now = Date.now()
    try {
      const r = await post('/advance', { ...request, steps: steps.map(({ at, ...s }) => ({ ...s, ago: now - at })) })
      if (r.ok) {
        const answer: AdvanceAnswer = await r.json()
        if (answer.token) remember(piece, answer)
        return { ok: true, answer }
      }
      const problem = await r.json()
      return { ok: false, faults: problem.faults, title: r.status < 500 ? problem.title : undefined, kept: !refused(r) }
    } catch {
      return { ok: false, kept: true }
    }
  }
  /** Sends steps, which are kept until the server has them, or will not have them. */
  const advance = async (piece: string, steps: KeptSteps): Promise<Went> => {
    if (steps.steps.length) keepSteps(piece, steps)
    const went = await sent(piece, steps)
    if (steps.steps.length && !went.kept) keepSteps(piece)
    return went
  }
  /** Sends what an earlier page took of a walk and could not send, and gives what came of it, and on which scene. */
  const onceMore = async (piece: string): Promise<Told | undefined> => {
    const kept = walks.read()?.[piece]
    if (!kept?.steps?.length || !kept.request) return
    const { answer } = await advance(piece, kept)
    return answer && { answer, scene: kept.steps.at(-1)!.scene }
  }
  const sendSteps = async () => {
    for (const piece of Object.keys(walks.read() ?? {})) {
      await onceMore(piece)
      if (walks.read()?.[piece]) return plan(later)
    }
  }
  const send = async () => {
    await sendEvents()
    await sendSteps()
  }
  const leave = () => {
    for (const body of bodies()) navigator.sendBeacon?.(context.api + '/events', JSON.stringify(body))
  }

  addEventListener('pagehide', leave)
  addEventListener('online', () => plan(soon))
  if (memory.unsent()) plan(soon)
  return {
    /** Adds an event. */
    track(kind: EventIn['kind'], piece: string, variant: string, more?: Partial<EventIn>) {
      const at = Date.now() + (context.skew || 0)
      const { visit, visits } = context.arrival
      const { id: name, landing, referrer } = visit
      const event: KeptEvent = { id: timed(id(), at), kind, at, piece, variant, page: location.pathname, ...more, in: { id: name, landing, referrer, visits } }
      events.write([...waiting(), event].slice(-mostEvents))
      plan(soon)
    },
    /** Sends what waits while the page is left. */
    leave,
    /** Sends at once the events that wait. */
    send: sendEvents,
    /** Whether what waits outlives the page. */
    lasts: () => walks.write(walks.read() ?? {}),
    advance,
    onceMore,
    /** The walk through a piece that was begun, on whichever page. */
    begun: (piece: string) => begun.read()?.[piece],
  }
}
