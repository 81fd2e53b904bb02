import { expect, test } from 'vitest'
import type { Clause, Fact, Rule } from '../kinds/reach'
import type { FactBook } from '../kinds/studio'
import { hint, middle, shareAt } from '../studio/rule/curve'
import { isGroup, joinAt, moveAt, opsOf, partsOf, placeIn, putAt, readCopied, rejoinAt, rooted, ruleAt, writtenOut } from '../studio/rule/rules'
import { typed } from '../studio/rule/typed'
import book from './facts.json'
import { type Random, random, randomRule } from './random'

// What the builder does to rules, without a browser: moving parts about loses
// none, and a typed sentence becomes the condition it says.

let n = 0
const clauses = [(): Rule => ({ fact: 'page.path', op: 'is', value: String(n++) })]

/** Every clause of a rule, in order. */
const values = (r: Rule): string[] =>
  isGroup(r) ? partsOf(r).flatMap(values) : 'not' in r ? values(r.not) : 'saved' in r ? [r.saved] : [String((r as Clause).value)]

/** Every place of a rule, the root first. */
const places = (r: Rule, at = ''): string[] => [
  at,
  ...(isGroup(r)
    ? partsOf(r).flatMap((p, i) => places(p, `${at && at + '.'}${'all' in r ? 'all' : 'any'}[${i}]`))
    : 'not' in r
      ? places(r.not, `${at && at + '.'}not`)
      : []),
]

test('moving, joining and taking out keep every other condition, once', () => {
  const r: Random = random(11)
  const wrong: string[] = []
  const same = (what: string, rule: Rule, got: string[], want: string[]) => {
    if (got.sort().join() !== want.sort().join()) wrong.push(`${what} in ${JSON.stringify(rule)}: ${got}, want ${want}`)
  }
  let moved = 0
  for (let round = 0; round < 3000; round++) {
    const rule = rooted(randomRule(r, 4, clauses))
    const all = places(rule).filter(p => p)
    if (!all.length) continue
    for (const at of all) if (!ruleAt(rule, at)) wrong.push(`${at} is not in ${JSON.stringify(rule)}`)
    const from = all[r(all.length)]
    if (from.endsWith('not')) continue // a line is taken with its “not”
    const before = values(rule)
    const groups = places(rule).filter(p => isGroup(ruleAt(rule, p)!))
    const group = groups[r(groups.length)]
    const after = moveAt(rule, from, group, r(partsOf(ruleAt(rule, group) as never).length + 1))
    same(`${from} moved to ${group}`, rule, values(after), before)
    if (JSON.stringify(after) !== JSON.stringify(rule)) moved++
    const onto = all[r(all.length)]
    if (!onto.endsWith('not')) same(`${from} onto ${onto}`, rule, values(joinAt(rule, from, onto)), before)
    const gone = values(ruleAt(rule, from)!)
    const left = before.filter(v => !gone.includes(v))
    same(`${from} taken out`, rule, values(putAt(rule, from, () => null)), left)
  }
  expect(wrong.slice(0, 3)).toEqual([])
  expect(moved).toBeGreaterThan(400)
})

test('a group is never moved into itself', () => {
  const inner: Rule = { any: [{ fact: 'page.path', op: 'is', value: 'a' }] }
  const rule: Rule = { all: [inner, { not: inner }] }
  expect(moveAt(rule, 'all[0]', 'all[0]', 0)).toBe(rule)
  expect(moveAt(rule, 'all[1]', 'all[1].not', 0)).toBe(rule)
  expect(joinAt(rule, 'all[0]', 'all[0].any[0]')).toBe(rule)
  expect(placeIn('all[1].not.any[3]')).toEqual({ group: 'all[1].not', i: 3 })
  expect(placeIn('all[2]')).toEqual({ group: '', i: 2 })
})

test('what is pasted is a rule, or nothing', () => {
  for (const text of ['{"fact":"page.path","op":"is","value":"/"}', '{"not":{"any":[]}}', '{"saved":"guests"}', '{"all":[{"saved":"a"}]}'])
    expect(readCopied(text)).toEqual(JSON.parse(text))
  for (const text of [null, '', 'hello', '7', 'null', '[]', '{"all":7}', '{"all":[{}]}', '{"not":[]}', '{"fact":7}', '{"any":[null]}'])
    expect(readCopied(text), String(text)).toBeNull()
})

test('saved reaches are written out', () => {
  const rule: Rule = { all: [{ not: { saved: 'a' } }, { any: [{ saved: 'gone' }] }] }
  const a: Rule = { fact: 'page.path', op: 'is', value: '/a' }
  expect(writtenOut(rule, [{ id: 'a', rule: a }])).toEqual({ all: [{ not: a }, { any: [{ saved: 'gone' }] }] })
})

test('a typed sentence becomes the condition it says', async () => {
  const facts = book.facts as Fact[]
  const ops = book.ops as FactBook['ops']
  for (const [text, clause] of [
    ['page starts with /shop', { fact: 'page.path', op: 'starts_with', value: '/shop' }],
    ['  Page Path  is  /Classes ', { fact: 'page.path', op: 'is', value: '/Classes' }],
    ['page.path matches ^/j', { fact: 'page.path', op: 'matches', value: '^/j' }],
    ['device is one of phone, tablet', { fact: 'device.kind', op: 'in', value: ['phone', 'tablet'] }],
    ['device is none of phone or tablet', { fact: 'device.kind', op: 'not_in', value: ['phone', 'tablet'] }],
    ['scroll reaches 40', { fact: 'moment.scroll_percent', op: 'gte', value: 40 }],
    ['time on page reaches 2.5 s', { fact: 'moment.seconds_on_page', op: 'gte', value: 2.5 }],
    ['number of visits is between 2 and 4', { fact: 'visitor.visits', op: 'between', value: [2, 4] }],
    ['number of visits is at least 3', { fact: 'visitor.visits', op: 'gte', value: 3 }],
    ['visitor is a lead', { fact: 'visitor.lead', op: 'is', value: true }],
    ['visitor shows exit intent', { fact: 'moment.exit_intent', op: 'happened' }],
    ['country is not known', { fact: 'place.country', op: 'absent' }],
    ['page title does not contain sale', { fact: 'page.title', op: 'contains_not', value: 'sale' }],
    ['visits ≥ 3', { fact: 'visitor.visits', op: 'gte', value: 3 }],
    ['visits >= 3', { fact: 'visitor.visits', op: 'gte', value: 3 }],
    ['visits at least 3', { fact: 'visitor.visits', op: 'gte', value: 3 }],
    ['visits 3 or more', { fact: 'visitor.visits', op: 'gte', value: 3 }],
    ['visits 3+', { fact: 'visitor.visits', op: 'gte', value: 3 }],
    ['visits > 3', { fact: 'visitor.visits', op: 'gt', value: 3 }],
    ['visits less than 1,000', { fact: 'visitor.visits', op: 'lt', value: 1000 }],
    ['visits = 2', { fact: 'visitor.visits', op: 'eq', value: 2 }],
    ['visits != 2', { fact: 'visitor.visits', op: 'ne', value: 2 }],
    ['visits 2 to 4', { fact: 'visitor.visits', op: 'between', value: [2, 4] }],
    ['scroll at least 50 %', { fact: 'moment.scroll_percent', op: 'gte', value: 50 }],
    ['scroll 50', { fact: 'moment.scroll_percent', op: 'gte', value: 50 }],
    ['scroll distance reaches 600 px', { fact: 'moment.scroll_pixels', op: 'gte', value: 600 }],
    ['time on page 2 minutes', { fact: 'moment.seconds_on_page', op: 'gte', value: 120 }],
    ['time on page ≥ 45 s', { fact: 'moment.seconds_on_page', op: 'gte', value: 45 }],
    ['time of day between 9 and 17:30', { fact: 'clock.time', op: 'between', value: [540, 1050] }],
    ['time between 9 am and 5pm', { fact: 'clock.time', op: 'between', value: [540, 1020] }],
    ['time of day is at least 08:05', { fact: 'clock.time', op: 'gte', value: 485 }],
    ['weekday is Monday', { fact: 'clock.weekday', op: 'is', value: 'mon' }],
    ['weekday is Monday to Friday', { fact: 'clock.weekday', op: 'in', value: ['mon', 'tue', 'wed', 'thu', 'fri'] }],
    ['weekday is not Sunday', { fact: 'clock.weekday', op: 'is_not', value: 'sun' }],
    ['page does not start with /shop', { not: { fact: 'page.path', op: 'starts_with', value: '/shop' } }],
    ['number of visits is not between 2 and 4', { not: { fact: 'visitor.visits', op: 'between', value: [2, 4] } }],
    ['device is not phone', { fact: 'device.kind', op: 'is_not', value: 'phone' }],
    ['leaving', { fact: 'moment.exit_intent', op: 'happened' }],
    ['time between noon and night', null],
    ['visits ≥ three', null],
    ['', null],
    ['page', null],
    ['page is', null],
    ['number of visits is at least many', null],
    ['visitor is a lead now', null],
    ['moon phase is full', null],
    ['constructor is x', null],
  ] as const)
    expect(typed(text, facts, ops), text).toEqual(clause)
})

test('a curve says who comes how far', () => {
  const curve = { shares: [1, 0.8, 0.5, 0.1], step: 10, says: String }
  expect([0, 5, 10, 11, 30, 31, 500].map(v => shareAt(curve, v))).toEqual([1, 0.8, 0.8, 0.5, 0.1, 0, 0])
  expect(middle(curve)).toBe(20)
  expect(hint('moment.scroll_percent', 20, curve)).toBe('5 in 10 get there')
  expect(hint('moment.idle_seconds', 500, curve)).toBe('nobody idle so long')
})

test('one join changes, and no other', () => {
  const c = (name: string): Clause => ({ fact: 'page.path', op: 'is', value: name })
  const [a, b, d] = ['/a', '/b', '/d'].map(c)
  expect(rejoinAt({ all: [a, b] }, 'all[1]')).toEqual({ any: [a, b] })
  expect(rejoinAt({ all: [a, b, d] }, 'all[2]')).toEqual({ all: [a, { any: [b, d] }] })
  expect(rejoinAt({ all: [a, { any: [b, d] }, a] }, 'all[2]')).toEqual({ all: [a, { any: [b, d, a] }] })
  expect(rejoinAt({ any: [a, { all: [b, d] }] }, 'any[1].all[1]')).toEqual({ any: [a, { any: [b, d] }] })
  // The first line has nothing before it to be joined to.
  expect(rejoinAt({ all: [a, b] }, 'all[0]')).toEqual({ all: [a, b] })
})

test('every comparison of the list has its opposite beside it', () => {
  const facts = book.facts as Fact[]
  const ops = book.ops as FactBook['ops']
  const opposite: Record<string, string> = { is: 'is_not', contains: 'contains_not', in: 'not_in', present: 'absent', eq: 'ne', lt: 'gte', gt: 'lte' }
  for (const f of facts) {
    if (f.kind === 'flag' || f.kind === 'counted' || f.kind === 'happening') continue
    const list = opsOf(ops, f)
    for (const op of list) {
      const other = opposite[op] ?? Object.entries(opposite).find(([, no]) => no === op)?.[0] ?? (op.startsWith('not ') ? op.slice(4) : `not ${op}`)
      expect(list, `${f.name} ${op}`).toContain(other)
    }
  }
})
