import { Component, h, render } from 'preact'
import type { Drawing, Scene } from '../kinds/piece'
import { play as asking, extras, played, rare, sounds } from './blocks'
import type { Host } from './host'
import { formatOn, loadFonts, type PageLook, placeOf, some } from './paint'
import { DrawnPiece } from './piece'
import { style } from './style'

// Draws pieces: on a visitor's page with show, in the studio with draw.

let sheets: CSSStyleSheet[] | undefined

const sheetOf = (text: string) => {
  const sheet = new CSSStyleSheet()
  sheet.replaceSync(text)
  return sheet
}

/** The style sheets of all that is here by now. */
const styles = () => {
  sheets ??= [sheetOf(style)]
  if (asking.style && sheets.length === 1) sheets.push(sheetOf(asking.style))
  return sheets
}

/** How often an inline piece goes back to a page that takes it away: some take away all that is not theirs. */
const mostReturns = 10
const settles = 200 // ms until a page that took it away is looked at again

function dress(element: HTMLElement): ShadowRoot {
  const root = element.shadowRoot ?? element.attachShadow({ mode: 'open' })
  root.adoptedStyleSheets = styles()
  return root
}

/** Takes in the blocks that few pieces hold, and what asks in other ways than forms do. */
export function install(made: typeof import('./extras')) {
  Object.assign(extras, made.make({ h, Component }))
  sounds.play = made.playSound
}

export const installPlay = (made: typeof import('./play')) => void Object.assign(asking, made.make({ h, Component }))

const holds = (scenes: Scene[], kinds: string[]) => scenes.some(s => some(s.blocks, b => kinds.includes(b.kind === 'field' ? b.ask : b.kind)))

/** Whether a drawing holds what few pieces hold, and what is played. */
export const needsExtras = (d: Drawing) => !extras.timer && (!!d.frame.sound || holds(d.scenes, rare))
export const needsPlay = (d: Drawing) => !asking.Asked && (!!d.live?.length || d.scenes.some(s => s.limit) || holds(d.scenes, played))

/** The page as a piece finds it. */
export interface Around {
  /** The page view is over: another page has come. */
  over(): boolean
  /** Calls back after the page got other elements, until told otherwise. */
  grows(does: () => void): () => void
}

/**
 * Shows a piece on the page until the visitor is done with it. Gives false
 * where it has nowhere to stand, or the page it was for is gone. Where the page
 * may yet get the place it stands in, that is waited for.
 */
export async function show(host: Host, around?: Around): Promise<boolean> {
  const { drawing } = host
  const format = formatOn(!!host.phone, drawing)
  const spot = format !== 'inline' ? undefined : around ? await place(host, around) : anchor(host)
  if (format === 'inline' && !spot) return false
  await ready({ ...drawing, scenes: [...drawing.scenes, ...(host.resumed?.scenes ?? [])] }, host)
  if (around?.over()) return false
  loadFonts(drawing, host.base)
  const element = document.createElement('gobbet-piece')
  const root = dress(element)
  let page: PageLook | undefined
  let flows = false
  if (spot) {
    element.style.cssText = 'display:block'
    spot(element)
    page = lookOf(element.parentElement ?? document.body)
  } else if (format === 'bar') flows = stand(element, drawing, placeOf(format, drawing.frame.place))
  else document.body.append(element)
  const withScripts = (scenes: Scene[]) =>
    ready({ ...drawing, scenes }, host).then(() => {
      root.adoptedStyleSheets = styles()
    })
  let here = true
  const gone = () => {
    here = false
    render(null, root)
    element.remove()
  }
  let again = spot && around ? mostReturns : 0
  // An inline piece goes back as it is, where the page has drawn its place anew.
  const back = (at: Spot) => {
    if (!here || around?.over()) return
    at(element)
    stay()
  }
  // A page that swaps what the piece stands in gets its keyboard and its place back.
  const stay = () =>
    leaves(element, () => {
      if (!here) return
      // Not before the page has had time to finish.
      if (around && again-- > 0 && !around.over()) return void setTimeout(() => place(host, around).then(back), settles)
      gone()
      host.lost?.()
    })
  stay()
  let open: (() => void) | undefined
  const own: Host = {
    ...host,
    gone,
    opens: does => {
      open = does
    },
    flows,
    top: !flows && format !== 'inline',
    advance: host.advance && ((...what) => host.advance!(...what).then(went => withScripts(went.answer?.scenes ?? []).then(() => went))),
  }
  render(h(DrawnPiece, { host: own, drawing, phone: !!host.phone, page }), root)
  if (open) {
    await new Promise(done => setTimeout(done))
    if (here) open()
  }
  return here
}

/** Fetches the scripts that a drawing needs beside this one. */
const ready = (drawing: Drawing, host: Host) =>
  Promise.all([needsExtras(drawing) && host.extras?.().then(install, () => {}), needsPlay(drawing) && host.play?.().then(installPlay, () => {})])

/** Calls back once an element is not in the page any more, without anyone of ours having removed it. */
function leaves(element: HTMLElement, then: () => void) {
  const watching = new MutationObserver(() => {
    if (element.isConnected) return
    watching.disconnect()
    then()
  })
  watching.observe(document.documentElement, { childList: true, subtree: true })
  watching.observe(document, { childList: true })
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

type Spot = (e: HTMLElement) => void

/** Where an inline piece goes, as soon as the page has the place. */
async function place(host: Host, around: Around): Promise<Spot> {
  const now = anchor(host)
  if (now) return now
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

const nobody: Omit<Host, 'drawing' | 'base'> = { id: '', converted() {}, ended() {} }

/** How a drawing is drawn in the studio. */
export interface Look {
  base?: string
  /** Says where steps lead, all from the first on. */
  advance?: Host['advance']
  phone?: boolean
  page?: PageLook
}

/** Draws one scene into an element, to be looked at; again with the next drawing. */
export function draw(element: HTMLElement, drawing: Drawing, scene: string, { base = '', phone = false, page }: Look = {}): ShadowRoot {
  const root = dress(element)
  loadFonts(drawing, base)
  render(h(DrawnPiece, { host: { ...nobody, drawing, base }, drawing, still: scene, phone, page }), root)
  return root
}

/** Plays a piece in an element as a visitor would have it, sent nowhere. Gives back how to end it. */
export function play(element: HTMLElement, drawing: Drawing, ended: () => void, { base = '', phone = false, page, advance }: Look = {}): () => void {
  const root = element.shadowRoot ?? dress(element)
  loadFonts(drawing, base)
  const began = Date.now()
  const host: Host = { ...nobody, drawing, base, advance, gone: ended, since: () => began }
  render(h(DrawnPiece, { host, drawing, phone, page }), root)
  return () => render(null, root)
}

/** Takes away what was drawn into an element. */
export const erase = (element: HTMLElement) => {
  if (element.shadowRoot) render(null, element.shadowRoot)
}
