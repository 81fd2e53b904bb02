import type { Block, Words } from '../../../../kinds/piece'
import { nameOf } from '../../../design/blocks'
import { changeBlock } from '../../commands/change'
import { useView } from '../../commands/view'
import type { Run } from './editor'

// Editing words where they stand. The element becomes the writer's until they
// are done: it shows the words as they are kept, merge fields in braces and
// all, and every keystroke goes to the draft.

interface Edited {
  element: HTMLElement
  words: Words[]
  keep(words: Words[]): void
  run: Run
}

const change = <B extends Block>(block: B, to: (b: B) => void) => changeBlock(block.id, b => to(b as B))

function editedOf(block: Block, element: HTMLElement): Edited | null {
  // A line that must say something keeps its last words until there are new ones.
  const plain = (at: HTMLElement, words: string, keep: (w: string) => void): Edited => ({
    element: at,
    words: [words],
    keep: ([w]) => typeof w === 'string' && w.trim() && keep(w),
    run: 'plain',
  })
  switch (block.kind) {
    case 'heading':
      return { element, words: [block.text], keep: ([w]) => change(block, b => void (b.text = w)), run: 'line' }
    case 'text':
      return { element, words: [block.text], keep: ([w]) => change(block, b => void (b.text = w)), run: 'lines' }
    case 'list':
      return { element, words: block.items, keep: items => change(block, b => void (b.items = items)), run: 'items' }
    case 'button':
      return plain(element, block.words, w => change(block, b => void (b.words = w)))
    case 'field': {
      const label = element.querySelector<HTMLElement>(block.ask === 'consent' ? '.consent span' : 'label[for], legend')
      return label && plain(label, block.label, w => change(block, b => void (b.label = w)))
    }
    default:
      return null
  }
}

/** The looks that the toolbar turns on and off. */
export type Toggled = 'bold' | 'italic' | 'underline'

/** What the bar above the words can do to them, while they are edited. */
export interface Pen {
  block: Block
  /** Words may have looks of their own. */
  rich: boolean
  toggle(look: Toggled): void
  link(address: string): void
  color(ref: string): void
  size(px: number): void
  insert(text: string): void
  end(): void
  /** The looks at the caret, of bold, italic, underline and link, parted by spaces. */
  looks(): string
  /** Has looks looked at again after each change; gives back how to stop that. */
  watch(changed: () => void): () => void
}

type Loaded = typeof import('./editor')

// Once it is here it is used at once: even a promise that is kept lets keys pass by.
let here: Loaded | undefined
const loaded = () =>
  import('./editor').then(m => {
    here = m
    return m
  })

/** Has the editor at hand before it is asked for. */
export const prepareToEdit = () => void loaded().catch(() => {})

/** Holds on to what is typed before the editor has come; over several lines, Enter begins one. */
function holdKeys(lines: boolean) {
  let text = ''
  let ended = false
  const key = (e: KeyboardEvent) => {
    e.preventDefault()
    e.stopImmediatePropagation()
    if (ended) return
    if (e.key === 'Enter' && lines) text += '\n'
    else if (e.key === 'Escape' || e.key === 'Enter') ended = true
    else if (e.key === 'Backspace') text = text.slice(0, -1)
    else if (e.key.length === 1 && !e.ctrlKey && !e.metaKey && !e.altKey) text += e.key
  }
  addEventListener('keydown', key, true)
  return () => {
    removeEventListener('keydown', key, true)
    return { text, ended }
  }
}

/**
 * Edits a block's words in place; changed is told of each keystroke, done of the
 * end. Gives nothing where the block has no words to edit on the page. Fails
 * where the editor cannot be loaded.
 */
export async function editText(
  block: Block,
  drawn: HTMLElement,
  paint: (c: string) => string,
  changed: () => void,
  done: () => void,
): Promise<Pen | undefined> {
  const edited = editedOf(block, drawn)
  if (!edited || useView.getState().editing) return
  const { element, run } = edited
  useView.setState({ editing: true })
  let held = { text: '', ended: false }
  if (!here) {
    const release = holdKeys(run === 'lines' || run === 'items')
    try {
      await loaded()
    } catch (e) {
      useView.setState({ editing: false })
      throw e
    } finally {
      held = release()
    }
    if (!element.isConnected) return void useView.setState({ editing: false })
  }
  const { openEditor, allWords, write } = here!

  let over = false
  const end = () => {
    if (over) return
    over = true
    for (const [name, listener] of listeners) element.removeEventListener(name, listener as EventListener)
    document.removeEventListener('pointerdown', outside, true)
    editor.destroy()
    done()
    useView.setState({ editing: false })
  }
  const editor = openEditor(
    element,
    edited.words,
    run,
    paint,
    {
      change() {
        edited.keep(allWords(editor, run))
        changed()
      },
      end,
    },
    `Text: ${nameOf(block)}. Escape ends.`,
  )
  const root = element.getRootNode() as ShadowRoot
  // The bar above the words may take the focus for a while.
  const blur = () =>
    setTimeout(() => {
      const to = document.activeElement
      if (!over && !to?.closest('[data-pen], .MuiPopover-root') && root.activeElement !== element) end()
    })
  const outside = (e: PointerEvent) => {
    const path = e.composedPath()
    if (!path.includes(element) && !path.some(t => t instanceof Element && t.matches('[data-pen], .MuiPopover-root'))) end()
  }
  // Keys and pastes are not for the canvas, nor are those that compose a letter, which the editor passes over.
  const stop = (e: Event) => e.stopPropagation()
  const press = (e: KeyboardEvent) => e.key === ' ' && element.localName === 'button' && e.preventDefault()
  const listeners = [
    ['keydown', stop],
    ['keyup', press],
    ['paste', stop],
    ['blur', blur],
  ] as const
  for (const [name, listener] of listeners) element.addEventListener(name, listener as EventListener)
  document.addEventListener('pointerdown', outside, true)
  if (held.text) write(editor, held.text, run)
  if (held.ended) return void end()

  const does = () => editor.chain().focus()
  return {
    block,
    rich: run !== 'plain',
    toggle: look => does().toggleMark(look).run(),
    link: href => (href ? does().extendMarkRange('link').setMark('link', { href }).run() : does().extendMarkRange('link').unsetMark('link').run()),
    color: color => does().setMark('color', { color }).run(),
    size: size => does().setMark('size', { size }).run(),
    insert: t =>
      does()
        .command(({ tr }) => !!tr.insertText(t))
        .run(),
    end,
    looks: () => (over ? '' : ['bold', 'italic', 'underline', 'link'].filter(look => editor.isActive(look)).join(' ')),
    watch(changed) {
      editor.on('transaction', changed)
      return () => void editor.off('transaction', changed)
    },
  }
}
