import type { Picture } from '../../../kinds/piece'
import { contrast } from '../../parts/forms/contrast'
import type { Rect } from '../../parts/pages/rect'

// How words read on a picture that lies behind them, by the part of it that is
// really under them.

/** A picture as a square grid of its averages, row by row. */
export interface Sampled {
  width: number
  height: number
  side: number
  cells: string[]
}

export const readable = 4.5

/** How opaque a cover has to be before nobody would show the picture at all. */
const most = 95

/**
 * The colours of a picture under some part of the room it fills, both in the
 * same pixels; an empty text stands for where there is none of it.
 */
export function under(p: Sampled, room: Rect, part: Rect, fit?: Picture['fit'], focus = { x: 50, y: 50 }): string[] {
  const across = room.width / p.width
  const down = room.height / p.height
  const scale = fit === 'contain' ? Math.min(across, down) : Math.max(across, down)
  const place = (start: number, length: number, whole: number, drawn: number, at: number) => {
    const from = (start - ((whole - drawn) * at) / 100) / drawn
    return [from, from + length / drawn]
  }
  const [left, right] = place(part.left - room.left, part.width, room.width, p.width * scale, focus.x)
  const [top, bottom] = place(part.top - room.top, part.height, room.height, p.height * scale, focus.y)
  const found = new Set<string>()
  if (left < 0 || top < 0 || right > 1 || bottom > 1) found.add('')
  const cell = (at: number) => Math.min(p.side - 1, Math.max(0, Math.floor(at * p.side)))
  if (right > 0 && left < 1 && bottom > 0 && top < 1)
    for (let y = cell(top); y <= cell(bottom - 1e-9); y++) for (let x = cell(left); x <= cell(right - 1e-9); x++) found.add(p.cells[y * p.side + x])
  return [...found]
}

/** What a colour is once another covers a part of it, 0 to 1. */
export function mix(a: string, b: string, part: number): string {
  const at = (c: string, i: number) => Number.parseInt(c.slice(i, i + 2), 16)
  const one = (i: number) =>
    Math.round(at(a, i) * (1 - part) + at(b, i) * part)
      .toString(16)
      .padStart(2, '0')
  return '#' + one(1) + one(3) + one(5)
}

/** The least contrast of an ink on some colours, covered by another to so many percent. */
export const worst = (ink: string, colours: string[], cover: string, percent: number): number =>
  Math.min(...colours.map(c => contrast(ink, c ? mix(c, cover, percent / 100) : cover)))

/** How much cover it takes until an ink reads on some colours; nothing where none does. */
export function coverFor(ink: string, colours: string[], cover: string, from: number, least: number): number | undefined {
  for (let percent = from; percent <= most; percent += 5) if (worst(ink, colours, cover, percent) >= least) return percent
}

const known = new Map<string, Promise<Sampled | null>>()

/** Samples a picture of the site; null where it cannot be looked at. */
export function sampled(hash: string): Promise<Sampled | null> {
  let found = known.get(hash)
  if (!found) {
    found = look(`/v1/pictures/${hash}`)
    known.set(hash, found)
  }
  return found
}

const grid = 32

async function look(address: string): Promise<Sampled | null> {
  const img = new Image()
  img.src = address
  try {
    await img.decode()
    const canvas = Object.assign(document.createElement('canvas'), { width: grid, height: grid })
    const c = canvas.getContext('2d', { willReadFrequently: true })!
    c.imageSmoothingQuality = 'high'
    c.drawImage(img, 0, 0, grid, grid)
    const { data } = c.getImageData(0, 0, grid, grid)
    const cells: string[] = []
    for (let i = 0; i < data.length; i += 4) cells.push('#' + [0, 1, 2].map(k => data[i + k].toString(16).padStart(2, '0')).join(''))
    return { width: img.naturalWidth, height: img.naturalHeight, side: grid, cells }
  } catch {
    return null
  }
}
