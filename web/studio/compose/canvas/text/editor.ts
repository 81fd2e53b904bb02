import { Editor, Mark, mergeAttributes, Node } from '@tiptap/core'
import { Bold } from '@tiptap/extension-bold'
import { HardBreak } from '@tiptap/extension-hard-break'
import { Italic } from '@tiptap/extension-italic'
import { Text } from '@tiptap/extension-text'
import { Underline } from '@tiptap/extension-underline'
import { CharacterCount } from '@tiptap/extensions/character-count'
import { UndoRedo } from '@tiptap/extensions/undo-redo'
import { type Node as Content, Fragment, type Schema, Slice } from '@tiptap/pm/model'
import type { Span, Words } from '../../../../kinds/piece'
import { safe } from '../../../../page/safe'
import { joined, type Look, lines, pastedWords, spansOf, words } from '../../../design/words'

// The editor of words on the page. Its document is what a block says, and no
// more: words with looks and breaks, and of a list its items. So whatever is
// pasted or dropped into it, nothing else can come in.

/** How words that are edited may run. */
export type Run =
  /** On one line, without looks of their own: a button. */
  | 'plain'
  /** On one line, with looks: a heading. */
  | 'line'
  /** Over several lines, with looks. */
  | 'lines'
  /** As items, each with looks. */
  | 'items'

const most = 10_000

const hex = /^#[0-9a-f]{6}$/i

/** A span's colour, one of the style's or its own. paint gives how it looks. */
const Colour = Mark.create<{ paint: (color: string) => string }>({
  name: 'color',
  addAttributes: () => ({ color: { default: '' } }),
  parseHTML: () => [
    {
      tag: 'span[data-color]',
      getAttrs: e => {
        const color = e.dataset.color ?? ''
        return /^@[\w-]{1,40}$/.test(color) || hex.test(color) ? { color } : false
      },
    },
  ],
  renderHTML({ mark }) {
    const { color } = mark.attrs
    const css = this.options.paint(color)
    return ['span', { 'data-color': color, style: hex.test(css) ? `color: ${css}` : null }, 0]
  },
})

/** A span's font size, in CSS pixels. */
const Size = Mark.create({
  name: 'size',
  addAttributes: () => ({ size: { default: 16 } }),
  parseHTML: () => [
    {
      tag: 'span[data-size]',
      getAttrs: e => {
        const size = Number(e.dataset.size)
        return size >= 8 && size <= 120 ? { size: Math.round(size) } : false
      },
    },
  ],
  renderHTML: ({ mark }) => ['span', { 'data-size': mark.attrs.size, style: `font-size: ${Number(mark.attrs.size)}px` }, 0],
})

const Link = Mark.create({
  name: 'link',
  inclusive: false,
  addAttributes: () => ({ href: { default: '' } }),
  parseHTML: () => [{ tag: 'a[href]', getAttrs: e => (safe(e.getAttribute('href') ?? '') ? { href: e.getAttribute('href') } : false) }],
  renderHTML: ({ HTMLAttributes }) => ['a', mergeAttributes(HTMLAttributes), 0],
})

const Item = Node.create({ name: 'item', content: 'inline*', parseHTML: () => [{ tag: 'li' }], renderHTML: () => ['li', ['span', 0]] })

const documentOf = (run: Run) =>
  Node.create({ name: 'doc', topNode: true, content: { plain: 'text*', line: 'inline*', lines: 'inline*', items: 'item+' }[run] })

/** What words are in the editor. */
export function contentOf(schema: Schema, said: Words): Content[] {
  return spansOf(said).flatMap(({ text, bold, italic, underline, link, color, size }) => {
    const looks = schema.marks.bold
      ? [
          bold && schema.marks.bold.create(),
          italic && schema.marks.italic.create(),
          underline && schema.marks.underline.create(),
          link && schema.marks.link.create({ href: link }),
          color && schema.marks.color.create({ color }),
          size && schema.marks.size.create({ size }),
        ].filter(mark => !!mark)
      : []
    return text
      .split('\n')
      .flatMap((part, i) => [
        ...(i ? [schema.nodes.hardBreak ? schema.nodes.hardBreak.create(null, null, looks) : schema.text(' ')] : []),
        ...(part ? [schema.text(part, looks)] : []),
      ])
  })
}

/** The words in a part of the editor. */
export function wordsIn(part: Content): Words {
  const spans: Span[] = []
  part.forEach(node => {
    const look: Look = {}
    for (const { type, attrs } of node.marks) {
      if (type.name === 'link') look.link = attrs.href
      else if (type.name === 'color') look.color = attrs.color
      else if (type.name === 'size') look.size = attrs.size
      else look[type.name as 'bold' | 'italic' | 'underline'] = true
    }
    spans.push({ text: node.isText ? node.text! : '\n', ...look })
  })
  return words(spans)
}

/** What is edited, as words: one run, or one for each item. */
export const allWords = (editor: Editor, run: Run): Words[] => (run === 'items' ? editor.state.doc.children.map(wordsIn) : [wordsIn(editor.state.doc)])

/** What an editor of words that run so is made of. */
export function extensionsOf(run: Run, paint: (color: string) => string) {
  const looks = run === 'plain' ? [] : [Bold, Italic, Underline, Link, Colour.configure({ paint }), Size, HardBreak]
  return [documentOf(run), ...(run === 'items' ? [Item] : []), Text, ...looks, UndoRedo, CharacterCount.configure({ limit: most, autoTrim: false })]
}

/** Writes text where the caret is, as if it were typed. */
export function write(editor: Editor, text: string, run: Run) {
  for (const [i, line] of text.split('\n').entries()) {
    if (i) run === 'items' ? editor.commands.splitBlock() : editor.commands.setHardBreak()
    if (line) editor.commands.command(({ tr }) => !!tr.insertText(line))
  }
}

/** Begins to edit words in an element, with all of them selected. */
export function openEditor(
  element: HTMLElement,
  said: Words[],
  run: Run,
  paint: (color: string) => string,
  on: { change(): void; end(): void },
  name: string,
): Editor {
  const editor = new Editor({
    element: { mount: element },
    extensions: extensionsOf(run, paint),
    injectCSS: false,
    enableInputRules: false,
    enablePasteRules: false,
    onUpdate: on.change,
    editorProps: {
      attributes: { role: 'textbox', 'aria-multiline': 'true', 'aria-label': name, style: 'white-space: break-spaces; outline: none; cursor: text' },
      handleKeyDown(_, e) {
        // The studio's own keys are not for what is written here, the one that ends it included.
        e.stopPropagation()
        if (e.key === 'Escape' || (e.key === 'Enter' && (run === 'plain' || run === 'line'))) on.end()
        else if (e.key === 'Enter') run === 'items' && !e.shiftKey ? editor.commands.splitBlock() : editor.commands.setHardBreak()
        // A button takes the space bar as a press.
        else if (e.key === ' ' && element.localName === 'button') editor.view.dispatch(editor.state.tr.insertText(' '))
        else return false
        return true
      },
      // What comes from elsewhere keeps its words, their weight and their links;
      // what was copied here keeps all its looks.
      handleDOMEvents: {
        paste(view, e) {
          const html = run === 'plain' ? '' : (e.clipboardData?.getData('text/html') ?? '')
          if (html.includes('data-pm-slice')) return false
          e.preventDefault()
          const pasted = html ? pastedWords(html) : (e.clipboardData?.getData('text/plain') ?? '').replaceAll(/\r\n?/g, '\n')
          const slice =
            run === 'items'
              ? new Slice(Fragment.from(lines(pasted).map(line => view.state.schema.nodes.item.create(null, contentOf(view.state.schema, line)))), 1, 1)
              : new Slice(Fragment.from(contentOf(view.state.schema, run === 'lines' ? pasted : joined(lines(pasted), ' '))), 0, 0)
          view.dispatch(view.state.tr.replaceSelection(slice).setMeta('paste', true).scrollIntoView())
          return true
        },
      },
    },
  })
  const { schema } = editor
  const content = said.map(one => contentOf(schema, one))
  editor.view.updateState(
    editor.state.apply(
      editor.state.tr
        .replaceWith(0, editor.state.doc.content.size, run === 'items' ? content.map(one => schema.nodes.item.create(null, one)) : content[0])
        .setMeta('addToHistory', false),
    ),
  )
  editor.commands.selectAll()
  editor.view.focus()
  return editor
}
