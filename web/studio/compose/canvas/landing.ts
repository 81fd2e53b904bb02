import type { Block, Scene } from '../../../kinds/piece'
import { flat, holdersOf, holds, type Spot } from '../../design/tree'
import type { Rect } from '../../parts/pages/rect'

// Where a dragged block would land, and which blocks a drag from beside them selects.

export interface Landing {
  /** The mark that shows it. */
  mark: Rect
  spot?: Spot
  beside?: { id: string; after: boolean }
}

const edge = 0.14 // of a block's width, at either side, that stands the dragged one beside it
const thick = 4

const inside = (r: Rect, x: number, y: number, by = 0) => x >= r.left - by && x <= r.left + r.width + by && y >= r.top - by && y <= r.top + r.height + by

/** Finds the landing of some dragged blocks under a point; across says that
 * the scene itself runs across, aside that the drag went sideways at all. */
export function landingAt(scene: Scene, rects: Record<string, Rect>, dragged: string[], x: number, y: number, across: boolean, aside = true): Landing | null {
  const gone = (b: Block) => dragged.includes(b.id) || holdersOf(scene, b.id).some(h => dragged.includes(h))
  const all = flat(scene.blocks).filter(b => !gone(b) && rects[b.id])
  const holder = all.filter(b => holds(b) && inside(rects[b.id], x, y)).at(-1)
  const list = holder && holds(holder) ? holder.blocks : scene.blocks
  const around = holder ? rects[holder.id] : rects.frame
  if (!around) return null
  const sideways = holder ? holder.kind === 'columns' : across
  const stays = list.filter(b => !gone(b) && rects[b.id])
  const over = stays.find(b => inside(rects[b.id], x, y))
  if (aside && over && !sideways && !holds(over)) {
    const r = rects[over.id]
    const part = (x - r.left) / r.width
    if (part < edge || part > 1 - edge) {
      const after = part > 0.5
      return { beside: { id: over.id, after }, mark: { left: after ? r.left + r.width + 2 : r.left - thick - 2, top: r.top, width: thick, height: r.height } }
    }
  }
  const middle = (b: Block) => (sideways ? rects[b.id].left + rects[b.id].width / 2 : rects[b.id].top + rects[b.id].height / 2)
  const next = stays.find(b => middle(b) > (sideways ? x : y))
  const before = next ? stays[stays.indexOf(next) - 1] : stays.at(-1)
  const spot = { holder: holder?.id ?? '', index: next ? list.indexOf(next) : list.length }
  return { spot, mark: markBetween(before && rects[before.id], next && rects[next.id], around, sideways) }
}

function markBetween(before: Rect | undefined, next: Rect | undefined, around: Rect, sideways: boolean): Rect {
  if (sideways) {
    const at = before && next ? (before.left + before.width + next.left) / 2 : next ? next.left - 6 : before ? before.left + before.width + 6 : around.left + 8
    const like = next ?? before ?? around
    return { left: at - thick / 2, top: like.top, width: thick, height: like.height }
  }
  const at = before && next ? (before.top + before.height + next.top) / 2 : next ? next.top - 8 : before ? before.top + before.height + 8 : around.top + 12
  const like = next ?? before ?? around
  return { left: like.left, top: at - thick / 2, width: like.width, height: thick }
}

/** The rect between two points, whichever comes first. */
export const between = (ax: number, ay: number, bx: number, by: number): Rect => ({
  left: Math.min(ax, bx),
  top: Math.min(ay, by),
  width: Math.abs(ax - bx),
  height: Math.abs(ay - by),
})

/** The blocks of a scene itself that a rect touches, but for locked ones. */
export const touched = (scene: Scene, rects: Record<string, Rect>, by: Rect): string[] =>
  scene.blocks
    .filter(b => {
      const r = rects[b.id]
      return r && !b.locked && r.left < by.left + by.width && by.left < r.left + r.width && r.top < by.top + by.height && by.top < r.top + r.height
    })
    .map(b => b.id)
