import { h, render } from 'preact'
import type { Drawing } from '../kinds/piece'
import { usualKit } from '../kinds/usualKit'
import { heightOf } from './height'
import type { Host } from './host'
import { clean } from './markup'
import { letters, type PageLook } from './paint'
import { DrawnPiece } from './piece'
import { dress } from './shadow'

// How the studio draws pieces: to be looked at, or played without a site.

const nobody: Omit<Host, 'drawing' | 'base'> = { id: '', converted() {}, ended() {}, clean }

const kitted = (d: Drawing): Drawing => (d.kit ? d : { ...d, kit: usualKit })

/** How a drawing is drawn in the studio. */
export interface Look {
  base?: string
  /** Says where steps lead, all from the first on. */
  advance?: Host['advance']
  phone?: boolean
  page?: PageLook
}

/** Draws one scene into an element, to be looked at; again with the next drawing. */
export function draw(element: HTMLElement, given: Drawing, scene: string, { base = '', phone = false, page }: Look = {}): ShadowRoot {
  const drawing = kitted(given)
  const root = dress(element)
  letters(drawing, base)
  render(h(DrawnPiece, { host: { ...nobody, drawing, base }, drawing, still: scene, phone, page }), root)
  return root
}

/** Plays a piece in an element as a visitor would have it, sent nowhere. Gives back how to end it. */
export function play(element: HTMLElement, given: Drawing, ended: () => void, { base = '', phone = false, page, advance }: Look = {}): () => void {
  const drawing = kitted(given)
  const root = element.shadowRoot ?? dress(element)
  letters(drawing, base)
  const began = Date.now()
  const host: Host = { ...nobody, drawing, base, advance, gone: ended, since: () => began }
  render(h(DrawnPiece, { host, drawing, phone, page }), root)
  return () => render(null, root)
}

/** How high a drawing will be as it comes into a page, at a width, both in px. */
export const height = (drawing: Drawing, width: number, look?: Look) =>
  heightOf(width, element => {
    draw(element, drawing, drawing.scenes[0].id, look)
    return () => erase(element)
  })

/** Takes away what was drawn into an element. */
export const erase = (element: HTMLElement) => {
  if (element.shadowRoot) render(null, element.shadowRoot)
}

export { install, installWalk } from './shadow'
