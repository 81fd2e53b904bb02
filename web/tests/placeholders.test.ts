import { readFileSync } from 'node:fs'
import { expect, test } from 'vitest'
import type { Design, Scene } from '../kinds/piece'
import { freshBlock, more, offers } from '../studio/design/blocks'
import { plain } from '../studio/design/tree'

// What the studio adds is known to the checks as text that is still to be
// written: both go by the same list.

const list = readFileSync(new URL('../../core/settle/placeholders.txt', import.meta.url), 'utf8')
const known = new Set(list.split('\n').filter(line => line && !line.startsWith('#')))

test('every text of a new block that says nothing yet is known', () => {
  const scene = { id: 's', name: 'S', kind: 'form', blocks: [] } as unknown as Scene
  const texts: string[] = []
  for (const offer of [...offers, ...more]) {
    const block = freshBlock(offer, scene, { scenes: [scene] } as Design)
    const held = 'blocks' in block ? block.blocks : [block]
    for (const b of held) {
      if (b.kind === 'heading' || b.kind === 'text') texts.push(plain(b.text))
      if (b.kind === 'list') texts.push(...b.items.map(plain))
      if (b.kind === 'html') texts.push(b.html)
      if (b.kind === 'links') texts.push(...b.items.map(i => i.address))
    }
  }
  expect(texts.length).toBeGreaterThan(7)
  for (const text of texts) expect(known, text).toContain(text)
})

test('and those of new scenes and lines of a conversation', () => {
  const source = ['compose/commands/scenes.ts', 'design/lines.ts'].map(name => readFileSync(new URL(`../studio/${name}`, import.meta.url), 'utf8')).join('\n')
  for (const text of [
    'What would you like to know?',
    'First answer',
    'Second answer',
    'Third answer',
    'Your result',
    'What it means, and what to do next.',
    'A new scene',
    'hello@example.com',
    'https://chat.example.com',
    '+353 555 0100',
  ]) {
    expect(source, text).toContain(`'${text}'`)
    expect(known, text).toContain(text)
  }
})
