// The fixed words of pieces, in the language of the page. English is said where it
// is needed; a table of another language, or of a site's own words, comes with the
// answer that a piece may show.

export type Words = Record<string, string>

/** Says a word by its key, with what is put in for the names in it; english is what it is without a table. */
export type Say = (key: string, english: string, values?: Record<string, string | number>) => string

const put = (text: string, values: Record<string, string | number> = {}) => text.replace(/\{(\w+)\}/g, (all, name) => String(values[name] ?? all))

export const sayIn =
  (table: Words = {}): Say =>
  (key, english, values) =>
    put(table[key] ?? english, values)

/** Words without their looks. */
export const plain = (words: string | { text: string }[]) => (typeof words === 'string' ? words : words.map(s => s.text).join(''))

/** A language that Intl knows; undefined where the page says what is none. */
export function known(language?: string): string | undefined {
  try {
    return Intl.getCanonicalLocales(language || [])[0]
  } catch {
    return undefined
  }
}
