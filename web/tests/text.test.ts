import { getSchema } from '@tiptap/core'
import { expect, test } from 'vitest'
import type { Span } from '../kinds/piece'
import { contentOf, extensionsOf, type Run, wordsIn } from '../studio/compose/canvas/text/editor'
import { joined, spansOf, words } from '../studio/design/words'
import { random } from './random'

// What the editor of words makes of a block's words, and gives back.

const schema = (run: Run) => getSchema(extensionsOf(run, c => c))
const back = (run: Run, said: Parameters<typeof words>[0]) => {
  const s = schema(run)
  return wordsIn(s.topNodeType.create(null, contentOf(s, words(said))))
}

test('words come out of the editor as they went in, with every look and break', () => {
  const int = random(5)
  const texts = ['one', ' ', 'two words', '\n', 'a\nb', '\n\n', '{first name|friend}', '<b>&amp;', 'é\u200d🏺']
  for (let i = 0; i < 2000; i++) {
    const spans = Array.from({ length: 1 + int(6) }, (): Span => {
      const one: Span = { text: texts[int(texts.length)] }
      if (int(3) === 0) one.bold = true
      if (int(4) === 0) one.italic = true
      if (int(5) === 0) one.underline = true
      if (int(5) === 0) one.link = ['https://shop.example.com/a?b#c', 'mailto:a@example.com', '/shop'][int(3)]
      if (int(4) === 0) one.color = ['@accent', '#a1b2c3'][int(2)]
      if (int(5) === 0) one.size = 8 + int(60)
      return one
    })
    expect(back('lines', spans)).toEqual(words(spans))
  }
})

test('a line without looks has none, and no breaks', () => {
  expect(back('plain', [{ text: 'Count\nme ', bold: true }, { text: 'in', color: '#ff0000' }])).toBe('Count me in')
  expect(back('plain', [{ text: '' }])).toBe('')
})

test('the editor holds nothing but words', () => {
  for (const run of ['plain', 'line', 'lines', 'items'] as const) {
    const { nodes, marks } = schema(run)
    const known = ['doc', 'text', 'hardBreak', 'item', 'bold', 'italic', 'underline', 'link', 'color', 'size']
    expect([...Object.keys(nodes), ...Object.keys(marks)].filter(name => !known.includes(name))).toEqual([])
  }
  expect(spansOf(joined(['a', [{ text: 'b', bold: true }]], ' '))).toEqual([{ text: 'a ' }, { text: 'b', bold: true }])
})
