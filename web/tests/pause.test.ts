import { expect, test } from 'vitest'
import { usualEnd, usualStart, weekend } from '../studio/board/pauseTimes'

test.each([
  ['2026-12-01T09:30', '2026-12-01T18:00', '2026-12-02T09:00'],
  ['2026-12-01T17:59', '2026-12-01T18:00', '2026-12-02T09:00'],
  ['2026-12-01T18:00', '2026-12-02T18:00', '2026-12-03T09:00'],
  ['2026-12-31T23:59', '2027-01-01T18:00', '2027-01-02T09:00'],
  ['2027-03-27T20:00', '2027-03-28T18:00', '2027-03-29T09:00'],
])('planned at %s, a pause begins at six and ends the morning after it began', (now, start, end) => {
  expect(usualStart(now)).toBe(start)
  expect(usualEnd(start, now)).toBe(end)
})

test('one that begins now ends the next morning, and so does one whose start is not typed yet', () => {
  expect(usualEnd('2026-12-01T21:10', '2026-12-01T21:10')).toBe('2026-12-02T09:00')
  expect(usualEnd('', '2026-12-01T21:10')).toBe('2026-12-02T09:00')
})

test.each([
  ['2026-12-02T10:00', '2026-12-04T18:00', '2026-12-07T09:00'],
  ['2026-12-04T17:59', '2026-12-04T18:00', '2026-12-07T09:00'],
  ['2026-12-04T18:00', '2026-12-11T18:00', '2026-12-14T09:00'],
  ['2026-12-06T12:00', '2026-12-11T18:00', '2026-12-14T09:00'],
  ['2026-12-31T20:00', '2027-01-01T18:00', '2027-01-04T09:00'],
])('seen from %s the weekend that comes is from %s to %s', (now, from, until) => {
  expect(weekend(now)).toEqual({ from, until })
})
