import type { Span, Words } from '../../../kinds/piece'

// Words with their looks, to and from what a browser edits.

export type Look = Omit<Span, 'text'>

const alike = (a: Look, b: Look) =>
  !a.bold === !b.bold && !a.italic === !b.italic && !a.underline === !b.underline && a.link === b.link && a.color === b.color && a.size === b.size

/** Words as they are kept: runs that look alike are one, and those without looks are a plain text. */
export function words(spans: Span[]): Words {
  const out: Span[] = []
  for (const s of spans) {
    if (!s.text) continue
    const last = out.at(-1)
    if (last && alike(last, s)) last.text += s.text
    else out.push({ ...s })
  }
  for (const s of out) for (const key of Object.keys(s) as (keyof Span)[]) if (s[key] === undefined || s[key] === false) delete s[key]
  return out.length === 0 ? '' : out.length === 1 && Object.keys(out[0]).length === 1 ? out[0].text : out
}

export const spansOf = (w: Words): Span[] => (typeof w === 'string' ? [{ text: w }] : w)

const hex = (color: string): string | undefined => {
  const m = /^rgba?\((\d+), ?(\d+), ?(\d+)(?:, ?([\d.]+))?\)$/.exec(color)
  if (m) return m[4] === '0' ? undefined : '#' + [1, 2, 3].map(i => Number(m[i]).toString(16).padStart(2, '0')).join('')
  if (/^#[0-9a-f]{6}$/i.test(color)) return color.toLowerCase()
}

/** What an element adds to the look of what it holds. With bare, colours and sizes are left behind. */
function lookOf(e: HTMLElement, bare: boolean): Look {
  const look: Look = {}
  const tag = e.localName
  const { fontWeight, fontStyle, textDecoration, textDecorationLine, color, fontSize } = e.style
  if (tag === 'b' || tag === 'strong' || fontWeight === 'bold' || Number(fontWeight) >= 600) look.bold = true
  if (fontWeight === 'normal' || fontWeight === '400') look.bold = undefined
  if (tag === 'i' || tag === 'em' || fontStyle === 'italic') look.italic = true
  if (tag === 'u' || /underline/.test(textDecorationLine || textDecoration)) look.underline = true
  if (tag === 'a') {
    const address = e.getAttribute('href') ?? ''
    if (/^(https?:\/\/|mailto:|tel:|\/(?!\/))/i.test(address)) look.link = address
  }
  if (!bare) {
    const ref = e.dataset.color
    const own = ref ?? hex(color) ?? hex(e.getAttribute('color') ?? '')
    if (own) look.color = own
    const size = Math.round(Number.parseFloat(fontSize))
    if (/px$/.test(fontSize) && size >= 8 && size <= 120) look.size = size
  }
  return look
}

const blocks = /^(p|div|li|h[1-6]|tr|blockquote|ul|ol|table|section|article)$/

/** Reads words out of what was edited, or pasted. */
export function readWords(root: Node, bare = false): Words {
  const spans: Span[] = []
  const text = (t: string, look: Look) => {
    if (t) spans.push({ text: t, ...look })
  }
  const ends = () => spans.length === 0 || spans.at(-1)!.text.endsWith('\n')
  const walk = (node: Node, look: Look) => {
    for (const child of node.childNodes) {
      if (child.nodeType === Node.TEXT_NODE) {
        const raw = (child.textContent ?? '').replaceAll('\u00a0', ' ')
        text(bare ? raw.replace(/\s+/g, ' ') : raw, look)
      } else if (child instanceof HTMLElement || child.nodeType === Node.ELEMENT_NODE) {
        const e = child as HTMLElement
        if (/^(style|script|meta|title|head|xml)$/.test(e.localName)) continue
        if (e.localName === 'br') {
          text('\n', {})
          continue
        }
        const block = blocks.test(e.localName)
        if (block && !ends()) text('\n', {})
        const more = lookOf(e, bare)
        walk(e, {
          ...look,
          ...Object.fromEntries(Object.entries(more).filter(([, v]) => v !== undefined)),
          ...('bold' in more && !more.bold ? { bold: undefined } : {}),
        })
      }
    }
  }
  walk(root, {})
  // A browser ends what is edited with a break that nobody typed.
  const last = spans.at(-1)
  if (last?.text.endsWith('\n')) last.text = last.text.slice(0, -1)
  return words(spans)
}

/** Writes words into an element to be edited: merge fields stand in their braces. */
export function writeWords(element: HTMLElement, w: Words, color: (c: string) => string) {
  const doc = element.ownerDocument
  element.replaceChildren(
    ...spansOf(w).map(s => {
      if (Object.keys(s).length === 1) return doc.createTextNode(s.text)
      const e = doc.createElement(s.link ? 'a' : 'span')
      if (s.link) e.setAttribute('href', s.link)
      if (s.color) {
        e.style.color = color(s.color)
        if (s.color[0] === '@') e.dataset.color = s.color
      }
      if (s.size) e.style.fontSize = s.size + 'px'
      let inner: HTMLElement = e
      for (const tag of [s.bold && 'b', s.italic && 'i', s.underline && 'u']) if (tag) inner = inner.appendChild(doc.createElement(tag))
      inner.textContent = s.text
      return e
    }),
  )
}

/** Words cut into lines. */
export function lines(w: Words): Words[] {
  const out: Span[][] = [[]]
  for (const s of spansOf(w))
    for (const [i, part] of s.text.split('\n').entries()) {
      if (i) out.push([])
      out.at(-1)!.push({ ...s, text: part })
    }
  return out.map(words)
}

/** Lines put together. */
export const joined = (all: Words[]): Words => words(all.flatMap((w, i) => [...(i ? [{ text: '\n' }] : []), ...spansOf(w)]))
