import { expect, test } from 'vitest'
import type { Design } from '../kinds/piece'
import { differences } from '../studio/results/piece/differs'

const design = (change: (d: any) => void = () => {}): Design => {
  const d = {
    frame: { width: 400, background: '#fff', accent: '#333' },
    scenes: [
      {
        id: 'ask',
        name: 'Sign-up',
        kind: 'form',
        blocks: [
          { kind: 'heading', id: 'title', text: 'Five new glazes', size: 24 },
          { kind: 'columns', id: 'two', blocks: [{ kind: 'text', id: 'why', text: [{ text: 'Once a ' }, { text: 'month', bold: true }] }] },
          { kind: 'button', id: 'send', words: 'Send' },
        ],
      },
      { id: 'thanks', name: 'Thank-you', kind: 'thanks', blocks: [] },
    ],
  }
  change(d)
  return d as unknown as Design
}

test('a copy differs in nothing', () => {
  expect(differences(design(), design())).toEqual([])
})

test.each([
  ['words', (d: any) => void (d.scenes[0].blocks[0].text = 'Which glaze next?'), ['Sign-up: Heading: “Five new glazes” became “Which glaze next?”']],
  ['words within columns', (d: any) => void (d.scenes[0].blocks[1].blocks[0].text = 'Never'), ['Sign-up: Text: “Once a month” became “Never”']],
  ['a setting', (d: any) => void (d.scenes[0].blocks[0].size = 30), ['Sign-up: Heading “Five new glazes”: Size']],
  ['settings of a button', (d: any) => void Object.assign(d.scenes[0].blocks[2], { counts: true, fill: '#123456', above: 8 }), ['Sign-up: Button “Send”: Counts as conversion, Background, Space above']],
  ['a setting without a name', (d: any) => void (d.scenes[0].blocks[0].turbo = 1), ['Sign-up: Heading “Five new glazes”: other settings']],
  ['a block less', (d: any) => void d.scenes[0].blocks.splice(0, 1), ['Sign-up: without: Heading “Five new glazes”']],
  ['a block more', (d: any) => void d.scenes[1].blocks.push({ kind: 'divider', id: 'line' }), ['Thank-you: new: Divider']],
  ['another order', (d: any) => void d.scenes[0].blocks.reverse(), ['Sign-up: another order']],
  ['a scene less', (d: any) => void d.scenes.pop(), ['Without the scene “Thank-you”']],
  ['the look', (d: any) => void Object.assign(d.frame, { width: 300, accent: '#000', turbo: 1 }), ['Look: Width, Button colour, Other settings of the frame']],
])('it says that %s differ', (_, change, want) => {
  expect(differences(design(), design(change))).toEqual(want)
})
