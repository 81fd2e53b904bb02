import type { Block, Edge } from '../../../kinds/piece'
import { freshBlock, type Offer } from '../../design/blocks'
import {
  changeOn,
  edgesFrom,
  edgesOfCopies,
  find,
  flat,
  group,
  holds,
  moveTo,
  renamed,
  type Spot,
  standBeside,
  take,
  tidy,
  topmost,
  ungroup,
} from '../../design/tree'
import { changeDesign, changeScene } from './change'
import { now, select, useView } from './view'

// What is done with the blocks that are selected.

/** The blocks that are selected. */
export function selectedIDs(): string[] {
  const { selected, also } = useView.getState()
  const { scene } = now()
  return topmost(scene, [selected, ...also])
}

const movable = () => {
  const { scene } = now()
  return selectedIDs().filter(id => !find(scene, id)?.block.locked)
}

/** Adds blocks after what is selected, with their edges to scenes that are here, and selects them. */
export function putBlocks(blocks: readonly Block[], spot?: Spot, edges: readonly Edge[] = []) {
  const { scene, design, view } = now()
  const fresh = renamed(scene, blocks, design.scenes)
  const led = edgesOfCopies(edges, blocks, fresh).filter(e => !e.to || design.scenes.some(s => s.id === e.to))
  changeScene(s => {
    if (led.length) s.edges = [...(s.edges ?? []), ...led]
    const chosen = view.selected && find(s, view.selected)
    const into = spot?.holder ? find(s, spot.holder)?.block : undefined
    if (spot) {
      const list = into && holds(into) ? into.blocks : s.blocks
      list.splice(spot.index, 0, ...fresh)
    } else if (chosen && chosen.block.kind === 'box') chosen.block.blocks.push(...fresh)
    else if (chosen) chosen.list.splice(chosen.index + 1, 0, ...fresh)
    else s.blocks.splice(placeFor(fresh[0], s.blocks), 0, ...fresh)
  })
  select(
    fresh[0]?.id ?? 'frame',
    fresh.slice(1).map(b => b.id),
  )
}

/** Where a block goes that nothing says a place for: a field after those there are, and all but buttons before the last buttons. */
function placeFor(block: Block | undefined, blocks: readonly Block[]): number {
  const fields = block?.kind === 'field' ? blocks.findLastIndex(b => b.kind === 'field') + 1 : 0
  return block?.kind === 'button' ? blocks.length : fields || blocks.findLastIndex(b => b.kind !== 'button') + 1
}

export function addBlock(offer: Offer, spot?: Spot) {
  const { scene, design } = now()
  putBlocks([freshBlock(offer, scene, design)], spot)
}

/** Deletes what is selected: blocks, or the close button. */
export function removeSelected() {
  const { selected } = useView.getState()
  if (selected === 'close') {
    changeDesign(d => void (d.frame.close.shown = false))
    return select('frame')
  }
  const { scene } = now()
  const ids = movable()
  if (!ids.length) return
  const order = flat(scene.blocks).map(b => b.id)
  const next = order.slice(order.indexOf(ids.at(-1)!) + 1).find(id => !ids.includes(id) && find(scene, id)?.holder === find(scene, ids.at(-1)!)?.holder)
  const before = order.slice(0, order.indexOf(ids[0])).at(-1)
  changeScene(s => {
    for (const id of ids) take(s, id)
    tidy(s)
  })
  select(next ?? before ?? 'frame')
}

/** Makes another of what is selected, right after it. */
export function duplicateSelected() {
  const { scene, design } = now()
  const ids = selectedIDs()
  if (!ids.length) return
  const blocks = ids.map(id => find(scene, id)!.block)
  const copies = renamed(scene, blocks, design.scenes)
  const led = edgesOfCopies(edgesFrom(scene, blocks), blocks, copies)
  changeScene(s => {
    if (led.length) s.edges = [...(s.edges ?? []), ...led]
    const last = find(s, ids.at(-1)!)!
    last.list.splice(last.index + 1, 0, ...copies)
    const holder = last.holder && find(s, last.holder)?.block
    if (holder && holder.kind === 'columns') delete holder.widths
  })
  select(
    copies[0].id,
    copies.slice(1).map(b => b.id),
  )
}

/** Moves what is selected to a spot. */
export function moveSelectedTo(spot: Spot) {
  const ids = movable()
  if (ids.length) changeScene(s => void moveTo(s, ids, spot))
}

export function standSelectedBeside(id: string, after: boolean) {
  const ids = movable()
  if (ids.length) changeScene(s => void standBeside(s, ids, id, after))
}

/** Moves what is selected up or down where it stands. */
export function moveSelected(by: number) {
  const { scene } = now()
  const [id] = movable()
  const at = id && find(scene, id)
  if (!at) return
  const to = at.index + by
  if (to < 0 || to >= at.list.length) return
  changeScene(s => void moveTo(s, [id], { holder: at.holder, index: by > 0 ? to + 1 : to }))
}

/** Selects what comes before or after, in the order of the outline. */
export function selectNext(by: number) {
  const { scene, design, view } = now()
  const order = ['frame', ...(design.frame.close.shown ? ['close'] : []), ...flat(scene.blocks).map(b => b.id)]
  const at = order.indexOf(view.selected)
  select(order[Math.max(0, Math.min(order.length - 1, at + by))])
}

export function selectAll() {
  const { scene } = now()
  const [first, ...rest] = scene.blocks.map(b => b.id)
  if (first) select(first, rest)
}

/** Changes the look of every selected block. */
export function changeSelected(how: (block: Block) => void) {
  const { phone } = now()
  const ids = selectedIDs()
  changeScene(s => {
    for (const id of ids) {
      const block = find(s, id)?.block
      if (block) changeOn(phone, block, how)
    }
  }, 'blocks ' + ids.join(' '))
}

/** More or less space above what is selected. */
export const nudge = (by: number) =>
  changeSelected(b => {
    b.above = Math.max(-48, Math.min(160, (b.above ?? 0) + by)) || undefined
  })

export function alignSelected(align: 'start' | 'center' | 'end') {
  changeSelected(b => {
    if ('align' in b || b.kind === 'button') (b as { align?: string }).align = align
  })
}

export function groupSelected() {
  const ids = movable()
  let made: string | undefined
  if (ids.length) changeScene(s => void (made = group(s, ids)))
  if (made) select(made)
}

export function ungroupSelected() {
  const { selected } = useView.getState()
  let left: string[] = []
  changeScene(s => void (left = ungroup(s, selected)))
  if (left.length) select(left[0], left.slice(1))
}

export function lockSelected() {
  const { scene } = now()
  const ids = selectedIDs()
  const lock = !ids.every(id => find(scene, id)?.block.locked)
  changeScene(s => {
    for (const id of ids) {
      const block = find(s, id)!.block
      if (lock) block.locked = true
      else delete block.locked
    }
  })
}

/** Hides what is selected on a kind of device, or shows it everywhere. */
export function hideSelected(on?: 'phone' | 'desktop') {
  const ids = selectedIDs()
  changeScene(s => {
    for (const id of ids) {
      const block = find(s, id)!.block
      if (on) block.hide = on
      else delete block.hide
    }
  })
}
