import { expect, test } from 'vitest'
import type { Drawing, Format, Frame } from '../kinds/piece'
import { inFormat } from '../studio/design/formats'
import { contrast } from '../studio/parts/forms/contrast'
import twins from './twins.json'

// What the studio computes itself, to answer at once, held to what the core
// makes of the same.

test('contrast is the core’s', () => {
  expect(twins.contrast.length).toBeGreaterThan(100)
  for (const { a, b, ratio } of twins.contrast) expect(contrast(a, b), `${a} on ${b}`).toBeCloseTo(ratio, 9)
})

test('a frame put into another format is the core’s', () => {
  expect(twins.refit.length).toBeGreaterThan(40)
  for (const c of twins.refit) {
    const drawing = { format: c.from, frame: c.before, scenes: [] } as unknown as Drawing
    const { frame } = inFormat(drawing, c.to as Format, twins.frames as unknown as Record<Format, Frame>)
    expect(JSON.parse(JSON.stringify(frame)), `${c.template} as ${c.to}`).toEqual(c.after)
  }
})
