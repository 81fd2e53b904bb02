import { useCallback, useEffect, useRef, useState } from 'react'
import type { Frame } from '../../kinds/piece'
import { lookOf } from '../../page/frames'
import type { PageLook } from '../../page/paint'
import type { Rect } from './landing'

// The page of the site that a design is looked at on: a still copy from the
// studio's own address, which can be looked into.

/** A selector that finds an element again. */
export function selectorOf(e: Element): string {
  const doc = e.ownerDocument
  const one = (s: string) => doc.querySelectorAll(s).length === 1
  const own = e.id && `#${CSS.escape(e.id)}`
  if (own && one(own)) return own
  const steps: string[] = []
  for (let at: Element | null = e; at && at !== doc.body; at = at.parentElement) {
    if (at.id && one(`#${CSS.escape(at.id)}`)) return [`#${CSS.escape(at.id)}`, ...steps].join(' > ')
    const tag = at.localName
    const twins = [...(at.parentElement?.children ?? [])].filter(x => x.localName === tag)
    const landmark = /^(main|article|header|footer|nav)$/.test(tag) && one([tag, ...steps].join(' > '))
    steps.unshift(twins.length > 1 ? `${tag}:nth-of-type(${twins.indexOf(at) + 1})` : tag)
    if (landmark) return steps.join(' > ')
  }
  return ['body', ...steps].join(' > ')
}

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

/** The still copy of a page, once it is there. */
export function useStill() {
  const [frame, setFrame] = useState<HTMLIFrameElement | null>(null)
  const [loaded, setLoaded] = useState(0)
  const onLoad = useCallback(() => setLoaded(n => n + 1), [])
  return { ref: setFrame, onLoad, loaded, doc: loaded ? (frame?.contentDocument ?? null) : null, scroll: (dy: number) => frame?.contentWindow?.scrollBy(0, dy) }
}
