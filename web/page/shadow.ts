import { Component, h } from 'preact'
import { DrawnBlock, parts, Written } from './blocks'
import type { PieceParts } from './parts'
import { style } from './style'

// Pieces are drawn into shadow roots, with the style sheets and the parts of the
// script that are here by then.

const sheetOf = (text: string) => {
  const sheet = new CSSStyleSheet()
  sheet.replaceSync(text)
  return sheet
}

const sheets: CSSStyleSheet[] = []

/** An element's shadow root, dressed for pieces. */
export function dress(element: HTMLElement): ShadowRoot {
  const root = element.shadowRoot ?? element.attachShadow({ mode: 'open' })
  if (!sheets.length) sheets.push(sheetOf(style))
  root.adoptedStyleSheets = sheets
  return root
}

/** Takes in a part of the script that only some pieces need. */
export function install<P extends keyof PieceParts>(part: P, { make }: PieceParts[P]) {
  if (parts[part]) return
  const made = make({ h, Component, DrawnBlock, Written })
  Object.assign(parts, { [part]: made })
  if (!sheets.length) sheets.push(sheetOf(style))
  sheets.push(sheetOf(made.style))
}

/** Takes in the part that takes walks on, where it is here from the start. */
export const installWalk = (walk: typeof import('./acts')) => void (parts.walk = walk)
