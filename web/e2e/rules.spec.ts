import { execFileSync } from 'node:child_process'
import { expect, test } from '@playwright/test'
import type { Rule } from '../kinds/reach'
import { fill } from '../page/fill'
import { holds, type Moments } from '../page/watch'

// The page judges moments in TypeScript and the core in Go: on the same rules
// and the same moments both must say the same.

function random(seed: number) {
  let state = seed
  return (n: number) => {
    state = (Math.imul(state, 1664525) + 1013904223) >>> 0
    return Math.floor((state / 2 ** 32) * n)
  }
}

function rule(r: (n: number) => number, depth: number): Rule {
  if (depth === 0 || r(3) === 0) {
    switch (r(4)) {
      case 0:
        return { fact: 'moment.scroll_percent', op: 'gte', value: r(5) * 25 }
      case 1:
        return { fact: 'moment.seconds_on_page', op: 'gte', value: r(40) }
      case 2:
        return r(2) ? { fact: 'moment.click', op: 'happened', value: '#a' } : { fact: 'moment.click', op: 'happened' }
      default:
        return { fact: 'moment.exit_intent', op: 'happened' }
    }
  }
  const parts = Array.from({ length: r(4) }, () => rule(r, depth - 1))
  return [{ all: parts }, { any: parts }, { not: rule(r, depth - 1) }][r(3)] as Rule
}

test('the page and the core judge moments alike', () => {
  const r = random(7)
  const cases = Array.from({ length: 4000 }, () => {
    const come: Moments = {
      'moment.scroll_percent': r(101),
      'moment.seconds_on_page': r(40),
      'moment.exit_intent': r(2) === 1,
      'moment.click': [[], ['#a'], ['#b']][r(3)],
    }
    return { rule: rule(r, 4), facts: come }
  })
  const said = execFileSync('../bin/gobbet', ['try'], { input: cases.map(c => JSON.stringify(c)).join('\n'), maxBuffer: 1 << 28 })
  const verdicts = said
    .toString()
    .trim()
    .split('\n')
    .map(line => JSON.parse(line).verdict)
  expect(verdicts).toHaveLength(cases.length)
  const yes = verdicts.filter(v => v === 'yes').length
  expect(yes).toBeGreaterThan(500)
  expect(yes).toBeLessThan(3500)
  for (const [i, c] of cases.entries()) expect(holds(c.rule, c.facts) ? 'yes' : 'no', JSON.stringify(c)).toBe(verdicts[i])
})

test('merge fields', () => {
  for (const [text, answers, want] of [
    ['Thank you, {first name}!', { name: 'Orla Moss' }, 'Thank you, Orla!'],
    ['Thank you, {first name}!', {}, 'Thank you!'],
    ['Thank you, {first name|friend}', { name: '  ' }, 'Thank you, friend'],
    ['{name} at {email}', { name: 'A B', email: 'a@example.com' }, 'A B at a@example.com'],
    ['{Your plan}', { your_plan: 'x' }, 'x'],
    ['{}{{name}}', { name: 'x' }, '{}{x}'],
    ['{constructor}', {}, ''],
  ] as const)
    expect(fill(text, answers)).toBe(want)
})
