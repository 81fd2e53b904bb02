import { expect, test } from 'vitest'
import { fitness, found } from '../studio/parts/words/find'

test.each([
  ['Kiln letter · Grow your list · Popup', 'email', 1],
  ['Kiln letter · Grow your list · Popup', 'list', 2],
  ['Kiln letter · Grow your list · Popup', 'modal', 1],
  ['A code of your own · Make an offer', 'coupon', 1],
  ['Ask in a corner · Conversation', 'chatbot', 1],
  ['How did we do? · Poll', 'survey', 1],
  ['cookie … visitor', 'consent', 1],
  ['source is social', 'social', 2],
  ['utm campaign source', 'ad', 1],
  ['basket_total The site’s own data', 'cart', 1],
  ['Wheel of glazes · Prize draw', 'spin', 1],
  ['Read the address', 'ad', 2],
  ['A break for tea', 'email', 0],
  ['Grow your list · Popup', 'email wheel', 0],
  ['Anything', '', 2],
  ['Anything', '  ((*', 2],
] as const)('“%s” is found by “%s”: %i', (text, search, how) => {
  expect(fitness(text, search)).toBe(how)
})

test('what has the word itself comes first', () => {
  expect(found(['Popup for the list', 'Email popup', 'A bar'], 'email', x => x)).toEqual(['Email popup', 'Popup for the list'])
})
