import type { Drawing, Frame } from '../../../kinds/piece'
import type { Note } from '../../../kinds/settle'
import type { Kit } from '../../../kinds/style'
import { usualKit } from '../../../kinds/usualKit'
import { families, formatOn, paint } from '../../../page/paint'
import { flat, placeOf, plain, shownOn } from '../../design/tree'
import { contrast } from '../../parts/forms/contrast'
import type { Rect } from '../../parts/pages/rect'
import { draw, erase } from '../../parts/pages/renderer'
import { coverFor, readable, type Sampled, sampled, under, worst } from './ground'

// Checks that need a drawn design: what does not fit on a screen, and what is
// behind a text.

const screens = [
  { code: 'phone_scroll', on: 'On a small phone', phone: true, width: 360, height: 640 },
  { code: 'laptop_scroll', on: 'On a small laptop', phone: false, width: 1280, height: 650 },
] as const

const mostOfPhone = 0.2 // of a phone's height that a bar may take
const hardlyMore = 24 // px that nobody minds to scroll
const readableLarge = 3 // of headings from 19 px

/** Checks a design as small screens show it, scene by scene so that nothing else waits. Places are within the design, such as scenes[0].blocks[2]. */
export async function lookOver(drawing: Drawing, overtaken: () => boolean): Promise<Note[]> {
  const notes: Note[] = []
  const kit = drawing.kit ?? usualKit
  const ground = await groundOf(drawing.frame)
  const hard = new Map<string, Hard>()
  const box = document.createElement('div')
  box.inert = true
  document.body.append(box)
  try {
    for (const screen of screens) {
      const format = formatOn(screen.phone, drawing)
      box.style.cssText = `position:fixed;left:-4000px;top:0;width:${screen.width}px;height:${screen.height}px;transform:translateZ(0);overflow:hidden;visibility:hidden`
      for (const [i, scene] of drawing.scenes.entries()) {
        await new Promise(rest => setTimeout(rest))
        if (overtaken()) return []
        const root = draw(box, drawing, scene.id, { phone: screen.phone })
        const sceneAt = `scenes[${i}]`
        const place = (id: string) => `${sceneAt}.${placeOf(scene, id)}`
        const element = (id: string) => root.querySelector<HTMLElement>(`[data-block="${CSS.escape(id)}"]`)
        const frame = root.querySelector('[data-frame]')
        // A bar is as high as it needs to be, and an inline piece scrolls with its page.
        const more = frame && !(format === 'inline' || (format === 'bar' && !screen.phone)) ? frame.scrollHeight - frame.clientHeight : 0
        if (more > hardlyMore) {
          const tall = Math.round((100 * frame!.scrollHeight) / screen.height)
          const picture = screen.phone ? undefined : lower(scene.blocks, more, element)
          notes.push({
            code: screen.code,
            severity: 'warn',
            at: picture ? `${place(picture.id)}.ratio` : sceneAt,
            say: `${screen.on}, “${scene.name}” is ${tall} % of the window’s height and has to be scrolled.`,
            mend: picture
              ? `Set the picture’s height to ${picture.ratio} % of its width.`
              : screen.phone
                ? 'Hide a picture on phones, or shorten the text.'
                : 'Shorten the text, or put blocks into columns.',
          })
        }
        const high = frame && screen.phone && format === 'bar' && i === 0 ? frame.getBoundingClientRect().height / screen.height : 0
        if (high > mostOfPhone)
          notes.push({
            code: 'bar_tall',
            severity: 'warn',
            at: sceneAt,
            say: `On a small phone the bar covers ${Math.round(100 * high)} % of the window, ${frame!.getBoundingClientRect().height.toFixed(0)} px.`,
            mend: 'Shorten its text, make it smaller on phones, or hide a block there.',
          })
        const look = shownOn(screen.phone, drawing.frame)
        if (screen.phone) notes.push(...wordNotes(drawing, scene.blocks, element, place))
        const behind = root.querySelector('.behind:not(.beside)')
        if (ground && behind) hardWords({ ground, look, kit, room: behind.getBoundingClientRect(), phone: screen.phone, element, place, hard }, scene.blocks)
        erase(box)
      }
    }
  } finally {
    box.remove()
  }
  return [...notes, ...groundNotes(drawing, hard)]
}

type Blocks = Drawing['scenes'][number]['blocks']
type Element = (id: string) => HTMLElement | null

/** The picture that can be so much lower that a scene fits, and its height then, in percent of its width. */
function lower(blocks: Blocks, more: number, element: Element): { id: string; ratio: number } | undefined {
  for (const b of flat(blocks)) {
    const e = b.kind === 'picture' && element(b.id)
    if (!e) continue
    const ratio = Math.floor((100 * (e.clientHeight - more)) / e.clientWidth)
    if (ratio >= 20) return { id: b.id, ratio }
  }
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
      say: `“${longest.slice(0, 30)}” is too wide for a small phone and breaks in the middle.`,
      mend: `Make it ${fits} px on phones.`,
    })
  }
  return notes
}

/** Words that are hard to read where they stand, by the place of their block. */
interface Hard {
  what: string
  ink: string
  ratio: number
  least: number
  colours: string[]
}

async function groundOf({ behind, ink }: Frame): Promise<Sampled | null> {
  return behind?.picture && !behind.side && ink !== '@page' ? sampled(behind.picture) : null
}

interface Under {
  ground: Sampled
  /** The frame as the screen has it. */
  look: Frame
  kit: Kit
  room: Rect
  phone: boolean
  element: Element
  place(id: string): string
  hard: Map<string, Hard>
}

/** Notes which words are hard to read on the picture, by the part of it that is under their lines. */
function hardWords(at: Under, blocks: Blocks) {
  const { look, kit, hard } = at
  for (const whole of blocks) {
    const b = shownOn(at.phone, whole)
    // A box with a colour of its own is judged by that, where the document is.
    if (b.kind === 'box' && b.background) continue
    if ('blocks' in b) hardWords(at, b.blocks)
    const wordy =
      b.kind === 'heading' || b.kind === 'text' || b.kind === 'list' || (b.kind === 'field' && b.ask !== 'hidden') || (b.kind === 'button' && b.quiet)
    const drawn = wordy && at.element(b.id)
    const said = drawn && (b.kind === 'field' ? drawn.querySelector('label, legend') : drawn)
    if (!said) continue
    const own = b.kind === 'field' ? undefined : b.kind === 'button' ? b.ink : b.color
    const ink = paint(kit, own || look.ink)
    const colours = [...new Set(linesOf(said).flatMap(line => under(at.ground, at.room, line, look.behind?.fit, look.behind?.focus)))]
    if (!colours.length) continue
    const least = b.kind === 'heading' && b.size >= 19 ? readableLarge : readable
    const ratio = worst(ink, colours, paint(kit, look.background), look.behind?.shade ?? 0)
    const before = hard.get(at.place(b.id))
    if (ratio < least && !(before && before.ratio <= ratio)) hard.set(at.place(b.id), { what: said.textContent!.trim(), ink, ratio, least, colours })
  }
}

/** Where the lines of some words stand. */
function linesOf(e: Node): Rect[] {
  const range = document.createRange()
  range.selectNodeContents(e)
  return [...range.getClientRects()].filter(r => r.width > 0 && r.height > 0)
}

function groundNotes({ frame, kit = usualKit }: Drawing, hard: Map<string, Hard>): Note[] {
  const cover = paint(kit, frame.background)
  const from = frame.behind?.shade ?? 0
  const covers = [...hard.values()].map(h => coverFor(h.ink, h.colours, cover, from, h.least))
  // One cover for all of them, since there is one picture.
  const enough = covers.includes(undefined) ? undefined : Math.max(...(covers as number[]))
  return [...hard].map(([at, h]) => ({
    code: 'ground',
    severity: 'warn',
    at: `${at}.color`,
    say: `“${h.what.length > 28 ? `${h.what.slice(0, 27)}…` : h.what}” is hard to read over the picture where it is ${contrast(h.ink, '#ffffff') > contrast(h.ink, '#000000') ? 'dark' : 'light'}: ${(Math.floor(h.ratio * 10) / 10).toFixed(1)} : 1.`,
    mend: enough === undefined ? 'Put the picture beside the text.' : `Set the colour overlay to ${enough} %.`,
  }))
}
