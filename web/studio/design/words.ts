import type { Span, Words } from '../../kinds/piece'
import { safe } from '../../page/safe'

// Words with their looks.

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

/** What an element of a pasted page adds to the look of what it holds: its weight, its slant, its line and its link. */
function lookOf(e: HTMLElement): Look {
  const look: Look = {}
  const tag = e.localName
  const { fontWeight, fontStyle, textDecoration, textDecorationLine } = e.style
  if (tag === 'b' || tag === 'strong' || fontWeight === 'bold' || Number(fontWeight) >= 600) look.bold = true
  if (fontWeight === 'normal' || fontWeight === '400') look.bold = undefined
  if (tag === 'i' || tag === 'em' || fontStyle === 'italic') look.italic = true
  if (tag === 'u' || /underline/.test(textDecorationLine || textDecoration)) look.underline = true
  if (tag === 'a') {
    const address = e.getAttribute('href') ?? ''
    if (safe(address)) look.link = address
  }
  return look
}

const blocks = /^(p|div|li|h[1-6]|tr|blockquote|ul|ol|table|section|article)$/

/** Reads words out of a pasted page: what is said, with weight and links, and nothing else. */
export function pastedWords(html: string): Words {
  const spans: Span[] = []
  const text = (t: string, look: Look) => {
    if (t) spans.push({ text: t, ...look })
  }
  const ends = () => spans.length === 0 || spans.at(-1)!.text.endsWith('\n')
  const walk = (node: Node, look: Look) => {
    for (const child of node.childNodes) {
      if (child.nodeType === Node.TEXT_NODE) text((child.textContent ?? '').replace(/\s+/g, ' '), look)
      else if (child.nodeType === Node.ELEMENT_NODE) {
        const e = child as HTMLElement
        if (/^(style|script|meta|title|head|xml)$/.test(e.localName)) continue
        if (e.localName === 'br') {
          text('\n', {})
          continue
        }
        if (blocks.test(e.localName) && !ends()) text('\n', {})
        walk(e, { ...look, ...lookOf(e) })
      }
    }
  }
  walk(new DOMParser().parseFromString(html, 'text/html').body, {})
  return words(spans)
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
export const joined = (all: Words[], by = '\n'): Words => words(all.flatMap((w, i) => [...(i ? [{ text: by }] : []), ...spansOf(w)]))
