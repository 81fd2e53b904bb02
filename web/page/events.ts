import type { EventIn, EventsRequest } from '../kinds/visitor'
import type { Context } from './context'

// What happens on a page waits in the browser until the server has stored it.
// Sending it is another script's (sending.ts), which is fetched with the first event.

const mostEvents = 60

/** An event, and the visit that it happened in. */
export interface KeptEvent extends EventIn {
  in?: { id: string; landing: string; referrer: string; visits: number }
}

/** A random name that begins with its time: a UUIDv7 (RFC 9562) without its dashes. */
const timed = (name: string, at: number) => at.toString(16).padStart(12, '0') + '7' + name.slice(13, 16) + 'a' + name.slice(17)

/** The events that wait. */
export function keptEvents({ keep, memory }: Context) {
  const kept = keep<KeptEvent[]>(memory.events, () => [])
  return {
    read(): KeptEvent[] {
      const list = kept.read()
      return Array.isArray(list) ? list : []
    },
    write: kept.write,
  }
}

/** What waits, as it is sent: those of each visit together. */
export function bodiesOf(context: Context): EventsRequest[] {
  const { visitor, visit: now, visits: count } = context.arrival
  const visits = new Map<string | undefined, KeptEvent[]>()
  for (const e of keptEvents(context).read()) visits.set(e.in?.id, [...(visits.get(e.in?.id) ?? []), e])
  return [...visits.values()].map(some => {
    const { id, landing, referrer, visits } = some[0].in ?? { ...now, visits: count }
    const events = some.map(({ in: _, ...e }): EventIn => e)
    return { visitor, visit: id, landing, referrer, visits, width: innerWidth, automated: navigator.webdriver || undefined, events }
  })
}

/** Sends what waits while the page is left: nobody hears whether it came, and it is sent again. */
export function leaveEvents(context: Context) {
  for (const body of bodiesOf(context)) navigator.sendBeacon?.(context.api + '/events', JSON.stringify(body))
}

/** Keeps an event, and has it sent. */
export function track(context: Context, kind: EventIn['kind'], piece: string, variant: string, more?: Partial<EventIn>) {
  const { id, arrival } = context
  const { visit, visits } = arrival
  const at = Date.now() + (context.skew || 0)
  const kept = keptEvents(context)
  const event: KeptEvent = {
    id: timed(id(), at),
    kind,
    at,
    piece,
    variant,
    page: location.pathname,
    ...more,
    in: { id: visit.id, landing: visit.landing, referrer: visit.referrer, visits },
  }
  kept.write([...kept.read(), event].slice(-mostEvents))
  context.sending().then(
    s => s.soon(),
    () => {},
  )
}
