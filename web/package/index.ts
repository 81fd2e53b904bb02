// Gobbet for pages whose scripts are bundled: adds the one line, and says by types
// what a page can tell and hear. It does nothing where there is no document, so that
// a page may be rendered on a server.

/** What a page tells of itself. */
export interface Told {
  /** Kind of page, such as product. */
  kind?: string
  /** Texts, numbers and flags by name, sixty at most; null takes one back. */
  data?: Record<string, string | number | boolean | null>
  /** Tags of the visitor, remembered by their browser: twenty at most. */
  tags?: string[]
  /** Something happened that a rule may wait for, or that reaches a goal. */
  event?: string
  /** What the event was worth, in the site's currency. */
  value?: number
  /** A piece to show now, if this visitor may see it at all. */
  show?: string
}

/** What happens to a piece: it is on the page, was used, was closed, or came to its end. */
export type Happening = 'shown' | 'converted' | 'closed' | 'done'

/** Which piece, and which of its variants. */
export interface Detail {
  piece: string
  variant: string
}

/** Which site of which Gobbet the page is of. */
export interface Line {
  /** Gobbet's address, such as https://gobbet.example.com. */
  origin: string
  /** The site's key, as Site has it. */
  site: string
  /** For a page whose policy asks for one. */
  nonce?: string
}

const there = () => typeof document !== 'undefined'

/** Adds the line to the page, once. Throws where the origin is no address. */
export function start({ origin, site, nonce }: Line): void {
  const { href } = new URL('/v1/gobbet.js', origin)
  if (!there() || document.querySelector('script[src][data-site]')?.getAttribute('data-site') === site) return
  tell({})
  const line = document.createElement('script')
  line.async = true
  line.src = href
  line.dataset.site = site
  if (nonce) line.nonce = nonce
  document.head.append(line)
}

/** Tells something of the page: before the line has come as well as after. */
export function tell(told: Told): void {
  if (!there()) return
  const page = window as unknown as { gobbet?: { push(told: Told): unknown } }
  page.gobbet ||= []
  if (Object.keys(told).length) page.gobbet.push(told)
}

/** Hears what happens to pieces, until what it gives is called. */
export function on(what: Happening, hears: (detail: Detail) => void): () => void {
  if (!there()) return () => {}
  const name = `gobbet:${what}`
  const heard = (e: Event) => hears((e as CustomEvent<Detail>).detail)
  window.addEventListener(name, heard)
  return () => window.removeEventListener(name, heard)
}
