import type { Scene } from '../../../kinds/piece'
import { newDraw } from '../../design/blocks'
import { giveThanks, leadsTo, leadsToWinner, leadTo, leadToWinner, resultsOf, spellOut, waysOn } from '../../design/graph'
import { answers, flat, freshID, keysOf } from '../../design/tree'
import { changeDesign } from './change'
import { now, useView } from './view'

// What changes the scenes of the design in view.

/** Leads a button of a scene to another one; it goes on, if it did something else. */
export function lead(from: string, block: string, to: string) {
  changeDesign(d => {
    const scene = d.scenes.find(s => s.id === from)
    const b = scene && flat(scene.blocks).find(x => x.id === block)
    if (!scene || (block && !b)) return
    if (b?.kind === 'button' && b.press.do !== 'send') b.press = { do: 'next' }
    leadTo(scene, block, to)
  })
}

/** Has the ways by which a block of a scene leads to another lead to a third, under the conditions they have. */
export function relead(from: string, block: string, was: string, to: string) {
  changeDesign(d => {
    const scene = d.scenes.find(s => s.id === from)
    if (!scene) return
    spellOut(scene)
    for (const e of scene.edges ?? []) if ((e.block ?? '') === block && e.to === was) e.to = to
  })
}

/** Takes away the ways by which a block of a scene leads to another scene. */
export function unlead(from: string, block: string, to: string) {
  changeDesign(d => {
    const scene = d.scenes.find(s => s.id === from)
    if (!scene) return
    spellOut(scene)
    const edges = (scene.edges ?? []).filter(e => (e.block ?? '') !== block || e.to !== to)
    if (edges.length) scene.edges = edges
    else delete scene.edges
  })
}

/** Scenes that may be added, and how each begins. */
export const newScenes = {
  question: 'Question',
  result: 'Result',
  form: 'Sign-up',
  inputs: 'Calculator',
  draw: 'Prize draw',
  thanks: 'Thank-you',
  plain: 'Blank',
} as const

/** Adds a scene of a sort after the one in view, or after those of its sort; what led on leads on through it. */
export function addSort(sort: keyof typeof newScenes) {
  if (sort === 'plain') return addScene()
  if (sort === 'draw') return addDraw()
  const { design, s: here } = now()
  const id = freshID(
    sort === 'inputs' ? 'calc' : sort === 'question' ? 'q' : sort,
    design.scenes.map(x => x.id),
  )
  const keys = keysOf(design.scenes)
  const key = (name: string) => (keys.includes(name) ? freshID(name, keys) : name)
  const count = design.scenes.filter(x => x.kind === sort).length + 1
  const amount = key('amount')
  const total = sort === 'inputs' && !design.formulas?.length ? key('total') : ''
  const heading = (text: string) => ({ kind: 'heading', id: 'title', text, size: 26, align: 'start' }) as const
  const button = (words: string, does: 'send' | 'next' | 'close', counts = false) =>
    ({ kind: 'button', id: 'on', words, press: { do: does }, counts, quiet: false }) as const
  const made = { id, name: sort === 'inputs' ? 'Calculator' : `${newScenes[sort]} ${count}`, kind: sort === 'inputs' ? 'form' : sort } as Scene
  const choices = ['First answer', 'Second answer', 'Third answer'].map((label, i) => ({ id: 'abc'[i], label }))
  switch (sort) {
    case 'question':
      made.blocks = [
        { kind: 'progress', id: 'progress', look: 'bites' },
        heading('What would you like to know?'),
        {
          kind: 'field',
          id: 'answer',
          ask: 'choice',
          key: key('question_' + count),
          label: 'What would you like to know?',
          required: true,
          bare: true,
          look: 'list',
          advances: true,
          choices,
        },
        { kind: 'button', id: 'back', words: 'Back', press: { do: 'back' }, counts: false, quiet: true, align: 'start' },
      ]
      break
    case 'result':
      made.blocks = [
        heading('Your result'),
        { kind: 'text', id: 'say', text: 'What it means, and what to do next.', size: 17, align: 'start' },
        button('Close', 'close'),
      ]
      break
    case 'form':
      made.name = 'Sign-up'
      made.blocks = [
        heading('Where shall we send it?'),
        { kind: 'field', id: 'email', ask: 'email', key: key('email'), label: 'Email', required: true },
        button('Show me', 'send', true),
      ]
      break
    case 'inputs':
      made.blocks = [
        heading('What will it cost?'),
        { kind: 'field', id: 'amount', ask: 'slider', key: amount, label: 'How many?', required: true, least: '0', most: '20', start: '5' },
        { kind: 'value', id: 'value', formula: design.formulas?.[0]?.name ?? total, label: 'In all', size: 44, align: 'start' },
        button('Go on', 'send'),
      ]
      break
    default:
      made.blocks = [
        heading(sort === 'thanks' ? 'Thank you, {first name|friend}' : 'A new scene'),
        button(sort === 'thanks' ? 'Back to the page' : 'Carry on', sort === 'thanks' ? 'close' : 'next'),
      ]
  }
  changeDesign(d => {
    // A calculator computes something from the start.
    if (total) d.formulas = [{ name: total, formula: `${amount} * 10` }]
    if (sort === 'result') {
      // What leads to the winning result leads to this one too.
      const before = resultsOf(d.scenes as Scene[])
      const led = (d.scenes as Scene[]).flatMap(s => waysOn(s).flatMap(w => (before.length && leadsToWinner(s, w.id, before) ? [{ s, block: w.id }] : [])))
      d.scenes.push(made)
      // The last stays what comes where none has any weight.
      for (const { s, block } of led) leadToWinner(s, block, [...before.slice(0, -1), id, before.at(-1)!])
      return
    }
    if (sort === 'thanks') return void d.scenes.push(made)
    // It comes in between: the scene in view leads to it, and it to where that led.
    const before = d.scenes[here] as Scene
    const way = before.kind === 'result' || before.kind === 'thanks' ? undefined : waysOn(before)[0]
    if (way) {
      const led = leadsTo(before, way.id)
      if (led) made.edges = [{ to: led }]
      leadTo(before, way.id, id)
    }
    d.scenes.splice(way ? here + 1 : d.scenes.length, 0, made)
  })
  useView.setState({ scene: id, selected: 'frame', also: [] })
}

/** Adds a scene to spin on, one for what is won and one for what is not, after the scene in view. */
function addDraw() {
  const { design, s: here } = now()
  const ids = design.scenes.map(x => x.id)
  const idOf = (name: string) => {
    const id = ids.includes(name) ? freshID(name, ids) : name
    ids.push(id)
    return id
  }
  const [spin, won, lost] = ['spin', 'won', 'lost'].map(idOf)
  const keys = keysOf(design.scenes)
  const draw = newDraw('draw', 'wheel', keys)
  const asked = keys.includes('email')
  const scenes: Scene[] = [
    {
      id: spin,
      name: 'Prize draw',
      kind: 'form',
      blocks: [
        { kind: 'heading', id: 'title', text: 'A spin for you', size: 28, align: 'center' },
        draw,
        ...(asked ? [] : [{ kind: 'field', id: 'email', ask: 'email', key: 'email', label: 'Email', required: true } as const]),
        { kind: 'button', id: 'on', words: 'Spin the wheel', press: { do: 'send' }, counts: !asked, quiet: false },
      ],
      edges: [
        { block: 'on', when: [{ of: draw.key, op: 'is', value: 'nothing' }], to: lost },
        { block: 'on', to: won },
      ],
    },
    {
      id: won,
      name: 'Won',
      kind: 'thanks',
      blocks: [
        { kind: 'heading', id: 'title', text: `{${draw.key}|Your prize} is yours`, size: 28, align: 'center' },
        { kind: 'code', id: 'code', draw: draw.key, words: 'Copy', copied: 'Copied', size: 20 },
        { kind: 'button', id: 'done', words: 'Back to the page', press: { do: 'close' }, counts: false, quiet: false },
      ],
    },
    {
      id: lost,
      name: 'Not won',
      kind: 'thanks',
      blocks: [
        { kind: 'heading', id: 'title', text: 'Not this time', size: 28, align: 'center' },
        { kind: 'text', id: 'say', text: 'Thank you for playing.', size: 16, align: 'center' },
        { kind: 'button', id: 'done', words: 'Back to the page', press: { do: 'close' }, counts: false, quiet: false },
      ],
    },
  ]
  changeDesign(d => {
    const before = d.scenes[here] as Scene
    const way = before.kind === 'result' || before.kind === 'thanks' ? undefined : waysOn(before)[0]
    if (way) leadTo(before, way.id, spin)
    d.scenes.splice(way ? here + 1 : d.scenes.length, 0, ...scenes)
  })
  useView.setState({ scene: spin, selected: 'frame', also: [] })
}

/** A copy of a scene whose answers no other scene has, and which leads to scenes that are here. */
function copyOf(scene: Scene, id: string, scenes: readonly Scene[]): Scene {
  const copy = { ...(JSON.parse(JSON.stringify(scene)) as Scene), id }
  const keys = keysOf(scenes)
  const names = new Map<string, string>()
  for (const b of flat(copy.blocks)) {
    if (!answers(b)) continue
    if (keys.includes(b.key)) names.set(b.key, freshID(b.key.replace(/\d+$/, ''), keys))
    b.key = names.get(b.key) ?? b.key
    keys.push(b.key)
  }
  const here = [...scenes.map(s => s.id), id]
  copy.edges = copy.edges?.filter(e => !e.to || here.includes(e.to)).map(e => ({ ...e, when: e.when?.map(t => ({ ...t, of: names.get(t.of) ?? t.of })) }))
  if (!copy.edges?.length) delete copy.edges
  else for (const e of copy.edges) if (!e.when) delete e.when
  return copy
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
      ? copyOf(scene, id, d.scenes as Scene[])
      : {
          id,
          name: `Scene ${design.scenes.length + 1}`,
          kind: 'plain',
          blocks: [{ kind: 'heading', id: 'title', text: 'A new scene', size: 28, align: 'start' }],
        }
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
    d => void d.scenes.splice(at + 1, 0, { ...copyOf(design.scenes[at], copy, design.scenes), name: design.scenes[at].name.slice(0, 113) + ' (copy)' }),
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

export function deleteScene(id: string) {
  const { design } = now()
  if (design.scenes.length < 2) return
  const at = design.scenes.findIndex(s => s.id === id)
  changeDesign(d => {
    d.scenes.splice(at, 1)
    // What led there leads nowhere now, and closes instead.
    for (const s of d.scenes) {
      if (!s.edges?.some(e => e.to === id)) continue
      s.edges = s.edges.filter(e => e.to !== id)
      if (!s.edges.length) delete s.edges
    }
    // Choices do not speak for a result that is gone.
    for (const s of d.scenes) for (const b of flat(s.blocks)) if (b.kind === 'field') for (const c of b.choices ?? []) delete c.weights?.[id]
    for (const s of d.scenes) for (const e of s.edges ?? []) e.when = e.when?.filter(t => t.op !== 'most' || t.value !== id)
  })
  useView.setState({ scene: design.scenes[at === 0 ? 1 : at - 1].id, selected: 'frame', also: [] })
}
