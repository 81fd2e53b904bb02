import type { Known, Memory as Sent } from '../kinds/choose'

// What the visitor's own browser remembers. It is kept in localStorage, so
// that the server need keep nothing, and read anew before each change, so that
// two tabs do not undo each other. Where that is full it is kept for the tab,
// and where storage is denied for as long as the page lasts.

/** Memory with what only the browser needs of it. */
export interface Memory extends Sent {
  /** Start of this visit, and the latest sign of it, in seconds since 1970. */
  start: number
  seen: number
}

const visitRests = 30 * 60 // seconds without a page view that end a visit
const mostText = 40_000 // characters kept, so that a request has room for them
const mostRead = 1_000_000
const mostShown = 50
const fewShown = 5
const mostAddress = 2000

export const seconds = () => Math.floor(Date.now() / 1000)
/** A random name: a UUID without its dashes. */
export const id = () => [...crypto.getRandomValues(new Uint8Array(16))].map(b => (b + 256).toString(16).slice(1)).join('')

export function keep<T>(key: string, fallback: () => T) {
  // What this page wrote and no storage took.
  let inPage: T | undefined
  const from = (storage: () => Storage): T | undefined => {
    try {
      const text = storage().getItem(key)
      if (text && text.length < mostRead) return JSON.parse(text) ?? undefined
    } catch {}
  }
  const put = (storage: () => Storage, text: string) => {
    try {
      storage().setItem(key, text)
      return true
    } catch {
      return false
    }
  }
  const lasting = () => localStorage
  const ofTab = () => sessionStorage
  return {
    read: (): T => inPage ?? from(ofTab) ?? from(lasting) ?? fallback(),
    /** Gives whether it outlives the page. */
    write(value: T): boolean {
      const text = JSON.stringify(value)
      inPage = undefined
      if (put(lasting, text)) {
        try {
          sessionStorage.removeItem(key)
        } catch {}
        return true
      }
      if (put(ofTab, text)) return true
      inPage = value
      return false
    },
  }
}

/** One more than what should be a number, and begins at 0 where it is none. */
const more = (n: unknown) => (Number(n) || 0) + 1

const none = (): Memory => ({ visitor: id(), visits: 0, pages: 0, visit: { id: '', pages: 0, landing: '', referrer: '' }, pieces: {}, start: 0, seen: 0 })

const listed = (k: Known) => (Array.isArray(k.shown) ? k.shown : [])
const latest = (k: Known) => Math.max(0, k.closed || 0, k.converted || 0, ...listed(k))

/** Lets go of the least of what is remembered until the rest fits: first all but the latest showings, then the pieces not met for longest. */
function prune(m: Memory) {
  const fits = () => JSON.stringify(m).length <= mostText
  if (fits()) return
  const pieces = m.pieces!
  for (const k of Object.values(pieces)) k.shown = listed(k).slice(-fewShown)
  // Those the visitor asked not to see again go last.
  const order = Object.keys(pieces).sort((a, b) => Number(!!pieces[a].never) - Number(!!pieces[b].never) || latest(pieces[a]) - latest(pieces[b]))
  while (order.length && !fits()) for (const gone of order.splice(0, 1 + (order.length >> 4))) delete pieces[gone]
}

export function openMemory(site: string) {
  const kept = keep('gobbet:' + site, none)
  const read = (): Memory => {
    const m = kept.read()
    const fits = (x: unknown) => !!x && typeof x === 'object'
    // Edited by hand, or from another time: what does not fit is begun anew.
    if (typeof m.visitor !== 'string' || !fits(m.visit) || !fits(m.pieces)) return none()
    for (const [piece, known] of Object.entries(m.pieces!)) if (!fits(known)) delete m.pieces![piece]
    return m
  }
  const change = (how: (m: Memory) => void) => {
    const m = read()
    how(m)
    prune(m)
    kept.write(m)
    return m
  }
  /** Under what events and steps wait that are not sent yet. */
  const events = 'gobbet:' + site + ':out'
  const steps = 'gobbet:' + site + ':steps'
  const walks = 'gobbet:' + site + ':walks'
  return {
    events,
    steps,
    walks,
    /** Whether a walk through a piece was begun, on whichever page. */
    begun: (piece: string) => [steps, walks].some(key => Object.hasOwn(keep<object>(key, () => ({})).read(), piece)),
    /** Whether what is kept outlives the page. */
    lasts() {
      const kept = keep<object>(steps, () => ({}))
      return kept.write(kept.read())
    },
    /** Whether an earlier page could not send something. */
    unsent: () => [events, steps].some(key => Object.keys(keep<object>(key, () => []).read()).length),
    read,
    change,
    /** Notes a page view, which may begin a visit. */
    arrive: () =>
      change(m => {
        const now = seconds()
        if (!(now - m.seen < visitRests) || m.seen > now + visitRests) {
          if (m.seen) m.last = m.seen
          m.visits = more(m.visits)
          m.visit = { id: id(), pages: 0, landing: location.href.slice(0, mostAddress), referrer: document.referrer.slice(0, mostAddress) }
          m.start = now
          for (const known of Object.values(m.pieces!)) known.this_visit = 0
        }
        m.seen = now
        m.visit.pages = more(m.visit.pages)
        m.pages = more(m.pages)
      }),
    /** Notes that a piece was shown, closed or converted, now. Who is held back remembers it likewise, without a variant. */
    note: (what: 'shown' | 'closed' | 'converted', piece: string, variant: string, interrupts: boolean, overlay: boolean) =>
      change(m => {
        if (what === 'shown') {
          if (interrupts) {
            m.shown = seconds()
            m.visit.interrupted = more(m.visit.interrupted)
          }
          if (overlay) m.visit.overlays = more(m.visit.overlays)
        }
        const k: Known = (m.pieces![piece] ||= {})
        const times = `times_${what}` as const
        k[times] = more(k[times])
        k.variant = variant
        if (what === 'shown') {
          k.shown = [...listed(k), seconds()].slice(-mostShown)
          k.this_visit = more(k.this_visit)
        } else k[what] = seconds()
      }),
  }
}
