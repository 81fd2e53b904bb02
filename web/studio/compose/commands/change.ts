import type { Block, Design, Frame, Scene } from '../../../kinds/piece'
import { changeOn, find, flat, placeOf, plain, pruneEdges, shownOn } from '../../design/tree'
import { change } from '../../piece/draft'
import { now } from './view'

// Changes of the design in view, each of which is undone by itself.

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
