import { h, render } from 'preact'
import type { Drawing } from '../kinds/piece'
import type { Host } from './host'
import { DrawnPiece } from './piece'
import { style } from './style'

// Draws pieces: on a visitor's page with show, in the studio with draw.

function dress(element: HTMLElement): ShadowRoot {
  const root = element.shadowRoot ?? element.attachShadow({ mode: 'open' })
  const sheet = new CSSStyleSheet()
  sheet.replaceSync(style)
  root.adoptedStyleSheets = [sheet]
  return root
}

/** Shows a piece on the page until the visitor is done with it. */
export function show(host: Host): void {
  const element = document.createElement('gobbet-piece')
  const root = dress(element)
  document.body.append(element)
  const ended: Host['ended'] = how => {
    host.ended(how)
    render(null, root)
    element.remove()
  }
  render(h(DrawnPiece, { host: { ...host, ended }, drawing: host.drawing }), root)
}

const nobody: Omit<Host, 'drawing' | 'base'> = { converted() {}, send: async () => ({ ok: true }), ended() {} }

/** Draws one scene into an element, to be looked at; again with the next drawing. */
export function draw(element: HTMLElement, drawing: Drawing, scene: string, base = ''): ShadowRoot {
  const root = element.shadowRoot ?? dress(element)
  render(h(DrawnPiece, { host: { ...nobody, drawing, base }, drawing, still: scene }), root)
  return root
}

/** Plays a piece in an element as a visitor would have it, sent nowhere. Gives back how to end it. */
export function play(element: HTMLElement, drawing: Drawing, ended: () => void, base = ''): () => void {
  const root = element.shadowRoot ?? dress(element)
  render(h(DrawnPiece, { host: { ...nobody, ended, drawing, base }, drawing }), root)
  return () => render(null, root)
}

/** Takes away what was drawn into an element. */
export const erase = (element: HTMLElement) => {
  if (element.shadowRoot) render(null, element.shadowRoot)
}
