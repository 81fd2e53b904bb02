/**
 * A number as a person types it, in the way of a language, as programs write it:
 * 1.234,5 and 2,5 on a German page, 1 234,5 on a French one, digits of other scripts.
 * What is no number stays as it is.
 */
export function plainNumber(typed: string, language?: string): string {
  const parts = new Intl.NumberFormat(language).formatToParts(-12345.6)
  const is = (type: string) => parts.find(p => p.type === type)?.value ?? ''
  const digits = new Intl.NumberFormat(language, { useGrouping: false }).format(9876543210)
  let text = typed.trim().replace(/[\u2212\u2013]/g, '-')
  if ([...digits].length === 10) for (const [i, d] of [...digits].reverse().entries()) text = text.replaceAll(d, String(i))
  // Spaces and apostrophes only ever divide.
  text = text.replace(/[\s\u00a0\u202f\u066c'’]/g, '').replace(/\u066b/g, '.')
  const [decimal, group] = [is('decimal'), is('group')]
  // A point that divides thousands has three digits after it; any other is a decimal one.
  const divides = group && new RegExp(`^-?\\d{1,3}(\\${group}\\d{2,3})*\\${group}\\d{3}(\\${decimal}\\d*)?$`)
  if (divides && /[.,]/.test(group) && divides.test(text)) text = text.replaceAll(group, '')
  if (decimal === ',' || !text.includes('.')) text = text.replace(',', '.')
  return /^[+-]?(\d+\.?\d*|\.\d+)$/.test(text) ? text : typed
}
