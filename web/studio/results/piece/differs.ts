import { hashKey } from '@tanstack/react-query'
import type { Block, Design, Scene } from '../../../kinds/piece'
import { blockKinds } from '../../design/blocks'
import { settingName } from '../../design/settings'
import { flat, plain } from '../../design/tree'

// What tells two designs apart, in words.

const frameParts: Record<string, string> = {
  width: 'Width',
  place: 'Position',
  padding: 'Padding',
  corners: 'Corners',
  background: 'Background',
  ink: 'Text colour',
  accent: 'Button colour',
  accent_ink: 'Button text colour',
  font: 'Font',
  heading_font: 'Heading font',
  backdrop: 'Backdrop',
  close: 'Close button',
  border: 'Border',
  shadow: 'Shadow',
  enter: 'Entrance',
  behind: 'Background picture',
  tab: 'Tab',
}

const nameOf = (b: Block) => blockKinds[b.kind]?.name ?? b.kind
const wordsOf = (b: Block): string => ('text' in b ? plain(b.text as never) : 'words' in b ? String(b.words) : 'label' in b ? String(b.label) : '').trim()
const same = (a: unknown, b: unknown) => hashKey([a ?? null]) === hashKey([b ?? null])
const quoted = (words: string) => `“${words.length > 60 ? `${words.slice(0, 59)}…` : words}”`

/** What the second design has otherwise than the first, the plainest first: scenes, blocks and their words, then the look. */
export function differences(a: Design, b: Design): string[] {
  const all: string[] = []
  const scenesOf = (d: Design) => new Map(d.scenes.map(s => [s.id, s]))
  const [before, after] = [scenesOf(a), scenesOf(b)]
  for (const s of b.scenes) if (!before.has(s.id)) all.push(`New scene “${s.name}”`)
  for (const s of a.scenes) if (!after.has(s.id)) all.push(`Without the scene “${s.name}”`)
  for (const s of a.scenes) {
    const now = after.get(s.id)
    if (now) all.push(...inScene(s, now, a.scenes.length > 1 ? `${now.name}: ` : ''))
  }
  const frames = [a.frame, b.frame] as unknown as Record<string, unknown>[]
  const changed = [...new Set(frames.flatMap(Object.keys))].filter(key => !same(frames[0][key], frames[1][key]))
  const named = [...new Set(changed.map(key => frameParts[key] ?? 'Other settings of the frame'))]
  if (named.length) all.push(`Look: ${named.join(', ')}`)
  if (!same(a.formulas, b.formulas)) all.push('Formulas')
  return all
}

function inScene(a: Scene, b: Scene, at: string): string[] {
  const all: string[] = []
  const blocksOf = (s: Scene) => new Map(flat(s.blocks).map(block => [block.id, block]))
  const [before, after] = [blocksOf(a), blocksOf(b)]
  const says = (block: Block) => (wordsOf(block) ? `${nameOf(block)} ${quoted(wordsOf(block))}` : nameOf(block))
  for (const [id, block] of after) if (!before.has(id)) all.push(`${at}new: ${says(block)}`)
  for (const [id, block] of before) if (!after.has(id)) all.push(`${at}without: ${says(block)}`)
  for (const [id, was] of before) {
    const now = after.get(id)
    // What a block holds is told of itself.
    if (!now || same({ ...was, blocks: 0 }, { ...now, blocks: 0 })) continue
    if (wordsOf(was) !== wordsOf(now)) all.push(`${at}${nameOf(now)}: ${quoted(wordsOf(was))} became ${quoted(wordsOf(now))}`)
    else all.push(`${at}${says(now)}: ${settingsThatDiffer(was, now)}`)
  }
  const order = (s: Scene, other: Map<string, Block>) => flat(s.blocks).flatMap(block => (other.has(block.id) ? [block.id] : []))
  if (!same(order(a, after), order(b, before))) all.push(`${at}another order`)
  if (!same(a.edges, b.edges)) all.push(`${at}leads on otherwise`)
  return all
}

/** The settings of a block that are not the same, by their names in its panel. */
function settingsThatDiffer(was: Block, now: Block): string {
  const [a, b] = [was, now] as unknown as Record<string, unknown>[]
  const changed = [...new Set([a, b].flatMap(Object.keys))].filter(key => key !== 'blocks' && !same(a[key], b[key]))
  const names = [...new Set(changed.flatMap(key => settingName(now.kind, key) ?? []))]
  return names.length ? names.join(', ') : 'other settings'
}
