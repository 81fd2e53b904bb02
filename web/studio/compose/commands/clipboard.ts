import type { Block, Edge } from '../../../kinds/piece'
import { edgesFrom, find, shownOn } from '../../design/tree'
import { changeSelected, putBlocks, removeSelected, selectedIDs } from './selection'
import { now } from './view'

// Copying blocks, with their looks and what they do, within a piece and between
// pieces: as a text that says what it is, so that it survives the way through
// the system's clipboard.

interface Copied {
  gobbet: 'blocks'
  blocks: Block[]
  /** Where they lead. */
  edges?: Edge[]
}

const kept = 'gobbet-copied'

/** The blocks that a text holds, if it was copied here. */
export function readCopied(text: string): Copied | undefined {
  try {
    const copied = JSON.parse(text) as Copied
    return copied?.gobbet === 'blocks' && Array.isArray(copied.blocks) && copied.blocks.every(b => typeof b?.kind === 'string') ? copied : undefined
  } catch {
    return undefined
  }
}

export function copySelected(): string | undefined {
  const { scene } = now()
  const blocks = selectedIDs().map(id => find(scene, id)!.block)
  if (!blocks.length) return
  const text = JSON.stringify({ gobbet: 'blocks', blocks, edges: edgesFrom(scene, blocks) } satisfies Copied)
  try {
    localStorage.setItem(kept, text)
  } catch {}
  return text
}

export function cutSelected(): string | undefined {
  const text = copySelected()
  if (text) removeSelected()
  return text
}

/** Puts in what was last copied. */
export function pasteCopied(text = localStorage.getItem(kept) ?? ''): boolean {
  const copied = readCopied(text)
  if (copied) putBlocks(copied.blocks, undefined, copied.edges)
  return !!copied
}

/** Plain text from elsewhere becomes a paragraph. */
export function pasteText(text: string) {
  const words = text.trim().slice(0, 10_000)
  if (words) putBlocks([{ kind: 'text', id: 'text', text: words, size: 16, align: 'start' }])
}

const looks =
  'size align color fill ink hover line quiet narrow corners stir background padding gap border above mark marker width thick fit ratio boxed'.split(' ')

/** Gives every selected block the look of what was last copied, as far as its kind has it. */
export function pasteLook() {
  const from = readCopied(localStorage.getItem(kept) ?? '')?.blocks[0]
  if (!from) return
  const { phone } = now()
  const shown = shownOn(phone, from) as unknown as Record<string, unknown>
  changeSelected(b => {
    const to = b as unknown as Record<string, unknown>
    for (const key of looks) {
      if (b.kind !== from.kind && !['color', 'align', 'above'].includes(key)) continue
      if (shown[key] === undefined) delete to[key]
      else to[key] = shown[key]
    }
  })
}
