import type { Drawing, Field, LiveFormula } from '../kinds/piece'
import { plainNumber } from './numbers'
import { flat } from './paint'
import { reckon, type Tree } from './reckon'

// Values that are computed from the answers: those the page computes itself,
// and those the server gave.

/** What an answer is, or stands for, in formulas. */
function numberOf(f: Field, given: string, language?: string): number | undefined {
  if (!given && f.required && f.ask !== 'consent') return undefined
  if (f.choices?.length) return f.choices.reduce((sum, c) => sum + (given.split('\n').includes(c.id) ? (c.score ?? 0) : 0), 0)
  if (f.ask === 'consent') return given === 'yes' ? 1 : 0
  return given.trim() === '' ? undefined : Number(plainNumber(given, language))
}

/** All values there are, by the names of formulas. */
export function valuesOf(drawing: Drawing, answers: Record<string, string>, given: Record<string, number>, language?: string): Record<string, number> {
  const live = (drawing.live ?? []).filter(f => f.tree !== undefined)
  if (!live.length) return given
  const fields = new Map(drawing.scenes.flatMap(s => flat(s.blocks).flatMap(b => (b.kind === 'field' ? [[b.key, b] as const] : []))))
  const values: Record<string, number> = { ...given }
  const open = new Set<string>()
  const of = (name: string): number | undefined => {
    const formula = live.find(f => f.name === name)
    if (formula) {
      // Formulas that use each other in a circle are refused when a piece is read.
      if (open.has(name)) return undefined
      open.add(name)
      const value = reckon(formula.tree as Tree, of)
      open.delete(name)
      return value
    }
    const [key, choice] = name.split('.')
    const f = fields.get(key)
    if (!f) return undefined
    const answer = answers[key] ?? ''
    if (choice) return answer.split('\n').includes(choice) ? 1 : 0
    return numberOf(f, answer, language)
  }
  for (const f of live) {
    const value = of(f.name)
    if (value === undefined) delete values[f.name]
    else values[f.name] = value
  }
  return values
}

/** A value as a language writes it. */
export function written(value: number, f: Pick<LiveFormula, 'style' | 'currency' | 'places'> = {}, language?: string): string {
  const digits = f.places === undefined ? {} : { minimumFractionDigits: f.places, maximumFractionDigits: f.places }
  const how: Intl.NumberFormatOptions =
    f.style === 'money'
      ? { style: 'currency', currency: f.currency, ...digits }
      : f.style === 'percent'
        ? { style: 'unit', unit: 'percent', maximumFractionDigits: 1, ...digits }
        : { maximumFractionDigits: 2, ...digits }
  return new Intl.NumberFormat(language, how).format(value)
}
