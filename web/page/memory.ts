import type { Known, Memory as Sent } from '../kinds/choose'

// What the visitor's own browser remembers. It is kept in localStorage, so
// that the server need keep nothing, and read anew before each change, so that
// two tabs do not undo each other. Where storage is denied it lasts as long as
// the page.

/** Memory with what only the browser needs of it. */
export interface Memory extends Sent {
  /** Start of this visit, and the latest sign of it, in seconds since 1970. */
  start: number
  seen: number
}

const visitRests = 30 * 60 // seconds without a page view that end a visit
const mostBytes = 60_000
const mostShown = 50

export const seconds = () => Math.floor(Date.now() / 1000)
/** A random name: a UUID without its dashes. */
export const id = () => [...crypto.getRandomValues(new Uint8Array(16))].map(b => (b + 256).toString(16).slice(1)).join('')

export function keep<T>(key: string, fallback: () => T) {
  let inPage: T | undefined
  return {
    read(): T {
      try {
        const text = localStorage.getItem(key)
        if (text && text.length < mostBytes) return JSON.parse(text) ?? fallback()
      } catch {}
      return inPage ?? fallback()
    },
    write(value: T) {
      inPage = value
      try {
        localStorage.setItem(key, JSON.stringify(value))
      } catch {}
    },
  }
}

export const outboxKey = (site: string) => 'gobbet:' + site + ':out'

/** One more than what should be a number, and begins at 0 where it is none. */
const more = (n: unknown) => (Number(n) || 0) + 1

const none = (): Memory => ({ visitor: id(), visits: 0, pages: 0, visit: { id: '', pages: 0, landing: '', referrer: '' }, pieces: {}, start: 0, seen: 0 })

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
    kept.write(m)
    return m
  }
  return {
    /** Whether events of earlier pages wait to be sent. */
    unsent: () => !!keep<unknown[]>(outboxKey(site), () => []).read().length,
    read,
    change,
    /** Notes a page view, which may begin a visit. */
    arrive: () =>
      change(m => {
        const now = seconds()
        if (!(now - m.seen < visitRests) || m.seen > now + visitRests) {
          if (m.seen) m.last = m.seen
          m.visits = more(m.visits)
          m.visit = { id: id(), pages: 0, landing: location.href, referrer: document.referrer }
          m.start = now
          for (const known of Object.values(m.pieces!)) known.this_visit = 0
        }
        m.seen = now
        m.visit.pages = more(m.visit.pages)
        m.pages = more(m.pages)
      }),
    /** Notes that a piece was shown, closed or converted, now. */
    note: (what: 'shown' | 'closed' | 'converted', piece: string, variant: string, overlay: boolean) =>
      change(m => {
        if (what === 'shown') {
          m.shown = seconds()
          if (overlay) m.visit.overlays = more(m.visit.overlays)
        }
        const k: Known = (m.pieces![piece] ||= {})
        const times = `times_${what}` as const
        k[times] = more(k[times])
        k.variant = variant
        if (what === 'shown') {
          k.shown = [...(Array.isArray(k.shown) ? k.shown : []), seconds()].slice(-mostShown)
          k.this_visit = more(k.this_visit)
        } else k[what] = seconds()
      }),
  }
}
