import type { Drawing, Frame, Kit } from '../../kinds/piece'
import type { Note } from '../../kinds/settle'
import { families, formatOn, paint, usualKit } from '../../page/paint'
import { draw, erase } from '../../page/renderer'
import { contrast } from '../parts/fields'
import { flat, placeOf, plain } from './tree'

// Notes that can only come from a drawn design: what does not fit on a screen,
// and what is really behind words.

const screens = [
  { code: 'phone_scroll', on: 'On a small phone', phone: true, width: 360, height: 640 },
  { code: 'laptop_scroll', on: 'In the window of a small laptop', phone: false, width: 1280, height: 650 },
] as const

const hardlyMore = 24 // px that nobody minds to scroll

/** What does not fit on small screens, looked at scene by scene so that nobody waits for it. */
export async function fitNotes(drawing: Drawing, at: string, overtaken: () => boolean): Promise<Note[]> {
  const notes: Note[] = []
  const box = document.createElement('div')
  box.inert = true
  document.body.append(box)
  try {
    for (const screen of screens) {
      const format = formatOn(screen.phone, drawing)
      if (!screen.phone && (format === 'inline' || format === 'bar')) continue
      box.style.cssText = `position:fixed;left:-4000px;top:0;width:${screen.width}px;height:${screen.height}px;transform:translateZ(0);overflow:hidden;visibility:hidden`
      for (const [i, scene] of drawing.scenes.entries()) {
        await new Promise(rest => setTimeout(rest))
        if (overtaken()) return []
        const root = draw(box, drawing, scene.id, { phone: screen.phone })
        const sceneAt = `${at}.scenes[${i}]`
        const element = (id: string) => root.querySelector<HTMLElement>(`[data-block="${CSS.escape(id)}"]`)
        const frame = root.querySelector('[data-frame]')
        const more = frame && format !== 'inline' ? frame.scrollHeight - frame.clientHeight : 0
        if (more > hardlyMore) {
          const tall = Math.round((100 * frame!.scrollHeight) / screen.height)
          notes.push({
            code: screen.code,
            severity: 'warn',
            at: sceneAt,
            say: `${screen.on} “${scene.name}” is ${tall} % of the height there is, and its end has to be scrolled to.`,
            mend: screen.phone ? 'Hide a picture there, or say less.' : lower(scene.blocks, more, element),
          })
        }
        if (screen.phone) notes.push(...wordNotes(drawing, scene.blocks, element, id => `${sceneAt}.${placeOf(scene, id)}`))
        erase(box)
      }
    }
  } finally {
    box.remove()
  }
  return notes
}

type Blocks = Drawing['scenes'][number]['blocks']
type Element = (id: string) => HTMLElement | null

/** By how much a picture would have to be lower for a scene to fit, if one can be. */
function lower(blocks: Blocks, more: number, element: Element): string {
  for (const b of flat(blocks)) {
    const e = b.kind === 'picture' && element(b.id)
    if (!e) continue
    const ratio = Math.floor((100 * (e.clientHeight - more)) / e.clientWidth)
    if (ratio >= 20) return `Make its picture ${ratio} % of its width high.`
  }
  return 'Say less, or stand blocks beside each other.'
}

/** Headings with a word that a small phone has to break. */
function wordNotes(drawing: Drawing, blocks: Blocks, element: Element, place: (id: string) => string): Note[] {
  const notes: Note[] = []
  const pencil = document.createElement('canvas').getContext('2d')
  for (const b of flat(blocks)) {
    const e = b.kind === 'heading' && element(b.id)
    if (b.kind !== 'heading' || !e || !pencil) continue
    const css = getComputedStyle(e)
    pencil.font = `${css.fontWeight} ${css.fontSize} ${families(drawing.kit ?? usualKit, drawing.frame)[1]}`
    const wide = (w: string) => pencil.measureText(w).width
    const longest = plain(b.text)
      .split(/\s+/)
      .reduce((a, w) => (wide(w) > wide(a) ? w : a), '')
    if (!e.clientWidth || wide(longest) <= e.clientWidth + 2) continue
    const fits = Math.max(12, Math.floor((Number.parseFloat(css.fontSize) * e.clientWidth) / wide(longest)))
    notes.push({
      code: 'phone_words',
      severity: 'warn',
      at: place(b.id),
      say: `“${longest.slice(0, 30)}” is wider than a small phone and breaks in the middle.`,
      mend: `Make it ${fits} px there.`,
    })
  }
  return notes
}

export const readable = 4.5

/** How well a frame's words read on the picture that lies behind them, by its pixels. */
export async function groundNotes(frame: Frame, kit: Kit, at: string): Promise<Note[]> {
  const { behind } = frame
  if (!behind?.picture || behind.side || frame.ink === '@page') return []
  const shades = await shadesOf(behind.picture)
  if (!shades) return []
  const ink = paint(kit, frame.ink)
  const over = paint(kit, frame.background)
  const worst = (shade: number) => Math.min(...shades.map(c => contrast(ink, mix(c, over, shade / 100))))
  const shade = behind.shade ?? 0
  const ratio = worst(shade)
  if (ratio >= readable) return []
  let enough = shade
  while (enough < 95 && worst(enough) < readable) enough += 5
  return [
    {
      code: 'ground',
      severity: 'warn',
      at: `${at}.frame.behind`,
      say: `Words over the picture are hard to read where it is ${contrast(ink, '#ffffff') > contrast(ink, '#000000') ? 'dark' : 'light'}: ${(Math.floor(ratio * 10) / 10).toFixed(1)} : 1.`,
      mend: worst(enough) >= readable ? `Cover it by ${enough} %.` : 'Stand the picture beside the words.',
    },
  ]
}

const known = new Map<string, Promise<string[] | null>>()

/** The colours of a picture, as a grid of its averages. */
function shadesOf(hash: string): Promise<string[] | null> {
  if (!known.has(hash))
    known.set(
      hash,
      new Promise(resolve => {
        const img = new Image()
        img.onerror = () => resolve(null)
        img.onload = () => {
          const side = 12
          const canvas = Object.assign(document.createElement('canvas'), { width: side, height: side })
          const c = canvas.getContext('2d', { willReadFrequently: true })
          if (!c) return resolve(null)
          c.imageSmoothingQuality = 'high'
          c.drawImage(img, 0, 0, side, side)
          const { data } = c.getImageData(0, 0, side, side)
          const out: string[] = []
          for (let i = 0; i < data.length; i += 4) out.push('#' + [0, 1, 2].map(k => data[i + k].toString(16).padStart(2, '0')).join(''))
          resolve(out)
        }
        img.src = `/v1/pictures/${hash}`
      }),
    )
  return known.get(hash)!
}

function mix(a: string, b: string, part: number): string {
  const at = (c: string, i: number) => Number.parseInt(c.slice(i, i + 2), 16)
  return (
    '#' +
    [1, 3, 5]
      .map(i =>
        Math.round(at(a, i) * (1 - part) + at(b, i) * part)
          .toString(16)
          .padStart(2, '0'),
      )
      .join('')
  )
}
