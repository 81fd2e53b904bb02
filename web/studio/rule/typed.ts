import { opWords, opWordsNot } from '../../kinds/ops'
import type { Clause, Fact, Op, OpsByKind, Rule } from './kinds'
import { begin } from './rules'

// Conditions typed as a sentence: “scroll at least 50”, “visits ≥ 3”, “weekday
// is Monday to Friday”, “time of day between 9 and 17:30”.

/** Names by which people call a fact, beside its own. */
const aliases: Record<string, string> = {
  path: 'page.path',
  page: 'page.path',
  url: 'page.url',
  'scroll depth': 'moment.scroll_percent',
  visits: 'visitor.visits',
  visit: 'visitor.visits',
  pages: 'visitor.pages_this_visit',
  'pages this visit': 'visitor.pages_this_visit',
  'pages of the visit': 'visitor.pages_this_visit',
  'page views this visit': 'visitor.pages_this_visit',
  'exit intent': 'moment.exit_intent',
  leaving: 'moment.exit_intent',
  time: 'clock.time',
  day: 'clock.weekday',
  weekdays: 'clock.weekday',
  source: 'source.channel',
  language: 'device.language',
  idle: 'moment.idle_seconds',
}

/** How comparisons are written, the longer first where one begins another. */
const written: [string, Op, not?: true][] = (
  [
    ...Object.entries(opWords).map(([op, words]) => [words, op as Op]),
    ...Object.entries(opWordsNot).map(([op, words]) => [words, op as Op, true]),
    ['at least', 'gte'],
    ['at most', 'lte'],
    ['reaches', 'gte'],
    ['from', 'between'],
    ['between', 'between'],
    ['not between', 'between', true],
    ['is more than', 'gt'],
    ['more than', 'gt'],
    ['is over', 'gt'],
    ['over', 'gt'],
    ['above', 'gt'],
    ['is less than', 'lt'],
    ['less than', 'lt'],
    ['is under', 'lt'],
    ['under', 'lt'],
    ['below', 'lt'],
    ['≥', 'gte'],
    ['>=', 'gte'],
    ['=>', 'gte'],
    ['≤', 'lte'],
    ['<=', 'lte'],
    ['=<', 'lte'],
    ['>', 'gt'],
    ['<', 'lt'],
    ['≠', 'ne'],
    ['!=', 'ne'],
    ['<>', 'ne'],
    ['==', 'eq'],
    ['=', 'eq'],
    ['equals', 'eq'],
    ['is equal to', 'eq'],
    ['begins with', 'starts_with'],
    ['includes', 'contains'],
    ['not one of', 'not_in'],
    ['is not one of', 'not_in'],
    ['one of', 'in'],
  ] as [string, Op, true?][]
).sort((a, b) => b[0].length - a[0].length)

/** What a comparison of numbers is of texts, and the other way round. */
const kin: Partial<Record<Op, Op>> = { eq: 'is', ne: 'is_not', is: 'eq', is_not: 'ne' }

/** Reads a number in the ways people write one: 1,000 · 2.5 · 50 % · 30 s · 2 minutes · at least 3; with the comparison where it has one. */
export function amountIn(text: string, unit = ''): { n: number; op?: Op } | null {
  const m = /^\s*(at least|at most|more than|less than|over|under|above|below|≥|>=|≤|<=|>|<|=)?\s*(-?[\d\s,.]*\d)\s*(\+|or more|or less|\p{L}+|%)?\s*$/iu.exec(
    text,
  )
  if (!m) return null
  const plain = m[2].replace(/\s/g, '')
  // Commas between thousands are left out; one elsewhere is a decimal point.
  const n = Number(/^-?\d{1,3}(,\d{3})+(\.\d+)?$/.test(plain) ? plain.replaceAll(',', '') : plain.replace(',', '.'))
  if (!Number.isFinite(n)) return null
  const after = m[3]?.toLowerCase() ?? ''
  const op = m[1]
    ? written.find(([words]) => words === m[1].toLowerCase())?.[1]
    : after === '+' || after === 'or more'
      ? 'gte'
      : after === 'or less'
        ? 'lte'
        : undefined
  const times = unit === 's' ? (/^min/.test(after) || after === 'm' ? 60 : /^h/.test(after) ? 3600 : 1) : 1
  return { n: n * times, op }
}

/** Minutes since midnight from 9, 9:30, 09.30, 9 am, 5pm; null for anything else. */
export function clockIn(text: string): number | null {
  const m = /^\s*(\d{1,2})(?:[:.h](\d{2}))?\s*(am|pm)?(?:\s*o.clock)?\s*$/i.exec(text)
  if (!m) return null
  const hour = m[3] ? (Number(m[1]) % 12) + (m[3].toLowerCase() === 'pm' ? 12 : 0) : Number(m[1])
  const minutes = hour * 60 + Number(m[2] ?? 0)
  return minutes <= 24 * 60 && Number(m[2] ?? 0) < 60 ? minutes : null
}

/** A value by what people call it. */
function valueIn(fact: Fact, text: string): string {
  const said = text.trim().toLowerCase()
  const named = Object.entries(fact.names ?? {}).find(
    ([key, name]) => key === said || name.toLowerCase() === said || name.toLowerCase() === said.replace(/s$/, ''),
  )
  return named?.[0] ?? fact.values?.find(v => v.toLowerCase() === said) ?? text.trim()
}

/** Several values; “Monday to Friday” of a set is all between. */
function valuesIn(fact: Fact, text: string): string[] {
  return text
    .split(/\s*(?:,|\bor\b|\band\b)\s*/)
    .filter(Boolean)
    .flatMap(part => {
      const [from, to] = part.split(/\s*(?:\bto\b|–|—)\s*/).map(v => fact.values?.indexOf(valueIn(fact, v)) ?? -1)
      return from >= 0 && to >= from ? fact.values!.slice(from, to + 1) : valueIn(fact, part)
    })
}

/** Reads a condition that was typed as a sentence; null where it is not one. */
export function typed(text: string, facts: Fact[], ops: OpsByKind): Rule | null {
  const said = text.trim().replace(/\s+/g, ' ')
  const lower = said.toLowerCase()
  const starts = (words: string) => lower === words || (lower.startsWith(words) && !/[\p{L}\d]/u.test(lower[words.length]))
  const known = [
    ...facts.flatMap(f =>
      f.name.endsWith('.') ? [] : [f.says, f.name, f.name.replaceAll(/[._]/g, ' ')].map(words => ({ f, words: words.replace(' {}', '').toLowerCase() })),
    ),
    ...Object.entries(aliases).map(([words, name]) => ({ f: facts.find(f => f.name === name)!, words })),
  ]
    .filter(k => starts(k.words))
    .sort((a, b) => b.words.length - a.words.length)[0]
  if (!known) return null
  const { f } = known
  const rest = said.slice(known.words.length).trim()
  if (f.kind === 'flag' || f.name === 'moment.exit_intent') return rest ? null : begin(f)
  const allowed = (op: Op) => (ops[f.kind].includes(op) ? op : kin[op] && ops[f.kind].includes(kin[op]) ? kin[op] : null)
  for (const [words, meant, not] of written) {
    const op = allowed(f.kind === 'counted' && (meant === 'gt' || meant === 'eq') ? 'gte' : meant)
    if (!op || !rest.toLowerCase().startsWith(words) || (/\p{L}$/u.test(words) && /\p{L}/u.test(rest[words.length] ?? ' '))) continue
    const clause = compared(f, op, rest.slice(words.length).trim())
    if (clause) return not ? { not: clause } : clause
  }
  // “visits 3”, “scroll 50 %”, “visits 3 or more”, “time of day 9 to 17”.
  if (f.kind === 'number' || f.kind === 'counted') {
    const range = compared(f, 'between', rest)
    if (range && f.kind === 'number') return range
    const amount = amountIn(rest, f.unit)
    return amount && compared(f, allowed(amount.op ?? 'gte') ?? 'gte', String(amount.n))
  }
  return null
}

function compared(f: Fact, op: Op, value: string): Clause | null {
  if (op === 'present' || op === 'absent') return value ? null : { fact: f.name, op }
  if (!value) return null
  const number = (text: string) => (f.unit === 'hh:mm' ? clockIn(text) : (amountIn(text, f.unit)?.n ?? null))
  if (op === 'between') {
    const [low, high] = value.split(/\s*(?:\band\b|\bto\b|–|—)\s*/).map(number)
    return typeof low === 'number' && typeof high === 'number' ? { fact: f.name, op, value: [low, high] } : null
  }
  if (op === 'in' || op === 'not_in') return { fact: f.name, op, value: valuesIn(f, value) }
  if (f.kind === 'number' || f.kind === 'counted') {
    const n = number(value)
    return n === null ? null : { fact: f.name, op, value: n }
  }
  const several = f.values ? valuesIn(f, value) : []
  if (several.length > 1 && (op === 'is' || op === 'is_not')) return { fact: f.name, op: op === 'is' ? 'in' : 'not_in', value: several }
  return { fact: f.name, op, value: valueIn(f, value) }
}
