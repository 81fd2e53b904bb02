/**
 * Fills merge fields in: {name}, {email} or any other answer's key, and
 * {first name}, the first word of the name. {first name|friend} says what
 * stands there without an answer; a field that nobody answered leaves nothing,
 * and no space before the mark that follows it.
 */
export function fill(text: string, answers: Record<string, string>): string {
  return text.replace(/(,?\s*)\{([^{}|]{1,40})(?:\|([^{}]{0,80}))?\}/g, (_, before: string, field: string, otherwise?: string) => {
    const key = field.trim().toLowerCase()
    const name = key === 'first name' ? 'name' : key.replaceAll(' ', '_')
    const given = Object.hasOwn(answers, name) ? answers[name].trim() : ''
    const answer = key === 'first name' ? given.split(/\s+/)[0] : given
    const words = answer || otherwise
    return words ? before + words : ''
  })
}
