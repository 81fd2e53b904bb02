import { readdirSync, readFileSync } from 'node:fs'
import { expect, test } from 'vitest'
import { plainNumber } from '../page/numbers'
import { known, sayIn } from '../page/words'

// The fixed words of pieces, and numbers as languages write them.

const tables = new URL('../../core/words/tables/', import.meta.url)
const table = (lang: string): Record<string, string> =>
  Object.fromEntries(
    readFileSync(new URL(`${lang}.txt`, tables), 'utf8')
      .trim()
      .split('\n')
      .map(line => line.split(/: (.*)/s).slice(0, 2)),
  )

test('what the script says in English is what the tables have, and every word it says is in them', () => {
  const page = new URL('../page/', import.meta.url)
  const sources = readdirSync(page).map(name => readFileSync(new URL(name, page), 'utf8'))
  const said = sources.flatMap(s => [...s.matchAll(/\bsay\(\s*'(\w+)',\s*'((?:[^'\\]|\\.)*)'/g)].map(m => [m[1], m[2].replaceAll("\\'", "'")]))
  const english = table('en')
  expect(new Set(said.map(([key]) => key)).size).toBeGreaterThan(30)
  for (const [key, words] of said) expect(words, key).toBe(english[key])
})

test('the plural forms are those that the language has', () => {
  for (const file of readdirSync(tables)) {
    const lang = file.slice(0, -4)
    const { votes } = table(lang)
    const forms = votes.split('|').map(form => form.split('=')[0])
    const has = new Intl.PluralRules(lang).resolvedOptions().pluralCategories
    // What a language counts in no whole number needs no form of its own.
    const met = new Set(Array.from({ length: 1_000_001 }, (_, n) => n).filter(n => n < 300 || n % 1000 === 0).map(n => new Intl.PluralRules(lang).select(n)))
    for (const category of met) expect(forms, `${lang}: ${votes}`).toContain(category)
    for (const form of forms) expect(has, `${lang}: ${form}`).toContain(form)
  }
}, 60_000)

test('what is put into words is put in, and what nobody gives stays', () => {
  const say = sayIn({ of: '{n} von {all}' })
  expect(say('of', '{n} of {all}', { n: 1, all: 4 })).toBe('1 von 4')
  expect(say('won', 'You have won: {prize}.', { prize: '{n} $& mugs' })).toBe('You have won: {n} $& mugs.')
  expect(say('none', 'As {it} is')).toBe('As {it} is')
})

test.each<[string | undefined, string, string]>([
  ['en', '2.5', '2.5'],
  ['en', '1,234.5', '1234.5'],
  ['en', '1,234', '1234'],
  ['en', '2,5', '2.5'],
  ['de', '2,5', '2.5'],
  ['de', '1.234,5', '1234.5'],
  ['de', '1.234', '1234'],
  ['de', '2.5', '2.5'],
  ['de', '-2,5', '-2.5'],
  ['fr', '1 234,5', '1234.5'],
  ['fr', '1\u202f234', '1234'],
  ['de-CH', "1'234.5", '1234.5'],
  ['ar-EG', '٢٫٥', '2.5'],
  ['ar-EG', '١٢٣', '123'],
  ['fa', '۱۲۳', '123'],
  ['pt', '0,75', '0.75'],
  [undefined, ' 7 ', '7'],
  ['de', '−3', '-3'],
  ['de', 'viel', 'viel'],
  ['de', '1,2,3', '1,2,3'],
  ['de', '', ''],
  ['en', '1e5', '1e5'],
])('a number typed in %s: %s', (language, typed, plain) => {
  expect(plainNumber(typed, language)).toBe(plain)
})

test('a number that a language writes is read again', () => {
  for (const lang of ['en', 'de', 'fr', 'es', 'pl', 'hu', 'sv', 'tr', 'ar', 'he', 'ja', 'hi', 'de-CH', 'en-IN'])
    for (const n of [0, 7, 1234.5, 98765.25, 0.125, 123456])
      expect(Number(plainNumber(new Intl.NumberFormat(lang, { maximumFractionDigits: 3 }).format(n), lang)), `${lang} ${n}`).toBe(n)
})

test('a language that is none is none', () => {
  expect([known('de-AT'), known('not a language'), known(''), known(undefined)]).toEqual(['de-AT', undefined, undefined, undefined])
})
