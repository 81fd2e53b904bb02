// Finding things by the words that people of the trade have for them, not only
// by those that stand there.

/** Words that one of is looked for when another is typed. */
const alike = [
  'email mail newsletter letter list signup sign-up sign subscribe subscriber lead optin opt-in',
  'coupon code codes discount voucher promo promotion offer sale deal off',
  'chatbot chat bot conversation talk messenger assistant',
  'survey questionnaire poll vote feedback ask nps satisfaction review',
  'quiz test finder match',
  'consent cookie cookies privacy gdpr permission agree',
  'social network feed channel source',
  'ad ads advert advertising paid campaign utm source',
  'cart basket bag checkout order shop',
  'exit leave leaving leaves abandon abandoning bounce',
  'wheel spin draw prize game win lucky scratch raffle',
  'calculator calculate cost price estimate quote saving savings',
  'popup pop-up modal overlay lightbox dialog',
  'bar banner ribbon strip topbar',
  'flyin fly-in slide-in slidein corner toast',
  'countdown timer deadline clock urgency',
  'mobile phone smartphone device',
  'country geo location place region',
  'returning returns new visits known visitor again',
  'referrer referer referring came website link',
  'scroll scrolled depth',
  'url page path address link',
  'login logged member account customer signed',
  'delay seconds time after',
  'download guide ebook file lead-magnet magnet checklist',
  'event webinar date class booking appointment',
  'shipping delivery free',
  'idle inactive inactivity',
  'click clicks button trigger',
].map(line => line.split(' '))

const tokens = (text: string) => text.toLowerCase().split(/[^\p{L}\p{N}-]+/u)

/**
 * How well a text fits what is searched for: 2 where it has every word of it, or
 * the beginning, 1 where it has some in other words of the trade, 0 not at all.
 */
export function fitness(text: string, search: string): 0 | 1 | 2 {
  const whole = text.toLowerCase()
  const has = tokens(text)
  let best: 1 | 2 = 2
  for (const word of tokens(search).filter(Boolean)) {
    if (has.some(t => t.startsWith(word)) || (word.length > 2 && whole.includes(word))) continue
    const others = alike.flatMap(group => (group.includes(word) || (word.length > 3 && group.some(w => w.startsWith(word))) ? group : []))
    if (!others.some(other => has.includes(other))) return 0
    best = 1
  }
  return best
}

/** What fits, the best first. */
export function found<T>(all: readonly T[], search: string, textOf: (x: T) => string): T[] {
  if (!search.trim()) return [...all]
  const fits = all.map(x => [x, fitness(textOf(x), search)] as const)
  return [2, 1].flatMap(n => fits.flatMap(([x, how]) => (how === n ? [x] : [])))
}
