/** @jsxImportSource preact */
import type { Drawing, Frame, Tab } from '../kinds/piece'
import { type Given, give } from './borrowed'
import { framesStyle } from './framesStyle'
import { heightOf } from './height'
import type { Host } from './host'
import { Looping, Pause } from './looping'
import { fitted, type PageLook } from './paint'
import type { Say } from './words'

// The formats that stand in the page's flow or along its edges, and frames with
// more than a plain ground. Their script is fetched where a piece has them.

/** The page as a piece finds it. */
export interface Surroundings {
  /** The page view is over: another page has come. */
  over(): boolean
  /** Calls back after the page got other elements, until told otherwise. */
  grows(does: () => void): () => void
  /** Calls back as the page is scrolled or gets another size, for as long as the view lasts. */
  moves(does: () => void): void
}

/** How often an inline piece goes back to a page that takes it away: some take away all that is not theirs. */
const mostReturns = 10
const patience = 2000 // ms that letters may take
const settles = 200 // ms until a page that took it away is looked at again

/** Puts a floating bar where it belongs; whether it stands in the flow of the page. */
function stand(element: HTMLElement, { frame }: Drawing, place: string): boolean {
  const { pushes, scrolls } = frame.bar ?? {}
  const top = place === 'top'
  if (!pushes && !scrolls) {
    document.body.append(element)
    return false
  }
  const edge = top ? 'top:0' : 'bottom:0'
  element.style.cssText = `display:block;z-index:2147483000;${pushes ? (scrolls ? 'position:relative' : `position:sticky;${edge}`) : `position:absolute;left:0;right:0;${edge}`}`
  if (top) document.body.prepend(element)
  else document.body.append(element)
  return true
}

/** Where an inline piece stands. */
export interface Place {
  /** What stands around it. */
  around: Element
  put(e: HTMLElement): void
}

interface Spot extends Place {
  /** Between which heights of the window what is there changes as it comes, in px. */
  edges(): [from: number, to: number]
  /** The width and height that the page keeps for it, in px. */
  room(): [width: number, height: number]
}

/** A piece before it is drawn. */
export interface Draft {
  /** Comes when its letters are there. */
  letters: Promise<unknown>
  /** Draws it as it comes, to be measured; gives how to take it away. */
  draw(element: HTMLElement, page: PageLook): () => void
}

/** Where an inline piece goes, as soon as the page has the place. */
async function found(host: Host, around?: Surroundings): Promise<Spot | undefined> {
  const now = anchor(host)
  if (now || !around) return now
  return new Promise(come => {
    const stop = around.grows(() => {
      const at = anchor(host)
      if (!at) return
      stop()
      come(at)
    })
  })
}

/** Where an inline piece goes; undefined where the page has no place for it. */
function anchor(host: Host): Spot | undefined {
  const { selector, where = 'after' } = host.drawing.frame.anchor ?? {}
  let at: Element | null = null
  try {
    at = document.querySelector(selector || `[data-gobbet="${host.id}"]`)
  } catch {}
  if (!at) return undefined
  const spot = at
  const edges = (): [number, number] => {
    const { top, bottom } = spot.getBoundingClientRect()
    if (!selector) return [top, bottom]
    const y = where === 'before' || where === 'first' ? top : bottom
    return [y, y]
  }
  if (!selector) return { around: spot, edges, room: () => inside(spot), put: e => spot.replaceChildren(e) }
  const within = where === 'first' || where === 'last'
  return {
    around: within ? spot : (spot.parentElement ?? spot),
    edges,
    // An element that holds nothing yet is a placeholder, too.
    room: () => (within && !spot.firstElementChild && !spot.textContent?.trim() ? inside(spot) : [0, 0]),
    put: e => (where === 'before' ? spot.before(e) : where === 'after' ? spot.after(e) : where === 'first' ? spot.prepend(e) : spot.append(e)),
  }
}

/** The width and height inside an element, in px. */
function inside(e: Element): [number, number] {
  const css = getComputedStyle(e)
  const [left, right, top, bottom] = [css.paddingLeft, css.paddingRight, css.paddingTop, css.paddingBottom].map(Number.parseFloat)
  return [e.clientWidth - left - right, e.clientHeight - top - bottom]
}

/**
 * Where an inline piece goes, as soon as the page has the place and it can come
 * there without moving what the visitor reads: below the view, above it (a
 * browser that holds on to what is read while the page grows above it has that
 * stay), or where the page keeps room for it. One that was asked for, or whose
 * marketer wants it so, comes at once.
 */
async function place(host: Host, around: Surroundings | undefined, draft: Draft) {
  let at = await found(host, around)
  let kept = 0
  if (at && around && !host.asked?.() && !host.drawing.frame.anchor?.pushes) {
    // Letters that come later would make it higher.
    await Promise.race([draft.letters, new Promise(done => setTimeout(done, patience))])
    const heights = new Map<number, number>()
    const still = () => {
      const [from, to] = at!.edges()
      if (from >= innerHeight || (to <= 0 && CSS.supports('overflow-anchor', 'auto'))) return true
      const [width, room] = at!.room()
      if (room <= 0) return false
      if (!heights.has(width))
        heights.set(
          width,
          heightOf(width, e => draft.draw(e, lookOf(at!.around))),
        )
      kept = heights.get(width)! <= room ? room : 0
      return kept > 0
    }
    if (!still() && !host.asked?.())
      await new Promise<void>(come => {
        host.waits?.(come)
        let asked = false
        around.moves(() => {
          if (asked) return
          asked = true
          requestAnimationFrame(() => {
            asked = false
            // A page that draws itself anew has its place elsewhere now.
            const now = anchor(host)
            if (!now) return
            at = now
            if (still()) come()
          })
        })
      })
    host.waits?.()
  }
  if (!at) return undefined
  let again = around ? mostReturns : 0
  return {
    around: at.around,
    put(e: HTMLElement) {
      // What it does not need of its room is kept, too.
      if (kept) e.style.minHeight = kept + 'px'
      at!.put(e)
    },
    /** Has it go back as it is, where the page has drawn its place anew. Gives whether it may yet. */
    returns(back: (at: Place) => void): boolean {
      // Not before the page has had time to finish.
      const may = again-- > 0 && !around!.over()
      if (may) setTimeout(() => found(host, around).then(at => at && !around!.over() && back(at)), settles)
      return may
    },
  }
}

/** What an inline piece may take from the page around it. */
export function lookOf(around: Element): PageLook {
  const view = around.ownerDocument.defaultView ?? window
  const css = view.getComputedStyle(around)
  const doc = around.ownerDocument
  const button = doc.querySelector('main button, main .button, main [type=submit], button')
  const link = doc.querySelector('main a[href], a[href]')
  const filled = button && view.getComputedStyle(button)
  if (filled && !/, 0\)$|^transparent$/.test(filled.backgroundColor))
    return { ink: css.color, font: css.fontFamily, accent: filled.backgroundColor, accentInk: filled.color }
  const accent = link ? view.getComputedStyle(link).color : css.color
  return { ink: css.color, font: css.fontFamily, accent, accentInk: light(accent) ? '#1b1a1f' : '#ffffff' }
}

function light(color: string): boolean {
  const [r = 0, g = 0, b = 0] = color.match(/[\d.]+/g)?.map(Number) ?? []
  return r * 0.299 + g * 0.587 + b * 0.114 > 150
}

/** What lies behind the blocks, or stands beside them. */
function Behind({
  frame,
  side,
  base,
  color,
  still,
  say,
}: {
  frame: Frame
  side: string
  base: string
  color: (c?: string) => string
  still: boolean
  say: Say
}) {
  const b = frame.behind
  if (!b || !(b.gradient?.length || b.picture || b.video)) return null
  const style = b.gradient?.length ? { background: `linear-gradient(${b.angle ?? 0}deg, ${b.gradient.map(c => color(c)).join(', ')})` } : {}
  return (
    <>
      <div class={'behind' + (side ? ' beside' : '')} style={style}>
        {b.picture && <img src={`${base}/v1/pictures/${b.picture}`} alt={b.alt ?? ''} style={fitted(b.fit, b.focus)} draggable={false} />}
        {b.video && <Looping src={`${base}/v1/files/${b.video}/video`} still={still} style={fitted(b.fit, b.focus)} />}
        {!side && (b.picture || b.video) && <i style={{ opacity: (b.shade ?? 0) / 100 }} />}
      </div>
      {b.video && !still && <Pause say={say} />}
    </>
  )
}

/** The small tab that opens a piece. */
const DrawnTab = ({ tab, open }: { tab: Tab; open(): void }) => (
  <button type="button" class={'tab ' + (tab.place ?? 'bottom_end')} onClick={open}>
    {tab.words}
  </button>
)

const variables = ({ behind, tab, accent, accent_ink }: Frame, color: (c?: string, otherwise?: string) => string) => ({
  '--share': (behind?.share || 42) + '%',
  '--part': (behind?.share || 42) / 100,
  '--tab': color(tab?.fill, accent),
  '--on-tab': color(tab?.ink, accent_ink),
})

/** All of it, drawn with this renderer. */
export function make(given: Given) {
  give(given)
  return { Behind, Tab: DrawnTab, variables, stand, place, lookOf, style: framesStyle }
}
