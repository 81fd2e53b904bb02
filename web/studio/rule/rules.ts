import { opWords, opWordsNot } from '../../kinds/ops'
import type { Clause, Fact, Op, OpsByKind, Rule } from './kinds'

export type Group = { all: Rule[] } | { any: Rule[] }

// Small truths about rules that the builder needs; what a rule means is the
// core's to say.

export const isClause = (rule: Rule): rule is Clause => 'fact' in rule
export const isGroup = (rule: Rule): rule is Group => 'all' in rule || 'any' in rule
export const partsOf = (rule: Group): Rule[] => ('all' in rule ? rule.all : rule.any)
export const keyOf = (rule: Group) => ('all' in rule ? 'all' : 'any')
export const groupOf = (key: 'all' | 'any', parts: Rule[]): Group => (key === 'all' ? { all: parts } : { any: parts })

/** The rule as the builder holds it: always a group at the root. */
export const rooted = (rule: Rule): Group => (isGroup(rule) ? rule : { all: [rule] })

/** The steps of a place such as all[1].not.any[0]. */
const steps = (at: string) => [...at.matchAll(/(all|any)\[(\d+)\]|(not)/g)].map(m => (m[3] ? ('not' as const) : Number(m[2])))

/** What is at a place, from the rule's root. */
export function ruleAt(rule: Rule, at: string): Rule | undefined {
  let here: Rule | undefined = rule
  for (const step of steps(at)) {
    if (!here) return undefined
    here = step === 'not' ? ('not' in here ? here.not : undefined) : isGroup(here) ? partsOf(here)[step] : undefined
  }
  return here
}

/** The rule with what is at a place changed; null takes it out, and a “not” around it too. */
export function putAt(rule: Rule, at: string, change: (before: Rule) => Rule | null): Rule {
  const put = (here: Rule, left: (number | 'not')[]): Rule | null => {
    const [step, ...rest] = left
    if (step === undefined) return change(here)
    if (step === 'not') {
      const inner = 'not' in here ? put(here.not, rest) : here
      return inner && { not: inner }
    }
    if (!isGroup(here)) return here
    return groupOf(
      keyOf(here),
      partsOf(here).flatMap((part, i) => (i === step ? (put(part, rest) ?? []) : part)),
    )
  }
  return put(rule, steps(at)) ?? { all: [] }
}

/** The rule with a part put into a group, before its i-th. */
export const insertAt = (rule: Rule, group: string, i: number, part: Rule): Rule =>
  putAt(rule, group, g => (isGroup(g) ? groupOf(keyOf(g), partsOf(g).toSpliced(i, 0, part)) : g))

/** The rule with a part taken from one place and put back by place; as it was where there is nothing to take. */
function relocate(rule: Rule, from: string, place: (rule: Rule, part: Rule) => Rule): Rule {
  const part = ruleAt(rule, from)
  if (!part) return rule
  // A hole keeps every other place where it was until the part is back.
  const hole: Rule = { any: [] }
  const drop = (r: Rule): Rule => {
    if ('not' in r) return { not: drop(r.not) }
    if (!isGroup(r)) return r
    const left = partsOf(r)
      .filter(p => p !== hole)
      .map(drop)
    return groupOf(keyOf(r), left)
  }
  return drop(
    place(
      putAt(rule, from, () => hole),
      part,
    ),
  )
}

const within = (at: string, around: string) => at === around || at.startsWith(around + '.')

/** The rule with a part moved into a group, before its i-th; as it was where that would put a group into itself. */
export const moveAt = (rule: Rule, from: string, group: string, i: number): Rule =>
  within(group, from) ? rule : relocate(rule, from, (r, part) => insertAt(r, group, i, part))

/** The rule with a part put beside another, in a group of the other kind than the one they are in. */
export const joinAt = (rule: Rule, from: string, onto: string): Rule => {
  const around = ruleAt(rule, placeIn(onto).group)
  if (within(onto, from) || !around || !isGroup(around)) return rule
  return relocate(rule, from, (r, part) => putAt(r, onto, there => groupOf(keyOf(around) === 'all' ? 'any' : 'all', [there, part])))
}

/** The rule with one join changed: a line and the one before it in a group of the other kind, and all others as they were. */
export const rejoinAt = (rule: Rule, at: string): Rule => {
  const { group, i } = placeIn(at)
  const around = ruleAt(rule, group)
  if (!around || !isGroup(around) || i === 0) return rule
  const other = keyOf(around) === 'all' ? 'any' : 'all'
  const parts = partsOf(around)
  if (parts.length === 2) return putAt(rule, group, () => groupOf(other, parts))
  // What is such a group already takes the other in.
  const flat = (part: Rule) => (isGroup(part) && keyOf(part) === other ? partsOf(part) : [part])
  return putAt(rule, group, () => groupOf(keyOf(around), parts.toSpliced(i - 1, 2, groupOf(other, [...flat(parts[i - 1]), ...flat(parts[i])]))))
}

/** The rule with saved reaches written out. */
export function writtenOut(rule: Rule, saved: { id: string; rule: Rule }[]): Rule {
  if ('saved' in rule) return saved.find(s => s.id === rule.saved)?.rule ?? rule
  if ('not' in rule) return { not: writtenOut(rule.not, saved) }
  if (isGroup(rule))
    return groupOf(
      keyOf(rule),
      partsOf(rule).map(p => writtenOut(p, saved)),
    )
  return rule
}

/** Where the group around a place is, and the place's number in it. */
export function placeIn(at: string): { group: string; i: number } {
  const m = /^(.*?)\.?(?:all|any)\[(\d+)\]$/.exec(at)
  return { group: m?.[1] ?? '', i: Number(m?.[2] ?? 0) }
}

/** Reads a rule that was copied; null for anything else. */
export function readCopied(text: string | null): Rule | null {
  try {
    const looks = (r: any): boolean =>
      !!r &&
      typeof r === 'object' &&
      (Array.isArray(r.all) ? r.all.every(looks) : Array.isArray(r.any) ? r.any.every(looks) : r.not ? looks(r.not) : typeof (r.saved ?? r.fact) === 'string')
    const rule = JSON.parse(text ?? '')
    return looks(rule) ? rule : null
  } catch {
    return null
  }
}

/** The declaration a clause's fact belongs to: itself, or its family. */
export const declared = (facts: Fact[], name: string): Fact | undefined => facts.find(f => (f.name.endsWith('.') ? name.startsWith(f.name) : f.name === name))

/** A condition to start from when a fact is picked; of the site's data, with the kind of value it was seen to have. */
export function begin(fact: Fact, name = fact.name, kind?: string): Clause {
  const clause = (op: Op, value?: unknown): Clause => (value === undefined ? { fact: name, op } : { fact: name, op, value })
  switch (kind || fact.kind) {
    case 'counted':
      return clause('gte', Number(fact.example ?? 1))
    case 'happening':
      return clause('happened', fact.name === 'moment.exit_intent' ? undefined : fact.example)
    case 'number':
      return clause('gte', Number(fact.example ?? 1))
    case 'flag':
      return clause('is', true)
  }
  if (fact.values) return clause('is', fact.values[0])
  if (fact.name === 'page.path') return clause('starts_with', '/')
  if (fact.name.endsWith('.')) return kind === 'text' ? clause('is', '') : clause('present')
  return clause('contains', fact.example ?? '')
}

/** The value a clause keeps when its operator changes, or a fitting new one. */
export function valueFor(op: Op, before: unknown, fact: Fact): unknown {
  const first = Array.isArray(before) ? before[0] : before
  switch (op) {
    case 'present':
    case 'absent':
      return undefined
    case 'in':
    case 'not_in':
      return Array.isArray(before) ? before : [typeof first === 'string' ? first : (fact.values?.[0] ?? '')]
    case 'between': {
      const low = typeof first === 'number' ? first : 1
      return [low, low + 1]
    }
  }
  if (fact.kind === 'number' || fact.kind === 'counted') return typeof first === 'number' ? first : 1
  if (fact.kind === 'flag') return true
  return typeof first === 'string' ? first : (fact.values?.[0] ?? fact.example ?? '')
}

/** An operator as the list offers it: some have their opposite only as a “not” around the condition. */
export type Compared = Op | `not ${Op}`

export const comparedAs = (op: Op, negated: boolean): Compared => (negated && opWordsNot[op] ? `not ${op}` : op)

/** What a fact may be compared by, each beside its opposite. */
export const opsOf = (ops: OpsByKind, fact: Fact): Compared[] => ops[fact.kind].flatMap(op => (opWordsNot[op] ? [op, `not ${op}` as const] : op))

/** How a comparison is said. */
export const comparedWords = (as: Compared): string => (as.startsWith('not ') ? opWordsNot[as.slice(4) as Op]! : opWords[as as Op])

/** The path a rule names first, to be looked at on a page it is for. */
export function pathOf(rule: Rule): string {
  if ('all' in rule || 'any' in rule) {
    for (const part of 'all' in rule ? rule.all : rule.any) {
      const path = pathOf(part)
      if (path !== '/') return path
    }
    return '/'
  }
  if (!isClause(rule)) return '/'
  const path = Array.isArray(rule.value) ? rule.value[0] : rule.value
  return rule.fact === 'page.path' && ['is', 'in', 'starts_with'].includes(rule.op) && typeof path === 'string' && path.startsWith('/') ? path : '/'
}

/** Where the counts of a part are: a saved reach has those of what it stands for. */
export const countAt = (part: Rule, at: string) => ('saved' in part ? at + '.saved' : at)
