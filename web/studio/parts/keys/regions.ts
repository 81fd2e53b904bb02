// Ways around a screen for who does not point at it.

const regions = 'header, nav, aside, main, [role=dialog], section[aria-label]'
const focusable = 'a[href], button:not(:disabled), input:not(:disabled):not([type=hidden]), select, textarea, [tabindex]:not([tabindex="-1"])'

const seen = (e: Element) => e.getClientRects().length > 0 && !e.closest('[inert], [aria-hidden=true]')

/** The parts of the screen, in order: the top line, the places, the panels; what holds others is not one itself. */
function regionsNow(): HTMLElement[] {
  const within = document.querySelector('[role=dialog]') ?? document
  const all = [...within.querySelectorAll<HTMLElement>(regions)].filter(e => seen(e) && [...e.querySelectorAll(focusable)].some(seen))
  return all.filter(e => !e.parentElement?.closest('header') && (e.localName === 'header' || !all.some(other => other !== e && e.contains(other))))
}

/** Takes the keyboard to the next part of the screen, or the one before. */
export function toNextRegion(by: 1 | -1) {
  const all = regionsNow()
  if (!all.length) return
  const at = all.findLastIndex(e => e.contains(document.activeElement))
  const next = all[(at < 0 ? (by > 0 ? 0 : all.length - 1) : at + by + all.length) % all.length]
  const first = [...next.querySelectorAll<HTMLElement>(focusable)].find(seen)
  first?.focus()
}

/** Takes the keyboard past what is the same on every screen. */
export function toContent() {
  const main = document.querySelector('main')
  if (!main) return
  main.tabIndex = -1
  main.focus()
}
