import { createContext, useContext } from 'react'
import { create } from 'zustand'
import type { Block, Design, Edge, Frame, Piece, Scene } from '../../kinds/piece'
import { phoneWidth } from '../../page/paint'
import { change, docHere, draftHere, inDraft, useDraft } from '../piece/draft'
import { freshBlock, type Offer } from './document/blocks'
import {
  changeOn,
  edgesFrom,
  edgesOfCopies,
  find,
  flat,
  group,
  holds,
  moveTo,
  placeOf,
  plain,
  pruneEdges,
  renamed,
  type Spot,
  shownOn,
  standBeside,
  take,
  tidy,
  topmost,
  ungroup,
} from './document/tree'

// What is in view while composing: the variant, the scene, the width, what is
// selected. None of it is part of the piece.

export type Device = 'desktop' | 'tablet' | 'phone' | 'any'

interface View {
  variant: number
  scene: string
  /** A block's id, or frame, or close. */
  selected: string
  /** Blocks selected beside it. */
  also: string[]
  device: Device
  /** The width of the page, in CSS pixels. */
  width: number
  editing: boolean
}

export const widths: Record<Exclude<Device, 'any'>, number> = { desktop: 1100, tablet: 768, phone: 390 }

export const useView = create<View>(() => ({ variant: 0, scene: '', selected: 'frame', also: [], device: 'desktop', width: widths.desktop, editing: false }))

/** Where the menu of what is selected is open in the window; null: it is closed. */
export const useMenu = create<{ at: { x: number; y: number } | null }>(() => ({ at: null }))

export const openMenu = (x: number, y: number) => useMenu.setState({ at: { x, y } })

export const shutMenu = () => useMenu.setState({ at: null })

export function select(selected: string, also: string[] = []) {
  if (!meant || meant === useView.getState()) useView.setState({ selected, also })
}

/** Adds a block to what is selected, or takes it out of that. */
export function selectToo(id: string) {
  const { selected, also } = useView.getState()
  if (selected === 'frame' || selected === 'close') return select(id)
  const all = [selected, ...also]
  const next = all.includes(id) ? all.filter(x => x !== id) : [...all, id]
  select(next[0] ?? 'frame', next.slice(1))
}

export const onPhone = (view: Pick<View, 'width'>) => view.width <= phoneWidth

export function setDevice(device: Device, width = device === 'any' ? useView.getState().width : widths[device]) {
  useView.setState({ device, width: Math.max(280, Math.min(1920, Math.round(width))) })
}

/** The variant, design and scene in view, with their places in the document. */
export function useScene() {
  const doc = useDraft(s => s.doc)!
  const view = useView()
  return { ...look(doc, view), view, doc, phone: onPhone(view) }
}

/** What useScene gives. */
export type Scened = ReturnType<typeof useScene>

export const SeenContext = createContext<Scened | null>(null)

/** The scene as the settings around have it: while words are typed, a moment behind. */
export const useSeen = () => useContext(SeenContext)!

function look(doc: Piece, view: View) {
  const v = Math.min(view.variant, doc.split.variants.length - 1)
  const design = doc.split.variants[v].design
  const s = Math.max(
    0,
    design.scenes.findIndex(scene => scene.id === view.scene),
  )
  const at = `split.variants[${v}].design`
  return { v, s, design, scene: design.scenes[s], at, sceneAt: `${at}.scenes[${s}]` }
}

// Where commands act while they are run for a place that may be out of view.
let meant: View | null = null

export const now = () => {
  const view = meant ?? useView.getState()
  const doc = docHere()
  return { ...look(doc, view), view, doc, phone: onPhone(view) }
}

/**
 * Remembers the piece, the variant and the scene in view. What it gives runs
 * commands there, whatever is in view by then, and says whether there is still
 * such a place.
 */
export function fromHere(): (run: () => void) => boolean {
  const draft = draftHere()
  const { doc, v, scene, view } = now()
  const variant = doc.split.variants[v].id
  return run => {
    const at = draft.state.doc?.split.variants.findIndex(x => x.id === variant) ?? -1
    if (!draft.state.doc?.split.variants[at]?.design.scenes.some(s => s.id === scene.id)) return false
    const seen = useView.getState()
    const inView = useDraft.getState().id === draft.state.id && now().v === at && now().scene.id === scene.id
    meant = inView ? seen : { ...view, variant: at, scene: scene.id }
    try {
      inDraft(draft, run)
    } finally {
      meant = null
    }
    return true
  }
}

/** Changes the design in view. */
export const changeDesign = (how: (design: Design) => void, belongsTo = '') => {
  const { v } = now()
  change(doc => how(doc.split.variants[v].design as Design), belongsTo)
}

/** Changes the scene in view. */
export const changeScene = (how: (scene: Scene) => void, belongsTo = '') => {
  const { s } = now()
  changeDesign(design => {
    const scene = design.scenes[s]
    const asked = askedBy(scene)
    how(scene)
    nameAsAsked(scene, asked)
    pruneEdges(scene)
  }, belongsTo)
}

/** What a scene asks, in the words of its heading. */
function askedBy(scene: Scene): string {
  const heading = flat(scene.blocks).find(b => b.kind === 'heading')
  return heading ? plain(heading.text).trim().slice(0, longestLabel) : ''
}

const longestLabel = 200

/** A field whose label is hidden, for the heading says the same, goes on saying the same. */
function nameAsAsked(scene: Scene, before: string) {
  const asked = askedBy(scene)
  if (!asked || asked === before) return
  for (const b of flat(scene.blocks)) if (b.kind === 'field' && b.bare && b.label === before) b.label = asked
}

/** Changes the frame, as the device in view has it. */
export const changeFrame = (how: (frame: Frame) => void, belongsTo = 'frame') => {
  const { phone } = now()
  changeDesign(d => changeOn(phone, d.frame, how), belongsTo)
}

/** Changes one block of the scene in view, as the device in view has it. */
export const changeBlock = <B extends Block>(id: string, how: (block: B) => void) => {
  const { phone } = now()
  changeScene(scene => {
    const block = find(scene, id)?.block
    if (block) changeOn(phone, block, how as (b: Block) => void)
  }, 'block ' + id)
}

/** Changes one block whatever the device. */
export const changeWhole = (id: string, how: (block: Block) => void) =>
  changeScene(scene => {
    const block = find(scene, id)?.block
    if (block) how(block)
  }, 'block ' + id)

/** A block of the scene in view, as the device in view has it. */
export const shownBlock = (scene: Scene, id: string, phone: boolean): Block | undefined => {
  const block = find(scene, id)?.block
  return block && shownOn(phone, block)
}

/** Where a block stands in the document. */
export const placeIn = (scene: Scene, sceneAt: string, id: string) => {
  const place = placeOf(scene, id)
  return place && `${sceneAt}.${place}`
}

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

export { freshID } from './document/tree'
