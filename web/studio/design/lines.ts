import type { Block, Button, Design, Edge, Field, Scene, Text } from '../../kinds/piece'
import { choicesOf, keyFor } from './blocks'
import { leadsTo, leadTo, spellOut } from './graph'
import { flat, freshID, keysOf, plain } from './tree'

// A conversation as lines, in the order they are spoken: the scenes of a design
// from the first on, with what follows an answer alone indented below it. What
// is typed changes the scenes; there is no other document.

export type Line = { depth: number; scene: string } & (
  | { what: 'say'; block: string; text: string; rich: boolean }
  | { what: 'ask'; block: string; field: Field }
  | { what: 'answer'; block: string; choice: string; text: string; branch: boolean }
  | { what: 'button'; block: string; button: Button; branch: boolean }
  | { what: 'other'; block: string; name: string }
  | { what: 'jump'; to: string }
  | { what: 'end' }
)

const testsFor = (e: Edge, key: string, choice: string) => e.when?.length === 1 && e.when[0].of === key && e.when[0].op === 'is' && e.when[0].value === choice

const goes = (b: Block): b is Button => b.kind === 'button' && b.press.do === 'next'

/** The block by which a scene is usually left; empty for one that goes on by itself. */
function wayOf(s: Scene): string | undefined {
  const all = flat(s.blocks)
  const sender = all.find(b => b.kind === 'button' && b.press.do === 'send')
  const advancing = all.find(b => (b.kind === 'field' && b.advances) || b.kind === 'draw')
  return (sender ?? advancing ?? all.find(goes))?.id ?? (s.passes ? '' : undefined)
}

/** Where a scene leads that no answer leads elsewhere; empty where it ends. */
function onFrom(s: Scene): string {
  const way = wayOf(s)
  return way === undefined ? '' : leadsTo(s, way)
}

/** A design's lines, in the order they are spoken. What several ways come to is told on the one that goes straight on, and the others lead there. */
export function linesOf(design: Design, nameOf: (b: Block) => string): Line[] {
  const lines: Line[] = []
  const told = new Set<string>()
  const find = (id: string) => design.scenes.find(s => s.id === id)
  const tell = (first: string, depth: number, kept: ReadonlySet<string>) => {
    if (told.has(first) || kept.has(first)) return void lines.push({ what: 'jump', scene: first, to: first, depth })
    const straight: Scene[] = []
    for (let s = find(first); s && !straight.includes(s) && !told.has(s.id) && !kept.has(s.id); s = find(onFrom(s))) straight.push(s)
    const inner = new Set([...kept, ...straight.map(s => s.id)])
    for (const s of straight) {
      told.add(s.id)
      scene(s, depth, inner)
    }
    const last = straight.at(-1)
    if (!last) return
    const on = onFrom(last)
    if (find(on)) lines.push({ what: 'jump', scene: last.id, to: on, depth })
    else lines.push({ what: 'end', scene: last.id, depth })
  }
  const scene = (s: Scene, depth: number, kept: ReadonlySet<string>) => {
    const edges = s.edges ?? []
    for (const b of s.blocks) {
      const at = { depth, scene: s.id, block: b.id }
      if (b.kind === 'text' || b.kind === 'heading') lines.push({ ...at, what: 'say', text: plain(b.text), rich: typeof b.text !== 'string' })
      else if (b.kind === 'field' && b.ask !== 'hidden') {
        lines.push({ ...at, what: 'ask', field: b })
        for (const c of b.choices ?? []) {
          const own = edges.find(e => testsFor(e, b.key, c.id))
          lines.push({ ...at, what: 'answer', choice: c.id, text: c.label, branch: !!own, depth: depth + 1 })
          if (own?.to) tell(own.to, depth + 2, kept)
          else if (own) lines.push({ what: 'end', scene: s.id, depth: depth + 2 })
        }
      } else if (b.kind === 'button' && b.press.do !== 'send') {
        const own = goes(b) && b.id !== wayOf(s) ? leadsTo(s, b.id) : ''
        lines.push({ ...at, what: 'button', button: b, branch: !!own, depth: depth + 1 })
        if (own) tell(own, depth + 2, kept)
      } else if (b.kind !== 'button' && !/^(field|space|divider|progress)$/.test(b.kind)) lines.push({ ...at, what: 'other', name: nameOf(b) })
    }
    // Conditions that are not about one answer lead on as well.
    for (const e of edges)
      if (e.when?.length && e.to && !s.blocks.some(b => b.kind === 'field' && b.choices?.some(c => testsFor(e, b.key, c.id)))) tell(e.to, depth + 1, kept)
  }
  for (const s of design.scenes) if (s === design.scenes[0] || !told.has(s.id)) tell(s.id, 0, new Set())
  return lines
}

const sceneOf = (d: Design, id: string) => d.scenes.find(s => s.id === id) as Scene

const fresh = (s: Scene, name: string) =>
  freshID(
    name,
    s.blocks.flatMap(b => flat([b])).map(b => b.id),
  )

const line = (id: string, text: string): Text => ({ kind: 'text', id, text, size: 16, align: 'start' })

/** Where lines that are said end, and what is asked begins. */
const asksAt = (s: Scene) => {
  const at = s.blocks.findIndex(b => (b.kind === 'field' && b.ask !== 'hidden') || b.kind === 'button')
  return at < 0 ? s.blocks.length : at
}

/** Adds a line after another, or at the end of what a scene says; gives its block. */
export function addLine(d: Design, scene: string, after?: string, text = ''): string {
  const s = sceneOf(d, scene)
  const id = fresh(s, 'say')
  const at = after ? s.blocks.findIndex(b => b.id === after) + 1 : asksAt(s)
  s.blocks.splice(at, 0, line(id, text))
  return id
}

/** Takes a line away; not the last block of a scene. */
export function dropLine(d: Design, scene: string, block: string) {
  const s = sceneOf(d, scene)
  if (s.blocks.length > 1) s.blocks = s.blocks.filter(b => b.id !== block)
}

/** A new scene that a way leads to; gives its id. */
function addScene(d: Design, name: string, blocks: Block[], kind: Scene['kind'] = 'thanks'): string {
  const id = freshID(
    'line',
    d.scenes.map(s => s.id),
  )
  d.scenes.push({ id, name, kind, blocks })
  return id
}

/** The scene where something may be asked after the lines of one: itself, if it asks nothing yet. */
function asking(d: Design, scene: string): Scene {
  const s = sceneOf(d, scene)
  if (!s.blocks.some(b => (b.kind === 'field' && b.ask !== 'hidden') || b.kind === 'button' || b.kind === 'draw')) return s
  const way = wayOf(s)
  const id = addScene(d, `Line ${d.scenes.length + 1}`, [line('say', 'And then?')])
  if (way !== undefined) leadTo(s, way, id)
  return sceneOf(d, id)
}

/** Asks a question with two answers. */
export function addQuestion(d: Design, scene: string): string {
  const s = asking(d, scene)
  const key = keyFor('choice', keysOf(d.scenes))
  s.kind = 'question'
  const on = s.passes ? leadsTo(s, '') : ''
  delete s.passes
  const id = fresh(s, 'answer')
  s.blocks.push({ kind: 'field', id, ask: 'choice', key, label: 'Shall we?', required: true, advances: true, choices: choicesOf(['Yes', 'No']) })
  if (on) s.edges = [{ block: id, to: on }]
  return id
}

/** Asks for something that is typed and sent, and goes on to where it went, or thanks. */
function addTyped(d: Design, scene: string, kind: Scene['kind'], field: Omit<Field, 'kind' | 'id' | 'key'>, counts: boolean): string {
  const s = asking(d, scene)
  const on = s.passes ? leadsTo(s, '') : ''
  delete s.passes
  s.kind = kind
  const id = fresh(s, field.ask)
  const send = fresh(s, 'send')
  s.blocks.push(
    { kind: 'field', id, key: keyFor(field.ask, keysOf(d.scenes)), ...field },
    { kind: 'button', id: send, words: 'Send', press: { do: 'send' }, counts, quiet: false },
  )
  s.edges = [{ block: send, to: on || addScene(d, 'Thank-you', [line('say', 'Thank you!')]) }]
  return id
}

/** Asks for an address, and thanks for it. */
export const addAddress = (d: Design, scene: string) =>
  addTyped(d, scene, 'form', { ask: 'email', label: 'Where can we reach you?', required: true, hint: 'name@example.com' }, true)

/** Asks a question that is answered in the visitor's own words. */
export const addFreeQuestion = (d: Design, scene: string) =>
  addTyped(d, scene, 'question', { ask: 'text', label: 'What would you like to know?', required: true, hint: 'In your own words' }, false)

export const links = {
  messenger: { words: 'A messenger', press: { do: 'open', address: 'https://chat.example.com', new_tab: true } },
  call: { words: 'Call us', press: { do: 'call', address: '+353 555 0100' } },
  mail: { words: 'Write to us', press: { do: 'mail', address: 'hello@example.com' } },
} as const

/** Adds a way to reach a person. */
export function addLink(d: Design, scene: string, which: keyof typeof links): string {
  const s = sceneOf(d, scene)
  const id = fresh(s, which)
  s.blocks.push({ kind: 'button', id, ...structuredClone(links[which]), counts: true, quiet: false } as Button)
  return id
}

/** Gives an answer lines of its own. */
export function addBranch(d: Design, scene: string, block: string, choice: string): string {
  const s = sceneOf(d, scene)
  const f = s.blocks.find((b): b is Field => b.id === block && b.kind === 'field')
  const label = f?.choices?.find(c => c.id === choice)?.label ?? choice
  const to = addScene(d, `After “${label}”`.slice(0, 120), [line('say', 'I see.')])
  spellOut(s)
  const way = wayOf(s) || block
  const edges = [...(s.edges ?? [])]
  const at = edges.findIndex(e => e.block === way && !e.when?.length)
  edges.splice(at < 0 ? edges.length : at, 0, { block: way, when: [{ of: f!.key, op: 'is', value: choice }], to })
  s.edges = edges
  return to
}

/** Has the answer lead where the others lead. */
export function dropBranch(d: Design, scene: string, block: string, choice: string) {
  const s = sceneOf(d, scene)
  const f = s.blocks.find((b): b is Field => b.id === block && b.kind === 'field')
  s.edges = s.edges?.filter(e => !f || !testsFor(e, f.key, choice))
  if (!s.edges?.length) delete s.edges
}

/** Changes the answers of a question; branches of those that are gone go too. */
export function setAnswers(d: Design, scene: string, block: string, labels: string[]) {
  const s = sceneOf(d, scene)
  const f = s.blocks.find((b): b is Field => b.id === block && b.kind === 'field')
  if (!f || !labels.length) return
  const before = f.choices ?? []
  f.choices = choicesOf(labels, before)
  for (const gone of before.filter(c => !f.choices!.some(x => x.id === c.id))) dropBranch(d, scene, block, gone.id)
}

/** Goes on from the end of some lines to others; to nowhere ends there. */
export function goOn(d: Design, scene: string, to: string) {
  const s = sceneOf(d, scene)
  const way = wayOf(s)
  if (way === undefined) {
    s.passes = true
    s.edges = to ? [{ to }] : undefined
  } else if (way === '') s.edges = to ? [{ to }] : undefined
  else leadTo(s, way, to)
  if (!s.edges?.length) delete s.edges
  if (!to && way === '') delete s.passes
  if (to && s.kind === 'thanks') s.kind = 'plain'
}

/** Whether a design is drawn as a conversation. */
export const talks = (format: string, design: Pick<Design, 'frame'>) => format === 'chat' || (format === 'inline' && !!design.frame.talk)
