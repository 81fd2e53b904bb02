import { expect, test } from 'vitest'
import type { Rule } from '../kinds/reach'
import { reachLine } from '../studio/piece/reachLine'

const one: Rule = { fact: 'page.path', op: 'is', value: '/shop' }
const noon = Date.parse('2026-12-01T12:00:00Z')

test('the line of Reach says of how many days its number is', () => {
  const rehearsal = { page_views: 12_945, visitors_shown: 1633, days: 28, since: null }
  for (const [rule, given, want] of [
    [one, rehearsal, '1,633 visitors / 28 d'],
    [one, { ...rehearsal, visitors_shown: 563, since: '2026-11-22T09:28:09Z' }, '563 visitors / 9 d'],
    [one, { ...rehearsal, since: '2026-11-01T09:28:09Z' }, '1,633 visitors / 28 d'],
    [one, { ...rehearsal, visitors_shown: 1, since: '2026-12-01T11:50:00Z' }, '1 visitor / 1 d'],
    [one, { ...rehearsal, page_views: 0 }, '1 condition'],
    [{ all: [one, { any: [one, { not: one }] }] }, undefined, '3 conditions'],
    [{ all: [] }, undefined, 'everyone, on arrival'],
  ] as const)
    expect(reachLine(rule as Rule, given, noon)).toBe(want)
})
