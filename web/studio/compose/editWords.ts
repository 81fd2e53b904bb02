import type { Block, Button, Field, Heading, Text } from '../../kinds/piece'
import { changeBlock, useView } from './view'

// Editing words where they stand. The element becomes the writer's until they
// are done: it shows the words as they are kept, merge fields in braces and
// all, and every keystroke goes to the draft.

interface Words {
  element: HTMLElement
  words: string
  keep(words: string): void
  lines: boolean
}

function wordsOf(block: Block, element: HTMLElement): Words | null {
  switch (block.kind) {
    case 'heading':
      return { element, words: block.text, keep: w => changeBlock<Heading>(block.id, b => void (b.text = w)), lines: false }
    case 'text':
      return { element, words: block.text, keep: w => changeBlock<Text>(block.id, b => void (b.text = w)), lines: true }
    case 'button':
      return { element, words: block.words, keep: w => changeBlock<Button>(block.id, b => void (b.words = w)), lines: false }
    case 'field': {
      const label = element.querySelector('label')
      return label && { element: label, words: block.label, keep: w => changeBlock<Field>(block.id, b => void (b.label = w)), lines: false }
    }
    default:
      return null
  }
}

/** Edits a block's words in place; changed is told of each keystroke, done of the end. */
export function editWords(block: Block, drawn: HTMLElement, changed: () => void, done: () => void) {
  const words = wordsOf(block, drawn)
  if (!words) return
  const { element } = words
  useView.setState({ editing: true })
  element.textContent = words.words
  element.contentEditable = 'plaintext-only'
  element.style.outline = 'none'
  element.style.cursor = 'text'
  element.focus()
  getSelection()?.selectAllChildren(element)

  const read = () => element.textContent ?? ''
  const input = () => {
    // A line that must say something keeps its last words until there are new ones.
    if (read().trim() || block.kind === 'heading' || block.kind === 'text') words.keep(read())
    changed()
  }
  const key = (e: KeyboardEvent) => {
    e.stopPropagation()
    if (e.key === 'Escape' || (e.key === 'Enter' && !words.lines)) {
      e.preventDefault()
      element.blur()
    }
    // A button takes the space bar as a press.
    if (e.key === ' ' && element.tagName === 'BUTTON') {
      e.preventDefault()
      document.execCommand('insertText', false, ' ')
    }
  }
  const keyup = (e: KeyboardEvent) => e.key === ' ' && e.preventDefault()
  const end = () => {
    element.removeEventListener('input', input)
    element.removeEventListener('keydown', key)
    element.removeEventListener('keyup', keyup)
    element.removeEventListener('blur', end)
    done()
    useView.setState({ editing: false })
  }
  element.addEventListener('input', input)
  element.addEventListener('keydown', key)
  element.addEventListener('keyup', keyup)
  element.addEventListener('blur', end)
}
