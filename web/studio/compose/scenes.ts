import type { Button, Design, Scene } from '../../kinds/piece'
import { flat, freshID } from './tree'
import { changeDesign, now, useView } from './view'

// The graph of scenes: what leads where.

/** A way from one scene to another. */
export interface Way {
  from: string
  /** The block that leads there. */
  block: string
  words: string
  to: string
  how: 'sent' | 'pressed' | 'in time'
}

/** All ways between the scenes of a design. */
export function waysOf(design: Design): Way[] {
  return design.scenes.flatMap((s, i) =>
    flat(s.blocks).flatMap((b): Way[] => {
      if (b.kind === 'timer' && b.at_zero === 'scene' && b.scene) return [{ from: s.id, block: b.id, words: 'at zero', to: b.scene, how: 'in time' }]
      if (b.kind !== 'button') return []
      const to = b.press.do === 'next' ? design.scenes[i + 1]?.id : b.press.do === 'scene' || b.press.do === 'send' ? b.press.scene : undefined
      return to ? [{ from: s.id, block: b.id, words: b.words, to, how: b.press.do === 'send' ? 'sent' : 'pressed' }] : []
    }),
  )
}

/** The buttons of a scene, which may be led somewhere. */
export const buttonsOf = (s: Scene) => flat(s.blocks).filter((b): b is Button => b.kind === 'button')

/** How many steps each scene is from the first; those nobody reaches are not in it. */
export function depths(design: Design): Map<string, number> {
  const ways = waysOf(design)
  const depth = new Map([[design.scenes[0].id, 0]])
  for (const id of depth.keys()) for (const w of ways) if (w.from === id && !depth.has(w.to)) depth.set(w.to, depth.get(id)! + 1)
  return depth
}

/** Scenes from which nothing leads on, other than thank-yous. */
export const deadEnds = (design: Design): string[] =>
  design.scenes.length < 2
    ? []
    : design.scenes
        .filter(s => s.kind !== 'thanks' && !flat(s.blocks).some(b => b.kind === 'button' || b.kind === 'links' || b.kind === 'html' || b.kind === 'code'))
        .map(s => s.id)

/** Leads a button of the scene in view, or of another, to a scene. */
export function lead(from: string, block: string, to: string) {
  changeDesign(d => {
    const b = flat(d.scenes.find(s => s.id === from)?.blocks ?? []).find(x => x.id === block)
    if (b?.kind === 'button') b.press = { do: b.press.do === 'send' ? 'send' : 'scene', scene: to }
  })
}

/** Makes a thank-you where there is none, lets every form that just closes lead to it, and gives its id. */
export function giveThanks(scenes: Scene[]): string {
  let thanks = scenes.find(s => s.kind === 'thanks')
  if (!thanks) {
    thanks = {
      id: freshID(
        'scene',
        scenes.map(s => s.id),
      ),
      name: 'Thank-you',
      kind: 'thanks',
      blocks: [
        { kind: 'heading', id: 'title', text: 'Thank you, {first name|friend}', size: 28, align: 'start' },
        { kind: 'button', id: 'done', words: 'Back to the page', press: { do: 'close' }, counts: false, quiet: false },
      ],
    }
    scenes.push(thanks)
  }
  for (const s of scenes) if (s.id !== thanks.id) for (const b of buttonsOf(s)) if (b.press.do === 'send' && !b.press.scene) b.press.scene = thanks.id
  return thanks.id
}

export function addScene(scene?: Scene) {
  const { design } = now()
  let id = freshID(
    'scene',
    design.scenes.map(s => s.id),
  )
  changeDesign(d => {
    if (!scene && !d.scenes.some(s => s.kind === 'thanks')) {
      id = giveThanks(d.scenes)
      return
    }
    const made: Scene = scene
      ? { ...(JSON.parse(JSON.stringify(scene)) as Scene), id }
      : {
          id,
          name: `Scene ${design.scenes.length + 1}`,
          kind: 'plain',
          blocks: [{ kind: 'heading', id: 'title', text: 'A new scene', size: 28, align: 'start' }],
        }
    // A kept scene may lead to scenes that are not here.
    const here = [...d.scenes.map(s => s.id), id]
    for (const b of flat(made.blocks))
      if (b.kind === 'button' && b.press.scene && !here.includes(b.press.scene)) b.press = b.press.do === 'send' ? { do: 'send' } : { do: 'close' }
    d.scenes.push(made)
  })
  useView.setState({ scene: id, selected: 'frame', also: [] })
}

export function duplicateScene(id: string) {
  const { design } = now()
  const at = design.scenes.findIndex(s => s.id === id)
  const copy = freshID(
    'scene',
    design.scenes.map(s => s.id),
  )
  changeDesign(
    d =>
      void d.scenes.splice(at + 1, 0, {
        ...(JSON.parse(JSON.stringify(design.scenes[at])) as Scene),
        id: copy,
        name: design.scenes[at].name.slice(0, 113) + ', again',
      }),
  )
  useView.setState({ scene: copy, selected: 'frame', also: [] })
}

export function moveScene(id: string, to: number) {
  changeDesign(d => {
    const at = d.scenes.findIndex(s => s.id === id)
    const [scene] = d.scenes.splice(at, 1)
    d.scenes.splice(to > at ? to - 1 : to, 0, scene)
  })
}

export function takeOutScene(id: string) {
  const { design } = now()
  if (design.scenes.length < 2) return
  const at = design.scenes.findIndex(s => s.id === id)
  changeDesign(d => {
    d.scenes.splice(at, 1)
    // Buttons that led there lead nowhere now, and close instead.
    for (const s of d.scenes)
      for (const b of flat(s.blocks)) {
        if (b.kind === 'button' && b.press.scene === id) b.press = b.press.do === 'scene' ? { do: 'close' } : { ...b.press, scene: undefined }
        if (b.kind === 'timer' && b.scene === id) {
          b.at_zero = 'stay'
          delete b.scene
        }
      }
  })
  useView.setState({ scene: design.scenes[at === 0 ? 1 : at - 1].id, selected: 'frame', also: [] })
}
