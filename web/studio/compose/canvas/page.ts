import { useEffect, useRef, useState } from 'react'
import type { Frame } from '../../../kinds/piece'
import { lookOf } from '../../../page/frames'
import type { PageLook } from '../../../page/paint'
import type { Rect } from '../../parts/pages/rect'

// Where a design is drawn on the page of the site.

interface Sited {
  /** Where an inline piece stands, in the page as it is scrolled. */
  spot?: Rect
  look?: PageLook
  /** The page has no place that the piece asks for: it stands at a likely one. */
  lost?: boolean
}

/** Makes room in the page for what stands in its flow, and tells where that is. */
export function usePageRoom(
  doc: Document | null,
  loaded: number,
  format: string,
  place: string,
  frame: Frame,
  piece: string,
  height: number,
  width: number,
): Sited {
  const [sited, setSited] = useState<Sited>({})
  const { selector, where } = frame.anchor ?? {}
  const pushes = format === 'bar' && !!frame.bar?.pushes
  const high = useRef(height)
  high.current = height

  useEffect(() => {
    if (!doc?.body) return
    doc.body.style.paddingTop = pushes && place === 'top' ? height + 'px' : ''
    doc.body.style.paddingBottom = pushes && place === 'bottom' ? height + 'px' : ''
  }, [doc, loaded, pushes, place, height])

  useEffect(() => {
    if (!doc?.body || format !== 'inline') return setSited({})
    let at: Element | null = null
    try {
      at = doc.querySelector(selector || `[data-gobbet="${piece}"]`)
    } catch {}
    const lost = !at
    const likely = at ?? ['article p:nth-of-type(2)', 'main > :nth-child(2)', 'main > *', 'body > *'].map(s => doc.querySelector(s)).find(e => e)
    const room = doc.createElement('div')
    room.style.cssText = `display:block;clear:both;height:${high.current}px`
    if (!likely) doc.body.append(room)
    else if (!lost && !selector) likely.replaceChildren(room)
    else if (lost) likely.after(room)
    else if (where === 'before') likely.before(room)
    else if (where === 'first') likely.prepend(room)
    else if (where === 'last') likely.append(room)
    else likely.after(room)
    room.dataset.room = ''
    room.scrollIntoView({ block: 'center' })
    const look = lookOf(room.parentElement ?? doc.body)
    const tell = () => {
      const r = room.getBoundingClientRect()
      setSited({ spot: { left: r.left, top: r.top, width: r.width, height: r.height }, look, lost })
    }
    tell()
    doc.defaultView?.addEventListener('scroll', tell)
    return () => {
      doc.defaultView?.removeEventListener('scroll', tell)
      room.remove()
    }
  }, [doc, loaded, format, selector, where, piece, width])

  useEffect(() => {
    const room = doc?.querySelector<HTMLElement>('[data-room]')
    if (room) room.style.height = height + 'px'
  }, [doc, height])
  return sited
}
