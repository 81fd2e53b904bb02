import type { Block, Words } from '../../../kinds/piece'
import { changeBlock, useView } from '../view'
import { readWords, spansOf, writeWords } from './richText'

// Editing words where they stand. The element becomes the writer's until they
// are done: it shows the words as they are kept, merge fields in braces and
// all, and every keystroke goes to the draft.

interface Edited {
  element: HTMLElement
  write(): void
  keep(): void
  /** Enter begins a new line, rather than ending. */
  lines: boolean
  /** Words may have looks of their own. */
  rich: boolean
  empty: boolean
}

const text = (e: HTMLElement) => e.textContent ?? ''

function editedOf(block: Block, element: HTMLElement, color: (c: string) => string): Edited | null {
  const plain = (at: HTMLElement, words: string, keep: (w: string) => void): Edited => ({
    element: at,
    write: () => {
      at.textContent = words
    },
    keep: () => keep(text(at)),
    lines: false,
    rich: false,
    empty: false,
  })
  switch (block.kind) {
    case 'heading':
    case 'text':
      return {
        element,
        write: () => writeWords(element, block.text, color),
        keep: () => changeBlock(block.id, b => void ((b as { text: Words }).text = readWords(element))),
        lines: block.kind === 'text',
        rich: true,
        empty: true,
      }
    case 'list':
      return {
        element,
        write: () => {
          for (const [i, li] of [...element.querySelectorAll('li > span')].entries()) writeWords(li as HTMLElement, block.items[i] ?? '', color)
        },
        keep: () => {
          const items = [...element.querySelectorAll('li')].map(li => readWords(li))
          if (items.length) changeBlock(block.id, b => void ((b as { items: Words[] }).items = items))
        },
        lines: true,
        rich: true,
        empty: true,
      }
    case 'button':
      return plain(element, block.words, w => changeBlock(block.id, b => void ((b as { words: string }).words = w)))
    case 'field': {
      const label = element.querySelector<HTMLElement>(block.ask === 'consent' ? '.consent span' : 'label[for], legend')
      return label && plain(label, block.label, w => changeBlock(block.id, b => void ((b as { label: string }).label = w)))
    }
    default:
      return null
  }
}

/** What the bar above the words can do to them, while they are edited. */
export interface Pen {
  block: Block
  rich: boolean
  bold(): void
  italic(): void
  underline(): void
  link(address: string): void
  color(color: string, ref: string): void
  size(px: number): void
  insert(text: string): void
  end(): void
}

const most = 10_000

/** Edits a block's words in place; changed is told of each keystroke, done of the end. */
export function editText(block: Block, drawn: HTMLElement, color: (c: string) => string, changed: () => void, done: () => void): Pen | undefined {
  const edited = editedOf(block, drawn, color)
  if (!edited) return
  const { element } = edited
  const root = element.getRootNode() as ShadowRoot & { getSelection?(): Selection | null }
  const selection = () => root.getSelection?.() ?? getSelection()
  useView.setState({ editing: true })
  edited.write()
  element.contentEditable = edited.rich ? 'true' : 'plaintext-only'
  element.style.outline = 'none'
  element.style.cursor = 'text'
  element.focus()
  getSelection()?.selectAllChildren(element)
  try {
    // By elements, not by style attributes, which the studio's policy forbids.
    document.execCommand('styleWithCSS', false, 'false')
    document.execCommand('defaultParagraphSeparator', false, 'br')
  } catch {}

  let range: Range | undefined
  const remember = () => {
    const s = selection()
    if (s?.rangeCount && element.contains(s.getRangeAt(0).commonAncestorContainer)) range = s.getRangeAt(0).cloneRange()
  }
  const back = () => {
    element.focus()
    if (!range) return
    const s = selection()
    s?.removeAllRanges()
    s?.addRange(range)
  }

  const input = () => {
    // A line that must say something keeps its last words until there are new ones.
    if (text(element).trim() || edited.empty) edited.keep()
    remember()
    changed()
  }
  const command = (name: string, value?: string) => {
    back()
    document.execCommand(name, false, value)
    input()
  }
  const key = (e: KeyboardEvent) => {
    e.stopPropagation()
    if (e.key === 'Escape' || (e.key === 'Enter' && !edited.lines)) {
      e.preventDefault()
      return end()
    }
    if (e.key === 'Enter' && block.kind === 'text') {
      e.preventDefault()
      document.execCommand('insertLineBreak')
    }
    // A button takes the space bar as a press.
    if (e.key === ' ' && element.tagName === 'BUTTON') {
      e.preventDefault()
      document.execCommand('insertText', false, ' ')
    }
  }
  const keyup = (e: KeyboardEvent) => {
    remember()
    if (e.key === ' ') e.preventDefault()
  }
  // What is pasted keeps its words, their weight and their links, and nothing else.
  const paste = (e: ClipboardEvent) => {
    e.preventDefault()
    e.stopPropagation()
    const html = edited.rich ? e.clipboardData?.getData('text/html') : ''
    const room = most - text(element).length
    if (html) {
      const pasted = readWords(new DOMParser().parseFromString(html, 'text/html').body, true)
      const holder = document.createElement('div')
      let left = room
      const clipped = spansOf(pasted).flatMap(s => {
        const t = s.text.slice(0, Math.max(0, left))
        left -= t.length
        return t ? [{ ...s, text: t }] : []
      })
      writeWords(holder, clipped, color)
      document.execCommand('insertHTML', false, holder.innerHTML.replaceAll('\n', block.kind === 'heading' ? ' ' : '<br>'))
    } else document.execCommand('insertText', false, (e.clipboardData?.getData('text/plain') ?? '').slice(0, Math.max(0, room)))
    input()
  }
  let over = false
  const end = () => {
    if (over) return
    over = true
    for (const [name, listener] of listeners) element.removeEventListener(name, listener as EventListener)
    document.removeEventListener('pointerdown', outside, true)
    done()
    useView.setState({ editing: false })
  }
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
  const listeners = [
    ['input', input],
    ['keydown', key],
    ['keyup', keyup],
    ['pointerup', remember],
    ['paste', paste],
    ['blur', blur],
  ] as const
  for (const [name, listener] of listeners) element.addEventListener(name, listener as EventListener)
  document.addEventListener('pointerdown', outside, true)
  remember()

  const wrap = (style: (e: HTMLElement) => void) => {
    back()
    if (!range || range.collapsed) return
    const span = document.createElement('span')
    style(span)
    span.append(range.extractContents())
    range.insertNode(span)
    range.selectNodeContents(span)
    input()
  }
  return {
    block,
    rich: edited.rich,
    bold: () => command('bold'),
    italic: () => command('italic'),
    underline: () => command('underline'),
    link: address => command(address ? 'createLink' : 'unlink', address),
    color: (css, ref) =>
      wrap(e => {
        e.style.color = css
        if (ref[0] === '@') e.dataset.color = ref
        for (const inner of e.querySelectorAll<HTMLElement>('[style]')) inner.style.color = ''
      }),
    size: px =>
      wrap(e => {
        e.style.fontSize = px + 'px'
      }),
    insert: t => command('insertText', t),
    end,
  }
}
