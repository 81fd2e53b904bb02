import { create } from 'zustand'
import type { Block, Design, Piece, Scene } from '../../kinds/piece'
import { change, useDraft } from '../bench/draft'

// What is looked at while composing: which variant, which scene, what in it
// is selected. None of it is part of the piece.

export type Device = 'desktop' | 'phone'

interface View {
  variant: number
  scene: string
  /** A block's id, or frame, or close. */
  selected: string
  device: Device
  editing: boolean
}

export const useView = create<View>(() => ({ variant: 0, scene: '', selected: 'frame', device: 'desktop', editing: false }))

export const select = (selected: string) => useView.setState({ selected })

/** The variant, design and scene in view, with their places in the document. */
export function useScene() {
  const doc = useDraft(s => s.doc)!
  const view = useView()
  return { ...look(doc, view), view, doc }
}

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

const now = () => look(useDraft.getState().doc!, useView.getState())

/** Changes the design in view. */
export const changeDesign = (how: (design: Design) => void, belongsTo = '') => {
  const { v } = now()
  change(doc => how(doc.split.variants[v].design as Design), belongsTo)
}

/** Changes the scene in view. */
export const changeScene = (how: (scene: Scene) => void, belongsTo = '') => {
  const { s } = now()
  changeDesign(design => how(design.scenes[s]), belongsTo)
}

/** Changes one block of the scene in view. */
export const changeBlock = <B extends Block>(id: string, how: (block: B) => void) =>
  changeScene(scene => {
    const block = scene.blocks.find(b => b.id === id)
    if (block) how(block as B)
  }, 'block ' + id)

/** A short name that nothing in use has. */
export function freshID(kind: string, used: string[]): string {
  for (let n = 1; ; n++) if (!used.includes(kind + n)) return kind + n
}

const made: Record<Block['kind'], (id: string, scene: Scene) => Block> = {
  heading: id => ({ kind: 'heading', id, text: 'A heading', size: 26, align: 'start' }),
  text: id => ({ kind: 'text', id, text: 'A line or two.', size: 16, align: 'start' }),
  picture: id => ({ kind: 'picture', id, picture: '', ratio: 50, alt: '', width: 100, corners: 6, align: 'center' }),
  field: (id, scene) => {
    const keys = scene.blocks.flatMap(b => (b.kind === 'field' ? [b.key] : []))
    if (!keys.includes('email')) return { kind: 'field', id, ask: 'email', key: 'email', label: 'Email', required: true }
    if (!keys.includes('name')) return { kind: 'field', id, ask: 'name', key: 'name', label: 'First name', required: false }
    return { kind: 'field', id, ask: 'text', key: freshID('answer', keys), label: 'Your answer', required: false }
  },
  button: (id, scene) => {
    const asks = scene.blocks.some(b => b.kind === 'field') && !scene.blocks.some(b => b.kind === 'button' && b.press.do === 'send')
    return { kind: 'button', id, words: asks ? 'Send it to me' : 'Carry on', press: { do: asks ? 'send' : 'close' }, counts: asks, quiet: false }
  },
}

/** Adds a block after what is selected, and selects it. */
export function addBlock(kind: Block['kind']) {
  const { scene } = now()
  const at = scene.blocks.findIndex(b => b.id === useView.getState().selected)
  const id = freshID(
    kind,
    scene.blocks.map(b => b.id),
  )
  changeScene(s => void s.blocks.splice(at < 0 ? s.blocks.length : at + 1, 0, made[kind](id, s)))
  select(id)
}

/** Takes the selected block, or the close mark, away. */
export function removeSelected() {
  const { selected } = useView.getState()
  if (selected === 'close') changeDesign(d => void (d.frame.close.shown = false))
  const { scene } = now()
  const at = scene.blocks.findIndex(b => b.id === selected)
  if (at >= 0) changeScene(s => void s.blocks.splice(at, 1))
  select(at >= 0 ? (scene.blocks[at + 1]?.id ?? scene.blocks[at - 1]?.id ?? 'frame') : 'frame')
}

/** Makes another of the selected block, right after it. */
export function duplicateSelected() {
  const { scene } = now()
  const at = scene.blocks.findIndex(b => b.id === useView.getState().selected)
  if (at < 0) return
  const original = scene.blocks[at]
  const id = freshID(
    original.kind,
    scene.blocks.map(b => b.id),
  )
  const keys = scene.blocks.flatMap(b => (b.kind === 'field' ? [b.key] : []))
  const copy = { ...original, id, ...(original.kind === 'field' ? { key: freshID(original.ask, keys) } : {}) } as Block
  changeScene(s => void s.blocks.splice(at + 1, 0, copy))
  select(id)
}

/** Moves a block to another place in its scene. */
export function moveBlock(from: number, to: number) {
  if (from === to || from < 0) return
  changeScene(s => {
    const [block] = s.blocks.splice(from, 1)
    s.blocks.splice(Math.max(0, Math.min(to, s.blocks.length)), 0, block)
  })
}

export function moveSelected(by: number) {
  const { scene } = now()
  const from = scene.blocks.findIndex(b => b.id === useView.getState().selected)
  if (from >= 0 && from + by >= 0 && from + by < scene.blocks.length) moveBlock(from, from + by)
}

/** Selects what comes before or after, in the order of the outline. */
export function selectNext(by: number) {
  const { scene, design } = now()
  const order = ['frame', ...(design.frame.close.shown ? ['close'] : []), ...scene.blocks.map(b => b.id)]
  const at = order.indexOf(useView.getState().selected)
  select(order[Math.max(0, Math.min(order.length - 1, at + by))])
}

/** What a block is called in lists. */
export function nameOf(block: Block): string {
  switch (block.kind) {
    case 'heading':
    case 'text':
      return block.text.trim() || (block.kind === 'heading' ? 'Empty heading' : 'Empty text')
    case 'picture':
      return block.alt || 'Picture'
    case 'field':
      return block.label
    case 'button':
      return block.words
  }
}

export const kindNames: Record<Block['kind'], string> = { heading: 'Heading', text: 'Text', picture: 'Picture', field: 'Field', button: 'Button' }
