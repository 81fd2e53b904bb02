import { useCallback, useState } from 'react'

// Pages of the site as still copies from the studio's own address, which the
// studio can look into.

// What the preview adds to the page; visitors do not get it.
const added = '[data-room]'

/** An element of the page as visitors get it; null: the preview has added it. */
export const ofThePage = (e: Element | null) => (e?.closest(added) ? null : e)

/** A selector that finds an element again on the page as visitors get it. */
export function selectorOf(e: Element): string {
  const rooms = [...e.ownerDocument.querySelectorAll(added)].map(room => {
    const mark = e.ownerDocument.createComment('')
    room.replaceWith(mark)
    return () => mark.replaceWith(room)
  })
  try {
    return shortest(e)
  } finally {
    for (const back of rooms) back()
  }
}

function shortest(e: Element): string {
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

/** The still copy of a page, once it is there. */
export function useStill() {
  const [frame, setFrame] = useState<HTMLIFrameElement | null>(null)
  const [loaded, setLoaded] = useState(0)
  const onLoad = useCallback(() => setLoaded(n => n + 1), [])
  return { ref: setFrame, onLoad, loaded, doc: loaded ? (frame?.contentDocument ?? null) : null, scroll: (dy: number) => frame?.contentWindow?.scrollBy(0, dy) }
}
