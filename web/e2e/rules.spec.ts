import { execFileSync } from 'node:child_process'
import { expect, test } from '@playwright/test'
import type { Rule } from '../kinds/reach'
import { fill } from '../page/fill'
import { holds, type Moments } from '../page/watch'
import { type Random, random, randomRule } from '../tests/random'

// The page judges moments in TypeScript and the core in Go: on the same rules
// and the same moments both must say the same.

const clauses = [
  (r: Random): Rule => ({ fact: 'moment.scroll_percent', op: 'gte', value: r(5) * 25 }),
  (r: Random): Rule => ({ fact: 'moment.seconds_on_page', op: 'gte', value: r(40) }),
  (r: Random): Rule => (r(2) ? { fact: 'moment.click', op: 'happened', value: '#a' } : { fact: 'moment.click', op: 'happened' }),
  (): Rule => ({ fact: 'moment.exit_intent', op: 'happened' }),
]

test('the page and the core judge moments alike', () => {
  const r = random(7)
  const cases = Array.from({ length: 4000 }, () => {
    const come: Moments = {
      'moment.scroll_percent': r(101),
      'moment.seconds_on_page': r(40),
      'moment.exit_intent': r(2) === 1,
      'moment.click': [[], ['#a'], ['#b']][r(3)],
    }
    return { rule: randomRule(r, 4, clauses), facts: come }
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
