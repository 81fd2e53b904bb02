import { Component, h, render } from 'preact'
import type { Drawing } from '../kinds/piece'
import { extras, rare, sounds } from './blocks'
import type { Host } from './host'
import { formatOn, loadFonts, type PageLook, phoneWidth, placeOf, some } from './paint'
import { DrawnPiece } from './piece'
import { style } from './style'

// Draws pieces: on a visitor's page with show, in the studio with draw.

let sheet: CSSStyleSheet | undefined

function dress(element: HTMLElement): ShadowRoot {
  const root = element.shadowRoot ?? element.attachShadow({ mode: 'open' })
  if (!sheet) {
    sheet = new CSSStyleSheet()
    sheet.replaceSync(style)
  }
  root.adoptedStyleSheets = [sheet]
  return root
}

/** Takes in the blocks that few pieces hold. */
export function install(made: typeof import('./extras')) {
  Object.assign(extras, made.make({ h, Component }))
  sounds.play = made.playSound
}

/** Whether a drawing holds what few pieces hold. */
export const needsExtras = (d: Drawing) => !extras.timer && (!!d.frame.sound || d.scenes.some(s => some(s.blocks, b => rare.includes(b.kind))))

/** Shows a piece on the page until the visitor is done with it; where it has nowhere to stand, it says so by throwing. */
export async function show(host: Host): Promise<void> {
  const { drawing } = host
  const phone = innerWidth <= phoneWidth
  const format = formatOn(phone, drawing)
  const spot = format === 'inline' ? anchor(host) : undefined
  if (format === 'inline' && !spot) throw new Error('nowhere to stand')
  if (needsExtras(drawing) && host.extras) await host.extras().then(install, () => {})
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
  const gone = () => {
    render(null, root)
    element.remove()
  }
  render(h(DrawnPiece, { host: { ...host, gone, flows }, drawing, page }), root)
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

/** Where an inline piece goes; undefined where the page has no place for it. */
function anchor(host: Host): ((e: HTMLElement) => void) | undefined {
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

const nobody: Omit<Host, 'drawing' | 'base'> = { id: '', converted() {}, send: async () => ({ ok: true }), ended() {} }

/** How a drawing is drawn in the studio. */
export interface Look {
  base?: string
  phone?: boolean
  page?: PageLook
}

/** Draws one scene into an element, to be looked at; again with the next drawing. */
export function draw(element: HTMLElement, drawing: Drawing, scene: string, { base = '', phone = false, page }: Look = {}): ShadowRoot {
  const root = element.shadowRoot ?? dress(element)
  loadFonts(drawing, base)
  render(h(DrawnPiece, { host: { ...nobody, drawing, base }, drawing, still: scene, phone, page }), root)
  return root
}

/** Plays a piece in an element as a visitor would have it, sent nowhere. Gives back how to end it. */
export function play(element: HTMLElement, drawing: Drawing, ended: () => void, { base = '', phone = false, page }: Look = {}): () => void {
  const root = element.shadowRoot ?? dress(element)
  loadFonts(drawing, base)
  const began = Date.now()
  const host: Host = { ...nobody, drawing, base, gone: ended, since: () => began }
  render(h(DrawnPiece, { host, drawing, phone, page }), root)
  return () => render(null, root)
}

/** Takes away what was drawn into an element. */
export const erase = (element: HTMLElement) => {
  if (element.shadowRoot) render(null, element.shadowRoot)
}
