import { expect, test } from 'vitest'
import type { Block, Scene, Text } from '../kinds/piece'
import { between, landingAt, touched } from '../studio/compose/canvas/landing'
import { coverFor, mix, type Sampled, under, worst } from '../studio/piece/checks/ground'
import { changeOn, find, flat, group, moveTo, renamed, standBeside, take, tidy, ungroup } from '../studio/design/tree'
import { joined, lines, words } from '../studio/design/words'
import type { Rect } from '../studio/parts/pages/rect'
import { mainColors } from '../studio/site/logo'
import { random } from './random'

// Blocks within blocks, and words with looks: what the designer does to them,
// without the designer.

const text = (id: string): Text => ({ kind: 'text', id, text: id, size: 16, align: 'start' })
const scene = (...blocks: Block[]): Scene => ({ id: 's', name: 'S', kind: 'plain', blocks })
const nested = () =>
  scene(
    text('a'),
    {
      kind: 'box',
      id: 'box',
      padding: 0,
      corners: 0,
      gap: 0,
      blocks: [text('b'), { kind: 'columns', id: 'cols', gap: 0, widths: [30, 70], blocks: [text('c'), text('d')] }],
    },
    text('e'),
  )
const ids = (s: Scene) => flat(s.blocks).map(b => b.id)

test('moving keeps every block, once, whatever is moved where', () => {
  const int = random(7)
  for (let i = 0; i < 400; i++) {
    const s = nested()
    const all = ids(s)
    const leaves = () => ids(s).filter(id => /^[a-e]$/.test(id))
    const moved = all.filter(() => int(3) === 0)
    const holders = ['', 'box', 'cols']
    const how = int(4)
    if (how === 0) standBeside(s, moved, all[int(all.length)], int(2) === 0)
    else if (how === 1) group(s, moved)
    else moveTo(s, moved, { holder: holders[int(3)], index: int(4) })
    expect(leaves().sort()).toEqual(['a', 'b', 'c', 'd', 'e'])
    expect(new Set(ids(s)).size).toBe(ids(s).length)
  }
})

test('a box is never put into itself, and columns with one block dissolve', () => {
  const s = nested()
  expect(moveTo(s, ['box'], { holder: 'cols', index: 0 })).toBe(false)
  expect(moveTo(s, ['c'], { holder: '', index: 0 })).toBe(true)
  tidy(s)
  expect(ids(s)).toEqual(['c', 'a', 'box', 'b', 'd', 'e'])
  take(s, 'd')
  const made = group(s, ['a', 'e'])!
  expect(find(s, 'e')!.holder).toBe(made)
  expect(ungroup(s, made)).toEqual(['a', 'e'])
})

test('copies get names and keys of their own', () => {
  const field: Block = { kind: 'field', id: 'f', ask: 'email', key: 'email', label: 'Email', required: true }
  const s = scene(field)
  const [one, two] = renamed(s, [field, field], [s])
  expect([one.id, two.id]).toEqual(['field1', 'field2'])
  expect([one, two].map(b => (b as { key: string }).key)).toEqual(['email1', 'email2'])
})

test('what differs on phones is kept apart, words are not, and what is put back is gone', () => {
  const t: Text = text('a')
  changeOn(true, t, x => void (x.size = 12))
  changeOn(true, t, x => void (x.text = 'Other words'))
  expect(t).toMatchObject({ size: 16, text: 'Other words', phone: { size: 12 } })
  changeOn(true, t, x => void (x.size = 16))
  expect(t.phone).toBeUndefined()
  changeOn(false, t, x => void (x.size = 20))
  expect(t.size).toBe(20)
})

test('words that look alike are one run, and lines come apart and together', () => {
  expect(words([{ text: 'a' }, { text: 'b', bold: false }])).toBe('ab')
  expect(words([{ text: 'a', bold: true }, { text: '' }, { text: 'b', bold: true }])).toEqual([{ text: 'ab', bold: true }])
  const w = words([{ text: 'One\nTwo ' }, { text: 'bold\nThree', bold: true }])
  expect(lines(w)).toEqual(['One', [{ text: 'Two ' }, { text: 'bold', bold: true }], [{ text: 'Three', bold: true }]])
  expect(joined(lines('a\n\nb'))).toBe('a\n\nb')
})

test('a block lands between, beside, or within, as the pointer says', () => {
  const s = nested()
  const row = (top: number): Rect => ({ left: 20, top, width: 300, height: 40 })
  const rects: Record<string, Rect> = {
    frame: { left: 0, top: 0, width: 340, height: 400 },
    a: row(20),
    box: { ...row(80), height: 120 },
    b: row(84),
    cols: { ...row(140), height: 50 },
    c: { left: 20, top: 145, width: 100, height: 40 },
    d: { left: 130, top: 145, width: 180, height: 40 },
    e: row(240),
  }
  const at = (x: number, y: number, aside = true) => landingAt(s, rects, ['e'], x, y, false, aside)
  expect(at(170, 10)?.spot).toEqual({ holder: '', index: 0 })
  expect(at(170, 75)?.spot).toEqual({ holder: '', index: 1 })
  expect(at(170, 90)?.spot).toEqual({ holder: 'box', index: 0 })
  expect(at(125, 160)?.spot).toEqual({ holder: 'cols', index: 1 })
  expect(at(310, 40)?.beside).toEqual({ id: 'a', after: true })
  expect(at(310, 40, false)?.beside).toBeUndefined()
  expect(at(170, 390)?.spot).toEqual({ holder: '', index: 3 })

  // A band takes in what it touches of the scene itself, from whichever corner it is drawn.
  expect(touched(s, rects, between(0, 0, 30, 90))).toEqual(['a', 'box'])
  expect(touched(s, rects, between(400, 400, 200, 90))).toEqual(['box', 'e'])
  expect(touched(s, rects, between(0, 0, 5, 400))).toEqual([])
  s.blocks[0].locked = true
  expect(touched(s, rects, between(0, 0, 400, 90))).toEqual(['box'])
})

test('words are judged by the part of a picture that is under them', () => {
  // Twice as wide as high: white at the left, black in the middle, red at the right.
  const side = 8
  const cells = Array.from({ length: side * side }, (_, i) => (i % side < 3 ? '#ffffff' : i % side < 5 ? '#000000' : '#ff0000'))
  const wide: Sampled = { width: 200, height: 100, side, cells }
  const room: Rect = { left: 10, top: 20, width: 100, height: 100 }
  const part = (left: number, width: number): Rect => ({ left: 10 + left, top: 60, width, height: 20 })
  // Cut to fill, the square shows the middle half of it; at the start, its left half.
  expect(under(wide, room, part(0, 20)).sort()).toEqual(['#ffffff'])
  expect(under(wide, room, part(40, 20)).sort()).toEqual(['#000000'])
  expect(under(wide, room, part(0, 100)).sort()).toEqual(['#000000', '#ff0000', '#ffffff'])
  expect(under(wide, room, part(80, 20), undefined, { x: 0, y: 50 }).sort()).toEqual(['#000000'])
  expect(under(wide, room, part(0, 20), undefined, { x: 100, y: 50 }).sort()).toEqual(['#000000'])
  // Whole, it leaves the top of the square free.
  expect(under(wide, room, { ...part(0, 20), top: 20 }, 'contain')).toEqual([''])
  expect(under(wide, room, part(0, 20), 'contain')).toEqual(['#ffffff'])
  expect(under(wide, room, { left: 0, top: 0, width: 300, height: 300 }, 'contain').sort()).toEqual(['', '#000000', '#ff0000', '#ffffff'])

  expect(mix('#000000', '#ffffff', 0.5)).toBe('#808080')
  expect(mix('#12ab34', '#ffffff', 0)).toBe('#12ab34')
  expect(worst('#ffffff', ['#000000'], '#808080', 0)).toBeCloseTo(21)
  expect(worst('#ffffff', ['#000000', '#ffffff'], '#000000', 0)).toBeCloseTo(1)
  expect(worst('#ffffff', [''], '#000000', 0)).toBeCloseTo(21)
  // White words on white: black over half of it is enough, grey never is.
  const needed = coverFor('#ffffff', ['#ffffff'], '#000000', 0, 4.5)!
  expect(worst('#ffffff', ['#ffffff'], '#000000', needed)).toBeGreaterThanOrEqual(4.5)
  expect(worst('#ffffff', ['#ffffff'], '#000000', needed - 5)).toBeLessThan(4.5)
  expect(coverFor('#ffffff', ['#ffffff'], '#cccccc', 0, 4.5)).toBeUndefined()
})

test('a logo gives its main colours, the most common first', () => {
  const pixels = new Uint8ClampedArray(4 * 100)
  for (let i = 0; i < 100; i++) pixels.set(i < 60 ? [20, 90, 80, 255] : i < 90 ? [240, 180, 40, 255] : [0, 0, 0, 0], 4 * i)
  expect(mainColors(pixels)).toEqual(['#145a50', '#f0b428'])
})
