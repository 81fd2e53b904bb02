import { covers, places } from '../kinds/formats'
import type { Block, Drawing, Fit, Focus, Format, Frame } from '../kinds/piece'
import type { Color, Font, Kit } from '../kinds/style'

// What a design's colours and fonts are, in the style kit it is drawn in.

/** Up to this width a window is a phone's, in CSS pixels, as the server has it. */
export const phoneWidth = 600

/** What an inline piece takes from the page around it. */
export interface PageLook {
  ink: string
  accent: string
  accentInk: string
  font: string
}

/** A colour as #rrggbb; what the kit does not have is as otherwise says. */
export function paint(kit: Kit, color: Color | undefined, otherwise = ''): string {
  if (!color || color === '@page') return otherwise
  if (color[0] !== '@') return color
  return kit.colors.find(c => c.id === color.slice(1))?.value ?? otherwise
}

const device: Record<string, string> = {
  sans: 'system-ui, -apple-system, "Segoe UI", Roboto, "Helvetica Neue", Arial, sans-serif',
  serif: 'Georgia, "Iowan Old Style", "Times New Roman", serif',
}
const serifs = 'fraunces lora playfair source_serif bitter'

function fontOf(kit: Kit, font: Font): Font {
  return font === '@text' ? kit.text : font === '@heading' ? kit.heading : font
}

function family(font: Font, page?: PageLook): string {
  if (font === '@page') return page?.font || device.sans
  return device[font] ?? `"gobbet ${font}", ${font === 'caveat' ? 'cursive' : serifs.includes(font) ? device.serif : device.sans}`
}

/** The families of a frame's words and headings. */
export function families(kit: Kit, frame: Frame, page?: PageLook): [string, string] {
  return fonts(kit, frame).map(f => family(f, page)) as [string, string]
}

const fonts = (kit: Kit, frame: Frame): Font[] => [
  fontOf(kit, frame.font),
  fontOf(kit, frame.heading_font || (frame.font === '@text' ? '@heading' : frame.font)),
]

const asked = new Set<string>()
let under: Promise<unknown> = Promise.resolve()

/**
 * Fetches the letters of a design. They are given to the page as bytes, not as
 * an address: a page's policy for fonts knows nothing of ours. Until they are
 * there, or where they never come, words stand in what the device has. Comes
 * when none is on its way any more.
 */
export function letters(drawing: Drawing, base: string): Promise<unknown> {
  const wanted = fonts(drawing.kit!, drawing.frame).filter((font, i, all) => !device[font] && font !== '@page' && !asked.has(font) && all.indexOf(font) === i)
  const coming = wanted.map(async font => {
    asked.add(font)
    const r = await fetch(`${base}/v1/fonts/${font}.woff2`)
    if (!r.ok) throw r.status
    return new FontFace(`gobbet ${font}`, await r.arrayBuffer(), { weight: '100 900' })
  })
  // Letters that are added have the browser lay out the whole page anew: all at once, so that it does so once.
  const all = Promise.allSettled(coming).then(faces => {
    for (const face of faces) if (face.status === 'fulfilled') document.fonts.add(face.value)
  })
  under = Promise.all([under, all])
  return under
}

/** A thing as phones have it, or as it is. */
export const on = <T extends { phone?: object }>(phone: boolean, thing: T): T => (phone && thing.phone ? { ...thing, ...thing.phone } : thing)

/** The format that a drawing has on a device. */
export const formatOn = (phone: boolean, d: { format: Format; phone_format?: Format }): Format => (phone && d.phone_format) || d.format

const among = (list: string, one?: string) => list.split(' ').includes(one!)

/** Whether a piece makes the page wait. */
export const modal = (f: Format) => among(covers, f)

/** Where a frame stands in a format: where it says if that is a place for it, else its usual one. */
export const placeOf = (f: Format, place?: string) => (among(places[f], place) ? place! : places[f].split(' ')[0])

/** All blocks, those that hold others before what they hold. */
export function flat(blocks: Block[]): Block[] {
  return blocks.flatMap(b => ('blocks' in b ? [b, ...flat(b.blocks)] : [b]))
}

/** How a picture fills its place, and what of it stays in view. */
export const fitted = (fit?: Fit, focus?: Focus) => ({ objectFit: fit || 'cover', objectPosition: focus ? `${focus.x}% ${focus.y}%` : undefined })
