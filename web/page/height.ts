import { h, render } from 'preact'
import type { Host } from './host'
import type { PageLook } from './paint'
import { DrawnPiece } from './piece'
import { dress } from './shadow'

type Drawn = Pick<Host, 'id' | 'drawing' | 'base' | 'language' | 'words' | 'phone' | 'clean'>

/** How high a piece will be as it comes, at a width, both in px: found out where nobody sees it. */
export function heightOf({ id, drawing, base, language, words, phone, clean }: Drawn, width: number, page?: PageLook): number {
  const host: Host = { id, drawing, base, language, words, clean, converted() {}, ended() {} }
  const element = document.createElement('gobbet-piece')
  element.style.cssText = `position:absolute;visibility:hidden;width:${width}px;--at-w:100%`
  document.body.append(element)
  const root = dress(element)
  render(h(DrawnPiece, { host, drawing, still: drawing.scenes[0].id, phone: !!phone, page }), root)
  const { height } = root.querySelector('.layer')!.getBoundingClientRect()
  render(null, root)
  element.remove()
  return Math.ceil(height)
}
