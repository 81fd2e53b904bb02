import type { Block, Edge, Field, Frame, Lay, PrizeDraw, Scene, Words } from '../../kinds/piece'

// Blocks within blocks: finding, moving and changing them. Everything here
// works on a draft that may be written into, and knows nothing of the studio.

export type Holder = { blocks: Block[] }

export const holds = (b: Block): b is Block & Holder => 'blocks' in b

/** Where a block stands: in what, and how far down. */
export interface Spot {
  /** The id of the box or columns; empty for the scene itself. */
  holder: string
  index: number
}

export function find(scene: Holder, id: string): { block: Block; list: Block[]; index: number; holder: string } | undefined {
  const look = (list: Block[], holder: string): ReturnType<typeof find> => {
    for (const [index, block] of list.entries()) {
      if (block.id === id) return { block, list, index, holder }
      const below = holds(block) && look(block.blocks, block.id)
      if (below) return below
    }
  }
  return look(scene.blocks, '')
}

/** All blocks, those that hold others before what they hold. */
export const flat = (blocks: readonly Block[]): Block[] => blocks.flatMap(b => (holds(b) ? [b, ...flat(b.blocks)] : [b]))

/** The place of a block in the document, below that of its scene; empty where it is not there. */
export function placeOf(scene: Holder, id: string): string {
  const look = (list: Block[], at: string): string => {
    for (const [i, b] of list.entries()) {
      const here = `${at}blocks[${i}]`
      const below = b.id === id ? here : holds(b) ? look(b.blocks, here + '.') : ''
      if (below) return below
    }
    return ''
  }
  return look(scene.blocks, '')
}

const within = (scene: Holder, holder: string): Block[] | undefined => {
  if (!holder) return scene.blocks
  const found = find(scene, holder)?.block
  return found && holds(found) ? found.blocks : undefined
}

/** The ids of the blocks that hold a block, the outermost first. */
export function holdersOf(scene: Holder, id: string): string[] {
  const up: string[] = []
  for (let at = find(scene, id)?.holder; at; at = find(scene, at)?.holder) up.unshift(at)
  return up
}

/** Of some blocks, those that no other of them holds, in the order of the scene. */
export function topmost(scene: Holder, ids: string[]): string[] {
  const order = flat(scene.blocks).map(b => b.id)
  return ids.filter(id => order.includes(id) && !holdersOf(scene, id).some(h => ids.includes(h))).sort((a, b) => order.indexOf(a) - order.indexOf(b))
}

/** Moves blocks to a spot, in their order; never into themselves. */
export function moveTo(scene: Holder, ids: string[], spot: Spot): boolean {
  const moved = topmost(scene, ids)
  if (spot.holder && (moved.includes(spot.holder) || holdersOf(scene, spot.holder).some(h => moved.includes(h)))) return false
  const target = within(scene, spot.holder)
  if (!target) return false
  const before = target[spot.index]
  const anchor = before && !moved.includes(before.id) ? before.id : target.slice(spot.index).find(b => !moved.includes(b.id))?.id
  const blocks = moved.map(id => take(scene, id)!)
  const list = within(scene, spot.holder)!
  const at = anchor ? list.findIndex(b => b.id === anchor) : list.length
  list.splice(at < 0 ? list.length : at, 0, ...blocks)
  tidy(scene, spot.holder)
  return true
}

/** Takes a block out. Columns that are left with one block, or none, go with it. */
export function take(scene: Holder, id: string): Block | undefined {
  const found = find(scene, id)
  if (!found) return
  found.list.splice(found.index, 1)
  const holder = found.holder && find(scene, found.holder)
  if (holder && holder.block.kind === 'columns' && holder.block.widths) holder.block.widths.splice(found.index, 1)
  return found.block
}

/** Columns with one block are no columns any more, but for those just filled. */
export function tidy(scene: Holder, keep = '') {
  for (const b of flat(scene.blocks)) {
    if (b.kind !== 'columns' || b.id === keep || b.blocks.length > 1) continue
    const at = find(scene, b.id)!
    at.list.splice(at.index, 1, ...b.blocks)
  }
}

/** Stands a block beside another, in columns made for them. */
export function standBeside(scene: Scene, ids: string[], beside: string, after: boolean): string | undefined {
  const moved = topmost(scene, ids).filter(id => id !== beside && !holdersOf(scene, beside).includes(id))
  if (!moved.length) return
  const blocks = moved.map(id => take(scene, id)!)
  const at = find(scene, beside)
  if (!at) return
  const holder = at.holder && find(scene, at.holder)
  if (holder && holder.block.kind === 'columns') {
    at.list.splice(at.index + (after ? 1 : 0), 0, ...blocks)
    delete holder.block.widths
    return holder.block.id
  }
  const columns: Block = { kind: 'columns', id: freshID('columns', ids_(scene)), blocks: after ? [at.block, ...blocks] : [...blocks, at.block], gap: 16 }
  at.list.splice(at.index, 1, columns)
  tidy(scene, columns.id)
  return columns.id
}

/** Puts blocks into a box of their own. */
export function group(scene: Scene, ids: string[]): string | undefined {
  const top = topmost(scene, ids)
  const first = top[0] && find(scene, top[0])
  if (!first) return
  const box: Block & Holder = { kind: 'box', id: freshID('box', ids_(scene)), blocks: [], padding: 0, corners: 0, gap: 12 }
  first.list.splice(first.index, 0, box)
  // Looked up anew: what was put into a draft is not what the draft holds.
  moveTo(scene, top, { holder: find(scene, box.id)!.block.id, index: 0 })
  return box.id
}

/** Takes a box or columns away and leaves what they hold in their place. */
export function ungroup(scene: Scene, id: string): string[] {
  const at = find(scene, id)
  if (!at || !holds(at.block)) return []
  const { blocks } = at.block
  at.list.splice(at.index, 1, ...blocks)
  return blocks.map(b => b.id)
}

const ids_ = (scene: Holder) => flat(scene.blocks).map(b => b.id)

/** A short name that nothing in use has. */
export function freshID(kind: string, used: string[]): string {
  for (let n = 1; ; n++) if (!used.includes(kind + n)) return kind + n
}

/** The keys of all fields in some scenes. */
export const keysOf = (scenes: readonly Holder[]) => scenes.flatMap(s => flat(s.blocks).flatMap(b => (answers(b) ? [b.key] : [])))

/** Whether a block is answered: a field, or a prize draw. */
export const answers = (b: Block): b is Field | PrizeDraw => b.kind === 'field' || b.kind === 'draw'

/** Copies of blocks with names of their own in a scene, and answers that no other in the piece has. */
export function renamed(scene: Holder, blocks: readonly Block[], scenes: readonly Holder[]): Block[] {
  const used = ids_(scene)
  const keys = keysOf(scenes)
  const copy = (b: Block): Block => {
    const one = structuredClone(b) as Block
    one.id = freshID(one.kind, used)
    used.push(one.id)
    if (answers(one) && keys.includes(one.key)) one.key = freshID(one.key.replace(/\d+$/, ''), keys)
    if (answers(one)) keys.push(one.key)
    if (holds(one)) one.blocks = one.blocks.map(copy)
    return one
  }
  return blocks.map(copy)
}

/** The edges of a scene that lead from some blocks, or what they hold. */
export function edgesFrom(scene: Scene, blocks: readonly Block[]): Edge[] {
  const ids = flat(blocks).map(b => b.id)
  return (scene.edges ?? []).filter(e => e.block && ids.includes(e.block))
}

/** Edges of blocks, as the edges of copies of them. */
export function edgesOfCopies(edges: readonly Edge[], blocks: readonly Block[], copies: readonly Block[]): Edge[] {
  const ids = flat(blocks).map(b => b.id)
  const fresh = flat(copies).map(b => b.id)
  return edges.map(e => ({ ...structuredClone(e), block: fresh[ids.indexOf(e.block!)] }))
}

/** Takes away the edges of blocks that are not in a scene any more. */
export function pruneEdges(scene: Scene) {
  if (!scene.edges?.some(e => e.block && !find(scene, e.block))) return
  scene.edges = scene.edges.filter(e => !e.block || find(scene, e.block))
  if (!scene.edges.length) delete scene.edges
}

/** Words without their looks. */
export const plain = (w: Words): string => (typeof w === 'string' ? w : w.map(s => s.text).join(''))

// What is the same on every device, and what is words or content rather than look.
const everywhere = new Set([
  'kind',
  'id',
  'ask',
  'key',
  'required',
  'choices',
  'right',
  'points',
  'reveal',
  'advances',
  'press',
  'counts',
  'blocks',
  'phone',
  'locked',
  'from',
  'pool',
  'items',
  'hide',
])
const content = new Set(
  'captions text words label hint help picture alt file address title path name code copied apply apply_words html least most pattern message to minutes at_zero formula step start unit explanation link credit anchor tab'.split(
    ' ',
  ),
)

/** A thing as phones have it, or as it is. */
export const shownOn = <T extends { phone?: object }>(phone: boolean, thing: T): T => (phone && thing.phone ? { ...thing, ...thing.phone } : thing)

/**
 * Changes a thing as a device shows it. What is changed while a phone is looked
 * at is for phones alone, but for words and content, unless these differ there
 * already.
 */
export function changeOn<T extends Block | Frame>(phone: boolean, thing: T, how: (shown: T) => void) {
  if (!phone) return how(thing)
  const patch: Record<string, unknown> = { ...thing.phone }
  const before = { ...thing, ...patch } as T & Record<string, unknown>
  // Not structuredClone: what is changed may be a draft, which it refuses.
  const after = JSON.parse(JSON.stringify(before)) as typeof before
  how(after)
  const base = thing as T & Record<string, unknown>
  for (const key of new Set([...Object.keys(before), ...Object.keys(after)])) {
    if (key === 'phone' || same(before[key], after[key])) continue
    const own = key in patch || (!everywhere.has(key) && !content.has(key))
    if (!own) {
      if (after[key] === undefined) delete (base as Record<string, unknown>)[key]
      else (base as Record<string, unknown>)[key] = after[key]
    } else if (same(after[key], base[key]) || after[key] === undefined) delete patch[key]
    else patch[key] = after[key]
  }
  if (Object.keys(patch).length) (thing as Lay).phone = patch
  else delete (thing as Lay).phone
}

const same = (a: unknown, b: unknown) => JSON.stringify(a) === JSON.stringify(b)
