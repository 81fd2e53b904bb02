import type { Button, Design, Edge, Scene, Test } from '../../kinds/piece'
import { flat, freshID } from './tree'

// The graph of scenes: which scene follows which.

/** A way from one scene to another. */
export interface Way {
  from: string
  /** The block that leads there; empty: any that goes on. */
  block: string
  words: string
  to: string
  how: 'sent' | 'pressed' | 'in time'
  when: readonly Test[]
}

/** All ways between the scenes of a design. */
export const waysOf = (design: Design): Way[] =>
  design.scenes.flatMap(s =>
    (s.edges ?? []).flatMap((e): Way[] => {
      if (!e.to) return []
      const block = flat(s.blocks).find(b => b.id === e.block)
      const words = block?.kind === 'button' ? block.words : block?.kind === 'timer' ? 'when it ends' : ''
      const how = block?.kind === 'timer' ? 'in time' : block?.kind === 'button' && block.press.do === 'next' ? 'pressed' : 'sent'
      return [{ from: s.id, block: e.block ?? '', words, to: e.to, how, when: e.when ?? [] }]
    }),
  )

const winning = (e: Edge) => e.when?.length === 1 && e.when[0].of === 'weights' && e.when[0].op === 'most' && e.when[0].value === e.to

/** The blocks of a scene by which a visitor goes on, with what stands on them. */
export const waysOn = (s: Scene): { id: string; words: string }[] =>
  flat(s.blocks).flatMap(b =>
    b.kind === 'button' && (b.press.do === 'send' || b.press.do === 'next')
      ? [{ id: b.id, words: b.words }]
      : (b.kind === 'field' && b.advances) || b.kind === 'draw'
        ? [{ id: b.id, words: b.label }]
        : b.kind === 'timer' && b.at_zero === 'next'
          ? [{ id: b.id, words: 'when it ends' }]
          : [],
  )

/** Has every edge of a scene name the block it is for, so that one can be changed without the others. */
export function spellOut(scene: Scene) {
  if (!scene.edges?.some(e => !e.block)) return
  const ways = waysOn(scene)
  if (!ways.length) return // it goes on by itself
  scene.edges = scene.edges.flatMap(e => (e.block ? [e] : ways.map(w => ({ ...e, block: w.id }))))
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
        .filter(
          s =>
            s.kind !== 'thanks' &&
            s.kind !== 'result' &&
            !s.edges?.length &&
            !flat(s.blocks).some(b => b.kind === 'button' || b.kind === 'links' || b.kind === 'html' || b.kind === 'code'),
        )
        .map(s => s.id)

/** Leads a block of a scene to another scene, whatever the answers; an empty one out of the piece. */
export function leadTo(scene: Scene, block: string, to: string) {
  spellOut(scene)
  const edges: Edge[] = (scene.edges ?? []).filter(e => (e.block ?? '') !== block || e.when?.length)
  if (to) edges.push(block ? { block, to } : { to })
  if (edges.length) scene.edges = edges
  else delete scene.edges
}

/** Whether a block leads to whichever result has the most weight, and so does nothing else. */
export function leadsToWinner(scene: Scene, block: string, results: readonly string[]): boolean {
  const mine = (scene.edges ?? []).filter(e => !e.block || e.block === block)
  const [last, ...others] = mine.toReversed()
  return mine.length > 0 && mine.length === results.length && !last.when?.length && others.every(winning) && results.every(r => mine.some(e => e.to === r))
}

/** Leads a block of a scene to whichever result has the most weight. */
export function leadToWinner(scene: Scene, block: string, results: readonly string[]) {
  spellOut(scene)
  const others = (scene.edges ?? []).filter(e => (e.block ?? '') !== block)
  const own = block ? { block } : {}
  const ways = results.map((to, i): Edge => (i === results.length - 1 ? { ...own, to } : { ...own, when: [{ of: 'weights', op: 'most', value: to }], to }))
  scene.edges = [...others, ...ways]
}

/** The results of a quiz. */
export const resultsOf = (scenes: readonly Scene[]) => scenes.filter(s => s.kind === 'result').map(s => s.id)

/** Where a block leads whatever the answers; empty for out of the piece. */
export const leadsTo = (scene: Scene, block: string): string => scene.edges?.find(e => (!e.block || e.block === block) && !e.when?.length)?.to ?? ''

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
  const { id } = thanks
  for (const s of scenes) if (s.id !== id) for (const b of buttonsOf(s)) if (b.press.do === 'send' && !leadsTo(s, b.id)) leadTo(s, b.id, id)
  return id
}
