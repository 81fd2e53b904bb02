import type { Placement } from '../kinds/choose'
import type { AdvanceAnswer, AdvanceRequest, CodeRequest, WalkRef } from '../kinds/visitor'
import type { Context } from './context'
import { bodiesOf, keptEvents } from './events'
import type { Told, Went } from './host'
import type { Memory } from './memory'
import type { Step } from './walkState'

// What is sent waits in the browser until the server says it is stored: events,
// and the steps of walks. Sent twice it counts once, so when in doubt it is sent
// again: after a page was left, a network was gone, or the server was away.

const soon = 800 // ms, to gather what belongs together
const later = 20_000 // ms, after the server did not answer
const longest = 7 * 86_400_000 // ms that steps are kept, and sent again
const mostWalks = 20
const mostTags = 50

/** Steps that the server may not have, and what goes along with them. */
export interface KeptSteps {
  request: Omit<AdvanceRequest, 'steps'>
  steps: Step[]
}

/** Whether the server will never take it, however often it is sent. */
const refused = ({ status }: Response) => status >= 400 && status < 500 && status !== 429 && status !== 408

/** Opened once for all page views of a page. */
export function openSending(context: Context) {
  const { keep, memory, post } = context
  const events = keptEvents(context)
  const walks = keep<Record<string, KeptSteps>>(memory.steps, () => ({}))
  let timer = 0

  const plan = (ms: number) => {
    clearTimeout(timer)
    timer = setTimeout(send, ms) as unknown as number
  }
  const sendEvents = async () => {
    for (const body of bodiesOf(context)) {
      const r = await post('/events', body).catch(() => undefined)
      if (!r?.ok && !(r && refused(r))) return plan(later)
      const gone = new Set(body.events.map(e => e.id))
      events.write(events.read().filter(e => !gone.has(e.id)))
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
  const begun = keep<Record<string, { token: string; ended?: boolean }>>(memory.walks, () => ({}))
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
      // Whatever stands between may refuse in words that are none of ours.
      const problem = await r.json().catch(() => ({}))
      return { ok: false, faults: problem.faults, title: r.status < 500 ? problem.title : undefined, kept: !refused(r) }
    } catch {
      return { ok: false, kept: true }
    }
  }
  /** Sends steps, which are kept until the server has them, or will not have them. */
  const advance = async (piece: string, steps: KeptSteps): Promise<Went> => {
    if (steps.steps.length) keepSteps(piece, steps)
    const went = await sent(piece, steps)
    // What was taken meanwhile, here or in another tab, is still to come.
    const now = walks.read()?.[piece]
    if (now && !went.kept && JSON.stringify(now.steps) === JSON.stringify(steps.steps)) keepSteps(piece)
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
    for (const [piece, { steps }] of Object.entries(walks.read() ?? {})) {
      // What nobody took for so long nobody will.
      if ((steps?.at(-1)?.at ?? 0) > Date.now() - longest) await onceMore(piece)
      else keepSteps(piece)
      if (walks.read()?.[piece]) return plan(later)
    }
  }
  const send = async () => {
    await sendEvents()
    await sendSteps()
  }
  addEventListener('online', () => plan(soon))
  if (memory.unsent()) plan(soon)
  return {
    /** Sends what waits a moment later. */
    soon: () => plan(soon),
    walkOf: (p: Placement, arrival: Memory, language?: string) =>
      walkOf(context, p, arrival, language, { advance, onceMore, begun: () => begun.read()?.[p.piece], sendEvents }),
  }
}

const wait = (ms: number) => new Promise(done => setTimeout(done, ms))

interface Sends {
  advance(piece: string, steps: KeptSteps): Promise<Went>
  onceMore(piece: string): Promise<Told | undefined>
  begun(): { token: string; ended?: boolean } | undefined
  sendEvents(): Promise<void>
}

/** What the server is asked and told of one visitor's way through one piece. */
function walkOf(context: Context, p: Placement, arrival: Memory, language: string | undefined, sends: Sends) {
  const { silent, unwatched, token: pass, post } = context
  const looked: Step[] = []
  let token: string | undefined
  /** What goes along with steps: the walk's token, where it has begun. */
  const goes = (walk: WalkRef, from: number): Omit<AdvanceRequest, 'steps'> => {
    const { visit, visits } = arrival
    return {
      ...(token ? { token } : { walk }),
      from,
      visit: visit.id,
      page: location.pathname,
      landing: visit.landing,
      referrer: visit.referrer,
      visits,
      width: innerWidth,
      language,
      unwatched: unwatched || undefined,
      automated: navigator.webdriver || undefined,
    }
  }
  return {
    /** Tells the server of steps, of which the first is the walk's step `from`. */
    async advance(walk: WalkRef, steps: Step[], from: number): Promise<Went> {
      if (!silent) {
        const went = await sends.advance(walk.piece, { request: goes(walk, from), steps })
        token = went.answer?.token ?? token
        return went
      }
      // Who only looks has all steps taken anew each time, and nothing is stored.
      looked.splice(from, Number.POSITIVE_INFINITY, ...steps)
      try {
        const r = await post('/advance', { walk, from: 0, steps: looked.map(({ at: _, ...s }) => s), pass, language })
        const said = await r.json()
        return r.ok ? { ok: true, answer: said } : { ok: false, faults: said.faults, title: r.status < 500 ? said.title : undefined }
      } catch {
        return { ok: false }
      }
    },
    /** The walk that an earlier page began; undefined where there is none to go on with. Stays says that a result stays where it is. */
    async goingOn(stays: boolean): Promise<{ answer: AdvanceAnswer; told?: Told; walk: WalkRef } | undefined> {
      // What was taken there and did not reach the server goes first.
      const told = await sends.onceMore(p.piece)
      const known = sends.begun()
      // Who has finished begins anew, but for what stands in the page, or is open on it.
      if (!known?.token || (known.ended && !stays)) return
      token = known.token
      const { answer } = await sends.advance(p.piece, { request: goes({ piece: p.piece } as WalkRef, 0), steps: [] })
      if (answer?.design)
        return { answer, told, walk: { id: answer.walk ?? '', piece: p.piece, variant: p.variant, design: answer.design, visitor: arrival.visitor } }
      token = undefined
    },
    async code(asked: CodeRequest): Promise<string | null> {
      if (silent) return 'YOUR-CODE'
      const request: CodeRequest = { ...asked, language, unwatched: unwatched || undefined, automated: navigator.webdriver || undefined }
      // The server gives codes to those whom it knows to have seen the piece.
      for (let tries = 0; ; tries++) {
        if (!unwatched) await sends.sendEvents()
        const r = await post('/codes', request)
        if (r.ok) return (await r.json()).code
        if (r.status === 404) return null
        if (r.status !== 409 || tries === 2) return Promise.reject(r.status < 500 && (await r.json()).title)
        await wait(1000)
      }
    },
  }
}
