/** @jsxImportSource preact */
import type { Drawing, Frame, Tab } from '../kinds/piece'
import { type Given, give } from './borrowed'
import { framesStyle } from './framesStyle'
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
}

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

/** Puts an element where it belongs. */
export type Spot = (e: HTMLElement) => void

/** Where an inline piece goes, as soon as the page has the place. */
async function place(host: Host, around?: Surroundings): Promise<Spot | undefined> {
  const now = anchor(host)
  if (now || !around) return now
  return new Promise(found => {
    const stop = around.grows(() => {
      const at = anchor(host)
      if (!at) return
      stop()
      found(at)
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
  if (!selector) return e => spot.replaceChildren(e)
  return e => (where === 'before' ? spot.before(e) : where === 'after' ? spot.after(e) : where === 'first' ? spot.prepend(e) : spot.append(e))
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
