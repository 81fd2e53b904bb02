import type { Clause, Fact, Op, OpsByKind, Rule } from './kinds'

// Small truths about rules that the builder needs; what a rule means is the
// core's to say.

export const isClause = (rule: Rule): rule is Clause => 'fact' in rule

/** The declaration a clause's fact belongs to: itself, or its family. */
export const declared = (facts: Fact[], name: string): Fact | undefined => facts.find(f => (f.name.endsWith('.') ? name.startsWith(f.name) : f.name === name))

/** A condition to start from when a fact is picked. */
export function begin(fact: Fact, name = fact.name): Clause {
  const clause = (op: Op, value?: unknown): Clause => (value === undefined ? { fact: name, op } : { fact: name, op, value })
  switch (fact.kind) {
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
  if (fact.name.endsWith('.')) return clause('present')
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

export const opsOf = (ops: OpsByKind, fact: Fact): Op[] => ops[fact.kind]

export const opWords: Record<Op, string> = {
  is: 'is',
  is_not: 'is not',
  contains: 'contains',
  contains_not: 'does not contain',
  starts_with: 'starts with',
  ends_with: 'ends with',
  like: 'is like',
  matches: 'matches',
  in: 'is one of',
  not_in: 'is none of',
  present: 'is known',
  absent: 'is not known',
  eq: 'is',
  ne: 'is not',
  lt: 'is below',
  lte: 'is at most',
  gt: 'is above',
  gte: 'is at least',
  between: 'is between',
  happened: 'happens',
}

/** The path a rule names first, to be looked at on a page it is for. */
export function pathOf(rule: Rule): string {
  if ('all' in rule || 'any' in rule) {
    for (const part of 'all' in rule ? rule.all : rule.any) {
      const path = pathOf(part)
      if (path !== '/') return path
    }
    return '/'
  }
  if ('not' in rule) return '/'
  return rule.fact === 'page.path' && ['is', 'starts_with'].includes(rule.op) && typeof rule.value === 'string' && rule.value.startsWith('/') ? rule.value : '/'
}
