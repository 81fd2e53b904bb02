import { Component, h } from 'preact'
import type { Drawing } from '../kinds/piece'
import { DrawnBlock, parts, Written } from './blocks'
import { style } from './style'
import { Walk } from './walk'

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

export type Part = NonNullable<Drawing['needs']>[number]
type Made = { make(given: Parameters<typeof import('./extras').make>[0]): { style: string } }

/** Takes in a part of the script that only some pieces need. */
export function install(part: Part, { make }: Made) {
  if (parts[part]) return
  const made = make({ h, Component, DrawnBlock, Written, Walk })
  Object.assign(parts, { [part]: made })
  if (!sheets.length) sheets.push(sheetOf(style))
  sheets.push(sheetOf(made.style))
}
