import type { EventIn } from '../kinds/visitor'
import type { Context } from './context'

// Events wait in the browser until the server says they are stored. Sent
// twice they count once, so when in doubt they are sent again: after a page
// was left, or the server was away.

const soon = 800 // ms, to gather what belongs together
const later = 20_000 // ms, after the server did not answer
const most = 60

/** A random name that begins with its time: a UUIDv7 (RFC 9562) without its dashes. */
const timed = (name: string, at: number) => at.toString(16).padStart(12, '0') + '7' + name.slice(13, 16) + 'a' + name.slice(17)

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
  const body = (events: EventIn[]) => {
    const { visitor, visit, visits } = context.arrival
    const { id, landing, referrer } = visit
    return JSON.stringify({ visitor, visit: id, landing, referrer, visits, width: innerWidth, automated: navigator.webdriver || undefined, events })
  }
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
  const leave = () => {
    const events = waiting()
    if (events.length) navigator.sendBeacon?.(address, body(events))
  }
  addEventListener('pagehide', leave)
  if (waiting().length) plan(soon)
  return {
    /** Adds an event. */
    track(kind: EventIn['kind'], piece: string, variant: string, more?: Partial<EventIn>) {
      const at = Date.now() + (context.skew || 0)
      kept.write([...waiting(), { id: timed(id(), at), kind, at, piece, variant, page: location.pathname, ...more }].slice(-most))
      plan(soon)
    },
    /** Sends what waits while the page is left. */
    leave,
    /** Sends at once what waits. */
    send,
  }
}
