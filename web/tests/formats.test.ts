import { expect, test } from 'vitest'
import type { Format, Frame, Piece } from '../kinds/piece'
import { refit, refitAsOne, refitOne, refitPhones, refitVariant } from '../studio/design/formats'
import { sitsAs } from '../studio/piece/drawing'
import twins from './twins.json'

// How a piece and its variants change their formats.

const frames = twins.frames as unknown as Record<Format, Frame>

const two = (format: Format): Piece => {
  const variant = (id: string) => ({ id, name: id, share: 50, design: { frame: structuredClone(frames[format]), scenes: [] } })
  return { format, split: { salt: 's', variants: [variant('a'), variant('b')] } } as unknown as Piece
}
const formats = (doc: Piece) => doc.split.variants.map(v => sitsAs(doc, v.design).format)
const widths = (doc: Piece) => doc.split.variants.map(v => v.design.frame.width)

test('a piece takes its variants along to another format', () => {
  const doc = two('popup')
  refit(doc, 'fly_in', frames)
  expect(formats(doc)).toEqual(['fly_in', 'fly_in'])
  expect(widths(doc)).toEqual([frames.fly_in.width, frames.fly_in.width])
})

test('a variant with a format of its own keeps it, and is as it was once it has none', () => {
  const doc = two('popup')
  doc.phone_format = 'bar'
  const before = structuredClone(doc)
  refitOne(doc, 1, 'fly_in', frames)
  expect(formats(doc)).toEqual(['popup', 'fly_in'])
  expect(sitsAs(doc, doc.split.variants[1].design).phone_format).toBe('bar')
  refit(doc, 'sheet', frames)
  expect(formats(doc)).toEqual(['sheet', 'fly_in'])
  expect(widths(doc)).toEqual([frames.sheet.width, frames.fly_in.width])
  refit(doc, 'popup', frames)
  refitOne(doc, 1, undefined, frames)
  expect(formats(doc)).toEqual(['popup', 'popup'])
  expect(doc.split.variants[1].phone_format).toBeUndefined()
  expect(widths(doc)).toEqual(widths(before))
})

test('its phones have the same format at most once', () => {
  const doc = two('popup')
  doc.phone_format = 'bar'
  refitOne(doc, 1, 'bar', frames)
  expect(sitsAs(doc, doc.split.variants[1].design)).toEqual({ format: 'bar', phone_format: undefined })
})

test('what stands in the page and what lies over it are not mixed', () => {
  const doc = two('popup')
  refitOne(doc, 1, 'fly_in', frames)
  refit(doc, 'inline', frames)
  expect(formats(doc)).toEqual(['inline', 'inline'])
  expect(doc.split.variants[1].format).toBeUndefined()
  expect(widths(doc)).toEqual([frames.inline.width, frames.inline.width])
})

test('what is changed while one variant is edited is that variant’s', () => {
  const doc = two('popup')
  refitVariant(doc, 1, 'fly_in', frames)
  expect([formats(doc), doc.format, widths(doc)]).toEqual([['popup', 'fly_in'], 'popup', [frames.popup.width, frames.fly_in.width]])
  refitPhones(doc, 0, 'bar')
  expect(doc.split.variants.map(v => sitsAs(doc, v.design).phone_format)).toEqual(['bar', undefined])
  // The first too leaves the others as they are.
  refitVariant(doc, 0, 'sheet', frames)
  expect(formats(doc)).toEqual(['sheet', 'fly_in'])
})

test('variants that sit alike sit as the piece does', () => {
  const doc = two('popup')
  const before = structuredClone(doc)
  refitVariant(doc, 1, 'fly_in', frames)
  refitVariant(doc, 1, 'popup', frames)
  expect(doc).toEqual(before)
  refitVariant(doc, 0, 'bar', frames)
  refitVariant(doc, 1, 'bar', frames)
  expect([doc.format, doc.split.variants.map(v => v.format)]).toEqual(['bar', [undefined, undefined]])
  refitPhones(doc, 1, 'popup')
  refitAsOne(doc, 1, frames)
  expect([doc.phone_format, doc.split.variants.map(v => v.phone_format)]).toEqual(['popup', [undefined, undefined]])
  refitVariant(doc, 0, 'sheet', frames)
  refitAsOne(doc, 0, frames)
  expect([doc.format, formats(doc)]).toEqual(['sheet', ['sheet', 'sheet']])
})

test('a piece of one variant, or one that stands in the page, changes as a whole', () => {
  const one = two('popup')
  one.split.variants.pop()
  refitVariant(one, 0, 'bar', frames)
  expect([one.format, one.split.variants[0].format]).toEqual(['bar', undefined])
  const doc = two('popup')
  refitVariant(doc, 1, 'inline', frames)
  expect([doc.format, formats(doc)]).toEqual(['inline', ['inline', 'inline']])
  refitVariant(doc, 1, 'popup', frames)
  expect([doc.format, formats(doc)]).toEqual(['popup', ['popup', 'popup']])
})
