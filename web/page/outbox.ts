import type { EventIn } from '../kinds/visitor'
import type { Context } from './context'

// Events wait in the browser until the server says they are stored. Sent
// twice they count once, so when in doubt they are sent again: after a page
// was left, or the server was away.

const soon = 800 // ms, to gather what belongs together
const later = 20_000 // ms, after the server did not answer
const most = 60

/** Opened once for all page views of a page. */
export function openOutbox(context: Context) {
  const address = context.api + '/events'
  const { id, keep, memory } = context
  const kept = keep<EventIn[]>(memory.outbox, () => [])
  const waiting = () => {
    const list = kept.read()
    return Array.isArray(list) ? list : []
  }
  let timer = 0
  const body = (events: EventIn[]) => JSON.stringify({ visitor: context.arrival.visitor, visit: context.arrival.visit.id, events })
  const plan = (ms: number) => {
    clearTimeout(timer)
    timer = setTimeout(send, ms) as unknown as number
  }
  const send = async () => {
    const events = waiting()
    if (!events.length) return
    try {
      const r = await fetch(address, { method: 'POST', body: body(events), keepalive: true })
      // What is refused for good is not tried again.
      if (r.ok || (r.status < 500 && r.status !== 429 && r.status !== 408)) {
        const gone = new Set(events.map(e => e.id))
        kept.write(waiting().filter(e => !gone.has(e.id)))
      } else plan(later)
    } catch {
      plan(later)
    }
  }
  addEventListener('pagehide', () => {
    const events = waiting()
    if (events.length) navigator.sendBeacon?.(address, body(events))
  })
  if (waiting().length) plan(soon)
  return {
    /** Adds an event. */
    track(kind: EventIn['kind'], piece: string, variant: string) {
      kept.write([...waiting(), { id: id(), kind, at: Date.now(), piece, variant, page: location.pathname }].slice(-most))
      plan(soon)
    },
    /** Sends at once what waits. */
    send,
  }
}
