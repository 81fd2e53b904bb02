import type { Font } from '../../kinds/style'

/** The families of letters, by their names. */
export const fonts: (readonly [Font, string])[] = [
  ['@text', 'site style, text'],
  ['@heading', 'site style, headings'],
  ['@page', 'the page’s own'],
  ['sans', 'Plain sans'],
  ['serif', 'Plain serif'],
  ['bricolage', 'Bricolage'],
  ['instrument', 'Instrument'],
  ['outfit', 'Outfit'],
  ['work', 'Work Sans'],
  ['karla', 'Karla'],
  ['nunito', 'Nunito'],
  ['rubik', 'Rubik'],
  ['grotesk', 'Space Grotesk'],
  ['fraunces', 'Fraunces'],
  ['lora', 'Lora'],
  ['playfair', 'Playfair'],
  ['source_serif', 'Source Serif'],
  ['bitter', 'Bitter'],
  ['caveat', 'Caveat'],
]
